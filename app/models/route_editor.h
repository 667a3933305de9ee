// SPDX-License-Identifier: GPL-3.0-or-later
// A route that is being changed: its points are moved, added and deleted, and every change can be undone.
#pragma once

#include <fell/measure/route.h>

#include <QObject>

#include <optional>
#include <vector>

namespace fell::app {

class RouteEditor : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;

    void open(std::optional<Route> route); // nothing: none is shown
    [[nodiscard]] const std::optional<Route>& route() const { return m_route; }
    [[nodiscard]] bool isChanged() const { return !m_before.empty(); }
    [[nodiscard]] bool canRedo() const { return !m_after.empty(); }

    /// By this many metres. All movements until grab() are one change.
    void grab();
    void move(std::size_t point, std::array<double, 3> metres);
    /// Between a point and the next one, at a part of the way on the curve.
    void add(std::size_t after, double part);
    /// A route keeps two points at least.
    void remove(std::size_t point);
    void undo();
    void redo();

signals:
    void changed();

private:
    void keep();
    std::optional<Route> m_route;
    std::vector<Route> m_before, m_after; // the last is the nearest to what is there now
    bool m_isGrabbed = false; // the next movement begins a change
};

} // namespace fell::app
