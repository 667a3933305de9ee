// SPDX-License-Identifier: Apache-2.0
#include "stream/chunk_map.h"

#include <algorithm>
#include <cmath>

namespace fell {
namespace {

// A mesh is kept one chunk beyond the distance and voxels three, so that walking to and fro makes nothing twice.
constexpr int kMeshSlack = 1;
constexpr int kVoxelSlack = 3;
constexpr std::uint64_t kJobsBetweenTries = 16;

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

const char* wordsOf(ChunkStage stage)
{
    constexpr std::array<const char*, kChunkStageCount> kWords{"not asked for", "to be generated", "being generated",
        "waits for neighbours", "ready to mesh", "being meshed", "meshed", "nothing to see",
        "kept, beyond the distance", "failed"};
    return kWords.at(static_cast<std::size_t>(stage));
}

std::vector<ChunkPos> ChunkProbe::waitsFor(ChunkPos chunk) const
{
    std::vector<ChunkPos> missing;
    for (std::size_t i = 0; i < around.size(); ++i)
        if (i != 13
            && (around[i] == ChunkStage::Absent || around[i] == ChunkStage::Wanted
                || around[i] == ChunkStage::Generating))
            missing.push_back(chunk + neighbourOffset(i));
    return missing;
}

const ChunkRecord* ChunkMap::find(ChunkPos chunk) const
{
    const auto found = m_records.find(chunk);
    return found == m_records.end() ? nullptr : &found->second;
}

std::int64_t ChunkMap::urgencyOf(ChunkPos offset) const
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

void ChunkMap::countDropped(ChunkPos viewer, int distance)
{
    const auto isWanted = [&](ChunkPos chunk) { return withinBall(chunk - viewer, distance + 1); };
    for (std::size_t i = m_cursor; i < m_order.size(); ++i)
        m_dropped += !isWanted(m_viewer + m_order[i]);
    for (; !m_ready.empty(); m_ready.pop())
        m_dropped += !withinBall(m_ready.top().chunk - viewer, distance);
}

void ChunkMap::centreOn(ChunkPos viewer, int distance, std::vector<ChunkPos>& retired, const ViewSector& towards)
{
    countDropped(viewer, distance);
    if (distance != m_distance || towards != m_towards) {
        m_towards = towards;
        m_order = withNeighbours(ballOffsets(distance));
        if (towards != ViewSector{})
            std::stable_sort(
                m_order.begin(), m_order.end(), [this](ChunkPos a, ChunkPos b) { return urgencyOf(a) < urgencyOf(b); });
    }
    m_viewer = viewer;
    m_distance = distance;
    m_cursor = 0;
    m_gone.clear();
    for (auto& [chunk, record] : m_records) {
        const ChunkPos offset = chunk - viewer;
        if (!withinBall(offset, distance + kMeshSlack) && record.state == ChunkState::Meshed) {
            if (record.hasMesh)
                retired.push_back(chunk);
            dropMesh(record);
            record.state = ChunkState::Generated;
        }
        if (!withinBall(offset, distance + kVoxelSlack))
            m_gone.push_back(chunk);
    }
    for (const ChunkPos chunk : m_gone)
        erase(chunk, m_records.at(chunk));
    for (const auto& [chunk, record] : m_records)
        offerToMesh(chunk, record);
}

/// The mesh and what was kept for it; what light passes stays with the voxels.
void ChunkMap::dropMesh(ChunkRecord& record)
{
    m_meshBytes -= record.meshBytes;
    record.meshBytes = 0;
    record.hasMesh = false;
    record.light.reset();
    record.quads.reset();
    countLight(record);
}

void ChunkMap::countLight(ChunkRecord& record)
{
    m_lightBytes -= record.lightBytes;
    record.lightBytes = (record.passes ? record.passes->bytes() : 0) + (record.light ? record.light->bytes() : 0)
        + (record.quads ? record.quads->count() * sizeof(Quad) : 0);
    m_lightBytes += record.lightBytes;
}

void ChunkMap::keepLight(ChunkRecord& record, MeshResult& result)
{
    record.light = std::move(result.light);
    record.quads = std::move(result.quads);
    countLight(record);
}

ChunkRecord& ChunkMap::create(ChunkPos chunk)
{
    ChunkRecord record;
    record.ticket = m_nextTicket++;
    eachNeighbour(chunk, [&](ChunkPos at) {
        const ChunkRecord* neighbour = find(at);
        record.neighbours += neighbour && hasVoxels(*neighbour);
    });
    return m_records.emplace(chunk, std::move(record)).first->second;
}

void ChunkMap::erase(ChunkPos chunk, const ChunkRecord& record)
{
    if (hasVoxels(record)) {
        countNeighbours(chunk, -1);
        m_voxelBytes -= record.voxels->bytes();
    }
    m_meshBytes -= record.meshBytes;
    m_lightBytes -= record.lightBytes;
    m_records.erase(chunk);
}

void ChunkMap::countNeighbours(ChunkPos chunk, int change)
{
    eachNeighbour(chunk, [&](ChunkPos at) {
        const auto found = m_records.find(at);
        if (found == m_records.end())
            return;
        found->second.neighbours += change;
        if (change > 0)
            offerToMesh(at, found->second);
    });
}

void ChunkMap::offerToMesh(ChunkPos chunk, const ChunkRecord& record)
{
    const ChunkPos offset = chunk - m_viewer;
    if (record.state == ChunkState::Generated && record.neighbours == 26 && withinBall(offset, m_distance))
        m_ready.push({urgencyOf(offset), chunk});
    if (record.state == ChunkState::Meshed && record.quads && record.neighbours == 26)
        m_toLight.push_back(chunk); // a neighbour had gone and is back
}

std::optional<ChunkJob> ChunkMap::next(bool mayMesh, bool mayGenerate)
{
    std::optional<ChunkJob> job;
    if (!m_again.empty() && m_given >= m_again.front().after)
        job = nextAgain(mayMesh, mayGenerate);
    if (!job && mayMesh)
        job = nextMesh();
    if (!job && mayGenerate)
        job = nextGenerate();
    if (!job && mayMesh)
        job = nextLight();
    if (!job && !m_again.empty()) // nothing else is left
        job = nextAgain(mayMesh, mayGenerate);
    m_given += job.has_value();
    return job;
}

std::optional<ChunkJob> ChunkMap::nextAgain(bool mayMesh, bool mayGenerate)
{
    while (!m_again.empty()) {
        const Again again = m_again.front();
        if (!(again.kind == ChunkJob::Kind::Generate ? mayGenerate : mayMesh))
            return std::nullopt;
        m_again.pop_front();
        const auto found = m_records.find(again.chunk);
        if (found == m_records.end())
            continue;
        ChunkRecord& record = found->second;
        const ChunkPos offset = again.chunk - m_viewer;
        if (again.kind == ChunkJob::Kind::Generate && record.state == ChunkState::Asked) {
            record.state = ChunkState::Generating;
            return ChunkJob{ChunkJob::Kind::Generate, again.chunk, record.ticket, {}, {}, {}};
        }
        if (again.kind == ChunkJob::Kind::Mesh && record.state == ChunkState::Generated && record.neighbours == 26
            && withinBall(offset, m_distance)) {
            record.state = ChunkState::Meshing;
            return meshJob(ChunkJob::Kind::Mesh, again.chunk, record);
        }
        if (again.kind == ChunkJob::Kind::Light && record.quads && record.neighbours == 26)
            return meshJob(ChunkJob::Kind::Light, again.chunk, record);
    }
    return std::nullopt;
}

std::optional<ChunkJob> ChunkMap::nextMesh()
{
    while (!m_ready.empty()) {
        const ChunkPos chunk = m_ready.top().chunk;
        m_ready.pop();
        // What was offered may have been evicted since, or offered twice.
        const auto found = m_records.find(chunk);
        if (found != m_records.end() && found->second.state == ChunkState::Generated && found->second.neighbours == 26
            && found->second.tries == 0) {
            found->second.state = ChunkState::Meshing;
            return meshJob(ChunkJob::Kind::Mesh, chunk, found->second);
        }
    }
    return std::nullopt;
}

std::optional<ChunkJob> ChunkMap::nextLight()
{
    while (!m_toLight.empty()) {
        const ChunkPos chunk = m_toLight.front();
        m_toLight.pop_front();
        const auto found = m_records.find(chunk);
        if (found != m_records.end() && found->second.quads && found->second.neighbours == 26)
            return meshJob(ChunkJob::Kind::Light, chunk, found->second);
    }
    return std::nullopt;
}

ChunkJob ChunkMap::meshJob(ChunkJob::Kind kind, ChunkPos chunk, const ChunkRecord& record) const
{
    ChunkJob job{kind, chunk, record.ticket, {}, {}, record.quads};
    for (std::size_t i = 0; i < 27; ++i) {
        const ChunkRecord& at = i == 13 ? record : m_records.at(chunk + neighbourOffset(i));
        job.around[i] = at.voxels;
        job.passes[i] = at.passes;
    }
    return job;
}

std::optional<std::array<std::shared_ptr<const LightPasses>, 27>> ChunkMap::passesRound(ChunkPos chunk) const
{
    std::array<std::shared_ptr<const LightPasses>, 27> passes;
    for (std::size_t i = 0; i < 27; ++i) {
        const ChunkRecord* record = find(chunk + neighbourOffset(i));
        if (!record || !record->passes)
            return std::nullopt;
        passes[i] = record->passes;
    }
    return passes;
}

std::optional<ChunkJob> ChunkMap::nextGenerate()
{
    while (m_cursor < m_order.size()) {
        const ChunkPos chunk = m_viewer + m_order[m_cursor++];
        if (!find(chunk))
            return ChunkJob{ChunkJob::Kind::Generate, chunk, create(chunk).ticket, {}, {}, {}};
    }
    return std::nullopt;
}

bool ChunkMap::generated(
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
    offerToMesh(job.chunk, record);
    countNeighbours(job.chunk, 1);
    return true;
}

bool ChunkMap::meshed(const ChunkJob& job, MeshResult result)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket)
        return false;
    ChunkRecord& record = found->second;
    record.tries = 0;
    if (!withinBall(job.chunk - m_viewer, m_distance + kMeshSlack)) {
        record.state = ChunkState::Generated; // the viewer has left it behind meanwhile
        return false;
    }
    record.state = ChunkState::Meshed;
    record.hasMesh = result.hasMesh;
    record.meshBytes = result.bytes;
    m_meshBytes += result.bytes;
    if (result.quads)
        m_toLight.push_back(job.chunk);
    keepLight(record, result);
    return true;
}

bool ChunkMap::lit(const ChunkJob& job, MeshResult result)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket || found->second.state != ChunkState::Meshed)
        return false;
    ChunkRecord& record = found->second;
    record.tries = 0;
    m_meshBytes += result.bytes - record.meshBytes;
    record.meshBytes = result.bytes;
    keepLight(record, result);
    return true;
}

bool ChunkMap::failed(const ChunkJob& job, const std::shared_ptr<const VoxelChunk>& standIn)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket)
        return false;
    ChunkRecord& record = found->second;
    const bool generating = job.kind == ChunkJob::Kind::Generate;
    if (++record.tries < kMostTries) {
        if (job.kind != ChunkJob::Kind::Light)
            record.state = generating ? ChunkState::Asked : ChunkState::Generated;
        m_again.push_back({job.kind, job.chunk, m_given + kJobsBetweenTries});
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

std::optional<std::int64_t> ChunkMap::nextUrgency() const
{
    std::optional<std::int64_t> urgency;
    if (!m_ready.empty())
        urgency = m_ready.top().urgency;
    for (std::size_t i = m_cursor; i < m_order.size(); ++i)
        if (!find(m_viewer + m_order[i])) {
            const std::int64_t of = urgencyOf(m_order[i]);
            return urgency ? std::min(*urgency, of) : of;
        }
    return urgency;
}

std::optional<double> ChunkMap::nextDistance() const
{
    const auto urgency = nextUrgency();
    return urgency ? std::optional(std::sqrt(static_cast<double>(*urgency))) : std::nullopt;
}

void ChunkMap::evict(std::size_t bytes, std::vector<ChunkPos>& retired, std::vector<ChunkPos>& evicted)
{
    const auto next = nextUrgency();
    if (!next)
        return;
    // A chunk's neighbours are up to a ring farther and needed with it: only what lies two rings beyond may go.
    const double ring = std::sqrt(static_cast<double>(*next)) + 2;
    const auto beyond = static_cast<std::int64_t>(ring * ring);
    std::vector<Ready> far;
    for (const auto& [chunk, record] : m_records)
        if (const std::int64_t urgency = urgencyOf(chunk - m_viewer); urgency > beyond && !isAtWork(record))
            far.push_back({urgency, chunk});
    std::sort(far.begin(), far.end()); // the least urgent first
    for (const Ready& one : far) {
        if (this->bytes() <= bytes)
            return;
        const ChunkRecord& record = m_records.at(one.chunk);
        if (record.hasMesh)
            retired.push_back(one.chunk);
        evicted.push_back(one.chunk);
        erase(one.chunk, record);
    }
}

ChunkStage ChunkMap::stageOf(ChunkPos chunk, const ChunkRecord* record) const
{
    const ChunkPos offset = chunk - m_viewer;
    if (!record)
        return withinBall(offset, m_distance) ? ChunkStage::Wanted : ChunkStage::Absent;
    switch (record->state) {
    case ChunkState::Asked:
        return ChunkStage::Wanted;
    case ChunkState::Generating:
        return ChunkStage::Generating;
    case ChunkState::Generated:
        if (!withinBall(offset, m_distance))
            return ChunkStage::Kept;
        return record->neighbours == 26 ? ChunkStage::Ready : ChunkStage::Waiting;
    case ChunkState::Meshing:
        return ChunkStage::Meshing;
    case ChunkState::Meshed:
        return record->hasMesh ? ChunkStage::Meshed : ChunkStage::Bare;
    case ChunkState::Failed:
        return ChunkStage::Failed;
    }
    return ChunkStage::Absent;
}

ChunkProbe ChunkMap::probe(ChunkPos chunk) const
{
    ChunkProbe out;
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

std::vector<ChunkGlance> ChunkMap::glances() const
{
    std::vector<ChunkGlance> out;
    out.reserve(m_records.size() + m_order.size() - m_cursor);
    std::uint32_t rank = 0;
    std::unordered_map<ChunkPos, std::uint32_t, ChunkPosHash> ranks;
    for (auto ready = m_ready; !ready.empty(); ready.pop())
        ranks.try_emplace(ready.top().chunk, ++rank);
    for (const auto& [chunk, record] : m_records) {
        const auto found = ranks.find(chunk);
        out.push_back({chunk, stageOf(chunk, &record), found == ranks.end() ? 0 : found->second});
    }
    for (std::size_t i = m_cursor; i < m_order.size(); ++i)
        if (const ChunkPos chunk = m_viewer + m_order[i]; !find(chunk))
            out.push_back({chunk, ChunkStage::Wanted, ++rank});
    return out;
}

} // namespace fell
