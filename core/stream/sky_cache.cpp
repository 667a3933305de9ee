// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/sky_cache.h>

namespace fell::stream {

SkyCache::SkyCache(LevelSource& source, const LightRules& rules, const StorageFormat& form, std::size_t max)
    : m_source(source)
    , m_rules(rules)
    , m_form(form)
    , m_max(max)
{
}

std::shared_ptr<const SkyHeightMap> SkyCache::at(std::int64_t chunkX, std::int64_t chunkZ)
{
    std::shared_ptr<Entry> entry;
    {
        const std::scoped_lock lock(m_mutex);
        if (m_entries.size() >= m_max)
            m_entries.clear();
        auto& place = m_entries[{chunkX, 0, chunkZ}];
        if (!place)
            place = std::make_shared<Entry>();
        entry = place;
        if (entry->floor)
            return entry->floor;
    }
    std::call_once(entry->once, [&] {
        auto floor = make(chunkX, chunkZ);
        const std::scoped_lock lock(m_mutex);
        entry->floor = std::move(floor);
    });
    const std::scoped_lock lock(m_mutex);
    return entry->floor;
}

std::shared_ptr<const SkyHeightMap> SkyCache::find(std::int64_t chunkX, std::int64_t chunkZ) const
{
    const std::unique_lock lock(m_mutex, std::try_to_lock);
    if (!lock)
        return nullptr;
    const auto found = m_entries.find({chunkX, 0, chunkZ});
    return found == m_entries.end() ? nullptr : found->second->floor;
}

void SkyCache::put(std::int64_t chunkX, std::int64_t chunkZ, std::shared_ptr<const SkyHeightMap> floor)
{
    auto entry
        = std::make_shared<Entry>(); // another object: readers keep the old height map alive through their shared_ptr
    entry->floor = std::move(floor);
    const std::scoped_lock lock(m_mutex);
    m_entries[{chunkX, 0, chunkZ}] = std::move(entry);
}

void SkyCache::forget(std::int64_t chunkX, std::int64_t chunkZ)
{
    const std::scoped_lock lock(m_mutex);
    m_entries.erase({chunkX, 0, chunkZ});
}

std::shared_ptr<const SkyHeightMap> SkyCache::make(std::int64_t chunkX, std::int64_t chunkZ)
{
    return std::make_shared<const SkyHeightMap>(floorBelow(
        {chunkX, 0, chunkZ}, m_source.edge(), m_source.top(chunkX, chunkZ),
        [this](ChunkPos chunk) { return m_source.voxels(chunk); }, m_rules, INT64_MIN,
        [this](ChunkPos chunk, VoxelChunk&& voxels, Transmission&& passes) {
            Seen seen{std::make_shared<const VoxelChunk>(voxels.convertedTo(m_form)),
                std::make_shared<const Transmission>(std::move(passes))};
            const std::scoped_lock lock(m_mutex);
            m_seen.insert_or_assign(chunk, std::move(seen));
            m_seenOrder.push_back(chunk);
            while (m_seenOrder.size() > kMaxChunks) {
                m_seen.erase(m_seenOrder.front());
                m_seenOrder.pop_front();
            }
        }));
}

SkyCache::Seen SkyCache::take(ChunkPos chunk)
{
    const std::scoped_lock lock(m_mutex);
    const auto found = m_seen.find(chunk);
    if (found == m_seen.end())
        return {};
    Seen seen = std::move(found->second);
    m_seen.erase(found);
    return seen;
}

} // namespace fell::stream
