// SPDX-License-Identifier: Apache-2.0
// What can be seen through a chunk, and what it hides.
#pragma once

#include "voxels/neighbourhood.h"

#include <algorithm>
#include <array>
#include <cstdint>

namespace fell {

/// A set of sides: bit s is side s.
using SideSet = std::uint8_t;
constexpr SideSet kAllSides = 0x3F;
constexpr SideSet onlySide(Side side)
{
    return static_cast<SideSet>(1U << static_cast<unsigned>(side));
}

/// The smallest rectangle round the voxels of one side that are not opaque, in 64ths of the chunk's edge, upper bounds
/// outside, on the side's two axes in their order. Empty where low is not below high.
struct Opening {
    std::array<std::uint8_t, 2> low{64, 64}, high{0, 0};
    bool operator==(const Opening&) const = default;

    [[nodiscard]] bool isEmpty() const { return low[0] >= high[0] || low[1] >= high[1]; }
    static constexpr Opening whole() { return {{0, 0}, {64, 64}}; }
    /// What is open on both sides of a border.
    [[nodiscard]] Opening cutTo(const Opening& other) const
    {
        return {{std::max(low[0], other.low[0]), std::max(low[1], other.low[1])},
            {std::min(high[0], other.high[0]), std::min(high[1], other.high[1])}};
    }
};

/// Opaque are the full solid cubes; glass, water and shaped blocks can be seen through or past.
struct ChunkSight {
    std::array<SideSet, kSideCount> through{}; // by side: those that it is joined with by voxels that are not opaque
    /// The chunk is 4 x 4 x 4 cells of edge / 4 voxels; bit (y * 4 + z) * 4 + x is set where a cell is opaque all
    /// through.
    std::uint64_t solid = 0;
    std::array<Opening, kSideCount> openings{}; // by side
    bool operator==(const ChunkSight&) const = default;

    static ChunkSight open()
    {
        ChunkSight sight;
        sight.through.fill(kAllSides);
        sight.openings.fill(Opening::whole());
        return sight;
    }
    static ChunkSight closed() { return {{}, ~std::uint64_t{0}, {}}; }
};
constexpr int kSightCells = 4; // a chunk's edge

/// Which of a chunk's six sides can see which: two sides can where voxels that are not opaque lead from one to the
/// other, across voxels' sides. Whoever sees through the chunk in a straight line looks along such voxels, so a pair
/// that is not joined is never seen through; a pair that is may be.
///
/// Shape   voxels: of the chunk itself, the layer round it is not looked at. solidCubes: as in SideRules.
/// Cost    about half a ns a voxel, more where rows are torn (a checkerboard 10 ns a voxel). Any thread; its memory is
///         kept by the thread.
/// Source  runs of a row joined by union-find: He, Chao and Suzuki, "A Run-Based Two-Scan Labeling Algorithm", 2008,
///         in three dimensions.
ChunkSight sightOf(const PaddedVoxels& voxels, Material solidCubes);

/// The same of one material all through.
ChunkSight sightOfUniform(Material material, Material solidCubes);

} // namespace fell
