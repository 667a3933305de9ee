// SPDX-License-Identifier: Apache-2.0
// Chunks of coarser levels after an edit: marked, and rebuilt when nothing else is to be done.
#include <fell/stream/edit_pipeline.h>

#include <fell/stream/timed_lock.h>

#include <algorithm>
#include <utility>

namespace fell::stream {
namespace {

using ChunkSet = std::unordered_set<ChunkPos, ChunkPosHash>;

/// The chunks of a column, and those around it, between where the sky began and where it begins now.
void addShaded(ChunkPos chunk, int edge, const SkyHeightMap& before, const SkyHeightMap& now, ChunkSet& out)
{
    constexpr std::int64_t kDeepest = 64; // chunks below, where no sky was or is to be seen to an end
    const std::int64_t here = originOf(chunk, edge).y, min = here - kDeepest * edge, max = here + kDeepest * edge;
    std::int64_t low = INT64_MAX, high = INT64_MIN; // voxels of the level
    for (std::size_t i = 0; i < before.from.size(); ++i)
        if (before.from[i] != now.from[i]) {
            low = std::min(low, std::clamp(std::min(before.from[i], now.from[i]), min, max));
            high = std::max(high, std::clamp(std::max(before.from[i], now.from[i]), min, max));
        }
    const auto rowOf = [edge](std::int64_t y) { return chunkOf({0, y, 0}, edge).y; };
    for (std::int64_t y = low <= high ? rowOf(low) - 1 : 1; y <= (low <= high ? rowOf(high) + 1 : 0); ++y)
        for (std::int64_t z = -1; z <= 1; ++z)
            for (std::int64_t x = -1; x <= 1; ++x)
                out.insert({chunk.x + x, y, chunk.z + z, chunk.level});
}

} // namespace

void EditPipeline::countCoarse()
{
    m_coarseLeft = m_coarseDue.size() + m_coarseAtWork;
}

void EditPipeline::noteStale(ChunkPos chunk)
{
    m_coarseDue.push_back(chunk);
    countCoarse();
}

/// The coarser chunks over this one are stale. The resident set's lock is held.
void EditPipeline::markCoarse(ChunkPos chunk)
{
    while (chunk.level + 1 < static_cast<int>(m_world.levels.size())) {
        chunk = parentOf(chunk);
        if (std::find(m_coarseDue.begin(), m_coarseDue.end(), chunk) == m_coarseDue.end())
            m_coarseDue.push_back(chunk);
    }
}

bool EditPipeline::refreshCoarse(std::uint8_t thread, BuildScratch& scratch)
{
    std::vector<ChunkPos> due;
    {
        const std::scoped_lock lock(m_world.chunksMutex);
        if (m_coarseDue.empty() || m_editsLeft > 0
            || m_coarseAtWork > 0) // one at a time, so that the newest comes last
            return false;
        due = std::exchange(m_coarseDue, {});
        m_coarseAtWork = due.size();
        countCoarse();
    }
    try {
        remakeCoarse(std::move(due), thread, scratch);
    } catch (const std::exception&) { // no memory: the coarse levels show what was before
        ++m_world.stats.failures;
    }
    const std::scoped_lock lock(m_world.chunksMutex);
    m_coarseAtWork = 0;
    countCoarse();
    return true;
}

void EditPipeline::remakeCoarse(std::vector<ChunkPos> due, std::uint8_t thread, BuildScratch& scratch)
{
    const int edge = m_world.rules.edge;
    std::sort(due.begin(), due.end(), [](ChunkPos a, ChunkPos b) { return a.level < b.level; });
    ChunkSet dirty;
    for (const ChunkPos chunk : due) {
        LevelChunks& level = m_world.levelOf(chunk.level);
        if (m_world.hasSky()) {
            const auto before = level.sky.find(chunk.x, chunk.z);
            level.sky.forget(chunk.x, chunk.z);
            if (before)
                addShaded(chunk, edge, *before, *level.sky.at(chunk.x, chunk.z), dirty);
        }
        if (chunk.level == 0) // its voxels are changed where they are; it was its sky that lagged behind
            continue;
        const VoxelChunk voxels = level.source.voxels(chunk);
        const std::scoped_lock lock(m_world.chunksMutex);
        const ChunkRecord* record = m_world.chunks.find(chunk);
        if (!record || !record->voxels || record->voxels->voxels() == voxels.voxels())
            continue;
        m_world.chunks.change(chunk, m_world.stored(voxels), m_world.passesIn(voxels));
        addReaders(chunk, {{0, 0, 0}, {edge, edge, edge}}, dirty);
        if (m_world.rules.pipeline.seams != Seams::Stitched)
            continue;
        for (std::int64_t y = -1; y <= 2; ++y) // finer ones that read it where levels meet
            for (std::int64_t z = -1; z <= 2; ++z)
                for (std::int64_t x = -1; x <= 2; ++x)
                    dirty.insert(childOf(chunk, 0) + ChunkPos{x, y, z});
    }
    std::vector<Rebuild> rebuilds;
    {
        const std::scoped_lock lock(m_world.chunksMutex);
        for (const ChunkPos chunk : dirty) {
            m_world.chunks.invalidateInFlight(chunk, nullptr);
            if (auto job = m_world.chunks.remeshJob(chunk))
                rebuilds.emplace_back().job = std::move(*job);
        }
    }
    EditOutcome unused;
    finish(std::move(rebuilds), 0, unused, thread, scratch);
}

} // namespace fell::stream
