// SPDX-License-Identifier: Apache-2.0
// What is read of a flood.
#include <fell/light/bit_flood.h>
#include <fell/light/bit_rows.h>

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell::light {

BitFlood& Flooded::flood() const
{
    assert(m_number == m_flood->m_number);
    return *m_flood;
}

bool Flooded::touches(std::span<const RegionChunk> tinted) const
{
    BitFlood& f = flood();
    if (tinted.empty())
        return false;
    f.m_tinted.reset(f.m_region);
    for (const RegionChunk& chunk : tinted)
        copyRows(chunk.passes->tinted, chunk.passes->edge, chunk.place, f.m_region, f.m_tinted.data());
    const std::uint64_t *reached = f.m_reached.data(), *tint = f.m_tinted.data();
    for (int y = 0; y < f.m_region.y; ++y)
        for (std::uint32_t groups = besideGroups(f.m_touched, y, allGroups(f.m_region)); groups; groups &= groups - 1) {
            const std::ptrdiff_t at = f.m_region.at(y, 0) + std::countr_zero(groups) * kRegionGroup;
            std::uint64_t any = 0;
            for (std::ptrdiff_t i = at; i < at + kRegionGroup; ++i)
                any |= (around<true>(reached, i, f.m_region.words, f.m_region.layer) | reached[i]) & tint[i];
            if (any)
                return true;
        }
    return false;
}

void Flooded::copyOut(ChannelLevels& levels, int edge, RegionPlace place) const
{
    const BitFlood& f = flood();
    const bool isDark = levels.bits.empty() && levels.all == 0;
    if (isDark) { // nothing to write where nothing was reached
        std::uint32_t touched = 0;
        for (int y = std::max(0, place.y); y < std::min(f.m_region.y, place.y + edge); ++y)
            touched |= f.m_touched[static_cast<std::size_t>(y)];
        if (touched == 0)
            return;
    }
    expand(levels, edge);
    copyLevelsOut(f.digits(), isDark ? f.m_reached.data() : nullptr, edge, place, f.m_region, levels.bits.data());
}

void Flooded::copyBox(int first, int size, std::vector<std::uint64_t>& digits) const
{
    const BitFlood& f = flood();
    const int words = (size + 63) / 64, skip = first / 64, shift = first % 64;
    digits.resize(static_cast<std::size_t>(size * size * words) * 4);
    std::uint64_t* to = digits.data();
    for (int y = first; y < first + size; ++y)
        for (int z = first; z < first + size; ++z)
            for (const BitPlane& digit : f.m_out) {
                const std::uint64_t* row = digit.data() + f.m_region.at(y, z) + skip;
                for (int w = 0; w < words; ++w) {
                    const bool straddles = shift != 0 && skip + w + 1 < f.m_region.words;
                    *to++ = (row[w] >> shift | (straddles ? row[w + 1] << (64 - shift) : 0))
                        & lowBits(std::min(64, size - w * 64));
                }
            }
}

bool Flooded::raiseTo(ChannelLevels& levels, int edge, RegionPlace place) const
{
    const BitFlood& f = flood();
    bool any = false;
    withEdge(edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        using Four = typename FourRows<kEdge>::Type;
        const auto raise = [&](int y, int z, const Wide& found) {
            any = true;
            expand(levels, kEdge);
            auto* four = reinterpret_cast<Four*>(levelsOf<kEdge>(levels.bits.data(), y, z));
            const Wide has = __builtin_convertvector(*four, Wide);
            std::uint64_t higher = 0; // where what was found is higher: decided by the highest digit that differs
            for (int k = 0; k < 4; ++k)
                higher = (found[k] & ~has[k]) | (higher & ~(found[k] ^ has[k]));
            *four = __builtin_convertvector((has & ~higher) | (found & higher), Four);
        };
        const auto digitsAt = [&](std::ptrdiff_t i) {
            return Wide{f.m_out[0].data()[i], f.m_out[1].data()[i], f.m_out[2].data()[i], f.m_out[3].data()[i]};
        };
        if (f.m_region.words == 1) {
            const int left = std::max(0, place.x), right = std::max(0, -place.x);
            eachRow(
                f.m_region, f.m_reached.data(), kEdge, place, [&](int y, int z, std::ptrdiff_t i, std::uint64_t mask) {
                    raise(y, z, (digitsAt(i) >> left << right) & mask);
                });
            return;
        }
        const Overlap ox = overlap(place.x, kEdge, f.m_region.x), oy = overlap(place.y, kEdge, f.m_region.y),
                      oz = overlap(place.z, kEdge, f.m_region.z);
        if (!ox.any())
            return;
        const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
        const int x = std::max(0, place.x), left = std::max(0, -place.x), right = x % 64;
        const bool straddles = right != 0 && x / 64 + 1 < f.m_region.words;
        for (int y = oy.from; y < oy.to; ++y) {
            if (f.m_touched[static_cast<std::size_t>(y + place.y)] == 0)
                continue;
            std::ptrdiff_t i = f.m_region.at(y + place.y, oz.from + place.z) + x / 64;
            for (int z = oz.from; z < oz.to; ++z, i += f.m_region.words) {
                const std::uint64_t* reached = f.m_reached.data() + i;
                const std::uint64_t row
                    = (reached[0] >> right | (straddles ? reached[1] << (64 - right) : 0)) << left & inside;
                if (row == 0)
                    continue;
                Wide found = digitsAt(i) >> right;
                if (straddles)
                    found |= digitsAt(i + 1) << (64 - right);
                raise(y, z, (found << left) & row);
            }
        }
    });
    return any;
}

/// Subtracts digit by digit, as on paper; where a borrow is left over, the level was lower and becomes 0.
void Flooded::dim(int by)
{
    BitFlood& f = flood();
    for (std::size_t y = 0; y < f.m_touched.size(); ++y)
        for (std::uint32_t groups = f.m_touched[y]; groups; groups &= groups - 1) {
            const std::ptrdiff_t at
                = static_cast<std::ptrdiff_t>(y) * f.m_region.layer + std::countr_zero(groups) * kRegionGroup;
            for (std::ptrdiff_t i = at; i < at + kRegionGroup; i += kWide) {
                Wide borrow{}, left[4];
                for (unsigned k = 0; k < 4; ++k) {
                    const Wide digit = wideAt(f.m_out[k].data() + i);
                    const Wide taken = Wide{} - static_cast<std::uint64_t>(static_cast<unsigned>(by) >> k & 1);
                    left[k] = digit ^ taken ^ borrow;
                    borrow = (~digit & (taken | borrow)) | (taken & borrow);
                }
                for (unsigned k = 0; k < 4; ++k)
                    wideAt(f.m_out[k].data() + i) = left[k] & ~borrow;
            }
        }
}

} // namespace fell::light
