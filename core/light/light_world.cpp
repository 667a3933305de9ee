// SPDX-License-Identifier: Apache-2.0
#include <fell/light/light_world.h>

#include <fell/light/light_batches.h>

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

namespace fell::light {

LightWorld::LightWorld(LightRules rules, int edge, SkyHeightMapOf floorOf, Publish when)
    : m_store(std::move(rules), edge, std::move(floorOf))
    , m_when(when)
    , m_ownScratch(std::make_unique<LightScratch>())
    , m_scratch(m_ownScratch.get())
{
}

LightWorld::LightWorld(LightRules rules, int edge, SkyHeightMapOf floorOf, KnownLightOf known, LightScratch& scratch)
    : m_store(std::move(rules), edge, std::move(floorOf), std::move(known))
    , m_when(Publish::WhenSurrounded)
    , m_scratch(&scratch)
{
}

const ChunkLight* LightWorld::find(ChunkPos chunk)
{
    const LitChunk* cell = m_store.at(chunk);
    return cell ? cell->light() : nullptr;
}

void LightWorld::put(ChunkPos chunk, const VoxelChunk& voxels)
{
    putAll({{chunk, &voxels}});
}

void LightWorld::putAll(const std::vector<std::pair<ChunkPos, const VoxelChunk*>>& chunks)
{
    std::unordered_set<ChunkPos, ChunkPosHash> touched;
    for (const auto& [chunk, voxels] : chunks) {
        Transmission passes = transmissionOf(*voxels, rules());
        // Where an edit has opened a column down to this chunk, it goes on.
        (void)carveThrough(m_store.sky().at(chunk.x, chunk.z), passes, originOf(chunk, edge()).y);
        m_store.put(chunk, std::move(passes));
        eachAround(chunk, [&](ChunkPos at) { touched.insert(at); });
    }
    std::vector<ChunkPos> ready;
    for (const ChunkPos chunk : touched)
        if (m_when == Publish::WhenSurrounded ? m_store.isSurrounded(chunk) : m_store.at(chunk) != nullptr)
            ready.push_back(chunk);
    floodChunks(m_store, ready, m_scratch->flood);
}

/// Finds where the sky begins over the edited voxel from now on. True if it moved: then its floor is to be summarized.
bool LightWorld::moveSky(VoxelEdit& edit)
{
    const auto isOpen = [&](std::int64_t y) {
        const LightStore::Place at = m_store.placeOf({edit.at.x, y, edit.at.z});
        const LitChunk* cell = m_store.at(at.chunk);
        return cell && cell->passes().isOpenAt(at.voxel);
    };
    const auto isThere = [&](std::int64_t y) {
        return m_store.at(chunkOf({edit.at.x, y, edit.at.z}, edge())) != nullptr;
    };
    return m_store.sky().move(edit.at, isOpen(edit.at.y), isOpen, isThere, edit.sky);
}

/// Chunks whose levels the edit can change: those that light reaches from the edited voxels.
std::vector<ChunkPos> LightWorld::chunksRound(const VoxelEdit& edit) const
{
    std::vector<ChunkPos> chunks;
    const std::int64_t lowest = edit.sky.any() ? std::min({edit.at.y, edit.sky.before, edit.sky.after}) : edit.at.y;
    const VoxelPos by{kMaxLight, kMaxLight, kMaxLight}; // as far as a region around the edit looks
    const ChunkPos from = chunkOf(VoxelPos{edit.at.x, lowest, edit.at.z} - by, m_store.edge()),
                   to = chunkOf(edit.at + by, m_store.edge());
    for (std::int64_t y = from.y; y <= to.y; ++y)
        for (std::int64_t z = from.z; z <= to.z; ++z)
            for (std::int64_t x = from.x; x <= to.x; ++x)
                chunks.push_back({x, y, z});
    return chunks;
}

std::optional<LightChange> LightWorld::edit(VoxelPos at, Material material)
{
    const LightStore::Place place = m_store.placeOf(at);
    LitChunk* cell = m_store.at(place.chunk);
    if (!cell)
        return std::nullopt;
    const int channels = rules().mode->channels();
    VoxelEdit edit;
    edit.at = at;
    if (m_store.hasKnown())
        floodMissing(m_store, chunksRound(edit), m_scratch->flood);
    for (int c = 0; c < channels; ++c)
        edit.was[static_cast<std::size_t>(c)]
            = {m_store.level(at, c), m_store.emission(at, c), m_store.attenuation(at, c)};
    setVoxel(cell->passesToChange(), place.voxel, material, rules());
    if (moveSky(edit))
        summarize(m_store.sky().at(place.chunk.x, place.chunk.z));
    LightChange change{{place.chunk}, 0};
    const std::vector<ChunkPos> round = chunksRound(edit);
    const bool whole = std::all_of(round.begin(), round.end(), [this](ChunkPos chunk) {
        const LitChunk* near = m_store.at(chunk);
        return near ? near->light() != nullptr : m_when == Publish::Immediately;
    });
    if (whole) {
        relight(edit, change);
        return change;
    }
    change.channelsFlooded = channels; // at the edge of what is there: chunks that have levels are flooded again
    for (const ChunkPos chunk : round)
        if (find(chunk)) {
            floodChunks(m_store, {&chunk, 1}, m_scratch->flood);
            change.chunks.push_back(chunk);
        }
    return change;
}

/// Chooses the way for each channel, the cheapest first; see relight.h.
void LightWorld::relight(const VoxelEdit& edit, LightChange& change)
{
    VoxelEdit lamps = edit; // no lamp's light falls with the sky
    lamps.sky = {};
    std::array<bool, 2> many{}; // lamps and sky
    std::array<std::vector<int>, 2> added, others;
    for (int c = 0; c < rules().mode->channels(); ++c) {
        if (relightLocal(m_store, edit, c))
            continue;
        ++change.channelsFlooded;
        const std::size_t sky = rules().mode->isSky(c);
        // Where one colour changes many voxels, the others do too, mostly.
        if (!many[sky] && relightSparse(m_store, sky ? edit : lamps, c, m_scratch->relight.sparse, change.chunks))
            continue;
        many[sky] = true;
        (isRaised(m_store, edit, c) ? added : others)[sky].push_back(c);
    }
    for (const std::size_t sky : {0u, 1u}) {
        relightAdd(m_store, sky ? edit : lamps, added[sky], m_scratch->relight, change.chunks);
        relightRegion(m_store, sky ? edit : lamps, others[sky], m_scratch->relight, change.chunks);
    }
}

LightChange LightWorld::editAll(std::span<const LightEdit> edits)
{
    constexpr std::size_t kFew = 4; // one by one they are cheaper than a flood of eight chunks
    if (edits.size() > kFew)
        return editTogether(edits);
    LightChange change;
    for (const LightEdit& one : edits)
        if (const auto made = edit(one.at, one.material)) {
            change.chunks.insert(change.chunks.end(), made->chunks.begin(), made->chunks.end());
            change.channelsFlooded += made->channelsFlooded;
        }
    std::sort(change.chunks.begin(), change.chunks.end());
    change.chunks.erase(std::unique(change.chunks.begin(), change.chunks.end()), change.chunks.end());
    return change;
}

LightChange LightWorld::editTogether(std::span<const LightEdit> edits)
{
    LightChange change;
    // Of each chunk the box of its edits, and as deep as the sky moves below them.
    struct Box {
        VoxelPos low{INT64_MAX, INT64_MAX, INT64_MAX}, high{INT64_MIN, INT64_MIN, INT64_MIN};
    };
    std::unordered_map<ChunkPos, Box, ChunkPosHash> boxes;
    for (const LightEdit& one : edits) {
        Box& box = boxes[chunkOf(one.at, m_store.edge())];
        box.low = {std::min(box.low.x, one.at.x), std::min(box.low.y, one.at.y), std::min(box.low.z, one.at.z)};
        box.high = {std::max(box.high.x, one.at.x), std::max(box.high.y, one.at.y), std::max(box.high.z, one.at.z)};
    }
    std::unordered_set<ChunkPos, ChunkPosHash> reached;
    const auto reach = [&](const Box& box) {
        const VoxelPos by{kLightRadius, kLightRadius, kLightRadius};
        const ChunkPos from = chunkOf(box.low - by, m_store.edge()), to = chunkOf(box.high + by, m_store.edge());
        for (std::int64_t y = from.y; y <= to.y; ++y)
            for (std::int64_t z = from.z; z <= to.z; ++z)
                for (std::int64_t x = from.x; x <= to.x; ++x)
                    reached.insert({x, y, z});
    };
    for (const auto& [chunk, box] : boxes)
        reach(box);
    if (m_store.hasKnown())
        floodMissing(m_store, std::vector<ChunkPos>(reached.begin(), reached.end()), m_scratch->flood); // as before
    std::unordered_set<ChunkPos, ChunkPosHash> columns;
    for (const LightEdit& one : edits) {
        const LightStore::Place place = m_store.placeOf(one.at);
        LitChunk* cell = m_store.at(place.chunk);
        if (!cell)
            continue;
        setVoxel(cell->passesToChange(), place.voxel, one.material, rules());
        VoxelEdit edit;
        edit.at = one.at;
        if (!moveSky(edit))
            continue;
        columns.insert({place.chunk.x, 0, place.chunk.z});
        Box& box = boxes[place.chunk];
        box.low.y = std::min({box.low.y, edit.sky.before, edit.sky.after});
    }
    for (const ChunkPos column : columns)
        summarize(m_store.sky().at(column.x, column.z));
    for (const auto& [chunk, box] : boxes)
        reach(box);
    for (const ChunkPos chunk : reached)
        if (const LitChunk* cell = m_store.at(chunk);
            cell && (cell->light() || (m_store.hasKnown() && m_store.isSurrounded(chunk))))
            change.chunks.push_back(chunk);
    change.channelsFlooded = rules().mode->channels();
    floodInBatches(m_store, change.chunks, m_scratch->flood);
    return change;
}

std::shared_ptr<const ChunkLight> LightWorld::shareLight(ChunkPos chunk)
{
    LitChunk* cell = m_store.at(chunk);
    return cell ? cell->shareLight() : nullptr;
}

std::shared_ptr<const Transmission> LightWorld::sharePasses(ChunkPos chunk)
{
    LitChunk* cell = m_store.at(chunk);
    return cell ? cell->sharePasses() : nullptr;
}

std::vector<std::pair<ChunkPos, ChunkBox>> LightWorld::changedChunks() const
{
    std::vector<std::pair<ChunkPos, ChunkBox>> out;
    for (const auto& [chunk, cell] : m_store.chunks())
        if (const ChunkBox box = cell.difference(edge()); !box.isEmpty())
            out.emplace_back(chunk, box);
    return out;
}

std::vector<ChunkPos> LightWorld::found() const
{
    std::vector<ChunkPos> out;
    for (const auto& [chunk, cell] : m_store.chunks())
        if (cell.wasFound())
            out.push_back(chunk);
    return out;
}

std::vector<ChunkPos> LightWorld::changedSkyColumns() const
{
    return m_store.sky().moved();
}

bool LightWorld::shareAround(ChunkPos chunk, LightAround& out)
{
    std::vector<ChunkPos> around;
    eachAround(chunk, [&around](ChunkPos at) { around.push_back(at); });
    if (m_store.hasKnown())
        floodMissing(m_store, around, m_scratch->flood);
    for (std::size_t i = 0; i < around.size(); ++i) {
        out.levels[i] = shareLight(around[i]);
        out.passes[i] = sharePasses(around[i]);
        if (!out.levels[i])
            return false;
    }
    return true;
}

std::vector<LightStep> LightWorld::pathOf(VoxelPos at, int channel)
{
    return traceLight(
        at, [&](VoxelPos v) { return m_store.level(v, channel); },
        [&](VoxelPos v) { return m_store.emission(v, channel); },
        [&](VoxelPos v) { return m_store.attenuation(v, channel); });
}

std::size_t LightWorld::bytes() const
{
    std::size_t sum = 0;
    for (const auto& [chunk, cell] : m_store.chunks())
        sum += cell.light() ? cell.light()->bytes() : 0;
    return sum;
}

std::uint64_t LightWorld::digest() const
{
    std::uint64_t sum = 0;
    for (const auto& [chunk, cell] : m_store.chunks())
        if (cell.light())
            sum += mix64(hashOf(chunk) + digestOf(*cell.light())); // a sum does not ask for the order
    return sum;
}

} // namespace fell::light
