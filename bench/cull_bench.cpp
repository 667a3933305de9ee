// SPDX-License-Identifier: Apache-2.0
// What culling saves, and what it costs.
#include "flown.h"
#include "in_turn.h"
#include <fell/demo/demo_folder.h>

#include <fell/cull/scene.h>
#include <fell/measure/cull_trial.h>

namespace fell::bench {
namespace {

Eye eyeTowards(std::size_t i)
{
    Eye eye{{static_cast<std::int64_t>(i * 7 % 32), static_cast<std::int64_t>(i * 5 % 32), 11}, glm::dvec3(0.5),
        static_cast<double>(i * 37 % 360), static_cast<double>(i * 23 % 121) - 60};
    return eye;
}

/// Planes against every chunk of a full block of chunks, and walked down the octree: the same chunks, in turn.
void octreeOverPlanes(benchmark::State& state, int leaf)
{
    constexpr int kReach = 32, kEdge = 32;
    CullScene scene;
    scene.clear({{}, "sphere", leaf, "chunk", "both"}, kEdge, kReach);
    for (int y = -kReach; y <= kReach; ++y)
        for (int z = -kReach; z <= kReach; ++z)
            for (int x = -kReach; x <= kReach; ++x)
                scene.add({x, y, z}, kAllSides);
    constexpr std::size_t kViews = 40;
    std::vector<CullView> views;
    for (std::size_t i = 0; i < kViews; ++i)
        views.push_back(cullViewOf(eyeTowards(i), lensFor(65, 1.6, kReach * kEdge, kEdge), kEdge, kReach * kEdge));
    const CullStep &planes = *findCullStep("view-planes"), &octree = *findCullStep("octree");
    CullResult plain, fast;
    double kept = 0;
    for (const CullView& view : views) {
        scene.cullBy(planes, view, plain);
        scene.cullBy(octree, view, fast);
        const auto before = [](const KeptChunk& a, const KeptChunk& b) { return a.index < b.index; };
        std::sort(fast.kept.begin(), fast.kept.end(), before);
        if (plain.kept != fast.kept)
            return state.SkipWithError("the two keep different chunks");
        kept += static_cast<double>(plain.kept.size()) / kViews;
    }
    // The steps alone: what is done with the chunks afterwards costs both the same.
    std::vector<std::uint32_t> out;
    const auto& chunks = scene.chunks();
    compareInTurn(
        state, kViews,
        [&](std::size_t i) {
            out.clear();
            for (std::uint32_t c = 0; c < chunks.size(); ++c)
                if (isWithinPlanes(views[i], boxOf(chunks[c], kEdge, views[i].eye)))
                    out.push_back(c);
            benchmark::DoNotOptimize(out.data());
        },
        [&](std::size_t i) {
            out.clear();
            (void)scene.octree().walk(views[i], out);
            benchmark::DoNotOptimize(out.data());
        });
    const OctreeFigures figures = scene.octree().figures();
    state.counters["kept"] = kept;
    state.counters["nodes"] = static_cast<double>(figures.nodes);
    state.counters["bytes"] = static_cast<double>(figures.bytes);
}
BENCHMARK_CAPTURE(octreeOverPlanes, leaf1, 1)
    ->Name("cull/octree_over_planes/full-32")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(octreeOverPlanes, leaf2, 2)
    ->Name("cull/octree_leaf2_over_planes/full-32")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(octreeOverPlanes, leaf4, 4)
    ->Name("cull/octree_leaf4_over_planes/full-32")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);

/// The setup near without light, which decides nothing here.
Setup plainNear(int edge, int distance)
{
    Setup setup = findSetup("near", demoFolder() / "setups").take();
    setup.light.mode = "none";
    setup.chunk.edge = edge;
    setup.stream.distance = distance;
    setup.stream.memory = 8192;
    return setup;
}

const std::vector<std::string> kExact{"octree", "distance", "hidden", "facing"};

/// The triangles sent with all exact steps, of those loaded: medians along the route. "ratio" is sent / loaded.
void sentOfLoaded(benchmark::State& state)
{
    const int views = isQuick() ? 3 : 24;
    Flown flown("corrowdale", "beck-to-summit", plainNear(32, isQuick() ? 4 : 16));
    if (!flown.isThere())
        return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
    std::vector<double> shares, sent, loaded;
    for (auto _ : state)
        for (int i = 0; i < views; ++i) {
            const Eye eye = flown.settleAt(static_cast<double>(i) / (views - 1));
            const FrameCost frame = flown.draw(eye, kExact);
            sent.push_back(static_cast<double>(frame.triangles));
            loaded.push_back(static_cast<double>(frame.loadedTriangles));
            shares.push_back(sent.back() / loaded.back());
        }
    state.counters["ratio"] = percentile(shares, 50);
    state.counters["highest"] = *std::max_element(shares.begin(), shares.end());
    state.counters["sent"] = percentile(sent, 50);
    state.counters["loaded"] = percentile(loaded, 50);
}
BENCHMARK(sentOfLoaded)->Name("cull/sent_over_loaded/corrowdale-16")->Iterations(1)->Unit(benchmark::kMillisecond);

/// What the step for hidden chunks rejects of what the planes have kept, so far around the eye. "ratio" is rejected /
/// kept by the planes, the median of the views. Large chunks reach from the gallery to the hillside above it, so more
/// of them are seen.
void hiddenOfPlanes(benchmark::State& state, int edge, int far)
{
    const int views = isQuick() ? 3 : 24, metres = isQuick() ? 128 : far;
    Flown flown("gallery", "gallery", plainNear(edge, metres / edge));
    if (!flown.isThere())
        return state.SkipWithError("the gallery or OpenGL 4.5 was not found");
    std::vector<double> shares;
    double costMs = 0, rejected = 0, kept = 0;
    for (auto _ : state)
        for (int i = 0; i < views; ++i) {
            const FrameCost frame
                = flown.draw(flown.settleAt(static_cast<double>(i) / (views - 1)), {"octree", "hidden"});
            shares.push_back(static_cast<double>(frame.culled[1].rejected) / static_cast<double>(frame.culled[0].kept));
            costMs += static_cast<double>(frame.culled[1].ns) / 1e6 / views;
            rejected += static_cast<double>(frame.culled[1].rejected);
            kept += static_cast<double>(frame.culled[0].kept);
        }
    state.counters["ratio"] = percentile(shares, 50);
    state.counters["lowest"] = *std::min_element(shares.begin(), shares.end());
    state.counters["together"] = rejected / kept; // all views
    state.counters["step_ms"] = costMs;
}
BENCHMARK_CAPTURE(hiddenOfPlanes, small, 16, 512)
    ->Name("cull/hidden_over_kept/gallery")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(hiddenOfPlanes, near, 16, 256)
    ->Name("cull/hidden_over_kept_256m/gallery")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(hiddenOfPlanes, large, 32, 512)
    ->Name("cull/hidden_over_kept_edge32/gallery")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);

/// All culling of a frame against the time that it saves: the same frame with the steps and without. "ratio" is
/// cost / saved.
void costOfSaved(benchmark::State& state, int distance)
{
    Flown flown("corrowdale", "beck-to-summit", plainNear(32, isQuick() ? 4 : distance));
    if (!flown.isThere())
        return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
    const Eye eye = flown.settleAt(0.35);
    constexpr int kRounds = 5;
    std::vector<double> with, without, cost;
    for (auto _ : state)
        for (int i = 0; i <= kRounds; ++i) {
            const FrameCost few = flown.draw(eye, kExact), all = flown.draw(eye, {});
            if (i == 0)
                continue; // warm-up
            with.push_back(few.ms);
            without.push_back(all.ms);
            double ns = 0;
            for (const CullCount& count : few.culled)
                ns += static_cast<double>(count.ns);
            cost.push_back(ns / 1e6);
        }
    state.counters["ratio"] = percentile(cost, 50) / (percentile(without, 50) - percentile(with, 50));
    state.counters["cull_ms"] = percentile(cost, 50);
    state.counters["with_ms"] = percentile(with, 50);
    state.counters["without_ms"] = percentile(without, 50);
}
BENCHMARK_CAPTURE(costOfSaved, far, 32)
    ->Name("cull/cost_over_saved/corrowdale-32")
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
