// SPDX-License-Identifier: Apache-2.0
#include "in_turn.h"

#include "gpu/headless.h"
#include "gpu/renderer.h"
#include "measure/route.h"

#include <thread>

namespace fell::bench {
namespace {

/// The same frame with passes told apart and without: what looking costs. "ratio" is on / off.
void instrumentedOverPlain(benchmark::State& state)
{
    auto recipe = findWorld("corrowdale", FELL_DEMO_DIR);
    auto context = HeadlessContext::create();
    if (!recipe || !context)
        return state.SkipWithError("Corrowdale or OpenGL 4.5 was not found");
    const auto held = context.take();
    auto made = Renderer::create();
    if (!made)
        return state.SkipWithError("no OpenGL 4.5");
    const auto renderer = made.take();
    const auto terrain = makeTerrain(recipe.take());
    const Setup setup = findSetup("near", FELL_DEMO_DIR "/setups").take();
    const OffscreenTarget target(1280, 800);
    renderer->begin(setup, *terrain);
    Streamer streamer(terrain, setup);
    const Eye eye = eyeOn(findRoute("beck-to-summit", FELL_DEMO_DIR "/routes").value(), 0.1, *terrain);
    streamer.moveTo(chunkOf(eye.cell, setup.chunk.edge));
    while (!streamer.settled()) {
        for (const StreamEvent& event : streamer.take(SIZE_MAX))
            renderer->upload(event.mesh);
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    target.bind();
    const auto picture = [&](bool tell) {
        renderer->draw(eye, target.width(), target.height(), tell);
        return target.read();
    };
    if (picture(true) != picture(false))
        return state.SkipWithError("the two ways draw different pictures");
    compareInTurn(
        state, 10, [&](std::size_t) { renderer->draw(eye, target.width(), target.height(), true); },
        [&](std::size_t) { renderer->draw(eye, target.width(), target.height(), false); });
}
BENCHMARK(instrumentedOverPlain)->Name("frame/instrumented_over_plain/corrowdale")->Unit(benchmark::kMillisecond);

} // namespace
} // namespace fell::bench
