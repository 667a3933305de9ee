// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/stage_rail.h>

#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>
#include <fell/setup/stages.h>

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>

#include <algorithm>

namespace fell::app {
namespace {

constexpr int kHeight = 92;

void paintCurve(QPainter& painter, const QRect& box, const std::deque<double>& values, const QColor& colour)
{
    if (values.size() < 2)
        return;
    const double max = *std::max_element(values.begin(), values.end());
    QPainterPath path;
    for (std::size_t i = 0; i < values.size(); ++i) {
        const QPointF at(box.right() - static_cast<double>(values.size() - 1 - i) * box.width() / LiveFigures::kCurve,
            box.bottom() - (max > 0 ? values[i] / max : 0) * box.height());
        if (i == 0)
            path.moveTo(at);
        else
            path.lineTo(at);
    }
    painter.setPen(QPen(colour, 1));
    painter.setBrush(Qt::NoBrush);
    painter.drawPath(path);
}

} // namespace

QRect RailLayout::plate(int index) const
{
    const int room = width - 2 * kMargin - (count - 1) * kGap;
    const int left = kMargin + index * kGap + room * index / count;
    const int right = kMargin + index * kGap + room * (index + 1) / count;
    return {left, 9, right - left, height - 17 - (second ? kSecondHeight + 3 : 0)};
}

QRect RailLayout::plateOfB(int index) const
{
    const QRect a = plate(index);
    return {a.left(), a.bottom() + 4, a.width(), kSecondHeight};
}

int RailLayout::plateAt(QPoint point) const
{
    for (int i = 0; i < count; ++i)
        if (plate(i).contains(point) || (second && plateOfB(i).contains(point)))
            return i;
    return -1;
}

StageRail::StageRail(QWidget* parent)
    : QWidget(parent)
{
    setFixedHeight(kHeight);
    setMouseTracking(true);
    makeReachable(*this, tr("Stage rail"));
    setFocusPolicy(Qt::TabFocus); // a click opens a stage and leaves the keys to the field
}

void StageRail::show(const std::vector<StageFigure>& stages, const std::vector<StageFigure>& b)
{
    m_stages = stages;
    m_stagesB = b;
    setFixedHeight(kHeight + (b.empty() ? 0 : RailLayout::kSecondHeight + 3));
    tell();
    update();
}

/// The selected stage, as text.
void StageRail::tell()
{
    for (const StageFigure& stage : m_selectedB && !m_stagesB.empty() ? m_stagesB : m_stages)
        if (stage.id == m_selected)
            describe(*this,
                tr("%1, %2: %3 %4, %5%6")
                    .arg(stage.title, stage.method, stage.number, stage.unit, stage.detail,
                        stage.isBottleneck ? tr(", the bottleneck") : QString()));
}

void StageRail::select(const QString& id, bool b)
{
    m_selected = id;
    m_selectedB = b;
    tell();
    update();
}

void StageRail::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const RailLayout layout = plates();
    const Theme& theme = currentTheme();
    painter.setPen(QPen(theme.muted, 1));
    for (int i = 0; i + 1 < layout.count; ++i) { // an arrow in each gap: the way a chunk goes
        const int y = layout.plate(i).center().y(), from = layout.plate(i).right() + 2,
                  to = layout.plate(i + 1).left() - 2;
        painter.drawLine(from, y, to, y);
        painter.drawLine(to - 4, y - 3, to, y);
        painter.drawLine(to - 4, y + 3, to, y);
    }
    for (int i = 0; i < layout.count; ++i)
        paintPlate(painter, layout.plate(i), m_stages[static_cast<std::size_t>(i)], i == m_hovered);
    for (int i = 0; i < layout.count && layout.second; ++i)
        paintPlateOfB(
            painter, layout.plateOfB(i), m_stagesB[static_cast<std::size_t>(i)], m_stages[static_cast<std::size_t>(i)]);
    paintFocus(painter, *this);
}

void StageRail::paintPlate(QPainter& painter, const QRect& plate, const StageFigure& stage, bool hovered) const
{
    const Theme& theme = currentTheme();
    const bool selected = stage.id == m_selected && !m_selectedB;
    const QColor border = selected ? theme.selection
        : stage.isBottleneck       ? theme.over
        : hovered                  ? theme.muted
                                   : theme.line;
    painter.setPen(QPen(border, selected ? 2 : 1));
    painter.setBrush(theme.panel);
    painter.drawRoundedRect(QRectF(plate).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);

    painter.setFont(uiFont(13, true));
    painter.setPen(theme.ink);
    painter.drawText(plate.left() + 10, plate.top() + 19, stage.title);
    const int titleWidth = painter.fontMetrics().horizontalAdvance(stage.title);
    painter.setFont(uiFont(11));
    painter.setPen(theme.muted);
    const QRect right(plate.left() + 18 + titleWidth, plate.top() + 6, plate.width() - 28 - titleWidth, 18);
    painter.drawText(right, Qt::AlignRight | Qt::AlignVCenter,
        painter.fontMetrics().elidedText(stage.method, Qt::ElideRight, right.width()));

    painter.setFont(uiFont(19, true));
    painter.setPen(stage.idle ? theme.muted : theme.ink);
    const int width = drawFigures(painter, plate.left() + 10, plate.top() + 43, stage.number);
    painter.setFont(uiFont(11));
    painter.setPen(theme.muted);
    painter.drawText(plate.left() + 15 + width, plate.top() + 43, stage.unit);
    const int unitEnd = plate.left() + 15 + width + painter.fontMetrics().horizontalAdvance(stage.unit);
    painter.drawText(QRect(plate.left() + 10, plate.top() + 49, plate.width() - 20, 16),
        Qt::AlignLeft | Qt::AlignVCenter,
        painter.fontMetrics().elidedText(stage.detail, Qt::ElideRight, plate.width() - 20));

    const bool over = stage.share > 1;
    constexpr int kCurve = 52, kMinCurve = 16; // pixels: a curve that the figures leave no room for is left out
    const int curve = std::min(kCurve, plate.right() - 10 - unitEnd - 6);
    if (curve >= kMinCurve)
        paintCurve(painter, QRect(plate.right() - 10 - curve, plate.top() + 28, curve, 18), stage.curve,
            over ? theme.over : theme.setupA);
    const int bar = static_cast<int>((plate.width() - 2) * std::clamp(stage.share, 0.0, 1.0));
    painter.fillRect(QRect(plate.left() + 1, plate.bottom() - 4, bar, 3), over ? theme.over : theme.setupA);

    if (stage.isBottleneck) {
        painter.setFont(uiFont(10, true));
        const QString tag = tr("bottleneck");
        const int tagWidth = painter.fontMetrics().horizontalAdvance(tag) + 12;
        const QRect box(plate.right() - tagWidth - 6, plate.top() - 8, tagWidth, 15);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme.over);
        painter.drawRoundedRect(box, 2, 2);
        painter.setPen(theme.onColour);
        painter.drawText(box, Qt::AlignCenter, tag);
    }
}

/// Setup B's figure in one line, and how many times A's it is.
void StageRail::paintPlateOfB(
    QPainter& painter, const QRect& plate, const StageFigure& stage, const StageFigure& a) const
{
    const Theme& theme = currentTheme();
    const bool selected = stage.id == m_selected && m_selectedB;
    painter.setPen(QPen(selected ? theme.selection : theme.setupB, selected ? 2 : 1));
    painter.setBrush(theme.panel);
    painter.drawRoundedRect(QRectF(plate).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme.setupB);
    painter.drawRect(QRect(plate.left() + 1, plate.top() + 1, 4, plate.height() - 2));
    painter.setFont(uiFont(13, true));
    painter.setPen(stage.idle ? theme.muted : theme.ink);
    int x = plate.left() + 11 + drawFigures(painter, plate.left() + 11, plate.top() + 22, stage.number);
    painter.setFont(uiFont(11));
    painter.setPen(theme.muted);
    painter.drawText(x + 5, plate.top() + 22, stage.unit);
    x += 10 + painter.fontMetrics().horizontalAdvance(stage.unit);
    // What was measured, not the rounded text that is shown of it.
    const double ofA = a.curve.empty() ? 0 : a.curve.back(), ofB = stage.curve.empty() ? 0 : stage.curve.back();
    QString right = stage.method;
    if (ofA > 0 && ofB > 0 && !stage.idle && !a.idle && a.unit == stage.unit) {
        const QString times = QStringLiteral("%1×").arg(ofB / ofA, 0, 'g', 2);
        painter.setFont(uiFont(11, true));
        painter.setPen(ofB > ofA ? theme.over : theme.ink);
        painter.drawText(x + 4, plate.top() + 22, times);
        x += 12 + painter.fontMetrics().horizontalAdvance(times);
        painter.setFont(uiFont(11));
        painter.setPen(theme.muted);
    }
    const QRect box(x + 2, plate.top(), plate.right() - 8 - x - 2, plate.height());
    painter.drawText(
        box, Qt::AlignRight | Qt::AlignVCenter, painter.fontMetrics().elidedText(right, Qt::ElideRight, box.width()));
}

void StageRail::mousePressEvent(QMouseEvent* event)
{
    const int at = plates().plateAt(event->pos());
    if (at >= 0 && event->button() == Qt::LeftButton)
        emit stageClicked(m_stages[static_cast<std::size_t>(at)].id, plates().isInB(event->pos()));
}

void StageRail::mouseMoveEvent(QMouseEvent* event)
{
    m_hovered = plates().plateAt(event->pos());
    setCursor(m_hovered >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    update();
}

void StageRail::leaveEvent(QEvent*)
{
    m_hovered = -1;
    update();
}

void StageRail::keyPressEvent(QKeyEvent* event)
{
    const auto arrow = arrowOf(*event);
    if (!arrow || m_stages.empty() || (arrow->y() != 0 && !plates().second))
        return QWidget::keyPressEvent(event);
    const int move = arrow->x();
    const bool isB = arrow->y() == 0 ? m_selectedB : arrow->y() > 0;
    const auto found
        = std::find_if(m_stages.begin(), m_stages.end(), [this](const StageFigure& s) { return s.id == m_selected; });
    const int at = found == m_stages.end() ? 0 : static_cast<int>(found - m_stages.begin());
    const int next = std::clamp(at + move, 0, static_cast<int>(m_stages.size()) - 1);
    emit stageClicked(m_stages[static_cast<std::size_t>(next)].id, isB);
}

bool StageRail::event(QEvent* event)
{
    if (event->type() != QEvent::ToolTip)
        return QWidget::event(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    const int at = plates().plateAt(help->pos());
    if (at >= 0) {
        const Stage& stage = stages()[static_cast<std::size_t>(at)];
        QToolTip::showText(help->globalPos(),
            tr("%1: %2. The bar is its share of the frame budget or of the workers. Click for its methods.")
                .arg(QString::fromStdString(stage.title), QString::fromStdString(stage.note)),
            this);
    }
    return true;
}

} // namespace fell::app

#include "moc_stage_rail.cpp"
