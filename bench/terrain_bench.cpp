// SPDX-License-Identifier: Apache-2.0
#include "in_turn.h"
#include "plain_noise.h"
#include <fell/demo/demo_folder.h>
#include <fell/terrain/generate.h>
#include <fell/terrain/recipe_map.h>

#include <cmath>

namespace fell::bench {
namespace {

constexpr int kChunkEdge = 32;

/// One octave over a block of 32^3 voxels at a feature size of 16, against the plain way.
void noiseBlockOverPlain(benchmark::State& state, double feature)
{
    const Noise noise = makeNoise({.featureSize = feature, .octaves = 1, .seed = 11});
    const LatticeHash hash = makeLatticeHash(11);
    const SampleBox box{{3, 5, 7}, kChunkEdge, kChunkEdge, kChunkEdge};
    NoiseScratch scratch;
    std::vector<float> fast(box.count()), plain(box.count());
    const auto step = static_cast<float>(1 / feature);
    const auto runPlain = [&](std::size_t) {
        std::size_t at = 0;
        for (int y = 0; y < kChunkEdge; ++y)
            for (int z = 0; z < kChunkEdge; ++z)
                for (int x = 0; x < kChunkEdge; ++x)
                    plain[at++] = plainNoise(hash, static_cast<float>(x + 3) * step, static_cast<float>(y + 5) * step,
                        static_cast<float>(z + 7) * step);
        benchmark::DoNotOptimize(plain.data());
    };
    const auto runFast = [&](std::size_t) {
        noiseBlock(noise, box, scratch, fast);
        benchmark::DoNotOptimize(fast.data());
    };
    runPlain(0);
    runFast(0);
    for (std::size_t i = 0; i < fast.size(); ++i)
        if (std::abs(fast[i] - plain[i]) > 1e-5f)
            return state.SkipWithError("the two ways disagree by more than 1e-5");
    compareInTurn(state, 1, runPlain, runFast);
    state.counters["fast_Msamples_s"] = static_cast<double>(box.count()) / state.counters["fast_us"];
}
BENCHMARK_CAPTURE(noiseBlockOverPlain, feature16, 16.0)
    ->Name("terrain/noise_block_over_plain/feature16")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(noiseBlockOverPlain, feature8, 8.0)
    ->Name("terrain/noise_block_over_plain/feature8")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(noiseBlockOverPlain, feature64, 64.0)
    ->Name("terrain/noise_block_over_plain/feature64")
    ->Unit(benchmark::kMillisecond);

/// Chunks that hold the surface of Corrowdale near the tarn: what a viewer meets first.
std::vector<ChunkPos> surfaceOfCorrowdale(const Terrain& terrain, std::size_t count)
{
    std::vector<ChunkPos> chunks;
    for (std::int64_t ring = 0; chunks.size() < count; ++ring)
        for (std::int64_t z = -ring; z <= ring; ++z)
            for (std::int64_t x = -ring; x <= ring; ++x)
                if (std::max(std::abs(x), std::abs(z)) == ring && chunks.size() < count) {
                    const float ground
                        = groundHeight(terrain, x * kChunkEdge + kChunkEdge / 2, z * kChunkEdge + kChunkEdge / 2);
                    chunks.push_back({x, static_cast<std::int64_t>(std::floor(ground / kChunkEdge)), z});
                }
    return chunks;
}

/// Whole surface chunks with all layers, columns included.
void chunkBlocksOverSamples(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", demoFolder());
    if (!recipe)
        return state.SkipWithError("Corrowdale was not found");
    const auto terrain = makeTerrain(recipe.take());
    const auto chunks = surfaceOfCorrowdale(*terrain, 25);
    const Generator &samples = *findGenerator("samples"), &blocks = *findGenerator("blocks");
    for (const ChunkPos chunk : chunks)
        if (digestOf(generateChunk(samples, *terrain, chunk, kChunkEdge))
            != digestOf(generateChunk(blocks, *terrain, chunk, kChunkEdge)))
            return state.SkipWithError("the two ways disagree");
    compareInTurn(
        state, chunks.size(),
        [&](std::size_t i) { benchmark::DoNotOptimize(generateChunk(samples, *terrain, chunks[i], kChunkEdge)); },
        [&](std::size_t i) { benchmark::DoNotOptimize(generateChunk(blocks, *terrain, chunks[i], kChunkEdge)); });
}
BENCHMARK(chunkBlocksOverSamples)->Name("terrain/chunk_blocks_over_samples/corrowdale")->Unit(benchmark::kMillisecond);

constexpr std::int64_t kBedrock = -2, kSummit = 9; // chunks of Corrowdale, both inside

template <typename Visit>
void wholeColumn(const Generator& generator, const Terrain& terrain, ChunkPos at, const Visit& visit)
{
    const ColumnPatch columns = generator.columns(terrain, at.x * kChunkEdge, at.z * kChunkEdge, kChunkEdge);
    for (std::int64_t y = kBedrock; y <= kSummit; ++y)
        visit(generator.voxels(terrain, columns, {at.x, y, at.z}));
}

/// Columns of chunks from the bedrock to above the summit, scatter included.
/// "features_share": of the fast way's time, what trees, blocks, walls and tracks are of it.
void columnBlocksOverSamples(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", demoFolder());
    if (!recipe)
        return state.SkipWithError("Corrowdale was not found");
    const Recipe whole = recipe.take();
    Recipe bare = whole;
    bare.features.clear();
    std::erase_if(bare.landforms,
        [](const Landform& form) { return form.kind == Landform::Kind::Wall || form.kind == Landform::Kind::Track; });
    const auto terrain = makeTerrain(whole), without = makeTerrain(bare);
    const auto places = surfaceOfCorrowdale(*terrain, 25);
    const Generator &samples = *findGenerator("samples"), &blocks = *findGenerator("blocks");
    for (const ChunkPos place : places) {
        std::uint64_t one = 0, two = 0;
        wholeColumn(samples, *terrain, place, [&one](const VoxelChunk& chunk) { one = mix64(one + digestOf(chunk)); });
        wholeColumn(blocks, *terrain, place, [&two](const VoxelChunk& chunk) { two = mix64(two + digestOf(chunk)); });
        if (one != two)
            return state.SkipWithError("the two ways disagree");
    }
    const auto run = [&](const Generator& generator, const Terrain& of, std::size_t i) {
        wholeColumn(generator, of, places[i], [](const VoxelChunk& chunk) { benchmark::DoNotOptimize(&chunk); });
    };
    compareInTurn(
        state, places.size(), [&](std::size_t i) { run(samples, *terrain, i); },
        [&](std::size_t i) { run(blocks, *terrain, i); });
    std::vector<double> with, bareTimes;
    for (int round = 0; round < 8; ++round)
        for (std::size_t i = 0; i < places.size(); ++i) {
            with.push_back(secondsFor([&] { run(blocks, *terrain, i); }));
            bareTimes.push_back(secondsFor([&] { run(blocks, *without, i); }));
        }
    state.counters["features_share"] = 1 - ratioOfMedians(bareTimes, with).ratio;
}
BENCHMARK(columnBlocksOverSamples)
    ->Name("terrain/column_blocks_over_samples/corrowdale")
    ->Unit(benchmark::kMillisecond);

/// From a changed number to the map of 512 x 512 pixels and the section, as the Recipe view makes them: "p95_ms".
/// "ratio": the same map with each pixel's column sampled alone, over it.
void previewOverSamples(benchmark::State& state)
{
    auto found = findWorld("corrowdale", demoFolder());
    if (!found)
        return state.SkipWithError("Corrowdale was not found");
    Recipe recipe = found.take();
    const MapSpec spec{512, 512, 4, {}};
    std::vector<double> times, plain;
    for (auto _ : state) {
        recipe.layers[0].amplitude += 0.25;
        TerrainMap map;
        times.push_back(secondsFor([&] {
            const auto terrain = makeTerrain(recipe);
            map = mapOf(*terrain, spec);
            benchmark::DoNotOptimize(sectionOf(*terrain, {{-900, 300}, {900, -200}, 256, 64}));
        }) * 1e3);
        if (plain.size() >= 3)
            continue;
        const auto coarse = coarserTerrain(*makeTerrain(recipe), 2);
        std::size_t wrong = 0;
        plain.push_back(secondsFor([&] {
            for (int y = 0; y < 512; ++y)
                for (int x = 0; x < 512; ++x) {
                    const auto voxel = [](int pixel) { return static_cast<std::int64_t>(std::floor(pixel - 255.5)); };
                    const ColumnSample column = columnAt(*coarse, voxel(x), voxel(y));
                    wrong += map.heights[static_cast<std::size_t>(y * 512 + x)] != column.height * 4;
                }
        }) * 1e3);
        if (wrong > 0)
            return state.SkipWithError("the map is not the ground");
    }
    std::vector<double> rough; // what a drag shows
    for (int i = 0; i < (atLeast(2) > 1 ? 40 : 2); ++i) {
        recipe.layers[0].amplitude += 0.25;
        const auto once = [&](const MapSpec& of) {
            return 1e3 * secondsFor([&] {
                const auto terrain = makeTerrain(recipe);
                benchmark::DoNotOptimize(mapOf(*terrain, of));
                benchmark::DoNotOptimize(sectionOf(*terrain, {{-900, 300}, {900, -200}, 256, 64}));
            });
        };
        times.push_back(once(spec));
        rough.push_back(once({256, 256, 8, {}}));
    }
    state.counters["p95_ms"] = percentile(times, 95);
    state.counters["p50_ms"] = percentile(times, 50);
    state.counters["dragged_updates_per_s"] = 1e3 / percentile(rough, 50);
    state.counters["ratio"] = percentile(plain, 50) / percentile(times, 50);
}
BENCHMARK(previewOverSamples)
    ->Name("terrain/preview_over_samples/corrowdale")
    ->Unit(benchmark::kMillisecond)
    ->Iterations(3);

} // namespace
} // namespace fell::bench
