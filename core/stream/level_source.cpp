// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/level_source.h>

#include <fell/lod/reduce.h>
#include <fell/stream/terrain_sky.h>

#include <algorithm>

namespace fell::stream {

std::shared_ptr<const VoxelChunk> KnownVoxels::take(ChunkPos chunk)
{
    const std::scoped_lock lock(m_mutex);
    const auto found = m_chunks.find(chunk);
    if (found == m_chunks.end())
        return nullptr;
    auto voxels = std::move(found->second);
    m_chunks.erase(found);
    ++m_taken;
    return voxels;
}

LevelSource::LevelSource(std::shared_ptr<const Terrain> terrain, const Generator& generator, int edge, std::size_t max,
    const WorldChanges* changes, std::shared_ptr<KnownVoxels> known)
    : m_generator(&generator)
    , m_terrain(std::move(terrain))
    , m_changes(changes)
    , m_known(std::move(known))
    , m_edge(edge)
{
    m_columns.emplace(*m_terrain, generator, edge, max);
}

LevelSource::LevelSource(LevelSource& finer, const SideRules& rules)
    : m_finer(&finer)
    , m_rules(&rules)
    , m_edge(finer.m_edge)
{
}

VoxelChunk LevelSource::voxels(ChunkPos chunk)
{
    if (!m_finer) {
        const ChunkPos at{chunk.x, chunk.y, chunk.z, m_terrain->level}; // who looks for the sky does not name the level
        const auto known = m_known ? m_known->take(at) : nullptr;
        VoxelChunk made = known ? *known : m_generator->voxels(*m_terrain, *m_columns->at(chunk.x, chunk.z), chunk);
        if (!m_changes || !m_changes->touches(at, m_edge))
            return made;
        std::vector<Material> changed = made.voxels();
        return m_changes->apply(at, m_edge, changed) ? VoxelChunk(m_edge, std::move(changed)) : made;
    }
    std::vector<VoxelChunk> made;
    made.reserve(12); // pointers into it stay
    std::array<const VoxelChunk*, 8> parts{};
    for (unsigned p = 0; p < 8; ++p)
        parts[p] = &made.emplace_back(m_finer->voxels(childOf(chunk, p)));
    const bool isAllOpen = std::all_of(
        made.begin(), made.end(), [](const VoxelChunk& one) { return one.isUniform() && one.uniform() == kOpen; });
    if (isAllOpen)
        return VoxelChunk(m_edge, kOpen);
    std::array<const VoxelChunk*, 4> above{};
    for (unsigned p = 0; p < 4; ++p) { // the lower four of the chunk on top
        const unsigned child = (p & 1) | (p & 2) << 1;
        above[p] = &made.emplace_back(m_finer->voxels(childOf(chunk + ChunkPos{0, 1, 0}, child)));
    }
    return reduced(parts, above, *m_rules);
}

std::optional<std::int64_t> LevelSource::top(std::int64_t chunkX, std::int64_t chunkZ)
{
    std::optional<std::int64_t> top;
    if (!m_finer) {
        top = topOfTerrain(*m_terrain, *m_columns->at(chunkX, chunkZ));
        if (m_terrain->recipe.pattern && !top) // solid without an end upward: an edit opens no sky
            return std::nullopt;
        const auto built = m_changes ? m_changes->top(chunkX, chunkZ, m_edge, m_terrain->level) : std::nullopt;
        return built ? std::max(top.value_or(INT64_MIN), *built) : top;
    }
    for (int p = 0; p < 4; ++p) {
        const auto finer = m_finer->top(2 * chunkX + (p & 1), 2 * chunkZ + (p >> 1));
        if (finer)
            top = std::max(top.value_or(INT64_MIN), ((*finer - 1) >> 1) + 1);
    }
    return top;
}

} // namespace fell::stream
