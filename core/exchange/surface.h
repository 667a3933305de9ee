// SPDX-License-Identifier: Apache-2.0
// The surface of one box of the world, ready for an open format.
#pragma once

#include "keep/changes.h"
#include "setup/setup.h"
#include "terrain/generate.h"

#include <string>

namespace fell {

/// A box of voxels, upper bound outside.
struct VoxelBox {
    VoxelPos low, high;
};

constexpr std::int64_t kLongestExport = 1024; // voxels along an axis
constexpr std::int64_t kLargestExport = 512LL * 512 * 512; // voxels in all

/// "x0,y0,z0,x1,y1,z1". Errors: not six whole numbers, a bound not above its partner, larger than the two limits.
Outcome<VoxelBox> parseBox(const std::string& text);

/// One side of one voxel, relative to the box's lower corner.
struct SurfaceSide {
    std::array<std::int32_t, 3> voxel;
    Side side;
    Material material;
};

/// The exposed sides of the voxels in `box`; what hides a side may lie outside it. Ordered by chunk.
/// Cost: generates the chunks that the box touches and their neighbours. `stop` is asked between chunks.
std::vector<SurfaceSide> surfaceOf(const Terrain& terrain, const Setup& setup, const VoxelBox& box,
    const std::function<bool()>& stop = {}, const WorldChanges* changes = nullptr);

/// The corners of a side in voxels, counter-clockwise from outside.
std::array<std::array<int, 3>, 4> cornersOf(const SurfaceSide& side);

struct ExportCount {
    std::uint64_t bytes = 0, vertices = 0, triangles = 0;
};

/// A file as bytes and what is in it.
struct ExportFile {
    std::string bytes;
    ExportCount count;
};

/// Binary glTF 2.0: metres, y up, one primitive and material for each look of a block (Khronos, glTF 2.0, 2021).
ExportFile toGlb(const std::vector<SurfaceSide>& surface, const Recipe& recipe);

/// Binary little-endian PLY 1.0: x y z in voxels, nx ny nz, red green blue; quads as faces of two triangles (Turk
/// 1994).
ExportFile toPly(const std::vector<SurfaceSide>& surface, const Recipe& recipe);

} // namespace fell
