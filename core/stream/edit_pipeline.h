// SPDX-License-Identifier: Apache-2.0
// Edits of the resident world: voxels first, all of them; then each chunk that looks different is built once.
#pragma once

#include <fell/light/light_world.h>
#include <fell/stream/stream_world.h>

#include <atomic>
#include <deque>
#include <list>
#include <mutex>
#include <optional>
#include <span>
#include <unordered_set>
#include <vector>

namespace fell::stream {

/// A class because it guards an order: edits run one at a time, as they were asked for, and coarser levels follow when
/// none is left.
class EditPipeline {
public:
    /// An edit on its way.
    struct Asked {
        EditRequest edit;
        std::uint64_t number = 0;
        std::chrono::steady_clock::time_point when;
    };

    /// `world` outlives it.
    explicit EditPipeline(StreamWorld& world, bool voxelByVoxel)
        : m_world(world)
        , m_editsEach(voxelByVoxel)
    {
    }

    // The threads that ask for edits, one at a time:
    std::uint64_t ask(EditRequest edit);
    /// Hands what was asked for to the workers. True if something was handed over; false also while one of them holds
    /// the queue.
    bool post();

    // Any thread:
    /// From now on each voxel of an edit is a separate edit: the plain way, to compare with.
    void setVoxelByVoxel(bool each) { m_editsEach = each; }
    /// The edit at hand ends after its next voxel; others are not begun.
    void stop() { m_isStopping = true; }
    [[nodiscard]] std::uint64_t pending() const { return m_editsLeft; } // edits whose outcome is not sent yet
    [[nodiscard]] bool isDone() const { return m_editsLeft == 0 && m_coarseLeft == 0; }

    // Workers:
    /// The next edit, if none is being run.
    [[nodiscard]] std::optional<Asked> take();
    void run(const Asked& asked, std::uint8_t thread, BuildScratch& scratch);
    /// Brings coarser levels up to what edits have changed, once no more edits wait. False if there was nothing to do.
    bool refreshCoarse(std::uint8_t thread, BuildScratch& scratch);
    /// A chunk that is reduced from finer ones was made while one of them changed. The resident set's lock is held.
    void noteStale(ChunkPos chunk);

private:
    using ChunkSet = std::unordered_set<ChunkPos, ChunkPosHash>;
    struct Rebuild {
        ChunkJob job;
        std::optional<LightAround> light; // nothing: to be flooded
        std::shared_ptr<const ChunkLight> kept;
    };
    [[nodiscard]] std::vector<VoxelChange> wantedChanges(const EditRequest& edit, EditOutcome& outcome);
    void countCoarse();
    void markCoarse(ChunkPos chunk);
    void markAbsent(std::span<const VoxelChange> absent);
    std::vector<Rebuild> changeVoxels(std::span<const VoxelChange> changes, EditOutcome& outcome, std::uint8_t thread);
    void storeVoxels(
        ChunkPos chunk, const std::vector<VoxelWrite>& voxels, LightWorld* light, ChunkSet& dirty, ChunkSet& seenAnew);
    std::vector<Rebuild> rebuildsOf(const ChunkSet& dirty, const ChunkSet& seenAnew, LightWorld* light);
    ChunkSet relight(LightWorld& light, std::span<const VoxelChange> changes, EditOutcome& outcome);
    void storeFloors(const LightWorld& light);
    void editEach(
        const Asked& asked, EditOutcome& outcome, std::size_t& done, std::uint8_t thread, BuildScratch& scratch);
    void finish(std::vector<Rebuild> rebuilds, std::uint64_t number, EditOutcome& outcome, std::uint8_t thread,
        BuildScratch& scratch);
    void remakeCoarse(std::vector<ChunkPos> due, std::uint8_t thread, BuildScratch& scratch);
    RebuildCache& cacheOf(ChunkPos chunk);
    void addReaders(ChunkPos chunk, const ChunkBox& box, ChunkSet& out) const;

    StreamWorld& m_world;
    std::atomic<bool> m_editsEach, m_isStopping{false};
    std::deque<Asked> m_asked; // not handed to the workers yet
    std::uint64_t m_lastEdit = 0;
    std::mutex m_queueMutex;
    std::deque<Asked> m_edits; // as the workers see them
    bool m_isEditing = false; // guarded by m_queueMutex
    LightScratch m_light; // used by the thread that edits
    std::list<std::pair<ChunkPos, RebuildCache>> m_caches; // the last ones first; used by the thread that edits
    /// Chunks of coarser levels that an edit has changed, and columns of level 0 whose sky it has moved where they are
    /// not resident; and how many of them are being brought up to date. Guarded by the resident set's lock.
    std::vector<ChunkPos> m_coarseDue;
    std::size_t m_coarseAtWork = 0;
    std::atomic<std::uint64_t> m_editsLeft{0}, m_coarseLeft{0};
};

} // namespace fell::stream
