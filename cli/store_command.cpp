// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include <fell/measure/store_trial.h>

#include <nlohmann/json.hpp>

#include <cmath>
#include <iostream>

namespace fell::cli {
namespace {

struct StoreArguments {
    WorldArguments world;
    std::string forms;
    int chunks = 64;
    std::optional<int> edge; // else the setup's
};

void printStoreJson(const StoreTrial& trial)
{
    nlohmann::ordered_json root{{"edge", trial.edge}, {"chunks", trial.chunks}, {"rows", nlohmann::json::array()}};
    for (const auto& row : trial.rows)
        root["rows"].push_back({{"form", row.form}, {"bytes_per_chunk", row.bytesPerChunk}, {"build_ns", row.buildNs},
            {"random_read_ns", row.randomReadNs}, {"row_read_ns", row.rowReadNs}, {"edit_ns", row.editNs},
            {"same", row.same}});
    printDocument("fell-store", root);
}

void printStoreText(const StoreTrial& trial)
{
    std::printf("%s of edge %d, one thread, medians; bytes are means. Plain: %.0f bytes\n\n",
        counted(trial.chunks, "cube").c_str(), trial.edge, std::pow(trial.edge, 3) * sizeof(Material));
    std::printf("%-14s %14s %12s %14s %12s %12s  %s\n", "form", "bytes", "build us", "random read ns", "row ns",
        "edit ns", "reads back");
    for (const auto& row : trial.rows)
        std::printf("%-14s %14.0f %12.1f %14.1f %12.1f %12.1f  %s\n", row.form.c_str(), row.bytesPerChunk,
            row.buildNs / 1000, row.randomReadNs, row.rowReadNs, row.editNs, row.same ? "the same" : "OTHER VOXELS");
}

int runStore(const StoreArguments& arguments, const std::stop_token& stop)
{
    if (auto problem = checkUsed(arguments.world.set, {"chunk.edge", "generate.method"}))
        return fail(*problem);
    const auto setup = openSetup(arguments.world.setup, arguments.world);
    if (!setup)
        return fail(setup.problem());
    const int e = arguments.edge.value_or(setup.value().chunk.edge);
    if (e != 16 && e != 32 && e != 64 && e != 128 && e != 256)
        return fail({"--edge " + std::to_string(e), "", "allowed are 16, 32, 64, 128 or 256"});
    const int max = e > 64 ? 8 : 4096;
    if (arguments.chunks < 1 || arguments.chunks > max)
        return fail({"--chunks", "", "1 to 4096 are allowed, 1 to 8 from edge 128 on"});
    const auto forms = chooseMethods("--form", arguments.forms, voxelForms());
    if (!forms)
        return fail(forms.problem());
    std::shared_ptr<WorldChanges> changes;
    const auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return fail(terrain.problem());
    const auto cubes = sampleCubes(*terrain.value(), *findGenerator(setup.value().generate.method), e,
        static_cast<std::size_t>(arguments.chunks), stop, changes.get());
    if (cubes.empty() && !stop.stop_requested())
        return fail(
            {"--world " + arguments.world.world, "", "has no chunk with a surface within 64 chunks of its middle"});
    const StoreTrial trial = runStoreTrial(cubes, e, forms.value(), stop);
    if (trial.stopped || stop.stop_requested())
        return kStopped;
    if (arguments.world.json)
        printStoreJson(trial);
    else
        printStoreText(trial);
    for (const auto& row : trial.rows)
        if (!row.same)
            return kDoesNotHold;
    return kDone;
}

} // namespace

Run addStore(CLI::App& parser)
{
    auto* command = parser.add_subcommand("store", "store the same voxels in each format, interleaved, on one thread");
    auto arguments = std::make_shared<StoreArguments>();
    for (const StorageFormat& form : voxelForms())
        arguments->forms += (arguments->forms.empty() ? "" : ",") + std::string(form.id);
    addWorldOptions(*command, arguments->world);
    command->add_option("--form", arguments->forms, "which methods, separated by commas")->capture_default_str();
    command->add_option("--chunks", arguments->chunks, "how many cubes that hold surface")->capture_default_str();
    command->add_option("--edge", arguments->edge, "voxels: 16, 32, 64, 128 or 256; the setup's if not given");
    return [arguments](const std::stop_token& stop) { return runStore(*arguments, stop); };
}

} // namespace fell::cli
