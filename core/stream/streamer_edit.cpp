// SPDX-License-Identifier: Apache-2.0
// Edits of the resident world: voxels first, all of them; then each chunk that looks different is meshed once.
#include "stream/streamer.h"

#include "stream/thread_clock.h"

#include <algorithm>

namespace fell {
namespace {

using Clock = std::chrono::steady_clock;
using ChunkSet = std::unordered_set<ChunkPos, ChunkPosHash>;

/// The chunks whose mesh reads some of a box of this one's voxels: it reads one layer beyond its own.
void addReaders(ChunkPos chunk, const ChunkBox& box, int edge, ChunkSet& out)
{
    const auto range = [&](std::size_t axis) {
        return std::array<int, 2>{box.low[axis] == 0 ? -1 : 0, box.high[axis] == edge ? 1 : 0};
    };
    const auto [x0, x1] = range(0);
    const auto [y0, y1] = range(1);
    const auto [z0, z1] = range(2);
    for (int y = y0; y <= y1; ++y)
        for (int z = z0; z <= z1; ++z)
            for (int x = x0; x <= x1; ++x)
                out.insert(chunk + ChunkPos{x, y, z});
}

/// The chunks of a column, and those round it, between where the sky began and where it begins now.
void addShaded(ChunkPos chunk, int edge, const SkyFloor& before, const SkyFloor& now, ChunkSet& out)
{
    constexpr std::int64_t kDeepest = 64; // chunks below, where no sky was or is to be seen to an end
    const std::int64_t here = originOf(chunk, edge).y, least = here - kDeepest * edge, most = here + kDeepest * edge;
    std::int64_t low = INT64_MAX, high = INT64_MIN; // voxels of the level
    for (std::size_t i = 0; i < before.from.size(); ++i)
        if (before.from[i] != now.from[i]) {
            low = std::min(low, std::clamp(std::min(before.from[i], now.from[i]), least, most));
            high = std::max(high, std::clamp(std::max(before.from[i], now.from[i]), least, most));
        }
    const auto rowOf = [edge](std::int64_t y) { return chunkOf({0, y, 0}, edge).y; };
    for (std::int64_t y = low <= high ? rowOf(low) - 1 : 1; y <= (low <= high ? rowOf(high) + 1 : 0); ++y)
        for (std::int64_t z = -1; z <= 1; ++z)
            for (std::int64_t x = -1; x <= 1; ++x)
                out.insert({chunk.x + x, y, chunk.z + z, chunk.level});
}

} // namespace

std::uint64_t Streamer::edit(EditRequest edit)
{
    m_askedEdits.push_back({std::move(edit), ++m_lastEdit, Clock::now()});
    ++m_editsLeft;
    post();
    return m_lastEdit;
}

std::optional<Streamer::Asked> Streamer::takeEdit()
{
    const std::scoped_lock lock(m_requestMutex);
    if (m_isEditing || m_edits.empty())
        return std::nullopt;
    Asked asked = std::move(m_edits.front());
    m_edits.pop_front();
    m_isEditing = true;
    return asked;
}

/// What of an edit there is to do to resident chunks; the rest is left out, or only kept. The map's lock is held.
std::vector<VoxelChange> Streamer::wantedChanges(const EditRequest& edit, EditOutcome& outcome)
{
    const int edge = m_setup.chunk.edge;
    ChunkPos last{INT64_MIN, 0, 0};
    const VoxelChunk* voxels = nullptr;
    const auto read = [&](VoxelPos at) -> std::optional<Material> {
        if (const ChunkPos chunk = chunkOf(at, edge); chunk != last) {
            const ChunkRecord* record = m_map.find(chunk);
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
            one.after = m_changes->at(one.at).value_or(one.after);
        if (!before && (edit.isEverywhere || edit.isSaved))
            absent.push_back(one);
        outcome.missing += !before && !edit.isEverywhere && !edit.isSaved;
        one.before = before.value_or(kOpen);
        return !before || one.before == one.after || one.after >= m_terrain->recipe.blocks.kinds.size();
    });
    if (!edit.isSaved)
        m_changes->set(absent); // chunks that are generated later read it there
    ChunkSet chunks;
    for (const VoxelChange& one : absent)
        if (const ChunkPos chunk = chunkOf(one.at, edge); chunks.insert(chunk).second) {
            // Where it opens or closes the sky over resident chunks, they are lit again once the edits are done.
            if (m_lightRules.mode->sky > 0)
                m_coarseDue.push_back(chunk);
            dueCoarse(chunk);
        }
    countCoarse();
    return wanted;
}

void Streamer::countCoarse()
{
    m_coarseLeft = m_coarseDue.size() + m_coarseAtWork;
}

/// The coarser chunks over this one lag behind it. The map's lock is held.
void Streamer::dueCoarse(ChunkPos chunk)
{
    while (chunk.level + 1 < static_cast<int>(m_levels.size())) {
        chunk = parentOf(chunk);
        if (std::find(m_coarseDue.begin(), m_coarseDue.end(), chunk) == m_coarseDue.end())
            m_coarseDue.push_back(chunk);
    }
}

/// Lights the world anew round changed voxels. Gives the chunks whose meshes show it. The map's lock is held.
std::unordered_set<ChunkPos, ChunkPosHash> Streamer::relightRound(
    LightWorld& world, std::span<const VoxelChange> changes, EditOutcome& outcome)
{
    const std::uint64_t start = threadNs();
    std::vector<LightEdit> edits;
    edits.reserve(changes.size());
    for (const VoxelChange& one : changes)
        edits.push_back({one.at, one.after});
    world.editAll(edits);
    ChunkSet seen;
    for (const auto& [chunk, box] : world.differences()) {
        ++outcome.relit;
        outcome.relitVoxels += box.voxels;
        addReaders(chunk, box, m_setup.chunk.edge, seen);
    }
    outcome.lightNs += threadNs() - start;
    return seen;
}

/// Hands on where the sky begins now. The changes are known to whoever makes chunks by then.
void Streamer::keepFloors(const LightWorld& world)
{
    SkyCache& sky = levelOf(0).sky;
    for (const ChunkPos column : world.floorsMoved()) {
        const SkyFloor& floor = world.floor(column.x, column.z);
        // Where the sky now falls out of what is resident, it is looked for again below.
        // Floors beside each other mostly lie in one chunk: [low, high) is the last one that was resident.
        std::int64_t low = 0, high = 0;
        const auto goesOn = [&](std::int64_t from) {
            const std::int64_t below = from - 1;
            if (below >= low && below < high)
                return false;
            const int edge = m_setup.chunk.edge;
            const ChunkPos chunk{column.x, chunkOf({0, below, 0}, edge).y, column.z};
            const ChunkRecord* record = m_map.find(chunk);
            if (!record || !record->voxels)
                return true;
            low = originOf(chunk, edge).y;
            high = low + edge;
            return false;
        };
        if (std::any_of(floor.from.begin(), floor.from.end(), goesOn))
            sky.forget(column.x, column.z);
        else
            sky.put(column.x, column.z, std::make_shared<const SkyFloor>(floor));
    }
}

std::vector<Streamer::Remesh> Streamer::changeVoxels(
    std::span<const VoxelChange> changes, EditOutcome& outcome, std::uint8_t thread)
{
    const int edge = m_setup.chunk.edge;
    std::uint64_t start = threadNs();
    std::unordered_map<ChunkPos, std::vector<OtherVoxel>, ChunkPosHash> others;
    ChunkSet dirty;
    for (const VoxelChange& one : changes) {
        const ChunkPos chunk = chunkOf(one.at, edge);
        const VoxelPos in = one.at - originOf(chunk, edge);
        const std::array<int, 3> at{static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z)};
        others[chunk].push_back({static_cast<std::uint32_t>((at[1] * edge + at[2]) * edge + at[0]), one.after});
        addReaders(chunk, {at, {at[0] + 1, at[1] + 1, at[2] + 1}}, edge, dirty);
    }
    outcome.voxelNs += threadNs() - start;
    std::optional<LightWorld> world;
    if (isLit()) {
        world.emplace(
            m_lightRules, edge, [this](std::int64_t x, std::int64_t z) { return *levelOf(0).sky.at(x, z); },
            [this](ChunkPos chunk) -> std::optional<KnownLight> {
                const ChunkRecord* record = m_map.find(chunk);
                if (!record || !record->passes)
                    return std::nullopt;
                return KnownLight{record->passes, record->neighbours == 26 ? record->light : nullptr};
            });
        dirty.merge(relightRound(*world, changes, outcome));
    }
    start = threadNs();
    if (!outcome.isSaved)
        m_changes->set(changes); // after light has looked at what was before, and chunks found from here on have them
    if (world)
        keepFloors(*world);
    for (const auto& [chunk, unused] : others)
        m_map.doubtRound(chunk);
    ChunkSet seenAnew; // chunks that may be seen through otherwise
    for (const auto& [chunk, voxels] : others) {
        const VoxelChunk& before = *m_map.find(chunk)->voxels;
        const int i = static_cast<int>(voxels[0].voxel);
        if (voxels.size() > 1
            || !isSightKept(
                before, {i % edge, i / edge / edge, i / edge % edge}, voxels[0].material, m_sides.solidCubes))
            seenAnew.insert(chunk);
        auto after = std::make_shared<const VoxelChunk>(before.with(voxels, *m_pipeline.form));
        // A chunk is taken for buried where all six beside it are of one material each. What is buried has no skirts.
        if (m_pipeline.seams == Seams::Skirts) {
            after = std::make_shared<const VoxelChunk>( // found uniform where it is
                VoxelChunk(edge, after->voxels()).heldAs(*m_pipeline.form));
            if (before.isUniform() != after->isUniform())
                for (const Side side : kSides)
                    dirty.insert(chunk + towards(side));
        }
        m_map.change(chunk, std::move(after), world ? world->sharePasses(chunk) : nullptr);
        m_lives.note(chunk, LifeStep::Edited, thread, (threadNs() - start) / others.size());
        dueCoarse(chunk);
    }
    countCoarse();
    outcome.voxelChunks += static_cast<int>(others.size());
    outcome.voxelNs += threadNs() - start;
    start = threadNs();
    std::vector<Remesh> remeshes;
    for (const ChunkPos chunk : dirty) {
        m_map.spoil(chunk, world ? world->shareLight(chunk) : nullptr);
        auto job = m_map.jobAgain(chunk);
        if (!job)
            continue;
        Remesh& one = remeshes.emplace_back();
        one.job = std::move(*job);
        one.job.isSeenThroughAlike = !seenAnew.contains(chunk);
        if (world && world->shareAround(chunk, one.light.emplace()))
            one.kept = world->shareLight(chunk);
        else
            one.light.reset();
    }
    if (world)
        for (const ChunkPos chunk : world->found())
            m_map.keepFoundLight(chunk, world->shareLight(chunk));
    outcome.lightNs += threadNs() - start;
    return remeshes;
}

/// What a chunk was last meshed from by an edit: somebody who builds comes back to the same few.
Streamer::Edited& Streamer::editedBefore(ChunkPos chunk)
{
    const std::size_t most = m_setup.chunk.edge > 32 ? 6 : 48; // some 16 MiB
    auto at = std::find_if(
        m_editedBefore.begin(), m_editedBefore.end(), [chunk](const auto& one) { return one.first == chunk; });
    if (at == m_editedBefore.end() && m_editedBefore.size() >= most) {
        at = std::prev(m_editedBefore.end()); // what it has is of another chunk: all of it differs, its memory is used
        at->first = chunk;
    }
    if (at == m_editedBefore.end())
        m_editedBefore.emplace_front(chunk, Edited{});
    else
        m_editedBefore.splice(m_editedBefore.begin(), m_editedBefore, at);
    return m_editedBefore.front().second;
}

/// Meshes what an edit has changed and sends it, all at once.
void Streamer::finishEdit(std::vector<Remesh> remeshes, std::uint64_t number, EditOutcome& outcome, std::uint8_t thread)
{
    std::vector<std::pair<StreamEvent, MeshResult>> made;
    for (Remesh& one : remeshes) {
        MeshResult result;
        const std::uint64_t start = threadNs();
        StreamEvent event = build(one.job, thread, result, number > 0 ? &editedBefore(one.job.chunk) : nullptr,
            one.light ? &*one.light : nullptr);
        if (one.kept && result.hasMesh)
            result.light = one.kept;
        event.mesh.edit = number;
        const std::uint64_t cost = threadNs() - start;
        outcome.meshNs += cost;
        ++outcome.meshed;
        m_lives.note(one.job.chunk, LifeStep::Remeshed, thread, cost);
        made.emplace_back(std::move(event), std::move(result));
    }
    const std::scoped_lock lock(m_mapMutex);
    std::vector<StreamEvent> events;
    for (std::size_t i = 0; i < made.size(); ++i)
        if (m_map.meshedAgain(remeshes[i].job, std::move(made[i].second)))
            events.push_back(std::move(made[i].first));
    if (m_map.readyToMesh() > 0 || m_map.readyToLight() > 0)
        m_idleVersion = 0; // what lacked a neighbour is meshed when that is there
    for (const StreamEvent& event : events)
        m_pendingBytes += event.mesh.mesh.bytes();
    m_pending += events.size();
    const std::scoped_lock eventLock(m_eventMutex);
    std::move(events.begin(), events.end(), std::back_inserter(m_events));
}

void Streamer::runEdit(const Asked& asked, std::uint8_t thread)
{
    auto outcome = std::make_shared<EditOutcome>();
    outcome->edit = asked.number;
    outcome->asked = asked.when;
    outcome->isSaved = asked.edit.isSaved;
    std::size_t done = 0; // changes of "each" that were made; the others are taken out
    try {
        std::vector<Remesh> remeshes;
        const bool together = !m_editsEach;
        {
            const std::scoped_lock lock(m_mapMutex);
            outcome->changes = wantedChanges(asked.edit, *outcome);
            if (together && !outcome->changes.empty())
                remeshes = changeVoxels(outcome->changes, *outcome, thread);
        }
        if (together)
            finishEdit(std::move(remeshes), asked.number, *outcome, thread);
        for (std::size_t i = 0; !together && i < outcome->changes.size() && !m_isStopping; ++i) {
            const VoxelChange change = outcome->changes[i];
            {
                const std::scoped_lock lock(m_mapMutex);
                // The viewer may have left meanwhile, or left and come back: then its voxels are being generated.
                const ChunkRecord* record = m_map.find(chunkOf(change.at, m_setup.chunk.edge));
                if (!record || !record->voxels) {
                    ++outcome->missing;
                    continue;
                }
                remeshes = changeVoxels({&change, 1}, *outcome, thread);
            }
            outcome->changes[done++] = change;
            finishEdit(std::exchange(remeshes, {}), asked.number, *outcome, thread);
        }
        if (!together)
            outcome->changes.resize(done);
    } catch (const std::exception&) { // no memory: what was not meshed shows what was before
        ++m_failures;
        m_editedBefore.clear(); // one may be half of then and half of now
    }
    outcome->readyNs = static_cast<std::uint64_t>(
        std::chrono::duration_cast<std::chrono::nanoseconds>(Clock::now() - asked.when).count());
    send({StreamEvent::Kind::Edited, {}, {}, nullptr, std::move(outcome)});
    {
        const std::scoped_lock lock(m_requestMutex);
        m_isEditing = false;
    }
    --m_editsLeft;
    wake();
}

/// Brings coarser levels up to what edits have changed, once no more edits wait. False if there was nothing to do.
bool Streamer::refreshCoarse(std::uint8_t thread)
{
    std::vector<ChunkPos> due;
    {
        const std::scoped_lock lock(m_mapMutex);
        if (m_coarseDue.empty() || m_editsLeft > 0
            || m_coarseAtWork > 0) // one at a time, so that the newest comes last
            return false;
        due = std::exchange(m_coarseDue, {});
        m_coarseAtWork = due.size();
        countCoarse();
    }
    try {
        remakeCoarse(std::move(due), thread);
    } catch (const std::exception&) { // no memory: the coarse levels show what was before
        ++m_failures;
    }
    {
        const std::scoped_lock lock(m_mapMutex);
        m_coarseAtWork = 0;
        countCoarse();
    }
    wake();
    return true;
}

void Streamer::remakeCoarse(std::vector<ChunkPos> due, std::uint8_t thread)
{
    std::sort(due.begin(), due.end(), [](ChunkPos a, ChunkPos b) { return a.level < b.level; });
    ChunkSet dirty;
    for (const ChunkPos chunk : due) {
        Level& level = levelOf(chunk.level);
        if (m_lightRules.mode->sky > 0) {
            const auto before = level.sky.find(chunk.x, chunk.z);
            level.sky.forget(chunk.x, chunk.z);
            if (before)
                addShaded(chunk, m_setup.chunk.edge, *before, *level.sky.at(chunk.x, chunk.z), dirty);
        }
        if (chunk.level == 0) // its voxels are changed where they are; it was its sky that lagged behind
            continue;
        const VoxelChunk voxels = level.source.voxels(chunk);
        const std::scoped_lock lock(m_mapMutex);
        const ChunkRecord* record = m_map.find(chunk);
        if (!record || !record->voxels || record->voxels->voxels() == voxels.voxels())
            continue;
        m_map.change(chunk, std::make_shared<const VoxelChunk>(voxels.heldAs(*m_pipeline.form)),
            isLit() ? std::make_shared<const LightPasses>(passesOf(voxels, m_lightRules)) : nullptr);
        const int edge = m_setup.chunk.edge;
        addReaders(chunk, {{0, 0, 0}, {edge, edge, edge}}, edge, dirty);
        if (m_pipeline.seams != Seams::Stitched)
            continue;
        for (std::int64_t y = -1; y <= 2; ++y) // finer ones that read it where levels meet
            for (std::int64_t z = -1; z <= 2; ++z)
                for (std::int64_t x = -1; x <= 2; ++x)
                    dirty.insert(childOf(chunk, 0) + ChunkPos{x, y, z});
    }
    std::vector<Remesh> remeshes;
    {
        const std::scoped_lock lock(m_mapMutex);
        for (const ChunkPos chunk : dirty) {
            m_map.spoil(chunk, nullptr);
            if (auto job = m_map.jobAgain(chunk))
                remeshes.emplace_back().job = std::move(*job);
        }
    }
    EditOutcome unused;
    finishEdit(std::move(remeshes), 0, unused, thread);
}

} // namespace fell
