// SPDX-License-Identifier: GPL-3.0-or-later
// Mesh build time and frame time against what was varied: median lines, percentile bands, units, legend, the budget.
#pragma once

#include "measure/transect.h"

#include <QWidget>

class QCustomPlot;
class QLabel;

namespace fell {

class TransectPlots : public QWidget {
    Q_OBJECT
public:
    explicit TransectPlots(QWidget* parent = nullptr);
    void show(const TransectResult& result);
    /// Both plots beside each other with their titles, as they are saved.
    [[nodiscard]] QPixmap picture();

private:
    struct Panel {
        QCustomPlot* plot = nullptr;
        QLabel* empty = nullptr;
    };
    Panel addPanel(const QString& title, const QString& legend);
    static void draw(Panel& panel, const TransectResult& result, bool frames);

    Panel m_mesh, m_frame;
};

} // namespace fell
