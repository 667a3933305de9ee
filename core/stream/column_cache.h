// SPDX-License-Identifier: Apache-2.0
// Columns of ground that several chunks above each other share, kept for a while.
#pragma once

#include <fell/terrain/generate.h>

#include <memory>
#include <mutex>
#include <unordered_map>

namespace fell::stream {

/// Gives the columns of a chunk position on the plan, making them if they are not there yet. Any thread. Holds at most
/// about `most` patches (7 KiB each at edge 32, 60 KiB at 64) and forgets all of them when there are more; what is in
/// use stays alive.
class ColumnCache {
public:
    ColumnCache(const Terrain& terrain, const Generator& generator, int edge, std::size_t max = 4096);

    std::shared_ptr<const ColumnPatch> at(std::int64_t chunkX, std::int64_t chunkZ);

private:
    const Terrain& m_terrain;
    const Generator& m_generator;
    int m_edge;
    std::size_t m_max;
    std::mutex m_mutex;
    std::unordered_map<ChunkPos, std::shared_ptr<const ColumnPatch>, ChunkPosHash> m_patches; // y is 0
};

} // namespace fell::stream
