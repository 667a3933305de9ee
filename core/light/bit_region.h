// SPDX-License-Identifier: Apache-2.0
// A box of voxels with one bit for each, in which light is flooded 64 voxels a word; and how rows of chunks are copied
// into it and levels out of it.
#pragma once

#include <fell/light/chunk_light.h>

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace fell::light {

/// One bit for each voxel of the region.
///
/// Layout  x runs along the bits of `words` words, then z over rows, then y over layers; word 0 is that of row (0, 0).
///         A bit of each row and a row of each layer stay empty beyond the box, and a layer before and after it: so the
///         neighbours of a run of words are the same run, shifted. A layer is a whole number of groups.
struct FloodRegion {
    int x = 0, y = 0, z = 0; // voxels
    std::ptrdiff_t words = 0; // a row
    std::ptrdiff_t layer = 0; // words a layer

    [[nodiscard]] std::ptrdiff_t at(int py, int pz) const { return py * layer + pz * words; }
    [[nodiscard]] std::size_t total() const
    {
        return static_cast<std::size_t>(layer) * static_cast<std::size_t>(y + 2);
    }
};

/// What is looked at together: two wide registers. At most 32 make a layer.
constexpr std::ptrdiff_t kRegionGroup = 8; // words
constexpr int kWidestRegion = 126; // voxels in x and z

/// Errors  asserts 1 <= x, z <= kWidestRegion, y >= 1.
FloodRegion floodRegion(int x, int y, int z);

/// Where a chunk's lowest voxel lies in a region; may lie outside.
struct RegionPlace {
    int x = 0, y = 0, z = 0;
};

/// Words of a region with the empty layers around it.
/// Memory  a bit a voxel: 256 KiB for the largest region that is used, 126 x 128 x 126.
class BitPlane {
public:
    void reset(const FloodRegion& region); // all off
    void fit(const FloodRegion& region); // bits that are off already stay so
    [[nodiscard]] std::uint64_t* data() { return m_words.data() + m_layer; }
    [[nodiscard]] const std::uint64_t* data() const { return m_words.data() + m_layer; }

private:
    std::vector<std::uint64_t> m_words;
    std::ptrdiff_t m_layer = 0;
};

/// Ors the part of a chunk's bits that lies in the region into a plane. Cost: O(rows).
void copyRows(const BitVolume& volume, int edge, RegionPlace place, const FloodRegion& region, std::uint64_t* to);
/// The same for a chunk whose bits are all on.
void fillRows(int edge, RegionPlace place, const FloodRegion& region, std::uint64_t* to);

/// The planes of a level's four digits, lowest first.
using DigitPlanes = std::array<const std::uint64_t*, 4>;

/// Writes the levels of the part of a chunk that lies in the region: `levels` as ChannelLevels::bits. `lit` may be
/// null; rows in which none of its bits is on are left as they are.
void copyLevelsOut(const DigitPlanes& from, const std::uint64_t* lit, int edge, RegionPlace place,
    const FloodRegion& region, std::uint64_t* levels);

} // namespace fell::light
