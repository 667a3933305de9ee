// SPDX-License-Identifier: Apache-2.0
// What a mesher reads of light: a chunk's levels with one layer of its neighbours' round it.
#pragma once

#include "light/chunk_light.h"

#include <array>
#include <optional>

namespace fell {

struct LightBlock;

/// Layout  rows along x for y, z in [-1, edge], row (y + 1) * (edge + 2) + z + 1; the voxel at x is bit x + 1 of the
///         row's `words` words. A row of levels is four such runs of words, the lowest digit first.
struct PaddedLight {
    struct Channel {
        std::optional<int> all; // all voxels that light enters have this level, the others 0; `digits` says nothing
        std::vector<std::uint64_t> digits;
    };
    int edge = 0, channels = 0;
    std::size_t words = 1; // a row: 2 for edge 64
    std::vector<std::uint64_t> passable; // voxels that plain light enters
    std::array<Channel, kMostLightChannels> of;

    /// Dark and closed. Keeps its memory.
    void begin(int chunkEdge, int channelCount);
    /// Finds out whether a channel's levels are all alike.
    void settle(int channel);

    [[nodiscard]] std::size_t row(int y, int z) const { return static_cast<std::size_t>((y + 1) * (edge + 2) + z + 1); }
    [[nodiscard]] bool isPassable(int x, int y, int z) const
    {
        const auto bit = static_cast<std::size_t>(x + 1);
        return passable[row(y, z) * words + bit / 64] >> (bit % 64) & 1;
    }
    [[nodiscard]] int at(int channel, int x, int y, int z) const;
    /// True if every channel is alike everywhere.
    [[nodiscard]] bool isEven() const;
};

/// Fills `passable` from the 3 x 3 x 3 chunks round the middle one.
void copyPassable(const LightBlock& block, PaddedLight& out);

/// Fills `out` from the levels of 3 x 3 x 3 chunks, in the order of the block's passes: what floodPadded gives where
/// they are right. None may be null. Cost: a copy, about 10 us a channel for edge 32.
void gatherLight(const LightBlock& block, const std::array<const ChunkLight*, 27>& levels, PaddedLight& out);

/// The levels of the chunk alone, to be kept.
ChunkLight innerOf(const PaddedLight& light);

/// The box of all voxels in which two lights of a chunk differ, or in whether light enters: from -1 to the edge, upper
/// bound outside. Nothing where they are not of the same edge and channels. Cost: a pass, 10 us for edge 32.
std::optional<ChunkBox> differenceOf(const PaddedLight& a, const PaddedLight& b);

} // namespace fell
