// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/frame_strip.h>

#include <fell/app/models/text.h>
#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <array>
#include <cmath>

namespace fell::app {
namespace {

constexpr int kHeight = 118, kFigures = 150, kLegend = 22;

/// A part of a frame: its colour and its texture, so that it is not told by colour alone.
struct Part {
    const char* name;
    double FrameRecord::*ms;
    QColor light, dark;
    Qt::BrushStyle texture;
};

const std::array<Part, 4> kParts{{
    {"draw", &FrameRecord::drawMs, "#A9B4B2", "#5D6B70", Qt::SolidPattern},
    {"cull", &FrameRecord::cullMs, "#5B8C5A", "#7FB07E", Qt::SolidPattern},
    {"upload", &FrameRecord::uploadMs, "#2F6F8F", "#4E93B5", Qt::BDiagPattern},
    {"read back, compare", &FrameRecord::otherMs, "#C9BFA8", "#6E6657", Qt::Dense4Pattern},
}};

QBrush brushOf(const Part& part)
{
    return {currentTheme().dark ? part.dark : part.light, part.texture};
}

} // namespace

int StripLayout::frameAt(int x) const
{
    if (x < plot.left() || x > plot.right())
        return -1;
    const int at = static_cast<int>(std::floor((x - left(0)) / barWidth()));
    return at >= 0 && at < static_cast<int>(count) ? at : -1;
}

FrameStrip::FrameStrip(QWidget* parent)
    : QWidget(parent)
{
    setFixedHeight(kHeight);
    setMouseTracking(true);
    setToolTip(
        tr("The time of the last frames by stage. Point at a frame to read it. Click to keep it. With the keyboard: "
           "left and right, Home and End; Esc follows the frames again."));
    makeReachable(*this, tr("Frame strip"));
}

void FrameStrip::show(const FrameHistory& history, double budgetMs)
{
    if (m_pinned)
        return;
    m_history = history;
    m_percentiles = history.percentiles();
    m_budget = budgetMs;
    describe(*this,
        tr("%1 frames, median %2 ms, 99th percentile %3 ms, budget %4 ms, %5 hitches")
            .arg(history.frames().size())
            .arg(figureText(m_percentiles.p50), figureText(m_percentiles.p99), figureText(budgetMs))
            .arg(history.hitches()));
    update();
}

StripLayout FrameStrip::bars() const
{
    StripLayout layout;
    layout.plot = QRect(kFigures, 12, width() - kFigures - 74, height() - 12 - kLegend);
    layout.count = m_history.frames().size();
    layout.topMs = std::max(m_budget * 1.25, m_percentiles.p99 * 1.1);
    return layout;
}

void FrameStrip::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.fillRect(rect(), currentTheme().panel);
    painter.setPen(currentTheme().line);
    painter.drawLine(0, 0, width(), 0);
    paintFigures(painter);
    const StripLayout layout = bars();
    paintBars(painter, layout);
    paintStory(painter, layout);
    paintFocus(painter, *this);
}

void FrameStrip::paintFigures(QPainter& painter) const
{
    const Theme& theme = currentTheme();
    painter.setFont(uiFont(13, true));
    painter.setPen(theme.ink);
    painter.drawText(12, 22, m_pinned ? tr("Frame time, held") : tr("Frame time"));
    const std::pair<const char*, double> rows[]{
        {"p50", m_percentiles.p50}, {"p95", m_percentiles.p95}, {"p99", m_percentiles.p99}};
    int y = 43;
    for (const auto& [name, ms] : rows) {
        painter.setFont(uiFont(12));
        painter.setPen(theme.muted);
        painter.drawText(12, y, QLatin1String(name));
        painter.setFont(uiFont(13, true));
        painter.setPen(ms > m_budget ? theme.over : theme.ink);
        const QString text = m_percentiles.count ? figureText(ms) : QStringLiteral("–");
        drawFigures(painter, 86 - figuresWidth(painter.font(), text), y, text);
        painter.setFont(uiFont(12));
        painter.setPen(theme.muted);
        painter.drawText(92, y, ms > m_budget ? tr("ms  over") : tr("ms"));
        y += 18;
    }
    painter.drawText(12, y + 2, tr("hitches %1 of %2").arg(m_history.hitches()).arg(m_history.frames().size()));
}

void FrameStrip::paintBars(QPainter& painter, const StripLayout& layout) const
{
    const Theme& theme = currentTheme();
    if (layout.count == 0) {
        painter.setPen(theme.muted);
        painter.drawText(
            layout.plot, Qt::AlignCenter, tr("No frame yet: the field draws them as soon as it is shown."));
        return;
    }
    for (std::size_t i = 0; i < layout.count; ++i) {
        const FrameRecord& frame = m_history.frames()[i];
        double from = 0;
        const double left = layout.left(i), width = std::max(1.0, layout.barWidth() - 0.6);
        for (const Part& part : kParts) {
            const double to = std::min(from + frame.*part.ms, layout.topMs);
            painter.fillRect(QRectF(left, layout.y(to), width, layout.y(from) - layout.y(to)), brushOf(part));
            from = to;
        }
        if (frame.number == m_pointed) {
            painter.setPen(QPen(theme.selection, 1));
            painter.drawRect(
                QRectF(left - 1, layout.y(from) - 1, width + 1, layout.plot.bottom() + 1 - layout.y(from)));
        }
    }
    painter.setPen(QPen(theme.over, 1, Qt::DashLine));
    const int budget = static_cast<int>(layout.y(m_budget));
    painter.drawLine(layout.plot.left(), budget, layout.plot.right(), budget);
    painter.setFont(uiFont(11));
    painter.drawText(layout.plot.right() + 5, budget + 4, tr("%1 ms").arg(figureText(m_budget)));
    painter.drawText(layout.plot.right() + 5, budget + 17, tr("budget"));

    int x = layout.plot.left();
    for (const Part& part : kParts) {
        painter.fillRect(x, height() - 15, 10, 10, brushOf(part));
        painter.setPen(theme.muted);
        painter.drawText(x + 15, height() - 6, tr(part.name));
        x += 34 + painter.fontMetrics().horizontalAdvance(tr(part.name));
    }
    if (const FrameRecord* hitch = m_history.lastHitch()) {
        const QString text = tr("last hitch: %1").arg(m_history.causeOf(*hitch));
        painter.drawText(QRect(x, height() - 18, layout.plot.right() - x - 12, 16), Qt::AlignRight | Qt::AlignVCenter,
            painter.fontMetrics().elidedText(text, Qt::ElideRight, layout.plot.right() - x - 12));
    }
}

QString FrameStrip::story(const FrameRecord& frame) const
{
    return storyOf(frame)
        + (m_history.isHitch(frame) ? tr("\na hitch, over twice the median: %1").arg(m_history.causeOf(frame))
                                    : QString());
}

void FrameStrip::paintStory(QPainter& painter, const StripLayout& layout) const
{
    const auto& frames = m_history.frames();
    const auto found
        = std::find_if(frames.begin(), frames.end(), [this](const FrameRecord& f) { return f.number == m_pointed; });
    if (m_pointed == 0 || found == frames.end())
        return;
    const Theme& theme = currentTheme();
    painter.setFont(uiFont(11));
    const QString text = story(*found);
    QRect box = painter.fontMetrics().boundingRect(QRect(0, 0, 420, 100), Qt::AlignLeft, text).adjusted(-9, -6, 9, 6);
    const auto index = static_cast<std::size_t>(found - frames.begin());
    box.moveTopLeft(QPoint(std::clamp(static_cast<int>(layout.left(index)) - box.width() / 2, layout.plot.left(),
                               layout.plot.right() - box.width()),
        4));
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme.ink);
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(theme.panel);
    painter.drawText(box.adjusted(9, 6, -9, -6), Qt::AlignLeft, text);
}

void FrameStrip::mouseMoveEvent(QMouseEvent* event)
{
    if (m_pinned)
        return;
    pointTo(bars().frameAt(event->pos().x()));
}

void FrameStrip::pointTo(int index)
{
    m_pointed = index < 0 ? 0 : m_history.frames()[static_cast<std::size_t>(index)].number;
    if (index >= 0)
        describe(*this, story(m_history.frames()[static_cast<std::size_t>(index)]));
    update();
}

void FrameStrip::keyPressEvent(QKeyEvent* event)
{
    const auto& frames = m_history.frames();
    const int last = static_cast<int>(frames.size()) - 1;
    const auto found
        = std::find_if(frames.begin(), frames.end(), [this](const FrameRecord& f) { return f.number == m_pointed; });
    const int now = m_pointed == 0 || found == frames.end() ? last + 1 : static_cast<int>(found - frames.begin());
    int next = now;
    if (event->key() == Qt::Key_Escape && m_pinned) {
        m_pinned = false;
        return pointTo(-1);
    }
    if (const auto arrow = arrowOf(*event); arrow && arrow->x() != 0)
        next = now + arrow->x();
    else if (event->key() == Qt::Key_Home)
        next = 0;
    else if (event->key() == Qt::Key_End)
        next = last;
    else
        return QWidget::keyPressEvent(event);
    if (last < 0)
        return;
    m_pinned = true; // the frames stand while they are read
    pointTo(std::clamp(next, 0, last));
}

void FrameStrip::mousePressEvent(QMouseEvent* event)
{
    pointTo(bars().frameAt(event->pos().x()));
    m_pinned = !m_pinned && m_pointed != 0;
}

void FrameStrip::leaveEvent(QEvent*)
{
    if (!m_pinned)
        m_pointed = 0;
    update();
}

} // namespace fell::app

#include "moc_frame_strip.cpp"
