// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "gpu/picture.h"
#include "input/text_file.h"
#include "offscreen.h"

#include <iostream>
#include <thread>

namespace fell::cli {
namespace {

struct Arguments {
    WorldArguments world;
    std::string route = "beck-to-summit", out;
    double along = 0.3, sun = kLateMorning;
    int width = 1280, height = 800;
};

/// Gives everything within the distance to the renderer; false if it was stopped.
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

int run(const Arguments& arguments, const std::stop_token& stop)
{
    const auto setup = openSetup(arguments.world.setup, arguments.world.set);
    if (!setup)
        return fail(setup.problem());
    const auto terrain = openWorld(arguments.world);
    if (!terrain)
        return fail(terrain.problem());
    const auto route = findRoute(arguments.route, demoFolder() / "routes");
    if (!route)
        return fail(route.problem());
    if (!(arguments.along >= 0 && arguments.along <= 1) || arguments.width < 16 || arguments.height < 16
        || arguments.width > 8192 || arguments.height > 8192)
        return fail({"--along, --width, --height", "", "0 to 1 along the route and 16 to 8192 pixels are allowed"});
    if (!(arguments.sun >= kLowestSun && arguments.sun <= kHighestSun))
        return fail({"--sun", "", "-18 to 60 degrees above the horizon are allowed"});
    if (auto problem = checkWritable(arguments.out))
        return fail(*problem, kCannotWrite);
    auto made = Offscreen::create({arguments.width, arguments.height});
    if (!made)
        return fail(made.problem(), kMachineLacks);
    const auto offscreen = made.take();
    Renderer& renderer = offscreen->renderer();
    const OffscreenTarget& target = offscreen->target();
    renderer.begin(setup.value(), *terrain.value());
    Streamer streamer(terrain.value(), setup.value());
    streamer.lookThrough(pixelsPerRadian(setup.value().draw.fieldOfView, arguments.height));
    const Eye eye = eyeOn(route.value(), arguments.along, *terrain.value());
    if (!fill(renderer, streamer, eye, setup.value(), stop))
        return kStopped;
    target.bind();
    DrawOptions options;
    options.tellPasses = true;
    options.sunHeight = arguments.sun;
    options.isFree = isSurelyFree(streamer, setup.value(), offscreen->hooks(), eye);
    const FrameReport report = renderer.draw(eye, target.width(), target.height(), options);
    if (auto problem = writeFile(arguments.out, toPng(target.read(), target.width(), target.height())))
        return fail(*problem, kCannotWrite);
    std::printf("%s: %.1f ms, %llu of %llu chunks, %llu triangles, %s\n", arguments.out.c_str(), report.totalMs,
        static_cast<unsigned long long>(report.chunks), static_cast<unsigned long long>(report.residentChunks),
        static_cast<unsigned long long>(report.triangles), renderer.driver().c_str());
    return kDone;
}

} // namespace

Run addPicture(CLI::App& parser)
{
    auto* command = parser.add_subcommand("picture", "draw one view of a route into a PNG file, without a window");
    auto arguments = std::make_shared<Arguments>();
    addWorldOptions(*command, arguments->world);
    command->add_option("--route", arguments->route, "a route file or one of demo/routes")->capture_default_str();
    command->add_option("--along", arguments->along, "where on the route, 0 to 1")->capture_default_str();
    command->add_option("--sun", arguments->sun, "height of the sun, degrees")->capture_default_str();
    command->add_option("--width", arguments->width, "pixels")->capture_default_str();
    command->add_option("--height", arguments->height, "pixels")->capture_default_str();
    command->add_option("--out", arguments->out, "the PNG file to write")->required();
    return [arguments](const std::stop_token& stop) { return run(*arguments, stop); };
}

} // namespace fell::cli
