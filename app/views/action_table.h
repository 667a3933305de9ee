// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that can be done from a menu, by id.
#pragma once

#include <fell/namespaces.h>

#include <QKeySequence>
#include <QList>
#include <QMap>
#include <QObject>
#include <QString>

#include <functional>
#include <vector>

class QAction;
class QMenu;
class QWidget;

namespace fell::app {

/// A line of a menu.
struct ActionEntry {
    QString id; // unique, the action's object name; empty for a line between two groups
    QString text;
    QKeySequence keys;
    QString tip;
    std::function<void()> run;
    bool isCheckable = false;
};

class ActionTable : public QObject {
    Q_OBJECT
public:
    /// The keys work wherever in `window` the focus is.
    explicit ActionTable(QWidget* window);

    /// Adds entries to the end of a menu, in their order. Asserts that ids are new.
    void addTo(QMenu* menu, const std::vector<ActionEntry>& entries);
    /// Asserts that there is one.
    [[nodiscard]] QAction* operator[](const QString& id) const;
    /// The same, or null.
    [[nodiscard]] QAction* find(const QString& id) const;
    /// The action that has these keys, or null.
    [[nodiscard]] QAction* withKeys(const QKeySequence& keys) const;
    [[nodiscard]] QKeySequence standardKeys(const QString& id) const { return m_standard.value(id); }
    /// Takes other keys. Empty: none. Keys that another action has, and ids that are unknown, are left alone.
    void setKeys(const QString& id, const QKeySequence& keys);
    /// Those that differ from the standard.
    [[nodiscard]] QMap<QString, QKeySequence> changedKeys() const;
    /// In the order of the menus.
    [[nodiscard]] const QList<QAction*>& all() const { return m_actions; }
    /// Runs the enabled action that has these keys, if any, once the event that asked for it has ended.
    void run(const QKeySequence& keys) const;

private:
    QWidget* m_window;
    QList<QAction*> m_actions;
    QMap<QString, QKeySequence> m_standard;

signals:
    void keysChanged();
};

} // namespace fell::app
