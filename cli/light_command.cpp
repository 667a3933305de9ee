// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include <fell/measure/light_trial.h>

#include <nlohmann/json.hpp>

#include <cstdio>
#include <iostream>

namespace fell::cli {
namespace {

struct LightArguments {
    WorldArguments world;
    std::string modes = "lamp-sky,colour,colour-sky", box = "8x4x8";
    int lamps = 500, repeat = 5;
    std::optional<int> edge; // else the setup's
};

/// "8x4x8": chunks on x, y, z.
std::optional<std::array<int, 3>> sizeOf(const std::string& text)
{
    const auto read = wholeNumbers<3>(text, 'x');
    if (!read)
        return std::nullopt;
    const std::array<int, 3> size = *read;
    constexpr int kMax = 32, kMaxChunks = 4096;
    for (const int chunks : size)
        if (chunks < 1 || chunks > kMax)
            return std::nullopt;
    return size[0] * size[1] * size[2] <= kMaxChunks ? std::optional(size) : std::nullopt;
}

void printLightJson(const LightTrial& trial)
{
    auto rows = nlohmann::ordered_json::array();
    for (const LightTrialRow& row : trial.rows)
        rows.push_back({{"mode", row.mode}, {"voxels", row.voxels}, {"lamps", row.lamps},
            {"flood_ms", {{"p50", row.floodMs.p50}, {"p95", row.floodMs.p95}}}, {"updates_per_s", row.updatesPerS},
            {"bytes_per_voxel", row.bytesPerVoxel},
            {"edit_us",
                {{"lamp_on", row.lampOnUs}, {"lamp_off", row.lampOffUs}, {"block_placed", row.blockPlacedUs},
                    {"block_removed", row.blockRemovedUs}}},
            {"digest", std::to_string(row.digest)}});
    printDocument("fell-light", {{"edge", trial.edge}, {"rows", rows}});
}

void printLightText(const LightTrial& trial)
{
    if (!trial.rows.empty())
        std::printf(
            "%llu voxels in chunks of edge %d, %llu lamps, one thread. Flooding from voxels to levels; edits are "
            "medians in microseconds\n\n",
            static_cast<unsigned long long>(trial.rows[0].voxels), trial.edge,
            static_cast<unsigned long long>(trial.rows[0].lamps));
    std::printf("%-11s %9s %9s %12s %12s %9s %9s %9s %9s\n", "mode", "p50 ms", "p95 ms", "M levels/s", "bytes/voxel",
        "lamp on", "lamp off", "block on", "block off");
    for (const LightTrialRow& row : trial.rows)
        std::printf("%-11s %9.2f %9.2f %12.0f %12.3f %9.1f %9.1f %9.1f %9.1f\n", row.mode.c_str(), row.floodMs.p50,
            row.floodMs.p95, row.updatesPerS / 1e6, row.bytesPerVoxel, row.lampOnUs, row.lampOffUs, row.blockPlacedUs,
            row.blockRemovedUs);
}

int runLight(const LightArguments& arguments, const std::stop_token& stop)
{
    const auto size = sizeOf(arguments.box);
    if (!size)
        return fail({"--box " + arguments.box, "",
            "is no size such as 8x4x8; 1 to 32 chunks on each axis are allowed and 4096 in all"});
    if (auto problem = checkUsed(arguments.world.set, {"chunk.edge", "generate.method"}))
        return fail(*problem);
    const auto setup = openSetup(arguments.world.setup, arguments.world);
    if (!setup)
        return fail(setup.problem());
    const int edge = arguments.edge.value_or(setup.value().chunk.edge);
    if (!isChunkEdge(edge))
        return fail({"--edge " + std::to_string(edge), "", "allowed are 16, 32 or 64"});
    constexpr int kMaxLamps = 100000, kMaxRounds = 1000;
    if (arguments.lamps < 0 || arguments.lamps > kMaxLamps)
        return fail({"--lamps", "", "0 to 100000 are allowed"});
    if (arguments.repeat < 1 || arguments.repeat > kMaxRounds)
        return fail({"--repeat", "", "1 to 1000 are allowed"});
    const auto modes = chooseMethods("--mode", arguments.modes, lightModes());
    if (!modes)
        return fail(modes.problem());
    std::shared_ptr<WorldChanges> changes;
    const auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return fail(terrain.problem());
    const LightRegion region = makeLightRegion(*terrain.value(), *findGenerator(setup.value().generate.method),
        {edge, *size, arguments.lamps, terrain.value()->recipe.seed}, stop, changes.get());
    if (stop.stop_requested())
        return kStopped;
    if (region.lamps.empty() && arguments.lamps > 0)
        return fail({"--world " + arguments.world.world, "",
            "has no open voxel on the ground in this box, so no lamp can stand; --lamps 0 floods the sky alone"});
    const LightTrial trial = runLightTrial(region, modes.value(), arguments.repeat, stop);
    if (trial.stopped)
        return kStopped;
    if (arguments.world.json)
        printLightJson(trial);
    else
        printLightText(trial);
    return kDone;
}

} // namespace

Run addLight(CLI::App& parser)
{
    auto* command = parser.add_subcommand(
        "light", "flood the same region in each light mode, interleaved, on one thread; then edit it");
    auto arguments = std::make_shared<LightArguments>();
    addWorldOptions(*command, arguments->world);
    command->add_option("--mode", arguments->modes, "which methods, separated by commas")->capture_default_str();
    command->add_option("--box", arguments->box, "chunks on x, y, z, half of them above the ground")
        ->capture_default_str();
    command->add_option("--edge", arguments->edge, "voxels: 16, 32 or 64; the setup's if not given");
    command->add_option("--lamps", arguments->lamps, "lamps placed on the ground at random")->capture_default_str();
    command->add_option("--repeat", arguments->repeat, "floods of each mode")->capture_default_str();
    return [arguments](const std::stop_token& stop) { return runLight(*arguments, stop); };
}

} // namespace fell::cli
