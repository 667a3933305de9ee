// SPDX-License-Identifier: Apache-2.0
#include "in_turn.h"
#include "plain_noise.h"
#include "terrain/generate.h"

#include <cmath>

namespace fell::bench {
namespace {

constexpr int kEdge = 32;

/// One octave over a block of 32^3 voxels at a feature size of 16, against the plain way.
void noiseBlockOverPlain(benchmark::State& state, double feature)
{
    const Noise noise = makeNoise({.featureSize = feature, .octaves = 1, .seed = 11});
    const LatticeHash hash = makeLatticeHash(11);
    const SampleBox box{{3, 5, 7}, kEdge, kEdge, kEdge};
    NoiseScratch scratch;
    std::vector<float> fast(box.count()), plain(box.count());
    const auto step = static_cast<float>(1 / feature);
    const auto runPlain = [&](std::size_t) {
        std::size_t at = 0;
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z)
                for (int x = 0; x < kEdge; ++x)
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
                    const float ground = groundHeight(terrain, x * kEdge + kEdge / 2, z * kEdge + kEdge / 2);
                    chunks.push_back({x, static_cast<std::int64_t>(std::floor(ground / kEdge)), z});
                }
    return chunks;
}

/// Whole surface chunks with all layers, columns included.
void chunkBlocksOverSamples(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", FELL_DEMO_DIR);
    if (!recipe)
        return state.SkipWithError("Corrowdale was not found");
    const auto terrain = makeTerrain(recipe.take());
    const auto chunks = surfaceOfCorrowdale(*terrain, 25);
    const Generator &samples = *findGenerator("samples"), &blocks = *findGenerator("blocks");
    for (const ChunkPos chunk : chunks)
        if (digestOf(generateChunk(samples, *terrain, chunk, kEdge))
            != digestOf(generateChunk(blocks, *terrain, chunk, kEdge)))
            return state.SkipWithError("the two ways disagree");
    compareInTurn(
        state, chunks.size(),
        [&](std::size_t i) { benchmark::DoNotOptimize(generateChunk(samples, *terrain, chunks[i], kEdge)); },
        [&](std::size_t i) { benchmark::DoNotOptimize(generateChunk(blocks, *terrain, chunks[i], kEdge)); });
}
BENCHMARK(chunkBlocksOverSamples)->Name("terrain/chunk_blocks_over_samples/corrowdale")->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
