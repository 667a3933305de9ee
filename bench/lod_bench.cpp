// SPDX-License-Identifier: Apache-2.0
// What levels of detail save, how it grows, and how much of the picture they change.
#include "flown.h"
#include <fell/demo/demo_folder.h>

#include <fell/measure/pictures.h>
#include <fell/measure/statistics.h>
#include <fell/measure/stopwatch.h>

#include <fell/stream/level_source.h>
#include <fell/terrain/terrain.h>

#include <benchmark/benchmark.h>

#include <cmath>
#include <numeric>

namespace fell::bench {
namespace {

constexpr int kEdge = 32;
constexpr double kAlong = 0.9; // of the route: near the summit, from where one sees far

Setup longView(int metres)
{
    Setup setup = findSetup("long-view", demoFolder() / "setups").take();
    setup.stream.distance = metres / kEdge;
    return setup;
}

Setup oneLevel(int metres)
{
    Setup setup = longView(metres);
    setup.lod.scheme = "off";
    setup.stream.memory = 16384;
    return setup;
}

double bytesOf(const StreamCounts& counts)
{
    return static_cast<double>(counts.voxelBytes + counts.lightBytes + counts.meshBytes);
}

/// The same view 1,024 m far at full detail and in levels. "ratio" is of loaded triangles, "bytes" of voxels, light and
/// meshes, "drawn" of what is drawn.
void offOverRings(benchmark::State& state)
{
    for (auto _ : state) {
        const int metres = isQuick() ? 256 : 1024;
        Flown rings("corrowdale", "beck-to-summit", longView(metres)),
            off("corrowdale", "beck-to-summit", oneLevel(metres));
        if (!rings.isThere() || !off.isThere())
            return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
        const FrameCost few = rings.draw(rings.settleAt(kAlong)), all = off.draw(off.settleAt(kAlong));
        const auto over = [](auto a, auto b) { return static_cast<double>(a) / static_cast<double>(b); };
        state.counters["ratio"] = over(all.loadedTriangles, few.loadedTriangles);
        state.counters["bytes"] = bytesOf(off.counts()) / bytesOf(rings.counts());
        state.counters["drawn"] = over(all.triangles, few.triangles);
    }
}
BENCHMARK(offOverRings)
    ->Name("lod/triangles_off_over_rings/corrowdale-1024m")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);

/// A frame that shows 8,192 m in levels against one that shows 256 m without, in turn. "ratio" is far / near.
void farOverNear(benchmark::State& state)
{
    Flown far("corrowdale", "beck-to-summit", longView(8192)), near("corrowdale", "beck-to-summit", oneLevel(256));
    if (!far.isThere() || !near.isThere())
        return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
    std::vector<double> farMs, nearMs;
    const int views = isQuick() ? 2 : 8;
    for (auto _ : state)
        for (int i = 0; i < views; ++i) {
            const double along = static_cast<double>(i) / (views - 1);
            const Eye farEye = far.settleAt(along), nearEye = near.settleAt(along);
            for (int frame = 0; frame < 4; ++frame) {
                const double a = far.draw(farEye).ms, b = near.draw(nearEye).ms;
                if (frame > 0) { // the first warms up
                    farMs.push_back(a);
                    nearMs.push_back(b);
                }
            }
        }
    const Ratio ratio = ratioOfMedians(farMs, nearMs);
    state.counters["ratio"] = ratio.ratio;
    state.counters["low"] = ratio.low;
    state.counters["high"] = ratio.high;
    state.counters["far_ms"] = percentile(farMs, 50);
    state.counters["near_ms"] = percentile(nearMs, 50);
}
BENCHMARK(farOverNear)->Name("lod/frame_8192m_over_256m_off/corrowdale")->Iterations(1)->Unit(benchmark::kMillisecond);

/// The slope of a straight line through the logarithms.
double slopeOf(const std::vector<double>& xs, const std::vector<double>& ys)
{
    const auto n = static_cast<double>(xs.size());
    double x = 0, y = 0, xx = 0, xy = 0;
    for (std::size_t i = 0; i < xs.size(); ++i) {
        const double a = std::log(xs[i]), b = std::log(ys[i]);
        x += a / n;
        y += b / n;
        xx += a * a / n;
        xy += a * b / n;
    }
    return (xy - x * y) / (xx - x * x);
}

/// How what is held grows with the distance: log-log slopes between 512 and 8,192 m. "ratio" is that of the triangles.
void growth(benchmark::State& state)
{
    for (auto _ : state) {
        std::vector<double> metres, chunks, bytes, triangles;
        for (const int distance : isQuick() ? std::vector{512, 1024} : std::vector{512, 1024, 2048, 4096, 8192}) {
            Flown flown("corrowdale", "beck-to-summit", longView(distance));
            if (!flown.isThere())
                return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
            const FrameCost frame = flown.draw(flown.settleAt(kAlong));
            metres.push_back(distance);
            chunks.push_back(static_cast<double>(flown.counts().resident));
            bytes.push_back(bytesOf(flown.counts()));
            triangles.push_back(static_cast<double>(frame.loadedTriangles));
        }
        state.counters["ratio"] = slopeOf(metres, triangles);
        state.counters["bytes"] = slopeOf(metres, bytes);
        state.counters["chunks"] = slopeOf(metres, chunks);
        state.counters["triangles_8192m"] = triangles.back();
    }
}
BENCHMARK(growth)->Name("lod/slope_512m_to_8192m/corrowdale")->Iterations(1)->Unit(benchmark::kMillisecond);

/// Ten views 512 m far with this error in pixels against full detail: "ratio" is the mean difference of a
/// channel, of 255; "most" that of the worst view.
void fidelity(benchmark::State& state, double pixels)
{
    const int views = isQuick() ? 2 : 10, metres = isQuick() ? 128 : 512;
    Setup error = longView(metres);
    error.lod.scheme = "error";
    error.lod.error = pixels;
    Flown levels("corrowdale", "beck-to-summit", error, 1280, 800),
        full("corrowdale", "beck-to-summit", oneLevel(metres), 1280, 800);
    if (!levels.isThere() || !full.isThere())
        return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
    std::vector<double> differences;
    double triangles = 0, fullTriangles = 0;
    for (auto _ : state)
        for (int i = 0; i < views; ++i) {
            const double along = static_cast<double>(i) / (views - 1);
            triangles += static_cast<double>(levels.draw(levels.settleAt(along)).loadedTriangles);
            const auto a = levels.pixels();
            fullTriangles += static_cast<double>(full.draw(full.settleAt(along)).loadedTriangles);
            const auto b = full.pixels();
            differences.push_back(differenceOf(a, b));
        }
    state.counters["ratio"] = std::accumulate(differences.begin(), differences.end(), 0.0) / views;
    state.counters["most"] = *std::max_element(differences.begin(), differences.end());
    state.counters["triangles"] = fullTriangles / triangles;
}
BENCHMARK_CAPTURE(fidelity, one, 1)
    ->Name("lod/difference_of_255/corrowdale-512m")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(fidelity, four, 4)
    ->Name("lod/difference_of_255_4px/corrowdale-512m")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);

/// Does a ring stand out where the level changes? Ten views 512 m far in rings against full detail, where both show
/// ground. "ratio" is how much brighter or darker, of 255, the pixels are along the lines where levels meet, in the
/// worst view; "mean" over all views; "levels" the worst of whole levels; "pixels" how many lie along such lines.
void ringBrightness(benchmark::State& state)
{
    const int views = isQuick() ? 2 : 10, metres = isQuick() ? 256 : 512;
    Flown levels("corrowdale", "beck-to-summit", longView(metres), 1280, 800),
        full("corrowdale", "beck-to-summit", oneLevel(metres), 1280, 800);
    if (!levels.isThere() || !full.isThere())
        return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
    double borders = 0, whole = 0, pixels = 0, sum = 0;
    for (auto _ : state)
        for (int i = 0; i < views; ++i) {
            const double along = static_cast<double>(i) / (views - 1);
            const Eye eye = levels.settleAt(along);
            (void)levels.draw(eye);
            const auto a = levels.pixels();
            auto seen = levels.levelsSeen(eye);
            (void)full.draw(full.settleAt(along));
            const auto b = full.pixels();
            const auto seenFull = full.levelsSeen(eye);
            for (std::size_t p = 0; p < seen.size(); ++p) // outlines before the sky are no matter of light
                seen[p] = seenFull[p] == kNoLevel ? kNoLevel : seen[p];
            const auto found = brightnessByLevel(a, b, seen, levels.width());
            borders = std::max(borders, std::abs(found.borders.by));
            pixels += static_cast<double>(found.borders.pixels) / views;
            sum += found.borders.by * static_cast<double>(found.borders.pixels) / views;
            for (const Brighter& level : found.levels)
                if (level.pixels > 1000) // fewer are single things, not a ring
                    whole = std::max(whole, std::abs(level.by));
        }
    state.counters["ratio"] = borders;
    state.counters["mean"] = sum / std::max(1.0, pixels);
    state.counters["levels"] = whole;
    state.counters["pixels"] = pixels;
}
BENCHMARK(ringBrightness)
    ->Name("lod/ring_brightness_of_255/corrowdale-512m")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);

/// A chunk of level 3 reduced from the finer voxels against the same generated at its own step, over ground near the
/// summit. "ratio" is reduced / generated.
void reducedOverGenerated(benchmark::State& state)
{
    const auto recipe = findWorld("corrowdale", demoFolder());
    if (!recipe)
        return state.SkipWithError("Corrowdale was not found");
    const auto terrain = makeTerrain(recipe.value());
    const Generator& generator = *findGenerator("blocks");
    const SideRules rules = sideRulesOf(terrain->recipe.blocks);
    constexpr int kLevel = 3;
    std::vector<std::unique_ptr<LevelSource>> finer;
    finer.push_back(std::make_unique<LevelSource>(terrain, generator, kEdge, 4096));
    for (int level = 1; level <= kLevel; ++level)
        finer.push_back(std::make_unique<LevelSource>(*finer.back(), rules));
    std::vector<double> reduced, generated;
    const int chunks = isQuick() ? 1 : 6;
    for (auto _ : state)
        for (int i = 0; i < chunks; ++i) {
            LevelSource direct(coarserTerrain(*terrain, kLevel), generator, kEdge, 4096); // nothing is remembered
            const ChunkPos chunk{i, chunkOf({0, *direct.top(i, 0) - 1, 0}, kEdge).y, 0, kLevel};
            const auto timed
                = [&chunk](LevelSource& source) { return nsOf([&] { doNotOptimize(source.voxels(chunk)); }); };
            LevelSource again(coarserTerrain(*terrain, kLevel), generator, kEdge, 4096);
            generated.push_back(timed(again));
            reduced.push_back(timed(*finer.back()));
        }
    const Ratio ratio = ratioOfMedians(reduced, generated);
    state.counters["ratio"] = ratio.ratio;
    state.counters["low"] = ratio.low;
    state.counters["high"] = ratio.high;
}
BENCHMARK(reducedOverGenerated)
    ->Name("lod/reduced_over_generated/level-3")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
