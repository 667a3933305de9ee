// SPDX-License-Identifier: Apache-2.0
// What a mesher reads of light: a chunk's levels with one layer of its neighbours' around it.
#pragma once

#include <fell/light/chunk_light.h>

#include <array>
#include <optional>

namespace fell::light {

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
    std::array<Channel, kMaxLightChannels> of;

    /// Dark and closed. Keeps its memory.
    void begin(int chunkEdge, int channelCount);
    /// Finds out whether a channel's levels are all alike. Begins at layer `first`, counted from 0: where the last one
    /// that was looked at has shown them to differ, that is likely to show it at once. Gives that layer, or 0.
    int collapseIfUniform(int channel, int first = 0);

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

/// Fills `passable` from the 3 x 3 x 3 chunks around the middle one.
void copyPassable(const LightBlock& block, PaddedLight& out);

/// Fills `out` from the levels of 3 x 3 x 3 chunks, in the order of the block's passes: what floodPadded gives where
/// they are right. None may be null. Cost: a copy, about 10 us a channel for edge 32.
void gatherLight(const LightBlock& block, const std::array<const ChunkLight*, 27>& levels, PaddedLight& out);

/// The levels of the chunk alone, to be kept.
ChunkLight innerOf(const PaddedLight& light);

/// The parts of gatherLight, for one channel: are its levels alike in all 27 chunks, whether light enters or
/// not; and its levels, once `out.passable` is known. The second gives what PaddedLight::settle does.
bool isChannelEven(const std::array<const ChunkLight*, 27>& levels, std::size_t channel);
int gatherChannel(const std::array<const ChunkLight*, 27>& levels, std::size_t channel, PaddedLight& out);

/// The bits of a chunk's row that plain light enters; no chunk is closed.
template <int kEdge> std::uint64_t passableRow(const Transmission* passes, int y, int z)
{
    constexpr std::uint64_t kAll = ~std::uint64_t{0} >> (64 - kEdge);
    if (!passes || passes->kind == Transmission::Kind::Dark)
        return 0;
    if (passes->kind == Transmission::Kind::Open)
        return kAll;
    const Transmission::Colour& plain = passes->of(LightColour::Plain);
    std::uint64_t bits = rowOf<kEdge>(plain.transparent.data(), y, z);
    for (const AbsorbingVoxels& absorbing : plain.absorbing)
        bits |= rowOf<kEdge>(absorbing.where.data(), y, z);
    return bits;
}

} // namespace fell::light
