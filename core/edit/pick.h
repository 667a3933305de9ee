// SPDX-License-Identifier: Apache-2.0
// What a ray meets first, to the voxel and its side.
#pragma once

#include <fell/blocks/side_rules.h>
#include <fell/cull/view.h>
#include <fell/save/changes.h>

#include <optional>

namespace fell::edit {

struct Picked {
    VoxelPos voxel;
    Side side = Side::Up; // that the ray comes in by; of a shaped block the one its triangle looks to most
    VoxelPos before; // beyond that side: where a block is placed
    Material material = kOpen;
    double distance = 0; // voxels
};

struct PickOptions {
    double farthest = 256; // voxels
    bool throughLiquids = true; // water is looked through
};

/// Walks the grid from the eye and stops at the first block that the ray meets: at a cube where it comes in, at a
/// shaped block where it meets one of its triangles. The voxel that the eye is in does not count while it is a cube.
///
/// Units   voxels; direction of length 1.
/// Errors  nothing where it meets none, or comes to unknown voxels.
/// Ties    through an edge or a corner it steps x, then y, then z.
/// Exact   at any distance from the origin: everything is reckoned from the eye's own voxel. The planes crossed are
///         counted, not added up, so a long ray is as exact as a short one.
/// Cost    O(voxels crossed), O(triangles) for each shaped block.
/// Source  Amanatides and Woo, "A Fast Voxel Traversal Algorithm for Ray Tracing", Eurographics 1987; Moeller and
///         Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", Journal of Graphics Tools 1997.
std::optional<Picked> pick(const ReadVoxel& read, const SideRules& rules, const Eye& eye, glm::dvec3 direction,
    const PickOptions& options = {});

/// How far along the ray (from, direction) the nearest triangle of a shape is hit, and its normal; `from` relative to
/// the voxel's lowest corner. Nothing if none is.
struct ShapeHit {
    double distance = 0;
    glm::vec3 normal{};
};
std::optional<ShapeHit> hitShape(const BlockShape& shape, glm::dvec3 from, glm::dvec3 direction);

} // namespace fell::edit
