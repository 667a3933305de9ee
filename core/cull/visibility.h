// SPDX-License-Identifier: Apache-2.0
// What can be seen through a chunk, and what it hides.
#pragma once

#include <fell/voxels/neighbourhood.h>

#include <algorithm>
#include <array>
#include <cstdint>
#include <vector>

namespace fell::cull {

/// A set of sides: bit s is side s.
using SideSet = std::uint8_t;
constexpr SideSet kAllSides = 0x3F;
constexpr SideSet onlySide(Side side)
{
    return static_cast<SideSet>(1U << static_cast<unsigned>(side));
}

/// Where one side's voxels are not opaque: the smallest rectangle around them, in 64ths of the chunk's edge, upper
/// bounds outside, on the side's two axes in their order; and within it the cells of 8 x 8 that have any, bit b * 8 +
/// a, so that a gallery's mouth and the hillside above it do not open the rock between them.
struct Portal {
    static constexpr int kCells = 8; // along an edge
    std::array<std::uint8_t, 2> low{64, 64}, high{0, 0};
    std::uint64_t cells = 0;
    bool operator==(const Portal&) const = default;

    [[nodiscard]] bool isEmpty() const { return low[0] >= high[0] || low[1] >= high[1] || cells == 0; }
    static constexpr Portal whole() { return {{0, 0}, {64, 64}, ~std::uint64_t{0}}; }
    /// What is open on both sides of a border.
    [[nodiscard]] Portal cutTo(const Portal& other) const
    {
        return {{std::max(low[0], other.low[0]), std::max(low[1], other.low[1])},
            {std::min(high[0], other.high[0]), std::min(high[1], other.high[1])}, cells & other.cells};
    }
};
using ChunkPortals = std::array<Portal, kSideCount>; // by side

/// Opaque are the full solid cubes; glass, water and shaped blocks can be seen through or past.
struct ChunkVisibility {
    std::array<SideSet, kSideCount> through{}; // by side: those that it is joined with by voxels that are not opaque
    bool isOpen = false; // nothing is opaque
    /// The chunk is 4 x 4 x 4 cells of edge / 4 voxels; bit (y * 4 + z) * 4 + x is set where a cell is opaque all
    /// through.
    std::uint64_t solid = 0;
    /// First of everything that is not opaque, then of each region of joined voxels that touches two sides or more,
    /// where that says more: two galleries that do not meet, or one next to a hollow that nothing leads through. At
    /// most kMaxRegions; the last represents all further ones. None where everything is open, or nothing.
    std::vector<ChunkPortals> openings;
    static constexpr std::size_t kMaxRegions = 6;
    bool operator==(const ChunkVisibility&) const = default;

    /// Of everything that is not opaque.
    [[nodiscard]] const ChunkPortals& all() const { return openings.empty() ? (isOpen ? kWhole : kNone) : openings[0]; }
    /// What can be looked through, one by one; there may be none.
    [[nodiscard]] std::size_t regionCount() const { return openings.size() > 1 ? openings.size() - 1 : isJoined(); }
    [[nodiscard]] const ChunkPortals& region(std::size_t index) const
    {
        return openings.size() > 1 ? openings[index + 1] : all();
    }
    /// Does anything lead from one side to another?
    [[nodiscard]] bool isJoined() const
    {
        for (std::size_t side = 0; side < kSideCount; ++side)
            if (through[side] & ~(1U << side))
                return true;
        return false;
    }

    static ChunkVisibility open()
    {
        ChunkVisibility sight;
        sight.through.fill(kAllSides);
        sight.isOpen = true;
        return sight;
    }
    static ChunkVisibility closed()
    {
        ChunkVisibility sight;
        sight.solid = ~std::uint64_t{0};
        return sight;
    }

private:
    static constexpr ChunkPortals wholeSides()
    {
        ChunkPortals out;
        for (Portal& one : out)
            one = Portal::whole();
        return out;
    }
    static constexpr ChunkPortals kNone{};
    static const ChunkPortals kWhole;
};
inline constexpr ChunkPortals ChunkVisibility::kWhole = ChunkVisibility::wholeSides();
constexpr int kSightCells = 4; // a chunk's edge

/// Which of a chunk's six sides can see which: two sides can where voxels that are not opaque lead from one to the
/// other, across voxels' sides. A straight line of sight through the chunk passes such voxels, so a pair
/// that is not joined is never seen through; a pair that is may be.
///
/// Shape   voxels: of the chunk itself, the layer around it is not looked at. solidCubes: as in SideRules.
/// Cost    about half a ns a voxel, more where rows are torn (a checkerboard 10 ns a voxel). Any thread; its memory is
///         kept by the thread.
/// Source  runs of a row joined by union-find: He, Chao and Suzuki, "A Run-Based Two-Scan Labeling Algorithm", 2008,
///         in three dimensions.
ChunkVisibility computeVisibility(const PaddedVoxels& voxels, Material solidCubes);

/// Is the sight of a chunk the same with another material in one voxel? True only where the 26 voxels around it show
/// that it is: what is open next to it stays joined without it, its cell is neither opaque all through before or after,
/// and where it lies on a side of the chunk, others next to it open that as far. Most changes of single voxels are
/// such; where it says no, search again. Cost: 100 ns.
bool visibilityUnchanged(
    const VoxelChunk& before, const std::array<int, 3>& voxel, Material after, Material solidCubes);

/// The same of one material all through.
ChunkVisibility sightOfUniform(Material material, Material solidCubes);

} // namespace fell::cull
