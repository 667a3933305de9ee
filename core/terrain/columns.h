// SPDX-License-Identifier: Apache-2.0
// What a chunk's columns of ground have in common with all chunks above and below: height, slope, materials, trees.
#pragma once

#include "terrain/terrain.h"

namespace fell {

/// One tree, whole. Voxels.
struct Tree {
    VoxelPos foot; // the lowest voxel of its trunk
    int height = 0; // voxels of trunk and tip
    int reach = 0; // the widest radius of the crown
    Material trunk = kOpen, needles = kOpen;
    bool operator==(const Tree&) const = default;
};

/// One part of an adit. Voxels; the upper corner lies outside.
struct AditBox {
    enum class How : std::uint8_t { Fill, Hollow, Put } how = How::Hollow; // open air only; all of it; all of it
    VoxelPos low, high;
    Material material = kOpen;
    bool operator==(const AditBox&) const = default;
};

/// One adit, whole: its parts in the order in which they are put, and the box round all of them.
struct Adit {
    std::vector<AditBox> boxes;
    VoxelPos low, high;
    bool operator==(const Adit&) const = default;
    /// Is any of it in the columns [x0, x0 + size) x [z0, z0 + size)?
    [[nodiscard]] bool reaches(std::int64_t x0, std::int64_t z0, int size) const
    {
        return low.x < x0 + size && high.x > x0 && low.z < z0 + size && high.z > z0;
    }
};

/// The columns of ground of one chunk position on the plan. Arrays of edge^2, index = z * edge + x.
struct ColumnPatch {
    int edge = 0;
    std::int64_t x0 = 0, z0 = 0; // voxels: the lowest column
    std::vector<float> height; // voxels: where the ground is if nothing overhangs
    std::vector<float> push; // voxels that the density may move it; 0 on gentle ground
    std::vector<std::uint32_t> rules; // bit i: slope and patches allow stratum i here
    std::vector<Material> cover; // a landform's material on top
    std::vector<Material> wall; // stands on the ground
    std::vector<std::uint8_t> wallHeight; // voxels
    std::vector<Tree> trees; // all that may reach into these columns, ordered by place
    std::vector<std::shared_ptr<const Adit>> adits; // all that reach into these columns
    float lowest = 0, highest = 0, mostPush = 0; // over all columns
    std::int64_t top = 0; // voxels at and above it are open air or nothing
    bool anyCover = false, anyWall = false;
};

/// One column, sampled by itself.
struct ColumnSample {
    float height = 0, slope = 0, push = 0;
    std::uint32_t rules = 0;
    Material cover = kOpen, wall = kOpen;
    std::uint8_t wallHeight = 0;
};

/// The columns of the chunk whose lowest column is (x0, z0), noise a block at a time.
/// Cost: about 0.2 ms for edge 32 in Corrowdale; shared by all chunks of the column.
ColumnPatch columnsByBlocks(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int edge);

/// The same, to the bit, each column by itself: the plain way.
ColumnPatch columnsBySamples(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int edge);

/// One column of the ground. Cost: five heights, about 1.5 us in Corrowdale.
ColumnSample columnAt(const Terrain& terrain, std::int64_t x, std::int64_t z);

/// May something of `rule` stand on this column of (x, z)?
bool mayStand(
    const Terrain& terrain, const ScatterRule& rule, const ColumnSample& column, std::int64_t x, std::int64_t z);

/// The height of the ground in voxels, without overhangs: for placing viewers and drawing maps.
float groundHeight(const Terrain& terrain, std::int64_t x, std::int64_t z);

} // namespace fell
