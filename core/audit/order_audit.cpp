// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/order_audit.h>

#include <fell/stream/level_source.h>

#include <algorithm>
#include <atomic>
#include <map>
#include <random>
#include <thread>

namespace fell::audit {
namespace {

constexpr std::int64_t kAcross = 3; // chunks of a region along an axis
constexpr std::int64_t kFar = 2000; // voxels of the level from the origin

struct Region {
    std::shared_ptr<const Terrain> terrain; // of the level
    ChunkPos low;
    int edge = 32;
};

/// Every second one where something was changed, if anything was.
Region someRegion(const Terrain& world, const WorldChanges* changes, std::mt19937_64& dice)
{
    constexpr int kLevels = 4;
    const int level = world.recipe.pattern ? 0 : static_cast<int>(dice() % kLevels);
    Region out{coarserTerrain(world, level), {}, kChunkEdges[dice() % kChunkEdges.size()]};
    const auto along = [&dice] { return static_cast<std::int64_t>(dice() % (2 * kFar)) - kFar; };
    VoxelPos at{along(), 0, along()};
    at.y = world.recipe.pattern ? std::int64_t{0} : static_cast<std::int64_t>(groundHeight(*out.terrain, at.x, at.z));
    if (changes && !changes->isEmpty() && dice() % 2 == 0) {
        const auto all = changes->all();
        const VoxelPos changed = originOf(all[dice() % all.size()].first, kKeptEdge);
        at = {changed.x >> level, changed.y >> level, changed.z >> level};
    }
    out.low = chunkOf(at - VoxelPos{out.edge, out.edge, out.edge}, out.edge);
    out.low.level = level;
    return out;
}

std::vector<ChunkPos> chunksOf(const Region& region)
{
    std::vector<ChunkPos> out;
    for (std::int64_t i = 0; i < kAcross * kAcross * kAcross; ++i)
        out.push_back(region.low + ChunkPos{i % kAcross, i / kAcross % kAcross, i / kAcross / kAcross});
    return out;
}

/// In the given order by several threads: each takes the next.
std::map<ChunkPos, std::uint64_t> madeTogether(
    const Region& region, const std::vector<ChunkPos>& order, std::size_t threads, const OrderAuditSpec& spec)
{
    LevelSource source(region.terrain, spec.generator ? *spec.generator : *findGenerator("blocks"), region.edge, 64,
        spec.changes.get());
    std::vector<std::uint64_t> digests(order.size());
    std::atomic<std::size_t> next{0};
    {
        std::vector<std::jthread> workers;
        for (std::size_t t = 0; t < threads; ++t)
            workers.emplace_back([&] {
                for (std::size_t i = next++; i < order.size(); i = next++)
                    digests[i] = digestOf(source.voxels(order[i]));
            });
    }
    std::map<ChunkPos, std::uint64_t> out;
    for (std::size_t i = 0; i < order.size(); ++i)
        out[order[i]] = digests[i];
    return out;
}

/// The reference: one chunk generated alone, each edited voxel looked up on level 0.
VoxelChunk madeAlone(const Region& region, ChunkPos chunk, const WorldChanges* changes)
{
    VoxelChunk made = generateChunk(*findGenerator("samples"), *region.terrain, chunk, region.edge);
    if (!changes || !changes->touches(chunk, region.edge))
        return made;
    const std::int64_t size = std::int64_t{1} << chunk.level, half = size / 2;
    const VoxelPos low = lowestVoxelOf(chunk, region.edge);
    std::vector<Material> voxels = made.voxels();
    for (std::int64_t y = 0, i = 0; y < region.edge; ++y)
        for (std::int64_t z = 0; z < region.edge; ++z)
            for (std::int64_t x = 0; x < region.edge; ++x, ++i)
                if (const auto changed = changes->at(low + VoxelPos{x * size + half, y * size + half, z * size + half}))
                    voxels[static_cast<std::size_t>(i)] = *changed;
    return {region.edge, std::move(voxels)};
}

std::string nameOf(ChunkPos chunk, const Region& region)
{
    return "chunk " + std::to_string(chunk.x) + ", " + std::to_string(chunk.y) + ", " + std::to_string(chunk.z)
        + " of edge " + std::to_string(region.edge) + " and level " + std::to_string(chunk.level);
}

} // namespace

AuditRow auditOrder(const OrderAuditSpec& spec, const std::stop_token& stop)
{
    AuditRow row;
    row.audit = "order";
    std::mt19937_64 dice(spec.seed);
    while (row.cases < spec.cases) {
        const Region region = someRegion(*spec.terrain, spec.changes.get(), dice);
        std::vector<ChunkPos> order = chunksOf(region);
        std::shuffle(order.begin(), order.end(), dice);
        const std::size_t threads = 1 + dice() % 4;
        const auto made = madeTogether(region, order, threads, spec);
        for (const ChunkPos chunk : chunksOf(region)) {
            if (stop.stop_requested()) {
                row.stopped = true;
                return row;
            }
            ++row.cases;
            const std::uint64_t alone = digestOf(madeAlone(region, chunk, spec.changes.get()));
            if (made.at(chunk) != alone && row.differences++ == 0)
                row.first = nameOf(chunk, region) + ", made on " + std::to_string(threads)
                    + " threads, differs from the chunk generated alone";
        }
        if (spec.progress)
            spec.progress(std::min(1.0, static_cast<double>(row.cases) / static_cast<double>(spec.cases)));
    }
    return row;
}

} // namespace fell::audit
