// SPDX-License-Identifier: Apache-2.0
// Keeps the world resident round a viewer: worker threads generate, light and mesh, nearest first; the drawing thread
// only takes what is ready.
#pragma once

#include "cull/sight.h"
#include "keep/changes.h"
#include "light/light_world.h"
#include "lod/seams.h"
#include "mesh/mesh_again.h"
#include "setup/pipeline.h"
#include "stream/chunk_map.h"
#include "stream/lives.h"
#include "stream/sky_cache.h"

#include <atomic>
#include <chrono>
#include <climits>
#include <deque>
#include <functional>
#include <list>
#include <mutex>
#include <thread>
#include <unordered_set>

namespace fell {

/// A mesh on its way to the graphics side, lit where the setup has light. A chunk without any side has none of its
/// bytes; one of which nothing can be seen comes too, for what is seen through it.
struct MeshedChunk {
    ChunkPos chunk;
    std::uint32_t meshNs = 0; // thread time: gathering, meshing and laying out
    ChunkMesh mesh; // in the layout of the setup
    std::uint32_t lightNs = 0; // thread time of flooding
    bool relit = false; // the mesh was there before; only its light is new, meshNs is what that cost without meshing
    bool isBare = false; // nothing to mesh: open air, or covered on every side
    std::optional<ChunkSight> sight; // nothing: as it was
    std::uint64_t edit = 0; // the edit that it shows, 0 if none: all meshes of one edit come in the same frame
};

/// What is to be changed of the world.
struct EditRequest {
    /// Says which voxels become what; `before` need not be filled. Runs on a worker while the books are held, so it
    /// should cost milliseconds at most. What stays as it is is left out.
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

/// Counters since the start. Read at any time; each is exact, together they may be a moment apart.
struct StreamCounts {
    std::uint64_t generated = 0, lit = 0, meshed = 0, retired = 0; // chunks
    std::uint64_t known = 0; // of those generated: that had their voxels from before
    std::uint64_t relit = 0; // meshes that got their light without being meshed again
    std::uint64_t generateNs = 0, lightNs = 0, meshNs = 0, relightNs = 0, sightNs = 0; // thread time
    std::uint64_t resident = 0; // chunks with voxels or on their way to them
    std::uint64_t edits = 0; // asked for, and not yet ready
    std::uint64_t toGenerate = 0, toLight = 0, toMesh = 0, toUpload = 0; // queues; toLight: later, see LightChoices
    std::uint64_t voxelBytes = 0, lightBytes = 0, meshBytes = 0, pendingBytes = 0;
    std::uint64_t dropped = 0, evicted = 0; // pieces of work made void before they began; chunks that memory pushed out
    std::uint64_t failures = 0, failed = 0; // tries that threw; chunks given up
    std::uint64_t longestLockNs = 0; // that the drawing thread held
    bool full = false; // held back by the setup's memory
    double fullAt = 0; // chunks: how far what is missing for want of memory begins
    bool settled = false; // everything within the distance is made and taken
    std::uint64_t levelsMissing = 0; // with levels: places of the coarsest level of which nothing is there
    std::uint64_t levelsWaiting = 0; // chunks that stand in for finer ones
    std::array<std::uint64_t, kMostLevel + 1> shownAt{}; // chunks that are shown, by level
};

/// What the drawing thread may spend on the streamer in one frame.
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
    std::vector<ChunkGlance> chunks;
};

/// The direction that the order "what the view shows first" goes by: to the nearest of 26.
ViewSector sectorOf(const Eye& eye);

/// A class because it guards threads: they end, and are joined, before it is gone.
///
/// All public functions but lives() belong to one thread, the drawing one, and never wait for a worker: where a worker
/// holds what they need, they come back without it and do their part in the next frame.
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
    /// Pixels of the picture for an angle of one radian in its middle: what the scheme "error" goes by.
    void lookThrough(double pixelsPerRadian);
    /// From now on meshing a chunk takes this much more of its own time, by waiting busily: 0.05 is 5 %. To see whether
    /// the measuring finds it.
    void slowMeshing(double share) { m_slowerBy = share; }

    /// Round the drawing of a frame while chunks are made: no worker begins a job until the frame has ended, or until
    /// it has waited for kLongestHold. This is how workers yield to the drawing thread, and to nothing else: their
    /// priority is that of any process. Whoever draws no frames need not call it.
    void beginFrame();
    void endFrame();
    static constexpr std::chrono::milliseconds kLongestHold{8};

    /// Has the world changed, after all edits that were asked for before: all voxels first, then each chunk that shows
    /// or lights something else is lit and meshed once, and all of them are shown together. The old meshes stay until
    /// then. Returns a number that comes back with the meshes and the outcome.
    std::uint64_t edit(EditRequest edit);
    [[nodiscard]] const std::shared_ptr<WorldChanges>& changes() const { return m_changes; }

    /// Hands what is ready to `apply`, in order, until the budget is spent; where the setup makes chunks on the drawing
    /// thread, it makes them first, for up to 40 ms.
    Delivery deliver(const FrameBudget& budget, const std::function<void(const StreamEvent&)>& apply);
    /// The same for one who keeps the events: at least one, so that a large mesh passes too.
    std::vector<StreamEvent> take(std::size_t uploadBytes);

    /// Ends all work and joins the workers. An edit of many voxels, each for itself, stops after the one at hand; what
    /// it has done is among the events that take() gives afterwards. Edits that were not begun are dropped.
    void stop();

    [[nodiscard]] StreamCounts counts() const;
    [[nodiscard]] bool settled() const { return counts().settled; }

    /// The voxels of a resident chunk, or null, also while a worker keeps the books.
    [[nodiscard]] std::shared_ptr<const VoxelChunk> voxels(ChunkPos chunk) const;
    /// The voxels of all resident chunks of level 0; nothing while a worker keeps the books. Cost: 50 ns a chunk.
    [[nodiscard]] std::optional<std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>>> residents() const;
    /// The light of a chunk that has voxels and neighbours: what was kept for its mesh, or flooded here, 0.1 ms. Null
    /// where the setup has no light, where something is missing, and while a worker keeps the books.
    [[nodiscard]] std::shared_ptr<const ChunkLight> light(ChunkPos chunk) const;
    /// Where the sky begins over a chunk's columns, if that is known already; else null.
    [[nodiscard]] std::shared_ptr<const SkyFloor> skyFloor(std::int64_t chunkX, std::int64_t chunkZ) const
    {
        return levelOf(0).sky.find(chunkX, chunkZ);
    }
    /// With levels of detail: what is shown, as of the last deliver or take; null before the first.
    [[nodiscard]] const std::shared_ptr<const LodCover>& cover() const { return m_cover; }
    [[nodiscard]] int edge() const { return m_setup.chunk.edge; } // voxels
    [[nodiscard]] const LightRules& lightRules() const { return m_lightRules; }
    /// Is nothing opaque as near to the eye as the lens cuts it open (CullView::isFree)? Nothing while a worker keeps
    /// the books; chunks without voxels count as open.
    [[nodiscard]] std::optional<bool> isFree(const Eye& eye, const Lens& lens) const;
    /// Nothing while a worker keeps the books: ask again in the next frame.
    [[nodiscard]] std::optional<ChunkProbe> probe(ChunkPos chunk) const;
    /// The last plan, and a request for a newer one, which a worker makes. Null before the first is made.
    [[nodiscard]] std::shared_ptr<const PlanView> plan();
    [[nodiscard]] const LifeRecorder& lives() const { return m_lives; }

private:
    struct Request {
        ChunkPos viewer;
        ViewSector towards{};
        int distance = 0;
        std::uint64_t version = 0;
        double pixels = 0; // a radian
    };
    /// What chunks of one level are made from.
    struct Level {
        LevelSource source;
        SkyCache sky;
        template <typename... From>
        Level(const LightRules& rules, const VoxelForm& form, std::size_t most, From&&... from)
            : source(std::forward<From>(from)...)
            , sky(source, rules, form, most)
        {
        }
    };
    [[nodiscard]] Level& levelOf(int level) const { return *m_levels[static_cast<std::size_t>(level)]; }
    void sendCover();
    [[nodiscard]] bool mayHaveSeams(const ChunkJob& job) const;
    bool makeSeams(const ChunkJob& job, const PaddedVoxels& voxels, const PaddedLight* light, SeamQuads& out) const;
    /// What a thread takes on: the pool's take both kinds.
    struct Duty {
        unsigned worker = 0; // of the pool, from 1; 0: not one of the pool
        std::uint8_t thread = 0; // as in the lives
        bool generates = true, meshes = true;
    };
    class TimedLock;
    /// An edit on its way, and what a worker makes of it.
    struct Asked {
        EditRequest edit;
        std::uint64_t number = 0;
        std::chrono::steady_clock::time_point when;
    };
    struct Remesh {
        ChunkJob job;
        std::optional<LightAround> light; // nothing: to be flooded
        std::shared_ptr<const ChunkLight> kept;
    };
    std::optional<Asked> takeEdit();
    void runEdit(const Asked& asked, std::uint8_t thread);
    [[nodiscard]] std::vector<VoxelChange> wantedChanges(const EditRequest& edit, EditOutcome& outcome);
    void countCoarse();
    void dueCoarse(ChunkPos chunk);
    std::vector<Remesh> changeVoxels(std::span<const VoxelChange> changes, EditOutcome& outcome, std::uint8_t thread);
    std::unordered_set<ChunkPos, ChunkPosHash> relightRound(
        LightWorld& world, std::span<const VoxelChange> changes, EditOutcome& outcome);
    void keepFloors(const LightWorld& world);
    void finishEdit(std::vector<Remesh> remeshes, std::uint64_t number, EditOutcome& outcome, std::uint8_t thread);
    bool refreshCoarse(std::uint8_t thread);
    void remakeCoarse(std::vector<ChunkPos> due, std::uint8_t thread);
    void ask(Request request);
    void post();
    void wake();
    void collect();
    std::optional<StreamEvent> takeOne(std::size_t mostBytes);
    void work(const std::stop_token& stop, Duty duty);
    void workHere(std::chrono::steady_clock::time_point end);
    void holdBack(const std::stop_token& stop) const;
    std::optional<ChunkJob> takeJob(const Duty& duty);
    void follow(const Request& request, std::uint8_t thread);
    void makeRoom(std::uint8_t thread);
    void release(const std::vector<ChunkPos>& retired);
    void run(const ChunkJob& job, std::uint8_t thread);
    void generate(const ChunkJob& job, std::uint8_t thread);
    void applyChanges(ChunkPos chunk, SkyCache::Seen& made) const;
    void mesh(const ChunkJob& job, std::uint8_t thread);
    /// What a chunk that is edited was meshed from, and what came of it.
    struct Edited {
        GatheredVoxels voxels;
        GatheredLight light;
        MeshedBefore mesh;
    };
    StreamEvent build(const ChunkJob& job, std::uint8_t thread, MeshResult& result, Edited* before = nullptr,
        const LightAround* light = nullptr);
    Edited& editedBefore(ChunkPos chunk);
    void relight(const ChunkJob& job, std::uint8_t thread);
    [[nodiscard]] bool isLit() const { return m_lightRules.mode->channels() > 0; }
    void flood(const ChunkJob& job, std::uint8_t thread, PaddedLight& out, MeshedChunk& mesh);
    void skyFromAbove(const ChunkJob& job, PaddedLight& out);
    void send(StreamEvent event);
    void fail(const ChunkJob& job, std::uint8_t thread);
    void publish();
    void startPool(unsigned count);

    std::shared_ptr<const Terrain> m_terrain;
    std::shared_ptr<WorldChanges> m_changes; // never null
    Setup m_setup;
    Pipeline m_pipeline;
    SideRules m_sides;
    ChunkMeshOptions m_meshing;
    LightRules m_lightRules;
    std::vector<std::unique_ptr<Level>> m_levels; // by level; one without levels of detail

    mutable std::mutex m_mapMutex; // workers only, but for voxels()
    ChunkMap m_map;
    std::uint64_t m_followed = 0; // version of the request that m_map stands for
    int m_running = 0;
    // With levels of detail:
    std::shared_ptr<const LodSelection> m_selection;
    std::shared_ptr<const LodCover> m_sentCover;
    bool m_isCoverStale = false;
    std::chrono::steady_clock::time_point m_coverSent;

    LifeRecorder m_lives;
    BeforeJob m_beforeJob;
    std::atomic<double> m_slowerBy{0};
    std::shared_ptr<const VoxelChunk> m_open; // stands in for a chunk that cannot be generated

    // The drawing thread only tries these locks: a worker that holds one may have lost its core to somebody else.
    std::mutex m_requestMutex;
    std::deque<Asked> m_edits; // as the workers see them
    bool m_isEditing = false; // one at a time, in order; guarded by m_requestMutex
    std::shared_ptr<KnownVoxels> m_known;
    std::list<std::pair<ChunkPos, Edited>> m_editedBefore; // the last ones first; whoever edits has it
    /// Chunks of coarser levels that an edit has changed, and columns of level 0 whose sky it has moved where they are
    /// not resident; and how many of them are being brought up to date. Guarded by m_mapMutex.
    std::vector<ChunkPos> m_coarseDue;
    std::size_t m_coarseAtWork = 0;
    std::atomic<bool> m_isStopping{false};
    std::atomic<bool> m_isDrawing{false}; // between beginFrame and endFrame
    std::atomic<bool> m_isDrawn{false}; // beginFrame was ever called
    std::deque<Asked> m_askedEdits; // the drawing thread's own
    std::uint64_t m_lastEdit = 0;
    std::atomic<std::uint64_t> m_editsLeft{0}; // whose outcome is not sent yet
    std::atomic<std::uint64_t> m_coarseLeft{0};
    Request m_request; // as the workers see it
    Request m_asked; // the drawing thread's own
    bool m_isPosted = true;

    mutable std::mutex m_eventMutex;
    std::vector<StreamEvent> m_events; // from the workers
    std::deque<StreamEvent> m_taken; // on the drawing side
    std::uint64_t m_takenEdit = 0; // of the event that was taken last
    std::shared_ptr<const LodCover> m_cover; // with levels: as it was taken

    std::mutex m_planMutex;
    std::shared_ptr<const PlanView> m_plan, m_planTaken;
    std::atomic<bool> m_planWanted{false};

    std::atomic<std::uint32_t> m_wake{0};
    std::atomic<std::uint64_t> m_version{0}, m_idleVersion{0};
    std::atomic<std::uint64_t> m_generated{0}, m_lit{0}, m_relit{0}, m_meshed{0}, m_retired{0}, m_generateNs{0},
        m_lightNs{0}, m_meshNs{0}, m_relightNs{0}, m_sightNs{0}, m_resident{0}, m_toGenerate{0}, m_toLight{0},
        m_toMesh{0}, m_voxelBytes{0}, m_lightBytes{0}, m_meshBytes{0}, m_pendingBytes{0}, m_pending{0}, m_dropped{0},
        m_evicted{0}, m_failures{0}, m_failed{0};
    mutable std::atomic<std::uint64_t> m_longestLockNs{0};
    std::atomic<std::uint64_t> m_levelsMissing{0}, m_levelsWaiting{0};
    std::array<std::atomic<std::uint64_t>, kMostLevel + 1> m_shownAt{};
    std::atomic<bool> m_full{false};
    std::atomic<double> m_fullAt{0};
    // What retune changes; the setup's own choices of these are for the drawing thread.
    std::atomic<std::size_t> m_memory{0}; // bytes
    std::atomic<bool> m_editsEach{false};
    std::atomic<unsigned> m_pool{0}; // workers of the pool that work; others wait
    std::vector<std::jthread> m_workers; // last: ends first
};

} // namespace fell
