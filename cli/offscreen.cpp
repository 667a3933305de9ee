// SPDX-License-Identifier: Apache-2.0
#include "offscreen.h"

#include "common.h"

#include <cstdio>

#include <thread>

namespace fell::cli {

std::optional<Size> parseSize(const std::string& text)
{
    const auto read = wholeNumbers<2>(text, 'x');
    const Size size = read ? Size{(*read)[0], (*read)[1]} : Size{0, 0};
    if (size.width < 16 || size.height < 16 || size.width > 8192 || size.height > 8192)
        return std::nullopt;
    return size;
}

namespace {

int chosenDevice = -1;

} // namespace

void addDeviceOption(CLI::App& command)
{
    command
        .add_option_function<std::string>(
            "--device",
            [](const std::string& text) {
                if (text == "list") {
                    const auto devices = HeadlessContext::devices();
                    for (std::size_t i = 0; i < devices.size(); ++i)
                        std::printf("%zu %s\n", i, devices[i].c_str());
                    if (devices.empty())
                        std::printf("this driver lists no devices\n");
                    throw CLI::Success();
                }
                const auto number = wholeNumbers<1>(text, ' ');
                if (!number)
                    throw CLI::ValidationError("--device", "is " + text + ", allowed are list or a number from it");
                chosenDevice = (*number)[0];
            },
            "the device that draws, by its number in \"list\"; not given: the choice of the driver")
        ->trigger_on_parse();
}

Outcome<std::unique_ptr<Offscreen>> Offscreen::create(Size size)
{
    auto context = HeadlessContext::create(chosenDevice);
    if (!context)
        return context.problem();
    std::unique_ptr<Offscreen> made(new Offscreen);
    made->m_context = context.take();
    auto renderer = Renderer::create();
    if (!renderer)
        return renderer.problem();
    made->m_renderer = renderer.take();
    made->m_target.emplace(size.width, size.height);
    made->m_hooks = hooksFor(*made->m_renderer, *made->m_target);
    return made;
}

bool fill(Renderer& renderer, Streamer& streamer, const Eye& eye, const Setup& setup, const std::stop_token& stop)
{
    streamer.moveTo(chunkOf(eye.cell, setup.chunk.edge));
    while (!stop.stop_requested()) {
        for (const StreamEvent& event : streamer.take(SIZE_MAX))
            renderer.apply(event);
        if (streamer.settled())
            return true;
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    return false;
}

} // namespace fell::cli
