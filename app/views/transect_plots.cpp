// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/transect_plots.h>

#include <nlohmann/json.hpp>

#include <fell/app/models/text.h>
#include <fell/app/views/heat_map.h>
#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>

#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>
#include <qcustomplot.h>

#include <QToolButton>

#include <algorithm>
#include <cmath>
#include <limits>

namespace fell::app {
namespace {

/// One setup's curve: percentiles against the varied value, or against its place where it is no number.
struct Curve {
    char side = 'A';
    QString name;
    QVector<double> x, low, middle, p95, p99;
    QVector<double> beyondX, beyond; // the medians as they are fitted, beyond what was measured
};

Curve curveOf(const TransectResult& result, char side, bool frames)
{
    Curve curve;
    curve.side = side;
    for (const TransectRow& row : result.rows) {
        const Percentiles& from = frames ? row.frameMs : row.meshNs;
        if (row.side != side || from.count == 0)
            continue;
        const double unit = frames ? 1 : 1000; // ms, and ns to µs
        curve.name = QString::fromStdString(row.setup);
        curve.x << (row.value.is_number() ? row.value.get<double>() : static_cast<double>(curve.x.size()));
        curve.low << from.p5 / unit;
        curve.middle << from.p50 / unit;
        curve.p95 << from.p95 / unit;
        curve.p99 << from.p99 / unit;
    }
    const Growth* growth = growthOf(result, side, frames ? "frame_ms" : "mesh_ns");
    if (growth && curve.x.size() > 1) {
        constexpr int kPieces = 12;
        constexpr double kBeyond = 0.3; // of the width of what was measured
        const auto [min, max] = std::minmax_element(curve.x.begin(), curve.x.end());
        for (int i = 0; i <= kPieces; ++i) {
            curve.beyondX << *max + kBeyond * (*max - *min) * i / kPieces;
            curve.beyond << growth->at(curve.beyondX.back()) / (frames ? 1 : 1000);
        }
    }
    return curve;
}

void styleAxis(QCPAxis* axis, const QString& label)
{
    const Theme& theme = currentTheme();
    axis->setLabel(label);
    axis->setLabelFont(uiFont(11));
    axis->setTickLabelFont(uiFont(11));
    axis->setLabelColor(theme.muted);
    axis->setTickLabelColor(theme.ink);
    axis->setBasePen(QPen(theme.line));
    axis->setTickPen(QPen(theme.line));
    axis->setSubTickPen(Qt::NoPen);
    axis->grid()->setPen(QPen(theme.line, 1));
    axis->grid()->setZeroLinePen(Qt::NoPen);
}

void addCurve(QCustomPlot* plot, const Curve& curve)
{
    const QColor colour = curve.side == 'A' ? currentTheme().setupA : currentTheme().setupB;
    const Qt::PenStyle style = curve.side == 'A' ? Qt::SolidLine : Qt::DashLine; // told apart without colour too
    QColor band = colour;
    band.setAlphaF(0.18F);
    const auto line = [&](const QVector<double>& y, const QPen& pen) {
        QCPGraph* graph = plot->addGraph();
        graph->setData(curve.x, y);
        graph->setPen(pen);
        graph->removeFromLegend();
        return graph;
    };
    const QString name = QStringLiteral("%1 %2").arg(QLatin1Char(curve.side)).arg(curve.name);
    QCPGraph* low = line(curve.low, Qt::NoPen);
    QCPGraph* high = line(curve.p95, Qt::NoPen);
    high->setBrush(band);
    high->setChannelFillGraph(low);
    high->setName(QObject::tr("p5 to p95"));
    QCPGraph* worst = line(curve.p99, QPen(colour, 1, Qt::DotLine));
    worst->setName(QObject::tr("p99"));
    QCPGraph* middle = line(curve.middle, QPen(colour, 2, style));
    middle->setScatterStyle(
        QCPScatterStyle(curve.side == 'A' ? QCPScatterStyle::ssDisc : QCPScatterStyle::ssSquare, colour, colour, 6));
    middle->setName(QObject::tr("%1  p50").arg(name));
    for (QCPGraph* graph : {middle, high, worst})
        graph->addToLegend();
    if (curve.beyond.isEmpty())
        return;
    QCPGraph* beyond = plot->addGraph();
    beyond->setData(curve.beyondX, curve.beyond);
    beyond->setPen(QPen(colour, 2, Qt::DotLine));
    beyond->setName(QObject::tr("fitted, not measured"));
}

/// Every sample of a setup as a point: rows next to each other at their values, from left to right as they came.
void addSamples(QCustomPlot* plot, const TransectResult& result, char side, bool frames)
{
    std::vector<std::pair<double, const std::vector<float>*>> rows;
    for (const TransectRow& row : result.rows)
        if (row.side == side)
            rows.emplace_back(row.value.is_number() ? row.value.get<double>() : static_cast<double>(rows.size()),
                frames ? &row.frameSamples : &row.meshSamples);
    double narrowest = std::numeric_limits<double>::infinity();
    for (std::size_t i = 1; i < rows.size(); ++i)
        if (const double gap = std::abs(rows[i].first - rows[i - 1].first); gap > 0)
            narrowest = std::min(narrowest, gap);
    const double width = (std::isfinite(narrowest) ? narrowest : 1) * (result.b ? 0.38 : 0.8),
                 from = !result.b ? -width / 2
        : side == 'A'             ? -width
                                  : 0;
    QSharedPointer<QCPGraphDataContainer> points(new QCPGraphDataContainer);
    QVector<QCPGraphData> all;
    QString name;
    for (const TransectRow& row : result.rows)
        if (row.side == side)
            name = QString::fromStdString(row.setup);
    for (const auto& [x, samples] : rows)
        for (std::size_t i = 0; i < samples->size(); ++i)
            all.append({x + from + width * (static_cast<double>(i) + 0.5) / static_cast<double>(samples->size()),
                static_cast<double>((*samples)[i]) / (frames ? 1 : 1000)});
    points->set(all, false);
    const QColor colour = side == 'A' ? currentTheme().setupA : currentTheme().setupB;
    constexpr qsizetype kFew = 5000; // beyond, a point is smaller
    const double size = all.size() > kFew ? 1.6 : 3.5;
    QCPGraph* graph = plot->addGraph();
    graph->setData(points);
    graph->setLineStyle(QCPGraph::lsNone);
    graph->setPen(QPen(colour));
    graph->setScatterStyle(side == 'A' ? QCPScatterStyle(QCPScatterStyle::ssDisc, colour, size)
                                       : QCPScatterStyle(QCPScatterStyle::ssSquare, Qt::transparent, colour, size));
    graph->setName(QObject::tr("%1 %2  every sample (%3)")
                       .arg(QLatin1Char(side))
                       .arg(name, countText(static_cast<std::uint64_t>(all.size()))));
}

void addBudget(QCustomPlot* plot, double budget)
{
    auto* line = new QCPItemStraightLine(plot);
    line->point1->setCoords(0, budget);
    line->point2->setCoords(1, budget);
    line->setPen(QPen(currentTheme().over, 1, Qt::DashLine));
    auto* text = new QCPItemText(plot);
    text->setText(QObject::tr("budget %1 ms").arg(figureText(budget)));
    text->setColor(currentTheme().over);
    text->setFont(uiFont(11));
    text->position->setTypeX(QCPItemPosition::ptAxisRectRatio);
    text->position->setTypeY(QCPItemPosition::ptPlotCoords);
    text->position->setCoords(0.99, budget);
    text->setPositionAlignment(Qt::AlignRight | Qt::AlignBottom);
}

/// Percentiles from nothing; samples, which spread over powers of ten, by their logarithm.
void scaleCosts(QCPAxis* axis, bool isLogarithmic, double top)
{
    if (isLogarithmic) {
        const double low = std::max(axis->range().lower, top * 1e-4);
        axis->setScaleType(QCPAxis::stLogarithmic);
        axis->setTicker(QSharedPointer<QCPAxisTickerLog>(new QCPAxisTickerLog));
        axis->setNumberFormat(QStringLiteral("f"));
        axis->setNumberPrecision(low < 1 ? 1 : 0);
        axis->setRange(low / 1.2, top * 1.2);
    } else {
        axis->setScaleType(QCPAxis::stLinear);
        axis->setTicker(QSharedPointer<QCPAxisTicker>(new QCPAxisTicker));
        axis->setNumberFormat(QStringLiteral("gb"));
        axis->setNumberPrecision(6);
        axis->setRange(0, top * 1.08);
    }
}

/// Above the plot, a line a setup: it covers no curve.
void placeLegend(QCustomPlot* plot)
{
    plot->plotLayout()->insertRow(0);
    plot->plotLayout()->addElement(0, 0, plot->legend);
    plot->plotLayout()->setRowStretchFactor(0, 0.001);
    plot->legend->setFillOrder(QCPLayoutGrid::foColumnsFirst);
    plot->legend->setWrap(4);
    plot->legend->setBrush(Qt::NoBrush);
    plot->legend->setBorderPen(Qt::NoPen);
    plot->legend->setIconSize(18, 10);
    plot->legend->setRowSpacing(0);
    plot->legend->setColumnSpacing(10);
    plot->legend->setMargins(QMargins(0, 0, 0, 0));
    plot->legend->setVisible(true);
}

void setTicks(QCPAxis* axis, const TransectResult& result)
{
    const QSharedPointer<QCPAxisTickerText> ticker(new QCPAxisTickerText);
    int place = 0;
    for (const TransectRow& row : result.rows)
        if (row.side == 'A') {
            const QString name
                = QString::fromStdString(row.value.is_string() ? row.value.get<std::string>() : row.value.dump());
            ticker->addTick(row.value.is_number() ? row.value.get<double>() : place, name);
            ++place;
        }
    axis->setTicker(ticker);
}

} // namespace

TransectPlots::TransectPlots(QWidget* parent)
    : QWidget(parent)
{
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(10);
    m_mesh = addPanel(tr("Mesh time per chunk"), tr("thread time in µs: copy, mesh, encode"));
    m_frame = addPanel(tr("Frame time"), tr("ms until the frame is finished, all chunks loaded"));
}

TransectPlots::Panel TransectPlots::addPanel(const QString& title, const QString& legend)
{
    auto* card = new QFrame(this);
    card->setProperty("card", true);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(10, 8, 10, 6);
    column->setSpacing(2);
    Panel panel;
    auto* head = new QHBoxLayout;
    head->setSpacing(4);
    auto* name = new QLabel(tr("<b>%1</b>").arg(title), card);
    name->setToolTip(legend);
    head->addWidget(name);
    panel.values = new QLabel(legend, card);
    panel.values->setObjectName(QStringLiteral("plotValues"));
    panel.values->setProperty("muted", true);
    panel.values->setFont(uiFont(12));
    panel.values->setToolTip(tr("The median and the 95th percentile under the pointer."));
    panel.values->setProperty("legend", legend);
    panel.values->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    head->addWidget(panel.values, 1);
    const auto toggle = [&](const QString& text, const char* objectName, const QString& tip, auto&& run) {
        auto* button = new QToolButton(card);
        button->setText(text);
        button->setObjectName(QLatin1String(objectName));
        button->setCheckable(true);
        button->setToolTip(tip);
        button->setProperty("compact", true);
        button->hide();
        connect(button, &QToolButton::clicked, this, run);
        head->addWidget(button);
        return button;
    };
    panel.a = toggle(
        QStringLiteral("A"), "showA", tr("Shows the curves of setup A."), [this](bool on) { showSide('A', on); });
    panel.b = toggle(
        QStringLiteral("B"), "showB", tr("Shows the curves of setup B."), [this](bool on) { showSide('B', on); });
    panel.a->setProperty("setup", "A");
    panel.b->setProperty("setup", "B");
    panel.logarithmic = toggle(tr("log"), "logScale",
        tr("Shows costs by their logarithm: setups that differ by far can be read next to each other."),
        [this](bool on) { showLogarithmic(on); });
    panel.every = toggle(tr("samples"), "everySample",
        tr("Shows each frame and each mesh as a point instead of percentiles. No cost for the measurement."),
        [this](bool on) { showEverySample(on); });
    column->addLayout(head);
    panel.empty = new QLabel(tr("Nothing measured yet. Press “Run”, or open an earlier result."), card);
    panel.empty->setAlignment(Qt::AlignCenter);
    panel.empty->setProperty("muted", true);
    panel.plot = new QCustomPlot(card);
    panel.plot->setMinimumHeight(180);
    makeReachable(*panel.plot, title);
    panel.plot->setMouseTracking(true);
    panel.plot->installEventFilter(this);
    placeLegend(panel.plot);
    panel.plot->hide();
    column->addWidget(panel.empty, 1);
    panel.heat = new HeatMap(card);
    panel.heat->hide();
    column->addWidget(panel.plot, 1);
    column->addWidget(panel.heat, 1);
    layout()->addWidget(card);
    return panel;
}

void TransectPlots::draw(Panel& panel, const TransectResult& result, bool frames) const
{
    const bool hasSamples = result.second.empty()
        && std::any_of(result.rows.begin(), result.rows.end(),
            [frames](const auto& row) { return !(frames ? row.frameSamples : row.meshSamples).empty(); });
    const bool showsSamples = m_everySample && hasSamples;
    QCustomPlot* plot = panel.plot;
    const Curve a = curveOf(result, 'A', frames), b = curveOf(result, 'B', frames);
    const bool any = !a.x.isEmpty() || !b.x.isEmpty();
    const bool isMap = any && !result.second.empty();
    panel.every->setVisible(hasSamples);
    panel.every->setChecked(m_everySample);
    panel.logarithmic->setVisible(any && !isMap);
    panel.logarithmic->setChecked(m_isLogarithmic || showsSamples);
    panel.logarithmic->setEnabled(!showsSamples); // they spread over powers of ten
    for (const auto& [button, curve] : {std::pair(panel.a, &a), std::pair(panel.b, &b)}) {
        button->setVisible(!isMap && !a.x.isEmpty() && !b.x.isEmpty());
        button->setChecked(isShown(curve->side));
    }
    plot->setVisible(any && !isMap);
    panel.heat->setVisible(isMap);
    panel.empty->setVisible(!any);
    if (isMap)
        return panel.heat->show(result, frames);
    if (!any) {
        panel.empty->setText(!result.rows.empty() && frames
                ? tr("No frame was drawn in this result: mesh build time only.")
                : tr("Nothing measured yet. Press “Run”, or open an earlier result."));
        return;
    }
    plot->clearItems();
    panel.cursor = nullptr;
    plot->clearPlottables();
    plot->setBackground(currentTheme().panel);
    const SetupField* field = findField(result.vary);
    const QString title = QString::fromStdString(field ? field->title : result.vary);
    styleAxis(plot->xAxis, result.unit.empty() ? title : tr("%1, %2").arg(title, QString::fromStdString(result.unit)));
    styleAxis(plot->yAxis, frames ? tr("ms per frame") : tr("µs per chunk"));
    setTicks(plot->xAxis, result);
    for (const Curve& curve : {a, b}) {
        if (curve.x.isEmpty() || !isShown(curve.side))
            continue;
        if (showsSamples)
            addSamples(plot, result, curve.side, frames);
        else
            addCurve(plot, curve);
    }
    plot->rescaleAxes();
    plot->xAxis->scaleRange(1.06);
    if (plot->xAxis->range().size() <= 0)
        plot->xAxis->setRange(plot->xAxis->range().center() - 1, plot->xAxis->range().center() + 1);
    double top = plot->yAxis->range().upper;
    if (frames && top > result.a.draw.budget * 0.5)
        top = std::max(top, result.a.draw.budget);
    scaleCosts(plot->yAxis, m_isLogarithmic || showsSamples, top);
    if (frames && result.a.draw.budget < plot->yAxis->range().upper)
        addBudget(plot, result.a.draw.budget);
    leave(panel);
    plot->legend->setFont(uiFont(11));
    plot->legend->setTextColor(currentTheme().ink);
    plot->replot(QCustomPlot::rpQueuedReplot);
}

void TransectPlots::drawBoth()
{
    draw(m_mesh, m_result, false);
    draw(m_frame, m_result, true);
}

void TransectPlots::showEverySample(bool shown)
{
    m_everySample = shown;
    drawBoth();
}

void TransectPlots::showLogarithmic(bool shown)
{
    m_isLogarithmic = shown;
    drawBoth();
}

/// At least one of the two is shown.
void TransectPlots::showSide(char side, bool shown)
{
    (side == 'A' ? m_showsA : m_showsB) = shown;
    if (!m_showsA && !m_showsB)
        (side == 'A' ? m_showsB : m_showsA) = true;
    drawBoth();
}

void TransectPlots::show(const TransectResult& result)
{
    m_result = result;
    m_showsA = m_showsB = true;
    drawBoth();
}

QPixmap TransectPlots::picture()
{
    for (const Panel& panel : {m_mesh, m_frame})
        if (panel.plot->isVisible())
            panel.plot->replot(QCustomPlot::rpImmediateRefresh);
    return grab();
}

} // namespace fell::app

#include "moc_transect_plots.cpp"
