// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/column_cache.h>

namespace fell::stream {

ColumnCache::ColumnCache(const Terrain& terrain, const Generator& generator, int edge, std::size_t max)
    : m_terrain(terrain)
    , m_generator(generator)
    , m_edge(edge)
    , m_max(max)
{
}

std::shared_ptr<const ColumnPatch> ColumnCache::at(std::int64_t chunkX, std::int64_t chunkZ)
{
    const ChunkPos key{chunkX, 0, chunkZ};
    {
        const std::scoped_lock lock(m_mutex);
        if (const auto found = m_patches.find(key); found != m_patches.end())
            return found->second;
    }
    // Made outside the lock: two threads may make the same patch now and then, which costs less than waiting.
    auto patch
        = std::make_shared<const ColumnPatch>(m_generator.columns(m_terrain, chunkX * m_edge, chunkZ * m_edge, m_edge));
    const std::scoped_lock lock(m_mutex);
    if (m_patches.size() >= m_max)
        m_patches.clear();
    return m_patches.try_emplace(key, std::move(patch)).first->second;
}

} // namespace fell::stream
