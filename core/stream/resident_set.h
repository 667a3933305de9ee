// SPDX-License-Identifier: Apache-2.0
// Which chunks are resident, how far each has come, and what goes first. Knows nothing of threads.
#pragma once

#include <fell/grid/ball_offsets.h>
#include <fell/light/chunk_light.h>
#include <fell/lod/selection.h>
#include <fell/mesh/chunk_surface.h>
#include <fell/stream/job_queue.h>
#include <fell/voxels/neighbourhood.h>

#include <memory>
#include <optional>
#include <unordered_map>
#include <unordered_set>
#include <vector>

namespace fell::stream {

/// How far a chunk has come.
///
///              (first asked for)
///                     |
///                     v   threw                 threw kMaxTries times
///     Asked <---- Generating ------------------------------------------> Failed
///       |  retry  ^   |                                                    ^
///       +---------+   | generated()                                        |
///                     v                                                    |
///                 Generated <-----------------------------+                |
///                     |  all 26 neighbours have voxels,   | threw, or an   | threw
///                     |  coarser ones too where levels    | edit or a move | kMaxTries
///                     v  may meet                         | made it void   | times
///                  Meshing -------------------------------+----------------+
///                     |
///                     | meshed()
///                     v
///                  Meshed --> Generated  where its mesh is dropped, or an edit finds a neighbour missing
///
/// In Meshed an edit has it built again (remeshJob, remeshFinished) and light that comes later is added (lit) without a
/// change of state; `edition` tells results that an edit has made void. From every state a chunk may be dropped:
/// `ticket` then tells a late result from one of the chunk that is there now.
enum class ChunkState : std::uint8_t {
    Asked, // to be generated again: a try has failed
    Generating,
    Generated, // waits for neighbours, or for a thread
    Meshing,
    Meshed,
    Failed, // for good: open air to its neighbours, or without a mesh
};

struct ChunkRecord {
    ChunkState state = ChunkState::Generating;
    std::uint8_t tries = 0; // that failed
    std::uint64_t ticket = 0; // tells a chunk from an earlier one at the same place
    int neighbours = 0; // of the 26, how many have voxels
    std::size_t meshBytes = 0;
    bool hasMesh = false; // the drawing side was told of a mesh
    std::uint32_t version = 0; // counts up when an edit makes void what is being meshed
    std::shared_ptr<const VoxelChunk> voxels; // from Generated on
    // Where the setup has light:
    std::shared_ptr<const Transmission> passes; // next to voxels
    std::shared_ptr<const ChunkLight> light; // of a chunk whose mesh has it
    std::shared_ptr<const ChunkSurface> quads; // of a mesh that is to be lit: made without meshing again
    std::size_t lightBytes = 0; // of the three
};

/// What a mesh job has made.
struct MeshResult {
    bool hasMesh = false;
    std::size_t bytes = 0;
    std::shared_ptr<const ChunkLight> light;
    std::shared_ptr<const ChunkSurface> quads; // light is still to come
};

/// What is to be done next.
struct ChunkJob {
    using Kind = JobKind;
    Kind kind = Kind::Generate;
    ChunkPos chunk;
    std::uint64_t ticket = 0;
    // Mesh and Light: in the order of Neighbourhood. Passes are null where the setup has no light.
    SharedAround<VoxelChunk> around;
    SharedAround<Transmission> passes;
    std::shared_ptr<const ChunkSurface> quads; // Light
    std::uint32_t version = 0; // Mesh and Light: of the record when it began
    bool isSeenThroughAlike = false; // Mesh: no voxel has changed that one looks past since it was meshed last
    /// Mesh, of a level that may meet a coarser one: its parent's voxels, and those beyond the three borders that both
    /// share, by axis; see CoarserAround.
    std::array<std::shared_ptr<const VoxelChunk>, 4> coarser;
};

/// Where one looks, each component -1, 0 or 1; all 0 where the order of work does not ask for it.
using ViewSector = std::array<int, 3>;

/// How far a chunk has come, in the words of the plan.
enum class ChunkProgress : std::uint8_t {
    Absent,
    Wanted,
    Generating,
    Waiting,
    Ready,
    Meshing,
    Meshed,
    Bare,
    Kept,
    Failed
};
constexpr std::size_t kChunkProgressCount = 10;
/// In words, e.g. "waits for neighbours".
const char* wordsOf(ChunkProgress stage);

struct ChunkStatus {
    ChunkPos chunk;
    ChunkProgress stage = ChunkProgress::Absent;
    std::uint32_t rank = 0; // place in the order of work, from 1; 0: nothing is to be done
};

/// One chunk looked at closely.
struct ChunkDetails {
    ChunkProgress stage = ChunkProgress::Absent;
    std::array<ChunkProgress, 27> around{}; // in the order of Neighbourhood; the middle is its own
    int tries = 0; // that failed
    std::size_t voxelBytes = 0, lightBytes = 0, meshBytes = 0;
    [[nodiscard]] std::vector<ChunkPos> waitsFor(ChunkPos chunk) const; // neighbours without voxels
};

/// The bookkeeping of the resident world around a viewer. Not thread-safe: its owner locks.
class ResidentSet {
public:
    /// A generator or mesher that throws this often has failed for good.
    static constexpr int kMaxTries = 3;

    /// Chunks that have left the reach of the new centre are dropped; positions whose mesh must go are appended to
    /// `retired`. Work that is no longer wanted is not begun. Cost: O(resident chunks), and the sorting of all
    /// positions where the distance or the sector is another one.
    void centreOn(ChunkPos viewer, int distance, std::vector<ChunkPos>& retired, const ViewSector& towards = {});

    /// The same for a selection of several levels: its chunks are needed, coarse levels first, and no others are kept.
    /// stitched: a chunk is only meshed when the coarser ones that it may meet are there.
    /// Cost  O(resident and wanted chunks): about 4 ms for the whole of a valley seen 256 chunks far.
    void follow(
        ChunkPos viewer, std::shared_ptr<const LodSelection> selection, bool stitched, std::vector<ChunkPos>& retired);

    /// The nearest chunk that can be meshed, else the nearest that is not generated yet, else the next whose light is
    /// to come later, else nothing. `mayMesh` holds meshes and their light back, `mayGenerate` the other kind.
    std::optional<ChunkJob> next(bool mayMesh, bool mayGenerate);

    /// A job has ended. False if the chunk has been dropped meanwhile: then its result is not wanted.
    bool generated(const ChunkJob& job, std::shared_ptr<const VoxelChunk> voxels,
        std::shared_ptr<const Transmission> passes = nullptr);
    bool meshed(const ChunkJob& job, MeshResult result);
    bool lit(const ChunkJob& job, MeshResult result);
    /// The voxels of a chunk that has some are others from now on.
    void change(ChunkPos chunk, std::shared_ptr<const VoxelChunk> voxels, std::shared_ptr<const Transmission> passes);
    /// What is being meshed or lit of the chunk shows what was before an edit: its result is not wanted, and the chunk
    /// is meshed again. Levels that were kept are replaced where there are new ones.
    void invalidateInFlight(ChunkPos chunk, std::shared_ptr<const ChunkLight> light);
    /// A chunk's voxels change: of it and its neighbours, those that lack a neighbour cannot be relit, so what they
    /// keep of light goes, and what is shown of them is meshed again when all are there.
    void dropLightAround(ChunkPos chunk);
    /// Levels of a chunk that keeps none for a mesh: edits near it need not flood them again.
    void keepFoundLight(ChunkPos chunk, std::shared_ptr<const ChunkLight> light);
    /// To mesh a meshed chunk again; nothing where it has none, or a neighbour has gone: then it is meshed when that
    /// is back, and what is shown of it stays.
    std::optional<ChunkJob> remeshJob(ChunkPos chunk);
    /// It was meshed again. False where that is no longer wanted.
    bool remeshFinished(const ChunkJob& job, MeshResult result);

    /// It threw. It is tried again after other work, and given up after kMaxTries: a chunk that cannot be generated
    /// is then `standIn` for its neighbours. True if it was given up.
    bool failed(const ChunkJob& job, const std::shared_ptr<const VoxelChunk>& standIn);

    /// Drops the farthest chunks, as long as they are farther than what is to be done next, until all bytes are at
    /// most `bytes`. Positions whose mesh must go are appended to `retired`, all that go to `evicted`.
    /// Cost: O(resident chunks).
    void evict(std::size_t bytes, std::vector<ChunkPos>& retired, std::vector<ChunkPos>& evicted);

    [[nodiscard]] const ChunkRecord* find(ChunkPos chunk) const;
    [[nodiscard]] std::size_t size() const { return m_records.size(); }
    [[nodiscard]] std::size_t voxelBytes() const { return m_voxelBytes; }
    [[nodiscard]] std::size_t meshBytes() const { return m_meshBytes; }
    [[nodiscard]] std::size_t lightBytes() const { return m_lightBytes; }
    [[nodiscard]] std::size_t bytes() const { return m_voxelBytes + m_lightBytes + m_meshBytes; }
    /// The passes of a chunk and its neighbours, if all are there: what its light is flooded from.
    [[nodiscard]] std::optional<SharedAround<Transmission>> passesRound(ChunkPos chunk) const;
    [[nodiscard]] std::size_t stillToGenerate() const { return m_queue.toGenerate() + m_queue.retries(); }
    [[nodiscard]] std::size_t readyToMesh() const { return m_queue.toMesh(); }
    [[nodiscard]] std::size_t readyToLight() const { return m_queue.toLight(); }
    /// Chunks that the last centreOn released.
    [[nodiscard]] const std::vector<ChunkPos>& gone() const { return m_gone; }
    [[nodiscard]] std::uint64_t dropped() const { return m_dropped; } // pieces of work that a move made void
    /// How far the next piece of work is, in chunks; nothing if there is none.
    [[nodiscard]] std::optional<double> nextDistance() const;

    [[nodiscard]] ChunkDetails probe(ChunkPos chunk) const;
    /// The voxels of all chunks of level 0 that have them. Cost: 50 ns each.
    [[nodiscard]] std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>> residents() const;
    /// Everything resident or wanted. Cost: O(both), about 100 ns each.
    [[nodiscard]] std::vector<ChunkStatus> glances() const;

private:
    [[nodiscard]] std::int64_t urgencyOf(ChunkPos offset) const;
    [[nodiscard]] std::int64_t urgencyAt(ChunkPos chunk) const;
    [[nodiscard]] bool wantsMesh(ChunkPos chunk) const;
    [[nodiscard]] bool keepsMesh(ChunkPos chunk) const;
    [[nodiscard]] bool keepsVoxels(ChunkPos chunk) const;
    [[nodiscard]] bool hasCoarser(ChunkPos chunk) const;
    [[nodiscard]] std::array<ChunkPos, 4> coarserOf(ChunkPos chunk) const;
    void dropUnwanted(std::vector<ChunkPos>& retired);
    [[nodiscard]] std::optional<std::int64_t> nextUrgency() const;
    [[nodiscard]] ChunkProgress stageOf(ChunkPos chunk, const ChunkRecord* record) const;
    ChunkRecord& create(ChunkPos chunk);
    void erase(ChunkPos chunk, const ChunkRecord& record);
    void countNeighbours(ChunkPos chunk, int change);
    void enqueueIfReady(ChunkPos chunk, const ChunkRecord& record);
    std::optional<ChunkJob> nextRetry(bool mayMesh, bool mayGenerate);
    std::optional<ChunkJob> nextMesh();
    std::optional<ChunkJob> nextGenerate();
    std::optional<ChunkJob> nextLight();
    void dropMesh(ChunkRecord& record);
    void keepLight(ChunkRecord& record, MeshResult& result);
    void countLight(ChunkRecord& record);
    ChunkJob meshJob(ChunkJob::Kind kind, ChunkPos chunk, const ChunkRecord& record) const;

    ChunkPos m_viewer;
    int m_distance = -1;
    ViewSector m_towards{};
    std::shared_ptr<const LodSelection> m_selection; // null: a ball of level 0
    std::unordered_set<ChunkPos, ChunkPosHash> m_voxelsOf; // with a selection: all that are to be generated
    bool m_isStitched = false;
    JobQueue m_queue;
    std::unordered_map<ChunkPos, ChunkRecord, ChunkPosHash> m_records;
    std::vector<ChunkPos> m_gone;
    std::uint64_t m_nextTicket = 1, m_dropped = 0;
    std::size_t m_voxelBytes = 0, m_lightBytes = 0, m_meshBytes = 0;
};

} // namespace fell::stream
