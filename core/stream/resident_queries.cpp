// SPDX-License-Identifier: Apache-2.0
// What a resident set says of its chunks to those who look.
#include <fell/stream/resident_set.h>

#include <fell/stream/chunk_neighbours.h>

#include <algorithm>
#include <cmath>
#include <utility>

namespace fell::stream {

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

} // namespace fell::stream
