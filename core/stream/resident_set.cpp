// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/resident_set.h>

#include <fell/stream/chunk_neighbours.h>

#include <algorithm>
#include <cmath>
#include <utility>

namespace fell::stream {
namespace {

// A mesh is kept one chunk beyond the distance and voxels three, so that walking to and fro makes nothing twice.
constexpr int kMeshSlack = 1;
constexpr int kVoxelSlack = 3;

bool hasVoxels(const ChunkRecord& record)
{
    return record.state != ChunkState::Generating && record.state != ChunkState::Asked;
}

bool isAtWork(const ChunkRecord& record)
{
    return record.state == ChunkState::Generating || record.state == ChunkState::Meshing;
}

} // namespace

const ChunkRecord* ResidentSet::find(ChunkPos chunk) const
{
    const auto found = m_records.find(chunk);
    return found == m_records.end() ? nullptr : &found->second;
}

std::int64_t ResidentSet::urgencyOf(ChunkPos offset) const
{
    // The nearest chunks come first however one looks; farther ones count as twice as far where they are not in view.
    constexpr std::int64_t kNear = 4, kBehind = 4;
    const std::int64_t squared = squaredLength(offset);
    const std::int64_t towards
        = m_towards[0] * m_towards[0] + m_towards[1] * m_towards[1] + m_towards[2] * m_towards[2];
    if (squared <= kNear || towards == 0)
        return squared;
    constexpr std::int64_t kFar = 1 << 20; // farther than any distance: whether it is in view decides nothing
    if (squared >= kFar)
        return kBehind * squared;
    const std::int64_t along = offset.x * m_towards[0] + offset.y * m_towards[1] + offset.z * m_towards[2];
    const bool inView = along > 0 && 10 * along * along >= 3 * squared * towards; // within 57 degrees
    return inView ? squared : kBehind * squared;
}

/// Coarse levels first, then by distance in chunks of the level.
std::int64_t ResidentSet::urgencyAt(ChunkPos chunk) const
{
    if (!m_selection)
        return urgencyOf(chunk - m_viewer);
    constexpr int kLevelBit = 48; // beyond any squared distance
    const ChunkPos here{m_viewer.x >> chunk.level, m_viewer.y >> chunk.level, m_viewer.z >> chunk.level, chunk.level};
    return static_cast<std::int64_t>(kMaxLevel - chunk.level) << kLevelBit
        | std::min(squaredLength(chunk - here), (std::int64_t{1} << kLevelBit) - 1);
}

bool ResidentSet::wantsMesh(ChunkPos chunk) const
{
    return m_selection ? m_selection->contains(chunk) : withinBall(chunk - m_viewer, m_distance);
}

bool ResidentSet::keepsMesh(ChunkPos chunk) const
{
    return m_selection ? m_selection->contains(chunk) : withinBall(chunk - m_viewer, m_distance + kMeshSlack);
}

bool ResidentSet::keepsVoxels(ChunkPos chunk) const
{
    return m_selection ? m_voxelsOf.contains(chunk) : withinBall(chunk - m_viewer, m_distance + kVoxelSlack);
}

std::array<ChunkPos, 4> ResidentSet::coarserOf(ChunkPos chunk) const
{
    const ChunkPos parent = parentOf(chunk);
    return {parent, parent + ChunkPos{chunk.x & 1 ? 1 : -1, 0, 0}, parent + ChunkPos{0, chunk.y & 1 ? 1 : -1, 0},
        parent + ChunkPos{0, 0, chunk.z & 1 ? 1 : -1}};
}

/// Are the coarser voxels there that a chunk's mesh reads?
bool ResidentSet::hasCoarser(ChunkPos chunk) const
{
    if (!m_selection || !m_isStitched || chunk.level >= m_selection->coarsest())
        return true;
    const auto all = coarserOf(chunk);
    return std::all_of(all.begin(), all.end(), [this](ChunkPos at) {
        const ChunkRecord* record = find(at);
        return record && hasVoxels(*record);
    });
}

void ResidentSet::centreOn(ChunkPos viewer, int distance, std::vector<ChunkPos>& retired, const ViewSector& towards)
{
    for (std::size_t i = 0; i < m_queue.toGenerate(); ++i)
        m_dropped += !withinBall(m_queue.generateAt(i) - viewer, distance + 1);
    m_queue.clearMesh([&](ChunkPos chunk) { m_dropped += !withinBall(chunk - viewer, distance); });
    if (distance != m_distance || towards != m_towards) {
        m_towards = towards;
        auto order = withNeighbours(ballOffsets(distance));
        if (towards != ViewSector{})
            std::stable_sort(
                order.begin(), order.end(), [this](ChunkPos a, ChunkPos b) { return urgencyOf(a) < urgencyOf(b); });
        m_queue.setOrder(std::move(order));
    }
    m_viewer = viewer;
    m_distance = distance;
    m_queue.restart(viewer);
    dropUnwanted(retired);
}

void ResidentSet::follow(
    ChunkPos viewer, std::shared_ptr<const LodSelection> selection, bool stitched, std::vector<ChunkPos>& retired)
{
    for (std::size_t i = 0; i < m_queue.toGenerate(); ++i) { // their neighbours are not told apart here
        const ChunkPos chunk = m_queue.generateAt(i);
        m_dropped += !selection->contains(chunk) && m_selection && m_selection->contains(chunk);
    }
    m_queue.clearMesh([&](ChunkPos chunk) { m_dropped += !selection->contains(chunk); });
    m_viewer = viewer;
    m_selection = std::move(selection);
    m_isStitched = stitched;
    m_voxelsOf.clear();
    for (const auto& [chunk, node] : m_selection->nodes()) {
        m_voxelsOf.insert(chunk);
        eachNeighbour(chunk, [this](ChunkPos at) { m_voxelsOf.insert(at); });
    }
    std::vector<std::pair<std::int64_t, ChunkPos>> sorted;
    sorted.reserve(m_voxelsOf.size());
    for (const ChunkPos chunk : m_voxelsOf)
        sorted.emplace_back(urgencyAt(chunk), chunk);
    std::sort(sorted.begin(), sorted.end());
    std::vector<ChunkPos> order;
    order.reserve(sorted.size());
    for (const auto& [unused, chunk] : sorted)
        order.push_back(chunk);
    m_queue.setOrder(std::move(order));
    m_queue.restart({});
    dropUnwanted(retired);
}

/// What is no longer kept goes, and what can be meshed is offered.
void ResidentSet::dropUnwanted(std::vector<ChunkPos>& retired)
{
    m_gone.clear();
    for (auto& [chunk, record] : m_records) {
        if (!keepsMesh(chunk) && (record.state == ChunkState::Meshed || record.hasMesh)) {
            if (record.hasMesh)
                retired.push_back(chunk);
            dropMesh(record);
            if (record.state == ChunkState::Meshed)
                record.state = ChunkState::Generated;
        }
        if (!keepsVoxels(chunk))
            m_gone.push_back(chunk);
    }
    for (const ChunkPos chunk : m_gone)
        erase(chunk, m_records.at(chunk));
    for (const auto& [chunk, record] : m_records)
        enqueueIfReady(chunk, record);
    m_queue.sortLight([this](ChunkPos chunk) { return urgencyAt(chunk); });
}

/// The mesh and what was kept for it; what light passes stays with the voxels.
void ResidentSet::dropMesh(ChunkRecord& record)
{
    m_meshBytes -= record.meshBytes;
    record.meshBytes = 0;
    record.hasMesh = false;
    record.light.reset();
    record.quads.reset();
    countLight(record);
}

void ResidentSet::countLight(ChunkRecord& record)
{
    m_lightBytes -= record.lightBytes;
    record.lightBytes = (record.passes ? record.passes->bytes() : 0) + (record.light ? record.light->bytes() : 0)
        + (record.quads ? record.quads->bytes() : 0);
    m_lightBytes += record.lightBytes;
}

void ResidentSet::keepLight(ChunkRecord& record, MeshResult& result)
{
    record.light = std::move(result.light);
    record.quads = std::move(result.quads);
    countLight(record);
}

ChunkRecord& ResidentSet::create(ChunkPos chunk)
{
    ChunkRecord record;
    record.ticket = m_nextTicket++;
    eachNeighbour(chunk, [&](ChunkPos at) {
        const ChunkRecord* neighbour = find(at);
        record.neighbours += neighbour && hasVoxels(*neighbour);
    });
    return m_records.emplace(chunk, std::move(record)).first->second;
}

void ResidentSet::erase(ChunkPos chunk, const ChunkRecord& record)
{
    if (hasVoxels(record)) {
        countNeighbours(chunk, -1);
        m_voxelBytes -= record.voxels->bytes();
    }
    m_meshBytes -= record.meshBytes;
    m_lightBytes -= record.lightBytes;
    m_records.erase(chunk);
}

void ResidentSet::countNeighbours(ChunkPos chunk, int change)
{
    eachNeighbour(chunk, [&](ChunkPos at) {
        const auto found = m_records.find(at);
        if (found == m_records.end())
            return;
        found->second.neighbours += change;
        if (change > 0)
            enqueueIfReady(at, found->second);
    });
}

void ResidentSet::enqueueIfReady(ChunkPos chunk, const ChunkRecord& record)
{
    if (record.state == ChunkState::Generated && record.neighbours == 26 && wantsMesh(chunk))
        m_queue.offerMesh(urgencyAt(chunk), chunk);
    if (record.state == ChunkState::Meshed && record.quads && record.neighbours == 26)
        m_queue.offerLight(chunk); // a neighbour had gone and is back
}

bool ResidentSet::generated(
    const ChunkJob& job, std::shared_ptr<const VoxelChunk> voxels, std::shared_ptr<const Transmission> passes)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket)
        return false;
    ChunkRecord& record = found->second;
    record.state = ChunkState::Generated;
    record.tries = 0;
    m_voxelBytes += voxels->bytes();
    record.voxels = std::move(voxels);
    record.passes = std::move(passes);
    countLight(record);
    enqueueIfReady(job.chunk, record);
    countNeighbours(job.chunk, 1);
    for (const ChunkPos chunk : m_queue.takeWaiting()) // perhaps it was this one that they missed
        if (const ChunkRecord* waiting = find(chunk))
            enqueueIfReady(chunk, *waiting);
    return true;
}

bool ResidentSet::meshed(const ChunkJob& job, MeshResult result)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket)
        return false;
    ChunkRecord& record = found->second;
    record.tries = 0;
    if (!keepsMesh(job.chunk)) {
        record.state = ChunkState::Generated; // the viewer has left it behind meanwhile
        return false;
    }
    if (job.version != record.version) { // an edit came between
        record.state = ChunkState::Generated;
        enqueueIfReady(job.chunk, record);
        return false;
    }
    record.state = ChunkState::Meshed;
    record.hasMesh = result.hasMesh;
    m_meshBytes += result.bytes - record.meshBytes; // of what an edit has left standing
    record.meshBytes = result.bytes;
    if (result.quads)
        m_queue.offerLight(job.chunk);
    keepLight(record, result);
    return true;
}

bool ResidentSet::lit(const ChunkJob& job, MeshResult result)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket || found->second.state != ChunkState::Meshed)
        return false;
    ChunkRecord& record = found->second;
    if (record.version != job.version) { // an edit came between
        if (record.quads)
            m_queue.offerLight(job.chunk);
        return false;
    }
    record.tries = 0;
    m_meshBytes += result.bytes - record.meshBytes;
    record.meshBytes = result.bytes;
    keepLight(record, result);
    return true;
}

void ResidentSet::change(
    ChunkPos chunk, std::shared_ptr<const VoxelChunk> voxels, std::shared_ptr<const Transmission> passes)
{
    ChunkRecord& record = m_records.at(chunk);
    m_voxelBytes += voxels->bytes() - record.voxels->bytes();
    record.voxels = std::move(voxels);
    if (passes)
        record.passes = std::move(passes);
    countLight(record);
}

void ResidentSet::invalidateInFlight(ChunkPos chunk, std::shared_ptr<const ChunkLight> light)
{
    const auto found = m_records.find(chunk);
    if (found == m_records.end())
        return;
    ChunkRecord& record = found->second;
    ++record.version;
    if (light && record.light) {
        record.light = std::move(light);
        countLight(record);
    }
}

void ResidentSet::dropLightAround(ChunkPos chunk)
{
    for (std::size_t i = 0; i < 27; ++i) {
        const auto found = m_records.find(chunk + neighbourOffset(i));
        if (found == m_records.end() || found->second.neighbours == 26 || !found->second.light)
            continue;
        ChunkRecord& record = found->second;
        ++record.version;
        record.light.reset();
        countLight(record);
        if (record.state == ChunkState::Meshed)
            record.state = ChunkState::Generated;
    }
}

void ResidentSet::keepFoundLight(ChunkPos chunk, std::shared_ptr<const ChunkLight> light)
{
    const auto found = m_records.find(chunk);
    if (found == m_records.end() || found->second.light)
        return;
    found->second.light = std::move(light);
    countLight(found->second);
}

std::optional<ChunkJob> ResidentSet::remeshJob(ChunkPos chunk)
{
    const auto found = m_records.find(chunk);
    if (found == m_records.end() || found->second.state != ChunkState::Meshed)
        return std::nullopt;
    if (found->second.neighbours < 26 || !hasCoarser(chunk)) {
        found->second.state = ChunkState::Generated;
        enqueueIfReady(chunk, found->second);
        return std::nullopt;
    }
    return meshJob(ChunkJob::Kind::Mesh, chunk, found->second);
}

bool ResidentSet::remeshFinished(const ChunkJob& job, MeshResult result)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket || found->second.state != ChunkState::Meshed)
        return false;
    ChunkRecord& record = found->second;
    if (record.version != job.version) // a newer edit has made it void; its own job is on the way
        return false;
    record.hasMesh = result.hasMesh;
    m_meshBytes += result.bytes - record.meshBytes;
    record.meshBytes = result.bytes;
    if (result.quads)
        m_queue.offerLight(job.chunk);
    keepLight(record, result);
    return true;
}

bool ResidentSet::failed(const ChunkJob& job, const std::shared_ptr<const VoxelChunk>& standIn)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket)
        return false;
    ChunkRecord& record = found->second;
    const bool generating = job.kind == ChunkJob::Kind::Generate;
    if (++record.tries < kMaxTries) {
        if (job.kind != ChunkJob::Kind::Light)
            record.state = generating ? ChunkState::Asked : ChunkState::Generated;
        m_queue.retry(job.kind, job.chunk);
        return false;
    }
    if (job.kind == ChunkJob::Kind::Light) { // it stays as it is shown
        record.quads.reset();
        countLight(record);
        return true;
    }
    record.state = ChunkState::Failed;
    if (generating) {
        record.voxels = standIn;
        m_voxelBytes += standIn->bytes();
        countNeighbours(job.chunk, 1);
    }
    return true;
}

void ResidentSet::evict(std::size_t bytes, std::vector<ChunkPos>& retired, std::vector<ChunkPos>& evicted)
{
    const auto next = nextUrgency();
    if (!next || m_selection) // with levels everything far is coarse already
        return;
    // A chunk's neighbours are up to a ring farther and needed with it: only what lies two rings beyond may go.
    const double ring = std::sqrt(static_cast<double>(*next)) + 2;
    const auto beyond = static_cast<std::int64_t>(ring * ring);
    std::vector<std::pair<std::int64_t, ChunkPos>> far;
    for (const auto& [chunk, record] : m_records)
        if (const std::int64_t urgency = urgencyOf(chunk - m_viewer); urgency > beyond && !isAtWork(record))
            far.emplace_back(urgency, chunk);
    std::sort(far.begin(), far.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    for (const auto& [unused, chunk] : far) { // the least urgent first
        if (this->bytes() <= bytes)
            return;
        const ChunkRecord& record = m_records.at(chunk);
        if (record.hasMesh)
            retired.push_back(chunk);
        evicted.push_back(chunk);
        erase(chunk, record);
    }
}

} // namespace fell::stream
