// SPDX-License-Identifier: Apache-2.0
// Keeps the world resident round a viewer: worker threads generate and mesh, nearest first; the drawing thread only
// takes what is ready.
#pragma once

#include "mesh/chunk_mesh.h"
#include "setup/setup.h"
#include "stream/chunk_map.h"
#include "stream/column_cache.h"

#include <atomic>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

namespace fell {

/// A mesh on its way to the graphics side. A chunk without any side has none of its bytes.
struct MeshedChunk {
    ChunkPos chunk;
    std::uint32_t meshNs = 0; // thread time: gathering, meshing and laying out
    ChunkMesh mesh; // in the layout of the setup
};

/// What the drawing side must do, in order.
struct StreamEvent {
    enum class Kind { Upload, Release } kind = Kind::Upload;
    ChunkPos chunk;
    MeshedChunk mesh; // Upload
};

/// Counters since the start. Read at any time; each is exact, together they may be a moment apart.
struct StreamCounts {
    std::uint64_t generated = 0, meshed = 0, retired = 0; // chunks
    std::uint64_t generateNs = 0, meshNs = 0; // thread time
    std::uint64_t resident = 0; // chunks with voxels or on their way to them
    std::uint64_t toGenerate = 0, toMesh = 0, toUpload = 0; // queues
    std::uint64_t voxelBytes = 0, meshBytes = 0, pendingBytes = 0;
    bool full = false; // held back by the setup's memory
    bool settled = false; // everything within the distance is made and taken
};

/// A class because it guards threads: they end, and are joined, before it is gone.
///
/// `moveTo`, `setDistance`, `take` and `counts` belong to one thread, the drawing one, and never wait for a worker:
/// they share with them only a request, a list of events and counters, each held for less than a microsecond's work.
class Streamer {
public:
    /// Starts the workers. Asserts that the setup's methods exist (parseSetup has seen to that).
    Streamer(std::shared_ptr<const Terrain> terrain, const Setup& setup);
    ~Streamer();
    Streamer(const Streamer&) = delete;
    Streamer& operator=(const Streamer&) = delete;

    void moveTo(ChunkPos viewer);
    void setDistance(int chunks); // 1 to 48

    /// Takes events until `uploadBytes` of vertices are reached; at least one, so that a large mesh passes too.
    std::vector<StreamEvent> take(std::size_t uploadBytes);

    [[nodiscard]] StreamCounts counts() const;
    [[nodiscard]] bool settled() const { return counts().settled; }

    /// The voxels of a resident chunk, or null. Waits for a worker's bookkeeping (microseconds).
    [[nodiscard]] std::shared_ptr<const VoxelChunk> voxels(ChunkPos chunk) const;

private:
    struct Request {
        ChunkPos viewer;
        int distance = 0;
        std::uint64_t version = 0;
    };
    void post(Request request);
    void work(const std::stop_token& stop);
    std::optional<ChunkJob> takeJob();
    void follow(const Request& request);
    void run(const ChunkJob& job);
    void generate(const ChunkJob& job);
    void mesh(const ChunkJob& job);
    void publish();

    std::shared_ptr<const Terrain> m_terrain;
    Setup m_setup;
    const Generator& m_generator;
    const VoxelForm& m_form;
    SideRules m_sides;
    ChunkMeshOptions m_meshing;
    ColumnCache m_columns;

    mutable std::mutex m_mapMutex; // workers only, but for voxels()
    ChunkMap m_map;
    std::uint64_t m_followed = 0; // version of the request that m_map stands for
    int m_running = 0;

    std::mutex m_requestMutex;
    Request m_request;

    mutable std::mutex m_eventMutex;
    std::vector<StreamEvent> m_events; // from the workers
    std::deque<StreamEvent> m_taken; // on the drawing side

    std::atomic<std::uint32_t> m_wake{0};
    std::atomic<std::uint64_t> m_version{0}, m_idleVersion{0};
    std::atomic<std::uint64_t> m_generated{0}, m_meshed{0}, m_retired{0}, m_generateNs{0}, m_meshNs{0}, m_resident{0},
        m_toGenerate{0}, m_toMesh{0}, m_voxelBytes{0}, m_meshBytes{0}, m_pendingBytes{0}, m_pending{0};
    std::atomic<bool> m_full{false};
    std::vector<std::jthread> m_workers; // last: ends first
};

} // namespace fell
