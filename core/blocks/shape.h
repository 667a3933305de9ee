// SPDX-License-Identifier: Apache-2.0
// Blocks that are no full cube: what they look like, and what of each side of their voxel they cover.
#pragma once

#include <fell/grid/coords.h>
#include <fell/input/problem.h>

#include <glm/vec3.hpp>

#include <array>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace fell::blocks {

struct Rgb {
    std::uint8_t r = 0, g = 0, b = 0; // sRGB
    bool operator==(const Rgb&) const = default;
};

/// Which part of a side of a voxel is covered: the side is cut into 2 x 2 squares, each square by its two diagonals.
///
/// Layout  bit = 4 * (2 * v + u) + t for square (u, v) along axes (a+1)%3 and (a+2)%3 of the side's axis a; t is the
///         triangle at low u, high u, low v, high v. Half sides and diagonals are exact; both voxels that share a side
///         number it alike, so "hides" is `(mine & ~theirs) == 0`.
using Coverage = std::uint16_t;
constexpr Coverage kCoversAll = 0xFFFF;

struct ShapeTriangle {
    std::array<glm::vec3, 3> corners{}; // voxels from the voxel's lowest corner, counter-clockwise from outside
    glm::vec3 normal{0, 1, 0}; // length 1
    std::optional<Rgb> colour; // nothing: it looks like the block's top, side or bottom, whichever is nearest
    std::optional<Side> on; // the side of the voxel that it lies on: dropped where the neighbour covers that side
};

/// A block's geometry, ready to be put into a chunk's mesh.
struct BlockShape {
    std::vector<ShapeTriangle> triangles;
    std::array<Coverage, kSideCount> covers{}; // what of each side of its voxel lies under its triangles
    // Corners that agree in place, normal and colour are one vertex.
    std::vector<std::uint32_t> vertices; // 3 * triangle + corner: the first corner that is each vertex
    std::vector<std::uint32_t> indices; // of vertices, three a triangle
};

constexpr std::size_t kMaxShapeTriangles = 20000;
constexpr float kFarthestShape = 8; // voxels that a shape may reach beyond its voxel

/// Completes triangles to a shape: which lie on a side of the voxel, what they cover there, and which corners are one.
/// Cost: O(n log n) of the triangles.
BlockShape shapeFrom(std::vector<ShapeTriangle> triangles);

/// `shape` turned clockwise as seen from above by `quarters` quarter turns around the middle of its voxel.
BlockShape turned(const BlockShape& shape, int quarters);

/// The lower half of a voxel, and a slope that rises towards north (-z).
BlockShape halfShape();
BlockShape slopeShape();
/// The replacement for a model that could not be read: a box with a cross on every side.
BlockShape standInShape();

} // namespace fell::blocks
