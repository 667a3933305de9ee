// SPDX-License-Identifier: Apache-2.0
#include "light/padded_light.h"

#include "light/flood.h"

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
