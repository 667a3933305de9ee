// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/arena_canvas.h>

#include <fell/app/models/text.h>
#include <fell/app/views/painted_view.h>
#include <fell/app/views/theme.h>

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <numeric>

namespace fell::app {
namespace {

constexpr double kRow = 7; // pixels, with a gap of one below

} // namespace

ArenaCanvas::ArenaCanvas(QWidget* parent)
    : QWidget(parent)
{
    setMinimumHeight(40);
    setToolTip(tr("The arena of quads, page after page: filled runs are chunks, the chosen one is purple, the rest is "
                  "free. Click a run to probe its chunk, or go from run to run with left and right."));
    makeReachable(*this, tr("Graphics memory"));
}

void ArenaCanvas::show(ArenaFigures figures, std::optional<ChunkPos> chosen)
{
    m_figures = std::move(figures);
    m_chosen = chosen;
    QString text = tr("%1 of %2 pages in use by %3 chunks")
                       .arg(m_figures.usedPages)
                       .arg(m_figures.pages)
                       .arg(m_figures.pieces.size());
    for (const ArenaFigures::Piece& piece : m_figures.pieces)
        if (piece.chunk == m_chosen)
            text += tr("; the chosen chunk has pages %1 to %2 of slab %3")
                        .arg(piece.firstPage)
                        .arg(piece.firstPage + piece.pages - 1)
                        .arg(piece.slab);
    describe(*this, text);
    update();
}

std::uint64_t ArenaCanvas::pagesInRow() const
{
    const auto all = std::accumulate(m_figures.slabPages.begin(), m_figures.slabPages.end(), std::uint64_t{0});
    const auto rows = static_cast<std::uint64_t>(std::max(1.0, height() / kRow));
    return std::max<std::uint64_t>(1, (all + rows - 1) / rows);
}

std::uint64_t ArenaCanvas::firstOf(std::uint32_t slab) const
{
    return std::accumulate(m_figures.slabPages.begin(), m_figures.slabPages.begin() + slab, std::uint64_t{0});
}

std::optional<ChunkPos> ArenaCanvas::chunkAt(QPointF point) const
{
    const std::uint64_t inRow = pagesInRow();
    const auto page = static_cast<std::uint64_t>(point.y() / kRow) * inRow
        + static_cast<std::uint64_t>(point.x() / width() * static_cast<double>(inRow));
    for (const ArenaFigures::Piece& piece : m_figures.pieces) {
        const std::uint64_t first = firstOf(piece.slab) + piece.firstPage;
        if (page >= first && page < first + piece.pages)
            return piece.chunk;
    }
    return std::nullopt;
}

void ArenaCanvas::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    const Theme& theme = currentTheme();
    const std::uint64_t inRow = pagesInRow();
    const double wide = width() / static_cast<double>(inRow);
    const auto run = [&](std::uint64_t first, std::uint64_t pages, const QColor& colour) {
        while (pages > 0) { // a run may go over rows
            const std::uint64_t column = first % inRow, here = std::min(pages, inRow - column);
            painter.fillRect(QRectF(static_cast<double>(column) * wide, static_cast<double>(first / inRow) * kRow,
                                 static_cast<double>(here) * wide, kRow - 1),
                colour);
            first += here;
            pages -= here;
        }
    };
    for (std::uint32_t slab = 0; slab < m_figures.slabPages.size(); ++slab)
        run(firstOf(slab), m_figures.slabPages[slab], theme.track);
    for (const ArenaFigures::Piece& piece : m_figures.pieces) {
        // Two shades by place: neighbours can be told apart.
        QColor colour = theme.ink;
        colour.setAlphaF(hashOf(piece.chunk) & 1 ? 0.55F : 0.38F);
        run(firstOf(piece.slab) + piece.firstPage, piece.pages, piece.chunk == m_chosen ? theme.selection : colour);
    }
    paintFocus(painter, *this);
}

void ArenaCanvas::mousePressEvent(QMouseEvent* event)
{
    if (const auto chunk = chunkAt(event->position()))
        emit clicked(*chunk);
}

/// The run before or after the chosen one.
void ArenaCanvas::keyPressEvent(QKeyEvent* event)
{
    const auto arrow = arrowOf(*event);
    if (!arrow || arrow->x() == 0 || m_figures.pieces.empty())
        return QWidget::keyPressEvent(event);
    std::vector<ArenaFigures::Piece> runs = m_figures.pieces;
    std::sort(runs.begin(), runs.end(),
        [this](const auto& a, const auto& b) { return firstOf(a.slab) + a.firstPage < firstOf(b.slab) + b.firstPage; });
    const auto now = std::find_if(runs.begin(), runs.end(), [this](const auto& run) { return run.chunk == m_chosen; });
    const auto last = static_cast<std::ptrdiff_t>(runs.size()) - 1;
    const std::ptrdiff_t next
        = now == runs.end() ? 0 : std::clamp<std::ptrdiff_t>(now - runs.begin() + arrow->x(), 0, last);
    emit clicked(runs[static_cast<std::size_t>(next)].chunk);
}

} // namespace fell::app

#include "moc_arena_canvas.cpp"
