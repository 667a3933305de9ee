// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include <fell/measure/findings.h>
#include <fell/measure/machine.h>
#include <fell/measure/mesh_trial.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <iostream>
#include <tuple>

namespace fell::cli {
namespace {

struct MeshArguments {
    WorldArguments world;
    std::string meshers, layouts;
    int chunks = 64, repeat = 5;
    std::optional<int> edge;
    std::string a, b; // overrides of one side: both are compared
};

std::string hex(std::uint64_t value)
{
    char text[20];
    std::snprintf(text, sizeof text, "%016llx", static_cast<unsigned long long>(value));
    return text;
}

void printMeshJson(const MeshTrial& trial)
{
    nlohmann::ordered_json root{{"edge", trial.edge}, {"chunks", trial.chunks}, {"shade", trial.ambientOcclusion},
        {"limits", {{"copy_ns", trial.copyNs}, {"scan_ns", trial.scanNs}, {"gather_ns", trial.gatherNs}}},
        {"rows", nlohmann::json::array()}};
    for (const auto& row : trial.rows)
        root["rows"].push_back({{"mesher", row.mesher}, {"layout", row.layout},
            {"chunk_ns", {{"p50", row.chunkNs.p50}, {"p95", row.chunkNs.p95}}}, {"quads", row.quads},
            {"triangles", row.triangles}, {"vertex_bytes", row.vertexBytes}, {"exposed_area", row.exposedArea},
            {"merged_area", row.mergedArea}, {"digest", hex(row.digest)}});
    printDocument("fell-mesh", root);
}

void printMeshText(const MeshTrial& trial)
{
    std::printf("%s of edge %d, %s corner shade, one thread, medians. Limits a chunk: copying %.1f us, one "
                "pass %.1f us, "
                "gathering %.1f us\n\n",
        counted(trial.chunks, "chunk").c_str(), trial.edge, trial.ambientOcclusion ? "with" : "without",
        trial.copyNs / 1000, trial.scanNs / 1000, trial.gatherNs / 1000);
    std::printf("%-11s %-8s %12s %12s %12s %14s %16s  %s\n", "mesher", "layout", "us p50", "us p95", "quads", "bytes",
        "x the first", "surface digest");
    for (const auto& row : trial.rows)
        std::printf("%-11s %-8s %12.1f %12.1f %12llu %14llu %16.3f  %s\n", row.mesher.c_str(), row.layout.c_str(),
            row.chunkNs.p50 / 1000, row.chunkNs.p95 / 1000, static_cast<unsigned long long>(row.quads),
            static_cast<unsigned long long>(row.vertexBytes), row.chunkNs.p50 / trial.rows[0].chunkNs.p50,
            hex(row.digest).c_str());
}

nlohmann::ordered_json rowJson(const MeshTrialRow& row, int edge)
{
    return {{"mesher", row.mesher}, {"layout", row.layout}, {"edge", edge},
        {"chunk_ns", {{"p50", row.chunkNs.p50}, {"p95", row.chunkNs.p95}}}, {"quads", row.quads},
        {"triangles", row.triangles}, {"vertex_bytes", row.vertexBytes}, {"digest", hex(row.digest)}};
}

/// --a and --b: two ways of meshing the same ground, in turn.
int compareSides(const MeshArguments& arguments, const Setup& common, const Terrain& terrain,
    const WorldChanges* changes, const std::stop_token& stop)
{
    std::array<Setup, 2> setups{common, common};
    for (const auto& [side, text, setup] :
        {std::tuple("A", &arguments.a, &setups[0]), std::tuple("B", &arguments.b, &setups[1])}) {
        std::vector<std::string> parts = splitList(*text);
        if (parts == std::vector<std::string>{""})
            parts.clear();
        if (auto problem = checkUsed(parts, {"chunk.edge", "mesh.mesher", "mesh.layout", "mesh.shade"}))
            return fail({std::string(side == std::string("A") ? "--a" : "--b"), "",
                problem->where.substr(6) + " " + problem->what});
        if (auto problem = applySide(*setup, side, *text, {}))
            return fail(*problem);
    }
    const auto differences = differencesOf(setups[0], setups[1]);
    if (differences.empty())
        return fail({"--a, --b", "", "make no difference: name a path and a value, such as --a mesh.mesher=greedy"});
    std::array<std::vector<PaddedVoxels>, 2> chunks;
    std::array<MeshSide, 2> sides;
    for (std::size_t s = 0; s < 2; ++s) {
        chunks[s] = surfaceChunks(terrain, *findGenerator(setups[s].generate.method), setups[s].chunk.edge,
            static_cast<std::size_t>(arguments.chunks), stop, changes);
        if (stop.stop_requested())
            return kStopped;
        if (chunks[s].empty())
            return fail(
                {"--world " + arguments.world.world, "", "has no chunk with a surface within 64 chunks of its middle"});
        sides[s] = {&chunks[s], findMesher(setups[s].mesh.mesher), findLayout(setups[s].mesh.layout),
            setups[s].mesh.ambientOcclusion == "corners"};
    }
    const MeshComparison found
        = compareMeshing(sides[0], sides[1], sideRulesOf(terrain.recipe.blocks), std::max(2, arguments.repeat), stop);
    if (found.stopped)
        return kStopped;
    if (found.a.quads == 0 || found.b.quads == 0)
        return fail(
            {"--world " + arguments.world.world, "", "has nothing to mesh: a side makes no quad in its chunks"});
    const bool isSame = chunks[0][0].edge != chunks[1][0].edge || found.a.digest == found.b.digest;
    if (arguments.world.json) {
        nlohmann::ordered_json root{{"rounds", found.rounds.size()}, {"differences", nlohmann::ordered_json::array()}};
        for (const SetupDifference& one : differences)
            root["differences"].push_back({{"path", one.path}, {"a", one.a}, {"b", one.b}});
        root["rows"] = {rowJson(found.a, chunks[0][0].edge), rowJson(found.b, chunks[1][0].edge)};
        root["ratios"] = {{{"what", "mesh_ns_per_voxel"}, {"ratio", found.ratio.ratio}, {"low", found.ratio.low},
            {"high", found.ratio.high}}};
        root["same_surface"] = isSame;
        printDocument("fell-mesh-comparison", root);
    } else {
        for (const SetupDifference& one : differences)
            std::printf("%s: A %s, B %s\n", one.path.c_str(), one.a.c_str(), one.b.c_str());
        for (const auto& [name, row, edge] :
            {std::tuple("A", &found.a, chunks[0][0].edge), std::tuple("B", &found.b, chunks[1][0].edge)})
            std::printf("%s: %s, %s, edge %d: p50 %.1f us a chunk, %llu quads, %llu bytes\n", name, row->mesher.c_str(),
                row->layout.c_str(), edge, row->chunkNs.p50 / 1000, static_cast<unsigned long long>(row->quads),
                static_cast<unsigned long long>(row->vertexBytes));
        std::printf("A needs %.3fx the mesh time a voxel of B (%.3f to %.3f, 95 %% over %zu rounds)%s\n",
            found.ratio.ratio, found.ratio.low, found.ratio.high, found.rounds.size(),
            isSame ? "" : "; THEIR SURFACES DIFFER");
    }
    return isSame ? kDone : kDoesNotHold;
}

/// With --method alone: the first library against the second, or else against the setup's own mesher.
std::optional<Problem> compareMethods(MeshArguments& arguments)
{
    const auto methods = loadMethods(arguments.world);
    if (!methods)
        return methods.problem();
    WorldArguments without = arguments.world;
    without.methods.clear();
    const auto own = openSetup(arguments.world.setup, without);
    if (!own)
        return own.problem();
    const auto& all = methods.value();
    arguments.a = std::string("mesh.mesher=") + all[0]->id;
    arguments.b = "mesh.mesher=" + (all.size() > 1 ? std::string(all[1]->id) : own.value().mesh.mesher);
    return std::nullopt;
}

int runMesh(const MeshArguments& arguments, const std::stop_token& stop)
{
    std::vector<std::string> used{"chunk.edge", "generate.method", "mesh.layout", "mesh.shade"};
    if (!arguments.a.empty() || !arguments.b.empty())
        used.emplace_back("mesh.mesher"); // else --mesher says which
    if (auto problem = checkUsed(arguments.world.set, used))
        return fail(*problem);
    auto setup = openSetup(arguments.world.setup, arguments.world);
    if (!setup)
        return fail(setup.problem());
    Setup chosen = setup.take();
    if (arguments.edge)
        if (auto problem = applyOverride(chosen, "chunk.edge=" + std::to_string(*arguments.edge)))
            return fail({"--edge " + std::to_string(*arguments.edge), "", problem->what});
    if (arguments.chunks < 1 || arguments.chunks > 4096 || arguments.repeat < 1 || arguments.repeat > 1000)
        return fail({"--chunks, --repeat", "", "1 to 4096 chunks and 1 to 1000 repetitions are allowed"});
    std::string listed = arguments.meshers;
    for (const Mesher* loaded : loadMethods(arguments.world).take()) // openSetup has loaded them
        listed += std::string(",") + loaded->id;
    const auto methods = chooseMethods("--mesher", listed, meshers());
    if (!methods)
        return fail(methods.problem());
    const auto layouts = chooseMethods(
        "--layout", arguments.layouts.empty() ? chosen.mesh.layout : arguments.layouts, vertexLayouts());
    if (!layouts)
        return fail(layouts.problem());
    std::shared_ptr<WorldChanges> changes;
    const auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return fail(terrain.problem());
    if (!arguments.a.empty() || !arguments.b.empty())
        return compareSides(arguments, chosen, *terrain.value(), changes.get(), stop);
    const auto chunks = surfaceChunks(*terrain.value(), *findGenerator(chosen.generate.method), chosen.chunk.edge,
        static_cast<std::size_t>(arguments.chunks), stop, changes.get());
    if (chunks.empty())
        return stop.stop_requested() ? static_cast<int>(kStopped)
                                     : fail({"--world " + arguments.world.world, "",
                                         "has no chunk with a surface within 64 chunks of its middle"});
    const MeshTrial trial = runMeshTrial(chunks, sideRulesOf(terrain.value()->recipe.blocks),
        {methods.value(), layouts.value(), chosen.mesh.ambientOcclusion == "corners", arguments.repeat}, stop);
    if (trial.stopped)
        return kStopped;
    if (std::all_of(trial.rows.begin(), trial.rows.end(), [](const MeshTrialRow& row) { return row.triangles == 0; }))
        return fail({"--world " + arguments.world.world, "",
            "has nothing to mesh: none of these meshers makes a surface in its chunks"});
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
        = parser.add_subcommand("mesh", "mesh the same surface chunks with each method, interleaved, on one thread");
    auto arguments = std::make_shared<MeshArguments>();
    for (const Mesher& mesher : meshers()) // all that show the same surface
        if (!mesher.traits.makesTriangles)
            arguments->meshers += (arguments->meshers.empty() ? "" : ",") + std::string(mesher.id);
    addWorldOptions(*command, arguments->world);
    addMethodOption(*command, arguments->world);
    command->add_option("--mesher", arguments->meshers, "which methods, separated by commas")->capture_default_str();
    command->add_option(
        "--layout", arguments->layouts, "which vertex layouts, separated by commas; the setup's if not given");
    command->add_option("--chunks", arguments->chunks, "how many surface chunks")->capture_default_str();
    command->add_option("--edge", arguments->edge, "chunk edge in voxels: 16, 32 or 64");
    command->add_option("--repeat", arguments->repeat, "how often each chunk is meshed")->capture_default_str();
    command->add_option("--a", arguments->a, "path=value[,path=value] of A alone: prints the ratio of A to B");
    command->add_option("--b", arguments->b, "the same of B alone; both begin from the setup");
    return [arguments, command](const std::stop_token& stop) -> int {
        if (!arguments->a.empty() || !arguments->b.empty())
            if (auto problem
                = checkUnused(*command, {"--mesher", "--layout", "--edge"}, "--a and --b say what differs"))
                return fail(*problem);
        const bool isBare = arguments->a.empty() && arguments->b.empty() && command->count("--mesher") == 0;
        if (!arguments->world.methods.empty() && isBare)
            if (auto problem = compareMethods(*arguments))
                return fail(*problem);
        return runMesh(*arguments, stop);
    };
}

} // namespace fell::cli
