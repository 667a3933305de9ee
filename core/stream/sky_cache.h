// SPDX-License-Identifier: Apache-2.0
// Where the sky begins over each column of chunks, found once and kept for a while.
#pragma once

#include <fell/stream/level_source.h>
#include <fell/stream/terrain_sky.h>

#include <deque>
#include <memory>
#include <mutex>
#include <unordered_map>

namespace fell::stream {

/// A class because threads share it: a floor is found by one of them, and the others that want it wait for that one.
///
/// Cost  at: generates the chunks from the highest thing down to where no column is open. They are kept for readers
/// that are
///       about to generate them; at most `kMaxChunks`, the oldest go first. A floor takes 8 KiB at edge 32; past
///       `most` all are dropped, and computed again when asked for.
class SkyCache {
public:
    static constexpr std::size_t kMaxChunks = 512;

    /// A chunk that was generated for a floor.
    struct Seen {
        std::shared_ptr<const VoxelChunk> voxels; // in the form
        std::shared_ptr<const Transmission> passes;
    };

    /// All of them must outlive it.
    SkyCache(LevelSource& source, const LightRules& rules, const StorageFormat& form, std::size_t max = 4096);

    std::shared_ptr<const SkyHeightMap> at(std::int64_t chunkX, std::int64_t chunkZ);
    /// The same if it is there already and no thread holds the lock, else null: for the render thread.
    [[nodiscard]] std::shared_ptr<const SkyHeightMap> find(std::int64_t chunkX, std::int64_t chunkZ) const;
    /// From now on the floor is another, since voxels were changed; or it is to be computed again when it is asked for.
    void put(std::int64_t chunkX, std::int64_t chunkZ, std::shared_ptr<const SkyHeightMap> floor);
    void forget(std::int64_t chunkX, std::int64_t chunkZ);
    /// A chunk that was generated on the way, handed over; null pointers if there is none.
    Seen take(ChunkPos chunk);

private:
    struct Entry {
        std::once_flag once;
        std::shared_ptr<const SkyHeightMap> floor; // guarded by m_mutex
    };
    std::shared_ptr<const SkyHeightMap> make(std::int64_t chunkX, std::int64_t chunkZ);

    LevelSource& m_source;
    const LightRules& m_rules;
    const StorageFormat& m_form;
    std::size_t m_max;
    mutable std::mutex m_mutex;
    std::unordered_map<ChunkPos, std::shared_ptr<Entry>, ChunkPosHash> m_entries; // y is 0
    std::unordered_map<ChunkPos, Seen, ChunkPosHash> m_seen;
    std::deque<ChunkPos> m_seenOrder; // oldest first; some have been taken
};

} // namespace fell::stream
