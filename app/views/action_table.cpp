// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/action_table.h>

#include <QAction>
#include <QMenu>

#include <algorithm>
#include <cassert>

namespace fell::app {

ActionTable::ActionTable(QWidget* window)
    : QObject(window)
    , m_window(window)
{
}

void ActionTable::addTo(QMenu* menu, const std::vector<ActionEntry>& entries)
{
    for (const ActionEntry& entry : entries) {
        if (entry.id.isEmpty()) {
            menu->addSeparator();
            continue;
        }
        assert(std::none_of(m_actions.begin(), m_actions.end(),
            [&entry](const QAction* other) { return other->objectName() == entry.id; }));
        QAction* action = menu->addAction(entry.text);
        action->setObjectName(entry.id);
        action->setShortcut(entry.keys);
        action->setToolTip(entry.tip);
        action->setCheckable(entry.isCheckable);
        m_window->addAction(action); // a menu's own keys work only while its bar is shown
        connect(action, &QAction::triggered, m_window, entry.run);
        m_actions << action;
        m_standard[entry.id] = entry.keys;
    }
}

QAction* ActionTable::operator[](const QString& id) const
{
    QAction* found = find(id);
    assert(found);
    return found;
}

QAction* ActionTable::find(const QString& id) const
{
    const auto found = std::find_if(
        m_actions.begin(), m_actions.end(), [&id](const QAction* action) { return action->objectName() == id; });
    return found == m_actions.end() ? nullptr : *found;
}

QAction* ActionTable::withKeys(const QKeySequence& keys) const
{
    const auto found = std::find_if(
        m_actions.begin(), m_actions.end(), [&keys](const QAction* action) { return action->shortcut() == keys; });
    return keys.isEmpty() || found == m_actions.end() ? nullptr : *found;
}

void ActionTable::setKeys(const QString& id, const QKeySequence& keys)
{
    QAction* action = find(id);
    if (const QAction* other = withKeys(keys); !action || (other && other != action))
        return;
    action->setShortcut(keys);
    emit keysChanged();
}

QMap<QString, QKeySequence> ActionTable::changedKeys() const
{
    QMap<QString, QKeySequence> changed;
    for (const QAction* action : m_actions)
        if (action->shortcut() != standardKeys(action->objectName()))
            changed[action->objectName()] = action->shortcut();
    return changed;
}

void ActionTable::run(const QKeySequence& keys) const
{
    const auto found = std::find_if(m_actions.begin(), m_actions.end(),
        [&keys](const QAction* action) { return action->isEnabled() && action->shortcut() == keys; });
    if (found != m_actions.end()) // queued: an action may open a dialog, and the field waits for the key's release
        QMetaObject::invokeMethod(*found, &QAction::trigger, Qt::QueuedConnection);
}

} // namespace fell::app

#include "moc_action_table.cpp"
