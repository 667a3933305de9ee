// SPDX-License-Identifier: GPL-3.0-or-later
// Frame by frame, stacked by stage, against the budget. Pointing at a frame says what happened in it.
#pragma once

#include <fell/app/models/frame_history.h>

#include <QWidget>

namespace fell::app {

/// Where the bars lie: the newest frame at the right edge.
struct StripLayout {
    QRect plot;
    std::size_t count = 0; // frames
    double topMs = 1; // at the upper edge of the plot
    [[nodiscard]] double barWidth() const
    {
        return static_cast<double>(plot.width()) / static_cast<double>(FrameHistory::kKept);
    }
    [[nodiscard]] double left(std::size_t index) const
    {
        return plot.right() + 1 - static_cast<double>(count - index) * barWidth();
    }
    [[nodiscard]] double y(double ms) const { return plot.bottom() + 1 - ms / topMs * plot.height(); }
    /// The frame at `x`, or -1.
    [[nodiscard]] int frameAt(int x) const;
};

class FrameStrip : public QWidget {
    Q_OBJECT
public:
    explicit FrameStrip(QWidget* parent = nullptr);
    void show(const FrameHistory& history, double budgetMs);
    [[nodiscard]] StripLayout bars() const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    void pointTo(int index); // -1: at none
    [[nodiscard]] QString story(const FrameRecord& frame) const;
    void paintFigures(class QPainter& painter) const;
    void paintBars(QPainter& painter, const StripLayout& layout) const;
    void paintStory(QPainter& painter, const StripLayout& layout) const;

    FrameHistory m_history;
    Percentiles m_percentiles;
    double m_budget = 16.6;
    std::uint64_t m_pointed = 0; // number of a frame; 0 none
    bool m_pinned = false;
};

} // namespace fell::app
