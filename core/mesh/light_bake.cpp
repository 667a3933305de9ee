// SPDX-License-Identifier: Apache-2.0
// Levels of a voxel are worked on as one word, a byte a channel: sums of four and differences then need no loop.
#include <fell/mesh/light_bake.h>

#include <fell/mesh/light_layers.h>

#include <algorithm>
#include <bit>
#include <cassert>
#include <cstring>
#include <optional>

namespace fell::mesh {
namespace {

constexpr std::array<LightSample, 3> kSamples{{
    {"cells", "smooth, per fragment",
        "Corner light is the mean of the air voxels around it. Fragments read it from a list; quads stay whole."},
    {"corners", "smooth, quads cut",
        "The same light at the corners of quads. Quads are cut where it is not linear: more triangles."},
    {"flat", "flat per face", "Each face has the light value of the voxel in front of it. Quads are cut at each step."},
}};

/// The levels of the layer that a quad looks into, one beyond its ends, where all its open voxels have the same: told
/// from the digits of whole rows, which most quads are settled by. Nothing where they differ, or the quad looks into a
/// closed voxel. Long: a row's digits are read once, for all channels.
std::optional<Levels> evenLevels(const QuadFields& q, bool inside, const PaddedLight& light)
{
    const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
    std::array<int, 3> low{q.x, q.y, q.z}, high = low; // both inside
    low[a] += inside ? 0 : signOf(q.side);
    high[a] = low[a];
    low[u] -= 1;
    low[v] -= 1;
    high[u] += q.width;
    high[v] += q.height;
    // Channels that vary in the chunk, and what each of their digits must be all over: that of the first open voxel.
    struct Varying {
        const std::uint64_t* digits;
        unsigned shift;
        std::array<std::uint64_t, 4> wanted;
    };
    std::array<Varying, kMaxLightChannels> varying;
    std::size_t count = 0;
    Levels levels = 0;
    for (unsigned c = 0; c < static_cast<unsigned>(light.channels); ++c) {
        const PaddedLight::Channel& channel = light.of[c];
        if (channel.all)
            levels |= static_cast<Levels>(*channel.all) << (8 * c);
        else
            varying[count++] = {channel.digits.data(), 8 * c, {}};
    }
    bool isFound = false; // an open voxel
    const auto bitsFrom = [](int from, int to, std::size_t word) { // of voxels from - 1 to to - 1, as rows hold them
        const int begin = std::clamp(from - static_cast<int>(64 * word), 0, 64),
                  end = std::clamp(to + 1 - static_cast<int>(64 * word), 0, 64);
        return end <= begin ? 0 : ~std::uint64_t{0} >> (64 - (end - begin)) << begin;
    };
    for (std::size_t word = 0; word < light.words; ++word) {
        const std::uint64_t wanted = bitsFrom(low[0] + 1, high[0] + 1, word);
        // The quad's own cells lie one within, along the axes that it runs along.
        const std::uint64_t own = a == 0 ? wanted : bitsFrom(low[0] + 2, high[0], word);
        for (int y = low[1]; y <= high[1] && wanted != 0; ++y)
            for (int z = low[2]; z <= high[2]; ++z) {
                const std::size_t row = light.row(y, z);
                const std::uint64_t open = light.passable[row * light.words + word] & wanted;
                const bool isOwnRow
                    = (a == 1 || (y > low[1] && y < high[1])) && (a == 2 || (z > low[2] && z < high[2]));
                if (isOwnRow && (~open & own) != 0)
                    return std::nullopt;
                if (open == 0)
                    continue;
                const std::size_t first = row * 4 * light.words + word;
                if (!isFound) {
                    const int bit = std::countr_zero(open);
                    for (std::size_t n = 0; n < count; ++n)
                        for (unsigned k = 0; k < 4; ++k) {
                            const std::uint64_t set = varying[n].digits[first + k * light.words] >> bit & 1;
                            varying[n].wanted[k] = 0 - set;
                            levels |= Levels{set} << (varying[n].shift + k);
                        }
                    isFound = true;
                }
                std::uint64_t differs = 0;
                for (std::size_t n = 0; n < count; ++n)
                    for (std::size_t k = 0; k < 4; ++k)
                        differs |= varying[n].digits[first + k * light.words] ^ varying[n].wanted[k];
                if ((differs & open) != 0)
                    return std::nullopt;
            }
    }
    return levels;
}

struct Rectangle {
    int i, j, width, height;
};

QuadLight evenLight(Levels levels)
{
    const PackedLight packed = pack(levels);
    return {{packed, packed, packed, packed}};
}

/// Calls visit(rectangle) for rectangles that cover all cells; `joins(base, i, j)` says whether a cell goes on as base
/// began.
template <typename Joins, typename Visit> void cut(int width, int height, const Joins& joins, const Visit& visit)
{
    std::array<std::uint64_t, 64> free; // cells not covered yet, a bit each
    free.fill(~std::uint64_t{0} >> (64 - width));
    for (int j = 0; j < height; ++j)
        while (free[static_cast<std::size_t>(j)] != 0) {
            const int i = std::countr_zero(free[static_cast<std::size_t>(j)]);
            Rectangle r{i, j, 1, 1};
            const auto nearPlaneIsClear = [&free](int x, int y) { return free[static_cast<std::size_t>(y)] >> x & 1; };
            while (r.i + r.width < width && nearPlaneIsClear(r.i + r.width, j) && joins(r, r.i + r.width, j))
                ++r.width;
            const auto rowJoins = [&](int y) {
                for (int x = r.i; x < r.i + r.width; ++x)
                    if (!nearPlaneIsClear(x, y) || !joins(r, x, y))
                        return false;
                return true;
            };
            while (r.j + r.height < height && rowJoins(r.j + r.height))
                ++r.height;
            const std::uint64_t covered = ~std::uint64_t{0} >> (64 - r.width) << r.i;
            for (int y = r.j; y < r.j + r.height; ++y)
                free[static_cast<std::size_t>(y)] &= ~covered;
            visit(r);
        }
}

/// Does the light of cell (i, j) run as that of the rectangle's first cell? Differences of whole words: bytes that
/// borrow from each other differ alike where the bytes do.
bool runsOn(const Layer& layer, const Rectangle& r, int i, int j)
{
    const auto alongU = [&](int x, int y) { return layer.corner(x + 1, y) - layer.corner(x, y); };
    const auto alongV = [&](int x, int y) { return layer.corner(x, y + 1) - layer.corner(x, y); };
    const Levels du = alongU(r.i, r.j), dv = alongV(r.i, r.j);
    return alongU(r.i, r.j + 1) == du && alongV(r.i + 1, r.j) == dv // the first cell is a plane itself
        && alongU(i, j) == du && alongU(i, j + 1) == du && alongV(i, j) == dv && alongV(i + 1, j) == dv;
}

Quad pieceOf(QuadFields quad, const Rectangle& r)
{
    const auto a = static_cast<std::size_t>(axisOf(quad.side)), u = (a + 1) % 3, v = (a + 2) % 3;
    std::array<int, 3> at{quad.x, quad.y, quad.z};
    at[u] += r.i;
    at[v] += r.j;
    quad.x = at[0];
    quad.y = at[1];
    quad.z = at[2];
    quad.width = r.width;
    quad.height = r.height;
    return packQuad(quad);
}

/// Appends the quad's head and cells; gives the head's number.
std::uint32_t addCells(Quad quad, const QuadFields& q, const Layer& layer, LightCells& cells)
{
    const std::size_t words = cells.wordsACell, head = cells.words.size();
    cells.words.resize(head + words * (1 + static_cast<std::size_t>(q.width) * static_cast<std::size_t>(q.height)));
    std::uint32_t* to = cells.words.data() + head;
    *to = static_cast<std::uint32_t>(quad);
    to += words;
    std::array<std::array<PackedLight, kMaxCells>, 2> rows; // of corners, in turn before and behind a row of cells
    const auto packRow = [&](int j) {
        auto& row = rows[static_cast<std::size_t>(j % 2)];
        for (int i = 0; i <= q.width; ++i)
            row[static_cast<std::size_t>(i)] = pack(layer.corner(i, j));
    };
    packRow(0);
    for (int j = 0; j < q.height; ++j) {
        packRow(j + 1);
        const auto &above = rows[static_cast<std::size_t>(j % 2)], &below = rows[static_cast<std::size_t>((j + 1) % 2)];
        for (std::size_t i = 0; i < static_cast<std::size_t>(q.width); ++i, to += words)
            if (words == 2) {
                to[0] = above[i] | above[i + 1] << 16;
                to[1] = below[i] | below[i + 1] << 16;
            } else {
                to[0] = above[i];
                to[1] = above[i + 1];
                to[2] = below[i];
                to[3] = below[i + 1];
            }
    }
    return static_cast<std::uint32_t>(head / words);
}

/// What this thread's baker works in; large.
DecodedRows& rowsHere()
{
    thread_local DecodedRows rows;
    return rows;
}

} // namespace

PackedLight LightCells::at(std::uint32_t cell, int corner) const
{
    const auto c = static_cast<std::size_t>(corner);
    const std::uint32_t* from = words.data() + cell * wordsACell;
    return wordsACell == 4 ? from[c] : from[c / 2] >> 16 * (c % 2) & 0xFFFF;
}

std::span<const LightSample> lightSamples()
{
    return kSamples;
}

int cornerLight(
    const PaddedLight& light, int channel, const std::array<int, 3>& voxel, Side side, int corner, SideLight how)
{
    const auto a = static_cast<std::size_t>(axisOf(side)), u = (a + 1) % 3, v = (a + 2) % 3;
    std::array<int, 3> beyond = voxel;
    beyond[a] += how.inside ? 0 : signOf(side);
    const int du = corner == 1 || corner == 2 ? 1 : -1, dv = corner >= 2 ? 1 : -1;
    const auto at = [&](int su, int sv) {
        std::array<int, 3> there = beyond;
        there[u] += su;
        there[v] += sv;
        return there;
    };
    const auto isOpen = [&](const std::array<int, 3>& p) { return light.isPassable(p[0], p[1], p[2]); };
    const auto level = [&](const std::array<int, 3>& p) { return light.at(channel, p[0], p[1], p[2]); };
    int sum = isOpen(beyond) ? level(beyond) : 0, count = 1;
    if (how.flat)
        return sum;
    const auto first = at(du, 0), second = at(0, dv), across = at(du, dv);
    for (const auto& there : {first, second})
        if (isOpen(there)) {
            sum += level(there);
            ++count;
        }
    if (count > 1 && isOpen(across)) {
        sum += level(across);
        ++count;
    }
    return (2 * sum + count) / (2 * count);
}

void bakeLight(std::span<const Quad> quads, const PaddedLight& light, SideLight how, LitQuads& out, LightCells* cells)
{
    out.quads.reserve(out.quads.size() + quads.size());
    out.lights.reserve(out.lights.size() + quads.size());
    LightBaker(light).bake(quads, how, out, cells);
}

LightBaker::LightBaker(const PaddedLight& light)
    : m_light(light)
    , m_isEven(light.isEven())
{
    if (!m_isEven)
        rowsHere().begin(light);
}

void LightBaker::bake(std::span<const Quad> quads, SideLight how, LitQuads& out, LightCells* cells)
{
    if (m_isEven) {
        Levels levels = 0;
        for (int c = 0; c < m_light.channels; ++c)
            levels |= static_cast<Levels>(*m_light.of[static_cast<std::size_t>(c)].all) << (8 * c);
        out.quads.insert(out.quads.end(), quads.begin(), quads.end());
        out.lights.insert(out.lights.end(), quads.size(), evenLight(levels));
        return;
    }
    thread_local Layer layer;
    DecodedRows& rows = rowsHere();
    const auto add = [&out](Quad quad, const QuadLight& at) {
        out.quads.push_back(quad);
        out.lights.push_back(at);
    };
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        if (const auto even = evenLevels(q, how.inside, m_light)) {
            add(quad, evenLight(*even));
        } else if (layer.read(q, how.inside, rows)) {
            add(quad, evenLight(layer.cell(0, 0)));
        } else if (how.flat) {
            cut(
                q.width, q.height,
                [&](const Rectangle& r, int i, int j) { return layer.cell(i, j) == layer.cell(r.i, r.j); },
                [&](const Rectangle& r) { add(pieceOf(q, r), evenLight(layer.cell(r.i, r.j))); });
        } else if (cells) {
            layer.smooth();
            const PackedLight head = kInCells | addCells(quad, q, layer, *cells);
            add(quad, {{head, head, head, head}});
        } else {
            layer.smooth();
            cut(
                q.width, q.height, [&](const Rectangle& r, int i, int j) { return runsOn(layer, r, i, j); },
                [&](const Rectangle& r) {
                    const int i = r.i + r.width, j = r.j + r.height;
                    add(pieceOf(q, r),
                        {{pack(layer.corner(r.i, r.j)), pack(layer.corner(i, r.j)), pack(layer.corner(i, j)),
                            pack(layer.corner(r.i, j))}});
                });
        }
    }
}

PackedLight lightOfShape(const PaddedLight& light, int x, int y, int z)
{
    PackedLight packed = 0;
    for (int c = 0; c < light.channels; ++c) {
        int level = light.isPassable(x, y, z) ? light.at(c, x, y, z) : 0;
        if (!light.isPassable(x, y, z))
            for (const Side side : kSides) {
                const ChunkPos to = stepOf(side);
                const int px = x + static_cast<int>(to.x), py = y + static_cast<int>(to.y),
                          pz = z + static_cast<int>(to.z);
                level = std::max(level, light.isPassable(px, py, pz) ? light.at(c, px, py, pz) : 0);
            }
        packed |= static_cast<PackedLight>(level) << (4 * c);
    }
    return packed;
}

} // namespace fell::mesh
