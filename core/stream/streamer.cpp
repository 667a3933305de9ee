// SPDX-License-Identifier: Apache-2.0
// The order of locks: delivery before ask; resident set before request, events and plan. Window and render thread try
// the latter, and never wait for one.
#include <fell/stream/streamer.h>

#include <fell/stream/stream_limits.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

namespace fell::stream {
namespace {

// Where chunks are made on the render thread, a frame waits for all that are missing, but no longer than this.
constexpr std::chrono::milliseconds kLongestWorkHere{40};

unsigned workerCount(int wanted)
{
    return wanted > 0 ? static_cast<unsigned>(wanted) : std::max(1u, std::thread::hardware_concurrency());
}

} // namespace

using Clock = std::chrono::steady_clock;

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
    : m_world(std::move(terrain), setup, std::move(changes), std::move(known))
    , m_edits(m_world, m_world.rules.pipeline.edit == EditMethod::Each)
    , m_follower(m_world, setup.lod)
    , m_jobs(m_world, m_edits, m_follower)
    , m_beforeJob(std::move(beforeJob))
    , m_memory(static_cast<std::size_t>(setup.stream.memory) << 20)
    , m_order(m_world.rules.pipeline.order)
    , m_wantedWorkers(setup.stream.workers)
{
    m_asked.distance = setup.stream.distance;
    constexpr int kUsualRows = 800; // until the size of the frame is known
    m_asked.pixels = pixelsPerRadian(setup.draw.fieldOfView, kUsualRows);
    const StreamShape shape = m_world.rules.pipeline.shape;
    if (shape == StreamShape::Pool) {
        startPool(workerCount(setup.stream.workers));
    } else if (shape == StreamShape::PerStage) {
        start(0, 1, true, false);
        start(0, 2, false, true);
    }
}

void Streamer::start(unsigned number, std::uint8_t thread, bool generates, bool meshes)
{
    m_workers.emplace_back([this, number, thread, generates, meshes](const std::stop_token& stop) {
        Worker worker{number, thread, generates, meshes};
        work(stop, worker);
    });
}

void Streamer::startPool(unsigned count)
{
    m_pool = count;
    for (auto i = static_cast<unsigned>(m_workers.size()); i < count; ++i)
        start(i + 1, static_cast<std::uint8_t>(std::min(i + 1, 255u)), true, true);
    wake();
}

bool Streamer::retune(const Setup& now)
{
    const auto memory = static_cast<std::size_t>(now.stream.memory) << 20;
    const StreamStats& held = m_world.stats;
    if (memory < m_memory && held.voxelBytes + held.lightBytes + held.meshBytes > memory)
        return false;
    const Pipeline pipeline = resolve(now);
    if (m_world.rules.pipeline.shape == StreamShape::Pool
        && std::exchange(m_wantedWorkers, now.stream.workers) != now.stream.workers)
        startPool(workerCount(now.stream.workers));
    m_order = pipeline.order;
    m_edits.setVoxelByVoxel(pipeline.edit == EditMethod::Each);
    setDistance(now.stream.distance);
    const std::scoped_lock lock(m_askMutex);
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
    m_edits.stop();
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
    bool isNew = m_edits.post();
    if (!m_isPosted) {
        const TimedLock lock(m_requestMutex, m_world.stats.longestLockNs);
        if (lock) {
            m_request = m_asked;
            m_isPosted = isNew = true;
        }
    }
    if (isNew)
        wake();
}

std::uint64_t Streamer::edit(EditRequest edit)
{
    const std::scoped_lock lock(m_askMutex);
    const std::uint64_t number = m_edits.ask(std::move(edit));
    post();
    return number;
}

void Streamer::moveTo(ChunkPos viewer, const ViewSector& towards)
{
    const ViewSector sector = m_order == StreamOrder::View ? towards : ViewSector{};
    const std::scoped_lock lock(m_askMutex);
    if (m_version == 0 || viewer != m_asked.viewer || sector != m_asked.towards)
        ask({viewer, sector, m_asked.distance, 0, m_asked.pixels});
    else
        post();
}

void Streamer::lookThrough(double pixelsPerRadian)
{
    const std::scoped_lock lock(m_askMutex);
    if (pixelsPerRadian == m_asked.pixels)
        return;
    if (m_version > 0 && m_world.rules.pipeline.lod == LodScheme::Error)
        ask({m_asked.viewer, m_asked.towards, m_asked.distance, 0, pixelsPerRadian});
    else
        m_asked.pixels = pixelsPerRadian;
}

void Streamer::setDistance(int chunks)
{
    const std::scoped_lock lock(m_askMutex);
    if (chunks == m_asked.distance)
        return;
    if (m_version == 0)
        m_asked.distance = chunks; // no camera position is known yet
    else
        ask({m_asked.viewer, m_asked.towards, chunks, 0, m_asked.pixels});
}

void Streamer::collect()
{
    {
        const std::scoped_lock lock(m_askMutex);
        post();
    }
    m_world.events.collect(m_taken, m_world.stats.longestLockNs);
}

std::optional<StreamEvent> Streamer::takeOne(std::size_t maxBytes)
{
    if (m_taken.empty())
        return std::nullopt;
    const std::size_t bytes = m_taken.front().mesh.mesh.bytes();
    const bool isOfLastEdit = m_takenEdit != 0 && m_taken.front().mesh.edit == m_takenEdit;
    if (bytes > maxBytes && !isOfLastEdit)
        return std::nullopt;
    m_takenEdit = m_taken.front().mesh.edit;
    StreamEvent event = std::move(m_taken.front());
    m_taken.pop_front();
    if (m_world.events.taken(bytes) >= kMaxPendingBytes) // workers may have stopped meshing for it
        wake();
    return event;
}

Delivery Streamer::deliver(const FrameBudget& budget, const std::function<void(const StreamEvent&)>& apply)
{
    const std::scoped_lock delivery(m_deliveryMutex);
    const auto start = Clock::now();
    const auto end = budget.time < std::chrono::hours(1) ? start + budget.time : Clock::time_point::max();
    if (m_world.rules.pipeline.shape == StreamShape::Drawing)
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
            noteCover(event->cover);
            continue;
        }
        if (event->kind == StreamEvent::Kind::Edited)
            continue;
        const bool upload = event->kind == StreamEvent::Kind::Upload;
        if (!event->mesh.isBare)
            m_world.lives.note(event->chunk, upload ? LifeStep::Uploaded : LifeStep::Released, 0, ns);
        (event->mesh.isBare ? done.bare : upload ? done.meshes : done.releases) += 1;
        done.bytes += event->mesh.mesh.bytes();
    }
    done.ns = static_cast<std::uint64_t>((Clock::now() - start).count());
    return done;
}

void Streamer::noteCover(std::shared_ptr<const LodCover> cover)
{
    const std::scoped_lock lock(m_coverMutex);
    m_cover = std::move(cover);
}

std::shared_ptr<const LodCover> Streamer::cover() const
{
    const std::scoped_lock lock(m_coverMutex);
    return m_cover;
}

std::vector<StreamEvent> Streamer::take(std::size_t uploadBytes)
{
    const std::scoped_lock delivery(m_deliveryMutex);
    if (m_world.rules.pipeline.shape == StreamShape::Drawing)
        workHere(Clock::now() + kLongestWorkHere);
    collect();
    std::vector<StreamEvent> out;
    std::size_t bytes = 0;
    while (auto event = takeOne(out.empty() ? SIZE_MAX : uploadBytes - std::min(uploadBytes, bytes))) {
        bytes += event->mesh.mesh.bytes();
        if (event->kind == StreamEvent::Kind::Cover)
            noteCover(event->cover);
        else if (event->kind != StreamEvent::Kind::Edited && !event->mesh.isBare)
            m_world.lives.note(
                event->chunk, event->kind == StreamEvent::Kind::Upload ? LifeStep::Uploaded : LifeStep::Released, 0);
        out.push_back(std::move(*event));
    }
    return out;
}

std::string Streamer::firstError() const
{
    const std::scoped_lock lock(m_world.chunksMutex);
    return m_world.firstError;
}

StreamCounts Streamer::counts() const
{
    StreamCounts c = m_world.stats.counts();
    c.known = m_world.known ? m_world.known->taken() : 0;
    // The order matters: what is pending is read after the workers said that they are idle.
    const bool idle = m_version > 0 && m_world.idleVersion == m_version;
    c.edits = m_edits.pending();
    const bool isEdited = m_edits.isDone();
    c.toUpload = m_world.events.pending();
    c.pendingBytes = m_world.events.pendingBytes();
    c.settled = idle && isEdited && c.toUpload == 0;
    return c;
}

std::shared_ptr<const VoxelChunk> Streamer::voxels(ChunkPos chunk) const
{
    const TimedLock lock(m_world.chunksMutex, m_world.stats.longestLockNs);
    const ChunkRecord* record = lock ? m_world.chunks.find(chunk) : nullptr;
    return record ? record->voxels : nullptr;
}

std::optional<std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>>> Streamer::residents() const
{
    const TimedLock lock(m_world.chunksMutex, m_world.stats.longestLockNs);
    return lock ? std::optional(m_world.chunks.residents()) : std::nullopt;
}

std::shared_ptr<const ChunkLight> Streamer::light(ChunkPos chunk) const
{
    if (!m_world.rules.isLit())
        return nullptr;
    std::optional<SharedAround<Transmission>> passes;
    {
        const TimedLock lock(m_world.chunksMutex, m_world.stats.longestLockNs);
        if (!lock)
            return nullptr;
        if (const ChunkRecord* record = m_world.chunks.find(chunk); record && record->light)
            return record->light;
        passes = m_world.chunks.passesRound(chunk);
    }
    if (!passes)
        return nullptr;
    const auto round = lightSurroundings(chunk, m_world.rules.edge, m_world.rules.light, *passes,
        [&](std::int64_t x, std::int64_t z) { return m_world.levelOf(chunk.level).sky.find(x, z); });
    if (!round)
        return nullptr;
    auto light = std::make_shared<ChunkLight>();
    floodPart(round->block, {{1, 1, 1}, {2, 2, 2}}, {light.get(), 1}, m_floodHere);
    return light;
}

std::optional<bool> Streamer::nearPlaneIsClear(const Eye& eye, const Lens& lens) const
{
    const double reach = nearPlaneRadius(lens);
    const VoxelPos low = moved(eye, glm::dvec3(-reach)).cell, high = moved(eye, glm::dvec3(reach)).cell;
    const TimedLock lock(m_world.chunksMutex, m_world.stats.longestLockNs);
    if (!lock)
        return std::nullopt;
    for (std::int64_t y = low.y; y <= high.y; ++y)
        for (std::int64_t z = low.z; z <= high.z; ++z)
            for (std::int64_t x = low.x; x <= high.x; ++x) {
                const ChunkPos chunk = chunkOf({x, y, z}, m_world.rules.edge);
                const ChunkRecord* record = m_world.chunks.find(chunk);
                const VoxelPos in = VoxelPos{x, y, z} - originOf(chunk, m_world.rules.edge);
                if (record && record->voxels
                    && m_world.rules.sides.isPlainSolid(
                        record->voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z))))
                    return false;
            }
    return true;
}

std::optional<ChunkDetails> Streamer::probe(ChunkPos chunk) const
{
    const TimedLock lock(m_world.chunksMutex, m_world.stats.longestLockNs);
    return lock ? std::optional(m_world.chunks.probe(chunk)) : std::nullopt;
}

std::shared_ptr<const PlanView> Streamer::plan()
{
    {
        const TimedLock lock(m_planMutex, m_world.stats.longestLockNs);
        if (lock)
            m_planTaken = m_plan;
    }
    if (!m_planWanted.exchange(true))
        wake();
    return m_planTaken;
}

void Streamer::beginFrame()
{
    m_frame |= 1;
}

void Streamer::endFrame()
{
    m_frame = (m_frame | 1) + 1;
}

} // namespace fell::stream
