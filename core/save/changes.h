// SPDX-License-Identifier: Apache-2.0
// What was changed of a world, whatever the recipe says.
#pragma once

#include <fell/voxels/voxel_chunk.h>

#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <unordered_map>
#include <unordered_set>

namespace fell::save {

/// One voxel of level 0 that is another block from now on.
struct VoxelChange {
    VoxelPos at;
    Material before = kOpen, after = kOpen;
    bool operator==(const VoxelChange&) const = default;
};

/// Reads a voxel; nothing where its chunk is not there.
using ReadVoxel = std::function<std::optional<Material>(VoxelPos at)>;

/// The edge of the chunks that changes are kept by, whatever edge a setup has.
constexpr int kKeptEdge = 32;

/// A voxel of a kept chunk: index as in VoxelChunk of edge kKeptEdge.
struct KeptVoxel {
    std::uint16_t voxel = 0;
    Material material = kOpen;
    auto operator<=>(const KeptVoxel&) const = default;
};
/// Sorted by voxel, each once.
using KeptVoxels = std::vector<KeptVoxel>;

/// A class because threads share it: some make chunks while others change voxels. Each call is atomic.
///
/// What is kept of a chunk is shared and never written again, so that it can be saved while edits go on.
/// Cost    4 bytes a changed voxel. set: a merge with what the chunk has, about 10 ns a voxel of both.
class WorldChanges {
public:
    void set(std::span<const VoxelChange> changes); // to the value after; asserts nothing about before
    /// In place of all that is there; what is not named is as the recipe says.
    void replaceAll(std::vector<std::pair<ChunkPos, KeptVoxels>> kept);

    /// Writes what was changed of a chunk of any edge over `voxels`, edge^3 of them, as VoxelChunk orders them. True if
    /// there is anything. Each voxel of a coarser level takes the middle one of those that it represents, as a
    /// generated one does.
    bool apply(ChunkPos chunk, int edge, std::span<Material> voxels) const;
    /// What a voxel was changed to; none where it was not.
    [[nodiscard]] std::optional<Material> at(VoxelPos voxel) const;
    /// Is anything of the chunk changed?
    [[nodiscard]] bool touches(ChunkPos chunk, int edge) const;
    /// Counts up with each change of the chunk's voxels; 0 where nothing ever was. A chunk that was made while it
    /// counted up may lack the change.
    [[nodiscard]] std::uint64_t version(ChunkPos chunk, int edge) const;
    /// Changed voxels of a column of chunks that are not air lie below it, in voxels of the level; none where there are
    /// none. Cost: O(min(columns of saved chunks in it, all that were changed)).
    [[nodiscard]] std::optional<std::int64_t> top(std::int64_t chunkX, std::int64_t chunkZ, int edge, int level) const;

    /// Everything, by chunk of edge kKeptEdge; and one of them, null where nothing is changed.
    [[nodiscard]] std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> all() const;
    [[nodiscard]] std::shared_ptr<const KeptVoxels> of(ChunkPos kept) const;
    /// Those that were changed since the last call, for one who saves.
    std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> takeUnsaved();
    /// Could not be saved: they count as changed again.
    void markUnsaved(std::span<const ChunkPos> unsaved);
    [[nodiscard]] std::size_t unsaved() const;
    [[nodiscard]] std::size_t chunks() const;
    [[nodiscard]] std::size_t voxels() const;
    [[nodiscard]] bool isEmpty() const { return chunks() == 0; }
    /// The same changes, for one who goes on changing them alone. Nothing of it counts as unsaved. Cost: 100 ns a
    /// changed chunk, since what is kept of each is shared.
    [[nodiscard]] std::shared_ptr<WorldChanges> copy() const;

private:
    struct Kept {
        std::shared_ptr<const KeptVoxels> voxels;
        std::uint64_t version = 0;
    };
    template <typename Visit> void eachIn(ChunkPos chunk, int edge, const Visit& visit) const;

    mutable std::mutex m_mutex;
    std::unordered_map<ChunkPos, Kept, ChunkPosHash> m_kept;
    /// By column (y is 0), then by chunk: above the highest changed voxel in it that is not air.
    std::unordered_map<ChunkPos, std::map<std::int64_t, std::int64_t>, ChunkPosHash> m_tops;
    void noteTop(ChunkPos chunk, const KeptVoxels& voxels);
    std::unordered_set<ChunkPos, ChunkPosHash> m_unsaved;
    std::uint64_t m_edition = 0;
};

} // namespace fell::save
