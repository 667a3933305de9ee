// SPDX-License-Identifier: Apache-2.0
#include <fell/light/bit_region.h>

#include <fell/light/bit_rows.h>

#include <cassert>

namespace fell::light {
namespace {

/// Ors `bits`, whose bit 0 belongs to window column x, into a row. Bits outside the row must be off.
void orShifted(std::uint64_t* row, int x, std::uint64_t bits)
{
    if (x < 0) {
        row[0] |= bits >> -x;
        return;
    }
    row[x / 64] |= bits << (x % 64);
    if (x % 64 != 0)
        if (const std::uint64_t rest = bits >> (64 - x % 64))
            row[x / 64 + 1] |= rest;
}

template <int kEdge>
void copyRowsOf(const std::uint64_t* volume, RegionPlace place, const FloodRegion& region, std::uint64_t* to)
{
    const Overlap ox = overlap(place.x, kEdge, region.x), oy = overlap(place.y, kEdge, region.y),
                  oz = overlap(place.z, kEdge, region.z);
    if (!ox.any())
        return;
    const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
    for (int y = oy.from; y < oy.to; ++y) {
        std::uint64_t* row = to + region.at(y + place.y, oz.from + place.z);
        if (region.words == 1) {
            using Four = typename FourRows<kEdge>::Type;
            const int left = std::max(0, place.x), right = std::max(0, -place.x);
            int z = oz.from;
            for (; z + kWide <= oz.to; z += kWide, row += kWide) {
                const auto* four = reinterpret_cast<const Four*>(bytesOf<kEdge>(volume, y, z));
                wideAt(row) |= (__builtin_convertvector(*four, Wide) & inside) >> right << left;
            }
            for (; z < oz.to; ++z)
                *row++ |= (rowOf<kEdge>(volume, y, z) & inside) >> right << left;
        } else if (place.x >= 0 && place.x % 64 + ox.to <= 64) { // whole rows into one word each
            row += place.x / 64;
            for (int z = oz.from; z < oz.to; ++z, row += region.words)
                *row |= (rowOf<kEdge>(volume, y, z) & inside) << (place.x % 64);
        } else {
            for (int z = oz.from; z < oz.to; ++z, row += region.words)
                orShifted(row, place.x, rowOf<kEdge>(volume, y, z) & inside);
        }
    }
}

/// Four rows of 32 levels from rows of two words, `right` bits of which come before the first: transposed, since digits
/// of a row stand next to each other in the chunk. `levels`: 16 words.
void copyFourRows(const std::array<const std::uint64_t*, 4>& from, std::ptrdiff_t i, int right, std::uint64_t* levels)
{
    using Half = std::uint32_t __attribute__((vector_size(16)));
    Half digits[4]; // of rows 0, 2, 1, 3: as they come together fastest
    for (std::size_t k = 0; k < 4; ++k) {
        const Wide a = wideAt(from[k] + i), b = wideAt(from[k] + i + 4);
        const Wide low = __builtin_shufflevector(a, b, 0, 4, 2, 6), high = __builtin_shufflevector(a, b, 1, 5, 3, 7);
        const Wide bits = right == 0 ? low : right < 64 ? low >> right | high << (64 - right) : high >> (right - 64);
        digits[k] = __builtin_convertvector(bits, Half);
    }
    const Half low01 = __builtin_shufflevector(digits[0], digits[1], 0, 4, 1, 5),
               low23 = __builtin_shufflevector(digits[2], digits[3], 0, 4, 1, 5),
               high01 = __builtin_shufflevector(digits[0], digits[1], 2, 6, 3, 7),
               high23 = __builtin_shufflevector(digits[2], digits[3], 2, 6, 3, 7);
    const Half rows[4]{__builtin_shufflevector(low01, low23, 0, 1, 4, 5),
        __builtin_shufflevector(high01, high23, 0, 1, 4, 5), __builtin_shufflevector(low01, low23, 2, 3, 6, 7),
        __builtin_shufflevector(high01, high23, 2, 3, 6, 7)};
    std::memcpy(levels, rows, sizeof rows);
}

template <int kEdge>
void copyLevelsOutOf(const DigitPlanes& from, const std::uint64_t* lit, RegionPlace place, const FloodRegion& region,
    std::uint64_t* levels)
{
    using Four = typename FourRows<kEdge>::Type;
    const Overlap ox = overlap(place.x, kEdge, region.x), oy = overlap(place.y, kEdge, region.y),
                  oz = overlap(place.z, kEdge, region.z);
    if (!ox.any())
        return;
    const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
    const int x = std::max(0, place.x), left = std::max(0, -place.x), right = x % 64;
    const bool straddles = right != 0 && x / 64 + 1 < region.words;
    for (int y = oy.from; y < oy.to; ++y) {
        std::ptrdiff_t i = region.at(y + place.y, oz.from + place.z) + x / 64;
        int z = oz.from;
        if constexpr (kEdge == 32)
            for (; region.words == 2 && ox.to - ox.from == kEdge && z + 4 <= oz.to; z += 4, i += 8) {
                const std::ptrdiff_t first = i - x / 64;
                if (lit) {
                    const Wide any = wideAt(lit + first) | wideAt(lit + first + 4);
                    if ((any[0] | any[1] | any[2] | any[3]) == 0)
                        continue;
                }
                copyFourRows(from, first, x, levels + (y * kEdge + z) * 2);
            }
        for (; z < oz.to; ++z, i += region.words) {
            if (lit && (lit[i] | (straddles ? lit[i + 1] : 0)) == 0)
                continue;
            Wide digits = Wide{from[0][i], from[1][i], from[2][i], from[3][i]} >> right << left;
            if (straddles)
                digits |= Wide{from[0][i + 1], from[1][i + 1], from[2][i + 1], from[3][i + 1]} << (64 - right);
            auto* four = reinterpret_cast<Four*>(levelsOf<kEdge>(levels, y, z));
            const Wide kept = __builtin_convertvector(*four, Wide) & ~inside;
            *four = __builtin_convertvector(kept | (digits & inside), Four);
        }
    }
}

} // namespace

FloodRegion floodRegion(int x, int y, int z)
{
    assert(x >= 1 && z >= 1 && x <= kWidestRegion && z <= kWidestRegion && y >= 1);
    FloodRegion region{x, y, z, x / 64 + 1, 0}; // one bit more than x at least
    region.layer = (region.words * (z + 1) + kRegionGroup - 1) / kRegionGroup * kRegionGroup;
    return region;
}

void BitPlane::reset(const FloodRegion& region)
{
    m_layer = region.layer;
    m_words.assign(region.total() + kRegionGroup, 0); // a few more: groups are read a word beyond
}

void BitPlane::fit(const FloodRegion& region)
{
    m_layer = region.layer;
    if (m_words.size() < region.total() + kRegionGroup)
        m_words.resize(region.total() + kRegionGroup);
}

void fillRows(int edge, RegionPlace place, const FloodRegion& region, std::uint64_t* to)
{
    const Overlap ox = overlap(place.x, edge, region.x), oy = overlap(place.y, edge, region.y),
                  oz = overlap(place.z, edge, region.z);
    if (!ox.any())
        return;
    const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
    for (int y = oy.from; y < oy.to; ++y)
        for (int z = oz.from; z < oz.to; ++z)
            orShifted(to + region.at(y + place.y, z + place.z), place.x, inside);
}

void copyRows(const BitVolume& volume, int edge, RegionPlace place, const FloodRegion& region, std::uint64_t* to)
{
    withEdge(edge, [&](auto e) { copyRowsOf<decltype(e)::value>(volume.data(), place, region, to); });
}

void copyLevelsOut(const DigitPlanes& from, const std::uint64_t* lit, int edge, RegionPlace place,
    const FloodRegion& region, std::uint64_t* levels)
{
    withEdge(edge, [&](auto e) { copyLevelsOutOf<decltype(e)::value>(from, lit, place, region, levels); });
}

} // namespace fell::light
