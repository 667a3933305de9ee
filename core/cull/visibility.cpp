// SPDX-License-Identifier: Apache-2.0
#include <fell/cull/visibility.h>

#include <algorithm>
#include <bit>
#include <cassert>
#include <cstring>
#include <span>
#include <vector>

namespace fell::cull {
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
    [[nodiscard]] SideSet sidesOf(std::uint32_t root) const { return m_sides[root]; }
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
class Openers {
public:
    explicit Openers(int edge)
        : m_edge(edge)
    {
        for (Range& range : m_ranges)
            range = {{edge, edge}, {0, 0}, 0};
    }
    void add(int y, int z, std::uint64_t bits)
    {
        if (bits == 0)
            return;
        const int first = std::countr_zero(bits), end = 64 - std::countl_zero(bits), last = m_edge - 1,
                  cell = m_edge / Portal::kCells;
        if (y == 0 || y == last || z == 0 || z == last) {
            unsigned along = 0;
            for (int i = 0; i < Portal::kCells; ++i)
                along |= unsigned{(bits >> (i * cell) & ((std::uint64_t{1} << cell) - 1)) != 0} << i;
            if (y == 0 || y == last)
                grow(y == 0 ? Side::Down : Side::Up, {first, end}, z, along);
            if (z == 0 || z == last)
                grow(z == 0 ? Side::North : Side::South, {first, end}, y, along);
        }
        if (first == 0)
            grow(Side::West, {y, y + 1}, z, 1U << (y / cell));
        if (end == m_edge)
            grow(Side::East, {y, y + 1}, z, 1U << (y / cell));
    }
    [[nodiscard]] ChunkPortals found() const
    {
        ChunkPortals out;
        const int scale = 64 / m_edge;
        for (std::size_t side = 0; side < kSideCount; ++side) {
            out[side].cells = m_ranges[side].cells;
            for (std::size_t axis = 0; axis < 2; ++axis) {
                out[side].low[axis] = static_cast<std::uint8_t>(m_ranges[side].low[axis] * scale);
                out[side].high[axis] = static_cast<std::uint8_t>(m_ranges[side].high[axis] * scale);
            }
        }
        return out;
    }

private:
    struct Range {
        std::array<int, 2> low, high; // voxels
        std::uint64_t cells = 0;
    };
    /// By a piece of the row b of a side: from a[0] to a[1], with the cells of that row that it opens.
    void grow(Side side, std::array<int, 2> a, int b, unsigned cells)
    {
        Range& range = m_ranges[static_cast<std::size_t>(side)];
        range.low = {std::min(range.low[0], a[0]), std::min(range.low[1], b)};
        range.high = {std::max(range.high[0], a[1]), std::max(range.high[1], b + 1)};
        range.cells |= std::uint64_t{cells} << (b / (m_edge / Portal::kCells) * Portal::kCells);
    }
    int m_edge;
    std::array<Range, kSideCount> m_ranges{};
};

/// Adds the openings of each region that joins sides, where the chunk's own do not say as much.
void addRegions(std::span<const Run> runs, std::span<const std::uint32_t> firstRun, int edge, Regions& regions,
    std::vector<ChunkPortals>& out)
{
    struct Found {
        std::uint32_t root;
        Openers openings;
    };
    const int last = edge - 1;
    std::vector<Found> found;
    bool isAnyLeftOut = false;
    const auto add = [&](int y, int z, const Run& run) {
        const std::uint32_t root = regions.rootOf(run.label);
        if (std::popcount(regions.sidesOf(root)) < 2) {
            isAnyLeftOut = true;
            return;
        }
        auto one = std::find_if(found.begin(), found.end(), [root](const Found& f) { return f.root == root; });
        if (one == found.end())
            one = found.size() < ChunkVisibility::kMaxRegions ? found.insert(found.end(), {root, Openers(edge)})
                                                              : std::prev(found.end());
        one->openings.add(y, z, run.mask);
    };
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z) {
            const auto row = static_cast<std::size_t>(y * edge + z);
            const std::span<const Run> here = runs.subspan(firstRun[row], firstRun[row + 1] - firstRun[row]);
            if (here.empty())
                continue;
            if (y == 0 || y == last || z == 0 || z == last) {
                for (const Run& run : here)
                    add(y, z, run);
                continue;
            }
            if (here.front().mask & 1)
                add(y, z, here.front());
            if (here.back().mask >> last & 1 && (here.size() > 1 || !(here.front().mask & 1)))
                add(y, z, here.back());
        }
    if (found.size() > 1 || (found.size() == 1 && isAnyLeftOut))
        for (const Found& one : found)
            out.push_back(one.openings.found());
}

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

namespace {

/// Do other voxels on a side of the chunk open it as far as this one does? `others` are joined with it, bits as below,
/// and lie next to it.
bool isOpeningKept(std::uint32_t others, const std::array<int, 3>& voxel, std::size_t axis, int edge)
{
    const std::size_t u = (axis + 1) % 3, v = (axis + 2) % 3;
    const int cell = edge / Portal::kCells;
    bool inCell = false;
    std::array<bool, 4> reaches{}; // as far to each hand
    for (; others != 0; others &= others - 1) {
        const int i = std::countr_zero(others);
        const std::array<int, 3> by{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1};
        if (by[axis] != 0)
            continue;
        inCell |= (voxel[u] + by[u]) / cell == voxel[u] / cell && (voxel[v] + by[v]) / cell == voxel[v] / cell;
        reaches[0] |= by[u] <= 0;
        reaches[1] |= by[u] >= 0;
        reaches[2] |= by[v] <= 0;
        reaches[3] |= by[v] >= 0;
    }
    return inCell && std::all_of(reaches.begin(), reaches.end(), [](bool one) { return one; });
}

} // namespace

bool visibilityUnchanged(const VoxelChunk& before, const std::array<int, 3>& voxel, Material after, Material solidCubes)
{
    const auto isOpaque = [solidCubes](Material m) { return static_cast<Material>(m - 1) < solidCubes; };
    const auto [x, y, z] = voxel;
    if (isOpaque(before.at(x, y, z)) == isOpaque(after))
        return true;
    const int last = before.edge() - 1, cell = before.edge() / kSightCells;
    // The 3 x 3 x 3 voxels with this one in the middle, those outside the chunk neither open nor opaque; bit
    // (dy * 3 + dz) * 3 + dx.
    std::uint32_t open = 0, opaque = 0, openInCell = 0;
    for (int i = 0; i < 27; ++i) {
        const std::array<int, 3> at{x + i % 3 - 1, y + i / 9 - 1, z + i / 3 % 3 - 1};
        if (i == 13 || std::min({at[0], at[1], at[2]}) < 0 || std::max({at[0], at[1], at[2]}) > last)
            continue;
        const std::uint32_t bit = std::uint32_t{1} << i;
        if (isOpaque(before.at(at[0], at[1], at[2]))) {
            opaque |= bit;
            continue;
        }
        open |= bit;
        openInCell |= at[0] / cell == x / cell && at[1] / cell == y / cell && at[2] / cell == z / cell ? bit : 0;
    }
    if (openInCell == 0 || opaque == 0)
        return false;
    // What is reached from one of the open voxels next to it, through open ones, across sides.
    constexpr std::uint32_t kBeside = 1U << 4 | 1U << 10 | 1U << 12 | 1U << 14 | 1U << 16 | 1U << 22;
    constexpr std::uint32_t kNotLowX = 0x6db6db6, kNotHighX = 0x36db6db; // those with dx above 0, below 2
    constexpr std::uint32_t kNotLowZ = 0x7e3f1f8, kNotHighZ = 0xfc7e3f;
    const std::uint32_t wanted = open & kBeside;
    std::uint32_t reached = wanted & (~wanted + 1), was = 0;
    while (reached != was) {
        was = reached;
        reached |= (reached & kNotHighX) << 1 | (reached & kNotLowX) >> 1 | (reached & kNotHighZ) << 3
            | (reached & kNotLowZ) >> 3 | reached << 9 | reached >> 9;
        reached &= open;
    }
    if ((wanted & ~reached) != 0)
        return false;
    for (std::size_t axis = 0; axis < 3; ++axis)
        if ((voxel[axis] == 0 || voxel[axis] == last) && !isOpeningKept(reached, voxel, axis, before.edge()))
            return false;
    return true;
}

ChunkVisibility sightOfUniform(Material material, Material solidCubes)
{
    return static_cast<Material>(material - 1) < solidCubes ? ChunkVisibility::closed() : ChunkVisibility::open();
}

ChunkVisibility computeVisibility(const PaddedVoxels& voxels, Material solidCubes)
{
    thread_local Regions regions;
    thread_local std::vector<Run> runs;
    thread_local std::vector<std::uint32_t> firstRun; // of each row
    regions.clear();
    runs.clear();
    const int edge = voxels.edge, cell = edge / kSightCells, last = edge - 1;
    firstRun.assign(static_cast<std::size_t>(edge * edge) + 1, 0);
    Openers openings(edge);
    const std::uint64_t all = ~std::uint64_t{0} >> (64 - edge);
    bool isAllOpen = true;
    std::array<std::uint64_t, 16> open{}; // of the rows of a cell's layer, by y and z
    const auto rowOf = [&](int y, int z) {
        const auto row = static_cast<std::size_t>(y * edge + z);
        return std::span<const Run>(runs).subspan(firstRun[row], firstRun[row + 1] - firstRun[row]);
    };
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z) {
            std::uint64_t bits = openBits(voxels.voxels.data() + voxels.index(0, y, z), edge, solidCubes);
            open[static_cast<std::size_t>(y / cell * 4 + z / cell)] |= bits;
            isAllOpen &= bits == all;
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
    ChunkVisibility sight;
    regions.collect(sight.through);
    sight.isOpen = isAllOpen;
    if (!isAllOpen && !runs.empty()) {
        sight.openings.push_back(openings.found());
        addRegions(runs, firstRun, edge, regions, sight.openings);
    }
    const std::uint64_t cellBits = (std::uint64_t{1} << cell) - 1;
    for (std::size_t row = 0; row < open.size(); ++row)
        for (std::size_t x = 0; x < kSightCells; ++x)
            if (((open[row] >> (x * static_cast<std::size_t>(cell))) & cellBits) == 0)
                sight.solid |= std::uint64_t{1} << (row * 4 + x);
    return sight;
}

} // namespace fell::cull
