// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/action_finder.h>

#include <QAction>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
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

/// Every word of `query` begins or stands somewhere in the name.
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
    , m_list(new QListWidget(this))
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
    connect(m_list, &QListWidget::itemActivated, this, &ActionFinder::runCurrent);
    filter({});
}

void ActionFinder::filter(const QString& text)
{
    m_list->clear();
    for (int i = 0; i < m_actions.size(); ++i) {
        const QAction* action = m_actions[i];
        if (!matches(nameOf(action), text))
            continue;
        const QString keys = action->shortcut().toString(QKeySequence::NativeText);
        auto* item = new QListWidgetItem(
            keys.isEmpty() ? nameOf(action) : nameOf(action) + QStringLiteral("    ") + keys, m_list);
        item->setData(Qt::UserRole, i);
        item->setFlags(action->isEnabled() ? item->flags() : Qt::NoItemFlags);
    }
    m_list->setCurrentRow(0);
}

bool ActionFinder::eventFilter(QObject* watched, QEvent* event)
{
    if (watched == m_edit && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            m_list->setCurrentRow(
                qBound(0, m_list->currentRow() + (key == Qt::Key_Down ? 1 : -1), m_list->count() - 1));
            return true;
        }
    }
    return QDialog::eventFilter(watched, event);
}

void ActionFinder::runCurrent()
{
    const QListWidgetItem* item = m_list->currentItem();
    if (!item || !(item->flags() & Qt::ItemIsEnabled))
        return;
    QAction* action = m_actions[item->data(Qt::UserRole).toInt()];
    accept();
    QTimer::singleShot(0, action, &QAction::trigger); // after this dialog is gone
}

} // namespace fell::app
