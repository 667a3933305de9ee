// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/keys_dialog.h>

#include <QAction>
#include <QDialogButtonBox>
#include <QHeaderView>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSortFilterProxyModel>
#include <QStyledItemDelegate>
#include <QTableView>
#include <QVBoxLayout>

namespace fell::app {
namespace {

/// Takes one combination of keys at a time; Escape leaves the old ones.
class KeysDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;

    QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem&, const QModelIndex&) const override
    {
        auto* edit = new QKeySequenceEdit(parent);
        connect(edit, &QKeySequenceEdit::editingFinished, this, [this, edit] {
            auto* self
                = const_cast<KeysDelegate*>(this); // NOLINT(cppcoreguidelines-pro-type-const-cast): Qt's signature
            emit self->commitData(edit);
            emit self->closeEditor(edit);
        });
        return edit;
    }
    void setEditorData(QWidget* editor, const QModelIndex&) const override
    {
        if (auto* edit = qobject_cast<QKeySequenceEdit*>(editor))
            edit->clear();
    }
    void setModelData(QWidget* editor, QAbstractItemModel* model, const QModelIndex& index) const override
    {
        const auto* edit = qobject_cast<QKeySequenceEdit*>(editor);
        if (!edit || edit->keySequence().isEmpty())
            return;
        model->setData(index, QVariant::fromValue(QKeySequence(edit->keySequence()[0])), Qt::EditRole);
    }
};

constexpr int kAction = 0, kKeys = 1, kStandard = 2, kColumns = 3;

QString textOf(const QKeySequence& keys)
{
    return keys.toString(QKeySequence::NativeText);
}

} // namespace

KeysModel::KeysModel(ActionTable& actions, QObject* parent)
    : QAbstractTableModel(parent)
    , m_actions(actions)
{
}

int KeysModel::rowCount(const QModelIndex& parent) const
{
    return parent.isValid() ? 0 : static_cast<int>(m_actions.all().size());
}

int KeysModel::columnCount(const QModelIndex& parent) const
{
    return parent.isValid() ? 0 : kColumns;
}

QVariant KeysModel::data(const QModelIndex& index, int role) const
{
    const QAction* action = m_actions.all().at(index.row());
    if (role == Qt::ToolTipRole)
        return action->toolTip();
    if (role != Qt::DisplayRole && role != Qt::EditRole)
        return {};
    switch (index.column()) {
    case kAction:
        return action->text();
    case kKeys:
        return textOf(action->shortcut());
    default: {
        const QKeySequence standard = m_actions.standardKeys(action->objectName());
        return standard == action->shortcut() ? QString() : standard.isEmpty() ? tr("none") : textOf(standard);
    }
    }
}

QVariant KeysModel::headerData(int section, Qt::Orientation orientation, int role) const
{
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole)
        return {};
    return section == kAction ? tr("Action") : section == kKeys ? tr("Keys") : tr("Standard, if changed");
}

Qt::ItemFlags KeysModel::flags(const QModelIndex& index) const
{
    return QAbstractTableModel::flags(index) | (index.column() == kKeys ? Qt::ItemIsEditable : Qt::NoItemFlags);
}

bool KeysModel::setData(const QModelIndex& index, const QVariant& value, int role)
{
    if (role != Qt::EditRole || index.column() != kKeys)
        return false;
    const auto keys = value.value<QKeySequence>();
    const QAction* action = m_actions.all().at(index.row());
    if (const QAction* other = keys.isEmpty() ? nullptr : m_actions.withKeys(keys); other && other != action) {
        emit refused(tr("%1 belongs to “%2”: remove it there first").arg(textOf(keys), other->text()));
        return false;
    }
    m_actions.setKeys(action->objectName(), keys);
    emit dataChanged(index, this->index(index.row(), kStandard));
    emit accepted();
    return true;
}

void KeysModel::resetAll()
{
    for (const QAction* action : m_actions.all())
        m_actions.setKeys(action->objectName(), m_actions.standardKeys(action->objectName()));
    emit dataChanged(index(0, 0), index(rowCount() - 1, kColumns - 1));
    emit accepted();
}

KeysDialog::KeysDialog(ActionTable& actions, QWidget* parent)
    : QDialog(parent)
    , m_model(new KeysModel(actions, this))
    , m_found(new QSortFilterProxyModel(this))
    , m_search(new QLineEdit(this))
    , m_table(new QTableView(this))
    , m_says(new QLabel(this))
{
    setObjectName(QStringLiteral("keysDialog"));
    setWindowTitle(tr("Keys and mouse"));
    resize(680, 620);
    auto* column = new QVBoxLayout(this);
    auto* mouse = new QLabel(
        tr("<b>In the field</b>: drag to look around, wheel to change the speed, W A S D to fly, E and Q up and down, "
           "Shift four times as fast. These six letters mean their places on the keyboard. With a tool: click to use "
           "it, Ctrl and drag to go on, Shift and click to pick the block type, Shift and wheel along the palette, [ "
           "and ] smaller and larger."),
        this);
    mouse->setWordWrap(true);
    column->addWidget(mouse);
    m_search->setObjectName(QStringLiteral("keysSearch"));
    m_search->setPlaceholderText(tr("Find an action or keys"));
    m_search->setClearButtonEnabled(true);
    column->addWidget(m_search);
    m_found->setSourceModel(m_model);
    m_found->setFilterCaseSensitivity(Qt::CaseInsensitive);
    m_found->setFilterKeyColumn(-1);
    connect(m_search, &QLineEdit::textChanged, m_found, &QSortFilterProxyModel::setFilterFixedString);
    m_table->setObjectName(QStringLiteral("keysTable"));
    m_table->setModel(m_found);
    m_table->setItemDelegateForColumn(kKeys, new KeysDelegate(m_table));
    m_table->setShowGrid(false);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setSelectionMode(QAbstractItemView::SingleSelection);
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setDefaultSectionSize(24);
    m_table->horizontalHeader()->setSectionResizeMode(kAction, QHeaderView::Stretch);
    m_table->setColumnWidth(kKeys, 150);
    m_table->setColumnWidth(kStandard, 150);
    column->addWidget(m_table, 1);
    m_says->setObjectName(QStringLiteral("keysSays"));
    m_says->setWordWrap(true);
    m_says->setText(tr("Double-click keys to change them."));
    column->addWidget(m_says);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
    QPushButton* none = buttons->addButton(tr("Remove keys"), QDialogButtonBox::ActionRole);
    none->setObjectName(QStringLiteral("keysNone"));
    QPushButton* reset = buttons->addButton(tr("Reset all"), QDialogButtonBox::ResetRole);
    reset->setObjectName(QStringLiteral("keysReset"));
    for (QPushButton* button : {none, reset})
        button->setAutoDefault(false);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(reset, &QPushButton::clicked, m_model, &KeysModel::resetAll);
    connect(none, &QPushButton::clicked, this, [this] {
        if (const QModelIndex at = m_table->currentIndex(); at.isValid())
            m_found->setData(at.siblingAtColumn(kKeys), QVariant::fromValue(QKeySequence()), Qt::EditRole);
    });
    connect(m_model, &KeysModel::refused, m_says, &QLabel::setText);
    connect(m_model, &KeysModel::accepted, m_says, [this] { m_says->setText(tr("Changed. It holds from now on.")); });
    m_search->setFocus();
}

} // namespace fell::app

#include "moc_keys_dialog.cpp"
