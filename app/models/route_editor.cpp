// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/route_editor.h>

namespace fell::app {

void RouteEditor::open(std::optional<Route> route)
{
    m_route = std::move(route);
    m_before.clear();
    m_after.clear();
    emit changed();
}

void RouteEditor::keep()
{
    constexpr std::size_t kMax = 200; // changes
    if (m_before.size() == kMax)
        m_before.erase(m_before.begin());
    m_before.push_back(*m_route);
    m_after.clear();
}

void RouteEditor::grab()
{
    m_isGrabbed = true;
}

void RouteEditor::move(std::size_t point, std::array<double, 3> metres)
{
    if (!m_route || point >= m_route->points.size())
        return;
    if (std::exchange(m_isGrabbed, false))
        keep();
    for (std::size_t axis = 0; axis < 3; ++axis)
        m_route->points[point].at[axis] += metres[axis];
    emit changed();
}

void RouteEditor::add(std::size_t after, double part)
{
    if (!m_route || m_route->points.size() < 2 || after >= m_route->points.size() - 1)
        return;
    keep();
    m_route->points.insert(m_route->points.begin() + static_cast<std::ptrdiff_t>(after) + 1,
        pointOn(*m_route, (static_cast<double>(after) + part) / static_cast<double>(m_route->points.size() - 1)));
    emit changed();
}

void RouteEditor::remove(std::size_t point)
{
    if (!m_route || point >= m_route->points.size() || m_route->points.size() <= 2)
        return;
    keep();
    m_route->points.erase(m_route->points.begin() + static_cast<std::ptrdiff_t>(point));
    emit changed();
}

void RouteEditor::undo()
{
    if (m_before.empty())
        return;
    m_after.push_back(*m_route);
    m_route = std::move(m_before.back());
    m_before.pop_back();
    emit changed();
}

void RouteEditor::redo()
{
    if (m_after.empty())
        return;
    m_before.push_back(*m_route);
    m_route = std::move(m_after.back());
    m_after.pop_back();
    emit changed();
}

} // namespace fell::app

#include "moc_route_editor.cpp"
