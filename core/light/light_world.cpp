// SPDX-License-Identifier: Apache-2.0
#include "light/light_world.h"

#include "light/window.h"

#include <algorithm>
#include <bit>

namespace fell {
namespace {

template <typename Visit> void eachAround(ChunkPos chunk, const Visit& visit)
{
    for (std::int64_t dy = -1; dy <= 1; ++dy)
        for (std::int64_t dz = -1; dz <= 1; ++dz)
            for (std::int64_t dx = -1; dx <= 1; ++dx)
                visit(chunk + ChunkPos{dx, dy, dz});
}

struct Bounds {
    ChunkPos low{INT64_MAX, INT64_MAX, INT64_MAX}, high{INT64_MIN, INT64_MIN, INT64_MIN}; // both inside
    void add(ChunkPos c)
    {
        low = {std::min(low.x, c.x), std::min(low.y, c.y), std::min(low.z, c.z)};
        high = {std::max(high.x, c.x), std::max(high.y, c.y), std::max(high.z, c.z)};
    }
};

} // namespace

LightWorld::LightWorld(LightRules rules, int edge, FloorOf floorOf, When when)
    : m_rules(std::move(rules))
    , m_edge(edge)
    , m_floorOf(std::move(floorOf))
    , m_when(when)
{
}

LightWorld::LightWorld(LightRules rules, int edge, FloorOf floorOf, KnownOf knownOf)
    : LightWorld(std::move(rules), edge, std::move(floorOf), When::Whole)
{
    m_knownOf = std::move(knownOf);
}

LightPasses& LightWorld::Cell::passesToChange()
{
    if (!ownsPasses)
        passes = std::make_shared<LightPasses>(*passes);
    ownsPasses = true;
    return const_cast<LightPasses&>(*passes); // made above, or by put: nobody else has it
}

ChunkLight& LightWorld::Cell::lightToChange()
{
    if (!ownsLight)
        light = std::make_shared<ChunkLight>(*light);
    ownsLight = true;
    return const_cast<ChunkLight&>(*light);
}

LightWorld::Cell* LightWorld::cellAt(ChunkPos chunk)
{
    return const_cast<Cell*>(std::as_const(*this).cellAt(chunk));
}

const LightWorld::Cell* LightWorld::cellAt(ChunkPos chunk) const
{
    if (m_last && m_lastChunk == chunk)
        return m_last;
    auto found = m_cells.find(chunk);
    if (found == m_cells.end()) {
        auto known = m_knownOf ? m_knownOf(chunk) : std::nullopt;
        if (!known)
            return nullptr;
        Cell cell{std::move(known->passes), known->light, known->light};
        found = m_cells.emplace(chunk, std::move(cell)).first;
    }
    m_lastChunk = chunk;
    m_last = &found->second; // stays there: cells are never taken out
    return m_last;
}

SkyFloor& LightWorld::floorAt(std::int64_t x, std::int64_t z)
{
    const ChunkPos column{x, 0, z};
    const auto found = m_floors.find(column);
    return found == m_floors.end() ? m_floors.emplace(column, m_floorOf(x, z)).first->second : found->second;
}

LightWorld::Place LightWorld::placeOf(VoxelPos at) const
{
    const ChunkPos chunk = chunkOf(at, m_edge);
    const VoxelPos in = at - originOf(chunk, m_edge);
    return {chunk, static_cast<std::size_t>((in.y * m_edge + in.z) * m_edge + in.x)};
}

const ChunkLight* LightWorld::find(ChunkPos chunk) const
{
    const Cell* cell = cellAt(chunk);
    return cell ? cell->light.get() : nullptr;
}

int LightWorld::level(VoxelPos at, int channel) const
{
    const Place place = placeOf(at);
    const Cell* cell = cellAt(place.chunk);
    if (!cell) // nothing is there, but it may be the sky over the world
        return m_rules.mode->isSky(channel) && isUnderSky(at) ? kMostLight : 0;
    return cell->light ? cell->light->at(channel, place.voxel) : 0;
}

void LightWorld::put(ChunkPos chunk, const VoxelChunk& voxels)
{
    putAll({{chunk, &voxels}});
}

void LightWorld::putAll(const std::vector<std::pair<ChunkPos, const VoxelChunk*>>& chunks)
{
    for (const auto& [chunk, voxels] : chunks) {
        Cell& cell = m_cells[chunk];
        cell = {std::make_shared<LightPasses>(passesOf(*voxels, m_rules)), nullptr, nullptr, true, false};
        // Where an edit has opened a column down to this chunk, it goes on.
        (void)extendDown(floorAt(chunk.x, chunk.z), *cell.passes, originOf(chunk, m_edge).y);
    }
    std::unordered_map<ChunkPos, bool, ChunkPosHash> touched;
    for (const auto& [chunk, voxels] : chunks)
        eachAround(chunk, [&](ChunkPos at) { touched.emplace(at, true); });
    std::vector<ChunkPos> ready;
    for (const auto& [chunk, yes] : touched) {
        bool whole = true;
        if (m_when == When::Whole)
            eachAround(chunk, [&](ChunkPos at) { whole &= cellAt(at) != nullptr; });
        if (whole && cellAt(chunk))
            ready.push_back(chunk);
    }
    lightChunks(ready);
}

void LightWorld::lightChunks(const std::vector<ChunkPos>& chunks)
{
    if (chunks.empty())
        return;
    Bounds bounds;
    for (const ChunkPos chunk : chunks)
        bounds.add(chunk);
    const ChunkPos size = bounds.high - bounds.low + ChunkPos{1, 1, 1};
    if (static_cast<std::size_t>(size.x * size.y * size.z) > 2 * chunks.size() + 8) { // thinly spread: one by one
        if (chunks.size() > 1)
            for (const ChunkPos chunk : chunks)
                lightChunks({chunk});
        return;
    }
    LightBlock block;
    block.rules = &m_rules;
    block.edge = m_edge;
    block.size = {static_cast<int>(size.x) + 2, static_cast<int>(size.y) + 2, static_cast<int>(size.z) + 2};
    const ChunkPos low = bounds.low - ChunkPos{1, 1, 1};
    block.y0 = originOf(low, m_edge).y;
    for (std::int64_t y = 0; y < block.size[1]; ++y)
        for (std::int64_t z = 0; z < block.size[2]; ++z)
            for (std::int64_t x = 0; x < block.size[0]; ++x) {
                const Cell* cell = cellAt(low + ChunkPos{x, y, z});
                block.passes.push_back(cell ? cell->passes.get() : nullptr);
            }
    for (std::int64_t z = 0; z < block.size[2]; ++z) // all floors are made before one is pointed at
        for (std::int64_t x = 0; x < block.size[0]; ++x)
            (void)floorAt(low.x + x, low.z + z);
    for (std::int64_t z = 0; z < block.size[2]; ++z)
        for (std::int64_t x = 0; x < block.size[0]; ++x)
            block.floors.push_back(&floorAt(low.x + x, low.z + z));
    const LightPart part{{1, 1, 1}, {block.size[0] - 1, block.size[1] - 1, block.size[2] - 1}};
    std::vector<ChunkLight> lights = floodBlock(block, part);
    for (const ChunkPos chunk : chunks) {
        const ChunkPos in = chunk - bounds.low;
        Cell& cell = *cellAt(chunk);
        cell.light = std::make_shared<ChunkLight>(
            std::move(lights[static_cast<std::size_t>((in.y * size.z + in.z) * size.x + in.x)]));
        cell.ownsLight = true;
    }
}

bool LightWorld::isUnderSky(VoxelPos at) const
{
    const ChunkPos chunk = chunkOf(at, m_edge);
    auto floor = m_floors.find({chunk.x, 0, chunk.z});
    if (floor == m_floors.end()) {
        if (!m_knownOf) // nothing was ever put there
            return false;
        floor = m_floors.emplace(ChunkPos{chunk.x, 0, chunk.z}, m_floorOf(chunk.x, chunk.z)).first;
    }
    const VoxelPos in = at - originOf(chunk, m_edge);
    return at.y >= floor->second.from[static_cast<std::size_t>(in.z * m_edge + in.x)];
}

/// What the voxel has by itself.
int LightWorld::own(VoxelPos at, int channel) const
{
    if (m_rules.mode->isSky(channel))
        return isUnderSky(at) ? kMostLight : 0;
    const Place place = placeOf(at);
    const Cell* cell = cellAt(place.chunk);
    if (!cell)
        return 0;
    const auto lamp = std::lower_bound(cell->passes->lamps.begin(), cell->passes->lamps.end(), place.voxel,
        [](const LampVoxel& a, std::size_t voxel) { return a.voxel < voxel; });
    return lamp != cell->passes->lamps.end() && lamp->voxel == place.voxel
        ? m_rules.gives[static_cast<std::size_t>(channel)][lamp->material]
        : 0;
}

int LightWorld::taken(VoxelPos at, int channel) const
{
    const Place place = placeOf(at);
    const Cell* cell = cellAt(place.chunk);
    return cell ? takenAt(*cell->passes, place.voxel, m_rules.colourOf(channel)) : kMostLight;
}

int LightWorld::fromNeighbours(VoxelPos at, int channel) const
{
    int most = 0;
    for (const Side side : kSides)
        most = std::max(most, level(beside(at, side), channel));
    return std::max(0, most - taken(at, channel));
}

/// Finds where the sky begins over the edited voxel from now on; both heights are cut to what is there. True if it
/// moved: then the floor is to be summarized.
bool LightWorld::moveFloor(Edit& edit)
{
    const Place place = placeOf(edit.at);
    const VoxelPos in = edit.at - originOf(place.chunk, m_edge);
    SkyFloor& floor = floorAt(place.chunk.x, place.chunk.z);
    std::int64_t& from = floor.from[static_cast<std::size_t>(in.z * m_edge + in.x)];
    edit.floorBefore = edit.floorAfter = from;
    const bool open = cellAt(place.chunk)->passes->isOpenAt(place.voxel);
    std::int64_t bottom = edit.at.y; // the lowest voxel that is there, as far as it matters
    if (!open && edit.at.y >= from) {
        from = edit.at.y + 1;
        while (cellAt(placeOf({edit.at.x, bottom - 1, edit.at.z}).chunk) && bottom > edit.floorBefore)
            --bottom;
    } else if (open && edit.at.y + 1 == from) {
        const auto isOpen = [&](std::int64_t y) {
            const Place at = placeOf({edit.at.x, y, edit.at.z});
            const Cell* cell = cellAt(at.chunk);
            return cell && cell->passes->isOpenAt(at.voxel);
        };
        while (isOpen(bottom - 1))
            --bottom;
        from = bottom;
    } else {
        return false;
    }
    m_moved.insert({place.chunk.x, 0, place.chunk.z});
    edit.floorBefore = std::max(edit.floorBefore, bottom);
    edit.floorAfter = std::max(from, bottom);
    return true;
}

/// True if the edit changes this channel in no voxel but its own, whose level is then set.
bool LightWorld::staysPut(const Edit& edit, int channel)
{
    if (m_rules.mode->isSky(channel) && edit.skyMovesBelow())
        return false;
    const int before = edit.was[static_cast<std::size_t>(channel)].level;
    const int after = std::max(own(edit.at, channel), fromNeighbours(edit.at, channel));
    for (const Side side : kSides) {
        const VoxelPos at = beside(edit.at, side);
        const int has = level(at, channel), takes = taken(at, channel);
        if (after - takes > has)
            return false; // brighter than it was
        if (after >= before || has == 0 || has != before - takes || own(at, channel) >= has)
            continue;
        // It may have its light from the edited voxel alone.
        const auto supports = [&](Side other) {
            const VoxelPos from = beside(at, other);
            return from != edit.at && level(from, channel) - takes >= has;
        };
        if (std::none_of(kSides.begin(), kSides.end(), supports))
            return false;
    }
    if (after != before) {
        const Place place = placeOf(edit.at);
        cellAt(place.chunk)->lightToChange().set(channel, place.voxel, after);
    }
    return true;
}

/// Chunks whose levels the edit can change: those that light comes to from the voxels that change by themselves.
std::vector<ChunkPos> LightWorld::chunksRound(const Edit& edit) const
{
    std::vector<ChunkPos> chunks;
    const std::int64_t lowest
        = edit.floorBefore == edit.floorAfter ? edit.at.y : std::min({edit.at.y, edit.floorBefore, edit.floorAfter});
    const VoxelPos by{kMostLight, kMostLight, kMostLight}; // as far as a window round the edit looks
    const ChunkPos from = chunkOf(VoxelPos{edit.at.x, lowest, edit.at.z} - by, m_edge),
                   to = chunkOf(edit.at + by, m_edge);
    for (std::int64_t y = from.y; y <= to.y; ++y)
        for (std::int64_t z = from.z; z <= to.z; ++z)
            for (std::int64_t x = from.x; x <= to.x; ++x)
                chunks.push_back({x, y, z});
    return chunks;
}

std::optional<LightChange> LightWorld::edit(VoxelPos at, Material material)
{
    const Place place = placeOf(at);
    Cell* cell = cellAt(place.chunk);
    if (!cell)
        return std::nullopt;
    const int channels = m_rules.mode->channels();
    Edit edit;
    edit.at = at;
    if (m_knownOf)
        giveLight(chunksRound(edit));
    for (int c = 0; c < channels; ++c)
        edit.was[static_cast<std::size_t>(c)] = {level(at, c), own(at, c), taken(at, c)};
    setVoxel(cell->passesToChange(), place.voxel, material, m_rules);
    if (moveFloor(edit))
        summarize(floorAt(place.chunk.x, place.chunk.z));
    LightChange change{{place.chunk}, 0};
    const std::vector<ChunkPos> round = chunksRound(edit);
    const bool whole = std::all_of(round.begin(), round.end(), [this](ChunkPos chunk) {
        const Cell* near = cellAt(chunk);
        return near ? near->light != nullptr : m_when == When::AtOnce;
    });
    if (!whole) { // at the edge of what is there: chunks that have levels are flooded again
        change.channelsFlooded = channels;
        for (const ChunkPos chunk : round)
            if (find(chunk)) {
                lightChunks({chunk});
                change.chunks.push_back(chunk);
            }
        return change;
    }
    std::array<bool, 2> many{};
    std::array<std::vector<int>, 4> floods; // lamps and sky, first those that only grow brighter
    for (int c = 0; c < channels; ++c)
        if (!staysPut(edit, c)) {
            ++change.channelsFlooded;
            Edit own = edit;
            if (!m_rules.mode->isSky(c)) // no lamp's light falls with the sky
                own.floorBefore = own.floorAfter = 0;
            const bool sky = m_rules.mode->isSky(c);
            bool& isMany = many[sky]; // in one colour: so it is in the others, mostly
            if (!isMany && changeFew(own, c, change))
                continue;
            isMany = true;
            floods[(sky ? 2u : 0u) + (isRaised(edit, c) ? 0u : 1u)].push_back(c);
        }
    Edit flat = edit;
    flat.floorBefore = flat.floorAfter = 0;
    raise(flat, floods[0], change);
    floodRound(flat, floods[1], change);
    raise(edit, floods[2], change);
    floodRound(edit, floods[3], change);
    return change;
}

bool LightWorld::isSurrounded(ChunkPos chunk) const
{
    bool whole = true;
    eachAround(chunk, [&](ChunkPos at) { whole &= cellAt(at) != nullptr; });
    return whole;
}

/// Floods those that are there with all their neighbours and have no levels yet: chunks of which nothing was shown.
void LightWorld::giveLight(const std::vector<ChunkPos>& chunks)
{
    for (const ChunkPos chunk : chunks)
        if (Cell* cell = cellAt(chunk); cell && !cell->light && isSurrounded(chunk)) {
            if (!lightEvenly(chunk, *cell))
                lightChunks({chunk});
            cell->first = cell->light;
            cell->wasFound = true;
            cell->ownsLight = false; // an edit copies it, so that what differs can be told
        }
}

/// Without a flood, where it is plain what there is: rock that takes all light, and open sky far from any lamp. False
/// if it is not.
bool LightWorld::lightEvenly(ChunkPos chunk, Cell& cell)
{
    ChunkLight light;
    light.edge = m_edge;
    light.channels = m_rules.mode->channels();
    if (cell.passes->kind == LightPasses::Kind::Open) {
        bool hasLamp = false;
        eachAround(chunk, [&](ChunkPos at) { hasLamp |= !cellAt(at)->passes->lamps.empty(); });
        if (hasLamp || (m_rules.mode->sky > 0 && floorAt(chunk.x, chunk.z).highest > originOf(chunk, m_edge).y))
            return false;
        for (int c = m_rules.mode->lamps; c < light.channels; ++c)
            light.of[static_cast<std::size_t>(c)].all = kMostLight;
    } else if (cell.passes->kind != LightPasses::Kind::Dark) {
        return false;
    }
    cell.light = std::make_shared<ChunkLight>(std::move(light));
    return true;
}

LightChange LightWorld::editAll(std::span<const LightEdit> edits)
{
    constexpr std::size_t kFew = 4; // one by one they are cheaper than a flood of eight chunks
    LightChange change;
    if (edits.size() <= kFew) {
        for (const LightEdit& one : edits)
            if (const auto made = edit(one.at, one.material)) {
                change.chunks.insert(change.chunks.end(), made->chunks.begin(), made->chunks.end());
                change.channelsFlooded += made->channelsFlooded;
            }
        std::sort(change.chunks.begin(), change.chunks.end());
        change.chunks.erase(std::unique(change.chunks.begin(), change.chunks.end()), change.chunks.end());
        return change;
    }
    // Of each chunk the box of its edits, and as deep as the sky moves below them.
    struct Box {
        VoxelPos low{INT64_MAX, INT64_MAX, INT64_MAX}, high{INT64_MIN, INT64_MIN, INT64_MIN};
    };
    std::unordered_map<ChunkPos, Box, ChunkPosHash> boxes;
    for (const LightEdit& one : edits) {
        Box& box = boxes[chunkOf(one.at, m_edge)];
        box.low = {std::min(box.low.x, one.at.x), std::min(box.low.y, one.at.y), std::min(box.low.z, one.at.z)};
        box.high = {std::max(box.high.x, one.at.x), std::max(box.high.y, one.at.y), std::max(box.high.z, one.at.z)};
    }
    std::unordered_set<ChunkPos, ChunkPosHash> reached;
    const auto reach = [&](const Box& box) {
        const VoxelPos by{kLightReach, kLightReach, kLightReach};
        const ChunkPos from = chunkOf(box.low - by, m_edge), to = chunkOf(box.high + by, m_edge);
        for (std::int64_t y = from.y; y <= to.y; ++y)
            for (std::int64_t z = from.z; z <= to.z; ++z)
                for (std::int64_t x = from.x; x <= to.x; ++x)
                    reached.insert({x, y, z});
    };
    for (const auto& [chunk, box] : boxes)
        reach(box);
    if (m_knownOf)
        giveLight({reached.begin(), reached.end()}); // as they are before
    std::unordered_set<ChunkPos, ChunkPosHash> columns;
    for (const LightEdit& one : edits) {
        const Place place = placeOf(one.at);
        Cell* cell = cellAt(place.chunk);
        if (!cell)
            continue;
        setVoxel(cell->passesToChange(), place.voxel, one.material, m_rules);
        Edit edit;
        edit.at = one.at;
        if (!moveFloor(edit))
            continue;
        columns.insert({place.chunk.x, 0, place.chunk.z});
        Box& box = boxes[place.chunk];
        box.low.y = std::min({box.low.y, edit.floorBefore, edit.floorAfter});
    }
    for (const ChunkPos column : columns)
        summarize(floorAt(column.x, column.z));
    for (const auto& [chunk, box] : boxes)
        reach(box);
    for (const ChunkPos chunk : reached)
        if (const Cell* cell = cellAt(chunk); cell && (cell->light || (m_knownOf && isSurrounded(chunk))))
            change.chunks.push_back(chunk);
    change.channelsFlooded = m_rules.mode->channels();
    lightTogether(change.chunks);
    return change;
}

/// Floods chunks that lie near each other in parts of up to 3 x 3 x 3, each part from what stands round it.
void LightWorld::lightTogether(std::vector<ChunkPos> chunks)
{
    constexpr std::int64_t kPart = 3;
    const auto part = [](std::int64_t v) { return v >= 0 ? v / kPart : -((kPart - 1 - v) / kPart); };
    std::unordered_map<ChunkPos, std::vector<ChunkPos>, ChunkPosHash> parts;
    for (const ChunkPos chunk : chunks)
        parts[{part(chunk.x), part(chunk.y), part(chunk.z)}].push_back(chunk);
    for (const auto& [unused, some] : parts)
        lightChunks(some);
}

std::shared_ptr<const ChunkLight> LightWorld::shareLight(ChunkPos chunk)
{
    Cell* cell = cellAt(chunk);
    if (!cell)
        return nullptr;
    cell->ownsLight = false;
    return cell->light;
}

std::shared_ptr<const LightPasses> LightWorld::sharePasses(ChunkPos chunk)
{
    Cell* cell = cellAt(chunk);
    if (!cell)
        return nullptr;
    cell->ownsPasses = false;
    return cell->passes;
}

std::vector<std::pair<ChunkPos, ChunkBox>> LightWorld::differences() const
{
    std::vector<std::pair<ChunkPos, ChunkBox>> out;
    for (const auto& [chunk, cell] : m_cells) {
        if (cell.light == cell.first)
            continue;
        const ChunkBox box = cell.first && cell.light ? differenceOf(*cell.first, *cell.light)
                                                      : ChunkBox{{0, 0, 0}, {m_edge, m_edge, m_edge}};
        if (!box.isEmpty())
            out.emplace_back(chunk, box);
    }
    return out;
}

std::vector<ChunkPos> LightWorld::found() const
{
    std::vector<ChunkPos> out;
    for (const auto& [chunk, cell] : m_cells)
        if (cell.wasFound)
            out.push_back(chunk);
    return out;
}

std::vector<ChunkPos> LightWorld::floorsMoved() const
{
    return {m_moved.begin(), m_moved.end()};
}

bool LightWorld::shareAround(ChunkPos chunk, LightAround& out)
{
    std::vector<ChunkPos> around;
    eachAround(chunk, [&around](ChunkPos at) { around.push_back(at); });
    if (m_knownOf)
        giveLight(around);
    for (std::size_t i = 0; i < around.size(); ++i) {
        out.levels[i] = shareLight(around[i]);
        out.passes[i] = sharePasses(around[i]);
        if (!out.levels[i])
            return false;
    }
    return true;
}

/// Does the edit let more light through than before, and give more, and nothing less?
bool LightWorld::isRaised(const Edit& edit, int channel) const
{
    const Edit::Voxel& was = edit.was[static_cast<std::size_t>(channel)];
    return taken(edit.at, channel) <= was.takes && own(edit.at, channel) >= was.own
        && (!m_rules.mode->isSky(channel) || edit.floorAfter <= edit.floorBefore);
}

/// What a window round an edit sees.
struct LightWorld::Round {
    struct Near {
        Cell* cell;
        WindowPlace place;
    };
    VoxelPos low; // of the window
    WindowShape shape;
    std::vector<Near> near;
    std::vector<LightWindow::TintedChunk> tinted; // those that have any tinted voxel, near or far
    std::vector<WindowSource> changed; // voxels that change by themselves
    std::vector<WindowLamp> lamps;

    void tell(LightWindow& window, LightColour colour) const
    {
        for (const Near& one : near)
            window.addPasses(*one.cell->passes, one.place, colour);
    }
};

LightWorld::Round LightWorld::lookRound(const Edit& edit, const std::vector<int>& channels, LightChange& change)
{
    const bool falls = edit.skyMovesBelow();
    int reach = falls ? kMostLight : 1;
    for (const int c : channels)
        reach = std::max(
            {reach, edit.was[static_cast<std::size_t>(c)].level, own(edit.at, c), fromNeighbours(edit.at, c)});
    const std::int64_t lowest = falls ? std::min({edit.at.y, edit.floorBefore, edit.floorAfter}) : edit.at.y;
    Round round;
    round.low = {edit.at.x - reach, lowest - reach, edit.at.z - reach};
    const VoxelPos high{edit.at.x + reach, edit.at.y + reach, edit.at.z + reach};
    const ChunkPos from = chunkOf(round.low, m_edge), to = chunkOf(high, m_edge);
    for (std::int64_t y = from.y; y <= to.y; ++y)
        for (std::int64_t z = from.z; z <= to.z; ++z)
            for (std::int64_t x = from.x; x <= to.x; ++x)
                if (Cell* cell = cellAt({x, y, z})) {
                    const VoxelPos in = originOf({x, y, z}, m_edge) - round.low;
                    round.near.push_back(
                        {cell, {static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z)}});
                    if (!cell->passes->tinted.empty())
                        round.tinted.push_back({cell->passes.get(), round.near.back().place});
                    if (const ChunkPos chunk{x, y, z};
                        std::find(change.chunks.begin(), change.chunks.end(), chunk) == change.chunks.end())
                        change.chunks.push_back(chunk);
                }
    const int width = 2 * reach + 1, height = static_cast<int>(high.y - round.low.y) + 1;
    for (const Round::Near& one : round.near)
        for (const LampVoxel& lamp : one.cell->passes->lamps) {
            const int i = static_cast<int>(lamp.voxel);
            const WindowLamp at{one.place.x + i % m_edge, one.place.y + i / m_edge / m_edge,
                one.place.z + i / m_edge % m_edge, lamp.material};
            if (at.x >= 0 && at.y >= 0 && at.z >= 0 && at.x < width && at.y < height && at.z < width)
                round.lamps.push_back(at);
        }
    const auto in = [&round](std::int64_t y) { return static_cast<int>(y - round.low.y); };
    round.shape = windowShape(width, height, width);
    round.changed.push_back({reach, in(edit.at.y), reach, reach});
    if (falls)
        for (std::int64_t y = std::min(edit.floorBefore, edit.floorAfter); y < edit.at.y; ++y)
            round.changed.push_back({reach, in(y), reach, kMostLight});
    return round;
}

/// The levels can only rise, by what comes from the edited voxel: that is flooded alone, and the higher level is kept.
void LightWorld::raise(const Edit& edit, const std::vector<int>& channels, LightChange& change)
{
    if (channels.empty())
        return;
    thread_local LightWindow window;
    Round round = lookRound(edit, channels, change);
    window.begin(round.shape);
    std::optional<LightColour> told;
    std::optional<int> held; // level at the voxel of the flood that the window holds
    LightWindow::Start start;
    const auto flood = [&](LightColour colour, int level) {
        if (told != colour) {
            if (told)
                window.clearPasses();
            round.tell(window, colour);
            told = colour;
        }
        start.lamps = round.changed;
        start.lamps.front().level = level;
        if (level == 0)
            start.lamps.erase(start.lamps.begin());
        window.flood(start);
        held = level;
    };
    const auto levelAfter
        = [&](int channel) { return std::max(own(edit.at, channel), fromNeighbours(edit.at, channel)); };
    // Plain takes least: where the brightest channel comes to no tinted voxel in it, no channel does in its colour.
    bool coloured = false;
    if (!round.tinted.empty() && m_rules.colourOf(channels.front()) != LightColour::Plain) {
        int brightest = 0;
        for (const int channel : channels)
            brightest = std::max(brightest, levelAfter(channel));
        flood(LightColour::Plain, brightest);
        coloured = window.touches(round.tinted);
    }
    for (const int channel : channels) {
        const auto c = static_cast<std::size_t>(channel);
        const LightColour colour = coloured ? m_rules.colourOf(channel) : LightColour::Plain;
        const int after = levelAfter(channel);
        const bool sameWay = held && told == colour;
        if (sameWay && after < *held && !m_rules.mode->isSky(channel)) { // the same light, dimmer
            window.dim(*held - after);
            held = after;
        } else if (!sameWay || after != *held) {
            flood(colour, after);
        }
        for (const Round::Near& one : round.near)
            window.raiseTo(one.cell->lightToChange().of[c], m_edge, one.place);
    }
}

void LightWorld::floodRound(const Edit& edit, const std::vector<int>& channels, LightChange& change)
{
    if (channels.empty())
        return;
    thread_local LightWindow window;
    const Round round = lookRound(edit, channels, change);
    const auto& near = round.near;
    const WindowShape& shape = round.shape;
    const VoxelPos low = round.low;
    window.begin(shape);
    LightColour told = LightColour::Plain;
    round.tell(window, told);
    // Nothing can change but what light reaches from the voxels that change by themselves.
    window.keepTo(round.changed, round.lamps);
    const bool coloured = window.touches(round.tinted);
    LightWindow::Start start;
    start.border = true;
    std::vector<WindowLamp> inside;
    for (const WindowLamp& lamp : round.lamps)
        if ((window.keptAt(lamp.y, lamp.z) >> lamp.x & 1) != 0)
            inside.push_back(lamp);
    // Where a channel's lamps and the levels round the window are the last flood's, dimmer, so is all that they give.
    int flooded = -1; // that channel; none yet
    int dimmed = 0; // levels by which the window is dimmer than that flood
    const auto dimmer = [&](std::size_t c) -> std::optional<int> {
        std::optional<int> by;
        for (const WindowLamp& lamp : inside)
            if (const int from = m_rules.gives[static_cast<std::size_t>(flooded)][lamp.material],
                to = m_rules.gives[c][lamp.material];
                to > 0)
                by = from - to;
        by = by ? by : window.borderDimmer();
        const bool isEach = by && std::all_of(inside.begin(), inside.end(), [&](const WindowLamp& lamp) {
            return m_rules.gives[c][lamp.material]
                == std::max(0, m_rules.gives[static_cast<std::size_t>(flooded)][lamp.material] - *by);
        });
        return isEach && *by >= dimmed && window.isBorderDimmer(*by) ? by : std::nullopt;
    };
    for (const int channel : channels) {
        const auto c = static_cast<std::size_t>(channel);
        const LightColour colour = coloured ? m_rules.colourOf(channel) : LightColour::Plain;
        if (told != colour) {
            window.clearPasses();
            round.tell(window, colour);
            window.cutPasses();
            told = colour;
            flooded = -1;
        }
        window.clearBorder();
        for (const Round::Near& one : near)
            if (one.cell->light)
                window.copyIn(one.cell->light->of[c], m_edge, one.place);
        start.lamps.clear();
        start.sky = m_rules.mode->isSky(channel);
        if (const auto by = flooded >= 0 && !start.sky ? dimmer(c) : std::nullopt) {
            if (*by > dimmed)
                window.dim(*by - dimmed);
            dimmed = *by;
            for (const Round::Near& one : near)
                if (one.cell->light)
                    window.copyInsideOut(one.cell->lightToChange().of[c], m_edge, one.place);
            continue;
        }
        if (start.sky) {
            window.sky().reset(shape);
            for (int y = 0; y < shape.y; ++y)
                for (int z = 0; z < shape.z; ++z)
                    for (std::uint64_t kept = window.keptAt(y, z); kept != 0; kept &= kept - 1) {
                        const int x = std::countr_zero(kept);
                        if (isUnderSky(low + VoxelPos{x, y, z}))
                            window.sky().data()[shape.at(y, z)] |= std::uint64_t{1} << x;
                    }
        } else {
            for (const WindowLamp& lamp : inside)
                if (const int level = m_rules.gives[c][lamp.material]; level > 0)
                    start.lamps.push_back({lamp.x, lamp.y, lamp.z, level});
        }
        window.flood(start);
        flooded = start.sky ? -1 : channel;
        dimmed = 0;
        window.keepBorder();
        for (const Round::Near& one : near)
            if (one.cell->light)
                window.copyInsideOut(one.cell->lightToChange().of[c], m_edge, one.place);
    }
}

std::vector<LightStep> LightWorld::pathOf(VoxelPos at, int channel) const
{
    return traceLight(
        at, [&](VoxelPos v) { return level(v, channel); }, [&](VoxelPos v) { return own(v, channel); },
        [&](VoxelPos v) { return taken(v, channel); });
}

std::size_t LightWorld::bytes() const
{
    std::size_t sum = 0;
    for (const auto& [chunk, cell] : m_cells)
        sum += cell.light ? cell.light->bytes() : 0;
    return sum;
}

std::uint64_t LightWorld::digest() const
{
    std::uint64_t sum = 0;
    for (const auto& [chunk, cell] : m_cells)
        if (cell.light)
            sum += mix64(hashOf(chunk) + digestOf(*cell.light)); // a sum does not ask for the order
    return sum;
}

} // namespace fell
