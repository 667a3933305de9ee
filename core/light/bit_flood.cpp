// SPDX-License-Identifier: Apache-2.0
// Each level is one pass: what the level above reached is shifted to its six neighbours, cut to what passes and is not
// reached yet. Only groups of words next to groups that the level above reached are looked at.
#include <fell/light/bit_flood.h>

#include <fell/light/bit_rows.h>

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell::light {

void FloodBorder::add(int y, std::ptrdiff_t at, const std::array<std::uint64_t, 4>& digits)
{
    for (std::uint64_t rest = digits[0] | digits[1] | digits[2] | digits[3]; rest != 0;) {
        const int bit = std::countr_zero(rest);
        std::uint64_t alike = rest;
        unsigned level = 0;
        for (unsigned k = 0; k < 4; ++k) {
            const bool on = digits[k] >> bit & 1;
            level |= (on ? 1u : 0u) << k;
            alike &= on ? digits[k] : ~digits[k];
        }
        words[level].push_back({at, alike, y});
        rest &= ~alike;
    }
}

std::optional<int> FloodBorder::offsetFrom(const FloodBorder& brighter) const
{
    for (int level = kMaxLight; level > 0; --level)
        if (!words[static_cast<std::size_t>(level)].empty())
            for (int kept = kMaxLight; kept > 0; --kept)
                if (!brighter.words[static_cast<std::size_t>(kept)].empty())
                    return kept - level; // the brightest of both; isOffsetBy asks about the others
    return std::nullopt;
}

bool FloodBorder::isOffsetBy(int by, const FloodBorder& brighter) const
{
    if (by < 0)
        return false;
    // Rows are read in the same order, so words of equal levels stand in the same order too.
    for (int level = 1; level <= kMaxLight; ++level) {
        const auto& here = words[static_cast<std::size_t>(level)];
        if (level + by > kMaxLight ? !here.empty() : here != brighter.words[static_cast<std::size_t>(level + by)])
            return false;
    }
    return true;
}

/// Puts out what the last flood reached, so that the next finds empty planes without clearing all of them.
void BitFlood::forget()
{
    for (std::size_t y = 0; y < m_touched.size(); ++y)
        for (; m_touched[y]; m_touched[y] &= m_touched[y] - 1) {
            const std::ptrdiff_t at
                = static_cast<std::ptrdiff_t>(y) * m_region.layer + std::countr_zero(m_touched[y]) * kRegionGroup;
            std::fill_n(m_reached.data() + at, kRegionGroup, 0);
            for (BitPlane& out : m_out)
                std::fill_n(out.data() + at, kRegionGroup, 0);
        }
}

void BitFlood::begin(const FloodRegion& region)
{
    forget();
    m_region = region;
    m_clear.reset(region);
    for (BitPlane* bits : {&m_reached, &m_fresh, &m_next})
        bits->fit(region);
    for (BitPlane& out : m_out)
        out.fit(region);
    m_absorbingCount = 0;
    m_isTold = false;
    m_openGroups.assign(static_cast<std::size_t>(region.y), ~std::uint32_t{0});
    const auto layers = static_cast<std::size_t>(region.y);
    for (Groups* groups : {&m_freshGroups, &m_nextGroups, &m_touched})
        groups->assign(layers, 0);
    for (Waiting& waiting : m_waiting)
        waiting.groups.clear();
}

void BitFlood::setTransmission(std::span<const RegionChunk> chunks, LightColour colour)
{
    if (m_absorbingCount > 0 || m_isTold) {
        m_clear.reset(m_region);
        m_absorbingCount = 0;
    }
    m_isTold = true;
    for (const RegionChunk& chunk : chunks)
        addTransmission(chunk, colour);
}

void BitFlood::addTransmission(const RegionChunk& chunk, LightColour colour)
{
    const Transmission& passes = *chunk.passes;
    const RegionPlace place = chunk.place;
    if (passes.kind == Transmission::Kind::Dark)
        return;
    if (passes.kind == Transmission::Kind::Open)
        return fillRows(passes.edge, place, m_region, m_clear.data());
    const Transmission::Colour& of = passes.of(colour);
    const int edge = passes.edge;
    copyRows(of.transparent, edge, place, m_region, m_clear.data());
    for (const AbsorbingVoxels& absorbing : of.absorbing) {
        std::size_t i = 0;
        while (i < m_absorbingCount && m_absorbing[i].attenuation != absorbing.attenuation)
            ++i;
        if (i == m_absorbingCount) {
            if (m_absorbing.size() == i)
                m_absorbing.emplace_back();
            m_absorbing[i].attenuation = absorbing.attenuation;
            m_absorbing[i].where.reset(m_region);
            m_absorbing[i].low = m_region.y;
            m_absorbing[i].high = 0;
            m_absorbing[i].groups.clear();
            ++m_absorbingCount;
        }
        copyRows(absorbing.where, edge, place, m_region, m_absorbing[i].where.data());
        m_absorbing[i].low = std::min(m_absorbing[i].low, std::max(0, place.y));
        m_absorbing[i].high = std::max(m_absorbing[i].high, std::min(m_region.y, place.y + edge));
    }
}

void BitFlood::mark(int y, std::ptrdiff_t at)
{
    m_nextLayers.add(y);
    m_nextGroups[static_cast<std::size_t>(y)] |= std::uint32_t{1}
        << (at - static_cast<std::ptrdiff_t>(y) * m_region.layer) / kRegionGroup;
    m_anyNext = true;
}

/// Bits of one word are of `level`, unless they have been reached before.
void BitFlood::light(int level, std::ptrdiff_t at, std::uint64_t bits)
{
    bits &= ~m_reached.data()[at];
    m_reached.data()[at] |= bits;
    m_next.data()[at] |= bits;
    for (unsigned k = 0; k < 4; ++k)
        if (static_cast<unsigned>(level) >> k & 1)
            m_out[k].data()[at] |= bits;
}

template <bool kManyWords> void BitFlood::spreadClear(int level)
{
    const std::uint32_t all = allGroups(m_region);
    std::array<std::uint64_t*, 4> digits{};
    std::size_t count = 0;
    for (std::size_t k = 0; k < 4; ++k)
        if (static_cast<unsigned>(level) >> k & 1)
            digits[count++] = m_out[k].data();
    // Wide stores may alias everything, so what the loops read of this object is read once.
    const std::uint64_t* const freshest = m_fresh.data();
    const std::uint64_t* const clearest = m_clear.data();
    std::uint64_t *const reachedAll = m_reached.data(), *const nextAll = m_next.data();
    const std::ptrdiff_t words = m_region.words, layer = m_region.layer;
    const Layers layers{std::max(0, m_freshLayers.low - 1), std::min(m_region.y - 1, m_freshLayers.high + 1)};
    for (int y = layers.low; y <= layers.high; ++y) {
        std::uint32_t lit = 0;
        for (std::uint32_t groups = besideGroups(m_freshGroups, y, all & m_openGroups[static_cast<std::size_t>(y)]);
             groups; groups &= groups - 1) {
            const std::ptrdiff_t at = y * layer + std::countr_zero(groups) * kRegionGroup;
            Wide found[2]; // no std::array: it would lose the alignment
            for (std::ptrdiff_t h = 0; h < 2; ++h) {
                const std::uint64_t* f = freshest + at + h * kWide;
                const Wide here = wideAt(f);
                Wide bits = here << 1 | here >> 1 | wideAt(f - words) | wideAt(f + words) | wideAt(f - layer)
                    | wideAt(f + layer);
                if constexpr (kManyWords)
                    bits |= wideAt(f - 1) >> 63 | wideAt(f + 1) << 63;
                found[h] = bits & wideAt(clearest + at + h * kWide) & ~wideAt(reachedAll + at + h * kWide);
            }
            const Wide any = found[0] | found[1];
            if ((any[0] | any[1] | any[2] | any[3]) == 0)
                continue;
            for (std::ptrdiff_t h = 0; h < 2; ++h) {
                wideAt(reachedAll + at + h * kWide) |= found[h];
                wideAt(nextAll + at + h * kWide) = found[h];
                for (std::size_t k = 0; k < count; ++k)
                    wideAt(digits[k] + at + h * kWide) |= found[h];
            }
            lit |= groups & -groups;
        }
        if (lit == 0)
            continue;
        m_nextGroups[static_cast<std::size_t>(y)] |= lit;
        m_nextLayers.add(y);
        m_anyNext = true;
    }
}

/// Notes which groups hold any absorbing voxel.
void BitFlood::findGroups(Absorbing& absorbing) const
{
    absorbing.groups.assign(static_cast<std::size_t>(m_region.y), 0);
    for (int y = absorbing.low; y < absorbing.high; ++y)
        for (std::ptrdiff_t i = 0; i < m_region.layer; ++i)
            if (absorbing.where.data()[m_region.at(y, 0) + i])
                absorbing.groups[static_cast<std::size_t>(y)] |= std::uint32_t{1} << i / kRegionGroup;
}

/// What `level` has reached lights its absorbing neighbours at a lower level: they wait for that.
void BitFlood::spreadAbsorbing(int level)
{
    const std::uint32_t all = allGroups(m_region);
    for (std::size_t d = 0; d < m_absorbingCount; ++d) {
        Absorbing& absorbing = m_absorbing[d];
        if (level <= absorbing.attenuation)
            continue;
        if (absorbing.groups.empty())
            findGroups(absorbing);
        Waiting& waiting = m_waiting[static_cast<std::size_t>(level - absorbing.attenuation)];
        if (waiting.groups.empty()) {
            waiting.groups.assign(static_cast<std::size_t>(m_region.y), 0);
            waiting.where.fit(m_region); // all off since its last use
        }
        for (int y = absorbing.low; y < absorbing.high; ++y)
            for (std::uint32_t groups
                 = besideGroups(m_nextGroups, y, all) & absorbing.groups[static_cast<std::size_t>(y)];
                 groups; groups &= groups - 1) {
                const int group = std::countr_zero(groups);
                const std::ptrdiff_t at = m_region.at(y, 0) + group * kRegionGroup;
                std::uint64_t any = 0;
                for (std::ptrdiff_t i = at; i < at + kRegionGroup; ++i) {
                    const std::uint64_t lit = around<true>(m_next.data(), i, m_region.words, m_region.layer)
                        & absorbing.where.data()[i] & ~m_reached.data()[i];
                    waiting.where.data()[i] |= lit;
                    any |= lit;
                }
                if (any) {
                    waiting.groups[static_cast<std::size_t>(y)] |= std::uint32_t{1} << group;
                    waiting.any = true;
                }
            }
    }
}

void BitFlood::endWaiting(int level)
{
    Waiting& waiting = m_waiting[static_cast<std::size_t>(level)];
    if (!waiting.any)
        return;
    waiting.any = false;
    for (int y = 0; y < m_region.y; ++y)
        for (std::uint32_t& groups = waiting.groups[static_cast<std::size_t>(y)]; groups; groups &= groups - 1) {
            const std::ptrdiff_t at = m_region.at(y, 0) + std::countr_zero(groups) * kRegionGroup;
            for (std::ptrdiff_t i = at; i < at + kRegionGroup; ++i) {
                light(level, i, waiting.where.data()[i]);
                waiting.where.data()[i] = 0;
            }
            mark(y, at);
        }
}

void BitFlood::startSky(const BitPlane& sky)
{
    const std::uint32_t all = allGroups(m_region);
    for (int y = 0; y < m_region.y; ++y)
        for (std::uint32_t groups = all; groups; groups &= groups - 1) {
            const std::ptrdiff_t at = m_region.at(y, 0) + std::countr_zero(groups) * kRegionGroup;
            std::uint64_t any = 0;
            for (std::ptrdiff_t i = at; i < at + kRegionGroup; ++i) {
                const std::uint64_t bits = sky.data()[i];
                any |= bits;
                m_next.data()[i] = m_reached.data()[i] = bits;
                for (BitPlane& out : m_out)
                    out.data()[i] = bits;
            }
            if (any)
                mark(y, at);
        }
}

void BitFlood::startLamps(
    int level, std::vector<LightSource>::const_iterator& lamp, std::vector<LightSource>::const_iterator end)
{
    for (; lamp != end && lamp->level == level; ++lamp) {
        const std::ptrdiff_t at = m_region.at(lamp->y, lamp->z) + lamp->x / 64;
        light(level, at, std::uint64_t{1} << (lamp->x % 64));
        mark(lamp->y, at);
    }
}

void BitFlood::startBorder(int level, const FloodBorder& border)
{
    for (const FloodBorder::Word& word : border.words[static_cast<std::size_t>(level)]) {
        m_next.data()[word.at] |= word.bits; // nothing else reaches it
        mark(word.y, word.at);
    }
}

/// What was next is fresh now, and the planes of the level before are empty again.
void BitFlood::finishLevel()
{
    for (int y = m_freshLayers.low; y <= m_freshLayers.high; ++y)
        for (std::uint32_t& groups = m_freshGroups[static_cast<std::size_t>(y)]; groups; groups &= groups - 1)
            std::fill_n(m_fresh.data() + y * m_region.layer + std::countr_zero(groups) * kRegionGroup, kRegionGroup, 0);
    for (int y = m_nextLayers.low; y <= m_nextLayers.high; ++y)
        m_touched[static_cast<std::size_t>(y)] |= m_nextGroups[static_cast<std::size_t>(y)];
    m_freshLayers = m_nextLayers;
    m_nextLayers = {};
    std::swap(m_fresh, m_next);
    std::swap(m_freshGroups, m_nextGroups);
    m_anyFresh = m_anyNext;
    m_anyNext = false;
}

Flooded BitFlood::flood(FloodStart& start)
{
    forget();
    std::sort(start.lamps.begin(), start.lamps.end(),
        [](const LightSource& a, const LightSource& b) { return a.level > b.level; });
    m_anyFresh = m_anyNext = false;
    m_freshLayers = m_nextLayers = {};
    auto lamp = start.lamps.cbegin();
    if (start.sky)
        startSky(*start.sky);
    for (int level = kMaxLight; level >= 1; --level) {
        if (m_anyFresh && m_region.words == 1)
            spreadClear<false>(level);
        else if (m_anyFresh)
            spreadClear<true>(level);
        endWaiting(level);
        startLamps(level, lamp, start.lamps.cend());
        if (start.border)
            startBorder(level, *start.border);
        if (m_anyNext && m_absorbingCount > 0)
            spreadAbsorbing(level);
        finishLevel();
    }
    finishLevel(); // both planes are empty again
    return {*this, ++m_number};
}

RegionFlood::RegionFlood(
    BitFlood& flood, const FloodRegion& region, std::span<const RegionChunk> chunks, LightColour colour)
    : m_flood(flood)
    , m_chunks(chunks)
    , m_colour(colour)
{
    m_flood.begin(region);
    m_flood.setTransmission(m_chunks, m_colour);
}

void RegionFlood::setColour(LightColour colour)
{
    if (std::exchange(m_colour, colour) != colour)
        m_flood.setTransmission(m_chunks, m_colour);
}

} // namespace fell::light
