// SPDX-License-Identifier: GPL-3.0-or-later
// The setup in use, with undo and redo.
#pragma once

#include <fell/setup/setup.h>

#include <QObject>

#include <functional>
#include <vector>

namespace fell::app {

class SetupHistory : public QObject {
    Q_OBJECT
public:
    explicit SetupHistory(Setup first, QObject* parent = nullptr);

    [[nodiscard]] const Setup& current() const { return m_states[m_at]; }
    [[nodiscard]] bool canUndo() const { return m_at > 0; }
    [[nodiscard]] bool canRedo() const { return m_at + 1 < m_states.size(); }

    /// The voxel length of the world that it is for: what distances in metres go by.
    void inWorldOf(double voxelMetres);
    /// Takes another setup; nothing happens if it is the same. What could be redone is gone.
    void change(const Setup& asked);
    /// Changes one field; false if the value is not allowed.
    bool set(const std::string& path, const nlohmann::json& value);
    void undo();
    void redo();

    /// Asked before a change, not before undo and redo: false leaves everything as it is. Empty: all changes are made.
    std::function<bool(const Setup& next)> mayChange;

signals:
    void refused(); // what shows the setup must show it again
    void doesNotGoTogether(const QString& why); // with refused
    void changed(const fell::setup::Setup& now, const fell::setup::Setup& before);

private:
    void moveTo(std::size_t at);
    std::vector<Setup> m_states;
    std::size_t m_at = 0;
    double m_voxelMetres = 1;
};

} // namespace fell::app
