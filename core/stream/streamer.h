// SPDX-License-Identifier: Apache-2.0
// Keeps the world resident around a viewer: worker threads generate, light and mesh, nearest first; the render thread
// only takes what is ready.
#pragma once

#include <fell/stream/edit_pipeline.h>
#include <fell/stream/job_runner.h>
#include <fell/stream/timed_lock.h>

#include <chrono>
#include <climits>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>

namespace fell::stream {

/// What the render thread may spend on the streamer in one frame.
struct FrameBudget {
    std::size_t bytes = SIZE_MAX; // of meshes; one that is larger passes alone
    int meshes = INT_MAX;
    std::chrono::nanoseconds time = std::chrono::nanoseconds::max(); // looked at between two meshes
};
FrameBudget frameBudgetOf(const UploadChoices& upload);

/// What it spent.
struct Delivery {
    std::size_t bytes = 0;
    int meshes = 0, releases = 0, bare = 0; // bare: chunks without a mesh
    std::uint64_t ns = 0; // all of it, the caller's part included
};

/// All chunks that are resident or wanted, as they were a moment ago; with levels of detail those that are to be shown.
struct PlanView {
    ChunkPos viewer;
    int distance = 0; // chunks
    std::vector<ChunkStatus> chunks;
};

/// The direction that the order "what the view shows first" uses: to the nearest of 26.
ViewSector sectorOf(const Eye& eye);

/// A class because it guards threads: they end, and are joined, before it is gone.
///
/// Two threads use it, or one that does both: the render thread calls beginFrame, endFrame, deliver, take and
/// nearPlaneIsClear, the window's thread everything else; lives, counts, cover and nearPlaneIsClear are for any. None
/// of them waits for a worker: where a worker holds what they need, they come back without it and do their part in the
/// next frame. take() on the window's thread waits for a deliver() that is under way.
class Streamer {
public:
    /// Runs before each job, on its thread; what it throws counts as the job's failure. Tests make jobs fail with it.
    using BeforeJob = std::function<void(const ChunkJob&)>;

    /// Starts the workers that the setup's shape asks for. Asserts that the setup's methods exist (parseSetup has seen
    /// to that).
    /// `changes`: what was changed of the world before, and takes what is changed here; null: nothing yet.
    /// `known`: voxels of the setup's edge that need not be made, with all changes until then.
    Streamer(std::shared_ptr<const Terrain> terrain, const Setup& setup, BeforeJob beforeJob = {},
        std::shared_ptr<WorldChanges> changes = nullptr, std::shared_ptr<KnownVoxels> known = nullptr);
    ~Streamer();
    Streamer(const Streamer&) = delete;
    Streamer& operator=(const Streamer&) = delete;

    /// Where the viewer is; the sector is only used where the setup's order asks for it.
    void moveTo(ChunkPos viewer, const ViewSector& towards = {});
    void setDistance(int chunks); // 1 to kFarthestPlain; with levels of detail to kFarthestWithLevels
    /// Takes stream.workers, stream.memory, stream.order, stream.distance and edit.method of a setup while the chunks
    /// stay. Everything else of it is left alone; workers are counted where the shape is a pool. False, and nothing is
    /// taken, where more is held than the memory that it names: a new streamer is needed.
    bool retune(const Setup& now);
    /// Pixels of the picture for an angle of one radian in its middle: used by the scheme "error".
    void lookThrough(double pixelsPerRadian);
    /// See BuildRules::meshed. Call it before the first moveTo.
    void onMeshed(std::function<void(std::uint64_t ns)> hook) { m_world.rules.meshed = std::move(hook); }

    /// Around the drawing of a frame while chunks are made: a worker that would begin a job waits until the frame has
    /// ended, kLongestHold at most and once a frame. Then it works at least as long as it has waited, so that chunks
    /// are made however close frames follow each other. This is how workers yield to the render thread, and to nothing
    /// else: their priority is that of any process. Programs that draw no frames need not call it.
    void beginFrame();
    void endFrame();
    static constexpr std::chrono::milliseconds kLongestHold{8};

    /// Has the world changed, after all edits that were asked for before: all voxels first, then each chunk that shows
    /// or lights something else is lit and meshed once, and all of them are shown together. The old meshes stay until
    /// then. Returns a number that comes back with the meshes and the outcome.
    std::uint64_t edit(EditRequest edit);
    [[nodiscard]] const std::shared_ptr<WorldChanges>& changes() const { return m_world.changes; }

    /// Hands what is ready to `apply`, in order, until the budget is spent; where the setup makes chunks on the render
    /// thread, it makes them first, for up to 40 ms.
    Delivery deliver(const FrameBudget& budget, const std::function<void(const StreamEvent&)>& apply);
    /// The same for one who keeps the events: at least one, so that a large mesh passes too.
    std::vector<StreamEvent> take(std::size_t uploadBytes);

    /// Ends all work and joins the workers. An edit of many voxels, each for itself, stops after the one at hand; what
    /// it has done is among the events that take() gives afterwards. Edits that were not begun are dropped.
    void stop();

    [[nodiscard]] StreamCounts counts() const;
    /// What the first job that failed said; empty: none failed. Waits for a worker that keeps the books.
    [[nodiscard]] std::string firstError() const;
    [[nodiscard]] bool settled() const { return counts().settled; }

    /// The voxels of a resident chunk, or null, also while a worker keeps the books.
    [[nodiscard]] std::shared_ptr<const VoxelChunk> voxels(ChunkPos chunk) const;
    /// The voxels of all resident chunks of level 0; nothing while a worker keeps the books. Cost: 50 ns a chunk.
    [[nodiscard]] std::optional<std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>>> residents() const;
    /// The light of a chunk that has voxels and neighbours: what was kept for its mesh, or flooded here, 0.1 ms. Null
    /// where the setup has no light, where something is missing, and while a worker keeps the books.
    [[nodiscard]] std::shared_ptr<const ChunkLight> light(ChunkPos chunk) const;
    /// Where the sky begins over a chunk's columns, if that is known already; else null.
    [[nodiscard]] std::shared_ptr<const SkyHeightMap> skyFloor(std::int64_t chunkX, std::int64_t chunkZ) const
    {
        return m_world.levelOf(0).sky.find(chunkX, chunkZ);
    }
    /// With levels of detail: what is shown, as of the last deliver or take; null before the first.
    [[nodiscard]] std::shared_ptr<const LodCover> cover() const;
    [[nodiscard]] int edge() const { return m_world.rules.edge; } // voxels
    [[nodiscard]] const LightRules& lightRules() const { return m_world.rules.light; }
    /// Is nothing opaque as near to the eye as the lens cuts it open (CullView::nearPlaneIsClear)? Nothing while a
    /// worker keeps the books; chunks without voxels count as open.
    [[nodiscard]] std::optional<bool> nearPlaneIsClear(const Eye& eye, const Lens& lens) const;
    /// Nothing while a worker keeps the books: ask again in the next frame.
    [[nodiscard]] std::optional<ChunkDetails> probe(ChunkPos chunk) const;
    /// The last plan, and a request for a newer one, which a worker makes. Null before the first is made.
    [[nodiscard]] std::shared_ptr<const PlanView> plan();
    [[nodiscard]] const LifeRecorder& lives() const { return m_world.lives; }

private:
    struct Request {
        ChunkPos viewer;
        ViewSector towards{};
        int distance = 0;
        std::uint64_t version = 0;
        double pixels = 0; // a radian
    };
    /// A thread that works, and what it takes on: the pool's take both kinds.
    struct Worker {
        unsigned number = 0; // of the pool, from 1; 0: not one of the pool
        std::uint8_t thread = 0; // as in the lives
        bool generates = true, meshes = true;
        BuildScratch scratch{};
        std::uint32_t heldBy = 0; // the frame that it has waited for last
        std::chrono::steady_clock::time_point free{}; // until then it waits for no other
    };
    void ask(Request request); // these two with m_askMutex held
    void post();
    void noteCover(std::shared_ptr<const LodCover> cover);
    void wake();
    void collect();
    std::optional<StreamEvent> takeOne(std::size_t maxBytes);
    void start(unsigned number, std::uint8_t thread, bool generates, bool meshes);
    void startPool(unsigned count);
    void work(const std::stop_token& stop, Worker& worker);
    void workHere(std::chrono::steady_clock::time_point end);
    void holdBack(const std::stop_token& stop, Worker& worker);
    std::optional<ChunkJob> takeJob(const Worker& worker);
    void follow(const Request& request, std::uint8_t thread);
    void makeRoom(std::uint8_t thread);
    void makePlan(const Request& request);
    void release(const std::vector<ChunkPos>& retired);
    void run(const ChunkJob& job, Worker& worker);

    StreamWorld m_world;
    EditPipeline m_edits;
    LevelFollower m_follower; // guarded by the resident set's lock
    std::uint64_t m_followed = 0; // version of the request that the resident set follows; guarded by its lock
    JobRunner m_jobs;
    BeforeJob m_beforeJob;

    // Window and render thread, never a worker, so that waiting for these is short.
    std::mutex m_askMutex;
    Request m_asked; // guarded by m_askMutex; so are the edits that are not posted yet
    bool m_isPosted = true; // guarded by m_askMutex
    std::mutex m_deliveryMutex; // one delivery at a time; taken before m_askMutex
    std::deque<StreamEvent> m_taken; // on the drawing side; guarded by m_deliveryMutex
    std::uint64_t m_takenEdit = 0; // of the event that was taken last; guarded by m_deliveryMutex
    mutable std::mutex m_coverMutex;
    std::shared_ptr<const LodCover> m_cover; // with levels: as it was taken
    // These are only tried: a worker that holds one may have been descheduled.
    std::mutex m_requestMutex;
    Request m_request; // as the workers see it
    std::mutex m_planMutex;
    std::shared_ptr<const PlanView> m_plan, m_planTaken;
    std::atomic<bool> m_planWanted{false};

    std::atomic<std::uint32_t> m_frame{0}; // odd between beginFrame and endFrame; 0: no frame was ever drawn
    std::atomic<std::uint32_t> m_wake{0};
    std::atomic<std::uint64_t> m_version{0}; // of the request that was asked last
    std::atomic<std::size_t> m_memory{0}; // bytes
    std::atomic<StreamOrder> m_order; // of chunks that are as near
    int m_wantedWorkers; // as the setup says; the window thread's own
    std::atomic<unsigned> m_pool{0}; // workers of the pool that work; others wait
    mutable FloodScratch m_floodHere; // the window thread's own, for light()
    Worker m_here; // the render thread, where it makes chunks itself; guarded by m_deliveryMutex
    std::vector<std::jthread> m_workers; // last: ends first
};

} // namespace fell::stream
