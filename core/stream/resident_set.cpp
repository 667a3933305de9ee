// SPDX-License-Identifier: Apache-2.0
#include "stream/resident_set.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace fell {
namespace {

// A mesh is kept one chunk beyond the distance and voxels three, so that walking to and fro makes nothing twice.
constexpr int kMeshSlack = 1;
constexpr int kVoxelSlack = 3;

ChunkPos neighbourOffset(std::size_t index)
{
    const auto i = static_cast<std::int64_t>(index);
    return {i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1};
}

template <typename Visit> void eachNeighbour(ChunkPos chunk, const Visit& visit)
{
    for (std::size_t i = 0; i < 27; ++i)
        if (i != 13)
            visit(chunk + neighbourOffset(i));
}

bool hasVoxels(const ChunkRecord& record)
{
    return record.state != ChunkState::Generating && record.state != ChunkState::Asked;
}

bool isAtWork(const ChunkRecord& record)
{
    return record.state == ChunkState::Generating || record.state == ChunkState::Meshing;
}

} // namespace

const char* wordsOf(ChunkProgress stage)
{
    constexpr std::array<const char*, kChunkProgressCount> kWords{"not asked for", "to be generated", "being generated",
        "waits for neighbours", "ready to mesh", "being meshed", "meshed", "nothing to see",
        "kept, beyond the distance", "failed"};
    return kWords.at(static_cast<std::size_t>(stage));
}

std::vector<ChunkPos> ChunkDetails::waitsFor(ChunkPos chunk) const
{
    std::vector<ChunkPos> missing;
    for (std::size_t i = 0; i < around.size(); ++i)
        if (i != 13
            && (around[i] == ChunkProgress::Absent || around[i] == ChunkProgress::Wanted
                || around[i] == ChunkProgress::Generating))
            missing.push_back(chunk + neighbourOffset(i));
    return missing;
}

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
    return static_cast<std::int64_t>(kMostLevel - chunk.level) << kLevelBit
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

std::optional<ChunkJob> ResidentSet::next(bool mayMesh, bool mayGenerate)
{
    std::optional<ChunkJob> job;
    if (m_queue.hasDueRetry())
        job = nextRetry(mayMesh, mayGenerate);
    if (!job && mayMesh)
        job = nextMesh();
    if (!job && mayGenerate)
        job = nextGenerate();
    if (!job && mayMesh)
        job = nextLight();
    if (!job) // nothing else is left
        job = nextRetry(mayMesh, mayGenerate);
    if (job)
        m_queue.count();
    return job;
}

std::optional<ChunkJob> ResidentSet::nextRetry(bool mayMesh, bool mayGenerate)
{
    while (const auto again = m_queue.popRetry(mayMesh, mayGenerate)) {
        const auto found = m_records.find(again->chunk);
        if (found == m_records.end())
            continue;
        ChunkRecord& record = found->second;
        if (again->kind == ChunkJob::Kind::Generate && record.state == ChunkState::Asked) {
            record.state = ChunkState::Generating;
            return ChunkJob{ChunkJob::Kind::Generate, again->chunk, record.ticket, {}, {}, {}, 0, false, {}};
        }
        if (again->kind == ChunkJob::Kind::Mesh && record.state == ChunkState::Generated && record.neighbours == 26
            && wantsMesh(again->chunk) && hasCoarser(again->chunk)) {
            record.state = ChunkState::Meshing;
            return meshJob(ChunkJob::Kind::Mesh, again->chunk, record);
        }
        if (again->kind == ChunkJob::Kind::Light && record.quads && record.neighbours == 26)
            return meshJob(ChunkJob::Kind::Light, again->chunk, record);
    }
    return std::nullopt;
}

std::optional<ChunkJob> ResidentSet::nextMesh()
{
    while (const auto offered = m_queue.popMesh()) {
        const ChunkPos chunk = *offered;
        // What was offered may have been evicted since, or offered twice.
        const auto found = m_records.find(chunk);
        if (found != m_records.end() && found->second.state == ChunkState::Generated && found->second.neighbours == 26
            && found->second.tries == 0) {
            if (!hasCoarser(chunk)) {
                m_queue.waitForCoarser(chunk);
                continue;
            }
            found->second.state = ChunkState::Meshing;
            return meshJob(ChunkJob::Kind::Mesh, chunk, found->second);
        }
    }
    return std::nullopt;
}

std::optional<ChunkJob> ResidentSet::nextLight()
{
    while (const auto chunk = m_queue.popLight()) {
        const auto found = m_records.find(*chunk);
        if (found != m_records.end() && found->second.quads && found->second.neighbours == 26)
            return meshJob(ChunkJob::Kind::Light, *chunk, found->second);
    }
    return std::nullopt;
}

ChunkJob ResidentSet::meshJob(ChunkJob::Kind kind, ChunkPos chunk, const ChunkRecord& record) const
{
    ChunkJob job{kind, chunk, record.ticket, {}, {}, record.quads, record.edition, false, {}};
    if (m_selection && m_isStitched && chunk.level < m_selection->coarsest()) {
        const auto coarser = coarserOf(chunk);
        std::transform(coarser.begin(), coarser.end(), job.coarser.begin(), [this](ChunkPos at) {
            const ChunkRecord* there = find(at);
            return there ? there->voxels : nullptr;
        });
    }
    for (std::size_t i = 0; i < 27; ++i) {
        const ChunkRecord& at = i == 13 ? record : m_records.at(chunk + neighbourOffset(i));
        job.around[i] = at.voxels;
        job.passes[i] = at.passes;
    }
    return job;
}

std::optional<SharedAround<LightPasses>> ResidentSet::passesRound(ChunkPos chunk) const
{
    SharedAround<LightPasses> passes;
    for (std::size_t i = 0; i < 27; ++i) {
        const ChunkRecord* record = find(chunk + neighbourOffset(i));
        if (!record || !record->passes)
            return std::nullopt;
        passes[i] = record->passes;
    }
    return passes;
}

std::optional<ChunkJob> ResidentSet::nextGenerate()
{
    while (const auto chunk = m_queue.popGenerate()) {
        if (!find(*chunk))
            return ChunkJob{ChunkJob::Kind::Generate, *chunk, create(*chunk).ticket, {}, {}, {}, 0, false, {}};
    }
    return std::nullopt;
}

bool ResidentSet::generated(
    const ChunkJob& job, std::shared_ptr<const VoxelChunk> voxels, std::shared_ptr<const LightPasses> passes)
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
    if (job.edition != record.edition) { // an edit came between
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
    if (record.edition != job.edition) { // an edit came between
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
    ChunkPos chunk, std::shared_ptr<const VoxelChunk> voxels, std::shared_ptr<const LightPasses> passes)
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
    ++record.edition;
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
        ++record.edition;
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
    if (record.edition != job.edition) // a newer edit has made it void; its own job is on the way
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
    if (++record.tries < kMostTries) {
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

std::optional<std::int64_t> ResidentSet::nextUrgency() const
{
    const std::optional<std::int64_t> urgency = m_queue.meshUrgency();
    for (std::size_t i = 0; i < m_queue.toGenerate(); ++i)
        if (!find(m_queue.generateAt(i))) {
            const std::int64_t of = urgencyAt(m_queue.generateAt(i));
            return urgency ? std::min(*urgency, of) : of;
        }
    return urgency;
}

std::optional<double> ResidentSet::nextDistance() const
{
    const auto urgency = nextUrgency();
    constexpr std::int64_t kSquared = (std::int64_t{1} << 48) - 1; // without the level
    return urgency ? std::optional(std::sqrt(static_cast<double>(*urgency & kSquared))) : std::nullopt;
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

ChunkProgress ResidentSet::stageOf(ChunkPos chunk, const ChunkRecord* record) const
{
    if (!record)
        return wantsMesh(chunk) ? ChunkProgress::Wanted : ChunkProgress::Absent;
    switch (record->state) {
    case ChunkState::Asked:
        return ChunkProgress::Wanted;
    case ChunkState::Generating:
        return ChunkProgress::Generating;
    case ChunkState::Generated:
        if (!wantsMesh(chunk))
            return ChunkProgress::Kept;
        return record->neighbours == 26 ? ChunkProgress::Ready : ChunkProgress::Waiting;
    case ChunkState::Meshing:
        return ChunkProgress::Meshing;
    case ChunkState::Meshed:
        return record->hasMesh ? ChunkProgress::Meshed : ChunkProgress::Bare;
    case ChunkState::Failed:
        return ChunkProgress::Failed;
    }
    return ChunkProgress::Absent;
}

ChunkDetails ResidentSet::probe(ChunkPos chunk) const
{
    ChunkDetails out;
    for (std::size_t i = 0; i < 27; ++i)
        out.around[i] = stageOf(chunk + neighbourOffset(i), find(chunk + neighbourOffset(i)));
    out.stage = out.around[13];
    if (const ChunkRecord* record = find(chunk)) {
        out.tries = record->tries;
        out.voxelBytes = record->voxels ? record->voxels->bytes() : 0;
        out.lightBytes = record->lightBytes;
        out.meshBytes = record->meshBytes;
    }
    return out;
}

std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>> ResidentSet::residents() const
{
    std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>> out;
    out.reserve(m_records.size());
    for (const auto& [chunk, record] : m_records)
        if (chunk.level == 0 && record.voxels)
            out.emplace_back(chunk, record.voxels);
    return out;
}

std::vector<ChunkStatus> ResidentSet::glances() const
{
    std::vector<ChunkStatus> out;
    out.reserve(m_records.size() + m_queue.toGenerate());
    std::uint32_t rank = 0;
    std::unordered_map<ChunkPos, std::uint32_t, ChunkPosHash> ranks;
    for (const ChunkPos chunk : m_queue.meshOrder())
        ranks.try_emplace(chunk, ++rank);
    for (const auto& [chunk, record] : m_records) {
        const auto found = ranks.find(chunk);
        out.push_back({chunk, stageOf(chunk, &record), found == ranks.end() ? 0 : found->second});
    }
    for (std::size_t i = 0; i < m_queue.toGenerate(); ++i)
        if (const ChunkPos chunk = m_queue.generateAt(i); !find(chunk))
            out.push_back({chunk, ChunkProgress::Wanted, ++rank});
    return out;
}

} // namespace fell
