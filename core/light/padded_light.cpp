// SPDX-License-Identifier: Apache-2.0
#include "light/padded_light.h"

#include "light/flood.h"

#include <algorithm>
#include <cassert>

namespace fell {
namespace {

/// The bits of a chunk's row that plain light enters.
template <int kEdge> std::uint64_t passableRow(const LightPasses* passes, int y, int z)
{
    constexpr std::uint64_t kAll = ~std::uint64_t{0} >> (64 - kEdge);
    if (!passes || passes->kind == LightPasses::Kind::Dark)
        return 0;
    if (passes->kind == LightPasses::Kind::Open)
        return kAll;
    const LightPasses::Colour& plain = passes->of(LightColour::Plain);
    std::uint64_t bits = rowOf<kEdge>(plain.cheap.data(), y, z);
    for (const DearVoxels& dear : plain.dear)
        bits |= rowOf<kEdge>(dear.where.data(), y, z);
    return bits;
}

} // namespace

void PaddedLight::begin(int chunkEdge, int channelCount)
{
    edge = chunkEdge;
    channels = channelCount;
    words = edge + 2 > 64 ? 2 : 1;
    const auto rows = static_cast<std::size_t>(edge + 2) * static_cast<std::size_t>(edge + 2);
    passable.assign(rows * words, 0);
    for (Channel& channel : of)
        channel.all = 0;
}

void PaddedLight::settle(int channel)
{
    Channel& levels = of[static_cast<std::size_t>(channel)];
    std::array<std::uint64_t, 4> on{}, off{};
    std::uint64_t stray = 0; // a closed voxel that has light: a solid lamp
    for (std::size_t i = 0; i < passable.size(); ++i) {
        const std::uint64_t here = passable[i];
        const std::uint64_t* digits = levels.digits.data() + i / words * words * 4 + i % words;
        for (std::size_t k = 0; k < 4; ++k) {
            on[k] |= digits[k * words] & here;
            off[k] |= ~digits[k * words] & here;
            stray |= digits[k * words] & ~here;
        }
    }
    int all = 0;
    levels.all.reset();
    if (stray != 0)
        return;
    for (std::size_t k = 0; k < 4; ++k) {
        if (on[k] != 0 && off[k] != 0)
            return;
        all |= static_cast<int>(on[k] != 0) << k;
    }
    levels.all = all;
}

int PaddedLight::at(int channel, int x, int y, int z) const
{
    const Channel& levels = of[static_cast<std::size_t>(channel)];
    if (levels.all)
        return *levels.all;
    const auto bit = static_cast<std::size_t>(x + 1);
    const std::uint64_t* digits = levels.digits.data() + row(y, z) * words * 4 + bit / 64;
    unsigned level = 0;
    for (std::size_t k = 0; k < 4; ++k)
        level |= static_cast<unsigned>(digits[k * words] >> (bit % 64) & 1) << k;
    return static_cast<int>(level);
}

bool PaddedLight::isEven() const
{
    for (int c = 0; c < channels; ++c)
        if (!of[static_cast<std::size_t>(c)].all)
            return false;
    return true;
}

namespace {

/// Bits of digit k of row (y, z).
template <int kEdge> std::uint64_t digitRow(const ChannelLevels& levels, int y, int z, std::size_t k)
{
    if (levels.bits.empty())
        return levels.all >> k & 1 ? ~std::uint64_t{0} >> (64 - kEdge) : 0;
    std::uint64_t bits = 0;
    std::memcpy(&bits, levelsOf<kEdge>(levels.bits.data(), y, z) + k * (kEdge / 8), kEdge / 8);
    return bits;
}

template <int kEdge>
void copyLevels(
    const std::array<const ChunkLight*, 27>& levels, int channel, const PaddedLight& shape, PaddedLight::Channel& to)
{
    const auto split = [](int at) { // which chunk, and where in it
        return at < 0    ? std::array<std::size_t, 2>{0, kEdge - 1}
            : at < kEdge ? std::array<std::size_t, 2>{1, static_cast<std::size_t>(at)}
                         : std::array<std::size_t, 2>{2, 0};
    };
    for (int y = -1; y <= kEdge; ++y)
        for (int z = -1; z <= kEdge; ++z) {
            const auto [cy, iy] = split(y);
            const auto [cz, iz] = split(z);
            const auto of = [&](std::size_t cx, std::size_t k) {
                return digitRow<kEdge>(levels[(cy * 3 + cz) * 3 + cx]->of[static_cast<std::size_t>(channel)],
                    static_cast<int>(iy), static_cast<int>(iz), k);
            };
            for (std::size_t k = 0; k < 4; ++k) {
                const std::uint64_t before = of(0, k) >> (kEdge - 1), here = of(1, k), after = of(2, k) & 1;
                std::uint64_t* words = to.digits.data() + (shape.row(y, z) * 4 + k) * shape.words;
                words[0] = before | here << 1;
                if constexpr (kEdge < 64)
                    words[0] |= after << (kEdge + 1);
                else
                    words[1] = here >> 63 | after << 1;
            }
        }
}

} // namespace

void copyPassable(const LightBlock& block, PaddedLight& out)
{
    assert(block.edge == out.edge && block.size == (std::array<int, 3>{3, 3, 3}));
    withEdge(block.edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        const auto split = [](int at) { // which chunk, and where in it
            return at < 0    ? std::array<int, 2>{0, kEdge - 1}
                : at < kEdge ? std::array<int, 2>{1, at}
                             : std::array<int, 2>{2, 0};
        };
        for (int y = -1; y <= kEdge; ++y)
            for (int z = -1; z <= kEdge; ++z) {
                const auto [cy, iy] = split(y);
                const auto [cz, iz] = split(z);
                const auto* three = block.passes.data() + (cy * 3 + cz) * 3;
                const std::uint64_t before = passableRow<kEdge>(three[0], iy, iz) >> (kEdge - 1),
                                    here = passableRow<kEdge>(three[1], iy, iz),
                                    after = passableRow<kEdge>(three[2], iy, iz) & 1;
                std::uint64_t* to = out.passable.data() + out.row(y, z) * out.words;
                to[0] = before | here << 1;
                if constexpr (kEdge < 64)
                    to[0] |= after << (kEdge + 1);
                else
                    to[1] = here >> 63 | after << 1;
            }
    });
}

void gatherLight(const LightBlock& block, const std::array<const ChunkLight*, 27>& levels, PaddedLight& out)
{
    out.begin(block.edge, block.rules->mode->channels());
    copyPassable(block, out);
    for (int c = 0; c < out.channels; ++c) {
        PaddedLight::Channel& to = out.of[static_cast<std::size_t>(c)];
        const auto& middle = levels[13]->of[static_cast<std::size_t>(c)];
        const bool isEven = std::all_of(levels.begin(), levels.end(), [&](const ChunkLight* one) {
            const ChannelLevels& at = one->of[static_cast<std::size_t>(c)];
            return at.bits.empty() && at.all == middle.all;
        });
        if (isEven) {
            to.all = middle.all;
            continue;
        }
        to.digits.assign(out.passable.size() * 4, 0);
        withEdge(block.edge, [&](auto e) { copyLevels<decltype(e)::value>(levels, c, out, to); });
        out.settle(c);
    }
}

ChunkLight innerOf(const PaddedLight& light)
{
    ChunkLight out;
    out.edge = light.edge;
    out.channels = light.channels;
    for (int c = 0; c < light.channels; ++c) {
        const PaddedLight::Channel& from = light.of[static_cast<std::size_t>(c)];
        ChannelLevels& levels = out.of[static_cast<std::size_t>(c)];
        // Alike where light enters, and 0 elsewhere.
        if (from.all == 0)
            continue;
        spellOut(levels, light.edge);
        withEdge(light.edge, [&](auto e) {
            constexpr int kEdge = decltype(e)::value;
            for (int y = 0; y < kEdge; ++y)
                for (int z = 0; z < kEdge; ++z) {
                    const std::size_t row = light.row(y, z);
                    const auto cut = [&light](const std::uint64_t* words) {
                        return light.words == 1 ? words[0] >> 1 : words[0] >> 1 | words[1] << 63;
                    };
                    for (std::size_t k = 0; k < 4; ++k) {
                        const std::uint64_t bits = from.all
                            ? (*from.all >> k & 1 ? cut(light.passable.data() + row * light.words) : 0)
                            : cut(from.digits.data() + (row * 4 + k) * light.words);
                        std::memcpy(levelsOf<kEdge>(levels.bits.data(), y, z) + k * (kEdge / 8), &bits, kEdge / 8);
                    }
                }
        });
        settle(levels, light.edge);
    }
    return out;
}

} // namespace fell
