// SPDX-License-Identifier: Apache-2.0
// The order of locks: map before request, events and plan. The drawing thread tries them, and never waits for one.
#include "stream/streamer.h"

#include "stream/thread_clock.h"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <sched.h>
#include <utility>

namespace fell {
namespace {

// Where chunks are made on the drawing thread, a frame waits for all that are missing, but no longer than this.
constexpr std::chrono::milliseconds kLongestWorkHere{40};
constexpr std::uint64_t kMostPendingBytes = 64u << 20; // meshes that wait for the drawing thread; past it workers do

/// A worker that wakes up does not push the drawing thread from its core; its share of the machine stays that of any
/// other thread. Refused without harm.
void wakeQuietly()
{
    const sched_param none{};
    (void)::sched_setscheduler(0, SCHED_BATCH, &none);
}

/// Until the thread has worked for `ns` since `start`; gives what it was in the end.
std::uint64_t waitBusily(std::uint64_t start, std::uint64_t ns)
{
    std::uint64_t spent = 0;
    do
        spent = threadNs() - start;
    while (spent < ns);
    return spent;
}

/// The 3 x 3 x 3 chunks round `chunk` as light sees them, and who keeps their floors alive.
struct LightSurroundings {
    LightBlock block;
    std::array<std::shared_ptr<const SkyFloor>, 9> floors;
};

/// `floorAt(x, z)` may give null: then nothing is given.
template <typename FloorAt>
std::optional<LightSurroundings> surroundingsOf(ChunkPos chunk, int edge, const LightRules& rules,
    const std::array<std::shared_ptr<const LightPasses>, 27>& passes, const FloorAt& floorAt)
{
    LightSurroundings out;
    out.block = {&rules, edge, {3, 3, 3}, {}, {}, originOf(chunk, edge).y - edge};
    for (const auto& one : passes)
        out.block.passes.push_back(one.get());
    for (std::size_t i = 0; i < out.floors.size() && rules.mode->sky > 0; ++i) {
        const auto at = static_cast<std::int64_t>(i);
        out.floors[i] = floorAt(chunk.x + at % 3 - 1, chunk.z + at / 3 - 1);
        if (!out.floors[i])
            return std::nullopt;
        out.block.floors.push_back(out.floors[i].get());
    }
    return out;
}

Neighbourhood neighbourhoodOf(const ChunkJob& job)
{
    Neighbourhood around;
    std::transform(
        job.around.begin(), job.around.end(), around.chunks.begin(), [](const auto& chunk) { return chunk.get(); });
    return around;
}

unsigned workerCount(int wanted)
{
    return wanted > 0 ? static_cast<unsigned>(wanted) : std::max(1u, std::thread::hardware_concurrency());
}

} // namespace

using Clock = std::chrono::steady_clock;

/// A lock that the drawing thread tries, and how long it holds it.
class Streamer::TimedLock {
public:
    TimedLock(std::mutex& mutex, std::atomic<std::uint64_t>& longestNs)
        : m_lock(mutex, std::try_to_lock)
        , m_longestNs(longestNs)
        , m_start(Clock::now())
    {
    }
    ~TimedLock()
    {
        if (!m_lock)
            return;
        m_lock.unlock();
        const auto ns = static_cast<std::uint64_t>(
            std::chrono::duration_cast<std::chrono::nanoseconds>(Clock::now() - m_start).count());
        if (ns > m_longestNs) // one thread only writes it
            m_longestNs = ns;
    }
    TimedLock(const TimedLock&) = delete;
    TimedLock& operator=(const TimedLock&) = delete;
    explicit operator bool() const { return m_lock.owns_lock(); }

private:
    std::unique_lock<std::mutex> m_lock;
    std::atomic<std::uint64_t>& m_longestNs;
    Clock::time_point m_start;
};

FrameBudget frameBudgetOf(const UploadChoices& upload)
{
    return {static_cast<std::size_t>(upload.budget) << 10, upload.meshes, std::chrono::microseconds(upload.time)};
}

ViewSector sectorOf(const Eye& eye)
{
    const glm::dvec3 forward = forwardOf(eye);
    constexpr double kThird = 0.3827; // sin 22.5 degrees: half way between an axis and a diagonal
    const auto of = [](double v) { return v > kThird ? 1 : v < -kThird ? -1 : 0; };
    return {of(forward.x), of(forward.y), of(forward.z)};
}

Streamer::Streamer(std::shared_ptr<const Terrain> terrain, const Setup& setup, BeforeJob beforeJob,
    std::shared_ptr<WorldChanges> changes, std::shared_ptr<KnownVoxels> known)
    : m_terrain(std::move(terrain))
    , m_changes(changes ? std::move(changes) : std::make_shared<WorldChanges>())
    , m_setup(setup)
    , m_pipeline(resolve(setup))
    , m_sides(sideRulesOf(m_terrain->recipe.blocks))
    , m_meshing(m_pipeline.meshOptions(m_sides))
    , m_lightRules(lightRulesOf(m_terrain->recipe.blocks, *m_pipeline.light))
    , m_beforeJob(std::move(beforeJob))
    , m_open(std::make_shared<const VoxelChunk>(setup.chunk.edge, kOpen))
    , m_known(std::move(known))
{
    m_asked.distance = setup.stream.distance;
    constexpr int kUsualRows = 800; // until somebody says how large the picture is
    m_asked.pixels = pixelsPerRadian(setup.draw.fieldOfView, kUsualRows);
    const int coarsest = m_pipeline.hasLevels() ? setup.lod.levels : 0;
    for (int level = 0; level <= coarsest; ++level) {
        constexpr std::size_t kFew = 1024; // columns of chunks that a coarse level remembers
        const std::size_t most = level == 0 ? 4 * kFew : kFew;
        const auto add = [&](auto&&... from) {
            m_levels.push_back(std::make_unique<Level>(m_lightRules, *m_pipeline.form, most, from...));
        };
        if (level > 0 && m_pipeline.coarse == CoarseSource::Finer)
            add(m_levels.back()->source, m_sides);
        else
            add(level == 0 ? m_terrain : coarserTerrain(*m_terrain, level), *m_pipeline.generator, setup.chunk.edge,
                most, m_changes.get(), level == 0 ? m_known : nullptr);
    }
    m_memory = static_cast<std::size_t>(setup.stream.memory) << 20;
    m_editsEach = m_pipeline.edit == EditMethod::Each;
    if (m_pipeline.shape == StreamShape::Pool) {
        startPool(workerCount(setup.stream.workers));
    } else if (m_pipeline.shape == StreamShape::PerStage) {
        for (const Duty duty : {Duty{0, 1, true, false}, Duty{0, 2, false, true}})
            m_workers.emplace_back([this, duty](const std::stop_token& stop) { work(stop, duty); });
    }
}

void Streamer::startPool(unsigned count)
{
    m_pool = count;
    for (auto i = static_cast<unsigned>(m_workers.size()); i < count; ++i) {
        const Duty duty{i + 1, static_cast<std::uint8_t>(std::min(i + 1, 255u)), true, true};
        m_workers.emplace_back([this, duty](const std::stop_token& stop) { work(stop, duty); });
    }
    wake();
}

bool Streamer::retune(const Setup& now)
{
    const auto memory = static_cast<std::size_t>(now.stream.memory) << 20;
    if (memory < m_memory && m_voxelBytes + m_lightBytes + m_meshBytes > memory)
        return false;
    if (m_pipeline.shape == StreamShape::Pool && now.stream.workers != m_setup.stream.workers)
        startPool(workerCount(now.stream.workers));
    m_setup.stream.workers = now.stream.workers;
    const Pipeline pipeline = resolve(now);
    m_pipeline.order = pipeline.order; // moveTo looks at it
    m_editsEach = pipeline.edit == EditMethod::Each;
    setDistance(now.stream.distance);
    if (memory != m_memory.exchange(memory) && m_version > 0) // what was held back comes
        ask({m_asked.viewer, m_asked.towards, m_asked.distance, 0, m_asked.pixels});
    return true;
}

Streamer::~Streamer()
{
    stop();
}

void Streamer::stop()
{
    m_isStopping = true;
    for (auto& worker : m_workers)
        worker.request_stop();
    wake();
    m_workers.clear(); // joins
}

void Streamer::wake()
{
    ++m_wake;
    m_wake.notify_all();
}

void Streamer::ask(Request request)
{
    request.version = m_asked.version + 1;
    m_asked = request;
    m_version = m_asked.version; // nothing is settled from here on
    m_isPosted = false;
    post();
}

void Streamer::post()
{
    if (m_isPosted && m_askedEdits.empty())
        return;
    {
        const TimedLock lock(m_requestMutex, m_longestLockNs);
        if (!lock)
            return;
        m_request = m_asked;
        std::move(m_askedEdits.begin(), m_askedEdits.end(), std::back_inserter(m_edits));
    }
    m_askedEdits.clear();
    m_isPosted = true;
    wake();
}

void Streamer::moveTo(ChunkPos viewer, const ViewSector& towards)
{
    const ViewSector sector = m_pipeline.order == StreamOrder::View ? towards : ViewSector{};
    if (m_version == 0 || viewer != m_asked.viewer || sector != m_asked.towards)
        ask({viewer, sector, m_asked.distance, 0, m_asked.pixels});
    else
        post();
}

void Streamer::lookThrough(double pixelsPerRadian)
{
    if (pixelsPerRadian == m_asked.pixels)
        return;
    if (m_version > 0 && m_pipeline.lod == LodScheme::Error)
        ask({m_asked.viewer, m_asked.towards, m_asked.distance, 0, pixelsPerRadian});
    else
        m_asked.pixels = pixelsPerRadian;
}

void Streamer::setDistance(int chunks)
{
    if (chunks == m_asked.distance)
        return;
    if (m_version == 0)
        m_asked.distance = chunks; // nobody has moved yet
    else
        ask({m_asked.viewer, m_asked.towards, chunks, 0, m_asked.pixels});
}

void Streamer::collect()
{
    post();
    std::vector<StreamEvent> events;
    {
        const TimedLock lock(m_eventMutex, m_longestLockNs);
        if (lock)
            events.swap(m_events);
    }
    std::move(events.begin(), events.end(), std::back_inserter(m_taken));
}

std::optional<StreamEvent> Streamer::takeOne(std::size_t mostBytes)
{
    if (m_taken.empty())
        return std::nullopt;
    const std::size_t bytes = m_taken.front().mesh.mesh.bytes();
    const bool isOfLastEdit = m_takenEdit != 0 && m_taken.front().mesh.edit == m_takenEdit;
    if (bytes > mostBytes && !isOfLastEdit)
        return std::nullopt;
    m_takenEdit = m_taken.front().mesh.edit;
    StreamEvent event = std::move(m_taken.front());
    m_taken.pop_front();
    --m_pending;
    if (m_pendingBytes.fetch_sub(bytes) >= kMostPendingBytes) // workers may have stopped meshing for it
        wake();
    return event;
}

Delivery Streamer::deliver(const FrameBudget& budget, const std::function<void(const StreamEvent&)>& apply)
{
    const auto start = Clock::now();
    const auto end = budget.time < std::chrono::hours(1) ? start + budget.time : Clock::time_point::max();
    if (m_pipeline.shape == StreamShape::Drawing)
        workHere(start + kLongestWorkHere);
    collect();
    Delivery done;
    auto before = Clock::now();
    const auto isWithin = [&] { // the meshes of one edit come together
        return (done.meshes < budget.meshes && (done.meshes + done.releases + done.bare == 0 || before < end))
            || (m_takenEdit != 0 && !m_taken.empty() && m_taken.front().mesh.edit == m_takenEdit);
    };
    m_takenEdit = 0;
    while (isWithin()) {
        const auto event = takeOne(done.bytes == 0 ? SIZE_MAX : budget.bytes - std::min(budget.bytes, done.bytes));
        if (!event)
            break;
        apply(*event);
        const auto now = Clock::now();
        const auto ns = static_cast<std::uint64_t>((now - std::exchange(before, now)).count());
        if (event->kind == StreamEvent::Kind::Cover) {
            m_cover = event->cover;
            continue;
        }
        if (event->kind == StreamEvent::Kind::Edited)
            continue;
        const bool upload = event->kind == StreamEvent::Kind::Upload;
        if (!event->mesh.isBare)
            m_lives.note(event->chunk, upload ? LifeStep::Uploaded : LifeStep::Released, 0, ns);
        (event->mesh.isBare ? done.bare : upload ? done.meshes : done.releases) += 1;
        done.bytes += event->mesh.mesh.bytes();
    }
    done.ns = static_cast<std::uint64_t>((Clock::now() - start).count());
    return done;
}

std::vector<StreamEvent> Streamer::take(std::size_t uploadBytes)
{
    if (m_pipeline.shape == StreamShape::Drawing)
        workHere(Clock::now() + kLongestWorkHere);
    collect();
    std::vector<StreamEvent> out;
    std::size_t bytes = 0;
    while (auto event = takeOne(out.empty() ? SIZE_MAX : uploadBytes - std::min(uploadBytes, bytes))) {
        bytes += event->mesh.mesh.bytes();
        if (event->kind == StreamEvent::Kind::Cover)
            m_cover = event->cover;
        else if (event->kind != StreamEvent::Kind::Edited && !event->mesh.isBare)
            m_lives.note(
                event->chunk, event->kind == StreamEvent::Kind::Upload ? LifeStep::Uploaded : LifeStep::Released, 0);
        out.push_back(std::move(*event));
    }
    return out;
}

StreamCounts Streamer::counts() const
{
    StreamCounts c;
    c.generated = m_generated;
    c.known = m_known ? m_known->taken() : 0;
    c.lit = m_lit;
    c.relit = m_relit;
    c.meshed = m_meshed;
    c.retired = m_retired;
    c.generateNs = m_generateNs;
    c.lightNs = m_lightNs;
    c.meshNs = m_meshNs;
    c.relightNs = m_relightNs;
    c.sightNs = m_sightNs;
    c.resident = m_resident;
    c.toGenerate = m_toGenerate;
    c.toLight = m_toLight;
    c.toMesh = m_toMesh;
    c.voxelBytes = m_voxelBytes;
    c.lightBytes = m_lightBytes;
    c.meshBytes = m_meshBytes;
    c.dropped = m_dropped;
    c.evicted = m_evicted;
    c.failures = m_failures;
    c.failed = m_failed;
    c.longestLockNs = m_longestLockNs;
    c.full = m_full;
    c.fullAt = m_fullAt;
    // The order matters: what is pending is read after the workers said that they are idle.
    const bool idle = m_version > 0 && m_idleVersion == m_version;
    c.edits = m_editsLeft;
    const bool isEdited = c.edits == 0 && m_coarseLeft == 0;
    c.toUpload = m_pending;
    c.pendingBytes = m_pendingBytes;
    c.settled = idle && isEdited && c.toUpload == 0;
    c.levelsMissing = m_levelsMissing;
    c.levelsWaiting = m_levelsWaiting;
    std::copy(m_shownAt.begin(), m_shownAt.end(), c.shownAt.begin());
    return c;
}

std::shared_ptr<const VoxelChunk> Streamer::voxels(ChunkPos chunk) const
{
    const TimedLock lock(m_mapMutex, m_longestLockNs);
    const ChunkRecord* record = lock ? m_map.find(chunk) : nullptr;
    return record ? record->voxels : nullptr;
}

std::optional<std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>>> Streamer::residents() const
{
    const TimedLock lock(m_mapMutex, m_longestLockNs);
    return lock ? std::optional(m_map.residents()) : std::nullopt;
}

std::shared_ptr<const ChunkLight> Streamer::light(ChunkPos chunk) const
{
    if (!isLit())
        return nullptr;
    std::optional<std::array<std::shared_ptr<const LightPasses>, 27>> passes;
    {
        const TimedLock lock(m_mapMutex, m_longestLockNs);
        if (!lock)
            return nullptr;
        if (const ChunkRecord* record = m_map.find(chunk); record && record->light)
            return record->light;
        passes = m_map.passesRound(chunk);
    }
    if (!passes)
        return nullptr;
    const auto round = surroundingsOf(chunk, m_setup.chunk.edge, m_lightRules, *passes,
        [&](std::int64_t x, std::int64_t z) { return levelOf(chunk.level).sky.find(x, z); });
    if (!round)
        return nullptr;
    auto light = std::make_shared<ChunkLight>();
    floodPart(round->block, {{1, 1, 1}, {2, 2, 2}}, {light.get(), 1});
    return light;
}

std::optional<bool> Streamer::isFree(const Eye& eye, const Lens& lens) const
{
    const double reach = nearReachOf(lens);
    const VoxelPos low = moved(eye, glm::dvec3(-reach)).cell, high = moved(eye, glm::dvec3(reach)).cell;
    const TimedLock lock(m_mapMutex, m_longestLockNs);
    if (!lock)
        return std::nullopt;
    for (std::int64_t y = low.y; y <= high.y; ++y)
        for (std::int64_t z = low.z; z <= high.z; ++z)
            for (std::int64_t x = low.x; x <= high.x; ++x) {
                const ChunkPos chunk = chunkOf({x, y, z}, m_setup.chunk.edge);
                const ChunkRecord* record = m_map.find(chunk);
                const VoxelPos in = VoxelPos{x, y, z} - originOf(chunk, m_setup.chunk.edge);
                if (record && record->voxels
                    && m_sides.isPlainSolid(
                        record->voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z))))
                    return false;
            }
    return true;
}

std::optional<ChunkProbe> Streamer::probe(ChunkPos chunk) const
{
    const TimedLock lock(m_mapMutex, m_longestLockNs);
    return lock ? std::optional(m_map.probe(chunk)) : std::nullopt;
}

std::shared_ptr<const PlanView> Streamer::plan()
{
    {
        const TimedLock lock(m_planMutex, m_longestLockNs);
        if (lock)
            m_planTaken = m_plan;
    }
    if (!m_planWanted.exchange(true))
        wake();
    return m_planTaken;
}

void Streamer::work(const std::stop_token& stop, Duty duty)
{
    bool isQuiet = false;
    while (!stop.stop_requested()) {
        if (m_isDrawn && !std::exchange(isQuiet, true))
            wakeQuietly();
        holdBack(stop);
        const std::uint32_t seen = m_wake;
        if (duty.worker > m_pool)
            m_wake.wait(seen);
        else if (const auto edit = duty.meshes ? takeEdit() : std::nullopt)
            runEdit(*edit, duty.thread);
        else if (auto job = takeJob(duty))
            run(*job, duty.thread);
        else if (duty.meshes && refreshCoarse(duty.thread))
            continue;
        else if (!stop.stop_requested())
            m_wake.wait(seen);
    }
}

void Streamer::beginFrame()
{
    m_isDrawn = true;
    m_isDrawing = true;
}

void Streamer::endFrame()
{
    m_isDrawing = false;
}

void Streamer::holdBack(const std::stop_token& stop) const
{
    constexpr std::chrono::microseconds kLook{200};
    const auto end = Clock::now() + kLongestHold;
    while (m_isDrawing && !stop.stop_requested() && Clock::now() < end)
        std::this_thread::sleep_for(kLook);
}

void Streamer::workHere(Clock::time_point end)
{
    do {
        post();
        if (const auto edit = takeEdit()) {
            runEdit(*edit, 0);
        } else if (const auto job = takeJob({})) {
            run(*job, 0);
        } else if (!refreshCoarse(0)) {
            return;
        }
    } while (Clock::now() < end);
}

std::optional<ChunkJob> Streamer::takeJob(const Duty& duty)
{
    const std::scoped_lock lock(m_mapMutex);
    Request request;
    {
        const std::scoped_lock requestLock(m_requestMutex);
        request = m_request;
    }
    if (request.version == 0)
        return std::nullopt;
    if (request.version != m_followed)
        follow(request, duty.thread);
    makeRoom(duty.thread);
    if (m_planWanted.exchange(false)) {
        PlanView now{request.viewer, request.distance, m_map.glances()};
        if (m_selection) // those that give way to finer ones, and neighbours that are only read, lie over others
            std::erase_if(now.chunks, [this](const ChunkGlance& glance) {
                return !m_selection->contains(glance.chunk) || m_selection->isSplit(glance.chunk);
            });
        auto view = std::make_shared<const PlanView>(std::move(now));
        const std::scoped_lock planLock(m_planMutex);
        m_plan = std::move(view);
    }
    const bool mayMesh = !m_full && m_pendingBytes < kMostPendingBytes;
    auto job = m_map.next(mayMesh && duty.meshes, !m_full && duty.generates);
    m_running += job.has_value();
    if (job && job->kind != ChunkJob::Kind::Light)
        m_lives.note(
            job->chunk, job->kind == ChunkJob::Kind::Generate ? LifeStep::Generating : LifeStep::Meshing, duty.thread);
    publish();
    constexpr std::chrono::milliseconds kBetweenCovers{100};
    const bool isLast = !job && m_running == 0;
    if (m_isCoverStale && (isLast || Clock::now() - m_coverSent > kBetweenCovers))
        sendCover();
    // Nothing to do and nobody at work: the request is fulfilled, unless meshes are held back until some are taken.
    const bool nothingLeft
        = m_full || (m_map.readyToMesh() == 0 && m_map.readyToLight() == 0 && m_map.stillToGenerate() == 0);
    if (isLast && nothingLeft)
        m_idleVersion = m_followed;
    return job;
}

void Streamer::follow(const Request& request, std::uint8_t thread)
{
    std::vector<ChunkPos> retired;
    if (m_pipeline.hasLevels()) {
        const LodView view{request.viewer, request.distance, nearReach(m_setup.lod, m_setup.chunk.edge, request.pixels),
            m_setup.lod.levels};
        m_selection = std::make_shared<const LodSelection>(selectLevels(view, m_selection.get()));
        m_map.follow(request.viewer, m_selection, m_pipeline.seams == Seams::Stitched, retired);
        sendCover(); // what goes is hidden before it is released
    } else {
        m_map.centreOn(request.viewer, request.distance, retired, request.towards);
    }
    m_followed = request.version;
    for (const ChunkPos chunk : m_map.gone())
        m_lives.note(chunk, LifeStep::Retired, thread);
    release(retired);
}

/// Tells the drawing side what is shown from now on, behind the meshes that it needs. The map's lock is held.
void Streamer::sendCover()
{
    m_isCoverStale = false;
    m_coverSent = Clock::now();
    auto cover = std::make_shared<const LodCover>(coverOf(*m_selection, [this](ChunkPos chunk) {
        const ChunkRecord* record = m_map.find(chunk);
        return record && record->state == ChunkState::Meshed;
    }));
    m_levelsMissing = cover->missing;
    m_levelsWaiting = cover->waiting;
    std::array<std::uint64_t, kMostLevel + 1> shownAt{};
    for (const ShownChunk& shown : cover->chunks)
        ++shownAt[static_cast<std::size_t>(shown.chunk.level)];
    std::copy(shownAt.begin(), shownAt.end(), m_shownAt.begin());
    if (m_sentCover && m_sentCover->chunks == cover->chunks)
        return;
    m_sentCover = cover;
    send({StreamEvent::Kind::Cover, {}, {}, std::move(cover)});
}

void Streamer::makeRoom(std::uint8_t thread)
{
    const std::size_t memory = m_memory;
    if (m_map.bytes() >= memory) {
        std::vector<ChunkPos> retired, evicted;
        m_map.evict(memory - memory / 32, retired, evicted);
        m_evicted += evicted.size();
        for (const ChunkPos chunk : evicted)
            m_lives.note(chunk, LifeStep::Evicted, thread);
        release(retired);
    }
    m_full = m_map.bytes() >= memory;
    if (m_full)
        m_fullAt = m_map.nextDistance().value_or(0);
}

void Streamer::release(const std::vector<ChunkPos>& retired)
{
    if (retired.empty())
        return;
    m_retired += retired.size();
    m_pending += retired.size();
    const std::scoped_lock lock(m_eventMutex);
    for (const ChunkPos chunk : retired)
        m_events.push_back({StreamEvent::Kind::Release, chunk, {}, nullptr});
}

void Streamer::publish()
{
    m_resident = m_map.size();
    m_toGenerate = m_map.stillToGenerate();
    m_toLight = m_map.readyToLight();
    m_toMesh = m_map.readyToMesh();
    m_voxelBytes = m_map.voxelBytes();
    m_lightBytes = m_map.lightBytes();
    m_meshBytes = m_map.meshBytes();
    m_dropped = m_map.dropped();
}

void Streamer::run(const ChunkJob& job, std::uint8_t thread)
{
    try {
        if (m_beforeJob)
            m_beforeJob(job);
        if (job.kind == ChunkJob::Kind::Generate)
            generate(job, thread);
        else if (job.kind == ChunkJob::Kind::Mesh)
            mesh(job, thread);
        else
            relight(job, thread);
    } catch (const std::exception&) { // no memory, or a method that cannot do this chunk: the others go on
        fail(job, thread);
    }
    wake(); // what this job finished may be what another worker waits for
}

void Streamer::fail(const ChunkJob& job, std::uint8_t thread)
{
    ++m_failures;
    m_lives.note(job.chunk, LifeStep::Failed, thread);
    const std::scoped_lock lock(m_mapMutex);
    --m_running;
    m_failed += m_map.failed(job, m_open);
}

void Streamer::generate(const ChunkJob& job, std::uint8_t thread)
{
    const std::uint64_t start = threadNs();
    Level& level = levelOf(job.chunk.level);
    const std::uint64_t edition = m_changes->edition(job.chunk, m_setup.chunk.edge);
    SkyCache::Seen made;
    if (m_lightRules.mode->sky > 0) { // the chunks that close the sky are generated from the top down, once
        (void)level.sky.at(job.chunk.x, job.chunk.z);
        made = level.sky.take({job.chunk.x, job.chunk.y, job.chunk.z});
    }
    if (level.source.isReduced() && edition != 0)
        made = {}; // what the sky has seen may be from before an edit
    if (!made.voxels) {
        const VoxelChunk voxels = level.source.voxels(job.chunk);
        made.voxels = std::make_shared<const VoxelChunk>(voxels.heldAs(*m_pipeline.form));
        if (isLit())
            made.passes = std::make_shared<const LightPasses>(passesOf(voxels, m_lightRules));
    }
    const std::uint64_t cost = threadNs() - start;
    m_generateNs += cost;
    ++m_generated;
    m_lives.note(job.chunk, LifeStep::Generated, thread, cost);
    const std::scoped_lock lock(m_mapMutex);
    const std::uint64_t now = m_changes->edition(job.chunk, m_setup.chunk.edge);
    if (now != 0 && !level.source.isReduced())
        applyChanges(job.chunk, made); // an edit may have come between, or before what the sky had seen
    m_map.generated(job, std::move(made.voxels), std::move(made.passes));
    if (now != edition && level.source.isReduced()) { // an edit came between: it is reduced again
        m_coarseDue.push_back(job.chunk);
        countCoarse();
    }
    --m_running;
}

void Streamer::applyChanges(ChunkPos chunk, SkyCache::Seen& made) const
{
    std::vector<Material> voxels = made.voxels->voxels();
    const std::vector<Material> before = voxels;
    if (!m_changes->apply(chunk, m_setup.chunk.edge, voxels) || voxels == before)
        return;
    const VoxelChunk changed(m_setup.chunk.edge, std::move(voxels));
    made.voxels = std::make_shared<const VoxelChunk>(changed.heldAs(*m_pipeline.form));
    if (isLit())
        made.passes = std::make_shared<const LightPasses>(passesOf(changed, m_lightRules));
}

void Streamer::flood(const ChunkJob& job, std::uint8_t thread, PaddedLight& out, MeshedChunk& mesh)
{
    const std::uint64_t start = threadNs();
    const auto round = surroundingsOf(job.chunk, m_setup.chunk.edge, m_lightRules, job.passes,
        [&](std::int64_t x, std::int64_t z) { return levelOf(job.chunk.level).sky.at(x, z); });
    floodPadded(round->block, out);
    mesh.lightNs = static_cast<std::uint32_t>(threadNs() - start);
    m_lightNs += mesh.lightNs;
    ++m_lit;
    m_lives.note(job.chunk, LifeStep::Lit, thread, mesh.lightNs);
}

/// What stands under the open sky has all of it, everything else nothing: the light of a chunk that is lit later.
void Streamer::skyFromAbove(const ChunkJob& job, PaddedLight& out)
{
    const auto round = surroundingsOf(job.chunk, m_setup.chunk.edge, m_lightRules, job.passes,
        [&](std::int64_t x, std::int64_t z) { return levelOf(job.chunk.level).sky.at(x, z); });
    skyOnly(round->block, out);
}

void Streamer::send(StreamEvent event)
{
    m_pendingBytes += event.mesh.mesh.bytes();
    ++m_pending;
    const std::scoped_lock lock(m_eventMutex);
    m_events.push_back(std::move(event));
}

/// A cheap look at whether a chunk that has no sides of its own may have some where levels meet.
bool Streamer::mayHaveSeams(const ChunkJob& job) const
{
    if (!job.coarser[0]) // skirts hang from what the chunk itself has
        return false;
    const VoxelChunk& own = *job.around[13];
    const auto isSame = [&](const auto& coarse) {
        return coarse && coarse->isUniform() && own.isUniform()
            && m_sides.isSolidCube(coarse->uniform()) == m_sides.isSolidCube(own.uniform());
    };
    return !std::all_of(job.coarser.begin(), job.coarser.end(), isSame);
}

/// True if there are any.
bool Streamer::makeSeams(
    const ChunkJob& job, const PaddedVoxels& voxels, const PaddedLight* light, SeamQuads& out) const
{
    const SeamLight how{light, m_lightRules.mode};
    if (m_pipeline.seams == Seams::Skirts) {
        hangSkirts(voxels, m_sides, how, out);
    } else if (job.coarser[0]) {
        CoarserAround coarser{job.coarser[0].get(), {}};
        for (std::size_t axis = 0; axis < 3; ++axis)
            coarser.beyond[axis] = job.coarser[axis + 1].get();
        stitch(job.chunk, voxels, coarser, m_sides, how, out);
    }
    return out.count() > 0;
}

/// Meshes a chunk. `before`: as an edit does, again and again; then its light may be known. Else it is flooded.
StreamEvent Streamer::build(
    const ChunkJob& job, std::uint8_t thread, MeshResult& result, Edited* before, const LightAround* known)
{
    assert(before || !known);
    thread_local PaddedVoxels gathered;
    thread_local PaddedLight flooded;
    thread_local ChunkSurface quads;
    const Neighbourhood around = neighbourhoodOf(job);
    const VoxelChunk& centre = around.centre();
    bool nothing = (centre.isUniform() && centre.uniform() == kOpen)
        || (!m_meshing.mesher->traits.drawsHidden && isBuried(around, m_sides));
    thread_local SeamQuads seams;
    seams.clear();
    if (nothing && mayHaveSeams(job)) { // what stands open here may be solid on the level beyond, and the reverse
        gather(around, gathered);
        nothing = !makeSeams(job, gathered, nullptr, seams);
    }

    StreamEvent event{StreamEvent::Kind::Upload, job.chunk, {}, nullptr};
    event.mesh.chunk = job.chunk;
    if (!nothing) {
        const bool later = isLit() && !known && m_pipeline.lit == LightWhen::Later && !m_pipeline.hasLevels();
        PaddedLight& lit = before ? before->light.light : flooded;
        if (later)
            skyFromAbove(job, lit);
        else if (isLit() && !known)
            flood(job, thread, lit, event.mesh);
        if (before && !known)
            before->light.written();
        const PaddedLight* light = isLit() ? &lit : nullptr;
        const std::uint64_t start = threadNs();
        ChunkDifference differs;
        if (before) {
            differs.voxels = gatherAgain(job.around, before->voxels);
            if (known)
                differs.light = gatherLightAgain(m_lightRules, m_setup.chunk.edge, *known, before->light);
        } else {
            gather(around, gathered);
        }
        const PaddedVoxels& voxels = before ? before->voxels.voxels : gathered;
        const std::uint64_t readyNs = threadNs();
        if (!job.isSeenThroughAlike)
            event.mesh.sight = sightOf(voxels, m_sides.solidCubes);
        const std::uint64_t sightNs = threadNs() - readyNs;
        m_sightNs += sightNs;
        makeSeams(job, voxels, light, seams);
        if (before) {
            event.mesh.mesh = meshAgain(voxels, m_meshing, light, &seams, differs, before->mesh);
        } else {
            meshQuads(voxels, m_meshing, quads);
            event.mesh.mesh = layOutMesh(voxels, quads, m_meshing, light, &seams);
        }
        std::uint64_t cost = threadNs() - start - sightNs;
        if (m_slowerBy > 0)
            cost = waitBusily(
                start + sightNs, cost + static_cast<std::uint64_t>(static_cast<double>(cost) * m_slowerBy));
        event.mesh.meshNs = static_cast<std::uint32_t>(cost);
        m_meshNs += event.mesh.meshNs;
        ++m_meshed;
        result = {true, event.mesh.mesh.bytes(), nullptr, nullptr};
        if (later)
            result.quads = std::make_shared<const ChunkSurface>(before ? before->mesh.quads() : quads);
        else if (isLit() && !known)
            result.light = std::make_shared<const ChunkLight>(innerOf(lit));
    }
    if (nothing) {
        event.mesh.isBare = true;
        event.mesh.sight = sightOfUniform(centre.uniform(), m_sides.solidCubes);
    }
    return event;
}

void Streamer::mesh(const ChunkJob& job, std::uint8_t thread)
{
    MeshResult result;
    StreamEvent event = build(job, thread, result);
    m_lives.note(job.chunk, event.mesh.isBare ? LifeStep::Bare : LifeStep::Meshed, thread, event.mesh.meshNs);
    const std::scoped_lock lock(m_mapMutex);
    if (m_map.meshed(job, std::move(result))) {
        m_isCoverStale = m_selection != nullptr;
        send(std::move(event));
    }
    --m_running; // last: where something above throws, fail() does it
}

void Streamer::relight(const ChunkJob& job, std::uint8_t thread)
{
    thread_local PaddedVoxels padded;
    thread_local PaddedLight light;
    StreamEvent event{StreamEvent::Kind::Upload, job.chunk, {}, nullptr};
    event.mesh.chunk = job.chunk;
    event.mesh.relit = true;
    flood(job, thread, light, event.mesh);
    const std::uint64_t start = threadNs();
    gather(neighbourhoodOf(job), padded);
    event.mesh.mesh = layOutMesh(padded, *job.quads, m_meshing, &light);
    event.mesh.meshNs = static_cast<std::uint32_t>(threadNs() - start);
    m_relightNs += event.mesh.meshNs;
    ++m_relit;
    MeshResult result{true, event.mesh.mesh.bytes(), std::make_shared<const ChunkLight>(innerOf(light)), nullptr};
    const std::scoped_lock lock(m_mapMutex);
    if (m_map.lit(job, std::move(result)))
        send(std::move(event));
    --m_running;
}

} // namespace fell
