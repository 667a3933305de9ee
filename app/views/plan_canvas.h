// SPDX-License-Identifier: GPL-3.0-or-later
// The resident chunks drawn as a plan: from above, or cut upright through the viewer.
#pragma once

#include <fell/cull/chunk_octree.h>
#include <fell/stream/streamer.h>

#include <QWidget>

#include <optional>

namespace fell::app {

/// What the plan shows next to the chunks.
struct PlanLook {
    Eye eye;
    int edge = 32; // voxels
    double fieldOfView = 65, aspect = 1.6; // degrees from bottom to top, width / height
    bool numbers = false; // the order of work
    std::optional<ChunkPos> chosen;
    std::vector<QPointF> route; // its points, in chunks right and down from the middle of the viewer's chunk
    std::vector<QPointF> curve; // the way between them, evenly cut: kCurvePieces from point to point
    static constexpr int kCurvePieces = 8;
    std::shared_ptr<const std::vector<OctreeCell>> octree; // its nodes are drawn too; null: they are not
};

/// A square of the octree on a plan: chunks right and down from the chunk that is the plan's middle.
struct OctreeSquare {
    std::int64_t right = 0, down = 0, edge = 1;
    bool isEmpty = false; // nothing is allocated there: its column has only empty places of that size
    bool operator==(const OctreeSquare&) const = default;
};
/// From above all cells of a column are one square; from the side only those that the upright cut goes through.
std::vector<OctreeSquare> octreeSquares(const std::vector<OctreeCell>& cells, ChunkPos middle, bool fromAbove);

class PlanCanvas : public QWidget {
    Q_OBJECT
public:
    enum class From { Above, Side };
    explicit PlanCanvas(From from, QWidget* parent = nullptr);

    void show(std::shared_ptr<const PlanView> plan, const PlanLook& look);
    /// The chunk that is drawn at a point: from above the one of its column that is least finished, or on top.
    [[nodiscard]] std::optional<ChunkPos> chunkAt(QPointF point) const;
    [[nodiscard]] std::size_t routePoints() const { return m_plan ? m_look.route.size() : 0; } // that are drawn
    /// Where a point of the route is drawn.
    [[nodiscard]] QPointF routePoint(int point) const { return pixelOf(m_look.route[static_cast<std::size_t>(point)]); }
    /// Where a chunk's middle is drawn.
    [[nodiscard]] QPointF pointOf(ChunkPos chunk) const;
    static void paintKey(class QPainter& painter, QRectF box, ChunkProgress stage);

signals:
    void clicked(fell::grid::ChunkPos chunk);
    /// The viewer was dragged by a number of chunks to the right and down the picture.
    void viewerDragged(double right, double down);
    // A point of the route was taken hold of, dragged by a number of chunks, or deleted; or a new one is needed on the
    // way after a point.
    void routePointGrabbed();
    void routePointDragged(int point, double right, double down);
    void routePointRemoved(int point);
    void routePointAdded(int after, double part);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    /// A column of chunks of one level, or one chunk of the cut.
    struct Cell {
        ChunkProgress stage = ChunkProgress::Absent;
        std::uint32_t rank = 0;
        ChunkPos chunk;
        double right = 0, down = 0, edge = 1; // chunks of level 0 from the viewer's: its low corner
    };
    [[nodiscard]] Cell cellOf(ChunkPos chunk) const;
    void gather();
    void zoom(double steps);
    void tell();
    bool editRoute(const QKeyEvent& event);
    void choose(QPoint by);
    [[nodiscard]] double cellSize() const;
    [[nodiscard]] QPointF viewer() const; // in cells, from the middle of the viewer's chunk
    static void paintNumber(class QPainter& painter, const QRectF& box, std::uint32_t rank);
    void paintCells(class QPainter& painter);
    void paintOctree(class QPainter& painter);
    void paintView(class QPainter& painter);
    void paintRoute(class QPainter& painter);
    [[nodiscard]] QPointF pixelOf(QPointF chunks) const;
    [[nodiscard]] int routePointAt(QPointF pixel) const; // -1: none

    From m_from;
    std::shared_ptr<const PlanView> m_plan;
    PlanLook m_look;
    double m_zoom = 1; // 1: all of it fits
    int m_reach = 0; // cells from the middle
    std::vector<Cell> m_cells; // the coarsest first
    QPointF m_pressed, m_last;
    bool m_isDragging = false;
    int m_grabbed = -1; // a point of the route
    int m_routeKey = -1; // the point of the route that keys move
};

} // namespace fell::app
