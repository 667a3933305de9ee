// SPDX-License-Identifier: Apache-2.0
#include "cull/sight.h"

#include <bit>
#include <cassert>
#include <cstring>
#include <span>
#include <vector>

namespace fell {
namespace {

/// A row's voxels that are not opaque, one bit each.
std::uint64_t openBits(const Material* row, int edge, Material solidCubes)
{
    std::uint64_t bits = 0;
    for (int x = 0; x < edge; x += 8) {
        std::uint8_t open[8];
        for (int i = 0; i < 8; ++i)
            open[i] = static_cast<Material>(row[x + i] - 1) >= solidCubes;
        std::uint64_t bytes = 0;
        std::memcpy(&bytes, open, sizeof bytes);
        bits |= (bytes * 0x0102040810204080u >> 56) << x; // the lowest bit of each byte, brought together
    }
    return bits;
}

struct Run {
    std::uint64_t mask;
    std::uint32_t label;
};

/// Runs joined into regions. Each region knows the sides that it touches.
class Regions {
public:
    void clear()
    {
        m_parent.clear();
        m_sides.clear();
    }
    std::uint32_t add(SideSet sides)
    {
        m_parent.push_back(static_cast<std::uint32_t>(m_parent.size()));
        m_sides.push_back(sides);
        return m_parent.back();
    }
    std::uint32_t rootOf(std::uint32_t label)
    {
        while (m_parent[label] != label)
            label = m_parent[label] = m_parent[m_parent[label]];
        return label;
    }
    void join(std::uint32_t a, std::uint32_t b)
    {
        a = rootOf(a);
        b = rootOf(b);
        if (a == b)
            return;
        if (b < a)
            std::swap(a, b);
        m_parent[b] = a;
        m_sides[a] |= m_sides[b];
    }
    /// Every region's sides see each other.
    void collect(std::array<SideSet, kSideCount>& through) const
    {
        for (std::uint32_t i = 0; i < m_parent.size(); ++i)
            if (m_parent[i] == i)
                for (std::size_t side = 0; side < kSideCount; ++side)
                    if (m_sides[i] >> side & 1)
                        through[side] |= m_sides[i];
    }

private:
    std::vector<std::uint32_t> m_parent;
    std::vector<SideSet> m_sides;
};

/// Grows the rectangles of the sides that a row of open voxels lies on.
class Openings {
public:
    explicit Openings(int edge)
        : m_edge(edge)
    {
        for (Range& range : m_ranges)
            range = {{edge, edge}, {0, 0}};
    }
    void add(int y, int z, std::uint64_t bits)
    {
        if (bits == 0)
            return;
        const int first = std::countr_zero(bits), end = 64 - std::countl_zero(bits), last = m_edge - 1;
        if (y == 0 || y == last)
            grow(y == 0 ? Side::Down : Side::Up, {first, end}, {z, z + 1});
        if (z == 0 || z == last)
            grow(z == 0 ? Side::North : Side::South, {first, end}, {y, y + 1});
        if (first == 0)
            grow(Side::West, {y, y + 1}, {z, z + 1});
        if (end == m_edge)
            grow(Side::East, {y, y + 1}, {z, z + 1});
    }
    [[nodiscard]] std::array<Opening, kSideCount> found() const
    {
        std::array<Opening, kSideCount> out;
        const int scale = 64 / m_edge;
        for (std::size_t side = 0; side < kSideCount; ++side)
            for (std::size_t axis = 0; axis < 2; ++axis) {
                out[side].low[axis] = static_cast<std::uint8_t>(m_ranges[side].low[axis] * scale);
                out[side].high[axis] = static_cast<std::uint8_t>(m_ranges[side].high[axis] * scale);
            }
        return out;
    }

private:
    struct Range {
        std::array<int, 2> low, high; // voxels
    };
    void grow(Side side, std::array<int, 2> a, std::array<int, 2> b)
    {
        Range& range = m_ranges[static_cast<std::size_t>(side)];
        range.low = {std::min(range.low[0], a[0]), std::min(range.low[1], b[0])};
        range.high = {std::max(range.high[0], a[1]), std::max(range.high[1], b[1])};
    }
    int m_edge;
    std::array<Range, kSideCount> m_ranges{};
};

/// Joins the runs of two neighbouring rows that touch.
void joinRows(std::span<const Run> a, std::span<const Run> b, Regions& regions)
{
    for (std::size_t i = 0, j = 0; i < a.size() && j < b.size();) {
        if (a[i].mask & b[j].mask)
            regions.join(a[i].label, b[j].label);
        a[i].mask > b[j].mask ? ++j : ++i; // the one that ends first; runs do not touch within a row
    }
}

} // namespace

ChunkSight sightOfUniform(Material material, Material solidCubes)
{
    return static_cast<Material>(material - 1) < solidCubes ? ChunkSight::closed() : ChunkSight::open();
}

ChunkSight sightOf(const PaddedVoxels& voxels, Material solidCubes)
{
    thread_local Regions regions;
    thread_local std::vector<Run> runs;
    thread_local std::vector<std::uint32_t> firstRun; // of each row
    regions.clear();
    runs.clear();
    const int edge = voxels.edge, cell = edge / kSightCells, last = edge - 1;
    firstRun.assign(static_cast<std::size_t>(edge * edge) + 1, 0);
    Openings openings(edge);
    std::array<std::uint64_t, 16> open{}; // of the rows of a cell's layer, by y and z
    const auto rowOf = [&](int y, int z) {
        const auto row = static_cast<std::size_t>(y * edge + z);
        return std::span<const Run>(runs).subspan(firstRun[row], firstRun[row + 1] - firstRun[row]);
    };
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z) {
            std::uint64_t bits = openBits(voxels.voxels.data() + voxels.index(0, y, z), edge, solidCubes);
            open[static_cast<std::size_t>(y / cell * 4 + z / cell)] |= bits;
            openings.add(y, z, bits);
            const auto across
                = static_cast<SideSet>((y == 0 ? onlySide(Side::Down) : 0) | (y == last ? onlySide(Side::Up) : 0)
                    | (z == 0 ? onlySide(Side::North) : 0) | (z == last ? onlySide(Side::South) : 0));
            while (bits != 0) {
                const std::uint64_t rest = bits & (bits + (bits & (~bits + 1))); // without the lowest run
                const std::uint64_t mask = bits & ~rest;
                const auto along = static_cast<SideSet>(
                    (mask & 1 ? onlySide(Side::West) : 0) | (mask >> last & 1 ? onlySide(Side::East) : 0));
                runs.push_back({mask, regions.add(across | along)});
                bits = rest;
            }
            firstRun[static_cast<std::size_t>(y * edge + z) + 1] = static_cast<std::uint32_t>(runs.size());
            if (z > 0)
                joinRows(rowOf(y, z - 1), rowOf(y, z), regions);
            if (y > 0)
                joinRows(rowOf(y - 1, z), rowOf(y, z), regions);
        }
    ChunkSight sight;
    regions.collect(sight.through);
    sight.openings = openings.found();
    const std::uint64_t cellBits = (std::uint64_t{1} << cell) - 1;
    for (std::size_t row = 0; row < open.size(); ++row)
        for (std::size_t x = 0; x < kSightCells; ++x)
            if (((open[row] >> (x * static_cast<std::size_t>(cell))) & cellBits) == 0)
                sight.solid |= std::uint64_t{1} << (row * 4 + x);
    return sight;
}

} // namespace fell
