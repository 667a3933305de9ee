// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "offscreen.h"
#include <fell/exchange/trace_events.h>
#include <fell/input/text_file.h>
#include <fell/measure/fly.h>

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

using nlohmann::json;

struct FlyArguments {
    WorldArguments world;
    std::string route, size = "1280x800", trace;
    int frames = 240;
    double speed = 60, straight = 0;
    bool noDraw = false;
};

Outcome<FlySpec> flySpecOf(const FlyArguments& arguments)
{
    FlySpec spec;
    auto setup = openSetup(arguments.world.setup, arguments.world);
    if (!setup)
        return setup.problem();
    spec.setup = setup.take();
    spec.frames = arguments.frames;
    spec.speed = arguments.speed;
    spec.straight = arguments.straight;
    std::shared_ptr<WorldChanges> changes;
    auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return terrain.problem();
    spec.terrain = terrain.take();
    if (auto problem = settleDistance(spec.setup, spec.terrain->recipe.voxelMetres))
        return *problem;
    auto route = openRoute(arguments.route, arguments.world.world, *spec.terrain, changes);
    if (!route)
        return route.problem();
    spec.route = route.take();
    spec.changes = std::move(changes);
    if (auto problem = checkFly(spec))
        return *problem;
    return spec;
}

json toJson(const Percentiles& of)
{
    return {{"p50", of.p50}, {"p95", of.p95}, {"p99", of.p99}, {"max", of.max}};
}

json toJson(const FlyResult& result, const FlySpec& spec)
{
    const StreamCounts& counts = result.counts;
    json rejected = json::object();
    json steps = json::object();
    for (std::size_t i = 0; i < result.culled.size(); ++i) {
        const CullCount& count = result.culled[i];
        rejected[spec.setup.cull.steps[i]] = count.rejected;
        steps[spec.setup.cull.steps[i]] = {{"tested", count.tested}, {"kept", count.kept}, {"rejected", count.rejected},
            {"us_per_frame", static_cast<double>(count.ns) / 1000 / std::max(1, result.frames)}};
    }
    json out{{"world", result.world}, {"setup", spec.setup.name}, {"route", spec.route.name}, {"frames", result.frames},
        {"driver", result.driver}, {"frame_ms", toJson(result.frameMs)}, {"share_us", toJson(result.shareUs)},
        {"longest_lock_us", static_cast<double>(counts.longestLockNs) / 1000},
        {"held_ms", static_cast<double>(counts.heldNs) / 1e6}, {"hitches", result.hitches},
        {"chunks",
            {{"generated", counts.generated}, {"lit", counts.lit}, {"meshed", counts.meshed},
                {"uploaded", result.uploaded}, {"retired", counts.retired}, {"dropped", counts.dropped},
                {"evicted", counts.evicted}, {"failed", counts.failed}}},
        {"resident",
            {{"chunks", counts.resident}, {"voxel_bytes", counts.voxelBytes}, {"mesh_bytes", counts.meshBytes},
                {"light_bytes", counts.lightBytes}, {"gpu_bytes", result.gpuBytes},
                {"process_bytes", result.processBytes}}},
        {"settle_s", result.settleSeconds}, {"horizon_s", result.horizonSeconds},
        {"drawn", {{"chunks", result.drawnChunks}, {"triangles", result.triangles}, {"draw_calls", result.drawCalls}}},
        {"loaded", {{"triangles", result.loadedTriangles}}}, {"rejected", rejected}, {"cull", steps}};
    if (result.referenceMs.count > 0) {
        out["reference_ms"] = toJson(result.referenceMs);
        out["hitch_share"] = static_cast<double>(result.hitches) / std::max(1, result.frames);
        out["reference_hitch_share"] = result.referenceHitchShare;
    }
    if (spec.straight > 0) {
        json bytes = json::array();
        for (const FlyBytes& at : result.bytes)
            bytes.push_back({{"seconds", at.seconds}, {"world_bytes", at.world}, {"process_bytes", at.process}});
        out["straight"] = {{"seconds", spec.straight}, {"metres_per_s", result.metresPerSecond}, {"bytes", bytes}};
    }
    return out;
}

void printFly(const FlyResult& result, const FlySpec& spec)
{
    const StreamCounts& counts = result.counts;
    const auto megabytes = [](std::uint64_t bytes) { return static_cast<double>(bytes) / 1048576; };
    std::printf("%s, setup %s, %s\n", result.world.c_str(), spec.setup.name.c_str(),
        spec.straight > 0 ? "straight on" : ("route " + spec.route.name).c_str());
    std::printf("settled in            %.2f s\n", result.settleSeconds);
    if (result.horizonSeconds > 0)
        std::printf("horizon complete in   %.2f s\n", result.horizonSeconds);
    if (spec.straight > 0) {
        std::printf("speed                 %.0f m/s for %.1f s\n", result.metresPerSecond, spec.straight);
        for (const FlyBytes& at : result.bytes)
            std::printf("after %7.1f s       %.1f MiB of voxels, light and meshes, %.1f MiB in all\n", at.seconds,
                megabytes(at.world), megabytes(at.process));
    } else {
        if (result.referenceMs.count == 0)
            std::printf("frames                %d, none of them drawn\n", result.frames);
        else
            std::printf("frames                %d, p50 %.2f ms, p95 %.2f ms, p99 %.2f ms, worst %.2f ms\n",
                result.frames, result.frameMs.p50, result.frameMs.p95, result.frameMs.p99, result.frameMs.max);
        if (result.referenceMs.count > 0)
            std::printf("with all resident     p50 %.2f ms, p95 %.2f ms, p99 %.2f ms\n", result.referenceMs.p50,
                result.referenceMs.p95, result.referenceMs.p99);
        std::printf("streaming's share     p50 %.0f us, p99 %.0f us, worst %.0f us; longest lock %.1f us\n"
                    "workers waited        %.1f ms for frames, in %llu waits\n",
            result.shareUs.p50, result.shareUs.p99, result.shareUs.max,
            static_cast<double>(counts.longestLockNs) / 1000, static_cast<double>(counts.heldNs) / 1e6,
            static_cast<unsigned long long>(counts.holds));
        if (result.referenceMs.count > 0)
            std::printf("hitches               %llu (%.2f %%), with all resident %.2f %%\n",
                static_cast<unsigned long long>(result.hitches),
                100.0 * static_cast<double>(result.hitches) / std::max(1, result.frames),
                100 * result.referenceHitchShare);
    }
    std::printf(
        "chunks                %llu generated, %llu lit, %llu meshed, %llu uploaded, %llu retired, %llu failed\n",
        static_cast<unsigned long long>(counts.generated), static_cast<unsigned long long>(counts.lit),
        static_cast<unsigned long long>(counts.meshed), static_cast<unsigned long long>(result.uploaded),
        static_cast<unsigned long long>(counts.retired), static_cast<unsigned long long>(counts.failed));
    std::printf("resident              %llu chunks, %.1f MiB of voxels, %.1f of light, %.1f of meshes\n",
        static_cast<unsigned long long>(counts.resident), megabytes(counts.voxelBytes), megabytes(counts.lightBytes),
        megabytes(counts.meshBytes));
    if (!result.driver.empty())
        std::printf("drawn                 %llu chunks, %llu triangles, %llu draws with %s\n",
            static_cast<unsigned long long>(result.drawnChunks), static_cast<unsigned long long>(result.triangles),
            static_cast<unsigned long long>(result.drawCalls), result.driver.c_str());
}

int runFly(const FlyArguments& arguments, const std::stop_token& stop)
{
    const auto spec = flySpecOf(arguments);
    if (!spec)
        return fail(spec.problem());
    const auto size = parseSize(arguments.size);
    if (!size)
        return fail({"--size " + arguments.size, "", "WIDTHxHEIGHT from 16x16 to 8192x8192 is expected"});
    if (!arguments.trace.empty())
        if (const int code = refuseOutput(arguments.trace, arguments.world, {arguments.route}); code != kDone)
            return code;
    std::unique_ptr<Offscreen> offscreen;
    if (!arguments.noDraw && arguments.straight <= 0) {
        auto made = Offscreen::create(*size);
        if (!made)
            return fail(
                {made.problem().where, "", made.problem().what + "; --no-draw flies without drawing"}, kMachineLacks);
        offscreen = made.take();
    }
    const FlyResult result = runFly(spec.value(), offscreen ? &offscreen->hooks() : nullptr, showProgress, stop);
    if (result.stopped)
        return kStopped;
    if (!arguments.trace.empty())
        if (auto problem = writeFile(arguments.trace, traceEvents(result.lives)))
            return fail(*problem, kCannotWrite);
    if (arguments.world.json)
        printDocument("fell-fly", toJson(result, spec.value()));
    else
        printFly(result, spec.value());
    return kDone;
}

} // namespace

Run addFly(CLI::App& parser)
{
    auto* command = parser.add_subcommand("fly", "stream and draw a route without a window");
    auto arguments = std::make_shared<FlyArguments>();
    addWorldOptions(*command, arguments->world);
    addMethodOption(*command, arguments->world);
    addRouteOption(*command, arguments->route);
    command
        ->add_option(
            "--frames", arguments->frames, "how many: one each 1/60 s of flight along the route, there and back")
        ->capture_default_str();
    command->add_option("--speed", arguments->speed, "metres per second along the route, at 60 frames per second")
        ->capture_default_str();
    command->add_option("--size", arguments->size, "of the picture, in pixels")->capture_default_str();
    command->add_flag("--no-draw", arguments->noDraw, "stream only: needs no graphics driver");
    command->add_option("--straight", arguments->straight,
        "flies straight on for this number of seconds, as fast as it streams; draws nothing");
    command->add_option("--trace", arguments->trace, "write the events of all chunks as Trace Event JSON");
    addDeviceOption(*command);
    return [arguments, command](const std::stop_token& stop) -> int {
        if (arguments->straight > 0)
            if (auto problem = checkUnused(*command, {"--frames", "--speed", "--size"},
                    "--straight flies east from the route's beginning, as fast as it streams, and draws nothing"))
                return fail(*problem);
        if (arguments->noDraw)
            if (auto problem = checkUnused(*command, {"--size"}, "--no-draw draws no picture"))
                return fail(*problem);
        return runFly(*arguments, stop);
    };
}

} // namespace fell::cli
