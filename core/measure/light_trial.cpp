// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/light_trial.h>

#include <fell/measure/stopwatch.h>
#include <fell/stream/level_source.h>

#include <algorithm>
#include <random>

namespace fell::measure {
namespace {

constexpr int kEdits = 64; // of each kind

Material lampOf(BlockSet& blocks)
{
    // A cube, so that no model decides which light passes.
    for (std::size_t m = 1; m < blocks.kinds.size(); ++m)
        if (!blocks.kinds[m].shape && blocks.kinds[m].light.emission != std::array<std::uint8_t, 3>{})
            return static_cast<Material>(m);
    BlockKind kind;
    kind.name = "lamp";
    kind.matter = Matter::SeeThrough;
    kind.light = {1, {}, {15, 13, 10}};
    blocks.kinds.push_back(kind);
    return static_cast<Material>(blocks.kinds.size() - 1);
}

struct Place {
    std::size_t chunk;
    std::size_t voxel;
    VoxelPos at;
};

/// Open voxels that stand on something; what lies below the region is not looked at.
std::vector<Place> placesOn(const LightRegion& region)
{
    std::vector<Place> places;
    const int edge = region.edge;
    const auto layer = static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge);
    const std::int64_t nx = region.size[0], nz = region.size[2];
    const auto below = static_cast<std::size_t>(nx * nz); // chunks
    std::vector<Material> voxels, under(layer);
    for (std::size_t i = 0; i < region.chunks.size(); ++i) {
        const VoxelChunk& chunk = region.chunks[i];
        const bool isOnChunk
            = i >= below && !(region.chunks[i - below].isUniform() && region.chunks[i - below].uniform() == kOpen);
        if (chunk.isUniform() && !(chunk.uniform() == kOpen && isOnChunk))
            continue;
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                under[static_cast<std::size_t>(z * edge + x)]
                    = isOnChunk ? region.chunks[i - below].at(x, edge - 1, z) : kOpen;
        const auto c = static_cast<std::int64_t>(i);
        const VoxelPos origin = originOf(region.low + ChunkPos{c % nx, c / nx / nz, c / nx % nz}, edge);
        voxels = chunk.voxels();
        for (std::size_t v = 0; v < voxels.size(); ++v)
            if (voxels[v] == kOpen && isStoodOn(region.blocks.kinds[v < layer ? under[v] : voxels[v - layer]])) {
                const auto at = static_cast<std::int64_t>(v);
                places.push_back({i, v, origin + VoxelPos{at % edge, at / edge / edge, at / edge % edge}});
            }
    }
    return places;
}

std::uint64_t levelsSet(const std::vector<ChunkLight>& lights)
{
    std::uint64_t sum = 0;
    for (const ChunkLight& light : lights)
        for (int c = 0; c < light.channels; ++c)
            sum += litVoxels(light.of[static_cast<std::size_t>(c)], light.edge);
    return sum;
}

std::vector<SkyHeightMap> floorsOf(const LightRegion& region, const std::vector<Transmission>& passes)
{
    std::vector<SkyHeightMap> floors;
    const int top = region.size[1];
    for (int z = 0; z < region.size[2]; ++z)
        for (int x = 0; x < region.size[0]; ++x) {
            SkyHeightMap floor = skyFloor(region.edge, (region.low.y + top) * region.edge);
            for (int y = top - 1; y >= 0; --y)
                if (!carveThrough(floor,
                        passes[static_cast<std::size_t>((y * region.size[2] + z) * region.size[0] + x)],
                        (region.low.y + y) * region.edge))
                    break;
            floors.push_back(std::move(floor));
        }
    return floors;
}

std::vector<Transmission> passesOfAll(const LightRegion& region, const LightRules& rules)
{
    std::vector<Transmission> passes;
    passes.reserve(region.chunks.size());
    for (const VoxelChunk& chunk : region.chunks)
        passes.push_back(transmissionOf(chunk, rules));
    return passes;
}

/// Medians, in microseconds, of changing voxels to a material and back.
struct EditTimes {
    double there = 0, back = 0;
};

EditTimes timeEdits(LightWorld& world, const std::vector<VoxelPos>& at, Material to, Material before)
{
    std::vector<double> there, back;
    for (const VoxelPos place : at) {
        there.push_back(nsOf([&] { (void)world.edit(place, to); }) / 1000);
        back.push_back(nsOf([&] { (void)world.edit(place, before); }) / 1000);
    }
    return at.empty() ? EditTimes{} : EditTimes{percentile(there, 50), percentile(back, 50)};
}

Material materialIn(const LightRegion& region, VoxelPos at)
{
    const ChunkPos chunk = chunkOf(at, region.edge), in = chunk - region.low;
    if (in.x < 0 || in.y < 0 || in.z < 0 || in.x >= region.size[0] || in.y >= region.size[1] || in.z >= region.size[2])
        return kOpen;
    const VoxelPos v = at - originOf(chunk, region.edge);
    return region.chunks[static_cast<std::size_t>((in.y * region.size[2] + in.z) * region.size[0] + in.x)].at(
        static_cast<int>(v.x), static_cast<int>(v.y), static_cast<int>(v.z));
}

} // namespace

std::vector<VoxelPos> besideLamps(const LightRegion& region)
{
    std::vector<VoxelPos> out;
    for (const VoxelPos lamp : region.lamps)
        for (const Side side : {Side::Up, Side::East, Side::West, Side::South, Side::North}) {
            const ChunkPos to = stepOf(side);
            const VoxelPos at = lamp + VoxelPos{to.x, to.y, to.z};
            if (out.size() < kEdits && materialIn(region, at) == kOpen) {
                out.push_back(at);
                break;
            }
        }
    return out;
}

LightRegion makeLightRegion(const Terrain& terrain, const Generator& generator, const LightRegionSpec& spec,
    const std::stop_token& stop, const WorldChanges* changes)
{
    LightRegion region;
    region.edge = spec.edge;
    region.size = spec.size;
    region.blocks = terrain.recipe.blocks;
    region.lamp = lampOf(region.blocks);
    region.solid = 1;
    region.low = chunkOf(middleOfInterest(terrain, changes), spec.edge)
        - ChunkPos{spec.size[0] / 2, spec.size[1] / 2, spec.size[2] / 2};
    const auto columns = static_cast<std::size_t>(spec.size[0]) * static_cast<std::size_t>(spec.size[2]);
    LevelSource source(
        std::shared_ptr<const Terrain>(std::shared_ptr<void>(), &terrain), generator, spec.edge, columns, changes);
    for (int y = 0; y < spec.size[1]; ++y)
        for (int z = 0; z < spec.size[2]; ++z)
            for (int x = 0; x < spec.size[0] && !stop.stop_requested(); ++x)
                region.chunks.push_back(source.voxels(region.low + ChunkPos{x, y, z}));
    if (stop.stop_requested())
        return region;
    std::vector<Place> places = placesOn(region);
    std::mt19937_64 dice(spec.seed);
    std::shuffle(places.begin(), places.end(), dice);
    const std::size_t lamps = std::min<std::size_t>(places.size(), static_cast<std::size_t>(spec.lamps));
    std::vector<Material> voxels;
    std::sort(places.begin(), places.begin() + static_cast<std::ptrdiff_t>(lamps),
        [](const Place& a, const Place& b) { return a.chunk < b.chunk; });
    for (std::size_t i = 0; i < lamps; ++i) {
        if (i == 0 || places[i].chunk != places[i - 1].chunk)
            voxels = region.chunks[places[i].chunk].voxels();
        voxels[places[i].voxel] = region.lamp;
        region.lamps.push_back(places[i].at);
        if (i + 1 == lamps || places[i + 1].chunk != places[i].chunk)
            region.chunks[places[i].chunk] = VoxelChunk(spec.edge, std::move(voxels));
    }
    for (std::size_t i = lamps; i < std::min(places.size(), lamps + kEdits); ++i)
        region.spare.push_back(places[i].at);
    return region;
}

std::vector<ChunkLight> lightOfRegion(const LightRegion& region, const LightRules& rules, FloodScratch& scratch)
{
    const std::vector<Transmission> passes = passesOfAll(region, rules);
    const std::vector<SkyHeightMap> floors = floorsOf(region, passes);
    LightBlock block{&rules, region.edge, region.size, {}, {}, region.low.y * region.edge};
    for (const Transmission& one : passes)
        block.passes.push_back(&one);
    for (const SkyHeightMap& floor : floors)
        block.floors.push_back(&floor);
    return floodBlock(block, scratch);
}

LightWorld worldOfRegion(const LightRegion& region, const LightRules& rules)
{
    auto floors = std::make_shared<std::vector<SkyHeightMap>>(floorsOf(region, passesOfAll(region, rules)));
    const auto floorOf
        = [floors, low = region.low, size = region.size, edge = region.edge](std::int64_t x, std::int64_t z) {
              const std::int64_t ix = x - low.x, iz = z - low.z;
              const bool inside = ix >= 0 && iz >= 0 && ix < size[0] && iz < size[2];
              return inside ? (*floors)[static_cast<std::size_t>(iz * size[0] + ix)] : skyFloor(edge, INT64_MAX);
          };
    LightWorld world(rules, region.edge, floorOf, LightWorld::Publish::Immediately);
    std::vector<std::pair<ChunkPos, const VoxelChunk*>> all;
    for (std::size_t i = 0; i < region.chunks.size(); ++i) {
        const auto c = static_cast<std::int64_t>(i);
        const std::int64_t nx = region.size[0], nz = region.size[2];
        all.push_back({region.low + ChunkPos{c % nx, c / nx / nz, c / nx % nz}, &region.chunks[i]});
    }
    world.putAll(all);
    return world;
}

std::uint64_t digestOf(const std::vector<ChunkLight>& lights)
{
    std::uint64_t sum = lights.size();
    for (const ChunkLight& light : lights)
        sum = mix64(sum ^ digestOf(light));
    return sum;
}

LightTrial runLightTrial(
    const LightRegion& region, const std::vector<const LightMode*>& modes, int repeat, const std::stop_token& stop)
{
    LightTrial trial;
    trial.edge = region.edge;
    std::vector<LightRules> rules;
    for (const LightMode* mode : modes)
        rules.push_back(lightRulesOf(region.blocks, *mode));
    FloodScratch scratch;
    std::vector<std::vector<double>> ms(modes.size());
    trial.rows.resize(modes.size());
    for (int round = -1; round < repeat; ++round) // the first is for warming up
        for (std::size_t m = 0; m < modes.size(); ++m) {
            if (stop.stop_requested()) {
                trial.stopped = true;
                return trial;
            }
            std::vector<ChunkLight> lights;
            const double took = nsOf([&] { lights = lightOfRegion(region, rules[m], scratch); });
            if (round >= 0) {
                ms[m].push_back(took / 1e6);
                continue;
            }
            LightTrialRow& row = trial.rows[m];
            row.digest = digestOf(lights);
            row.updatesPerS = static_cast<double>(levelsSet(lights));
            std::size_t bytes = 0;
            for (const ChunkLight& light : lights)
                bytes += light.bytes();
            row.bytesPerVoxel
                = modes[m]->channels() == 0 ? 0 : static_cast<double>(bytes) / static_cast<double>(region.voxels());
        }
    for (std::size_t m = 0; m < modes.size(); ++m) {
        LightTrialRow& row = trial.rows[m];
        row.mode = modes[m]->id;
        row.voxels = region.voxels();
        row.lamps = region.lamps.size();
        row.floodMs = percentilesOf(ms[m]);
        row.updatesPerS = row.floodMs.p50 > 0 ? row.updatesPerS / (row.floodMs.p50 / 1000) : 0;
        LightWorld world = worldOfRegion(region, rules[m]);
        const EditTimes lamps = timeEdits(world, region.spare, region.lamp, kOpen);
        row.lampOnUs = lamps.there;
        row.lampOffUs = lamps.back;
        const std::vector<VoxelPos> nextToLamps = besideLamps(region);
        const EditTimes blocks = timeEdits(world, nextToLamps, region.solid, kOpen);
        row.blockPlacedUs = blocks.there;
        row.blockRemovedUs = blocks.back;
    }
    return trial;
}

} // namespace fell::measure
