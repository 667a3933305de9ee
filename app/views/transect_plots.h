// SPDX-License-Identifier: GPL-3.0-or-later
// Mesh build time and frame time against what was varied: median lines, percentile bands, units, legend, the budget.
#pragma once

#include <fell/measure/transect.h>

#include <QWidget>

class QCustomPlot;
class QLabel;
class QToolButton;

namespace fell::app {

class TransectPlots : public QWidget {
    Q_OBJECT
public:
    explicit TransectPlots(QWidget* parent = nullptr);
    void show(const TransectResult& result);
    /// Every frame and every mesh as a point, in place of the percentiles; only where the raw samples are there.
    void showEverySample(bool shown);
    /// Both plots next to each other with their titles, as they are saved.
    [[nodiscard]] QPixmap picture();

private:
    struct Panel {
        QCustomPlot* plot = nullptr;
        class HeatMap* heat = nullptr; // in place of the plot where two things varied
        QLabel* empty = nullptr;
        QToolButton* every = nullptr;
    };
    Panel addPanel(const QString& title, const QString& legend);
    void draw(Panel& panel, const TransectResult& result, bool frames) const;

    Panel m_mesh, m_frame;
    bool m_everySample = false;
    TransectResult m_result; // as it is shown
};

} // namespace fell::app
