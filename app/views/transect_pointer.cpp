// SPDX-License-Identifier: GPL-3.0-or-later
// The values of a plot under the pointer.
#include <fell/app/views/transect_plots.h>

#include <fell/app/models/text.h>
#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>

#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <nlohmann/json.hpp>
#include <qcustomplot.h>

#include <cmath>
#include <limits>
#include <map>
#include <set>

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
    describe(*panel.plot, panel.values->text());
    if (!panel.cursor) {
        panel.cursor = new QCPItemStraightLine(panel.plot);
        panel.cursor->setPen(QPen(currentTheme().muted, 1, Qt::DotLine));
    }
    panel.cursor->point1->setCoords(place, panel.plot->yAxis->range().lower);
    panel.cursor->point2->setCoords(place, panel.plot->yAxis->range().upper);
    panel.plot->replot(QCustomPlot::rpQueuedReplot);
}

/// The next measured value to the right or the left of the cursor; the first if there is none.
void TransectPlots::stepTo(Panel& panel, bool frames, int by) const
{
    std::set<double> places;
    std::map<char, int> numbers;
    for (const TransectRow& row : m_result.rows)
        if ((frames ? row.frameMs : row.meshNs).count != 0 && isShown(row.side)) {
            const int number = numbers[row.side]++;
            places.insert(row.value.is_number() ? row.value.get<double>() : number);
        }
    if (places.empty())
        return;
    auto at = places.begin();
    if (panel.cursor) {
        at = places.lower_bound(panel.cursor->point1->key());
        if (by > 0 && at != places.end() && std::next(at) != places.end())
            ++at;
        else if (by < 0 && at != places.begin())
            --at;
    }
    pointAt(panel, frames, at == places.end() ? *places.rbegin() : *at);
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
        } else if (event->type() == QEvent::KeyPress) {
            const auto* key = static_cast<QKeyEvent*>(event); // NOLINT(cppcoreguidelines-pro-type-static-cast-downcast)
            if (const auto arrow = arrowOf(*key); arrow && arrow->x() != 0) {
                stepTo(*panel, panel == &m_frame, arrow->x());
                return true;
            }
        } else if (event->type() == QEvent::Leave || event->type() == QEvent::FocusOut) {
            leave(*panel);
            panel->plot->replot(QCustomPlot::rpQueuedReplot);
        }
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace fell::app
