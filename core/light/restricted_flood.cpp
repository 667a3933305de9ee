// SPDX-License-Identifier: Apache-2.0
#include <fell/light/restricted_flood.h>

#include <fell/light/bit_rows.h>

#include <algorithm>
#include <cassert>
#include <utility>

namespace fell::light {

RestrictedFlood::RestrictedFlood(BitFlood& flood, RestrictedMemory& memory, const FloodRegion& region,
    std::span<const RegionChunk> chunks, std::vector<LightSource> changed, std::span<const RegionLamp> lamps,
    std::span<const RegionChunk> tinted)
    : m_flood(flood)
    , m_memory(memory)
    , m_chunks(chunks)
{
    assert(region.words == 1);
    m_flood.begin(region);
    m_flood.setTransmission(m_chunks, m_colour);
    FloodStart start{std::move(changed)};
    const Flooded all = m_flood.flood(start);
    m_touchesTinted = all.touches(tinted);
    const std::size_t words = m_flood.m_region.total();
    m_memory.inside.assign(words, 0);
    m_memory.edge.assign(words, 0);
    for (const RegionLamp& lamp : lamps)
        m_memory.edge[static_cast<std::size_t>(m_flood.m_region.at(lamp.y, lamp.z))] |= std::uint64_t{1} << lamp.x;
    const std::uint64_t *reached = m_flood.m_reached.data(), *clear = m_flood.m_clear.data();
    std::uint64_t *inside = m_memory.inside.data(), *border = m_memory.edge.data();
    const std::ptrdiff_t layer = m_flood.m_region.layer;
    for (std::ptrdiff_t i = 0; i < m_flood.m_region.y * layer; i += kWide) {
        const Wide here = wideAt(reached + i);
        wideAt(inside + i) = here;
        Wide lit = wideAt(border + i) | wideAt(clear + i); // what can have light at all
        for (std::size_t d = 0; d < m_flood.m_absorbingCount; ++d)
            lit |= wideAt(m_flood.m_absorbing[d].where.data() + i);
        wideAt(border + i) = (here << 1 | here >> 1 | wideAt(reached + i - 1) | wideAt(reached + i + 1)
                                 | wideAt(reached + i - layer) | wideAt(reached + i + layer))
            & ~here & lit;
    }
    m_flood.m_openGroups = m_flood.m_touched;
    restrict();
}

/// Cuts what light passes through to what is inside.
void RestrictedFlood::restrict()
{
    const auto cut = [this](std::uint64_t* passes) {
        const std::uint64_t* inside = m_memory.inside.data();
        for (std::ptrdiff_t i = 0, count = m_flood.m_region.y * m_flood.m_region.layer; i < count; i += kWide)
            wideAt(passes + i) &= wideAt(inside + i);
    };
    cut(m_flood.m_clear.data());
    for (std::size_t d = 0; d < m_flood.m_absorbingCount; ++d)
        cut(m_flood.m_absorbing[d].where.data());
}

void RestrictedFlood::setColour(LightColour colour)
{
    if (std::exchange(m_colour, colour) == colour)
        return;
    m_flood.setTransmission(m_chunks, m_colour);
    restrict();
}

void RestrictedFlood::readBorder(const ChannelLevels& levels, int edge, RegionPlace place, FloodBorder& border) const
{
    if (levels.bits.empty() && levels.all == 0)
        return;
    const int left = std::max(0, place.x), right = std::max(0, -place.x);
    withEdge(edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        eachRow(m_flood.m_region, m_memory.edge.data(), kEdge, place,
            [&](int y, int z, std::ptrdiff_t at, std::uint64_t mask) {
                std::array<std::uint64_t, 4> digits{};
                const std::byte* row = levels.bits.empty() ? nullptr : levelsOf<kEdge>(levels.bits.data(), y, z);
                for (unsigned k = 0; k < 4; ++k) {
                    if (row)
                        std::memcpy(&digits[k], row + k * (kEdge / 8), kEdge / 8);
                    else
                        digits[k] = levels.all >> k & 1 ? mask : 0;
                    digits[k] = (digits[k] & mask) >> right << left;
                }
                if ((digits[0] | digits[1] | digits[2] | digits[3]) != 0)
                    border.add(y + place.y, at, digits);
            });
    });
}

void RestrictedFlood::storeInside(const Flooded& found, ChannelLevels& levels, int edge, RegionPlace place) const
{
    const DigitPlanes out = found.flood().digits();
    const int left = std::max(0, place.x), right = std::max(0, -place.x);
    withEdge(edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        using Four = typename FourRows<kEdge>::Type;
        eachRow(m_flood.m_region, m_memory.inside.data(), kEdge, place,
            [&](int y, int z, std::ptrdiff_t i, std::uint64_t mask) {
                expand(levels, kEdge);
                const Wide digits = Wide{out[0][i], out[1][i], out[2][i], out[3][i]} >> left << right;
                auto* four = reinterpret_cast<Four*>(levelsOf<kEdge>(levels.bits.data(), y, z));
                const Wide kept = __builtin_convertvector(*four, Wide) & ~mask;
                *four = __builtin_convertvector(kept | (digits & mask), Four);
            });
    });
}

} // namespace fell::light
