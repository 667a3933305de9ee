// SPDX-License-Identifier: Apache-2.0
#include "audit/audit.h"
#include "audit/cull_audit.h"
#include "audit/keep_audit.h"
#include "audit/light_audit.h"
#include "audit/order_audit.h"
#include "audit/seam_audit.h"
#include "audit/stream_audit.h"
#include "commands.h"
#include "offscreen.h"

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

constexpr std::array<const char*, 7> kAudits{"cull", "keep", "light", "mesh", "order", "seams", "stream"};

struct AuditArguments {
    WorldArguments world;
    std::vector<std::string> audits{"mesh"};
    std::int64_t cases = 2000, views = 520;
    bool ownWorld = false; // --world was given
};

AuditRow runMeshAudit(const AuditArguments& arguments, const Terrain& terrain, const std::stop_token& stop)
{
    MeshAuditSpec spec;
    spec.blocks = terrain.recipe.blocks;
    spec.cases = static_cast<std::uint64_t>(arguments.cases);
    spec.seed = terrain.recipe.seed;
    spec.progress = [](double share) { showProgress(share, "mesh"); };
    return auditMesh(spec, stop);
}

AuditRow runLightAudit(const AuditArguments& arguments, const Terrain& terrain, const std::stop_token& stop)
{
    LightAuditSpec spec;
    spec.blocks = terrain.recipe.blocks;
    spec.cases = static_cast<std::uint64_t>(arguments.cases);
    spec.seed = terrain.recipe.seed;
    spec.progress = [](double share) { showProgress(share, "light"); };
    return auditLight(spec, stop);
}

AuditRow runOrderAudit(
    const AuditArguments& arguments, std::shared_ptr<const Terrain> terrain, const std::stop_token& stop)
{
    const std::uint64_t seed = terrain->recipe.seed;
    return auditOrder({std::move(terrain), static_cast<std::uint64_t>(arguments.cases), seed,
                          [](double share) { showProgress(share, "order"); }},
        stop);
}

AuditRow runKeepAudit(
    const AuditArguments& arguments, std::shared_ptr<const Terrain> terrain, const std::stop_token& stop)
{
    const std::uint64_t seed = terrain->recipe.seed;
    return auditKeep({std::move(terrain), static_cast<std::uint64_t>(arguments.cases), seed,
                         std::filesystem::temp_directory_path(), [](double share) { showProgress(share, "keep"); }},
        stop);
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
        spec.hooks.apply = [&renderer](const StreamEvent& event) { renderer.apply(event); };
        spec.hooks.usedBytes = [&renderer] { return renderer.arena().usedBytes; };
    } else {
        std::cerr << "without graphics memory: " << sentence(made.problem()) << "\n";
    }
    return auditStream(spec, stop);
}

/// A world of the audit of culling, and how much of it is drawn a view.
struct CullWorld {
    const char* world;
    const char* route; // nullptr: places by chance
    int edge, distance;
};
constexpr std::array<CullWorld, 4> kCullWorlds{{{"corrowdale", "beck-to-summit", 32, 4}, {"gallery", "gallery", 16, 6},
    {"dust", nullptr, 16, 3}, {"checker", nullptr, 16, 2}}};

/// One world if it was named, else four in turn.
Outcome<CullAuditResult> runCullAudit(const AuditArguments& arguments, const Setup& setup,
    std::shared_ptr<const Terrain> named, const std::stop_token& stop)
{
    auto made = Offscreen::create({320, 200});
    if (!made)
        return made.problem();
    const auto offscreen = made.take();
    CullAuditResult all;
    const auto worlds = arguments.ownWorld ? std::span(kCullWorlds).first(1) : std::span(kCullWorlds);
    for (const CullWorld& of : worlds) {
        CullAuditSpec spec;
        spec.world = arguments.ownWorld ? arguments.world.world : of.world;
        spec.setup = setup;
        spec.setup.light.mode = "none"; // nothing is lit here
        std::string route = of.route ? of.route : "";
        if (arguments.ownWorld) {
            spec.terrain = named;
            route = spec.world == "gallery" ? "gallery" : named->recipe.pattern ? "" : "beck-to-summit";
        } else {
            WorldArguments world = arguments.world;
            world.world = of.world;
            auto terrain = openWorld(world);
            if (!terrain)
                return terrain.problem();
            spec.terrain = terrain.take();
            spec.setup.chunk.edge = of.edge;
            spec.setup.stream.distance = of.distance;
        }
        if (!route.empty()) {
            auto found = findRoute(route, demoFolder() / "routes");
            if (!found)
                return found.problem();
            spec.route = found.take();
        }
        spec.views = static_cast<std::uint64_t>(arguments.views) / worlds.size();
        spec.hooks = cullAuditHooksFor(offscreen->renderer(), offscreen->target());
        spec.progress = [&](double share) { showProgress(share, "cull, " + spec.world); };
        addTo(all, auditCull(spec, stop));
        if (all.row.stopped)
            break;
    }
    return all;
}

nlohmann::ordered_json toJson(const std::vector<StepFinding>& steps)
{
    auto out = nlohmann::ordered_json::array();
    for (const StepFinding& step : steps)
        out.push_back({{"step", step.step}, {"exact", step.isExact}, {"lost", step.lost}, {"views", step.views}});
    return out;
}

void printAudit(const CullAuditResult& result)
{
    std::cout << "chunks seen: " << result.seen << "\n";
    for (const StepFinding& step : result.steps) {
        std::cout << "  " << step.step << (step.isExact ? " (exact)" : " (not exact)") << ": " << step.lost
                  << " chunks lost in " << step.views << " views";
        const auto first = std::find_if(
            result.lost.begin(), result.lost.end(), [&step](const LostChunk& lost) { return lost.step == step.step; });
        if (first != result.lost.end())
            std::cout << "; the first: chunk " << first->chunk.x << ", " << first->chunk.y << ", " << first->chunk.z
                      << " of " << first->world << ", " << first->pixels << " pixels, view " << first->view << ", "
                      << first->kind;
        std::cout << "\n";
    }
}

/// Along the demo route where the world has it.
Outcome<SeamAuditResult> runSeamAudit(const AuditArguments& arguments, const Setup& setup,
    std::shared_ptr<const Terrain> terrain, const std::stop_token& stop)
{
    if (!hasLevels(setup.lod))
        return Problem{"--setup " + setup.name, "",
            "has no levels of detail, so nothing meets; allowed are setups with lod.scheme rings or error, e.g. "
            "long-view"};
    SeamAuditSpec spec;
    spec.setup = setup;
    if (!terrain->recipe.pattern) {
        auto found = findRoute("beck-to-summit", demoFolder() / "routes");
        if (!found)
            return found.problem();
        spec.route = found.take();
    }
    spec.terrain = std::move(terrain);
    spec.views = static_cast<std::uint64_t>(arguments.views);
    spec.progress = [](double share) { showProgress(share, "seams"); };
    return auditSeams(spec, stop);
}

int runAudit(const AuditArguments& arguments, const std::stop_token& stop)
{
    for (const auto& audit : arguments.audits)
        if (std::find(kAudits.begin(), kAudits.end(), audit) == kAudits.end())
            return fail({"audit " + audit, "",
                "is no audit, allowed are " + listOf(std::vector<std::string>(kAudits.begin(), kAudits.end()))});
    if (arguments.views < 4 || arguments.views > 100000)
        return fail({"--views", "", "4 to 100000 are allowed"});
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
        std::optional<CullAuditResult> culled;
        if (audit == "cull") {
            auto result = runCullAudit(arguments, setup.value(), terrain.value(), stop);
            if (!result)
                return fail(result.problem(), kMachineLacks);
            culled = result.take();
        }
        std::optional<SeamAuditResult> seams;
        if (audit == "seams") {
            auto result = runSeamAudit(arguments, setup.value(), terrain.value(), stop);
            if (!result)
                return fail(result.problem());
            seams = result.take();
        }
        const AuditRow row = culled ? culled->row
            : audit == "light"      ? runLightAudit(arguments, *terrain.value(), stop)
            : seams                 ? seams->row
            : audit == "order"      ? runOrderAudit(arguments, terrain.value(), stop)
            : audit == "keep"       ? runKeepAudit(arguments, terrain.value(), stop)
            : audit == "mesh"       ? runMeshAudit(arguments, *terrain.value(), stop)
                                    : runStreamAudit(setup.value(), terrain.value(), stop);
        if (row.stopped)
            return kStopped;
        showProgress(1, audit);
        holds &= row.differences == 0;
        rows.push_back(
            {{"audit", row.audit}, {"cases", row.cases}, {"differences", row.differences}, {"first", row.first}});
        if (culled)
            rows.back()["steps"] = toJson(culled->steps);
        if (seams) {
            rows.back()["borders"] = seams->borders;
            rows.back()["uncovered"] = seams->uncovered;
        }
        if (!arguments.world.json)
            std::cout << row.audit << ": " << row.cases << " cases, " << row.differences << " differences"
                      << (row.first.empty() ? "" : "; the first: " + row.first) << "\n";
        if (!arguments.world.json && culled)
            printAudit(*culled);
        if (!arguments.world.json && seams)
            std::cout << "  " << seams->borders << " borders between levels, " << seams->uncovered
                      << " cells that no side closes, seen or not\n";
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
    auto arguments = std::make_shared<AuditArguments>();
    addWorldOptions(*command, arguments->world);
    command->add_option("audits", arguments->audits, "which: cull, keep, light, mesh, order, seams, stream")
        ->capture_default_str()
        ->delimiter(',');
    command
        ->add_option(
            "--cases", arguments->cases, "how many random neighbourhoods (mesh), edits (light, keep) or chunks (order)")
        ->capture_default_str();
    command
        ->add_option("--views", arguments->views,
            "how many views: cull, spread over four worlds or in --world; seams, along the route")
        ->capture_default_str();
    return [arguments, command](const std::stop_token& stop) {
        arguments->ownWorld = command->count("--world") > 0;
        return runAudit(*arguments, stop);
    };
}

} // namespace fell::cli
