// SPDX-License-Identifier: Apache-2.0
// Voxels that come in any order, of chunks of any edge, as rows of a world file.
#pragma once

#include <fell/exchange/chunk_stream.h>
#include <fell/save/world_file.h>

#include <unordered_map>
#include <unordered_set>

namespace fell::exchange {

/// A class because it holds what is not written yet.
///
/// Memory  64 KiB a chunk of edge kKeptEdge, of `most` chunks at once. Those that were touched longest ago are written
///         first; one that comes again is read back and completed.
class ChunkGather {
public:
    explicit ChunkGather(WorldFile& world, std::size_t most = 2048);

    /// Takes a chunk's voxels, moved by `shift`; materials by the file's ids.
    /// Errors  an id that the palette does not have, a voxel too far away or too deep, what WorldFile::save says.
    std::optional<Problem> add(
        const ForeignHeader& header, const ForeignChunk& chunk, const std::vector<Material>& materials, VoxelPos shift);
    /// Writes what is left.
    std::optional<Problem> finish();

private:
    struct Held {
        std::vector<Material> voxels; // kUntouched where nothing came
        std::uint64_t used = 0;
    };
    Held& heldAt(ChunkPos chunk);
    std::optional<Problem> write(std::size_t count);
    std::optional<Problem> writeDownTo(std::size_t held);

    WorldFile& m_world;
    std::size_t m_most;
    std::uint64_t m_time = 0;
    std::unordered_map<ChunkPos, Held, ChunkPosHash> m_held;
    std::unordered_set<ChunkPos, ChunkPosHash> m_written;
};

} // namespace fell::exchange
