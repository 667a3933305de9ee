// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/curve_canvas.h>

#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace fell::app {
namespace {

constexpr double kHandle = 4.5, kReach = 9; // pixels
constexpr double kApart = 0.01; // the least from one point to the next
constexpr int kPixels = 14; // below and left of the plot, for what its axes are

} // namespace

CurveCanvas::CurveCanvas(std::vector<CurvePoint> points, QWidget* parent)
    : QWidget(parent)
    , m_points(std::move(points))
{
    setFixedHeight(122);
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Curve"));
    setToolTip(
        tr("What each share of the layer's height becomes. Drag a point; a double click adds one, a right click or "
           "Delete takes one away, arrow keys move the chosen one."));
}

QRectF CurveCanvas::plot() const
{
    return QRectF(rect()).adjusted(kPixels, 6, -8, -kPixels);
}

QPointF CurveCanvas::pixelOf(const CurvePoint& point) const
{
    const QRectF area = plot();
    return {area.left() + point[0] * area.width(), area.bottom() - point[1] * area.height()};
}

CurvePoint CurveCanvas::placeOf(const QPointF& pixel) const
{
    const QRectF area = plot();
    const auto rounded = [](double value) { return std::round(std::clamp(value, 0.0, 1.0) * 1000) / 1000; };
    return {rounded((pixel.x() - area.left()) / area.width()), rounded((area.bottom() - pixel.y()) / area.height())};
}

std::optional<std::size_t> CurveCanvas::pointAt(const QPointF& pixel) const
{
    std::optional<std::size_t> nearest;
    double min = kReach;
    for (std::size_t i = 0; i < m_points.size(); ++i)
        if (const double away = QLineF(pixelOf(m_points[i]), pixel).length(); away <= min) {
            min = away;
            nearest = i;
        }
    return nearest;
}

void CurveCanvas::moveTo(std::size_t point, CurvePoint place)
{
    const double low = point == 0 ? 0 : m_points[point - 1][0] + kApart,
                 high = point + 1 == m_points.size() ? 1 : m_points[point + 1][0] - kApart;
    place = {std::clamp(place[0], low, std::max(low, high)), std::clamp(place[1], 0.0, 1.0)};
    if (place == m_points[point])
        return;
    m_points[point] = place;
    update();
    emit changed(m_points);
}

void CurveCanvas::add(const CurvePoint& place)
{
    const auto next = std::find_if(
        m_points.begin(), m_points.end(), [&place](const CurvePoint& point) { return point[0] > place[0]; });
    const bool isTooNear = std::any_of(m_points.begin(), m_points.end(),
        [&place](const CurvePoint& point) { return std::abs(point[0] - place[0]) < kApart; });
    if (m_points.size() >= kMaxCurvePoints || isTooNear)
        return;
    m_chosen = static_cast<std::size_t>(m_points.insert(next, place) - m_points.begin());
    update();
    emit changed(m_points);
}

void CurveCanvas::remove(std::size_t point)
{
    if (m_points.size() <= 2)
        return;
    m_points.erase(m_points.begin() + static_cast<std::ptrdiff_t>(point));
    m_chosen.reset();
    m_under.reset();
    update();
    emit changed(m_points);
}

void CurveCanvas::mousePressEvent(QMouseEvent* event)
{
    const auto point = pointAt(event->position());
    if (event->button() == Qt::RightButton && point)
        return remove(*point);
    m_chosen = point;
    m_dragged = event->button() == Qt::LeftButton && point.has_value();
    update();
}

void CurveCanvas::mouseMoveEvent(QMouseEvent* event)
{
    if (m_dragged && m_chosen)
        return moveTo(*m_chosen, placeOf(event->position()));
    if (const auto under = pointAt(event->position()); under != m_under) {
        m_under = under;
        setCursor(under ? Qt::SizeAllCursor : Qt::ArrowCursor);
        update();
    }
}

void CurveCanvas::mouseReleaseEvent(QMouseEvent* event)
{
    m_dragged = m_dragged && event->button() != Qt::LeftButton;
}

void CurveCanvas::mouseDoubleClickEvent(QMouseEvent* event)
{
    if (event->button() == Qt::LeftButton && !pointAt(event->position()))
        add(placeOf(event->position()));
}

void CurveCanvas::keyPressEvent(QKeyEvent* event)
{
    if (m_points.empty())
        return QWidget::keyPressEvent(event);
    const bool isNext = event->key() == Qt::Key_PageDown, isBefore = event->key() == Qt::Key_PageUp;
    if (isNext || isBefore || (!m_chosen && arrowOf(*event))) { // from point to point
        const std::size_t last = m_points.size() - 1, now = m_chosen.value_or(0);
        m_chosen = !m_chosen ? 0 : isNext ? std::min(now + 1, last) : now - (now > 0 ? 1 : 0);
        describe(*this, tr("point %1 of %2").arg(*m_chosen + 1).arg(m_points.size()));
        return update();
    }
    if (!m_chosen)
        return QWidget::keyPressEvent(event);
    const double step = event->modifiers() & Qt::ShiftModifier ? 0.1 : 0.01;
    CurvePoint place = m_points[*m_chosen];
    switch (event->key()) {
    case Qt::Key_Delete:
        return remove(*m_chosen);
    case Qt::Key_Left:
        place[0] -= step;
        break;
    case Qt::Key_Right:
        place[0] += step;
        break;
    case Qt::Key_Up:
        place[1] += step;
        break;
    case Qt::Key_Down:
        place[1] -= step;
        break;
    default:
        return QWidget::keyPressEvent(event);
    }
    moveTo(*m_chosen, place);
}

void CurveCanvas::leaveEvent(QEvent* event)
{
    m_under.reset();
    update();
    QWidget::leaveEvent(event);
}

void CurveCanvas::paintEvent(QPaintEvent*)
{
    const Theme& theme = currentTheme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF area = plot();
    painter.fillRect(area, theme.panel);
    painter.setPen(QPen(theme.line, 1));
    constexpr int kLines = 4;
    for (int i = 0; i <= kLines; ++i) {
        const double at = double(i) / kLines;
        painter.drawLine(pixelOf({at, 0}), pixelOf({at, 1}));
        painter.drawLine(pixelOf({0, at}), pixelOf({1, at}));
    }
    painter.setPen(QPen(theme.line, 1, Qt::DashLine));
    painter.drawLine(pixelOf({0, 0}), pixelOf({1, 1}));

    const HeightCurve curve(m_points);
    QPainterPath path(pixelOf({0, curve.at(0)}));
    const int steps = static_cast<int>(area.width());
    for (int i = 1; i <= steps; ++i) {
        const double x = double(i) / steps;
        path.lineTo(pixelOf({x, curve.at(x)}));
    }
    painter.setPen(QPen(theme.setupA, 2));
    painter.drawPath(path);
    for (std::size_t i = 0; i < m_points.size(); ++i) {
        const bool isChosen = m_chosen == i, isUnder = m_under == i;
        painter.setPen(QPen(isChosen ? theme.selection : theme.setupA, 2));
        painter.setBrush(isChosen || isUnder ? theme.selection : theme.window);
        painter.drawEllipse(pixelOf(m_points[i]), kHandle, kHandle);
    }
    painter.setPen(theme.muted);
    painter.setFont(uiFont(10));
    const QString said = m_chosen ? tr("%1 becomes %2").arg(m_points[*m_chosen][0]).arg(m_points[*m_chosen][1])
                                  : tr("share of the noise → share of the height");
    painter.drawText(QRectF(area.left(), area.bottom(), area.width(), kPixels), Qt::AlignCenter, said);
    if (hasFocus()) {
        painter.setPen(QPen(theme.selection, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(area.adjusted(-1, -1, 1, 1));
    }
}

} // namespace fell::app

#include "moc_curve_canvas.cpp"
