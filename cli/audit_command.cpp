// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "offscreen.h"
#include <fell/audit/audit.h>
#include <fell/audit/cull_audit.h>
#include <fell/audit/keep_audit.h>
#include <fell/audit/light_audit.h>
#include <fell/audit/order_audit.h>
#include <fell/audit/seam_audit.h>
#include <fell/audit/stream_audit.h>
#include <fell/input/nearest.h>
#include <fell/input/temp_folder.h>
#include <fell/measure/light_trial.h>

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
    bool quick = false;
};

/// The world that is audited.
struct AuditedWorld {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<WorldChanges> changes;
};

/// The paths of a setup that an audit uses.
std::vector<std::string> usedBy(const std::string& audit, bool ownWorld)
{
    if (audit == "mesh")
        return {"chunk.edge", "generate.method"};
    if (audit == "light" || audit == "order" || audit == "keep")
        return {"generate.method"};
    std::vector<std::string> all;
    for (const SetupField& field : setupFields()) {
        const bool isFixed = audit == "cull"
            ? field.path.rfind("light.", 0) == 0 || field.path == "mesh.mesher" || field.path == "mesh.shade"
                || field.path == "draw.submission"
                || (!ownWorld && (field.path == "chunk.edge" || field.path == "stream.distance"))
            : audit == "seams" && (field.path.rfind("light.", 0) == 0 || field.path == "mesh.layout");
        if (!isFixed)
            all.push_back(field.path);
    }
    return all;
}

AuditRow runMeshAudit(
    const AuditArguments& arguments, const Setup& setup, const AuditedWorld& world, const std::stop_token& stop)
{
    constexpr std::size_t kChunks = 16;
    const Terrain& terrain = *world.terrain;
    MeshAuditSpec spec;
    spec.chunks = surfaceChunks(
        terrain, *findGenerator(setup.generate.method), setup.chunk.edge, kChunks, stop, world.changes.get());
    spec.blocks = terrain.recipe.blocks;
    spec.cases = static_cast<std::uint64_t>(arguments.cases);
    spec.seed = terrain.recipe.seed;
    if (!arguments.world.methods.empty())
        spec.meshers = loadMethods(arguments.world).value(); // openSetup has loaded them
    spec.progress = [](double share) { showProgress(share, "mesh"); };
    return auditMesh(spec, stop);
}

AuditRow runLightAudit(
    const AuditArguments& arguments, const Setup& setup, const AuditedWorld& world, const std::stop_token& stop)
{
    constexpr int kLamps = 12;
    const Terrain& terrain = *world.terrain;
    LightRegion region = makeLightRegion(terrain, *findGenerator(setup.generate.method),
        {16, {3, 3, 3}, kLamps, terrain.recipe.seed}, stop, world.changes.get());
    LightAuditSpec spec;
    spec.blocks = region.blocks;
    spec.chunks = std::move(region.chunks);
    spec.cases = static_cast<std::uint64_t>(arguments.cases);
    spec.seed = terrain.recipe.seed;
    spec.progress = [](double share) { showProgress(share, "light"); };
    return auditLight(spec, stop);
}

AuditRow runOrderAudit(
    const AuditArguments& arguments, const Setup& setup, const AuditedWorld& world, const std::stop_token& stop)
{
    const std::uint64_t seed = world.terrain->recipe.seed;
    return auditOrder(
        {world.terrain, static_cast<std::uint64_t>(arguments.cases), seed,
            [](double share) { showProgress(share, "order"); }, world.changes, findGenerator(setup.generate.method)},
        stop);
}

Outcome<AuditRow> runKeepAudit(
    const AuditArguments& arguments, const Setup& setup, const AuditedWorld& world, const std::stop_token& stop)
{
    const std::uint64_t seed = world.terrain->recipe.seed;
    const auto folder = TempFolder::make();
    if (!folder)
        return folder.problem();
    return auditKeep(
        {world.terrain, static_cast<std::uint64_t>(arguments.cases), seed, folder.value()->path(),
            [](double share) { showProgress(share, "keep"); }, world.changes, findGenerator(setup.generate.method)},
        stop);
}

/// Counts the graphics memory too where there is a driver; says so where there is none.
AuditRow runStreamAudit(const Setup& setup, const AuditedWorld& world, const std::stop_token& stop)
{
    StreamAuditSpec spec;
    spec.setup = setup;
    spec.home = chunkOf(middleOfInterest(*world.terrain, world.changes.get()), setup.chunk.edge);
    spec.terrain = world.terrain;
    spec.changes = world.changes;
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
Outcome<CullAuditResult> runCullAudit(
    const AuditArguments& arguments, const Setup& setup, const AuditedWorld& named, const std::stop_token& stop)
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
            spec.terrain = named.terrain;
            spec.changes = named.changes;
            route = spec.world == "gallery" ? "gallery" : named.terrain->recipe.pattern ? "" : "beck-to-summit";
            if (named.terrain->recipe.pattern)
                spec.route = routeRoundChanges(*named.terrain, *named.changes);
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
        if (!route.empty() && !spec.route) {
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
        std::cout << "  " << step.step << (step.isExact ? " (exact)" : " (not exact)") << ": "
                  << counted(step.lost, "chunk") << " lost in " << counted(step.views, "view");
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
Outcome<SeamAuditResult> runSeamAudit(
    const AuditArguments& arguments, const Setup& setup, const AuditedWorld& world, const std::stop_token& stop)
{
    if (!hasLevels(setup.lod))
        return Problem{"--setup " + setup.name, "",
            "has no levels of detail, so nothing meets; allowed are setups with lod.scheme rings or error, e.g. "
            "long-view"};
    SeamAuditSpec spec;
    spec.setup = setup;
    if (world.terrain->recipe.pattern) {
        spec.route = routeRoundChanges(*world.terrain, *world.changes);
    } else {
        auto found = findRoute("beck-to-summit", demoFolder() / "routes");
        if (!found)
            return found.problem();
        spec.route = found.take();
    }
    spec.terrain = world.terrain;
    spec.changes = world.changes;
    spec.views = static_cast<std::uint64_t>(arguments.views);
    spec.progress = [](double share) { showProgress(share, "seams"); };
    return auditSeams(spec, stop);
}

/// What an audit found.
struct AuditRan {
    AuditRow row;
    std::optional<CullAuditResult> culled;
    std::optional<SeamAuditResult> seams;
};

/// kDone, or the exit code of what is in the way, which has been said.
int runOne(const std::string& audit, const AuditArguments& arguments, const Setup& settled, const AuditedWorld& world,
    const std::stop_token& stop, AuditRan& ran)
{
    if (audit == "cull") {
        auto result = runCullAudit(arguments, settled, world, stop);
        if (!result)
            return fail(result.problem(), kMachineLacks);
        ran.culled = result.take();
    }
    std::optional<AuditRow> kept;
    if (audit == "keep") {
        auto result = runKeepAudit(arguments, settled, world, stop);
        if (!result)
            return fail(result.problem(), kCannotWrite);
        kept = result.take();
    }
    if (audit == "seams") {
        auto result = runSeamAudit(arguments, settled, world, stop);
        if (!result)
            return fail(result.problem());
        ran.seams = result.take();
    }
    ran.row = ran.culled   ? ran.culled->row
        : audit == "light" ? runLightAudit(arguments, settled, world, stop)
        : ran.seams        ? ran.seams->row
        : audit == "order" ? runOrderAudit(arguments, settled, world, stop)
        : kept             ? *kept
        : audit == "mesh"  ? runMeshAudit(arguments, settled, world, stop)
                           : runStreamAudit(settled, world, stop);
    return kDone;
}

void sayAudit(const AuditRan& ran, bool isJson, nlohmann::ordered_json& rows)
{
    rows.push_back({{"audit", ran.row.audit}, {"cases", ran.row.cases}, {"differences", ran.row.differences},
        {"first", ran.row.first}});
    if (ran.culled)
        rows.back()["steps"] = toJson(ran.culled->steps);
    if (ran.seams) {
        rows.back()["borders"] = ran.seams->borders;
        rows.back()["uncovered"] = ran.seams->uncovered;
    }
    if (!isJson)
        std::cout << ran.row.audit << ": " << ran.row.cases << " cases, " << ran.row.differences << " differences"
                  << (ran.row.first.empty() ? "" : "; the first: " + ran.row.first) << "\n";
    if (!isJson && ran.culled)
        printAudit(*ran.culled);
    if (!isJson && ran.seams)
        std::cout << "  " << ran.seams->borders << " borders between levels, " << ran.seams->uncovered
                  << " cells that no side closes, seen or not\n";
}

int runAudit(const AuditArguments& asked, const std::stop_token& stop)
{
    for (const auto& audit : asked.audits)
        if (std::find(kAudits.begin(), kAudits.end(), audit) == kAudits.end())
            return fail({"audit " + audit, "",
                "is no audit, " + allowedNames(audit, std::vector<std::string>(kAudits.begin(), kAudits.end()))});
    if (asked.views < 4 || asked.views > 100000)
        return fail({"--views", "", "4 to 100000 are allowed"});
    if (asked.cases < 1 || asked.cases > 10000000)
        return fail({"--cases", "", "1 to 10000000 are allowed"});
    const auto asksMesher
        = [](const std::string& audit) { return audit == "mesh" || audit == "stream" || audit == "seams"; };
    if (!asked.world.methods.empty() && std::none_of(asked.audits.begin(), asked.audits.end(), asksMesher))
        return fail(
            {"--method " + asked.world.methods[0], "", "changes nothing here: mesh, stream and seams use a mesher"});
    auto setup = openSetup(asked.world.setup, asked.world);
    if (!setup)
        return fail(setup.problem());
    std::vector<std::string> used;
    for (const auto& audit : asked.audits)
        for (std::string& path : usedBy(audit, asked.ownWorld))
            used.push_back(std::move(path));
    if (auto problem = checkUsed(asked.world.set, used))
        return fail(*problem);
    AuditedWorld world{nullptr, std::make_shared<WorldChanges>()};
    const auto terrain = openWorld(asked.world, &world.changes);
    if (!terrain)
        return fail(terrain.problem());
    world.terrain = terrain.value();
    Setup settled = setup.take();
    if (auto problem = settleDistance(settled, world.terrain->recipe.voxelMetres))
        return fail(*problem);
    auto rows = nlohmann::ordered_json::array();
    bool holds = true;
    for (const auto& audit : asked.audits) {
        AuditArguments arguments = asked;
        if (arguments.quick) {
            arguments.cases = audit == "order" ? 135 : audit == "keep" ? 400 : 60;
            arguments.views = 24;
        }
        AuditRan ran;
        if (const int code = runOne(audit, arguments, settled, world, stop, ran); code != kDone)
            return code;
        if (ran.row.stopped)
            return kStopped;
        showProgress(1, audit);
        holds &= ran.row.differences == 0;
        sayAudit(ran, arguments.world.json, rows);
    }
    if (asked.world.json)
        printDocument("fell-audit", {{"rows", rows}});
    return holds ? kDone : kDoesNotHold;
}

} // namespace

Run addAudit(CLI::App& parser)
{
    auto* command
        = parser.add_subcommand("audit", "compare fast methods with their slow reference; exit code 1 if they differ");
    auto arguments = std::make_shared<AuditArguments>();
    addWorldOptions(*command, arguments->world);
    addMethodOption(*command, arguments->world);
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
    addDeviceOption(*command);
    command->add_flag("--quick", arguments->quick,
        "few cases of each, under 20 seconds in all: 60 of mesh and light, 135 of order, 400 of keep, 24 views");
    return [arguments, command](const std::stop_token& stop) -> int {
        if (arguments->quick)
            if (auto problem = checkUnused(*command, {"--cases", "--views"}, "--quick says how many"))
                return fail(*problem);
        arguments->ownWorld = command->count("--world") > 0;
        return runAudit(*arguments, stop);
    };
}

} // namespace fell::cli
