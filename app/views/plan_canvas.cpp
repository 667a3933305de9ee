// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/plan_canvas.h>

#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>
#include <map>
#include <unordered_map>
#include <utility>

namespace fell::app {
namespace {

/// How much a chunk of a column asks to be seen from above: what is at work or stuck before what is done.
int weightOf(ChunkProgress stage)
{
    switch (stage) {
    case ChunkProgress::Failed:
        return 9;
    case ChunkProgress::Generating:
    case ChunkProgress::Meshing:
        return 8;
    case ChunkProgress::Ready:
        return 7;
    case ChunkProgress::Waiting:
        return 6;
    case ChunkProgress::Wanted:
        return 5;
    case ChunkProgress::Meshed:
        return 4;
    case ChunkProgress::Bare:
        return 3;
    case ChunkProgress::Kept:
        return 2;
    case ChunkProgress::Absent:
        return 0;
    }
    return 0;
}

QColor mixed(const QColor& a, const QColor& b, double share)
{
    const auto part = [share](int from, int to) { return static_cast<int>(std::lround(from + (to - from) * share)); };
    return {part(a.red(), b.red()), part(a.green(), b.green()), part(a.blue(), b.blue())};
}

/// Further on is darker; no stage is told by its colour alone.
struct Look {
    double shade; // from panel to ink
    Qt::BrushStyle hatch;
};
Look lookOf(ChunkProgress stage)
{
    switch (stage) {
    case ChunkProgress::Wanted:
        return {0, Qt::Dense7Pattern};
    case ChunkProgress::Generating:
        return {0.1, Qt::Dense5Pattern};
    case ChunkProgress::Waiting:
        return {0.14, Qt::BDiagPattern};
    case ChunkProgress::Ready:
        return {0.2, Qt::DiagCrossPattern};
    case ChunkProgress::Meshing:
        return {0.26, Qt::Dense4Pattern};
    case ChunkProgress::Meshed:
        return {0.46, Qt::NoBrush};
    case ChunkProgress::Bare:
        return {0.16, Qt::NoBrush};
    case ChunkProgress::Kept:
        return {0.06, Qt::HorPattern};
    default:
        return {0, Qt::NoBrush};
    }
}

} // namespace

PlanCanvas::PlanCanvas(From from, QWidget* parent)
    : QWidget(parent)
    , m_from(from)
{
    setMinimumSize(120, 80);
    setToolTip(from == From::Above
            ? tr("From above, north is up. Each square is a column of chunks and shows the one that is least finished. "
                 "Click to probe, drag to move the viewer, wheel to come closer.")
            : tr("Cut upright through the viewer, seen from the south: west is left. Click to probe, drag to move the "
                 "viewer."));
    makeReachable(*this, from == From::Above ? tr("Map of chunks from above") : tr("Map of chunks from the south"));
}

void PlanCanvas::show(std::shared_ptr<const PlanView> plan, const PlanLook& look)
{
    m_look = look;
    if (plan && plan != m_plan) {
        m_plan = std::move(plan);
        gather();
    }
    tell();
    update();
}

PlanCanvas::Cell PlanCanvas::cellOf(ChunkPos chunk) const
{
    const std::int64_t edge = std::int64_t{1} << chunk.level;
    const ChunkPos low = ChunkPos{chunk.x * edge, chunk.y * edge, chunk.z * edge} - m_plan->viewer;
    Cell cell;
    cell.chunk = chunk;
    cell.right = static_cast<double>(low.x);
    cell.down = static_cast<double>(m_from == From::Above ? low.z : -(low.y + edge - 1));
    cell.edge = static_cast<double>(edge);
    return cell;
}

void PlanCanvas::gather()
{
    constexpr int kBeyond = 3; // chunks that are kept around the distance
    m_reach = m_plan->distance + kBeyond;
    std::unordered_map<ChunkPos, Cell, ChunkPosHash> cells; // by column, or by chunk of the cut
    for (const ChunkStatus& glance : m_plan->chunks) {
        const ChunkPos chunk = glance.chunk;
        const bool isCut = chunk.z == m_plan->viewer.z >> chunk.level;
        Cell next = cellOf(chunk);
        if ((m_from == From::Side && !isCut) || next.right > m_reach || next.down > m_reach
            || next.right + next.edge < -m_reach || next.down + next.edge < -m_reach)
            continue;
        next.stage = glance.stage;
        next.rank = glance.rank;
        const ChunkPos place = m_from == From::Above ? ChunkPos{chunk.x, 0, chunk.z, chunk.level} : chunk;
        const auto [found, isNew] = cells.try_emplace(place, next);
        if (isNew)
            continue;
        const Cell& held = found->second;
        const int more = weightOf(glance.stage) - weightOf(held.stage);
        if (more > 0 || (more == 0 && (glance.rank > 0 ? glance.rank < held.rank : chunk.y > held.chunk.y)))
            found->second = next;
    }
    m_cells.clear();
    for (const auto& [place, cell] : cells)
        m_cells.push_back(cell);
    std::sort(
        m_cells.begin(), m_cells.end(), [](const Cell& a, const Cell& b) { return a.chunk.level > b.chunk.level; });
}

double PlanCanvas::cellSize() const
{
    return m_zoom * std::min(width(), height()) / (2.0 * m_reach + 1);
}

void PlanCanvas::wheelEvent(QWheelEvent* event)
{
    zoom(event->angleDelta().y() / 120.0);
}

QPointF PlanCanvas::pointOf(ChunkPos chunk) const
{
    if (!m_plan)
        return {};
    const Cell cell = cellOf(chunk);
    const double middle = (cell.edge - 1) / 2;
    return {width() / 2.0 + (cell.right + middle) * cellSize(), height() / 2.0 + (cell.down + middle) * cellSize()};
}

std::optional<ChunkPos> PlanCanvas::chunkAt(QPointF point) const
{
    if (!m_plan)
        return std::nullopt;
    const double right = (point.x() - width() / 2.0) / cellSize() + 0.5,
                 down = (point.y() - height() / 2.0) / cellSize() + 0.5;
    if (std::abs(right) > m_reach + 1 || std::abs(down) > m_reach + 1)
        return std::nullopt;
    const auto found = std::find_if(m_cells.rbegin(), m_cells.rend(), [&](const Cell& cell) {
        return right >= cell.right && right < cell.right + cell.edge && down >= cell.down
            && down < cell.down + cell.edge;
    });
    if (found != m_cells.rend())
        return found->chunk;
    const auto whole = [](double at) { return static_cast<std::int64_t>(std::floor(at)); };
    return m_plan->viewer
        + (m_from == From::Above ? ChunkPos{whole(right), 0, whole(down)} : ChunkPos{whole(right), -whole(down), 0});
}

QPointF PlanCanvas::viewer() const
{
    const VoxelPos in = m_look.eye.cell - originOf(m_plan->viewer, m_look.edge);
    const auto share
        = [this](std::int64_t cell, double within) { return (static_cast<double>(cell) + within) / m_look.edge - 0.5; };
    return {share(in.x, m_look.eye.within.x),
        m_from == From::Above ? share(in.z, m_look.eye.within.z) : -share(in.y, m_look.eye.within.y)};
}

void PlanCanvas::paintKey(QPainter& painter, QRectF box, ChunkProgress stage)
{
    const Theme& theme = currentTheme();
    const Look look = lookOf(stage);
    if (stage == ChunkProgress::Absent)
        return;
    if (look.shade > 0)
        painter.fillRect(box, mixed(theme.panel, theme.ink, look.shade));
    if (look.hatch != Qt::NoBrush)
        painter.fillRect(box, QBrush(mixed(theme.panel, theme.ink, 0.62), look.hatch));
    if (stage == ChunkProgress::Failed) {
        painter.setPen(QPen(theme.over, 2));
        painter.drawLine(box.topLeft(), box.bottomRight());
        painter.drawLine(box.topRight(), box.bottomLeft());
    }
}

/// A number that its square has no room for is left out: coming closer shows it.
void PlanCanvas::paintNumber(QPainter& painter, const QRectF& box, std::uint32_t rank)
{
    const QString text = QString::number(rank);
    painter.setFont(uiFont(box.width() > 24 ? 11 : 9, true));
    const double wide = painter.fontMetrics().horizontalAdvance(text);
    if (wide > box.width() || box.height() < 9)
        return;
    painter.fillRect(QRectF(box.center().x() - wide / 2, box.center().y() - 5, wide, 10), currentTheme().panel);
    painter.setPen(currentTheme().ink);
    painter.drawText(box, Qt::AlignCenter, text);
}

void PlanCanvas::paintCells(QPainter& painter)
{
    const double size = cellSize();
    for (const Cell& cell : m_cells) {
        const double gap = size * cell.edge > 8 ? 1 : 0;
        const QRectF box(width() / 2.0 + (cell.right - 0.5) * size, height() / 2.0 + (cell.down - 0.5) * size,
            size * cell.edge - gap, size * cell.edge - gap);
        if (cell.chunk.level < m_cells.front().chunk.level) // finer ones stand before what is coarser in their column
            painter.fillRect(box, currentTheme().panel);
        paintKey(painter, box, cell.stage);
        if (m_look.numbers && cell.rank > 0)
            paintNumber(painter, box, cell.rank);
    }
}

std::vector<OctreeSquare> octreeSquares(const std::vector<OctreeCell>& cells, ChunkPos middle, bool fromAbove)
{
    std::map<std::array<std::int64_t, 3>, bool> isEmpty; // by edge, right, down
    for (const OctreeCell& cell : cells) {
        const ChunkPos low = cell.low - middle;
        if (!fromAbove && (low.z > 0 || low.z + cell.edge <= 0))
            continue;
        const std::int64_t down = fromAbove ? low.z : -(low.y + cell.edge - 1);
        const bool empty = cell.kind == OctreeCell::Kind::Empty;
        const auto [at, isNew] = isEmpty.try_emplace({cell.edge, low.x, down}, empty);
        if (!isNew)
            at->second = at->second && empty;
    }
    std::vector<OctreeSquare> out;
    for (const auto& [at, empty] : isEmpty)
        out.push_back({at[1], at[2], at[0], empty});
    return out;
}

/// Allocated nodes in whole lines, the larger the thicker; empty places dashed.
void PlanCanvas::paintOctree(QPainter& painter)
{
    if (!m_look.octree)
        return;
    const Theme& theme = currentTheme();
    const double size = cellSize();
    painter.setBrush(Qt::NoBrush);
    painter.setRenderHint(QPainter::Antialiasing, false);
    for (const OctreeSquare& square : octreeSquares(*m_look.octree, m_plan->viewer, m_from == From::Above)) {
        if (square.edge == 1 && size < 14)
            continue; // a leaf of one chunk is the chunk's own square
        const double inset = 0.4 * std::log2(static_cast<double>(square.edge) + 1);
        const QRectF box(width() / 2.0 + (static_cast<double>(square.right) - 0.5) * size,
            height() / 2.0 + (static_cast<double>(square.down) - 0.5) * size, static_cast<double>(square.edge) * size,
            static_cast<double>(square.edge) * size);
        if (!box.intersects(QRectF(rect())))
            continue;
        painter.setPen(square.isEmpty ? QPen(theme.muted, 1, Qt::DashLine) : QPen(theme.setupA, 1, Qt::SolidLine));
        painter.drawRect(box.adjusted(inset, inset, -inset, -inset));
    }
    painter.setRenderHint(QPainter::Antialiasing);
}

void PlanCanvas::paintView(QPainter& painter)
{
    const Theme& theme = currentTheme();
    const double size = cellSize(), reach = m_plan->distance * size;
    const QPointF at = QPointF(width() / 2.0, height() / 2.0) + viewer() * size;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.ink, 1, Qt::DashLine));
    painter.drawEllipse(QPointF(width() / 2.0, height() / 2.0), reach, reach);
    // From above the view opens by its width, from the side by its height as seen along its heading.
    const double radians = std::acos(-1.0) / 180;
    const double half = m_from == From::Above ? std::atan(std::tan(m_look.fieldOfView * radians / 2) * m_look.aspect)
                                              : m_look.fieldOfView * radians / 2;
    const glm::dvec3 forward = forwardOf(m_look.eye);
    const double heading = m_from == From::Above ? std::atan2(forward.z, forward.x) : std::atan2(-forward.y, forward.x);
    QPainterPath wedge(at);
    constexpr int kSteps = 24;
    for (int i = 0; i <= kSteps; ++i) {
        const double angle = heading - half + 2 * half * i / kSteps;
        wedge.lineTo(at + QPointF(std::cos(angle), std::sin(angle)) * reach);
    }
    wedge.closeSubpath();
    QColor inside = theme.setupA;
    inside.setAlphaF(0.16F);
    painter.setPen(QPen(theme.setupA, 1.5));
    painter.setBrush(inside);
    painter.drawPath(wedge);
    painter.setPen(QPen(theme.panel, 2));
    painter.setBrush(theme.setupA);
    painter.drawEllipse(at, 6, 6);
    if (m_look.chosen) {
        const QPointF chosen = pointOf(*m_look.chosen);
        painter.setPen(QPen(theme.selection, 2.5));
        painter.setBrush(Qt::NoBrush);
        const double edge = size * std::ldexp(1.0, m_look.chosen->level);
        painter.drawRect(QRectF(chosen.x() - edge / 2, chosen.y() - edge / 2, edge, edge).adjusted(-1, -1, 1, 1));
    }
}

QPointF PlanCanvas::pixelOf(QPointF chunks) const
{
    return QPointF(width() / 2.0, height() / 2.0) + chunks * cellSize();
}

int PlanCanvas::routePointAt(QPointF pixel) const
{
    constexpr double kNear = 8; // pixels
    for (int i = static_cast<int>(m_look.route.size()) - 1; i >= 0; --i) // the last is on top
        if (m_plan && QLineF(routePoint(i), pixel).length() <= kNear)
            return i;
    return -1;
}

void PlanCanvas::paintRoute(QPainter& painter)
{
    if (m_look.route.empty())
        return;
    const Theme& theme = currentTheme();
    QPolygonF way;
    for (const QPointF& at : m_look.curve)
        way << pixelOf(at);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.panel, 4));
    painter.drawPolyline(way);
    painter.setPen(QPen(theme.selection, 2));
    painter.drawPolyline(way);
    painter.setFont(uiFont(11));
    for (std::size_t i = 0; i < m_look.route.size(); ++i) {
        const QPointF at = pixelOf(m_look.route[i]);
        painter.setPen(QPen(theme.selection, 2));
        painter.setBrush(theme.panel);
        const double half = static_cast<int>(i) == m_routeKey && hasFocus() ? 7 : 4;
        painter.drawRect(QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half));
        if (i == 0 || i + 1 == m_look.route.size()) {
            painter.setPen(theme.ink);
            painter.drawText(at + QPointF(8, 4), i == 0 ? tr("start") : tr("end"));
        }
    }
}

void PlanCanvas::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& theme = currentTheme();
    painter.fillRect(rect(), theme.panel);
    if (m_plan) {
        paintCells(painter);
        paintOctree(painter);
        paintView(painter);
        paintRoute(painter);
    }
    painter.setFont(uiFont(11, true));
    painter.fillRect(QRect(4, 4, 96, 18), theme.panel);
    painter.setPen(theme.muted);
    painter.drawText(8, 17, m_from == From::Above ? tr("From above") : tr("From the south"));
    painter.setFont(uiFont(11));
    if (m_from == From::Above)
        painter.drawText(rect().adjusted(0, 5, -8, 0), Qt::AlignTop | Qt::AlignRight, tr("north ↑"));
    if (!m_plan)
        painter.drawText(rect(), Qt::AlignCenter, tr("The plan comes with the first chunks."));
    paintFocus(painter, *this);
}

void PlanCanvas::mousePressEvent(QMouseEvent* event)
{
    m_pressed = m_last = event->position();
    m_isDragging = false;
    m_grabbed = routePointAt(event->position());
    if (m_grabbed < 0)
        return;
    if (event->button() == Qt::RightButton)
        emit routePointRemoved(std::exchange(m_grabbed, -1));
    else
        emit routePointGrabbed();
}

void PlanCanvas::mouseMoveEvent(QMouseEvent* event)
{
    constexpr double kClick = 5; // pixels that a click may move
    const QPointF from = event->position() - m_pressed;
    m_isDragging |= std::hypot(from.x(), from.y()) > kClick;
    if (!m_isDragging || !m_plan)
        return;
    const QPointF by = (event->position() - m_last) / cellSize();
    m_last = event->position();
    if (m_grabbed >= 0)
        emit routePointDragged(m_grabbed, by.x(), by.y());
    else
        emit viewerDragged(by.x(), by.y());
}

/// On the way a new point, as near to the pointer as the way goes.
void PlanCanvas::mouseDoubleClickEvent(QMouseEvent* event)
{
    constexpr double kNear = 10; // pixels
    double nearest = kNear;
    int at = -1;
    for (std::size_t i = 0; i < m_look.curve.size(); ++i)
        if (const double away = QLineF(pixelOf(m_look.curve[i]), event->position()).length(); away < nearest) {
            nearest = away;
            at = static_cast<int>(i);
        }
    if (at >= 0 && routePointAt(event->position()) < 0)
        emit routePointAdded(
            at / PlanLook::kCurvePieces, static_cast<double>(at % PlanLook::kCurvePieces) / PlanLook::kCurvePieces);
}

void PlanCanvas::mouseReleaseEvent(QMouseEvent* event)
{
    if (m_isDragging || std::exchange(m_grabbed, -1) >= 0 || event->button() != Qt::LeftButton)
        return;
    if (const auto chunk = chunkAt(event->position()))
        emit clicked(*chunk);
}

} // namespace fell::app

#include "moc_plan_canvas.cpp"
