// SPDX-License-Identifier: Apache-2.0
#include <fell/save/changes.h>

#include <algorithm>

namespace fell::save {
namespace {

std::uint16_t indexIn(VoxelPos at, ChunkPos kept)
{
    const VoxelPos in = at - originOf(kept, kKeptEdge);
    return static_cast<std::uint16_t>((in.y * kKeptEdge + in.z) * kKeptEdge + in.x);
}

VoxelPos placeOf(std::uint16_t voxel, ChunkPos kept)
{
    const int i = voxel;
    return originOf(kept, kKeptEdge) + VoxelPos{i % kKeptEdge, i / kKeptEdge / kKeptEdge, i / kKeptEdge % kKeptEdge};
}

/// Both sorted; where both name a voxel, the newer one holds.
KeptVoxels merged(const KeptVoxels& old, const KeptVoxels& newer)
{
    KeptVoxels out;
    out.reserve(old.size() + newer.size());
    auto a = old.begin();
    for (const KeptVoxel& one : newer) {
        for (; a != old.end() && a->voxel < one.voxel; ++a)
            out.push_back(*a);
        if (a != old.end() && a->voxel == one.voxel)
            ++a;
        out.push_back(one);
    }
    out.insert(out.end(), a, old.end());
    return out;
}

/// Sorts by voxel; of several for one voxel the last that was named stays.
void sortOut(KeptVoxels& voxels)
{
    std::stable_sort(
        voxels.begin(), voxels.end(), [](const KeptVoxel& a, const KeptVoxel& b) { return a.voxel < b.voxel; });
    const auto last = std::unique(
        voxels.rbegin(), voxels.rend(), [](const KeptVoxel& a, const KeptVoxel& b) { return a.voxel == b.voxel; });
    voxels.erase(voxels.begin(), last.base());
}

} // namespace

void WorldChanges::set(std::span<const VoxelChange> changes)
{
    std::unordered_map<ChunkPos, KeptVoxels, ChunkPosHash> byChunk;
    for (const VoxelChange& one : changes) {
        const ChunkPos kept = chunkOf(one.at, kKeptEdge);
        byChunk[kept].push_back({indexIn(one.at, kept), one.after});
    }
    const std::scoped_lock lock(m_mutex);
    for (auto& [chunk, voxels] : byChunk) {
        sortOut(voxels);
        Kept& kept = m_kept[chunk];
        kept.voxels
            = std::make_shared<const KeptVoxels>(kept.voxels ? merged(*kept.voxels, voxels) : std::move(voxels));
        kept.version = ++m_edition;
        m_unsaved.insert(chunk);
        noteTop(chunk, *kept.voxels);
    }
}

/// What was built high up and taken down again leaves no top behind: the sky is looked for from the top down.
void WorldChanges::noteTop(ChunkPos chunk, const KeptVoxels& voxels)
{
    const ChunkPos column{chunk.x, 0, chunk.z};
    const auto highest = std::find_if( // the order goes upward
        voxels.rbegin(), voxels.rend(), [](const KeptVoxel& one) { return one.material != kOpen; });
    if (highest != voxels.rend()) {
        m_tops[column][chunk.y] = placeOf(highest->voxel, chunk).y + 1;
    } else if (const auto found = m_tops.find(column); found != m_tops.end()) {
        found->second.erase(chunk.y);
        if (found->second.empty())
            m_tops.erase(found);
    }
}

std::optional<Material> WorldChanges::at(VoxelPos voxel) const
{
    const ChunkPos chunk = chunkOf(voxel, kKeptEdge);
    const std::scoped_lock lock(m_mutex);
    const auto found = m_kept.find(chunk);
    if (found == m_kept.end())
        return std::nullopt;
    const KeptVoxel wanted{indexIn(voxel, chunk), 0};
    const auto one = std::lower_bound(found->second.voxels->begin(), found->second.voxels->end(), wanted,
        [](const KeptVoxel& a, const KeptVoxel& b) { return a.voxel < b.voxel; });
    if (one == found->second.voxels->end() || one->voxel != wanted.voxel)
        return std::nullopt;
    return one->material;
}

void WorldChanges::replaceAll(std::vector<std::pair<ChunkPos, KeptVoxels>> all)
{
    const std::scoped_lock lock(m_mutex);
    m_kept.clear();
    m_tops.clear();
    m_unsaved.clear();
    for (auto& [chunk, voxels] : all) {
        if (voxels.empty())
            continue;
        sortOut(voxels);
        noteTop(chunk, voxels);
        m_kept[chunk] = {std::make_shared<const KeptVoxels>(std::move(voxels)), ++m_edition};
    }
}

/// Visits the kept chunks that lie in or over a chunk of any edge and level. The lock is held.
template <typename Visit> void WorldChanges::eachIn(ChunkPos chunk, int edge, const Visit& visit) const
{
    if (m_kept.empty())
        return;
    const VoxelPos low = lowestVoxelOf(chunk, edge);
    const std::int64_t span = spanOf(chunk, edge) - 1;
    const ChunkPos from = chunkOf(low, kKeptEdge), to = chunkOf(low + VoxelPos{span, span, span}, kKeptEdge);
    const auto inside = static_cast<std::size_t>((to.x - from.x + 1) * (to.y - from.y + 1) * (to.z - from.z + 1));
    if (inside > m_kept.size()) { // a coarse chunk spans millions of kept ones
        for (const auto& [at, kept] : m_kept)
            if (at.x >= from.x && at.x <= to.x && at.y >= from.y && at.y <= to.y && at.z >= from.z && at.z <= to.z)
                visit(at, kept);
        return;
    }
    for (std::int64_t y = from.y; y <= to.y; ++y)
        for (std::int64_t z = from.z; z <= to.z; ++z)
            for (std::int64_t x = from.x; x <= to.x; ++x)
                if (const auto found = m_kept.find({x, y, z}); found != m_kept.end())
                    visit(found->first, found->second);
}

bool WorldChanges::apply(ChunkPos chunk, int edge, std::span<Material> voxels) const
{
    const VoxelPos low = lowestVoxelOf(chunk, edge);
    const std::int64_t size = std::int64_t{1} << chunk.level, half = size / 2;
    bool any = false;
    const std::scoped_lock lock(m_mutex);
    eachIn(chunk, edge, [&](ChunkPos at, const Kept& kept) {
        for (const KeptVoxel& one : *kept.voxels) {
            const VoxelPos in = placeOf(one.voxel, at) - low;
            const VoxelPos here{in.x >> chunk.level, in.y >> chunk.level, in.z >> chunk.level};
            const auto isMiddle = [&](std::int64_t v) { return (v & (size - 1)) == half; };
            if (here.x < 0 || here.y < 0 || here.z < 0 || here.x >= edge || here.y >= edge || here.z >= edge
                || (size > 1 && !(isMiddle(in.x) && isMiddle(in.y) && isMiddle(in.z))))
                continue;
            voxels[static_cast<std::size_t>((here.y * edge + here.z) * edge + here.x)] = one.material;
            any = true;
        }
    });
    return any;
}

bool WorldChanges::touches(ChunkPos chunk, int edge) const
{
    bool any = false;
    const std::scoped_lock lock(m_mutex);
    eachIn(chunk, edge, [&any](ChunkPos, const Kept&) { any = true; });
    return any;
}

std::uint64_t WorldChanges::version(ChunkPos chunk, int edge) const
{
    std::uint64_t newest = 0;
    const std::scoped_lock lock(m_mutex);
    eachIn(chunk, edge, [&newest](ChunkPos, const Kept& kept) { newest = std::max(newest, kept.version); });
    return newest;
}

std::optional<std::int64_t> WorldChanges::top(std::int64_t chunkX, std::int64_t chunkZ, int edge, int level) const
{
    const std::scoped_lock lock(m_mutex);
    if (m_tops.empty())
        return std::nullopt;
    const std::int64_t span = (std::int64_t{edge} << level);
    const auto cut = [](std::int64_t voxel) { return chunkOf({voxel, 0, 0}, kKeptEdge).x; };
    const std::int64_t x0 = cut(chunkX * span), x1 = cut(chunkX * span + span - 1), z0 = cut(chunkZ * span),
                       z1 = cut(chunkZ * span + span - 1);
    std::optional<std::int64_t> top;
    const auto add = [&top, level](const std::map<std::int64_t, std::int64_t>& chunks) {
        top = std::max(top.value_or(INT64_MIN), ((chunks.rbegin()->second - 1) >> level) + 1);
    };
    if (static_cast<std::uint64_t>(x1 - x0 + 1) * static_cast<std::uint64_t>(z1 - z0 + 1) <= m_tops.size()) {
        for (std::int64_t x = x0; x <= x1; ++x)
            for (std::int64_t z = z0; z <= z1; ++z)
                if (const auto found = m_tops.find({x, 0, z}); found != m_tops.end())
                    add(found->second);
        return top;
    }
    for (const auto& [column, chunks] : m_tops)
        if (column.x >= x0 && column.x <= x1 && column.z >= z0 && column.z <= z1)
            add(chunks);
    return top;
}

std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> WorldChanges::all() const
{
    const std::scoped_lock lock(m_mutex);
    std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> out;
    out.reserve(m_kept.size());
    for (const auto& [chunk, kept] : m_kept)
        out.emplace_back(chunk, kept.voxels);
    return out;
}

std::shared_ptr<const KeptVoxels> WorldChanges::of(ChunkPos kept) const
{
    const std::scoped_lock lock(m_mutex);
    const auto found = m_kept.find(kept);
    return found == m_kept.end() ? nullptr : found->second.voxels;
}

std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> WorldChanges::takeUnsaved()
{
    const std::scoped_lock lock(m_mutex);
    std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> out;
    for (const ChunkPos chunk : m_unsaved)
        if (const auto found = m_kept.find(chunk); found != m_kept.end())
            out.emplace_back(chunk, found->second.voxels);
    m_unsaved.clear();
    return out;
}

void WorldChanges::markUnsaved(std::span<const ChunkPos> unsaved)
{
    const std::scoped_lock lock(m_mutex);
    m_unsaved.insert(unsaved.begin(), unsaved.end());
}

std::size_t WorldChanges::unsaved() const
{
    const std::scoped_lock lock(m_mutex);
    return m_unsaved.size();
}

std::shared_ptr<WorldChanges> WorldChanges::copy() const
{
    auto out = std::make_shared<WorldChanges>();
    const std::scoped_lock lock(m_mutex);
    out->m_kept = m_kept;
    out->m_tops = m_tops;
    out->m_edition = m_edition;
    return out;
}

std::size_t WorldChanges::chunks() const
{
    const std::scoped_lock lock(m_mutex);
    return m_kept.size();
}

std::size_t WorldChanges::voxels() const
{
    const std::scoped_lock lock(m_mutex);
    std::size_t sum = 0;
    for (const auto& [chunk, kept] : m_kept)
        sum += kept.voxels->size();
    return sum;
}

} // namespace fell::save
