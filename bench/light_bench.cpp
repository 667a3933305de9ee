// SPDX-License-Identifier: Apache-2.0
// Light against its plain twin: one queue of coordinates a channel, the chunk looked up for each voxel.
#include "in_turn.h"
#include <fell/demo/demo_folder.h>

#include <fell/audit/plain_light.h>
#include <fell/measure/light_trial.h>

namespace fell::bench {
namespace {

/// 8 x 8 x 4 chunks of edge 32 around the ground of Corrowdale, with 500 lamps.
const LightRegion& region()
{
    static const LightRegion made = [] {
        const auto terrain = makeTerrain(findWorld("corrowdale", demoFolder()).take());
        return makeLightRegion(*terrain, *findGenerator("blocks"), {});
    }();
    return made;
}

LightRules rulesOf(const char* mode)
{
    return lightRulesOf(region().blocks, *findLightMode(mode));
}

ChunkPos chunkAt(std::size_t index)
{
    const auto i = static_cast<std::int64_t>(index);
    const std::int64_t nx = region().size[0], nz = region().size[2];
    return region().low + ChunkPos{i % nx, i / nx / nz, i / nx % nz};
}

PlainLight plainRegion(const LightRules& rules)
{
    PlainLight plain(rules, region().edge);
    for (std::size_t i = 0; i < region().chunks.size(); ++i)
        plain.put(chunkAt(i), region().chunks[i].voxels());
    return plain;
}

/// Do all levels agree, voxel by voxel?
template <typename LevelOf> bool agrees(const PlainLight& plain, int channels, const LevelOf& levelOf)
{
    const int edge = region().edge;
    for (std::size_t i = 0; i < region().chunks.size(); ++i) {
        const VoxelPos origin = originOf(chunkAt(i), edge);
        for (int v = 0; v < edge * edge * edge; ++v)
            for (int c = 0; c < channels; ++c)
                if (plain.level(origin + VoxelPos{v % edge, v / edge / edge, v / edge % edge}, c)
                    != levelOf(i, static_cast<std::size_t>(v), c))
                    return false;
    }
    return true;
}

/// "ratio" is the plain flood's time over ours, from voxels to levels, in three lamp colours and one sky channel.
void plainOverFlood(benchmark::State& state)
{
    const LightRules rules = rulesOf("colour");
    PlainLight plain = plainRegion(rules);
    plain.flood();
    FloodScratch scratch;
    const auto lights = lightOfRegion(region(), rules, scratch);
    if (!agrees(plain, rules.mode->channels(),
            [&](std::size_t chunk, std::size_t voxel, int c) { return lights[chunk].at(c, voxel); }))
        return state.SkipWithError("the two ways give different levels");
    compareInTurn(
        state, 1, [&](std::size_t) { plain.flood(); },
        [&](std::size_t) { benchmark::DoNotOptimize(lightOfRegion(region(), rules, scratch)); });
}
BENCHMARK(plainOverFlood)->Name("light/plain_over_flood/corrowdale")->UseRealTime()->MinTime(atLeast(6));

/// "ratio" is the time of `more` channels over that of `fewer`.
void modeOverMode(benchmark::State& state, const char* more, const char* fewer)
{
    FloodScratch scratch;
    const LightRules a = rulesOf(more), b = rulesOf(fewer);
    compareInTurn(
        state, 1, [&](std::size_t) { benchmark::DoNotOptimize(lightOfRegion(region(), a, scratch)); },
        [&](std::size_t) { benchmark::DoNotOptimize(lightOfRegion(region(), b, scratch)); });
}
BENCHMARK_CAPTURE(modeOverMode, colours, "colour", "lamp-sky")
    ->Name("light/three_colours_over_one/corrowdale")
    ->UseRealTime();
BENCHMARK_CAPTURE(modeOverMode, sky, "colour-sky", "colour")
    ->Name("light/coloured_sky_over_plain_sky/corrowdale")
    ->UseRealTime();

/// "ratio" is the plain twin's time over ours for one lamp removed and put back, in three colours and sky.
void plainOverLampEdit(benchmark::State& state)
{
    const LightRules rules = rulesOf("colour");
    PlainLight plain = plainRegion(rules);
    plain.flood();
    LightWorld world = worldOfRegion(region(), rules);
    const auto lampEdit = [&](auto& light, std::size_t i) {
        light.edit(region().lamps[i], kOpen);
        light.edit(region().lamps[i], region().lamp);
    };
    const std::size_t lamps = std::min<std::size_t>(region().lamps.size(), 64);
    for (std::size_t i = 0; i < lamps; ++i) { // half way through an edit both must agree too
        plain.edit(region().lamps[i], kOpen);
        world.edit(region().lamps[i], kOpen);
    }
    const auto levelOf
        = [&](std::size_t chunk, std::size_t voxel, int c) { return world.find(chunkAt(chunk))->at(c, voxel); };
    bool same = agrees(plain, rules.mode->channels(), levelOf);
    for (std::size_t i = 0; i < lamps; ++i) {
        plain.edit(region().lamps[i], region().lamp);
        world.edit(region().lamps[i], region().lamp);
    }
    same = same && agrees(plain, rules.mode->channels(), levelOf);
    if (!same)
        return state.SkipWithError("the two ways give different levels");
    compareInTurn(
        state, lamps, [&](std::size_t i) { lampEdit(plain, i); }, [&](std::size_t i) { lampEdit(world, i); });
}
BENCHMARK(plainOverLampEdit)->Name("light/plain_over_lamp_edit/corrowdale")->UseRealTime();

/// "ratio" is the cost of an opaque block placed next to a lamp and removed over that of the lamp itself.
void blockOverLampEdit(benchmark::State& state)
{
    const LightRules rules = rulesOf("colour");
    LightWorld world = worldOfRegion(region(), rules);
    const std::vector<VoxelPos> nextToLamps = besideLamps(region());
    const std::uint64_t before = world.digest();
    const auto edit = [&](VoxelPos at, Material there, Material back) {
        world.edit(at, there);
        world.edit(at, back);
    };
    compareInTurn(
        state, std::min(nextToLamps.size(), region().lamps.size()),
        [&](std::size_t i) { edit(nextToLamps[i], region().solid, kOpen); },
        [&](std::size_t i) { edit(region().lamps[i], kOpen, region().lamp); });
    if (world.digest() != before)
        state.SkipWithError("the edits have left something behind");
}
BENCHMARK(blockOverLampEdit)->Name("light/block_edit_over_lamp_edit/corrowdale")->UseRealTime();

} // namespace
} // namespace fell::bench
