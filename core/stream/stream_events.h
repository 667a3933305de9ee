// SPDX-License-Identifier: Apache-2.0
// What a streamer hands to the drawing side, and the mailbox in which it waits.
#pragma once

#include <fell/cull/visibility.h>
#include <fell/lod/selection.h>
#include <fell/mesh/chunk_mesh.h>
#include <fell/save/changes.h>

#include <atomic>
#include <chrono>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <vector>

namespace fell::stream {

/// A mesh on its way to the renderer, lit where the setup has light. A chunk without any side has none of its
/// bytes; it is sent even where nothing of it can be seen (isBare): culling needs to know what is seen through it.
struct MeshedChunk {
    ChunkPos chunk;
    std::uint32_t meshNs = 0; // thread time: gathering, meshing and writing vertices
    ChunkMesh mesh; // in the layout of the setup
    std::uint32_t lightNs = 0; // thread time of flooding
    bool relit = false; // the mesh was there before; only its light is new, meshNs is what that cost without meshing
    bool isBare = false; // nothing to mesh: open air, or covered on every side
    std::optional<ChunkVisibility> sight; // nothing: as it was
    std::uint64_t edit = 0; // the edit that it shows, 0 if none: all meshes of one edit come in the same frame
};

/// What is to be changed of the world.
struct EditRequest {
    /// Says which voxels become what; `before` need not be filled. Runs on a worker while the resident set is locked,
    /// so it should cost milliseconds at most. What stays as it is is left out.
    std::function<std::vector<VoxelChange>(const ReadVoxel& read)> make;
    /// What is not resident is changed too: it comes changed when it comes. For undo, which must take all of it back.
    bool isEverywhere = false;
    /// The changes are in WorldChanges already: another streamer of the same world has made them. They are taken as
    /// they are there when the edit runs, and nothing is written into it.
    bool isSaved = false;
};

/// What an edit did, once its meshes have been delivered.
struct EditOutcome {
    std::uint64_t edit = 0; // as edit() gave it
    bool isSaved = false; // as the request said
    std::vector<VoxelChange> changes; // those that were made
    std::size_t missing = 0; // voxels that were not resident, and left out
    int voxelChunks = 0; // whose voxels changed
    int relit = 0; // whose levels changed
    std::uint64_t relitVoxels = 0; // whose levels changed
    int meshed = 0; // that were meshed again; with the plain way each as often as it was
    std::uint64_t voxelNs = 0, lightNs = 0, meshNs = 0; // thread time
    std::uint64_t readyNs = 0; // from edit() until the meshes were ready to be uploaded, by the clock
    std::chrono::steady_clock::time_point asked; // when edit() was called
};

/// What the drawing side must do, in order.
struct StreamEvent {
    enum class Kind { Upload, Release, Cover, Edited } kind = Kind::Upload;
    ChunkPos chunk; // Upload, Release
    MeshedChunk mesh; // Upload
    std::shared_ptr<const LodCover> cover; // Cover: with levels of detail, what is shown from now on
    std::shared_ptr<const EditOutcome> edited{}; // Edited: behind the meshes
};

/// Events on their way from the workers to the render thread, in order.
/// A class because threads share it. Workers wait for its lock, the render thread only tries it.
class EventMailbox {
public:
    void send(StreamEvent event);
    /// All at once: a collector has all or none.
    void sendAll(std::vector<StreamEvent> events);
    /// Appends what has come to `to`; nothing while a worker holds the lock. Call it on the render thread.
    void collect(std::deque<StreamEvent>& to, std::atomic<std::uint64_t>& longestLockNs);
    /// One of `bytes` bytes has been taken from what was collected. Gives the bytes that waited before.
    std::size_t taken(std::size_t bytes);

    [[nodiscard]] std::uint64_t pending() const { return m_pending; } // events, collected or not
    [[nodiscard]] std::uint64_t pendingBytes() const { return m_pendingBytes; } // of their meshes

private:
    std::mutex m_mutex;
    std::vector<StreamEvent> m_events;
    std::atomic<std::uint64_t> m_pending{0}, m_pendingBytes{0};
};

} // namespace fell::stream
