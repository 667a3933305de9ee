// SPDX-License-Identifier: GPL-3.0-or-later
// The values of a plot under the pointer.
#include <fell/app/views/transect_plots.h>

#include <fell/app/models/text.h>
#include <fell/app/views/theme.h>

#include <QLabel>
#include <QMouseEvent>
#include <nlohmann/json.hpp>
#include <qcustomplot.h>

#include <cmath>
#include <limits>

namespace fell::app {

void TransectPlots::leave(Panel& panel) const
{
    panel.values->setText(panel.values->property("legend").toString());
    if (panel.cursor)
        panel.plot->removeItem(panel.cursor);
    panel.cursor = nullptr;
}

void TransectPlots::pointAt(Panel& panel, bool frames, double x) const
{
    const double unit = frames ? 1 : 1000; // ms, and ns to µs
    QString text;
    double nearest = std::numeric_limits<double>::infinity(), place = 0;
    for (const char side : {'A', 'B'}) {
        int number = 0;
        const TransectRow* best = nullptr;
        double bestX = 0;
        for (const TransectRow& row : m_result.rows) {
            if (row.side != side || (frames ? row.frameMs : row.meshNs).count == 0)
                continue;
            const double at = row.value.is_number() ? row.value.get<double>() : number;
            ++number;
            if (!best || std::abs(at - x) < std::abs(bestX - x)) {
                best = &row;
                bestX = at;
            }
        }
        if (!best || !isShown(side))
            continue;
        const Percentiles& of = frames ? best->frameMs : best->meshNs;
        if (text.isEmpty())
            text = QString::fromStdString(best->value.is_string() ? best->value.get<std::string>() : best->value.dump())
                + (m_result.unit.empty() ? QString() : QLatin1Char(' ') + QString::fromStdString(m_result.unit));
        text += tr(" · %1 %2, p95 %3").arg(QLatin1Char(side)).arg(figureText(of.p50 / unit), figureText(of.p95 / unit));
        if (std::abs(bestX - x) < nearest) {
            nearest = std::abs(bestX - x);
            place = bestX;
        }
    }
    if (text.isEmpty())
        return;
    panel.values->setText(text + (frames ? tr(" ms") : tr(" µs")));
    if (!panel.cursor) {
        panel.cursor = new QCPItemStraightLine(panel.plot);
        panel.cursor->setPen(QPen(currentTheme().muted, 1, Qt::DotLine));
    }
    panel.cursor->point1->setCoords(place, panel.plot->yAxis->range().lower);
    panel.cursor->point2->setCoords(place, panel.plot->yAxis->range().upper);
    panel.plot->replot(QCustomPlot::rpQueuedReplot);
}

bool TransectPlots::eventFilter(QObject* watched, QEvent* event)
{
    for (Panel* panel : {&m_mesh, &m_frame}) {
        if (watched != panel->plot)
            continue;
        if (event->type() == QEvent::MouseMove) {
            const QPoint at
                = static_cast<QMouseEvent*>(event)->pos(); // NOLINT(cppcoreguidelines-pro-type-static-cast-downcast)
            pointAt(*panel, panel == &m_frame, panel->plot->xAxis->pixelToCoord(at.x()));
        } else if (event->type() == QEvent::Leave) {
            leave(*panel);
            panel->plot->replot(QCustomPlot::rpQueuedReplot);
        }
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace fell::app
