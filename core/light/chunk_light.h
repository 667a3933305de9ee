// SPDX-License-Identifier: Apache-2.0
// The light of one chunk's voxels.
#pragma once

#include <fell/grid/chunk_box.h>
#include <fell/light/transmission.h>

namespace fell::light {

/// Levels of one channel: all alike, or four bits a voxel.
///
/// Layout  row after row as in VoxelChunk; of each row the lowest digits of all its levels, then the next ones: digit k
///         of the level at x in row r is bit (4 * r + k) * edge + x.
struct ChannelLevels {
    std::uint8_t all = 0; // while `bits` is empty
    std::vector<std::uint64_t> bits; // edge^3 / 16 words
    bool operator==(const ChannelLevels&) const = default;
};

/// Where the four digits of row (y, z) lie: edge / 2 bytes.
template <int kEdge> const std::byte* levelsOf(const std::uint64_t* bits, int y, int z)
{
    return reinterpret_cast<const std::byte*>(bits) + (y * kEdge + z) * (kEdge / 2);
}
template <int kEdge> std::byte* levelsOf(std::uint64_t* bits, int y, int z)
{
    return reinterpret_cast<std::byte*>(bits) + (y * kEdge + z) * (kEdge / 2);
}

/// Half a byte a voxel and channel where light varies, nothing where it does not.
struct ChunkLight {
    int edge = 0;
    int channels = 0;
    std::array<ChannelLevels, kMaxLightChannels> of;
    bool operator==(const ChunkLight&) const = default;

    [[nodiscard]] int at(int channel, std::size_t voxel) const
    {
        const ChannelLevels& levels = of[static_cast<std::size_t>(channel)];
        if (levels.bits.empty())
            return levels.all;
        unsigned level = 0;
        for (unsigned k = 0; k < 4; ++k) {
            const std::size_t bit = bitOf(voxel, k);
            level |= static_cast<unsigned>(levels.bits[bit / 64] >> (bit % 64) & 1) << k;
        }
        return static_cast<int>(level);
    }
    /// Where digit k of a voxel's level is.
    [[nodiscard]] std::size_t bitOf(std::size_t voxel, unsigned k) const
    {
        const auto e = static_cast<std::size_t>(edge);
        return (voxel / e * 4 + k) * e + voxel % e;
    }
    void set(int channel, std::size_t voxel, int level);
    [[nodiscard]] std::size_t bytes() const;
};

/// Gives a channel its bits if it has none.
void expand(ChannelLevels& levels, int edge);
/// Lets the bits go if all levels are alike.
void collapseIfUniform(ChannelLevels& levels, int edge);

/// How many voxels have a level above 0.
std::size_t litVoxels(const ChannelLevels& levels, int edge);

/// The smallest box that holds all voxels of a chunk whose levels differ.
/// Cost: one comparison a channel where the levels are alike, else a pass over their bits, 10 us for edge 32.
ChunkBox differenceOf(const ChunkLight& a, const ChunkLight& b);

/// 64 bits that two chunks share only if all levels are alike (XXH3), whether spelt out or not.
std::uint64_t digestOf(const ChunkLight& light);

} // namespace fell::light
