// SPDX-License-Identifier: Apache-2.0
// Where the voxels of one level's chunks come from.
#pragma once

#include <fell/blocks/side_rules.h>
#include <fell/save/changes.h>
#include <fell/stream/column_cache.h>

#include <atomic>
#include <memory>
#include <mutex>
#include <optional>
#include <unordered_map>

namespace fell::stream {

/// Voxels that are there already, of level 0: those of a world whose blocks have changed and whose ground has not.
/// A class because threads share it.
class KnownVoxels {
public:
    using Chunk = std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>;
    explicit KnownVoxels(const std::vector<Chunk>& chunks)
        : m_chunks(chunks.begin(), chunks.end())
    {
    }
    /// A chunk's voxels, once: asking again generates them again. Null where they are not known.
    [[nodiscard]] std::shared_ptr<const VoxelChunk> take(ChunkPos chunk);
    [[nodiscard]] std::uint64_t taken() const { return m_taken; } // chunks

private:
    std::mutex m_mutex;
    std::unordered_map<ChunkPos, std::shared_ptr<const VoxelChunk>, ChunkPosHash> m_chunks;
    std::atomic<std::uint64_t> m_taken{0};
};

/// Makes the chunks of one level of detail: what the recipe says at that level's step, or the eight finer chunks below
/// each, reduced. The second is the plain way and what holds where no recipe knows the voxels; it makes 8^level chunks
/// of level 0 for one.
///
/// Edits of the world override the recipe.
///
/// A class because the columns that chunks share are kept. Any thread.
class LevelSource {
public:
    /// From the recipe. `most`: columns of chunks that are remembered; `changes`: may be null, else it outlives this;
    /// `known`: what need not be made, of this edge and with all changes until then.
    LevelSource(std::shared_ptr<const Terrain> terrain, const Generator& generator, int edge, std::size_t max,
        const WorldChanges* changes = nullptr, std::shared_ptr<KnownVoxels> known = nullptr);
    /// From the level below, which must outlive this one.
    LevelSource(LevelSource& finer, const SideRules& rules);

    /// Cost: a chunk's generation; of a reduced one, 12 of the level below and about 20 ns a voxel.
    [[nodiscard]] VoxelChunk voxels(ChunkPos chunk);
    /// Voxels of this level at and above it are open over the whole column of chunks; none if nothing is anywhere.
    [[nodiscard]] std::optional<std::int64_t> top(std::int64_t chunkX, std::int64_t chunkZ);
    [[nodiscard]] int edge() const { return m_edge; }
    /// Is it reduced from the finer level? Then its voxels have all changes in them.
    [[nodiscard]] bool isReduced() const { return m_finer != nullptr; }

private:
    const Generator* m_generator = nullptr;
    std::shared_ptr<const Terrain> m_terrain; // null where reduced
    std::optional<ColumnCache> m_columns;
    const WorldChanges* m_changes = nullptr;
    std::shared_ptr<KnownVoxels> m_known;
    LevelSource* m_finer = nullptr;
    const SideRules* m_rules = nullptr;
    int m_edge = 0;
};

} // namespace fell::stream
