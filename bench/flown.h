// SPDX-License-Identifier: Apache-2.0
// A world that is streamed, filled round places of a route, and drawn from there without a window.
#pragma once

#include <fell/demo/demo_folder.h>
#include <fell/gpu/hooks.h>
#include <fell/measure/pictures.h>
#include <fell/measure/route.h>

#include <cstdlib>
#include <memory>
#include <optional>
#include <string>
#include <thread>
#include <vector>

namespace fell::bench {

/// Set where every benchmark is only run to see that it runs: shorter ways, whose figures mean nothing.
inline bool isQuick()
{
    return std::getenv("FELL_QUICK") != nullptr;
}

/// A class because it owns a context.
class Flown {
public:
    Flown(const char* world, const char* route, const Setup& setup, int width = 640, int height = 400)
        : m_setup(setup)
    {
        auto recipe = findWorld(world, demoFolder());
        m_context = sharedContext();
        if (!recipe || !m_context)
            return;
        m_renderer = Renderer::create().take();
        m_target.emplace(width, height);
        m_hooks = hooksFor(*m_renderer, *m_target);
        m_terrain = makeTerrain(recipe.take());
        m_route = findRoute(route, demoFolder() / "routes").take();
        m_renderer->begin(m_setup, *m_terrain);
        m_streamer = std::make_unique<Streamer>(m_terrain, m_setup);
        m_streamer->lookThrough(pixelsPerRadian(m_setup.draw.fieldOfView, height));
    }
    [[nodiscard]] bool isThere() const { return m_streamer != nullptr; }
    [[nodiscard]] StreamCounts counts() const { return m_streamer->counts(); }

    Eye settleAt(double along)
    {
        const Eye eye = eyeOn(m_route, along, *m_terrain);
        m_streamer->moveTo(chunkOf(eye.cell, m_setup.chunk.edge));
        do {
            for (const StreamEvent& event : m_streamer->take(SIZE_MAX))
                m_renderer->apply(event);
            std::this_thread::sleep_for(std::chrono::milliseconds(1));
        } while (!m_streamer->settled());
        return eye;
    }
    FrameCost draw(const Eye& eye, const std::vector<std::string>& steps)
    {
        CullChoices choices = m_setup.cull;
        choices.steps = steps;
        m_renderer->setCulling(choices);
        return m_hooks.draw(eye, isSurelyFree(*m_streamer, m_setup, m_hooks, eye));
    }
    FrameCost draw(const Eye& eye) { return draw(eye, m_setup.cull.steps); }
    /// Of the last frame: red, green, blue, alpha.
    [[nodiscard]] std::vector<std::uint8_t> pixels() const { return m_target->read(); }
    [[nodiscard]] int width() const { return m_target->width(); }
    /// The level of what each pixel shows, kNoLevel for the sky. Overwrites the last frame.
    [[nodiscard]] std::vector<std::int8_t> levelsSeen(const Eye& eye)
    {
        m_target->bind();
        m_renderer->drawNumbers(eye, m_target->width(), m_target->height(), m_setup.draw.fieldOfView);
        const auto numbers = m_target->read();
        const auto& chunks = m_renderer->scene().chunks();
        std::vector<std::int8_t> levels;
        for (std::size_t i = 0; i < numbers.size(); i += 4) {
            const std::uint32_t number = numbers[i] | numbers[i + 1] << 8U | numbers[i + 2] << 16U;
            levels.push_back(
                number == 0 || number > chunks.size() ? kNoLevel : static_cast<std::int8_t>(chunks[number - 1].level));
        }
        return levels;
    }

private:
    /// One for all that there are at a time: two are drawn in turn.
    static std::shared_ptr<HeadlessContext> sharedContext()
    {
        static std::weak_ptr<HeadlessContext> held;
        auto context = held.lock();
        if (!context)
            if (auto made = HeadlessContext::create())
                held = context = made.take();
        return context;
    }

    std::shared_ptr<HeadlessContext> m_context;
    std::unique_ptr<Renderer> m_renderer;
    std::optional<RenderTarget> m_target;
    DrawHooks m_hooks;
    std::shared_ptr<const Terrain> m_terrain;
    Setup m_setup;
    Route m_route;
    std::unique_ptr<Streamer> m_streamer;
};

} // namespace fell::bench
