// SPDX-License-Identifier: Apache-2.0
// Private to light/: rows of bits in wide registers, and where a chunk lies in a region.
#pragma once

#include <fell/light/bit_region.h>
#include <fell/light/chunk_light.h>

#include <algorithm>
#include <cstdint>

namespace fell::light {

/// Four words at a time, at any word's address. Spelt out, since the compiler made single words of plain loops.
using Wide = std::uint64_t __attribute__((vector_size(32), aligned(8), may_alias));
constexpr int kWide = 4;
static_assert(kRegionGroup == 2 * kWide);
inline const Wide& wideAt(const std::uint64_t* p)
{
    return *reinterpret_cast<const Wide*>(p);
}
inline Wide& wideAt(std::uint64_t* p)
{
    return *reinterpret_cast<Wide*>(p);
}

/// Four rows of a chunk of this edge.
template <int kEdge> struct FourRows;
template <> struct FourRows<16> {
    using Type = std::uint16_t __attribute__((vector_size(8), aligned(2), may_alias));
};
template <> struct FourRows<32> {
    using Type = std::uint32_t __attribute__((vector_size(16), aligned(4), may_alias));
};
template <> struct FourRows<64> {
    using Type = Wide;
};

/// What spreads from a run of words to its neighbours. `x` carries bits between words of a row.
template <bool kManyWords>
inline std::uint64_t around(const std::uint64_t* f, std::ptrdiff_t i, std::ptrdiff_t row, std::ptrdiff_t layer)
{
    const std::uint64_t here = f[i];
    std::uint64_t bits = here << 1 | here >> 1 | f[i - row] | f[i + row] | f[i - layer] | f[i + layer];
    if constexpr (kManyWords)
        bits |= f[i - 1] >> 63 | f[i + 1] << 63;
    return bits;
}

/// Which part of a chunk of `edge` voxels at `place` lies in a window of `size`, on one axis: [from, to) in the chunk.
struct Overlap {
    int from, to;
    [[nodiscard]] bool any() const { return from < to; }
};
inline Overlap overlap(int place, int edge, int size)
{
    return {std::max(0, -place), std::min(edge, size - place)};
}

inline std::uint64_t lowBits(int count)
{
    return count >= 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << count) - 1;
}

/// The groups of a layer that lie next to groups of this and the next layers.
inline std::uint32_t besideGroups(const std::vector<std::uint32_t>& groups, int y, std::uint32_t all)
{
    const auto at = static_cast<std::size_t>(y);
    const std::uint32_t here = groups[at];
    return (here | here << 1 | here >> 1 | (at > 0 ? groups[at - 1] : 0)
               | (at + 1 < groups.size() ? groups[at + 1] : 0))
        & all;
}

inline std::uint32_t allGroups(const FloodRegion& region)
{
    return static_cast<std::uint32_t>((std::uint64_t{1} << region.layer / kRegionGroup) - 1);
}

/// Calls visit(y, z, at, mask in the chunk's row) for rows of the chunk of which some bits of `plane` are on.
template <typename Visit>
void eachRow(const FloodRegion& region, const std::uint64_t* plane, int edge, RegionPlace place, const Visit& visit)
{
    const Overlap ox = overlap(place.x, edge, region.x), oy = overlap(place.y, edge, region.y),
                  oz = overlap(place.z, edge, region.z);
    if (!ox.any())
        return;
    const int left = std::max(0, place.x), right = std::max(0, -place.x);
    const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
    for (int y = oy.from; y < oy.to; ++y) {
        const std::ptrdiff_t first = region.at(y + place.y, place.z);
        const std::uint64_t* row = plane + first;
        for (int z = oz.from; z < oz.to; ++z)
            if (row[z] != 0)
                if (const std::uint64_t mask = row[z] >> left << right & inside)
                    visit(y, z, first + z, mask);
    }
}

} // namespace fell::light
