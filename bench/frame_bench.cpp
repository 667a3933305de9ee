// SPDX-License-Identifier: Apache-2.0
#include "in_turn.h"
#include <fell/demo/demo_folder.h>

#include <fell/gpu/headless.h>
#include <fell/gpu/render_target.h>
#include <fell/gpu/renderer.h>
#include <fell/measure/route.h>

#include <thread>

namespace fell::bench {
namespace {

/// The same frame with the figures that the window keeps and without: what looking costs. "ratio" is on / off.
void instrumentedOverPlain(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", demoFolder());
    auto context = HeadlessContext::create();
    if (!recipe || !context)
        return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
    const auto held = context.take();
    auto made = Renderer::create();
    if (!made)
        return state.SkipWithError("no OpenGL 4.5");
    const auto renderer = made.take();
    const auto terrain = makeTerrain(recipe.take());
    const Setup setup = findSetup("near", demoFolder() / "setups").take();
    const RenderTarget target(640, 400);
    renderer->begin(setup, *terrain);
    Streamer streamer(terrain, setup);
    const Eye eye = eyeOn(findRoute("beck-to-summit", demoFolder() / "routes").value(), 0.1, *terrain);
    streamer.moveTo(chunkOf(eye.cell, setup.chunk.edge));
    while (!streamer.settled()) {
        for (const StreamEvent& event : streamer.take(SIZE_MAX))
            renderer->upload(event.mesh);
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    target.bind();
    const auto draw = [&] { return renderer->draw(eye, target.width(), target.height(), {}); };
    // What the window does around a frame to tell where its time went, and four times a second to show it.
    struct Record {
        double upload = 0, cull = 0, draw = 0, other = 0;
    };
    std::vector<Record> records;
    const auto watched = [&] {
        const auto start = std::chrono::steady_clock::now();
        benchmark::DoNotOptimize(streamer.counts());
        const double upload = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        const FrameReport report = draw();
        const double all = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        records.push_back({upload, report.cullMs, report.totalMs, all});
        std::vector<double> last;
        for (std::size_t i = records.size() > 240 ? records.size() - 240 : 0; i < records.size(); ++i)
            last.push_back(records[i].draw);
        benchmark::DoNotOptimize(percentilesOf(std::move(last)));
    };
    constexpr std::size_t kFrames = 120; // of each side: a frame varies by some percent
    compareInTurn(
        state, kFrames, [&](std::size_t) { watched(); }, [&](std::size_t) { draw(); });
}
// The window's own figures; each pass is timed in both.
BENCHMARK(instrumentedOverPlain)->Name("frame/instrumented_over_plain/corrowdale")->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
