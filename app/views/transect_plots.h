// SPDX-License-Identifier: GPL-3.0-or-later
// Mesh build time and frame time against what was varied: median lines, percentile bands, units, legend, the budget.
#pragma once

#include <fell/measure/transect.h>

#include <QWidget>

class QCPItemStraightLine;
class QCustomPlot;
class QLabel;
class QToolButton;

namespace fell::app {

class TransectPlots : public QWidget {
    Q_OBJECT
public:
    explicit TransectPlots(QWidget* parent = nullptr);
    void show(const TransectResult& result);
    /// Costs by their logarithm, or from 0 on.
    void showLogarithmic(bool shown);
    /// Draws the curves of setup A or B, or leaves them out.
    void showSide(char side, bool shown);
    /// Every frame and every mesh as a point, in place of the percentiles; only where the raw samples are there.
    void showEverySample(bool shown);
    /// Both plots next to each other with their titles, as they are saved.
    [[nodiscard]] QPixmap picture();

private:
    struct Panel {
        QCustomPlot* plot = nullptr;
        class HeatMap* heat = nullptr; // in place of the plot where two things varied
        QLabel* empty = nullptr;
        QLabel* values = nullptr; // under the pointer
        QToolButton *every = nullptr, *logarithmic = nullptr, *a = nullptr, *b = nullptr;
        QCPItemStraightLine* cursor = nullptr;
    };
    Panel addPanel(const QString& title, const QString& legend);
    void draw(Panel& panel, const TransectResult& result, bool frames) const;
    void drawBoth();
    /// The figures of the value that is nearest to the pointer, in words; x in the plot's units.
    void stepTo(Panel& panel, bool frames, int by) const;
    void pointAt(Panel& panel, bool frames, double x) const;
    void leave(Panel& panel) const;
    bool eventFilter(QObject* watched, QEvent* event) override;
    [[nodiscard]] bool isShown(char side) const { return side == 'A' ? m_showsA : m_showsB; }

    Panel m_mesh, m_frame;
    bool m_everySample = false, m_isLogarithmic = false, m_showsA = true, m_showsB = true;
    TransectResult m_result; // as it is shown
};

} // namespace fell::app
