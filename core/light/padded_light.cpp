// SPDX-License-Identifier: Apache-2.0
#include <fell/light/padded_light.h>

#include <fell/light/flood.h>

#include <algorithm>
#include <bit>
#include <cassert>
#include <cstring>
#include <type_traits>

namespace fell::light {
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

int PaddedLight::collapseIfUniform(int channel, int first)
{
    Channel& levels = of[static_cast<std::size_t>(channel)];
    std::array<std::uint64_t, 4> on{}, off{};
    std::uint64_t stray = 0; // a closed voxel that has light: a solid lamp
    const auto isUneven = [&] {
        std::uint64_t both = stray;
        for (std::size_t k = 0; k < 4; ++k)
            both |= static_cast<std::uint64_t>(on[k] != 0 && off[k] != 0);
        return both != 0;
    };
    levels.all.reset();
    const auto across = static_cast<std::size_t>(edge) + 2;
    for (std::size_t n = 0; n < across; ++n) { // layer by layer: where light varies, the first ones tell
        const std::size_t y = (static_cast<std::size_t>(first) + n) % across;
        const std::uint64_t *here = passable.data() + y * across * words,
                            *digits = levels.digits.data() + y * across * words * 4;
        for (std::size_t z = 0; z < across; ++z, here += words, digits += 4 * words)
            for (std::size_t word = 0; word < words; ++word)
                for (std::size_t k = 0; k < 4; ++k) {
                    const std::uint64_t bits = digits[k * words + word];
                    on[k] |= bits & here[word];
                    off[k] |= ~bits & here[word];
                    stray |= bits & ~here[word];
                }
        if (isUneven())
            return static_cast<int>(y);
    }
    int all = 0;
    for (std::size_t k = 0; k < 4; ++k)
        all |= static_cast<int>(on[k] != 0) << k;
    levels.all = all;
    return 0;
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

/// The levels of one channel of 3 x 3 x 3 chunks, row by row, whether spelt out or not.
template <int kEdge> class DigitRows {
public:
    using Word
        = std::conditional_t<kEdge == 16, std::uint16_t, std::conditional_t<kEdge == 32, std::uint32_t, std::uint64_t>>;
    using Digits = std::array<Word, 4>; // the lowest first

    DigitRows(const std::array<const ChunkLight*, 27>& levels, int channel)
    {
        for (std::size_t i = 0; i < levels.size(); ++i) {
            const ChannelLevels& one = levels[i]->of[static_cast<std::size_t>(channel)];
            m_bits[i] = one.bits.empty() ? nullptr : one.bits.data();
            for (std::size_t k = 0; k < 4; ++k)
                m_even[i][k] = static_cast<Word>(one.all >> k & 1 ? ~Word{0} : Word{0});
        }
    }
    [[nodiscard]] Digits row(std::size_t chunk, int y, int z) const
    {
        if (!m_bits[chunk])
            return m_even[chunk];
        Digits out;
        std::memcpy(out.data(), levelsOf<kEdge>(m_bits[chunk], y, z), sizeof out);
        return out;
    }

private:
    std::array<const std::uint64_t*, 27> m_bits;
    std::array<Digits, 27> m_even;
};

template <int kEdge>
void copyLevels(
    const std::array<const ChunkLight*, 27>& levels, int channel, const PaddedLight& shape, PaddedLight::Channel& to)
{
    const auto split = [](int at) { // which chunk, and where in it
        return at < 0    ? std::array<int, 2>{0, kEdge - 1}
            : at < kEdge ? std::array<int, 2>{1, at}
                         : std::array<int, 2>{2, 0};
    };
    const DigitRows<kEdge> rows(levels, channel);
    std::uint64_t* words = to.digits.data();
    for (int y = -1; y <= kEdge; ++y)
        for (int z = -1; z <= kEdge; ++z, words += 4 * shape.words) {
            const auto [cy, iy] = split(y);
            const auto [cz, iz] = split(z);
            const auto first = static_cast<std::size_t>(cy * 3 + cz) * 3;
            const auto before = rows.row(first, iy, iz), here = rows.row(first + 1, iy, iz),
                       after = rows.row(first + 2, iy, iz);
            for (std::size_t k = 0; k < 4; ++k) {
                const std::uint64_t own = here[k], last = before[k] >> (kEdge - 1), next = after[k] & 1;
                if constexpr (kEdge < 64) {
                    words[k] = last | own << 1 | next << (kEdge + 1);
                } else {
                    words[2 * k] = last | own << 1;
                    words[2 * k + 1] = own >> 63 | next << 1;
                }
            }
        }
}

} // namespace

void copyPassable(const LightBlock& block, PaddedLight& out)
{
    assert(block.edge == out.edge && block.size == (std::array<int, 3>{3, 3, 3}));
    withEdge(block.edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        const auto split = [&](int at) { // which chunk, and where in it
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

bool isChannelEven(const std::array<const ChunkLight*, 27>& levels, std::size_t channel)
{
    const ChannelLevels& middle = levels[13]->of[channel];
    return std::all_of(levels.begin(), levels.end(), [&](const ChunkLight* one) {
        const ChannelLevels& at = one->of[channel];
        return at.bits.empty() && at.all == middle.all;
    });
}

int gatherChannel(const std::array<const ChunkLight*, 27>& levels, std::size_t channel, PaddedLight& out)
{
    PaddedLight::Channel& to = out.of[channel];
    if (isChannelEven(levels, channel)) {
        to.all = levels[13]->of[channel].all;
        return 0;
    }
    to.digits.assign(out.passable.size() * 4, 0);
    const auto c = static_cast<int>(channel);
    withEdge(out.edge, [&](auto e) { copyLevels<decltype(e)::value>(levels, c, out, to); });
    return out.collapseIfUniform(c);
}

void gatherLight(const LightBlock& block, const std::array<const ChunkLight*, 27>& levels, PaddedLight& out)
{
    out.begin(block.edge, block.rules->mode->channels());
    copyPassable(block, out);
    for (std::size_t c = 0; c < static_cast<std::size_t>(out.channels); ++c)
        (void)gatherChannel(levels, c, out);
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
        expand(levels, light.edge);
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
        collapseIfUniform(levels, light.edge);
    }
    return out;
}

} // namespace fell::light
