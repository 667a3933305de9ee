// SPDX-License-Identifier: Apache-2.0
#include <fell/light/gathered_light.h>

#include <fell/light/flood.h>

#include <algorithm>
#include <bit>
#include <cstring>
#include <utility>

namespace fell::light {
namespace {

/// A run of bits along x, where it lies in the words of a padded row.
template <int kEdge> using RowWords = std::array<std::uint64_t, (kEdge + 2 > 64 ? 2 : 1)>;

/// Bits of a chunk's row, of which `xs` is read, in their place.
template <int kEdge> RowWords<kEdge> placed(const PaddedPart& xs, std::uint64_t bits)
{
    if (xs.count == 1)
        bits = bits >> xs.in & 1;
    const int shift = xs.at + 1;
    if constexpr (kEdge < 64)
        return {bits << shift};
    else
        return {shift < 64 ? bits << shift : 0,
            shift == 0       ? 0
                : shift < 64 ? bits >> (64 - shift)
                             : bits << (shift - 64)};
}

/// Adds the voxels of a word of row (y, z) whose bits are set. True if any are.
bool addBits(ChunkBox& box, std::size_t word, std::uint64_t bits, int y, int z)
{
    if (bits == 0)
        return false;
    const int from = static_cast<int>(word) * 64 - 1;
    box.add({{from + std::countr_zero(bits), y, z}, {from + static_cast<int>(std::bit_width(bits)), y + 1, z + 1},
        static_cast<std::size_t>(std::popcount(bits))});
    return true;
}

/// Works on one channel, or on what light enters, of the rows of one of the 27 chunks.
template <int kEdge> class PartRows {
public:
    PartRows(std::size_t number, PaddedLight& light, ChunkBox& box)
        : m_light(light)
        , m_box(box)
        , m_xs(paddedPart(static_cast<int>(number) % 3 - 1, kEdge))
        , m_ys(paddedPart(static_cast<int>(number) / 9 - 1, kEdge))
        , m_zs(paddedPart(static_cast<int>(number) / 3 % 3 - 1, kEdge))
        , m_mask(placed<kEdge>(m_xs, ~std::uint64_t{0} >> (64 - kEdge)))
    {
    }

    /// Writes `perRow` runs of words a row, where they differ. `bitsOf(n, y, z)` gives those of a row of the chunk;
    /// `isLayerAlike(y)` may say that none of a layer does. True if any differed.
    template <typename BitsOf, typename IsLayerAlike>
    bool bring(
        std::vector<std::uint64_t>& words, std::size_t perRow, const BitsOf& bitsOf, const IsLayerAlike& isLayerAlike)
    {
        constexpr std::size_t kWords = std::tuple_size_v<RowWords<kEdge>>;
        bool any = false;
        for (int y = 0; y < m_ys.count; ++y) {
            if (isLayerAlike(m_ys.in + y))
                continue;
            for (int z = 0; z < m_zs.count; ++z) {
                std::uint64_t* row = words.data() + m_light.row(m_ys.at + y, m_zs.at + z) * perRow * kWords;
                RowWords<kEdge> differs{};
                for (std::size_t n = 0; n < perRow; ++n, row += kWords) {
                    const RowWords<kEdge> now = placed<kEdge>(m_xs, bitsOf(n, m_ys.in + y, m_zs.in + z));
                    for (std::size_t w = 0; w < kWords; ++w) {
                        const std::uint64_t differ = (row[w] ^ now[w]) & m_mask[w];
                        row[w] ^= differ;
                        differs[w] |= differ;
                    }
                }
                for (std::size_t w = 0; w < kWords; ++w)
                    any |= addBits(m_box, w, differs[w], m_ys.at + y, m_zs.at + z);
            }
        }
        return any;
    }

private:
    PaddedLight& m_light;
    ChunkBox& m_box;
    PaddedPart m_xs, m_ys, m_zs;
    RowWords<kEdge> m_mask;
};

bool isLayerAlike(const BitVolume& a, const BitVolume& b, int edge, int y)
{
    const auto bytes = static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge) / 8;
    const auto at = [&](const BitVolume& volume) {
        return reinterpret_cast<const std::byte*>(volume.data()) + bytes * static_cast<std::size_t>(y);
    };
    return a.size() == b.size() && (a.empty() || std::memcmp(at(a), at(b), bytes) == 0);
}

/// Does plain light surely enter the same voxels of a layer of equal y?
bool isLayerAlike(const Transmission& a, const Transmission& b, int y)
{
    if (a.kind != b.kind || a.kind != Transmission::Kind::Mixed)
        return a.kind == b.kind;
    const auto &one = a.of(LightColour::Plain), &other = b.of(LightColour::Plain);
    return one.absorbing.size() == other.absorbing.size() && isLayerAlike(one.transparent, other.transparent, a.edge, y)
        && std::equal(one.absorbing.begin(), one.absorbing.end(), other.absorbing.begin(),
            [&](const AbsorbingVoxels& p, const AbsorbingVoxels& q) {
                return isLayerAlike(p.where, q.where, a.edge, y);
            });
}

/// Are levels of a layer of equal y surely alike?
bool isLayerAlike(const ChannelLevels& a, const ChannelLevels& b, int edge, int y)
{
    if (a.bits.empty() || b.bits.empty())
        return a.bits.empty() && b.bits.empty() && a.all == b.all;
    const auto layer = static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge) / 16; // words
    const auto from = layer * static_cast<std::size_t>(y);
    return std::memcmp(a.bits.data() + from, b.bits.data() + from, layer * sizeof a.bits[0]) == 0;
}

/// The levels of a channel in one of the 27 chunks, now and, where that is known, before.
struct ChunkChange {
    std::size_t number;
    const ChannelLevels *now, *before;
};

/// The box of what differs in a channel that was spelt out, or is, another way than before.
void addDifference(
    const PaddedLight& light, const PaddedLight::Channel& before, const PaddedLight::Channel& now, ChunkBox& box)
{
    const auto digit = [&](const PaddedLight::Channel& of, std::size_t row, std::size_t k, std::size_t word) {
        if (!of.all)
            return of.digits[(row * 4 + k) * light.words + word];
        return *of.all >> k & 1 ? light.passable[row * light.words + word] : 0;
    };
    for (int y = -1; y <= light.edge; ++y)
        for (int z = -1; z <= light.edge; ++z) {
            const std::size_t row = light.row(y, z);
            for (std::size_t word = 0; word < light.words; ++word) {
                std::uint64_t differs = 0;
                for (std::size_t k = 0; k < 4; ++k)
                    differs |= digit(before, row, k, word) ^ digit(now, row, k, word);
                addBits(box, word, differs, y, z);
            }
        }
}

/// One gathering: a class because its steps share what is read and written.
template <int kEdge> class Again {
public:
    Again(const LightAround& from, GatheredLight& to, ChunkBox& box)
        : m_from(from)
        , m_to(to)
        , m_box(box)
    {
        for (std::size_t i = 0; i < from.levels.size(); ++i) {
            m_now[i] = from.levels[i].get();
            m_before[i] = to.levels.isSame(i, from.levels[i]) ? from.levels[i] : to.levels.all[i].lock();
        }
    }

    void passable()
    {
        for (std::size_t i = 0; i < m_from.passes.size(); ++i) {
            if (m_to.passes.isSame(i, m_from.passes[i]))
                continue;
            const Transmission& now = *m_from.passes[i];
            const auto before = m_to.passes.all[i].lock();
            m_isPassableOther |= PartRows<kEdge>(i, m_to.light, m_box)
                                     .bring(
                                         m_to.light.passable, 1,
                                         [&now](std::size_t, int y, int z) { return passableRow<kEdge>(&now, y, z); },
                                         [&](int y) { return before && isLayerAlike(*before, now, y); });
        }
    }

    void channel(std::size_t c)
    {
        PaddedLight::Channel& channel = m_to.light.of[c];
        std::vector<ChunkChange> changes;
        for (std::size_t i = 0; i < m_from.levels.size(); ++i) {
            const ChannelLevels &now = m_now[i]->of[c], *before = m_before[i] ? &m_before[i]->of[c] : nullptr;
            const bool isSame = m_before[i].get() == m_now[i]
                || (before && before->bits.empty() && now.bits.empty() && before->all == now.all);
            if (!isSame)
                changes.push_back({i, &now, before});
        }
        if (changes.empty() && !m_isPassableOther)
            return;
        const bool isEven = isChannelEven(m_now, c);
        if (isEven && changes.empty())
            return;
        if (isEven || (channel.all && !m_to.hasDigits[c])) {
            const PaddedLight::Channel before = std::exchange(channel, {});
            m_to.unevenAt[c] = gatherChannel(m_now, c, m_to.light);
            m_to.hasDigits[c] = !isEven;
            addDifference(m_to.light, before, channel, m_box);
            return;
        }
        bool isOther = m_isPassableOther;
        for (const ChunkChange& change : changes)
            isOther |= bring(change, channel);
        m_to.hasDigits[c] = true;
        if (isOther && !(channel.all && isAllStill(channel)))
            m_to.unevenAt[c] = m_to.light.collapseIfUniform(static_cast<int>(c), m_to.unevenAt[c]);
    }

private:
    /// Of a channel that was even: is it so where something has changed, and thereby everywhere?
    [[nodiscard]] bool isAllStill(const PaddedLight::Channel& channel) const
    {
        const PaddedLight& light = m_to.light;
        std::uint64_t differs = 0;
        for (int y = m_box.low[1]; y < m_box.high[1]; ++y)
            for (int z = m_box.low[2]; z < m_box.high[2]; ++z) {
                const std::size_t row = light.row(y, z);
                for (std::size_t word = 0; word < light.words; ++word)
                    for (std::size_t k = 0; k < 4; ++k)
                        differs |= channel.digits[(row * 4 + k) * light.words + word]
                            ^ (*channel.all >> k & 1 ? light.passable[row * light.words + word] : 0);
            }
        return differs == 0;
    }

    bool bring(const ChunkChange& change, PaddedLight::Channel& channel)
    {
        const ChannelLevels& now = *change.now;
        return PartRows<kEdge>(change.number, m_to.light, m_box)
            .bring(
                channel.digits, 4,
                [&now](std::size_t k, int y, int z) {
                    if (now.bits.empty())
                        return now.all >> k & 1 ? ~std::uint64_t{0} >> (64 - kEdge) : 0;
                    std::uint64_t bits = 0;
                    std::memcpy(&bits, levelsOf<kEdge>(now.bits.data(), y, z) + k * (kEdge / 8), kEdge / 8);
                    return bits;
                },
                [&](int y) { return change.before && isLayerAlike(*change.before, now, kEdge, y); });
    }

    const LightAround& m_from;
    GatheredLight& m_to;
    ChunkBox& m_box;
    std::array<const ChunkLight*, 27> m_now;
    SharedAround<ChunkLight> m_before; // null where it is no longer known
    bool m_isPassableOther = false;
};

} // namespace

std::optional<ChunkBox> updatePaddedLight(const LightRules& rules, int edge, const LightAround& from, GatheredLight& to)
{
    const int channels = rules.mode->channels();
    std::optional<ChunkBox> box;
    if (to.light.edge == edge && to.light.channels == channels) {
        box = ChunkBox::nothing();
        withEdge(edge, [&](auto e) {
            Again<decltype(e)::value> again(from, to, *box);
            again.passable();
            for (std::size_t c = 0; c < static_cast<std::size_t>(channels); ++c)
                again.channel(c);
        });
    } else {
        LightBlock block{&rules, edge, {3, 3, 3}, {}, {}, 0};
        std::array<const ChunkLight*, 27> levels{};
        for (std::size_t i = 0; i < levels.size(); ++i) {
            block.passes.push_back(from.passes[i].get());
            levels[i] = from.levels[i].get();
        }
        gatherLight(block, levels, to.light);
        to.invalidate();
    }
    to.passes.remember(from.passes);
    to.levels.remember(from.levels);
    return box;
}

} // namespace fell::light
