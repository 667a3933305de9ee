// SPDX-License-Identifier: Apache-2.0
// The order of locks: map before events. The drawing thread takes only the request's and the events' lock.
#include "stream/streamer.h"

#include <algorithm>
#include <ctime>
#include <sys/resource.h>
#include <unistd.h>

namespace fell {
namespace {

constexpr std::uint64_t kMostPendingBytes = 64u << 20; // meshes that wait for the drawing thread; past it workers do

/// Nanoseconds that this thread has computed: what a chunk costs, however often others took the core meanwhile.
std::uint64_t threadNs()
{
    timespec now{};
    ::clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
    return static_cast<std::uint64_t>(now.tv_sec) * 1000000000u + static_cast<std::uint64_t>(now.tv_nsec);
}

/// Workers give way to the drawing thread where both want the same core. Refused without harm.
void giveWay()
{
    constexpr int kNicer = 5;
    (void)::setpriority(PRIO_PROCESS, static_cast<id_t>(::gettid()), kNicer);
}

unsigned workerCount(int wanted)
{
    return wanted > 0 ? static_cast<unsigned>(wanted) : std::max(1u, std::thread::hardware_concurrency());
}

} // namespace

Streamer::Streamer(std::shared_ptr<const Terrain> terrain, const Setup& setup)
    : m_terrain(std::move(terrain))
    , m_setup(setup)
    , m_generator(*findGenerator(setup.generate.method))
    , m_form(*findForm(setup.store.form))
    , m_sides(sideRulesOf(m_terrain->recipe.blocks))
    , m_meshing{findMesher(setup.mesh.mesher), findLayout(setup.mesh.layout), {&m_sides, setup.mesh.shade == "corners"},
          setup.mesh.models == "baked", setup.draw.submission == "per-block"}
    , m_columns(*m_terrain, m_generator, setup.chunk.edge)
{
    m_request.distance = setup.stream.distance;
    for (unsigned i = 0; i < workerCount(setup.stream.workers); ++i)
        m_workers.emplace_back([this](const std::stop_token& stop) { work(stop); });
}

Streamer::~Streamer()
{
    for (auto& worker : m_workers)
        worker.request_stop();
    ++m_wake;
    m_wake.notify_all();
    m_workers.clear(); // joins
}

void Streamer::post(Request request)
{
    {
        const std::scoped_lock lock(m_requestMutex);
        request.version = m_request.version + 1;
        m_request = request;
        m_version = request.version;
    }
    ++m_wake;
    m_wake.notify_all();
}

void Streamer::moveTo(ChunkPos viewer)
{
    if (m_version > 0 && viewer == m_request.viewer) // only this thread writes the request
        return;
    post({viewer, m_request.distance, 0});
}

void Streamer::setDistance(int chunks)
{
    if (chunks != m_request.distance)
        post({m_request.viewer, chunks, 0});
}

std::vector<StreamEvent> Streamer::take(std::size_t uploadBytes)
{
    {
        const std::scoped_lock lock(m_eventMutex);
        std::move(m_events.begin(), m_events.end(), std::back_inserter(m_taken));
        m_events.clear();
    }
    std::vector<StreamEvent> out;
    std::size_t bytes = 0;
    while (!m_taken.empty() && (out.empty() || bytes + m_taken.front().mesh.mesh.bytes() <= uploadBytes)) {
        bytes += m_taken.front().mesh.mesh.bytes();
        out.push_back(std::move(m_taken.front()));
        m_taken.pop_front();
    }
    if (out.empty())
        return out;
    const std::uint64_t before = m_pendingBytes.fetch_sub(bytes);
    m_pending -= out.size();
    if (before >= kMostPendingBytes) { // workers may have stopped meshing for it
        ++m_wake;
        m_wake.notify_all();
    }
    return out;
}

StreamCounts Streamer::counts() const
{
    StreamCounts c;
    c.generated = m_generated;
    c.meshed = m_meshed;
    c.retired = m_retired;
    c.generateNs = m_generateNs;
    c.meshNs = m_meshNs;
    c.resident = m_resident;
    c.toGenerate = m_toGenerate;
    c.toMesh = m_toMesh;
    c.voxelBytes = m_voxelBytes;
    c.meshBytes = m_meshBytes;
    c.full = m_full;
    // The order matters: what is pending is read after the workers said that they are idle.
    const bool idle = m_version > 0 && m_idleVersion == m_version;
    c.toUpload = m_pending;
    c.pendingBytes = m_pendingBytes;
    c.settled = idle && c.toUpload == 0;
    return c;
}

std::shared_ptr<const VoxelChunk> Streamer::voxels(ChunkPos chunk) const
{
    const std::scoped_lock lock(m_mapMutex);
    const ChunkRecord* record = m_map.find(chunk);
    return record ? record->voxels : nullptr;
}

void Streamer::work(const std::stop_token& stop)
{
    giveWay();
    while (!stop.stop_requested()) {
        const std::uint32_t seen = m_wake;
        if (auto job = takeJob())
            run(*job);
        else if (!stop.stop_requested())
            m_wake.wait(seen);
    }
}

std::optional<ChunkJob> Streamer::takeJob()
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
        follow(request);
    m_full = m_map.voxelBytes() + m_map.meshBytes() >= static_cast<std::uint64_t>(m_setup.stream.memory) << 20;
    const bool mayMesh = !m_full && m_pendingBytes < kMostPendingBytes;
    auto job = m_map.next(mayMesh, !m_full);
    m_running += job.has_value();
    publish();
    // Nothing to do and nobody at work: the request is fulfilled, unless meshes are held back until some are taken.
    if (!job && m_running == 0 && (mayMesh || m_full))
        m_idleVersion = m_followed;
    return job;
}

void Streamer::follow(const Request& request)
{
    std::vector<ChunkPos> retired;
    m_map.centreOn(request.viewer, request.distance, retired);
    m_followed = request.version;
    if (retired.empty())
        return;
    m_retired += retired.size();
    m_pending += retired.size();
    const std::scoped_lock lock(m_eventMutex);
    for (const ChunkPos chunk : retired)
        m_events.push_back({StreamEvent::Kind::Release, chunk, {}});
}

void Streamer::publish()
{
    m_resident = m_map.size();
    m_toGenerate = m_map.stillToGenerate();
    m_toMesh = m_map.readyToMesh();
    m_voxelBytes = m_map.voxelBytes();
    m_meshBytes = m_map.meshBytes();
}

void Streamer::run(const ChunkJob& job)
{
    if (job.kind == ChunkJob::Kind::Generate)
        generate(job);
    else
        mesh(job);
    ++m_wake; // what this job finished may be what another worker waits for
    m_wake.notify_all();
}

void Streamer::generate(const ChunkJob& job)
{
    const std::uint64_t start = threadNs();
    const auto columns = m_columns.at(job.chunk.x, job.chunk.z);
    auto voxels
        = std::make_shared<const VoxelChunk>(m_generator.voxels(*m_terrain, *columns, job.chunk).heldAs(m_form));
    m_generateNs += threadNs() - start;
    ++m_generated;
    const std::scoped_lock lock(m_mapMutex);
    m_map.generated(job, std::move(voxels));
    --m_running;
}

void Streamer::mesh(const ChunkJob& job)
{
    thread_local PaddedVoxels padded;
    Neighbourhood around;
    std::transform(
        job.around.begin(), job.around.end(), around.chunks.begin(), [](const auto& chunk) { return chunk.get(); });
    const VoxelChunk& centre = around.centre();
    const bool nothing = (centre.isUniform() && centre.uniform() == kOpen)
        || (m_meshing.mesher->skipsBuried && isBuried(around, m_sides));

    StreamEvent event{StreamEvent::Kind::Upload, job.chunk, {}};
    event.mesh.chunk = job.chunk;
    if (!nothing) {
        const std::uint64_t start = threadNs();
        gather(around, padded);
        event.mesh.mesh = buildChunkMesh(padded, m_meshing);
        event.mesh.meshNs = static_cast<std::uint32_t>(threadNs() - start);
        m_meshNs += event.mesh.meshNs;
        ++m_meshed;
    }
    const std::size_t bytes = event.mesh.mesh.bytes();
    const std::scoped_lock lock(m_mapMutex);
    --m_running;
    if (!m_map.meshed(job, !nothing, bytes) || nothing)
        return;
    m_pendingBytes += bytes;
    ++m_pending;
    const std::scoped_lock eventLock(m_eventMutex);
    m_events.push_back(std::move(event));
}

} // namespace fell
