// SPDX-License-Identifier: Apache-2.0
// What light in the mesh costs: frames, bytes, and an edit that changes light alone.
#include "in_turn.h"
#include <fell/demo/demo_folder.h>

#include <fell/gpu/headless.h>
#include <fell/gpu/render_target.h>
#include <fell/gpu/renderer.h>
#include <fell/light/light_world.h>
#include <fell/measure/light_trial.h>
#include <fell/measure/route.h>

#include <thread>

namespace fell::bench {
namespace {

Setup setupWith(const char* mode, const char* ambientOcclusion, const char* sample = "cells")
{
    Setup setup = findSetup("near", demoFolder() / "setups").take();
    setup.stream.distance = 8;
    setup.light.mode = mode;
    setup.light.sample = sample;
    setup.mesh.ambientOcclusion = ambientOcclusion;
    return setup;
}

/// A part of the route with everything resident, as one setup draws it.
struct Scene {
    std::unique_ptr<Renderer> renderer;
    std::uint64_t meshBytes = 0, meshedSides = 0;
    FrameReport last;
};

Scene sceneOf(const std::shared_ptr<const Terrain>& terrain, const Setup& setup, const Eye& eye)
{
    Scene scene;
    scene.renderer = Renderer::create().take();
    scene.renderer->begin(setup, *terrain);
    Streamer streamer(terrain, setup);
    streamer.moveTo(chunkOf(eye.cell, setup.chunk.edge));
    while (!streamer.settled()) {
        for (const StreamEvent& event : streamer.take(SIZE_MAX)) {
            if (event.kind == StreamEvent::Kind::Upload)
                scene.renderer->upload(event.mesh);
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    scene.meshBytes = streamer.counts().meshBytes;
    return scene;
}

constexpr double kFrom = 0.30, kTo = 0.36; // of the route: all of it stays within what is resident

/// "ratio" is a frame over one that another setup draws of the same chunks, or the bytes of their meshes.
void oneOverOther(benchmark::State& state, const Setup& one, const Setup& other, bool bytes,
    const char* world = "corrowdale", const char* routeName = "beck-to-summit")
{
    auto context = HeadlessContext::create();
    if (!context)
        return state.SkipWithError("no OpenGL 4.5");
    const auto held = context.take();
    const auto terrain = makeTerrain(findWorld(world, demoFolder()).take());
    const Route route = findRoute(routeName, demoFolder() / "routes").take();
    const Eye middle = eyeOn(route, (kFrom + kTo) / 2, *terrain);
    const RenderTarget target(960, 600);
    Scene first = sceneOf(terrain, one, middle), second = sceneOf(terrain, other, middle);
    target.bind();
    constexpr std::size_t kFrames = 16;
    const auto draw = [&](Scene& scene, std::size_t i) {
        const double along = kFrom + (kTo - kFrom) * static_cast<double>(i) / kFrames;
        scene.last = scene.renderer->draw(eyeOn(route, along, *terrain), target.width(), target.height());
    };
    for (const std::size_t i : {std::size_t{0}, kFrames - 1}) {
        draw(first, i);
        draw(second, i);
        if (first.last.chunks != second.last.chunks || first.last.residentChunks != second.last.residentChunks)
            return state.SkipWithError("the two draw other chunks");
    }
    if (bytes) {
        for (auto _ : state)
            benchmark::DoNotOptimize(first.meshBytes);
        state.counters["ratio"] = static_cast<double>(first.meshBytes) / static_cast<double>(second.meshBytes);
        return;
    }
    compareInTurn(
        state, kFrames, [&](std::size_t i) { draw(first, i); }, [&](std::size_t i) { draw(second, i); });
}

/// A lit frame over an unlit one, with corners darkened where `shade` says so.
void bakedOverUnlit(benchmark::State& state, const char* mode, const char* ambientOcclusion, bool bytes)
{
    oneOverOther(state, setupWith(mode, ambientOcclusion), setupWith("none", "none"), bytes);
}
BENCHMARK_CAPTURE(bakedOverUnlit, frame, "colour", "none", false)
    ->Name("light/baked_frame_over_unlit/corrowdale")
    ->MinTime(atLeast(8))
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(bakedOverUnlit, shadedFrame, "colour", "rim", false)
    ->Name("light/baked_frame_and_shade_over_unlit/corrowdale")
    ->MinTime(atLeast(8))
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(bakedOverUnlit, bytes, "colour", "none", true)
    ->Name("light/baked_bytes_over_unlit/corrowdale")
    ->Iterations(1);
BENCHMARK_CAPTURE(bakedOverUnlit, shadedBytes, "colour", "rim", true)
    ->Name("light/baked_bytes_and_shade_over_unlit/corrowdale")
    ->Iterations(1);

/// The same light in the corners of quads that it cuts, over light that fragments read.
void cutOverCells(benchmark::State& state, bool bytes, const char* world, const char* route)
{
    oneOverOther(
        state, setupWith("colour", "rim", "corners"), setupWith("colour", "rim", "cells"), bytes, world, route);
}
BENCHMARK_CAPTURE(cutOverCells, frame, false, "corrowdale", "beck-to-summit")
    ->Name("light/cut_frame_over_cells/corrowdale")
    ->MinTime(atLeast(8))
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(cutOverCells, bytes, true, "corrowdale", "beck-to-summit")
    ->Name("light/cut_bytes_over_cells/corrowdale")
    ->Iterations(1);
BENCHMARK_CAPTURE(cutOverCells, galleryFrame, false, "gallery", "gallery")
    ->Name("light/cut_frame_over_cells/gallery")
    ->MinTime(atLeast(4))
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(cutOverCells, galleryBytes, true, "gallery", "gallery")
    ->Name("light/cut_bytes_over_cells/gallery")
    ->Iterations(1);

/// "ratio" is remeshing chunks with their light, over relighting the cached quads.
void remeshOverRelight(benchmark::State& state)
{
    const auto terrain = makeTerrain(findWorld("corrowdale", demoFolder()).take());
    const Generator& generator = *findGenerator("blocks");
    const LightRegion region = makeLightRegion(*terrain, generator, {32, {6, 4, 6}, 200, 1});
    const LightRules rules = lightRulesOf(region.blocks, *findLightMode("colour"));
    const SideRules sides = sideRulesOf(region.blocks);
    const ChunkMeshOptions options{findMesher("greedy-bits"), {findLayout("corners"), {3, 1}}, {&sides, false}};
    struct One {
        Neighbourhood around;
        PaddedVoxels voxels;
        PaddedLight light;
        ChunkSurface quads;
    };
    std::vector<Transmission> passes;
    for (const VoxelChunk& chunk : region.chunks)
        passes.push_back(transmissionOf(chunk, rules));
    const SkyHeightMap none = skyFloor(region.edge, INT64_MAX);
    std::vector<One> all;
    const auto at
        = [&](int x, int y, int z) { return static_cast<std::size_t>((y * region.size[2] + z) * region.size[0] + x); };
    FloodScratch scratch;
    for (int y = 1; y + 1 < region.size[1]; ++y)
        for (int z = 1; z + 1 < region.size[2]; ++z)
            for (int x = 1; x + 1 < region.size[0]; ++x) {
                One one;
                LightBlock block{&rules, region.edge, {3, 3, 3}, {}, std::vector<const SkyHeightMap*>(9, &none), 0};
                for (int i = 0; i < 27; ++i) {
                    const std::size_t from = at(x + i % 3 - 1, y + i / 9 - 1, z + i / 3 % 3 - 1);
                    one.around.chunks[static_cast<std::size_t>(i)] = &region.chunks[from];
                    block.passes.push_back(&passes[from]);
                }
                if (isBuried(one.around, sides) || one.around.centre().isUniform())
                    continue;
                floodPadded(block, one.light, scratch);
                gather(one.around, one.voxels);
                meshQuads(one.voxels, options, one.quads);
                const ChunkMesh whole = buildChunkMesh(one.voxels, options, &one.light),
                                again = encodeMesh(one.voxels, one.quads, options, &one.light);
                if (whole.vertices != again.vertices)
                    return state.SkipWithError("the two ways make other meshes");
                all.push_back(std::move(one));
            }
    compareInTurn(
        state, all.size(),
        [&](std::size_t i) {
            gather(all[i].around, all[i].voxels);
            benchmark::DoNotOptimize(buildChunkMesh(all[i].voxels, options, &all[i].light).vertices.data());
        },
        [&](std::size_t i) {
            benchmark::DoNotOptimize(encodeMesh(all[i].voxels, all[i].quads, options, &all[i].light).vertices.data());
        });
}
BENCHMARK(remeshOverRelight)->Name("light/remesh_over_relight/corrowdale")->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
