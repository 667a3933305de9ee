// SPDX-License-Identifier: Apache-2.0
// What the workers do.
#include <fell/stream/streamer.h>

#include <fell/stream/stream_limits.h>

#include <sched.h>
#include <utility>

namespace fell::stream {

using Clock = std::chrono::steady_clock;

namespace {

/// A worker that wakes up does not push the render thread from its core; its share of the machine stays that of any
/// other thread. Refused without harm.
void wakeQuietly()
{
    const sched_param none{};
    (void)::sched_setscheduler(0, SCHED_BATCH, &none);
}

} // namespace

void Streamer::work(const std::stop_token& stop, Worker& worker)
{
    bool isQuiet = false;
    while (!stop.stop_requested()) {
        if (m_frame != 0 && !std::exchange(isQuiet, true))
            wakeQuietly();
        holdBack(stop, worker);
        const std::uint32_t seen = m_wake;
        if (worker.number > m_pool) {
            m_wake.wait(seen);
        } else if (const auto edit = worker.meshes ? m_edits.take() : std::nullopt) {
            m_edits.run(*edit, worker.thread, worker.scratch);
            wake();
        } else if (const auto job = takeJob(worker)) {
            run(*job, worker);
        } else if (worker.meshes && m_edits.refreshCoarse(worker.thread, worker.scratch)) {
            wake();
        } else if (!stop.stop_requested()) {
            m_wake.wait(seen);
        }
    }
}

void Streamer::holdBack(const std::stop_token& stop, Worker& worker)
{
    constexpr std::chrono::microseconds kLook{200};
    const std::uint32_t frame = m_frame;
    const bool isDrawing = frame % 2 == 1;
    if (!isDrawing || frame == worker.heldBy)
        return;
    const auto begin = Clock::now();
    if (begin < worker.free)
        return;
    worker.heldBy = frame;
    auto now = begin;
    for (; m_frame == frame && !stop.stop_requested() && now < begin + kLongestHold; now = Clock::now())
        std::this_thread::sleep_for(kLook);
    worker.free = now + (now - begin);
    m_world.stats.heldNs += static_cast<std::uint64_t>((now - begin).count());
    ++m_world.stats.holds;
}

void Streamer::workHere(Clock::time_point end)
{
    do {
        {
            const std::scoped_lock lock(m_askMutex);
            post();
        }
        if (const auto edit = m_edits.take())
            m_edits.run(*edit, 0, m_here.scratch);
        else if (const auto job = takeJob(m_here))
            run(*job, m_here);
        else if (!m_edits.refreshCoarse(0, m_here.scratch))
            return;
    } while (Clock::now() < end);
}

std::optional<ChunkJob> Streamer::takeJob(const Worker& worker)
{
    const std::scoped_lock lock(m_world.chunksMutex);
    Request request;
    {
        const std::scoped_lock requestLock(m_requestMutex);
        request = m_request;
    }
    if (request.version == 0)
        return std::nullopt;
    if (request.version != m_followed)
        follow(request, worker.thread);
    makeRoom(worker.thread);
    if (m_planWanted.exchange(false))
        makePlan(request);
    ResidentSet& chunks = m_world.chunks;
    const bool isFull = m_world.stats.full;
    const bool mayMesh = !isFull && m_world.events.pendingBytes() < kMaxPendingBytes;
    auto job = chunks.next(mayMesh && worker.meshes, !isFull && worker.generates);
    m_world.running += job.has_value();
    if (job && job->kind != ChunkJob::Kind::Light)
        m_world.lives.note(job->chunk, job->kind == ChunkJob::Kind::Generate ? LifeStep::Generating : LifeStep::Meshing,
            worker.thread);
    m_world.stats.publish(chunks);
    const bool isLast = !job && m_world.running == 0;
    m_follower.send(isLast);
    // Nothing to do and no worker busy: the request is fulfilled, unless meshes are held back until some are taken.
    const bool nothingLeft
        = isFull || (chunks.readyToMesh() == 0 && chunks.readyToLight() == 0 && chunks.stillToGenerate() == 0);
    if (isLast && nothingLeft)
        m_world.idleVersion = m_followed;
    return job;
}

void Streamer::makePlan(const Request& request)
{
    PlanView now{request.viewer, request.distance, m_world.chunks.glances()};
    std::erase_if(now.chunks, [this](const ChunkStatus& glance) { return !m_follower.shows(glance.chunk); });
    auto view = std::make_shared<const PlanView>(std::move(now));
    const std::scoped_lock lock(m_planMutex);
    m_plan = std::move(view);
}

void Streamer::follow(const Request& request, std::uint8_t thread)
{
    std::vector<ChunkPos> retired;
    if (m_world.rules.pipeline.hasLevels())
        m_follower.follow(request.viewer, request.distance, request.pixels, retired);
    else
        m_world.chunks.centreOn(request.viewer, request.distance, retired, request.towards);
    m_followed = request.version;
    for (const ChunkPos chunk : m_world.chunks.gone())
        m_world.lives.note(chunk, LifeStep::Retired, thread);
    release(retired);
}

void Streamer::makeRoom(std::uint8_t thread)
{
    const std::size_t memory = m_memory;
    StreamStats& stats = m_world.stats;
    if (m_world.chunks.bytes() >= memory) {
        std::vector<ChunkPos> retired, evicted;
        m_world.chunks.evict(memory - memory / 32, retired, evicted);
        stats.evicted += evicted.size();
        for (const ChunkPos chunk : evicted)
            m_world.lives.note(chunk, LifeStep::Evicted, thread);
        release(retired);
    }
    stats.full = m_world.chunks.bytes() >= memory;
    if (stats.full)
        stats.fullAt = m_world.chunks.nextDistance().value_or(0);
}

void Streamer::release(const std::vector<ChunkPos>& retired)
{
    m_world.stats.retired += retired.size();
    std::vector<StreamEvent> events;
    events.reserve(retired.size());
    for (const ChunkPos chunk : retired)
        events.push_back({StreamEvent::Kind::Release, chunk, {}, nullptr});
    m_world.events.sendAll(std::move(events));
}

void Streamer::run(const ChunkJob& job, Worker& worker)
{
    try {
        if (m_beforeJob)
            m_beforeJob(job);
        m_jobs.run(job, worker.thread, worker.scratch);
    } catch (const std::exception& error) { // no memory, or a method that cannot do this chunk: the others go on
        m_jobs.fail(job, worker.thread, error.what());
    }
    wake(); // what this job finished may be what another worker waits for
}

} // namespace fell::stream
