// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/edit_pipeline.h>

#include <fell/stream/thread_clock.h>
#include <fell/stream/timed_lock.h>

#include <algorithm>
#include <utility>

namespace fell::stream {
namespace {

using Clock = std::chrono::steady_clock;

} // namespace

std::uint64_t EditPipeline::ask(EditRequest edit)
{
    m_asked.push_back({std::move(edit), ++m_lastEdit, Clock::now()});
    ++m_editsLeft;
    return m_lastEdit;
}

bool EditPipeline::post()
{
    if (m_asked.empty())
        return false;
    {
        const TimedLock lock(m_queueMutex, m_world.stats.longestLockNs);
        if (!lock)
            return false;
        std::move(m_asked.begin(), m_asked.end(), std::back_inserter(m_edits));
    }
    m_asked.clear();
    return true;
}

std::optional<EditPipeline::Asked> EditPipeline::take()
{
    const std::scoped_lock lock(m_queueMutex);
    if (m_isEditing || m_edits.empty())
        return std::nullopt;
    Asked asked = std::move(m_edits.front());
    m_edits.pop_front();
    m_isEditing = true;
    return asked;
}

/// Adds the chunks whose mesh reads some of a box of this one's voxels: meshers read as far beyond their own as their
/// apron, and light one layer.
void EditPipeline::addReaders(ChunkPos chunk, const ChunkBox& box, ChunkSet& out) const
{
    const int edge = m_world.rules.edge, apron = m_world.rules.meshing.mesher->traits.apron;
    const auto range = [&](std::size_t axis) {
        return std::array<int, 2>{box.low[axis] < apron ? -1 : 0, box.high[axis] > edge - apron ? 1 : 0};
    };
    const auto [x0, x1] = range(0);
    const auto [y0, y1] = range(1);
    const auto [z0, z1] = range(2);
    for (int y = y0; y <= y1; ++y)
        for (int z = z0; z <= z1; ++z)
            for (int x = x0; x <= x1; ++x)
                out.insert(chunk + ChunkPos{x, y, z});
}

/// What of an edit there is to do to resident chunks; the rest is left out, or only stored. The resident set's lock is
/// held.
std::vector<VoxelChange> EditPipeline::wantedChanges(const EditRequest& edit, EditOutcome& outcome)
{
    const int edge = m_world.rules.edge;
    ChunkPos last{INT64_MIN, 0, 0};
    const VoxelChunk* voxels = nullptr;
    const auto read = [&](VoxelPos at) -> std::optional<Material> {
        if (const ChunkPos chunk = chunkOf(at, edge); chunk != last) {
            const ChunkRecord* record = m_world.chunks.find(chunk);
            voxels = record ? record->voxels.get() : nullptr;
            last = chunk;
        }
        if (!voxels)
            return std::nullopt;
        const VoxelPos in = at - originOf(last, edge);
        return voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
    };
    std::vector<VoxelChange> wanted = edit.make(read);
    std::vector<VoxelChange> absent;
    std::erase_if(wanted, [&](VoxelChange& one) {
        const auto before = read(one.at);
        if (edit.isSaved)
            one.after = m_world.changes->at(one.at).value_or(one.after);
        if (!before && (edit.isEverywhere || edit.isSaved))
            absent.push_back(one);
        outcome.missing += !before && !edit.isEverywhere && !edit.isSaved;
        one.before = before.value_or(kOpen);
        return !before || one.before == one.after || one.after >= m_world.terrain->recipe.blocks.kinds.size();
    });
    if (!edit.isSaved)
        m_world.changes->set(absent); // chunks that are generated later read it there
    markAbsent(absent);
    return wanted;
}

void EditPipeline::markAbsent(std::span<const VoxelChange> absent)
{
    ChunkSet chunks;
    for (const VoxelChange& one : absent)
        if (const ChunkPos chunk = chunkOf(one.at, m_world.rules.edge); chunks.insert(chunk).second) {
            // Where it opens or closes the sky over resident chunks, they are lit again once the edits are done.
            if (m_world.hasSky())
                m_coarseDue.push_back(chunk);
            markCoarse(chunk);
        }
    countCoarse();
}

/// Updates the light round changed voxels. Gives the chunks whose meshes show it. The resident set's lock is held.
EditPipeline::ChunkSet EditPipeline::relight(
    LightWorld& light, std::span<const VoxelChange> changes, EditOutcome& outcome)
{
    const std::uint64_t start = threadNs();
    std::vector<LightEdit> edits;
    edits.reserve(changes.size());
    for (const VoxelChange& one : changes)
        edits.push_back({one.at, one.after});
    light.editAll(edits);
    ChunkSet seen;
    for (const auto& [chunk, box] : light.changedChunks()) {
        ++outcome.relit;
        outcome.relitVoxels += box.voxels;
        addReaders(chunk, box, seen);
    }
    outcome.lightNs += threadNs() - start;
    return seen;
}

/// Hands on where the sky begins now. The changes are known by then to the threads that make chunks.
void EditPipeline::storeFloors(const LightWorld& light)
{
    SkyCache& sky = m_world.levelOf(0).sky;
    for (const ChunkPos column : light.changedSkyColumns()) {
        const SkyHeightMap& floor = light.floor(column.x, column.z);
        // Where the sky now falls out of what is resident, it is looked for again below.
        // Floors next to each other mostly lie in one chunk: [low, high) is the last one that was resident.
        std::int64_t low = 0, high = 0;
        const auto goesOn = [&](std::int64_t from) {
            const std::int64_t below = from - 1;
            if (below >= low && below < high)
                return false;
            const int edge = m_world.rules.edge;
            const ChunkPos chunk{column.x, chunkOf({0, below, 0}, edge).y, column.z};
            const ChunkRecord* record = m_world.chunks.find(chunk);
            if (!record || !record->voxels)
                return true;
            low = originOf(chunk, edge).y;
            high = low + edge;
            return false;
        };
        if (std::any_of(floor.from.begin(), floor.from.end(), goesOn))
            sky.forget(column.x, column.z);
        else
            sky.put(column.x, column.z, std::make_shared<const SkyHeightMap>(floor));
    }
}

/// Changes voxels of resident chunks, and says what is to be built again. The resident set's lock is held.
std::vector<EditPipeline::Rebuild> EditPipeline::changeVoxels(
    std::span<const VoxelChange> changes, EditOutcome& outcome, std::uint8_t thread)
{
    const int edge = m_world.rules.edge;
    std::uint64_t start = threadNs();
    std::unordered_map<ChunkPos, std::vector<VoxelWrite>, ChunkPosHash> others;
    ChunkSet dirty;
    for (const VoxelChange& one : changes) {
        const ChunkPos chunk = chunkOf(one.at, edge);
        const VoxelPos in = one.at - originOf(chunk, edge);
        const std::array<int, 3> at{static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z)};
        others[chunk].push_back({static_cast<std::uint32_t>((at[1] * edge + at[2]) * edge + at[0]), one.after});
        addReaders(chunk, {at, {at[0] + 1, at[1] + 1, at[2] + 1}}, dirty);
    }
    outcome.voxelNs += threadNs() - start;
    std::optional<LightWorld> light;
    if (m_world.rules.isLit()) {
        light.emplace(
            m_world.rules.light, edge,
            [this](std::int64_t x, std::int64_t z) { return *m_world.levelOf(0).sky.at(x, z); },
            [this](ChunkPos chunk) -> std::optional<KnownLight> {
                const ChunkRecord* record = m_world.chunks.find(chunk);
                if (!record || !record->passes)
                    return std::nullopt;
                return KnownLight{record->passes, record->neighbours == 26 ? record->light : nullptr};
            },
            m_light);
        dirty.merge(relight(*light, changes, outcome));
    }
    start = threadNs();
    if (!outcome.isSaved)
        m_world.changes->set(changes); // after light has read what was before; chunks found from here on have them
    if (light)
        storeFloors(*light);
    for (const auto& [chunk, unused] : others)
        m_world.chunks.dropLightAround(chunk);
    ChunkSet seenAnew; // chunks that may be seen through otherwise
    for (const auto& [chunk, voxels] : others) {
        storeVoxels(chunk, voxels, light ? &*light : nullptr, dirty, seenAnew);
        m_world.lives.note(chunk, LifeStep::Edited, thread, (threadNs() - start) / others.size());
        markCoarse(chunk);
    }
    countCoarse();
    outcome.voxelChunks += static_cast<int>(others.size());
    outcome.voxelNs += threadNs() - start;
    start = threadNs();
    std::vector<Rebuild> rebuilds = rebuildsOf(dirty, seenAnew, light ? &*light : nullptr);
    if (light)
        for (const ChunkPos chunk : light->found())
            m_world.chunks.keepFoundLight(chunk, light->shareLight(chunk));
    outcome.lightNs += threadNs() - start;
    return rebuilds;
}

void EditPipeline::storeVoxels(
    ChunkPos chunk, const std::vector<VoxelWrite>& voxels, LightWorld* light, ChunkSet& dirty, ChunkSet& seenAnew)
{
    const BuildRules& rules = m_world.rules;
    const int edge = rules.edge;
    const VoxelChunk& before = *m_world.chunks.find(chunk)->voxels;
    const int i = static_cast<int>(voxels[0].voxel);
    if (voxels.size() > 1
        || !visibilityUnchanged(
            before, {i % edge, i / edge / edge, i / edge % edge}, voxels[0].material, rules.sides.solidCubes))
        seenAnew.insert(chunk);
    auto after = std::make_shared<const VoxelChunk>(before.with(voxels, *rules.pipeline.form));
    // A chunk is taken for buried where all six next to it are of one material each. What is buried has no skirts.
    if (rules.pipeline.seams == Seams::Skirts) {
        after = m_world.stored(VoxelChunk(edge, after->voxels())); // found uniform where it is
        if (before.isUniform() != after->isUniform())
            for (const Side side : kSides)
                dirty.insert(chunk + stepOf(side));
    }
    m_world.chunks.change(chunk, std::move(after), light ? light->sharePasses(chunk) : nullptr);
}

/// The jobs of chunks that look different. The resident set's lock is held.
std::vector<EditPipeline::Rebuild> EditPipeline::rebuildsOf(
    const ChunkSet& dirty, const ChunkSet& seenAnew, LightWorld* light)
{
    std::vector<Rebuild> rebuilds;
    for (const ChunkPos chunk : dirty) {
        m_world.chunks.invalidateInFlight(chunk, light ? light->shareLight(chunk) : nullptr);
        auto job = m_world.chunks.remeshJob(chunk);
        if (!job)
            continue;
        Rebuild& one = rebuilds.emplace_back();
        one.job = std::move(*job);
        one.job.isSeenThroughAlike = !seenAnew.contains(chunk);
        if (light && light->shareAround(chunk, one.light.emplace()))
            one.kept = light->shareLight(chunk);
        else
            one.light.reset();
    }
    return rebuilds;
}

/// What a chunk was last built from by an edit: a player who builds comes back to the same few.
RebuildCache& EditPipeline::cacheOf(ChunkPos chunk)
{
    const std::size_t max = m_world.rules.edge > 32 ? 6 : 48; // some 16 MiB
    auto at = std::find_if(m_caches.begin(), m_caches.end(), [chunk](const auto& one) { return one.first == chunk; });
    if (at == m_caches.end() && m_caches.size() >= max) {
        at = std::prev(m_caches.end()); // what it has is of another chunk: all of it differs, its memory is used
        at->first = chunk;
    }
    if (at == m_caches.end())
        m_caches.emplace_front(chunk, RebuildCache{});
    else
        m_caches.splice(m_caches.begin(), m_caches, at);
    return m_caches.front().second;
}

/// Builds what an edit has changed and sends it, all at once.
void EditPipeline::finish(std::vector<Rebuild> rebuilds, std::uint64_t number, EditOutcome& outcome,
    std::uint8_t thread, BuildScratch& scratch)
{
    std::vector<std::pair<StreamEvent, MeshResult>> made;
    for (Rebuild& one : rebuilds) {
        const std::uint64_t start = threadNs();
        const BuildInput input = m_world.inputOf(one.job);
        BuiltChunk built = number > 0
            ? rebuildChunk(input, m_world.rules, one.light ? &*one.light : nullptr, cacheOf(one.job.chunk), scratch)
            : buildChunk(input, m_world.rules, scratch);
        m_world.count(one.job.chunk, built, thread);
        MeshResult result = resultOf(built);
        if (one.kept && result.hasMesh)
            result.light = one.kept;
        StreamEvent event = uploadOf(one.job.chunk, std::move(built));
        event.mesh.edit = number;
        const std::uint64_t cost = threadNs() - start;
        outcome.meshNs += cost;
        ++outcome.meshed;
        m_world.lives.note(one.job.chunk, LifeStep::Remeshed, thread, cost);
        made.emplace_back(std::move(event), std::move(result));
    }
    const std::scoped_lock lock(m_world.chunksMutex);
    std::vector<StreamEvent> events;
    for (std::size_t i = 0; i < made.size(); ++i)
        if (m_world.chunks.remeshFinished(rebuilds[i].job, std::move(made[i].second)))
            events.push_back(std::move(made[i].first));
    if (m_world.chunks.readyToMesh() > 0 || m_world.chunks.readyToLight() > 0)
        m_world.idleVersion = 0; // what lacked a neighbour is meshed when that is there
    m_world.events.sendAll(std::move(events));
}

/// The plain way: each voxel is a separate edit. `done` counts those that were made, which come first in the outcome.
void EditPipeline::editEach(
    const Asked& asked, EditOutcome& outcome, std::size_t& done, std::uint8_t thread, BuildScratch& scratch)
{
    for (std::size_t i = 0; i < outcome.changes.size() && !m_isStopping; ++i) {
        const VoxelChange change = outcome.changes[i];
        std::vector<Rebuild> rebuilds;
        {
            const std::scoped_lock lock(m_world.chunksMutex);
            // The viewer may have left meanwhile, or left and come back: then its voxels are being generated.
            const ChunkRecord* record = m_world.chunks.find(chunkOf(change.at, m_world.rules.edge));
            if (!record || !record->voxels) {
                ++outcome.missing;
                continue;
            }
            rebuilds = changeVoxels({&change, 1}, outcome, thread);
        }
        outcome.changes[done++] = change;
        finish(std::move(rebuilds), asked.number, outcome, thread, scratch);
    }
}

void EditPipeline::run(const Asked& asked, std::uint8_t thread, BuildScratch& scratch)
{
    auto outcome = std::make_shared<EditOutcome>();
    outcome->edit = asked.number;
    outcome->asked = asked.when;
    outcome->isSaved = asked.edit.isSaved;
    const bool together = !m_editsEach;
    std::size_t done = 0;
    try {
        std::vector<Rebuild> rebuilds;
        {
            const std::scoped_lock lock(m_world.chunksMutex);
            outcome->changes = wantedChanges(asked.edit, *outcome);
            if (together && !outcome->changes.empty())
                rebuilds = changeVoxels(outcome->changes, *outcome, thread);
        }
        if (together)
            finish(std::move(rebuilds), asked.number, *outcome, thread, scratch);
        else
            editEach(asked, *outcome, done, thread, scratch);
    } catch (const std::exception&) { // no memory: what was not meshed shows what was before
        ++m_world.stats.failures;
        m_caches.clear(); // one may be half of then and half of now
    }
    if (!together)
        outcome->changes.resize(done);
    outcome->readyNs = static_cast<std::uint64_t>(
        std::chrono::duration_cast<std::chrono::nanoseconds>(Clock::now() - asked.when).count());
    m_world.events.send({StreamEvent::Kind::Edited, {}, {}, nullptr, std::move(outcome)});
    {
        const std::scoped_lock lock(m_queueMutex);
        m_isEditing = false;
    }
    --m_editsLeft;
}

} // namespace fell::stream
