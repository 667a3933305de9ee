// SPDX-License-Identifier: GPL-3.0-or-later
// The graphics memory of the quads as a picture: which chunk lies where.
#pragma once

#include <fell/gpu/renderer.h>

#include <QWidget>

namespace fell::app {

class ArenaCanvas : public QWidget {
    Q_OBJECT
public:
    explicit ArenaCanvas(QWidget* parent = nullptr);
    void show(ArenaFigures figures, std::optional<ChunkPos> chosen);
    /// The chunk whose quads are drawn at a point.
    [[nodiscard]] std::optional<ChunkPos> chunkAt(QPointF point) const;

signals:
    void clicked(fell::grid::ChunkPos chunk);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    /// Pages run along rows, slab after slab; a row holds a fixed number.
    [[nodiscard]] std::uint64_t pagesInRow() const;
    [[nodiscard]] std::uint64_t firstOf(std::uint32_t slab) const;

    ArenaFigures m_figures;
    std::optional<ChunkPos> m_chosen;
};

} // namespace fell::app
