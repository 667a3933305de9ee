// SPDX-License-Identifier: Apache-2.0
#include <fell/light/chunk_light.h>

#include <algorithm>
#include <bit>
#include <xxhash.h>

namespace fell::light {

namespace {

/// The words after which the pattern of levels that are all alike comes again: the four digits of one row.
std::size_t periodOf(int edge)
{
    return static_cast<std::size_t>(edge) / 16;
}

} // namespace

void expand(ChannelLevels& levels, int edge)
{
    if (!levels.bits.empty())
        return;
    const auto e = static_cast<std::size_t>(edge);
    levels.bits.resize(e * e * e / 16);
    if (levels.all == 0)
        return;
    for (std::size_t bit = 0; bit < 4 * e; ++bit)
        levels.bits[bit / 64] |= std::uint64_t{static_cast<unsigned>(levels.all) >> (bit / e) & 1} << (bit % 64);
    for (std::size_t i = periodOf(edge); i < levels.bits.size(); ++i)
        levels.bits[i] = levels.bits[i - periodOf(edge)];
}

void collapseIfUniform(ChannelLevels& levels, int edge)
{
    const auto period = static_cast<std::ptrdiff_t>(periodOf(edge));
    if (levels.bits.empty() || !std::equal(levels.bits.begin() + period, levels.bits.end(), levels.bits.begin()))
        return;
    ChannelLevels alike;
    for (unsigned k = 0; k < 4; ++k) {
        const std::size_t bit = k * static_cast<std::size_t>(edge);
        alike.all |= static_cast<std::uint8_t>((levels.bits[bit / 64] >> (bit % 64) & 1) << k);
    }
    ChannelLevels spelt = alike;
    expand(spelt, edge);
    if (std::equal(spelt.bits.begin(), spelt.bits.begin() + period, levels.bits.begin()))
        levels = std::move(alike);
}

void ChunkLight::set(int channel, std::size_t voxel, int level)
{
    ChannelLevels& levels = of[static_cast<std::size_t>(channel)];
    if (levels.bits.empty() && levels.all == level)
        return;
    expand(levels, edge);
    for (unsigned k = 0; k < 4; ++k) {
        const std::size_t at = bitOf(voxel, k);
        const std::uint64_t bit = std::uint64_t{1} << (at % 64);
        std::uint64_t& word = levels.bits[at / 64];
        word = static_cast<unsigned>(level) >> k & 1 ? word | bit : word & ~bit;
    }
}

ChunkBox differenceOf(const ChunkLight& a, const ChunkLight& b)
{
    const int edge = a.edge;
    std::array<ChannelLevels, 2 * kMaxLightChannels> spelt; // of sides without bits
    std::array<std::array<const std::uint64_t*, 2>, kMaxLightChannels> pairs{}; // of the channels that differ
    std::size_t differing = 0;
    std::size_t next = 0;
    const auto bitsOf = [&](const ChannelLevels& levels) {
        if (!levels.bits.empty())
            return levels.bits.data();
        ChannelLevels& own = spelt[next++] = levels;
        expand(own, edge);
        return static_cast<const std::uint64_t*>(own.bits.data());
    };
    for (std::size_t c = 0; c < static_cast<std::size_t>(a.channels); ++c) {
        const ChannelLevels &one = a.of[c], &two = b.of[c];
        if (one == two)
            continue;
        if (one.bits.empty() && two.bits.empty()) // each alike, and not the same
            return {{0, 0, 0}, {edge, edge, edge}, static_cast<std::size_t>(edge) * edge * edge};
        const std::uint64_t* first = bitsOf(one);
        pairs[differing++] = {first, bitsOf(two)};
    }
    ChunkBox box{{edge, edge, edge}, {0, 0, 0}};
    std::uint64_t columns = 0; // x of voxels that differ
    withEdge(edge, [&](auto width) {
        constexpr int kEdge = decltype(width)::value;
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z) {
                std::uint64_t row = 0;
                for (std::size_t c = 0; c < differing; ++c) {
                    const std::byte *from = levelsOf<kEdge>(pairs[c][0], y, z),
                                    *to = levelsOf<kEdge>(pairs[c][1], y, z);
                    if (std::memcmp(from, to, kEdge / 2) == 0)
                        continue;
                    for (int k = 0; k < 4; ++k) {
                        std::uint64_t x = 0, w = 0;
                        std::memcpy(&x, from + k * (kEdge / 8), kEdge / 8);
                        std::memcpy(&w, to + k * (kEdge / 8), kEdge / 8);
                        row |= x ^ w;
                    }
                }
                if (row == 0)
                    continue;
                columns |= row;
                box.voxels += static_cast<std::size_t>(std::popcount(row));
                box.low = {box.low[0], std::min(box.low[1], y), std::min(box.low[2], z)};
                box.high = {box.high[0], std::max(box.high[1], y + 1), std::max(box.high[2], z + 1)};
            }
    });
    if (columns != 0) {
        box.low[0] = std::countr_zero(columns);
        box.high[0] = 64 - std::countl_zero(columns);
    }
    return box;
}

std::size_t litVoxels(const ChannelLevels& levels, int edge)
{
    const auto e = static_cast<std::size_t>(edge);
    if (levels.bits.empty())
        return levels.all > 0 ? e * e * e : 0;
    std::size_t sum = 0;
    withEdge(edge, [&](auto width) {
        constexpr int kEdge = decltype(width)::value;
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z) {
                std::uint64_t any = 0;
                for (int k = 0; k < 4; ++k) {
                    std::uint64_t digit = 0;
                    std::memcpy(&digit, levelsOf<kEdge>(levels.bits.data(), y, z) + k * (kEdge / 8), kEdge / 8);
                    any |= digit;
                }
                sum += static_cast<std::size_t>(std::popcount(any));
            }
    });
    return sum;
}

std::size_t ChunkLight::bytes() const
{
    std::size_t sum = sizeof *this;
    for (const ChannelLevels& levels : of)
        sum += levels.bits.capacity() * 8;
    return sum;
}

std::uint64_t digestOf(const ChunkLight& light)
{
    std::uint64_t sum = static_cast<std::uint64_t>(light.channels);
    for (int c = 0; c < light.channels; ++c) {
        ChannelLevels levels = light.of[static_cast<std::size_t>(c)];
        expand(levels, light.edge);
        sum = mix64(sum + XXH3_64bits(levels.bits.data(), levels.bits.size() * 8));
    }
    return sum;
}

} // namespace fell::light
