// SPDX-License-Identifier: Apache-2.0
// Each level is one pass: what the level above reached is shifted to its six neighbours, cut to what passes and is not
// reached yet. Only groups of words beside groups that the level above reached are looked at.
#include "light/window.h"

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell {
namespace {

/// Four words at a time, at any word's address. Spelt out, since the compiler made single words of plain loops.
using Wide = std::uint64_t __attribute__((vector_size(32), aligned(8), may_alias));
constexpr int kWide = 4;
static_assert(kWindowGroup == 2 * kWide);
const Wide& wideAt(const std::uint64_t* p)
{
    return *reinterpret_cast<const Wide*>(p);
}
Wide& wideAt(std::uint64_t* p)
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
Overlap overlap(int place, int edge, int size)
{
    return {std::max(0, -place), std::min(edge, size - place)};
}

std::uint64_t lowBits(int count)
{
    return count >= 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << count) - 1;
}

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
void copyRows(const std::uint64_t* volume, WindowPlace place, const WindowShape& shape, std::uint64_t* to)
{
    const Overlap ox = overlap(place.x, kEdge, shape.x), oy = overlap(place.y, kEdge, shape.y),
                  oz = overlap(place.z, kEdge, shape.z);
    if (!ox.any())
        return;
    const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
    for (int y = oy.from; y < oy.to; ++y) {
        std::uint64_t* row = to + shape.at(y + place.y, oz.from + place.z);
        if (shape.words == 1) {
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
            for (int z = oz.from; z < oz.to; ++z, row += shape.words)
                *row |= (rowOf<kEdge>(volume, y, z) & inside) << (place.x % 64);
        } else {
            for (int z = oz.from; z < oz.to; ++z, row += shape.words)
                orShifted(row, place.x, rowOf<kEdge>(volume, y, z) & inside);
        }
    }
}

void fillRows(int edge, WindowPlace place, const WindowShape& shape, std::uint64_t* to)
{
    const Overlap ox = overlap(place.x, edge, shape.x), oy = overlap(place.y, edge, shape.y),
                  oz = overlap(place.z, edge, shape.z);
    if (!ox.any())
        return;
    const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
    for (int y = oy.from; y < oy.to; ++y)
        for (int z = oz.from; z < oz.to; ++z)
            orShifted(to + shape.at(y + place.y, z + place.z), place.x, inside);
}

/// Four rows of 32 levels from rows of two words, `right` bits of which come before the first: transposed, since digits
/// of a row stand beside each other in the chunk. `levels`: 16 words.
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

/// The levels of four digits' planes, put beside each other for each row of the chunk. `lit` may be null; rows in which
/// none of its bits is on are left as they are.
template <int kEdge>
void copyLevelsOut(const std::array<const std::uint64_t*, 4>& from, const std::uint64_t* lit, WindowPlace place,
    const WindowShape& shape, std::uint64_t* levels)
{
    using Four = typename FourRows<kEdge>::Type;
    const Overlap ox = overlap(place.x, kEdge, shape.x), oy = overlap(place.y, kEdge, shape.y),
                  oz = overlap(place.z, kEdge, shape.z);
    if (!ox.any())
        return;
    const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
    const int x = std::max(0, place.x), left = std::max(0, -place.x), right = x % 64;
    const bool straddles = right != 0 && x / 64 + 1 < shape.words;
    for (int y = oy.from; y < oy.to; ++y) {
        std::ptrdiff_t i = shape.at(y + place.y, oz.from + place.z) + x / 64;
        int z = oz.from;
        if constexpr (kEdge == 32)
            for (; shape.words == 2 && ox.to - ox.from == kEdge && z + 4 <= oz.to; z += 4, i += 8) {
                const std::ptrdiff_t first = i - x / 64;
                if (lit) {
                    const Wide any = wideAt(lit + first) | wideAt(lit + first + 4);
                    if ((any[0] | any[1] | any[2] | any[3]) == 0)
                        continue;
                }
                copyFourRows(from, first, x, levels + (y * kEdge + z) * 2);
            }
        for (; z < oz.to; ++z, i += shape.words) {
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

/// The groups of a layer that lie beside groups of this and the next layers.
std::uint32_t besideGroups(const std::vector<std::uint32_t>& groups, int y, std::uint32_t all)
{
    const auto at = static_cast<std::size_t>(y);
    const std::uint32_t here = groups[at];
    return (here | here << 1 | here >> 1 | (at > 0 ? groups[at - 1] : 0)
               | (at + 1 < groups.size() ? groups[at + 1] : 0))
        & all;
}

std::uint32_t allGroups(const WindowShape& shape)
{
    return static_cast<std::uint32_t>((std::uint64_t{1} << shape.layer / kWindowGroup) - 1);
}

} // namespace

WindowShape windowShape(int x, int y, int z)
{
    assert(x >= 1 && z >= 1 && x <= 126 && z <= 126 && y >= 1);
    WindowShape shape{x, y, z, x / 64 + 1, 0}; // one bit more than x at least
    shape.layer = (shape.words * (z + 1) + kWindowGroup - 1) / kWindowGroup * kWindowGroup;
    return shape;
}

void WindowBits::reset(const WindowShape& shape)
{
    m_layer = shape.layer;
    m_words.assign(shape.total() + kWindowGroup, 0); // a few more: groups are read a word beyond
}

void WindowBits::fit(const WindowShape& shape)
{
    m_layer = shape.layer;
    if (m_words.size() < shape.total() + kWindowGroup)
        m_words.resize(shape.total() + kWindowGroup);
}

/// Puts out what the last flood reached, so that the next finds empty planes without clearing all of them.
void LightWindow::forget()
{
    for (std::size_t y = 0; y < m_touched.size(); ++y)
        for (; m_touched[y]; m_touched[y] &= m_touched[y] - 1) {
            const std::ptrdiff_t at
                = static_cast<std::ptrdiff_t>(y) * m_shape.layer + std::countr_zero(m_touched[y]) * kWindowGroup;
            std::fill_n(m_reached.data() + at, kWindowGroup, 0);
            for (WindowBits& out : m_out)
                std::fill_n(out.data() + at, kWindowGroup, 0);
        }
}

void LightWindow::begin(const WindowShape& shape)
{
    forget();
    m_shape = shape;
    m_cheap.reset(shape);
    for (WindowBits* bits : {&m_reached, &m_fresh, &m_next})
        bits->fit(shape);
    for (WindowBits& out : m_out)
        out.fit(shape);
    m_dearCount = 0;
    m_keptGroups.assign(static_cast<std::size_t>(shape.y), ~std::uint32_t{0});
    const auto layers = static_cast<std::size_t>(shape.y);
    for (Groups* groups : {&m_freshGroups, &m_nextGroups, &m_touched})
        groups->assign(layers, 0);
    for (Waiting& waiting : m_waiting)
        waiting.groups.clear();
}

bool LightWindow::touches(std::span<const TintedChunk> tinted)
{
    if (tinted.empty())
        return false;
    m_tinted.reset(m_shape);
    for (const TintedChunk& chunk : tinted)
        withEdge(chunk.passes->edge, [&](auto e) {
            copyRows<decltype(e)::value>(chunk.passes->tinted.data(), chunk.place, m_shape, m_tinted.data());
        });
    const std::uint64_t *reached = m_reached.data(), *tint = m_tinted.data();
    for (int y = 0; y < m_shape.y; ++y)
        for (std::uint32_t groups = besideGroups(m_touched, y, allGroups(m_shape)); groups; groups &= groups - 1) {
            const std::ptrdiff_t at = m_shape.at(y, 0) + std::countr_zero(groups) * kWindowGroup;
            std::uint64_t any = 0;
            for (std::ptrdiff_t i = at; i < at + kWindowGroup; ++i)
                any |= (around<true>(reached, i, m_shape.words, m_shape.layer) | reached[i]) & tint[i];
            if (any)
                return true;
        }
    return false;
}

void LightWindow::clearPasses()
{
    m_cheap.reset(m_shape);
    m_dearCount = 0;
}

void LightWindow::addPasses(const LightPasses& passes, WindowPlace place, LightColour colour)
{
    if (passes.kind == LightPasses::Kind::Dark)
        return;
    if (passes.kind == LightPasses::Kind::Open)
        return fillRows(passes.edge, place, m_shape, m_cheap.data());
    const LightPasses::Colour& of = passes.of(colour);
    withEdge(passes.edge, [&](auto edge) {
        constexpr int kEdge = decltype(edge)::value;
        copyRows<kEdge>(of.cheap.data(), place, m_shape, m_cheap.data());
        for (const DearVoxels& dear : of.dear) {
            std::size_t i = 0;
            while (i < m_dearCount && m_dear[i].takes != dear.takes)
                ++i;
            if (i == m_dearCount) {
                if (m_dear.size() == i)
                    m_dear.emplace_back();
                m_dear[i].takes = dear.takes;
                m_dear[i].where.reset(m_shape);
                m_dear[i].low = m_shape.y;
                m_dear[i].high = 0;
                m_dear[i].groups.clear();
                ++m_dearCount;
            }
            copyRows<kEdge>(dear.where.data(), place, m_shape, m_dear[i].where.data());
            m_dear[i].low = std::min(m_dear[i].low, std::max(0, place.y));
            m_dear[i].high = std::max(m_dear[i].high, std::min(m_shape.y, place.y + kEdge));
        }
    });
}

void LightWindow::keepTo(std::vector<WindowSource> from, const std::vector<WindowLamp>& lamps)
{
    assert(m_shape.words == 1);
    Start start;
    start.lamps = std::move(from);
    flood(start);
    const std::size_t words = m_shape.total();
    m_inside.assign(words, 0);
    m_edge.assign(words, 0);
    for (const WindowLamp& lamp : lamps)
        m_edge[static_cast<std::size_t>(m_shape.at(lamp.y, lamp.z))] |= std::uint64_t{1} << lamp.x;
    const std::uint64_t *reached = m_reached.data(), *cheap = m_cheap.data();
    std::uint64_t *inside = m_inside.data(), *beside = m_edge.data();
    const std::ptrdiff_t layer = m_shape.layer;
    for (std::ptrdiff_t i = 0; i < m_shape.y * layer; i += kWide) {
        const Wide here = wideAt(reached + i);
        wideAt(inside + i) = here;
        Wide lit = wideAt(beside + i) | wideAt(cheap + i); // what can have light at all
        for (std::size_t d = 0; d < m_dearCount; ++d)
            lit |= wideAt(m_dear[d].where.data() + i);
        wideAt(beside + i) = (here << 1 | here >> 1 | wideAt(reached + i - 1) | wideAt(reached + i + 1)
                                 | wideAt(reached + i - layer) | wideAt(reached + i + layer))
            & ~here & lit;
    }
    m_keptGroups = m_touched;
    cutPasses();
}

void LightWindow::cutPasses()
{
    const auto cut = [this](std::uint64_t* passes) {
        const std::uint64_t* inside = m_inside.data();
        for (std::ptrdiff_t i = 0, count = m_shape.y * m_shape.layer; i < count; i += kWide)
            wideAt(passes + i) &= wideAt(inside + i);
    };
    cut(m_cheap.data());
    for (std::size_t d = 0; d < m_dearCount; ++d)
        cut(m_dear[d].where.data());
}

void LightWindow::mark(int y, std::ptrdiff_t at)
{
    m_nextLayers.add(y);
    m_nextGroups[static_cast<std::size_t>(y)] |= std::uint32_t{1}
        << (at - static_cast<std::ptrdiff_t>(y) * m_shape.layer) / kWindowGroup;
    m_anyNext = true;
}

/// Bits of one word are of `level`, unless they have been reached before.
void LightWindow::light(int level, std::ptrdiff_t at, std::uint64_t bits)
{
    bits &= ~m_reached.data()[at];
    m_reached.data()[at] |= bits;
    m_next.data()[at] |= bits;
    for (unsigned k = 0; k < 4; ++k)
        if (static_cast<unsigned>(level) >> k & 1)
            m_out[k].data()[at] |= bits;
}

template <bool kManyWords> void LightWindow::spreadCheap(int level)
{
    const std::uint32_t all = allGroups(m_shape);
    std::array<std::uint64_t*, 4> digits{};
    std::size_t count = 0;
    for (std::size_t k = 0; k < 4; ++k)
        if (static_cast<unsigned>(level) >> k & 1)
            digits[count++] = m_out[k].data();
    // Wide stores may alias everything, so what the loops read of this object is read once.
    const std::uint64_t* const freshest = m_fresh.data();
    const std::uint64_t* const cheapest = m_cheap.data();
    std::uint64_t *const reachedAll = m_reached.data(), *const nextAll = m_next.data();
    const std::ptrdiff_t words = m_shape.words, layer = m_shape.layer;
    const Layers layers{std::max(0, m_freshLayers.low - 1), std::min(m_shape.y - 1, m_freshLayers.high + 1)};
    for (int y = layers.low; y <= layers.high; ++y) {
        std::uint32_t lit = 0;
        for (std::uint32_t groups = besideGroups(m_freshGroups, y, all & m_keptGroups[static_cast<std::size_t>(y)]);
             groups; groups &= groups - 1) {
            const std::ptrdiff_t at = y * layer + std::countr_zero(groups) * kWindowGroup;
            Wide found[2]; // no std::array: it would lose the alignment
            for (std::ptrdiff_t h = 0; h < 2; ++h) {
                const std::uint64_t* f = freshest + at + h * kWide;
                const Wide here = wideAt(f);
                Wide bits = here << 1 | here >> 1 | wideAt(f - words) | wideAt(f + words) | wideAt(f - layer)
                    | wideAt(f + layer);
                if constexpr (kManyWords)
                    bits |= wideAt(f - 1) >> 63 | wideAt(f + 1) << 63;
                found[h] = bits & wideAt(cheapest + at + h * kWide) & ~wideAt(reachedAll + at + h * kWide);
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

/// Notes which groups hold any dear voxel.
void LightWindow::findGroups(Dear& dear) const
{
    dear.groups.assign(static_cast<std::size_t>(m_shape.y), 0);
    for (int y = dear.low; y < dear.high; ++y)
        for (std::ptrdiff_t i = 0; i < m_shape.layer; ++i)
            if (dear.where.data()[m_shape.at(y, 0) + i])
                dear.groups[static_cast<std::size_t>(y)] |= std::uint32_t{1} << i / kWindowGroup;
}

/// What `level` has reached lights its dear neighbours at a lower level: they wait for that.
void LightWindow::spreadDear(int level)
{
    const std::uint32_t all = allGroups(m_shape);
    for (std::size_t d = 0; d < m_dearCount; ++d) {
        Dear& dear = m_dear[d];
        if (level <= dear.takes)
            continue;
        if (dear.groups.empty())
            findGroups(dear);
        Waiting& waiting = m_waiting[static_cast<std::size_t>(level - dear.takes)];
        if (waiting.groups.empty()) {
            waiting.groups.assign(static_cast<std::size_t>(m_shape.y), 0);
            waiting.where.fit(m_shape); // all off since its last use
        }
        for (int y = dear.low; y < dear.high; ++y)
            for (std::uint32_t groups = besideGroups(m_nextGroups, y, all) & dear.groups[static_cast<std::size_t>(y)];
                 groups; groups &= groups - 1) {
                const int group = std::countr_zero(groups);
                const std::ptrdiff_t at = m_shape.at(y, 0) + group * kWindowGroup;
                std::uint64_t any = 0;
                for (std::ptrdiff_t i = at; i < at + kWindowGroup; ++i) {
                    const std::uint64_t lit = around<true>(m_next.data(), i, m_shape.words, m_shape.layer)
                        & dear.where.data()[i] & ~m_reached.data()[i];
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

void LightWindow::endWaiting(int level)
{
    Waiting& waiting = m_waiting[static_cast<std::size_t>(level)];
    if (!waiting.any)
        return;
    waiting.any = false;
    for (int y = 0; y < m_shape.y; ++y)
        for (std::uint32_t& groups = waiting.groups[static_cast<std::size_t>(y)]; groups; groups &= groups - 1) {
            const std::ptrdiff_t at = m_shape.at(y, 0) + std::countr_zero(groups) * kWindowGroup;
            for (std::ptrdiff_t i = at; i < at + kWindowGroup; ++i) {
                light(level, i, waiting.where.data()[i]);
                waiting.where.data()[i] = 0;
            }
            mark(y, at);
        }
}

void LightWindow::startSky()
{
    const std::uint32_t all = allGroups(m_shape);
    for (int y = 0; y < m_shape.y; ++y)
        for (std::uint32_t groups = all; groups; groups &= groups - 1) {
            const std::ptrdiff_t at = m_shape.at(y, 0) + std::countr_zero(groups) * kWindowGroup;
            std::uint64_t any = 0;
            for (std::ptrdiff_t i = at; i < at + kWindowGroup; ++i) {
                const std::uint64_t bits = m_sky.data()[i];
                any |= bits;
                m_next.data()[i] = m_reached.data()[i] = bits;
                for (WindowBits& out : m_out)
                    out.data()[i] = bits;
            }
            if (any)
                mark(y, at);
        }
}

void LightWindow::startLamps(
    int level, std::vector<WindowSource>::const_iterator& lamp, std::vector<WindowSource>::const_iterator end)
{
    for (; lamp != end && lamp->level == level; ++lamp) {
        const std::ptrdiff_t at = m_shape.at(lamp->y, lamp->z) + lamp->x / 64;
        light(level, at, std::uint64_t{1} << (lamp->x % 64));
        mark(lamp->y, at);
    }
}

/// Notes the levels of some voxels of one row, a word of voxels for each level.
void LightWindow::noteBorder(int y, std::ptrdiff_t at, const std::array<std::uint64_t, 4>& digits)
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
        m_borderWords[level].push_back({at, alike, y});
        rest &= ~alike;
    }
}

void LightWindow::startBorder(int level)
{
    for (const BorderWord& word : m_borderWords[static_cast<std::size_t>(level)]) {
        m_next.data()[word.at] |= word.bits; // nothing else reaches it
        mark(word.y, word.at);
    }
}

/// What was next is fresh now, and the planes of the level before are empty again.
void LightWindow::finishLevel()
{
    for (int y = m_freshLayers.low; y <= m_freshLayers.high; ++y)
        for (std::uint32_t& groups = m_freshGroups[static_cast<std::size_t>(y)]; groups; groups &= groups - 1)
            std::fill_n(m_fresh.data() + y * m_shape.layer + std::countr_zero(groups) * kWindowGroup, kWindowGroup, 0);
    for (int y = m_nextLayers.low; y <= m_nextLayers.high; ++y)
        m_touched[static_cast<std::size_t>(y)] |= m_nextGroups[static_cast<std::size_t>(y)];
    m_freshLayers = m_nextLayers;
    m_nextLayers = {};
    std::swap(m_fresh, m_next);
    std::swap(m_freshGroups, m_nextGroups);
    m_anyFresh = m_anyNext;
    m_anyNext = false;
}

void LightWindow::flood(Start& start)
{
    forget();
    std::sort(start.lamps.begin(), start.lamps.end(),
        [](const WindowSource& a, const WindowSource& b) { return a.level > b.level; });
    m_anyFresh = m_anyNext = false;
    m_freshLayers = m_nextLayers = {};
    auto lamp = start.lamps.cbegin();
    if (start.sky)
        startSky();
    for (int level = kMostLight; level >= 1; --level) {
        if (m_anyFresh && m_shape.words == 1)
            spreadCheap<false>(level);
        else if (m_anyFresh)
            spreadCheap<true>(level);
        endWaiting(level);
        startLamps(level, lamp, start.lamps.cend());
        if (start.border)
            startBorder(level);
        if (m_anyNext && m_dearCount > 0)
            spreadDear(level);
        finishLevel();
    }
    finishLevel(); // both planes are empty again
}

void LightWindow::copyOut(ChannelLevels& levels, int edge, WindowPlace place) const
{
    const bool isDark = levels.bits.empty() && levels.all == 0;
    if (isDark) { // nothing to write where nothing was reached
        std::uint32_t touched = 0;
        for (int y = std::max(0, place.y); y < std::min(m_shape.y, place.y + edge); ++y)
            touched |= m_touched[static_cast<std::size_t>(y)];
        if (touched == 0)
            return;
    }
    spellOut(levels, edge);
    const std::array<const std::uint64_t*, 4> digits{
        m_out[0].data(), m_out[1].data(), m_out[2].data(), m_out[3].data()};
    withEdge(edge, [&](auto e) {
        copyLevelsOut<decltype(e)::value>(
            digits, isDark ? m_reached.data() : nullptr, place, m_shape, levels.bits.data());
    });
}

void LightWindow::copyBox(int first, int size, std::vector<std::uint64_t>& digits) const
{
    const int words = (size + 63) / 64, skip = first / 64, shift = first % 64;
    digits.resize(static_cast<std::size_t>(size * size * words) * 4);
    std::uint64_t* to = digits.data();
    for (int y = first; y < first + size; ++y)
        for (int z = first; z < first + size; ++z)
            for (const WindowBits& digit : m_out) {
                const std::uint64_t* row = digit.data() + m_shape.at(y, z) + skip;
                for (int w = 0; w < words; ++w) {
                    const bool straddles = shift != 0 && skip + w + 1 < m_shape.words;
                    *to++ = (row[w] >> shift | (straddles ? row[w + 1] << (64 - shift) : 0))
                        & lowBits(std::min(64, size - w * 64));
                }
            }
}

/// Calls visit(y, z, at, mask in the chunk's row) for rows of the chunk of which some bits of `plane` are on.
template <typename Visit>
void LightWindow::eachRow(const std::uint64_t* plane, int edge, WindowPlace place, const Visit& visit) const
{
    const Overlap ox = overlap(place.x, edge, m_shape.x), oy = overlap(place.y, edge, m_shape.y),
                  oz = overlap(place.z, edge, m_shape.z);
    if (!ox.any())
        return;
    const int left = std::max(0, place.x), right = std::max(0, -place.x);
    const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
    for (int y = oy.from; y < oy.to; ++y) {
        const std::ptrdiff_t first = m_shape.at(y + place.y, place.z);
        const std::uint64_t* row = plane + first;
        for (int z = oz.from; z < oz.to; ++z)
            if (row[z] != 0)
                if (const std::uint64_t mask = row[z] >> left << right & inside)
                    visit(y, z, first + z, mask);
    }
}

void LightWindow::copyInsideOut(ChannelLevels& levels, int edge, WindowPlace place) const
{
    const int left = std::max(0, place.x), right = std::max(0, -place.x);
    withEdge(edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        using Four = typename FourRows<kEdge>::Type;
        eachRow(m_inside.data(), kEdge, place, [&](int y, int z, std::ptrdiff_t i, std::uint64_t mask) {
            spellOut(levels, kEdge);
            const Wide digits
                = Wide{m_out[0].data()[i], m_out[1].data()[i], m_out[2].data()[i], m_out[3].data()[i]} >> left << right;
            auto* four = reinterpret_cast<Four*>(levelsOf<kEdge>(levels.bits.data(), y, z));
            const Wide kept = __builtin_convertvector(*four, Wide) & ~mask;
            *four = __builtin_convertvector(kept | (digits & mask), Four);
        });
    });
}

bool LightWindow::raiseTo(ChannelLevels& levels, int edge, WindowPlace place) const
{
    bool any = false;
    withEdge(edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        using Four = typename FourRows<kEdge>::Type;
        const auto raise = [&](int y, int z, const Wide& found) {
            any = true;
            spellOut(levels, kEdge);
            auto* four = reinterpret_cast<Four*>(levelsOf<kEdge>(levels.bits.data(), y, z));
            const Wide has = __builtin_convertvector(*four, Wide);
            std::uint64_t higher = 0; // where what was found is higher: decided by the highest digit that differs
            for (int k = 0; k < 4; ++k)
                higher = (found[k] & ~has[k]) | (higher & ~(found[k] ^ has[k]));
            *four = __builtin_convertvector((has & ~higher) | (found & higher), Four);
        };
        const auto digitsAt = [&](std::ptrdiff_t i) {
            return Wide{m_out[0].data()[i], m_out[1].data()[i], m_out[2].data()[i], m_out[3].data()[i]};
        };
        if (m_shape.words == 1) {
            const int left = std::max(0, place.x), right = std::max(0, -place.x);
            eachRow(m_reached.data(), kEdge, place, [&](int y, int z, std::ptrdiff_t i, std::uint64_t mask) {
                raise(y, z, (digitsAt(i) >> left << right) & mask);
            });
            return;
        }
        const Overlap ox = overlap(place.x, kEdge, m_shape.x), oy = overlap(place.y, kEdge, m_shape.y),
                      oz = overlap(place.z, kEdge, m_shape.z);
        if (!ox.any())
            return;
        const std::uint64_t inside = lowBits(ox.to) & ~lowBits(ox.from);
        const int x = std::max(0, place.x), left = std::max(0, -place.x), right = x % 64;
        const bool straddles = right != 0 && x / 64 + 1 < m_shape.words;
        for (int y = oy.from; y < oy.to; ++y) {
            if (m_touched[static_cast<std::size_t>(y + place.y)] == 0)
                continue;
            std::ptrdiff_t i = m_shape.at(y + place.y, oz.from + place.z) + x / 64;
            for (int z = oz.from; z < oz.to; ++z, i += m_shape.words) {
                const std::uint64_t* reached = m_reached.data() + i;
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

void LightWindow::clearBorder()
{
    for (auto& words : m_borderWords)
        words.clear();
}

void LightWindow::keepBorder()
{
    std::swap(m_borderWords, m_keptWords);
    clearBorder();
}

std::optional<int> LightWindow::borderDimmer() const
{
    for (int level = kMostLight; level > 0; --level)
        if (const auto& words = m_borderWords[static_cast<std::size_t>(level)]; !words.empty())
            for (int kept = kMostLight; kept > 0; --kept)
                if (const auto& brighter = m_keptWords[static_cast<std::size_t>(kept)]; !brighter.empty())
                    return kept - level; // the brightest of both; isBorderDimmer asks about the others
    return std::nullopt;
}

bool LightWindow::isBorderDimmer(int by) const
{
    // Rows are read in the same order, so words of equal levels stand in the same order too.
    for (int level = 1; level <= kMostLight; ++level) {
        const auto& words = m_borderWords[static_cast<std::size_t>(level)];
        if (level + by > kMostLight ? !words.empty() : words != m_keptWords[static_cast<std::size_t>(level + by)])
            return false;
    }
    return by >= 0;
}

void LightWindow::copyIn(const ChannelLevels& levels, int edge, WindowPlace place)
{
    if (levels.bits.empty() && levels.all == 0)
        return;
    const int left = std::max(0, place.x), right = std::max(0, -place.x);
    withEdge(edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        eachRow(m_edge.data(), kEdge, place, [&](int y, int z, std::ptrdiff_t at, std::uint64_t mask) {
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
                noteBorder(y + place.y, at, digits);
        });
    });
}

/// Subtracts digit by digit, as on paper; where a borrow is left over, the level was lower and becomes 0.
void LightWindow::dim(int by)
{
    for (std::size_t y = 0; y < m_touched.size(); ++y)
        for (std::uint32_t groups = m_touched[y]; groups; groups &= groups - 1) {
            const std::ptrdiff_t at
                = static_cast<std::ptrdiff_t>(y) * m_shape.layer + std::countr_zero(groups) * kWindowGroup;
            for (std::ptrdiff_t i = at; i < at + kWindowGroup; i += kWide) {
                Wide borrow{}, left[4];
                for (unsigned k = 0; k < 4; ++k) {
                    const Wide digit = wideAt(m_out[k].data() + i);
                    const Wide taken = Wide{} - static_cast<std::uint64_t>(static_cast<unsigned>(by) >> k & 1);
                    left[k] = digit ^ taken ^ borrow;
                    borrow = (~digit & (taken | borrow)) | (taken & borrow);
                }
                for (unsigned k = 0; k < 4; ++k)
                    wideAt(m_out[k].data() + i) = left[k] & ~borrow;
            }
        }
}

} // namespace fell
