// SPDX-License-Identifier: Apache-2.0
// The next job of a resident set, and what it is made from.
#include <fell/stream/resident_set.h>

#include <fell/stream/chunk_neighbours.h>

#include <algorithm>

namespace fell::stream {

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
    ChunkJob job{kind, chunk, record.ticket, {}, {}, record.quads, record.version, false, {}};
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

std::optional<SharedAround<Transmission>> ResidentSet::passesRound(ChunkPos chunk) const
{
    SharedAround<Transmission> passes;
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

} // namespace fell::stream
