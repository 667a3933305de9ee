// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include <fell/gpu/picture.h>
#include <fell/input/text_file.h>
#include <fell/measure/pictures.h>

#include "offscreen.h"
#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct PictureArguments {
    WorldArguments world;
    std::string route, out, fullDetail;
    double along = 0.3, sun = kLateMorning;
    int width = 1280, height = 800;
};

/// A view drawn with a setup; no pixels if it was stopped.
struct Drawn {
    FrameReport report;
    std::vector<std::uint8_t> pixels; // red, green, blue, alpha
};

Drawn drawWith(const Setup& setup, const std::shared_ptr<const Terrain>& terrain, const Eye& eye, Offscreen& offscreen,
    double sun, const std::shared_ptr<WorldChanges>& changes, const std::stop_token& stop)
{
    Renderer& renderer = offscreen.renderer();
    const RenderTarget& target = offscreen.target();
    renderer.begin(setup, *terrain);
    Streamer streamer(terrain, setup, {}, changes);
    streamer.lookThrough(pixelsPerRadian(setup.draw.fieldOfView, target.height()));
    if (!fill(renderer, streamer, eye, setup, stop))
        return {};
    target.bind();
    DrawOptions options;
    options.sunHeight = sun;
    options.nearPlaneIsClear = isSurelyFree(streamer, setup, offscreen.hooks(), eye);
    Drawn drawn{renderer.draw(eye, target.width(), target.height(), options), {}};
    drawn.pixels = target.read();
    return drawn;
}

nlohmann::ordered_json jsonOf(const std::string& file, const Drawn& drawn)
{
    return {{"file", file}, {"frame_ms", drawn.report.totalMs}, {"cpu_ms", drawn.report.cpuMs},
        {"gpu_ms", drawn.report.gpuMs}, {"chunks", drawn.report.chunks},
        {"resident_chunks", drawn.report.residentChunks}, {"triangles", drawn.report.triangles}};
}

void say(const std::string& file, const Drawn& drawn, const std::string& driver)
{
    std::printf("%s: %.1f ms, %llu of %llu chunks, %llu triangles, %s\n", file.c_str(), drawn.report.totalMs,
        static_cast<unsigned long long>(drawn.report.chunks),
        static_cast<unsigned long long>(drawn.report.residentChunks),
        static_cast<unsigned long long>(drawn.report.triangles), driver.c_str());
}

std::optional<Problem> checkArguments(const PictureArguments& arguments)
{
    if (!(arguments.along >= 0 && arguments.along <= 1) || arguments.width < 16 || arguments.height < 16
        || arguments.width > 8192 || arguments.height > 8192)
        return Problem{"--along, --width, --height", "", "0 to 1 along the route and 16 to 8192 pixels are allowed"};
    if (!(arguments.sun >= kLowestSun && arguments.sun <= kHighestSun))
        return Problem{"--sun", "", "-18 to 60 degrees above the horizon are allowed"};
    const auto plainName = [](const std::string& file) { return std::filesystem::absolute(file).lexically_normal(); };
    if (!arguments.fullDetail.empty() && plainName(arguments.fullDetail) == plainName(arguments.out))
        return Problem{"--full-detail", "", "is the same file as --out: give it another name"};
    return std::nullopt;
}

/// The same without levels of detail, or why it cannot be drawn.
Outcome<Setup> fullDetailOf(const Setup& settled)
{
    Setup full = settled;
    full.lod.scheme = "off";
    if (checkSetup(full))
        return Problem{"--full-detail", "",
            "is the same view at full detail, which shows at most 48 chunks; lower stream.distance"};
    return full;
}

int runPicture(const PictureArguments& arguments, const std::stop_token& stop)
{
    auto setup = openSetup(arguments.world.setup, arguments.world);
    if (!setup)
        return fail(setup.problem());
    std::shared_ptr<WorldChanges> changes;
    const auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return fail(terrain.problem());
    Setup settled = setup.take();
    if (auto problem = settleDistance(settled, terrain.value()->recipe.voxelMetres))
        return fail(*problem);
    const auto route = openRoute(arguments.route, arguments.world.world, *terrain.value(), changes);
    if (!route)
        return fail(route.problem());
    if (auto problem = checkArguments(arguments))
        return fail(*problem);
    for (const std::string& file : {arguments.out, arguments.fullDetail})
        if (!file.empty())
            if (const int code = refuseOutput(file, arguments.world, {arguments.route}); code != kDone)
                return code;
    const auto full = fullDetailOf(settled);
    if (!arguments.fullDetail.empty() && !full)
        return fail(full.problem());
    auto made = Offscreen::create({arguments.width, arguments.height});
    if (!made)
        return fail(made.problem(), kMachineLacks);
    const auto offscreen = made.take();
    const Eye eye = eyeOn(route.value(), arguments.along, *terrain.value());
    const std::string driver = offscreen->renderer().driver();
    auto pictures = nlohmann::ordered_json::array();
    const auto draw = [&](const Setup& with, const std::string& file, Drawn& drawn) -> int {
        drawn = drawWith(with, terrain.value(), eye, *offscreen, arguments.sun, changes, stop);
        if (drawn.pixels.empty())
            return kStopped;
        if (auto problem = writeFile(file, toPng(drawn.pixels, arguments.width, arguments.height)))
            return fail(*problem, kCannotWrite);
        if (!arguments.world.json)
            say(file, drawn, driver);
        pictures.push_back(jsonOf(file, drawn));
        return kDone;
    };
    Drawn drawn, plain;
    std::optional<double> difference;
    if (const int code = draw(settled, arguments.out, drawn); code != kDone)
        return code;
    if (!arguments.fullDetail.empty()) {
        if (const int code = draw(full.value(), arguments.fullDetail, plain); code != kDone)
            return code;
        difference = differenceOf(drawn.pixels, plain.pixels);
        if (!arguments.world.json)
            std::printf("the two differ by %.3f of 255 on average\n", *difference);
    }
    if (arguments.world.json) {
        nlohmann::ordered_json said{{"driver", driver}, {"pictures", pictures}};
        if (difference)
            said["difference"] = *difference;
        printDocument("fell-picture", said);
    }
    return kDone;
}

} // namespace

Run addPicture(CLI::App& parser)
{
    auto* command = parser.add_subcommand("picture", "draw one view of a route into a PNG file, without a window");
    auto arguments = std::make_shared<PictureArguments>();
    addWorldOptions(*command, arguments->world);
    addMethodOption(*command, arguments->world);
    addRouteOption(*command, arguments->route);
    command->add_option("--along", arguments->along, "where on the route, 0 to 1")->capture_default_str();
    command->add_option("--sun", arguments->sun, "height of the sun, degrees")->capture_default_str();
    command->add_option("--width", arguments->width, "pixels")->capture_default_str();
    command->add_option("--height", arguments->height, "pixels")->capture_default_str();
    command->add_option("--out", arguments->out, "the PNG file to write")->required();
    command->add_option("--full-detail", arguments->fullDetail,
        "a second PNG file: the same view at full detail, and how much the two differ");
    addDeviceOption(*command);
    return [arguments](const std::stop_token& stop) { return runPicture(*arguments, stop); };
}

} // namespace fell::cli
