// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/heat_map.h>

#include <nlohmann/json.hpp>

#include <fell/app/models/text.h>
#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>
#include <fell/measure/findings.h>
#include <fell/measure/results.h>

#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QToolTip>

#include <algorithm>
#include <cmath>

namespace fell::app {
namespace {

constexpr int kLeft = 84, kTop = 24, kBottom = 38, kGap = 2; // pixels

/// The values of one side along an axis, in their order.
template <typename Get> std::vector<nlohmann::json> valuesOf(const TransectResult& result, char side, const Get& get)
{
    std::vector<nlohmann::json> out;
    for (const TransectRow& row : result.rows)
        if (row.side == side && std::find(out.begin(), out.end(), get(row)) == out.end())
            out.push_back(get(row));
    return out;
}

int placeIn(const std::vector<nlohmann::json>& all, const nlohmann::json& value)
{
    return static_cast<int>(std::find(all.begin(), all.end(), value) - all.begin());
}

QString titled(const std::string& path, const std::string& unit)
{
    const SetupField* field = findField(path);
    const QString title = QString::fromStdString(field ? field->title : path);
    return unit.empty() ? title : QStringLiteral("%1, %2").arg(title, QString::fromStdString(unit));
}

} // namespace

HeatMap::HeatMap(QWidget* parent)
    : QWidget(parent)
{
    setMinimumHeight(180);
    setToolTip(tr("Point at a field to read its row, or use the arrow keys."));
    makeReachable(*this, tr("Heat map"));
}

void HeatMap::show(const TransectResult& result, bool frames)
{
    m_result = result;
    for (TransectRow& row : m_result.rows) { // not needed here, and many
        row.meshSamples.clear();
        row.frameSamples.clear();
    }
    m_frames = frames;
    m_at.reset();
    describe(*this,
        tr("%1 rows over %2 and %3")
            .arg(result.rows.size())
            .arg(titled(result.vary, result.unit), titled(result.second, result.secondUnit)));
    update();
}

double HeatMap::costOf(const TransectRow& row) const
{
    return m_frames ? row.frameMs.p50 : row.meshNs.p50 / 1000;
}

QRect HeatMap::partOf(char side) const
{
    const int width = m_result.b ? this->width() / 2 : this->width();
    return {(side == 'B' ? width : 0) + kLeft, kTop, width - kLeft - 8, height() - kTop - kBottom};
}

std::vector<HeatMap::Field> HeatMap::fields() const
{
    std::vector<Field> out;
    for (const char side : {'A', 'B'}) {
        const auto columns = valuesOf(m_result, side, [](const TransectRow&row) { return row.value; }),
                   lines = valuesOf(m_result, side, [](const TransectRow&row) { return row.second; });
        const QRect part = partOf(side);
        for (const TransectRow& row : m_result.rows) {
            if (row.side != side)
                continue;
            const auto stripe = [](int from, int length, int place, std::size_t count) {
                return from + length * place / static_cast<int>(count);
            };
            const int i = placeIn(columns, row.value), j = placeIn(lines, row.second);
            const int x = stripe(part.left(), part.width(), i, columns.size()),
                      y = stripe(part.top(), part.height(), j, lines.size());
            out.push_back({QRect(x, y, stripe(part.left(), part.width(), i + 1, columns.size()) - x - kGap,
                               stripe(part.top(), part.height(), j + 1, lines.size()) - y - kGap),
                &row});
        }
    }
    return out;
}

void HeatMap::paintSide(QPainter& painter, char side, const std::vector<Field>& all) const
{
    const Theme& theme = currentTheme();
    double min = std::numeric_limits<double>::infinity(), max = 0;
    for (const TransectRow& row : m_result.rows) {
        min = std::min(min, costOf(row));
        max = std::max(max, costOf(row));
    }
    const QRect part = partOf(side);
    painter.setFont(uiFont(11));
    painter.setPen(theme.muted);
    painter.drawText(QRect(part.left() - kLeft, 0, part.width() + kLeft, kTop - 4), Qt::AlignLeft | Qt::AlignVCenter,
        m_result.b ? QStringLiteral("%1 %2 · %3")
                         .arg(QLatin1Char(side))
                         .arg(QString::fromStdString(side == 'A' ? m_result.a.name : m_result.b->name),
                             titled(m_result.second, m_result.secondUnit))
                   : titled(m_result.second, m_result.secondUnit));
    painter.drawText(QRect(part.left(), height() - 18, part.width(), 18), Qt::AlignRight | Qt::AlignVCenter,
        titled(m_result.vary, m_result.unit));
    for (const Field& field : all) {
        if (field.row->side != side)
            continue;
        const double cost = costOf(*field.row),
                     share = max > min && min > 0 ? std::log(cost / min) / std::log(max / min) : 0;
        const auto [red, green, blue] = evenScale(share);
        painter.fillRect(field.at, QColor(red, green, blue));
        painter.setFont(uiFont(13));
        painter.setPen(share > 0.5 ? QColor(Qt::white) : QColor(0x22, 0x28, 0x2B));
        painter.drawText(field.at, Qt::AlignCenter, figureText(cost));
        painter.setFont(uiFont(11));
        painter.setPen(theme.ink);
        painter.drawText(QRect(field.at.left(), height() - kBottom, field.at.width(), 18), Qt::AlignCenter,
            QString::fromStdString(shownValue(field.row->value)));
        painter.drawText(QRect(part.left() - kLeft, field.at.top(), kLeft - 8, field.at.height()),
            Qt::AlignRight | Qt::AlignVCenter, QString::fromStdString(shownValue(field.row->second)));
    }
}

void HeatMap::paintEvent(QPaintEvent* /*event*/)
{
    QPainter painter(this);
    const auto all = fields();
    paintSide(painter, 'A', all);
    if (m_result.b)
        paintSide(painter, 'B', all);
    if (m_at && hasFocus()) {
        painter.setPen(QPen(currentTheme().selection, 3));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(all[*m_at].at.adjusted(1, 1, -1, -1));
    }
    paintFocus(painter, *this);
}

QString HeatMap::textOf(const TransectRow& row) const
{
    const Percentiles& of = m_frames ? row.frameMs : row.meshNs;
    const double unit = m_frames ? 1 : 1000;
    return tr("%1 %2 at %3\np50 %4, p95 %5, p99 %6 %7\n%8 triangles drawn, %9 of meshes")
        .arg(QLatin1Char(row.side))
        .arg(QString::fromStdString(row.setup), QString::fromStdString(shownPlace(row.value, row.second)),
            figureText(of.p50 / unit), figureText(of.p95 / unit), figureText(of.p99 / unit),
            m_frames ? tr("ms") : tr("µs"), countText(row.triangles), bytesText(row.gpuBytes));
}

/// To the nearest field in the arrow's direction.
void HeatMap::keyPressEvent(QKeyEvent* event)
{
    const auto arrow = arrowOf(*event);
    const auto all = fields();
    if (!arrow || all.empty())
        return QWidget::keyPressEvent(event);
    if (m_at) {
        const QPoint from = all[*m_at].at.center();
        int nearest = std::numeric_limits<int>::max();
        for (std::size_t i = 0; i < all.size(); ++i) {
            const QPoint by = all[i].at.center() - from;
            const int along = by.x() * arrow->x() + by.y() * arrow->y(),
                      across = std::abs(by.x() * arrow->y()) + std::abs(by.y() * arrow->x());
            if (along > 0 && along + 4 * across < nearest) {
                nearest = along + 4 * across;
                m_at = i;
            }
        }
    } else {
        m_at = 0;
    }
    const QString text = textOf(*all[*m_at].row);
    describe(*this, text);
    QToolTip::showText(mapToGlobal(all[*m_at].at.center()), text, this);
    update();
}

bool HeatMap::event(QEvent* event)
{
    if (event->type() != QEvent::ToolTip)
        return QWidget::event(event);
    const auto* help = dynamic_cast<QHelpEvent*>(event);
    for (const Field& field : fields())
        if (help && field.at.contains(help->pos())) {
            QToolTip::showText(help->globalPos(), textOf(*field.row), this);
            return true;
        }
    return QWidget::event(event);
}

} // namespace fell::app

#include "moc_heat_map.cpp"
