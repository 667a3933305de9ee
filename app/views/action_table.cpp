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
    }
}

QAction* ActionTable::operator[](const QString& id) const
{
    const auto found = std::find_if(
        m_actions.begin(), m_actions.end(), [&id](const QAction* action) { return action->objectName() == id; });
    assert(found != m_actions.end());
    return *found;
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
