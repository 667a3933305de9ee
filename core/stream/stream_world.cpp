// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/stream_world.h>

#include <algorithm>
#include <utility>

namespace fell::stream {

StreamWorld::StreamWorld(std::shared_ptr<const Terrain> ground, const Setup& setup, std::shared_ptr<WorldChanges> edits,
    std::shared_ptr<KnownVoxels> knownVoxels)
    : terrain(std::move(ground))
    , changes(edits ? std::move(edits) : std::make_shared<WorldChanges>())
    , known(std::move(knownVoxels))
    , rules(terrain->recipe.blocks, setup)
{
    const Pipeline& pipeline = rules.pipeline;
    const int coarsest = pipeline.hasLevels() ? setup.lod.levels : 0;
    for (int level = 0; level <= coarsest; ++level) {
        constexpr std::size_t kFew = 1024; // columns of chunks that a coarse level remembers
        const std::size_t max = level == 0 ? 4 * kFew : kFew;
        const auto add = [&](auto&&... from) {
            levels.push_back(std::make_unique<LevelChunks>(rules.light, *pipeline.form, max, from...));
        };
        if (level > 0 && pipeline.coarse == CoarseSource::Finer)
            add(levels.back()->source, rules.sides);
        else
            add(level == 0 ? terrain : coarserTerrain(*terrain, level), *pipeline.generator, rules.edge, max,
                changes.get(), level == 0 ? known : nullptr);
    }
}

std::shared_ptr<const Transmission> StreamWorld::passesIn(const VoxelChunk& voxels) const
{
    return rules.isLit() ? std::make_shared<const Transmission>(transmissionOf(voxels, rules.light)) : nullptr;
}

std::shared_ptr<const VoxelChunk> StreamWorld::stored(const VoxelChunk& voxels) const
{
    return std::make_shared<const VoxelChunk>(voxels.convertedTo(*rules.pipeline.form));
}

BuildInput StreamWorld::inputOf(const ChunkJob& job) const
{
    BuildInput input{job.chunk, &job.around, &job.passes,
        [&sky = levelOf(job.chunk.level).sky](std::int64_t x, std::int64_t z) { return sky.at(x, z); }, {},
        job.isSeenThroughAlike};
    std::transform(
        job.coarser.begin(), job.coarser.end(), input.coarser.begin(), [](const auto& chunk) { return chunk.get(); });
    return input;
}

void StreamWorld::count(ChunkPos chunk, const BuiltChunk& built, std::uint8_t thread)
{
    if (built.isFlooded) {
        stats.lightNs += built.lightNs;
        ++stats.lit;
        lives.note(chunk, LifeStep::Lit, thread, built.lightNs);
    }
    if (built.isBare)
        return;
    stats.sightNs += built.sightNs;
    stats.meshNs += built.meshNs;
    ++stats.meshed;
}

MeshResult resultOf(const BuiltChunk& built)
{
    return built.isBare ? MeshResult{} : MeshResult{true, built.mesh.bytes(), built.light, built.surface};
}

StreamEvent uploadOf(ChunkPos chunk, BuiltChunk&& built)
{
    StreamEvent event{StreamEvent::Kind::Upload, chunk, {}, nullptr};
    event.mesh.chunk = chunk;
    event.mesh.mesh = std::move(built.mesh);
    event.mesh.meshNs = static_cast<std::uint32_t>(built.meshNs);
    event.mesh.lightNs = static_cast<std::uint32_t>(built.lightNs);
    event.mesh.isBare = built.isBare;
    event.mesh.sight = std::move(built.sight);
    return event;
}

} // namespace fell::stream
