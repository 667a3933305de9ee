// SPDX-License-Identifier: Apache-2.0
// Which chunks are resident, how far each has come, and which can be meshed. Knows nothing of threads.
#pragma once

#include "grid/reach.h"
#include "voxels/neighbourhood.h"

#include <memory>
#include <optional>
#include <queue>
#include <unordered_map>
#include <vector>

namespace fell {

enum class ChunkState : std::uint8_t { Generating, Generated, Meshing, Meshed };

struct ChunkRecord {
    ChunkState state = ChunkState::Generating;
    std::uint64_t ticket = 0; // tells a chunk from an earlier one at the same place
    int neighbours = 0; // of the 26, how many have voxels
    std::size_t meshBytes = 0;
    bool hasMesh = false; // the drawing side was told of a mesh
    std::shared_ptr<const VoxelChunk> voxels; // from Generated on
};

/// What is to be done next.
struct ChunkJob {
    enum class Kind { Generate, Mesh } kind = Kind::Generate;
    ChunkPos chunk;
    std::uint64_t ticket = 0;
    std::array<std::shared_ptr<const VoxelChunk>, 27> around; // Mesh: in the order of Neighbourhood
};

/// The bookkeeping of the resident world round a viewer. Not thread-safe: its owner locks.
class ChunkMap {
public:
    /// Chunks that have left the reach of the new centre are dropped; positions whose mesh must go are appended to
    /// `retired`. Cost: O(resident chunks).
    void centreOn(ChunkPos viewer, int distance, std::vector<ChunkPos>& retired);

    /// The nearest chunk that can be meshed, else the nearest that is not generated yet, else nothing.
    /// `mayMesh` and `mayGenerate` hold one kind back.
    std::optional<ChunkJob> next(bool mayMesh, bool mayGenerate);

    /// A job has ended. False if the chunk has been dropped meanwhile: then its result is not wanted.
    bool generated(const ChunkJob& job, std::shared_ptr<const VoxelChunk> voxels);
    bool meshed(const ChunkJob& job, bool hasMesh, std::size_t bytes);

    [[nodiscard]] const ChunkRecord* find(ChunkPos chunk) const;
    [[nodiscard]] std::size_t size() const { return m_records.size(); }
    [[nodiscard]] std::size_t voxelBytes() const { return m_voxelBytes; }
    [[nodiscard]] std::size_t meshBytes() const { return m_meshBytes; }
    [[nodiscard]] std::size_t wantedMeshes() const { return m_toMesh.size(); }
    [[nodiscard]] std::size_t stillToGenerate() const { return m_order.size() - m_cursor; }
    [[nodiscard]] std::size_t readyToMesh() const { return m_ready.size(); }

private:
    struct Ready {
        std::int64_t distance;
        ChunkPos chunk;
        bool operator<(const Ready& other) const { return distance > other.distance; } // nearest on top
    };
    ChunkRecord& create(ChunkPos chunk);
    void erase(ChunkPos chunk, const ChunkRecord& record);
    void countNeighbours(ChunkPos chunk, int change);
    void offerToMesh(ChunkPos chunk, const ChunkRecord& record);
    std::optional<ChunkJob> nextMesh();
    std::optional<ChunkJob> nextGenerate();

    ChunkPos m_viewer;
    int m_distance = -1;
    std::vector<ChunkPos> m_toMesh; // offsets, nearest first
    std::vector<ChunkPos> m_order; // offsets to generate: those and their neighbours, nearest first
    std::size_t m_cursor = 0; // everything in m_order before it has been asked for
    std::unordered_map<ChunkPos, ChunkRecord, ChunkPosHash> m_records;
    std::priority_queue<Ready> m_ready;
    std::uint64_t m_nextTicket = 1;
    std::size_t m_voxelBytes = 0, m_meshBytes = 0;
};

} // namespace fell
