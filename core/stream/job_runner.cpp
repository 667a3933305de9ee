// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/job_runner.h>

#include <fell/stream/thread_clock.h>

#include <utility>

namespace fell::stream {

JobRunner::JobRunner(StreamWorld& world, EditPipeline& edits, LevelFollower& follower)
    : m_world(world)
    , m_edits(edits)
    , m_follower(follower)
    , m_open(std::make_shared<const VoxelChunk>(world.rules.edge, kOpen))
{
}

void JobRunner::run(const ChunkJob& job, std::uint8_t thread, BuildScratch& scratch)
{
    switch (job.kind) {
    case JobKind::Generate:
        return generate(job, thread);
    case JobKind::Mesh:
        return mesh(job, thread, scratch);
    case JobKind::Light:
        return relight(job, thread, scratch);
    }
}

void JobRunner::fail(const ChunkJob& job, std::uint8_t thread, const char* what)
{
    ++m_world.stats.failures;
    m_world.lives.note(job.chunk, LifeStep::Failed, thread);
    const std::scoped_lock lock(m_world.chunksMutex);
    --m_world.running;
    if (m_world.firstError.empty())
        m_world.firstError = cutText(what, 200);
    m_world.stats.failed += m_world.chunks.failed(job, m_open);
}

void JobRunner::generate(const ChunkJob& job, std::uint8_t thread)
{
    const std::uint64_t start = threadNs();
    LevelChunks& level = m_world.levelOf(job.chunk.level);
    const std::uint64_t version = m_world.changes->version(job.chunk, m_world.rules.edge);
    SkyCache::Seen made;
    if (m_world.hasSky()) { // the chunks that close the sky are generated from the top down, once
        (void)level.sky.at(job.chunk.x, job.chunk.z);
        made = level.sky.take({job.chunk.x, job.chunk.y, job.chunk.z});
    }
    if (level.source.isReduced() && version != 0)
        made = {}; // what the sky has seen may be from before an edit
    if (!made.voxels) {
        const VoxelChunk voxels = level.source.voxels(job.chunk);
        made = {m_world.stored(voxels), m_world.passesIn(voxels)};
    }
    const std::uint64_t cost = threadNs() - start;
    m_world.stats.generateNs += cost;
    ++m_world.stats.generated;
    m_world.lives.note(job.chunk, LifeStep::Generated, thread, cost);
    const std::scoped_lock lock(m_world.chunksMutex);
    const std::uint64_t now = m_world.changes->version(job.chunk, m_world.rules.edge);
    if (now != 0 && !level.source.isReduced())
        applyChanges(job.chunk, made); // an edit may have come between, or before what the sky had seen
    m_world.chunks.generated(job, std::move(made.voxels), std::move(made.passes));
    if (now != version && level.source.isReduced()) // an edit came between: it is reduced again
        m_edits.noteStale(job.chunk);
    --m_world.running;
}

void JobRunner::applyChanges(ChunkPos chunk, SkyCache::Seen& made) const
{
    std::vector<Material> voxels = made.voxels->voxels();
    const std::vector<Material> before = voxels;
    if (!m_world.changes->apply(chunk, m_world.rules.edge, voxels) || voxels == before)
        return;
    const VoxelChunk changed(m_world.rules.edge, std::move(voxels));
    made = {m_world.stored(changed), m_world.passesIn(changed)};
}

void JobRunner::mesh(const ChunkJob& job, std::uint8_t thread, BuildScratch& scratch)
{
    BuiltChunk built = buildChunk(m_world.inputOf(job), m_world.rules, scratch);
    m_world.count(job.chunk, built, thread);
    MeshResult result = resultOf(built);
    StreamEvent event = uploadOf(job.chunk, std::move(built));
    m_world.lives.note(job.chunk, event.mesh.isBare ? LifeStep::Bare : LifeStep::Meshed, thread, event.mesh.meshNs);
    const std::scoped_lock lock(m_world.chunksMutex);
    if (m_world.chunks.meshed(job, std::move(result))) {
        m_follower.meshed();
        m_world.events.send(std::move(event));
    }
    --m_world.running; // last: where something above throws, fail() does it
}

void JobRunner::relight(const ChunkJob& job, std::uint8_t thread, BuildScratch& scratch)
{
    BuiltChunk built = relightChunk(m_world.inputOf(job), m_world.rules, *job.quads, scratch);
    StreamStats& stats = m_world.stats;
    stats.lightNs += built.lightNs;
    ++stats.lit;
    m_world.lives.note(job.chunk, LifeStep::Lit, thread, built.lightNs);
    stats.relightNs += built.meshNs;
    ++stats.relit;
    MeshResult result = resultOf(built);
    StreamEvent event = uploadOf(job.chunk, std::move(built));
    event.mesh.relit = true;
    const std::scoped_lock lock(m_world.chunksMutex);
    if (m_world.chunks.lit(job, std::move(result)))
        m_world.events.send(std::move(event));
    --m_world.running;
}

} // namespace fell::stream
