// SPDX-License-Identifier: Apache-2.0
#include "audit/audit.h"
#include "audit/light_audit.h"
#include "audit/stream_audit.h"
#include "commands.h"
#include "offscreen.h"

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct Arguments {
    WorldArguments world;
    std::vector<std::string> audits{"mesh"};
    std::int64_t cases = 2000;
};

AuditRow runMeshAudit(const Arguments& arguments, const Terrain& terrain, const std::stop_token& stop)
{
    MeshAuditSpec spec;
    spec.blocks = terrain.recipe.blocks;
    spec.cases = static_cast<std::uint64_t>(arguments.cases);
    spec.seed = terrain.recipe.seed;
    spec.progress = [](double share) { showProgress(share, "mesh"); };
    return auditMesh(spec, stop);
}

AuditRow runLightAudit(const Arguments& arguments, const Terrain& terrain, const std::stop_token& stop)
{
    LightAuditSpec spec;
    spec.blocks = terrain.recipe.blocks;
    spec.cases = static_cast<std::uint64_t>(arguments.cases);
    spec.seed = terrain.recipe.seed;
    spec.progress = [](double share) { showProgress(share, "light"); };
    return auditLight(spec, stop);
}

/// Counts the graphics memory too where there is a driver; says so where there is none.
AuditRow runStreamAudit(const Setup& setup, std::shared_ptr<const Terrain> terrain, const std::stop_token& stop)
{
    StreamAuditSpec spec;
    spec.setup = setup;
    spec.home = chunkOf(eyeAt({}, 2, *terrain).cell, setup.chunk.edge);
    spec.terrain = std::move(terrain);
    spec.progress = [](double share) { showProgress(share, "stream"); };
    std::unique_ptr<Offscreen> offscreen;
    if (auto made = Offscreen::create({16, 16})) {
        offscreen = made.take();
        Renderer& renderer = offscreen->renderer();
        renderer.begin(setup, *spec.terrain);
        spec.hooks.apply = [&renderer](const StreamEvent& event) {
            if (event.kind == StreamEvent::Kind::Upload)
                renderer.upload(event.mesh);
            else
                renderer.release(event.chunk);
        };
        spec.hooks.usedBytes = [&renderer] { return renderer.arena().usedBytes; };
    } else {
        std::cerr << "without graphics memory: " << sentence(made.problem()) << "\n";
    }
    return auditStream(spec, stop);
}

int run(const Arguments& arguments, const std::stop_token& stop)
{
    for (const auto& audit : arguments.audits)
        if (audit != "light" && audit != "mesh" && audit != "stream")
            return fail({"audit " + audit, "", "is no audit, allowed are light, mesh and stream"});
    if (arguments.cases < 1 || arguments.cases > 10000000)
        return fail({"--cases", "", "1 to 10000000 are allowed"});
    const auto setup = openSetup(arguments.world.setup, arguments.world.set);
    if (!setup)
        return fail(setup.problem());
    const auto terrain = openWorld(arguments.world);
    if (!terrain)
        return fail(terrain.problem());
    auto rows = nlohmann::ordered_json::array();
    bool holds = true;
    for (const auto& audit : arguments.audits) {
        const AuditRow row = audit == "light" ? runLightAudit(arguments, *terrain.value(), stop)
            : audit == "mesh"                 ? runMeshAudit(arguments, *terrain.value(), stop)
                                              : runStreamAudit(setup.value(), terrain.value(), stop);
        if (row.stopped)
            return kStopped;
        showProgress(1, audit);
        holds &= row.differences == 0;
        rows.push_back(
            {{"audit", row.audit}, {"cases", row.cases}, {"differences", row.differences}, {"first", row.first}});
        if (!arguments.world.json)
            std::cout << row.audit << ": " << row.cases << " cases, " << row.differences << " differences"
                      << (row.first.empty() ? "" : "; the first: " + row.first) << "\n";
    }
    if (arguments.world.json)
        std::cout << nlohmann::ordered_json{{"rows", rows}}.dump(2) << "\n";
    return holds ? kDone : kDoesNotHold;
}

} // namespace

Run addAudit(CLI::App& parser)
{
    auto* command
        = parser.add_subcommand("audit", "the slow plain way against the live one; exit code 1 where they differ");
    auto arguments = std::make_shared<Arguments>();
    addWorldOptions(*command, arguments->world);
    command->add_option("audits", arguments->audits, "which: light, mesh, stream")
        ->capture_default_str()
        ->delimiter(',');
    command->add_option("--cases", arguments->cases, "how many random neighbourhoods (mesh) or edits (light)")
        ->capture_default_str();
    return [arguments](const std::stop_token& stop) { return run(*arguments, stop); };
}

} // namespace fell::cli
