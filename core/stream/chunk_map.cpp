// SPDX-License-Identifier: Apache-2.0
#include "stream/chunk_map.h"

namespace fell {
namespace {

// A mesh is kept one chunk beyond the distance and voxels three, so that walking to and fro makes nothing twice.
constexpr int kMeshSlack = 1;
constexpr int kVoxelSlack = 3;

template <typename Visit> void eachNeighbour(ChunkPos chunk, const Visit& visit)
{
    for (std::int64_t i = 0; i < 27; ++i)
        if (i != 13)
            visit(chunk + ChunkPos{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1});
}

bool hasVoxels(const ChunkRecord& record)
{
    return record.state != ChunkState::Generating;
}

} // namespace

const ChunkRecord* ChunkMap::find(ChunkPos chunk) const
{
    const auto found = m_records.find(chunk);
    return found == m_records.end() ? nullptr : &found->second;
}

void ChunkMap::centreOn(ChunkPos viewer, int distance, std::vector<ChunkPos>& retired)
{
    if (distance != m_distance) {
        m_toMesh = ballOffsets(distance);
        m_order = withNeighbours(m_toMesh);
    }
    m_viewer = viewer;
    m_distance = distance;
    m_cursor = 0;
    m_ready = {};
    std::vector<ChunkPos> gone;
    for (auto& [chunk, record] : m_records) {
        const ChunkPos offset = chunk - viewer;
        if (!withinBall(offset, distance + kMeshSlack) && record.state == ChunkState::Meshed) {
            if (record.hasMesh)
                retired.push_back(chunk);
            m_meshBytes -= record.meshBytes;
            record.meshBytes = 0;
            record.hasMesh = false;
            record.state = ChunkState::Generated;
        }
        if (!withinBall(offset, distance + kVoxelSlack))
            gone.push_back(chunk);
    }
    for (const ChunkPos chunk : gone)
        erase(chunk, m_records.at(chunk));
    for (const auto& [chunk, record] : m_records)
        offerToMesh(chunk, record);
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
        m_ready.push({squaredLength(offset), chunk});
}

std::optional<ChunkJob> ChunkMap::next(bool mayMesh, bool mayGenerate)
{
    if (mayMesh)
        if (auto job = nextMesh())
            return job;
    return mayGenerate ? nextGenerate() : std::nullopt;
}

std::optional<ChunkJob> ChunkMap::nextMesh()
{
    if (m_ready.empty())
        return std::nullopt;
    ChunkJob job{ChunkJob::Kind::Mesh, m_ready.top().chunk, 0, {}};
    m_ready.pop();
    ChunkRecord& record = m_records.at(job.chunk);
    record.state = ChunkState::Meshing;
    job.ticket = record.ticket;
    job.around[13] = record.voxels;
    eachNeighbour(
        job.chunk, [&](ChunkPos at) { job.around[neighbourIndex(at - job.chunk)] = m_records.at(at).voxels; });
    return job;
}

std::optional<ChunkJob> ChunkMap::nextGenerate()
{
    while (m_cursor < m_order.size()) {
        const ChunkPos chunk = m_viewer + m_order[m_cursor++];
        if (!find(chunk))
            return ChunkJob{ChunkJob::Kind::Generate, chunk, create(chunk).ticket, {}};
    }
    return std::nullopt;
}

bool ChunkMap::generated(const ChunkJob& job, std::shared_ptr<const VoxelChunk> voxels)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket)
        return false;
    ChunkRecord& record = found->second;
    record.state = ChunkState::Generated;
    m_voxelBytes += voxels->bytes();
    record.voxels = std::move(voxels);
    offerToMesh(job.chunk, record);
    countNeighbours(job.chunk, 1);
    return true;
}

bool ChunkMap::meshed(const ChunkJob& job, bool hasMesh, std::size_t bytes)
{
    const auto found = m_records.find(job.chunk);
    if (found == m_records.end() || found->second.ticket != job.ticket)
        return false;
    ChunkRecord& record = found->second;
    if (!withinBall(job.chunk - m_viewer, m_distance + kMeshSlack)) {
        record.state = ChunkState::Generated; // the viewer has left it behind meanwhile
        return false;
    }
    record.state = ChunkState::Meshed;
    record.hasMesh = hasMesh;
    record.meshBytes = bytes;
    m_meshBytes += bytes;
    return true;
}

} // namespace fell
