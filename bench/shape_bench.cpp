// SPDX-License-Identifier: Apache-2.0
// Ten thousand cairns: as part of their chunks' meshes against an object each, in the same view.
#include "in_turn.h"
#include <fell/demo/demo_folder.h>

#include <fell/gpu/headless.h>
#include <fell/gpu/render_target.h>
#include <fell/gpu/renderer.h>
#include <fell/measure/route.h>

#include <thread>

namespace fell::bench {
namespace {

/// Level ground with a cairn in every square of two by two voxels.
Outcome<Recipe> cairnField()
{
    auto corrowdale = findWorld("corrowdale", demoFolder());
    if (!corrowdale)
        return corrowdale;
    const BlockSet blocks = corrowdale.value().blocks;
    return parseRecipe(R"({"format": "fell-recipe", "version": 1, "name": "Cairn field", "seed": 3, "blocks": "b",
        "height": {"base": 0.2, "layers": [], "landforms": []}, "strata": [{"material": "turf"}],
        "scatter": [{"kind": "block", "spacing": 2, "chance": 1, "ground": ["turf"], "block": "cairn"}]})",
        "cairn field", [&](const std::string&) -> Outcome<BlockSet> { return blocks; });
}

/// One way of drawing the field: its own renderer with everything uploaded.
struct Field {
    std::unique_ptr<Renderer> renderer;
    FrameReport report;
};

void bakedOverObjects(benchmark::State& state)
{
    auto recipe = cairnField();
    auto context = HeadlessContext::create();
    if (!recipe || !context)
        return state.SkipWithError("the field or OpenGL 4.5 was not found");
    const auto held = context.take();
    const auto terrain = makeTerrain(recipe.take());
    Setup setup = findSetup("near", demoFolder() / "setups").take();
    setup.stream.distance = 8;
    const RenderTarget target(640, 400);
    target.bind();
    const Eye eye = eyeAt({{0, 150, 190}, 0, -42}, 0, *terrain);
    const auto fieldWith = [&](const char* models) {
        setup.mesh.models = models;
        Field field{Renderer::create().take(), {}};
        field.renderer->begin(setup, *terrain);
        Streamer streamer(terrain, setup);
        streamer.moveTo(chunkOf(eye.cell, setup.chunk.edge));
        while (!streamer.settled()) {
            for (const StreamEvent& event : streamer.take(SIZE_MAX))
                field.renderer->upload(event.mesh);
            std::this_thread::sleep_for(std::chrono::milliseconds(1));
        }
        field.report = field.renderer->draw(eye, target.width(), target.height());
        return field;
    };
    const Field objects = fieldWith("objects");
    const auto picture = target.read();
    const Field baked = fieldWith("baked");
    const auto second = target.read();
    double apart = 0; // mean difference of a channel, of 255
    for (std::size_t i = 0; i < picture.size(); ++i)
        apart += std::abs(static_cast<double>(picture[i]) - second[i]) / static_cast<double>(picture.size());
    // The same places through other sums of floats: an edge may take another pixel, no surface another colour.
    if (objects.report.objects < 10000 || apart > 0.5)
        return state.SkipWithError("fewer than 10,000 cairns, or the two pictures differ");
    constexpr std::size_t kFrames = 40;
    compareInTurn(
        state, kFrames, [&](std::size_t) { objects.renderer->draw(eye, target.width(), target.height()); },
        [&](std::size_t) { baked.renderer->draw(eye, target.width(), target.height()); });
    state.counters["mean_difference"] = apart;
    state.counters["cairns"] = static_cast<double>(objects.report.objects);
    state.counters["object_draws"] = static_cast<double>(objects.report.drawCalls);
    state.counters["baked_draws"] = static_cast<double>(baked.report.drawCalls);
    state.counters["chunks"] = static_cast<double>(baked.report.chunks);
}
BENCHMARK(bakedOverObjects)->Name("draw/baked_over_objects/cairns")->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
