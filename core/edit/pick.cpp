// SPDX-License-Identifier: Apache-2.0
#include <fell/edit/pick.h>

#include <glm/geometric.hpp>

#include <cmath>
#include <limits>

namespace fell::edit {
namespace {

constexpr double kNever = std::numeric_limits<double>::infinity();

Side sideOf(std::size_t axis, bool positive)
{
    return static_cast<Side>(2 * axis + (positive ? 0 : 1));
}

/// The side that a normal looks to most.
Side nearestSide(glm::vec3 normal)
{
    std::size_t axis = 0;
    for (std::size_t a = 1; a < 3; ++a)
        if (std::fabs(normal[static_cast<int>(a)]) > std::fabs(normal[static_cast<int>(axis)]))
            axis = a;
    return sideOf(axis, normal[static_cast<int>(axis)] > 0);
}

VoxelPos beyond(VoxelPos at, Side side)
{
    const ChunkPos step = stepOf(side);
    return {at.x + step.x, at.y + step.y, at.z + step.z};
}

/// A walk through the grid; planes are numbered, so that nothing adds up.
struct GridWalk {
    GridWalk(const Eye& eye, glm::dvec3 direction)
        : cell{eye.cell.x, eye.cell.y, eye.cell.z}
    {
        for (std::size_t a = 0; a < 3; ++a) {
            const double d = direction[static_cast<int>(a)], within = eye.within[static_cast<int>(a)];
            step[a] = d == 0 ? kNever : 1 / std::fabs(d);
            first[a] = d > 0 ? 1 - within : within;
            up[a] = d > 0;
        }
    }
    [[nodiscard]] double nextAt(std::size_t a) const
    {
        return step[a] == kNever ? kNever : (first[a] + static_cast<double>(crossed[a])) * step[a];
    }
    /// Enters the next voxel; returns the axis whose plane was crossed.
    std::size_t advance()
    {
        const double x = nextAt(0), y = nextAt(1), z = nextAt(2);
        const std::size_t axis = x <= y && x <= z ? 0 : y <= z ? 1 : 2;
        gone = nextAt(axis);
        cell[axis] += up[axis] ? 1 : -1;
        ++crossed[axis];
        return axis;
    }
    std::array<std::int64_t, 3> cell;
    std::array<std::int64_t, 3> crossed{};
    std::array<double, 3> step{}, first{};
    std::array<bool, 3> up{};
    double gone = 0;
};

} // namespace

std::optional<ShapeHit> hitShape(const BlockShape& shape, glm::dvec3 from, glm::dvec3 direction)
{
    constexpr double kParallel = 1e-12;
    std::optional<ShapeHit> nearest;
    for (const ShapeTriangle& triangle : shape.triangles) {
        const glm::dvec3 a(triangle.corners[0]), ab = glm::dvec3(triangle.corners[1]) - a,
                                                 ac = glm::dvec3(triangle.corners[2]) - a;
        const glm::dvec3 p = glm::cross(direction, ac);
        const double det = glm::dot(ab, p);
        if (std::fabs(det) < kParallel)
            continue;
        const glm::dvec3 t = from - a;
        const double u = glm::dot(t, p) / det;
        const glm::dvec3 q = glm::cross(t, ab);
        const double v = glm::dot(direction, q) / det, distance = glm::dot(ac, q) / det;
        if (u < 0 || v < 0 || u + v > 1 || distance < 0)
            continue;
        if (!nearest || distance < nearest->distance)
            nearest = ShapeHit{distance, det > 0 ? triangle.normal : -triangle.normal};
    }
    return nearest;
}

std::optional<Picked> pick(
    const ReadVoxel& read, const SideRules& rules, const Eye& eye, glm::dvec3 direction, const PickOptions& options)
{
    GridWalk walk(eye, direction);
    Side side = Side::Up;
    for (bool isFirst = true; walk.gone <= options.farthest; isFirst = false) {
        const VoxelPos at{walk.cell[0], walk.cell[1], walk.cell[2]};
        const auto material = read(at);
        if (!material)
            return std::nullopt;
        if (*material != kOpen && !(options.throughLiquids && rules.matter[*material] == Matter::Liquid)) {
            if (rules.isCube(*material)) {
                if (!isFirst)
                    return Picked{at, side, beyond(at, side), *material, walk.gone};
            } else {
                const VoxelPos by = eye.cell - at;
                const glm::dvec3 from = eye.within
                    + glm::dvec3(static_cast<double>(by.x), static_cast<double>(by.y), static_cast<double>(by.z));
                const auto hit = hitShape(*rules.shapes[*material], from, direction);
                if (hit && hit->distance <= options.farthest) {
                    const Side looks = nearestSide(hit->normal);
                    return Picked{at, looks, beyond(at, looks), *material, hit->distance};
                }
            }
        }
        const std::size_t axis = walk.advance();
        side = sideOf(axis, !walk.up[axis]);
    }
    return std::nullopt;
}

} // namespace fell::edit
