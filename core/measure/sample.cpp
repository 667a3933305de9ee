// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/sample.h>

#include <fell/mesh/meshers.h>
#include <fell/stream/level_source.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace fell::measure {
namespace {

constexpr std::int64_t kFarthest = 64; // chunks from the middle

VoxelPos middleOfKept(ChunkPos kept)
{
    constexpr std::int64_t kHalf = kKeptEdge / 2;
    return originOf(kept, kKeptEdge) + VoxelPos{kHalf, kHalf, kHalf};
}

std::vector<ChunkPos> changedChunks(const WorldChanges& changes)
{
    std::vector<ChunkPos> out;
    for (const auto& [chunk, voxels] : changes.all())
        out.push_back(chunk);
    std::sort(out.begin(), out.end());
    return out;
}

struct Layers {
    std::int64_t low = 0, high = -1; // both inside; none where high is below
};

/// The chunk layers of a column that may hold surface of what the recipe makes.
Layers chunkLayersOf(const Terrain& terrain, const ColumnPatch& columns, int edge)
{
    const auto layer = [edge](double y) { return static_cast<std::int64_t>(std::floor(y / edge)); };
    if (!terrain.recipe.pattern)
        return {layer(columns.lowest - columns.maxPush), layer(columns.highest + columns.maxPush)};
    const Pattern& pattern = *terrain.recipe.pattern;
    if (pattern.kind != Pattern::Kind::Built)
        return {-1, -1}; // the layer just below level ground; any layer of the other patterns
    double low = pattern.top - 1.0, high = low;
    for (const Pattern::Box& box : pattern.boxes) {
        low = std::min(low, box.low[1] - 1.0);
        high = std::max(high, static_cast<double>(box.high[1]));
    }
    return {layer(low), layer(high)};
}

class SurfaceSearch {
public:
    SurfaceSearch(const Terrain& terrain, const Generator& generator, int edge, const WorldChanges* changes)
        : m_terrain(terrain)
        , m_generator(generator)
        , m_edge(edge)
        , m_changes(changes && !changes->isEmpty() ? changes : nullptr)
        , m_middle(chunkOf(middleOfInterest(terrain, changes), edge))
        , m_sides(sideRulesOf(terrain.recipe.blocks))
        , m_source(std::shared_ptr<const Terrain>(std::shared_ptr<void>(), &terrain), generator, edge, kMaxColumns,
              m_changes)
    {
        if (m_changes)
            for (const ChunkPos kept : changedChunks(*m_changes))
                noteChanged(kept);
    }

    std::vector<PaddedVoxels> find(std::size_t count, const std::stop_token& stop)
    {
        std::vector<PaddedVoxels> out;
        for (const ChunkPos column : nearestColumns()) {
            if (isHopeless(column))
                continue;
            for (const std::int64_t y : layersAt(column)) {
                if (out.size() >= count || stop.stop_requested())
                    return out;
                PaddedVoxels padded = at({column.x, y, column.z});
                ChunkSurface surface;
                meshExposedSides(padded, {&m_sides, false}, surface);
                if (!surface.isEmpty())
                    out.push_back(std::move(padded));
            }
        }
        if (out.empty() && m_terrain.recipe.pattern && !stop.stop_requested())
            for (const ChunkPos column : nearestColumns()) {
                if (out.size() >= count)
                    break;
                out.push_back(at({column.x, -1, column.z}));
            }
        return out;
    }

private:
    static constexpr std::size_t kMaxColumns = 4096;

    /// The chunks of this edge that a kept chunk lies in or over, and those next to them: a change shows in both.
    void noteChanged(ChunkPos kept)
    {
        const VoxelPos low = originOf(kept, kKeptEdge);
        const ChunkPos from = chunkOf(low - VoxelPos{1, 1, 1}, m_edge),
                       to = chunkOf(low + VoxelPos{kKeptEdge, kKeptEdge, kKeptEdge}, m_edge);
        for (std::int64_t x = from.x; x <= to.x; ++x)
            for (std::int64_t z = from.z; z <= to.z; ++z)
                for (std::int64_t y = from.y; y <= to.y; ++y)
                    m_changed[{x, 0, z}].insert(y);
    }

    [[nodiscard]] std::vector<ChunkPos> nearestColumns() const
    {
        std::vector<ChunkPos> plan;
        for (std::int64_t z = -kFarthest; z <= kFarthest; ++z)
            for (std::int64_t x = -kFarthest; x <= kFarthest; ++x)
                plan.push_back({x, 0, z});
        std::sort(plan.begin(), plan.end(), [](ChunkPos a, ChunkPos b) {
            return squaredLength(a) != squaredLength(b) ? squaredLength(a) < squaredLength(b) : a < b;
        });
        for (ChunkPos& column : plan)
            column = {column.x + m_middle.x, 0, column.z + m_middle.z};
        return plan;
    }

    /// Nothing but the same solid everywhere, and no change near.
    [[nodiscard]] bool isHopeless(ChunkPos column) const
    {
        return m_terrain.recipe.pattern && m_terrain.recipe.pattern->kind == Pattern::Kind::Solid
            && !m_changed.contains(column);
    }

    std::vector<std::int64_t> layersAt(ChunkPos column) const
    {
        const Layers made = chunkLayersOf(
            m_terrain, m_generator.columns(m_terrain, column.x * m_edge, column.z * m_edge, m_edge), m_edge);
        std::vector<std::int64_t> out;
        for (std::int64_t y = made.low; y <= made.high; ++y)
            out.push_back(y);
        if (!m_changes)
            return out;
        std::set<std::int64_t> all(out.begin(), out.end());
        if (const auto changed = m_changed.find(column); changed != m_changed.end())
            all.insert(changed->second.begin(), changed->second.end());
        out.clear();
        for (const std::int64_t y : all)
            if (std::abs(y - m_middle.y) <= kFarthest)
                out.push_back(y);
        std::stable_sort(out.begin(), out.end(),
            [this](std::int64_t a, std::int64_t b) { return std::abs(a - m_middle.y) < std::abs(b - m_middle.y); });
        return out;
    }

    PaddedVoxels at(ChunkPos chunk)
    {
        Neighbourhood around;
        for (std::int64_t i = 0; i < 27; ++i) {
            const ChunkPos offset{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1};
            const ChunkPos place = chunk + offset;
            auto found = m_chunks.find(place);
            if (found == m_chunks.end())
                found = m_chunks.emplace(place, m_source.voxels(place)).first;
            around.chunks[neighbourIndex(offset)] = &found->second;
        }
        PaddedVoxels padded;
        gather(around, padded, widestApron());
        return padded;
    }

    const Terrain& m_terrain;
    const Generator& m_generator;
    int m_edge;
    const WorldChanges* m_changes;
    ChunkPos m_middle;
    SideRules m_sides;
    LevelSource m_source;
    std::map<ChunkPos, std::set<std::int64_t>> m_changed; // by column: layers
    std::map<ChunkPos, VoxelChunk> m_chunks;
};

} // namespace

VoxelPos middleOfInterest(const Terrain& terrain, const WorldChanges* changes)
{
    const std::vector<ChunkPos> changed = changes ? changedChunks(*changes) : std::vector<ChunkPos>{};
    if (changed.empty()) {
        if (const auto& pattern = terrain.recipe.pattern)
            return {0, pattern->kind == Pattern::Kind::Built ? pattern->top : 0, 0};
        return {0, static_cast<std::int64_t>(groundHeight(terrain, 0, 0)), 0};
    }
    std::array<double, 3> mean{};
    for (const ChunkPos at : changed) {
        mean[0] += static_cast<double>(at.x) / static_cast<double>(changed.size());
        mean[1] += static_cast<double>(at.y) / static_cast<double>(changed.size());
        mean[2] += static_cast<double>(at.z) / static_cast<double>(changed.size());
    }
    const auto away = [&mean](ChunkPos at) {
        return std::hypot(static_cast<double>(at.x) - mean[0], static_cast<double>(at.y) - mean[1],
            static_cast<double>(at.z) - mean[2]);
    };
    return middleOfKept(*std::min_element(
        changed.begin(), changed.end(), [&away](ChunkPos a, ChunkPos b) { return away(a) < away(b); }));
}

std::vector<PaddedVoxels> surfaceChunks(const Terrain& terrain, const Generator& generator, int edge, std::size_t count,
    const std::stop_token& stop, const WorldChanges* changes)
{
    return SurfaceSearch(terrain, generator, edge, changes).find(count, stop);
}

std::optional<Route> routeRoundChanges(const Terrain& terrain, const WorldChanges& changes)
{
    const std::vector<ChunkPos> changed = changedChunks(changes);
    if (changed.empty())
        return std::nullopt;
    ChunkPos low = changed.front(), high = low;
    for (const ChunkPos at : changed) {
        low = {std::min(low.x, at.x), std::min(low.y, at.y), std::min(low.z, at.z)};
        high = {std::max(high.x, at.x), std::max(high.y, at.y), std::max(high.z, at.z)};
    }
    const double metres = terrain.recipe.voxelMetres * kKeptEdge;
    const auto middle
        = [metres](std::int64_t a, std::int64_t b) { return static_cast<double>(a + b + 1) / 2 * metres; };
    const double x = middle(low.x, high.x), z = middle(low.z, high.z);
    const double wide = static_cast<double>(std::max(high.x - low.x, high.z - low.z) + 1) * metres,
                 tall = static_cast<double>(high.y - low.y + 1) * metres;
    const double radius = std::min(0.75 * wide + metres, 20 * metres); // what lies at the render distance is seen
    const double y = middle(low.y, high.y) + tall / 4;
    Route route;
    route.name = "round-the-changes";
    route.title = "around the edits";
    route.clear = -1e6; // it may lie below the ground
    constexpr int kPoints = 8;
    for (int i = 0; i <= kPoints; ++i) {
        const double angle = i * 2 * M_PI / kPoints;
        // Yaw 0 looks along -z and 90 along +x: the eye looks at the middle.
        route.points.push_back(
            {{x + radius * std::sin(angle), y, z + radius * std::cos(angle)}, -angle * 180 / M_PI, -20});
    }
    return route;
}

} // namespace fell::measure
