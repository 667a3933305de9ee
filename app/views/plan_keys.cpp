// SPDX-License-Identifier: GPL-3.0-or-later
// The map of chunks by keyboard, and as text.
#include <fell/app/views/painted_view.h>
#include <fell/app/views/plan_canvas.h>

#include <QKeyEvent>

#include <algorithm>
#include <cmath>

namespace fell::app {

void PlanCanvas::zoom(double steps)
{
    constexpr double kStep = 1.25;
    const double max = std::max(8.0, m_reach / 3.0);
    m_zoom = std::clamp(m_zoom * std::pow(kStep, steps), 1.0, max);
    update();
}

void PlanCanvas::tell()
{
    if (!m_plan)
        return;
    QString text = m_look.chosen ? tr("chunk %1, %2, %3: %4; ")
                                       .arg(m_look.chosen->x)
                                       .arg(m_look.chosen->y)
                                       .arg(m_look.chosen->z)
                                       .arg(QString::fromUtf8(wordsOf(cellOf(*m_look.chosen).stage)))
                                 : QString();
    if (m_routeKey >= 0 && m_routeKey < static_cast<int>(m_look.route.size()))
        text += tr("point %1 of %2 of the route; ").arg(m_routeKey + 1).arg(m_look.route.size());
    std::array<int, kChunkProgressCount> counts{};
    for (const Cell& cell : m_cells)
        ++counts[static_cast<std::size_t>(cell.stage)];
    for (std::size_t i = 0; i < counts.size(); ++i)
        if (counts[i] > 0)
            text += tr("%1 %2, ").arg(counts[i]).arg(QString::fromUtf8(wordsOf(static_cast<ChunkProgress>(i))));
    text.chop(2);
    describe(*this, text);
}

/// Page Up and Page Down go from point to point, Shift and an arrow moves it, Delete removes it, Insert adds one after
/// it.
bool PlanCanvas::editRoute(const QKeyEvent& event)
{
    const int points = static_cast<int>(m_look.route.size());
    if (points == 0)
        return false;
    if (event.key() == Qt::Key_PageUp || event.key() == Qt::Key_PageDown) {
        const int by = event.key() == Qt::Key_PageDown ? 1 : -1;
        m_routeKey = m_routeKey < 0 ? 0 : std::clamp(m_routeKey + by, 0, points - 1);
        return true;
    }
    m_routeKey = std::min(m_routeKey, points - 1);
    if (m_routeKey < 0)
        return false;
    if (event.key() == Qt::Key_Delete) {
        emit routePointRemoved(m_routeKey);
        return true;
    }
    if (event.key() == Qt::Key_Insert && points > 1) {
        emit routePointAdded(std::min(m_routeKey, points - 2), 0.5);
        return true;
    }
    if (const auto arrow = arrowOf(event); arrow && event.modifiers() & Qt::ShiftModifier) {
        emit routePointGrabbed(); // each step can be undone
        emit routePointDragged(m_routeKey, arrow->x(), arrow->y());
        return true;
    }
    return false;
}

/// The chunk next to the chosen one, or the viewer's.
void PlanCanvas::choose(QPoint by)
{
    QPointF at(width() / 2.0, height() / 2.0);
    if (m_look.chosen) {
        const double edge = cellSize() * std::ldexp(1.0, m_look.chosen->level);
        at = pointOf(*m_look.chosen) + QPointF(by.x(), by.y()) * (edge / 2 + cellSize() / 2);
    }
    if (const auto chunk = chunkAt(at))
        emit clicked(*chunk);
}

void PlanCanvas::keyPressEvent(QKeyEvent* event)
{
    if (!m_plan)
        return QWidget::keyPressEvent(event);
    if (const int steps = zoomOf(*event)) {
        zoom(steps);
    } else if (!editRoute(*event)) {
        const auto arrow = arrowOf(*event);
        if (!arrow)
            return QWidget::keyPressEvent(event);
        if (event->modifiers() & Qt::ControlModifier)
            emit viewerDragged(arrow->x(), arrow->y());
        else
            choose(*arrow);
    }
    tell();
    update();
}

} // namespace fell::app
