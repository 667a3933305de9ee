// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include "measure/machine.h"
#include "measure/mesh_trial.h"

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct MeshArguments {
    WorldArguments world;
    std::string meshers, layouts;
    int chunks = 64, repeat = 5;
    std::optional<int> edge;
};

std::string hex(std::uint64_t value)
{
    char text[20];
    std::snprintf(text, sizeof text, "%016llx", static_cast<unsigned long long>(value));
    return text;
}

void printMeshJson(const MeshTrial& trial)
{
    nlohmann::ordered_json root{{"edge", trial.edge}, {"chunks", trial.chunks}, {"shade", trial.shade},
        {"limits", {{"copy_ns", trial.copyNs}, {"scan_ns", trial.scanNs}, {"gather_ns", trial.gatherNs}}},
        {"rows", nlohmann::json::array()}};
    for (const auto& row : trial.rows)
        root["rows"].push_back({{"mesher", row.mesher}, {"layout", row.layout},
            {"chunk_ns", {{"p50", row.chunkNs.p50}, {"p95", row.chunkNs.p95}}}, {"quads", row.quads},
            {"triangles", row.triangles}, {"vertex_bytes", row.vertexBytes}, {"exposed_area", row.exposedArea},
            {"merged_area", row.mergedArea}, {"digest", hex(row.digest)}});
    std::cout << root.dump(2) << "\n";
}

void printMeshText(const MeshTrial& trial)
{
    std::printf("%zu chunks of edge %d, %s corner shade, one thread, medians. Limits a chunk: copying %.1f us, one "
                "pass %.1f us, "
                "gathering %.1f us\n\n",
        trial.chunks, trial.edge, trial.shade ? "with" : "without", trial.copyNs / 1000, trial.scanNs / 1000,
        trial.gatherNs / 1000);
    std::printf("%-10s %-8s %12s %12s %12s %14s %16s  %s\n", "mesher", "layout", "us p50", "us p95", "quads", "bytes",
        "x the first", "surface digest");
    for (const auto& row : trial.rows)
        std::printf("%-10s %-8s %12.1f %12.1f %12llu %14llu %16.3f  %s\n", row.mesher.c_str(), row.layout.c_str(),
            row.chunkNs.p50 / 1000, row.chunkNs.p95 / 1000, static_cast<unsigned long long>(row.quads),
            static_cast<unsigned long long>(row.vertexBytes), row.chunkNs.p50 / trial.rows[0].chunkNs.p50,
            hex(row.digest).c_str());
}

int runMesh(const MeshArguments& arguments, const std::stop_token& stop)
{
    auto setup = openSetup(arguments.world.setup, arguments.world.set);
    if (!setup)
        return fail(setup.problem());
    Setup chosen = setup.take();
    if (arguments.edge)
        if (auto problem = applyOverride(chosen, "chunk.edge=" + std::to_string(*arguments.edge)))
            return fail({"--edge " + std::to_string(*arguments.edge), "", problem->what});
    if (arguments.chunks < 1 || arguments.chunks > 4096 || arguments.repeat < 1 || arguments.repeat > 1000)
        return fail({"--chunks, --repeat", "", "1 to 4096 chunks and 1 to 1000 repetitions are allowed"});
    const auto methods = chooseMethods("--mesher", arguments.meshers, meshers());
    if (!methods)
        return fail(methods.problem());
    const auto layouts = chooseMethods(
        "--layout", arguments.layouts.empty() ? chosen.mesh.layout : arguments.layouts, vertexLayouts());
    if (!layouts)
        return fail(layouts.problem());
    const auto terrain = openWorld(arguments.world);
    if (!terrain)
        return fail(terrain.problem());
    const auto chunks = surfaceChunks(*terrain.value(), *findGenerator(chosen.generate.method), chosen.chunk.edge,
        static_cast<std::size_t>(arguments.chunks), stop);
    if (chunks.empty())
        return stop.stop_requested() ? static_cast<int>(kStopped)
                                     : fail({"--world " + arguments.world.world, "",
                                         "has no chunk with a surface within 64 chunks of its origin"});
    const MeshTrial trial = runMeshTrial(chunks, sideRulesOf(terrain.value()->recipe.blocks),
        {methods.value(), layouts.value(), chosen.mesh.shade == "corners", arguments.repeat}, stop);
    if (trial.stopped)
        return kStopped;
    if (arguments.world.json)
        printMeshJson(trial);
    else
        printMeshText(trial);
    return kDone;
}

} // namespace

Run addMesh(CLI::App& parser)
{
    auto* command
        = parser.add_subcommand("mesh", "mesh the same surface chunks with each method, in turn, on one thread");
    auto arguments = std::make_shared<MeshArguments>();
    for (const Mesher& mesher : meshers())
        arguments->meshers += (arguments->meshers.empty() ? "" : ",") + std::string(mesher.id);
    addWorldOptions(*command, arguments->world);
    command->add_option("--mesher", arguments->meshers, "which, separated by commas")->capture_default_str();
    command->add_option(
        "--layout", arguments->layouts, "which vertex layouts, separated by commas; the setup's if not given");
    command->add_option("--chunks", arguments->chunks, "how many surface chunks")->capture_default_str();
    command->add_option("--edge", arguments->edge, "chunk edge in voxels: 16, 32 or 64");
    command->add_option("--repeat", arguments->repeat, "how often each chunk is meshed")->capture_default_str();
    return [arguments](const std::stop_token& stop) { return runMesh(*arguments, stop); };
}

} // namespace fell::cli
