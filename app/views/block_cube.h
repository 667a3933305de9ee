// SPDX-License-Identifier: GPL-3.0-or-later
// One block as it looks, drawn with the painter.
#pragma once

#include <fell/blocks/block_set.h>
#include <fell/grid/coords.h>

#include <QImage>
#include <QWidget>

#include <array>
#include <filesystem>

namespace fell::app {

[[nodiscard]] inline QColor colourOf(Rgb colour)
{
    return {colour.r, colour.g, colour.b};
}

/// One block from its corner, lit by the sun; pictures dropped on a face become its texture.
class BlockCube : public QWidget {
    Q_OBJECT
public:
    explicit BlockCube(QWidget* parent = nullptr);
    void show(const BlockKind& kind, const std::filesystem::path& folder);
    void setSun(double degrees);

signals:
    void dropped(const QString& file, fell::grid::Side side); // Up, Down for the bottom, South for the sides

private:
    void paintEvent(QPaintEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    /// The corners of a side as it is seen: 0 the top, 1 the left one, 2 the right one.
    [[nodiscard]] QPolygonF cornersOf(int side) const;
    [[nodiscard]] QPointF onScreen(const glm::vec3& at) const;
    void paintCube(QPainter& painter);
    void paintShape(QPainter& painter);
    /// How much a side that looks along the normal is lit, 0 to 1: by the sun in the south-east, or by its own
    /// emission.
    [[nodiscard]] double litOf(const glm::vec3& normal) const;

    BlockKind m_kind;
    std::array<QImage, 3> m_textures; // top, sides, bottom; null for an even colour
    double m_sun = 40; // degrees above the horizon
};

} // namespace fell::app
