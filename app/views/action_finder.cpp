// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/action_finder.h>

#include <fell/app/views/row_delegate.h>

#include <QAction>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListView>
#include <QMenu>
#include <QTimer>
#include <QVBoxLayout>

#include <algorithm>

namespace fell::app {
namespace {

QString nameOf(const QAction* action)
{
    QString text = action->text();
    text.remove(QLatin1Char('&'));
    return text;
}

/// Every word of `query` occurs in the name.
bool matches(const QString& name, const QString& query)
{
    const auto words = query.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    return std::all_of(
        words.begin(), words.end(), [&name](const QString& word) { return name.contains(word, Qt::CaseInsensitive); });
}

} // namespace

ActionFinder::ActionFinder(const QList<QAction*>& actions, QWidget* parent)
    : QDialog(parent)
    , m_edit(new QLineEdit(this))
    , m_list(newListView("foundActions", tr("Found actions"), m_rows, new RowDelegate, this))
{
    setWindowTitle(tr("Find an action"));
    resize(460, 340);
    for (QAction* action : actions)
        if (!action->isSeparator() && !action->menu() && !action->text().isEmpty())
            m_actions << action;
    auto* column = new QVBoxLayout(this);
    column->addWidget(m_edit);
    column->addWidget(m_list);
    m_edit->setPlaceholderText(tr("What do you want to do?"));
    m_edit->installEventFilter(this);
    connect(m_edit, &QLineEdit::textChanged, this, &ActionFinder::filter);
    connect(m_edit, &QLineEdit::returnPressed, this, &ActionFinder::runCurrent);
    connect(m_list, &QListView::activated, this, &ActionFinder::runCurrent);
    filter({});
}

void ActionFinder::filter(const QString& text)
{
    std::vector<ListRow> rows;
    for (int i = 0; i < m_actions.size(); ++i) {
        const QAction* action = m_actions[i];
        if (!matches(nameOf(action), text))
            continue;
        ListRow row;
        row.key = QString::number(i);
        row.text = nameOf(action);
        row.aside = action->shortcut().toString(QKeySequence::NativeText);
        row.isEnabled = action->isEnabled();
        rows.push_back(std::move(row));
    }
    m_rows.set(std::move(rows));
    m_list->setCurrentIndex(m_rows.index(0));
}

bool ActionFinder::eventFilter(QObject* watched, QEvent* event)
{
    if (watched == m_edit && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            const int to = m_list->currentIndex().row() + (key == Qt::Key_Down ? 1 : -1);
            m_list->setCurrentIndex(m_rows.index(std::clamp(to, 0, std::max(0, m_rows.rowCount() - 1))));
            return true;
        }
    }
    return QDialog::eventFilter(watched, event);
}

void ActionFinder::runCurrent()
{
    const QModelIndex row = m_list->currentIndex();
    if (!(row.flags() & Qt::ItemIsEnabled))
        return;
    QAction* action = m_actions[currentKey(*m_list).toInt()];
    accept();
    QTimer::singleShot(0, action, &QAction::trigger); // after this dialog is gone
}

} // namespace fell::app

#include "moc_action_finder.cpp"
