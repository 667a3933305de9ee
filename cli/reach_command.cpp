// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "offscreen.h"
#include <fell/measure/findings.h>
#include <fell/measure/reach.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <iostream>

namespace fell::cli {
namespace {

struct ReachArguments {
    WorldArguments world;
    std::vector<std::string> setups{"near"};
    std::string a, b, route, size = "1280x800";
    std::optional<double> budget; // else the setup's
    int frames = 24, farthest = 0;
};

Outcome<std::vector<ReachSpec>> specsOf(const ReachArguments& arguments)
{
    if (arguments.frames < 1 || arguments.frames > 10000)
        return Problem{
            "--frames " + std::to_string(arguments.frames), "", "a whole number from 1 to 10000 is expected"};
    std::shared_ptr<WorldChanges> changes;
    auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return terrain.problem();
    auto route = openRoute(arguments.route, arguments.world.world, *terrain.value(), changes);
    if (!route)
        return route.problem();
    std::vector<ReachSpec> specs;
    std::vector<Setup> setups;
    for (const std::string& name : arguments.setups) {
        auto setup = openSetup(name, arguments.world);
        if (!setup)
            return setup.problem();
        setups.push_back(setup.take());
    }
    if (!arguments.a.empty() || !arguments.b.empty()) {
        if (setups.size() > 1)
            return Problem{"--a, --b", "", "change one common setup; name one --setup"};
        setups.push_back(setups[0]);
        const std::vector<std::string> kSearched{"stream.distance", "stream.metres"};
        if (auto wrong = applySide(setups[0], "A", arguments.a, kSearched))
            return *wrong;
        if (auto wrong = applySide(setups[1], "B", arguments.b, kSearched))
            return *wrong;
    }
    for (Setup& setup : setups) {
        setup.stream.metres = 0; // the distance is what is looked for
        ReachSpec spec{terrain.value(), setup, route.value(), arguments.frames, arguments.farthest, changes};
        if (arguments.budget)
            if (auto wrong = writeField(*findField("draw.budget"), spec.setup, *arguments.budget))
                return Problem{"--budget", "", *wrong};
        const int max = hasLevels(spec.setup.lod) ? kFarthestWithLevels : kFarthestPlain;
        if (arguments.farthest < 0 || arguments.farthest > max)
            return Problem{"--farthest " + std::to_string(arguments.farthest), "",
                "1 to " + std::to_string(max) + " chunks are allowed with " + spec.setup.name};
        specs.push_back(std::move(spec));
    }
    return specs;
}

/// Both setups at one distance, in turn.
TransectResult compareAt(
    int distance, const std::vector<ReachSpec>& specs, const DrawHooks& hooks, const std::stop_token& stop)
{
    constexpr int kRounds = 4;
    TransectSpec spec;
    spec.terrain = specs[0].terrain;
    spec.changes = specs[0].changes;
    spec.a = specs[0].setup;
    spec.b = specs[1].setup;
    spec.route = specs[0].route;
    spec.values = {distance};
    spec.rounds = kRounds;
    spec.frames = specs[0].frames;
    spec.trySteps = false;
    return runTransect(
        spec, &hooks, [](const TransectProgress& at) { showProgress(at.share, at.doing); }, stop);
}

int runReach(const ReachArguments& arguments, const std::stop_token& stop)
{
    const auto specs = specsOf(arguments);
    if (!specs)
        return fail(specs.problem());
    const auto size = parseSize(arguments.size);
    if (!size)
        return fail({"--size " + arguments.size, "", "WIDTHxHEIGHT from 16x16 to 8192x8192 is expected"});
    auto made = Offscreen::create(*size);
    if (!made)
        return fail(made.problem(), kMachineLacks);
    const auto offscreen = made.take();
    nlohmann::ordered_json all{{"reach", nlohmann::ordered_json::array()}};
    std::vector<int> distances;
    if (specs.value().size() == 2)
        sayDifferences(specs.value()[0].setup, specs.value()[1].setup);
    for (std::size_t i = 0; i < specs.value().size() && !stop.stop_requested(); ++i) {
        const double done = static_cast<double>(i) / static_cast<double>(specs.value().size());
        const ReachResult result = findReach(
            specs.value()[i], offscreen->hooks(),
            [done](const ReachResult&, const std::string& doing) { showProgress(done, doing); }, stop);
        if (result.isEmpty && !result.stopped)
            return fail({"--world " + arguments.world.world, "",
                "shows nothing on the route \"" + specs.value()[i].route.title
                    + "\" up to the farthest distance: choose another --route"});
        all["reach"].push_back(toJson(result));
        if (!result.stopped)
            distances.push_back(result.distance.value_or(0));
        if (arguments.world.json)
            continue;
        for (const ReachStep& step : result.steps)
            std::printf("%11s: p50 %.2f ms, p95 %.2f ms%s%s\n",
                counted(static_cast<std::uint64_t>(step.distance), "chunk").c_str(), step.frameMs.p50, step.frameMs.p95,
                step.isWithin ? "" : ", over the budget", step.isConfirming ? " (once more)" : "");
        for (const std::string& finding : findingsOf(result))
            std::printf("%s\n", finding.c_str());
    }
    if (distances.size() == 2 && std::min(distances[0], distances[1]) > 0 && !stop.stop_requested()) {
        const int common = std::min(distances[0], distances[1]);
        const TransectResult both = compareAt(common, specs.value(), offscreen->hooks(), stop);
        all["ratios"] = nlohmann::ordered_json::array();
        for (const TransectRatio& ratio : both.ratios) {
            all["ratios"].push_back({{"value", common}, {"what", ratio.what}, {"ratio", ratio.ratio.ratio},
                {"low", ratio.ratio.low}, {"high", ratio.ratio.high}});
            if (!arguments.world.json)
                std::printf("At %s, which both reach, %s\n",
                    counted(static_cast<std::uint64_t>(common), "chunk").c_str(),
                    verdictOf(ratio, both.rounds).c_str());
        }
    }
    if (arguments.world.json)
        printDocument("fell-reach", all);
    return kDone;
}

} // namespace

Run addReach(CLI::App& parser)
{
    auto* command
        = parser.add_subcommand("reach", "find the largest render distance whose frames are within the budget at p95");
    auto arguments = std::make_shared<ReachArguments>();
    auto& world = arguments->world;
    command->add_option("--world", world.world, "a world file, a recipe file, or a demo")->capture_default_str();
    command->add_option("--seed", world.seed, "replaces the recipe's seed")->check(seedValidator());
    addMethodOption(*command, arguments->world);
    command->add_option("--setup", arguments->setups, "once for each setup")->allow_extra_args(false)->take_all();
    command->add_option("--set", world.set, "sets one setting of all setups: path=value")->allow_extra_args(false);
    command->add_flag("--json", world.json, "print one JSON document");
    command->add_option("--budget", arguments->budget, "milliseconds per frame at p95; not given: that of the setup");
    command->add_option("--a", arguments->a, "path=value[,path=value] of A alone: compares with B at what both reach");
    command->add_option("--b", arguments->b, "the same of B alone; both begin from the setup");
    addRouteOption(*command, arguments->route);
    command->add_option("--frames", arguments->frames, "along the route at each distance")->capture_default_str();
    command->add_option("--farthest", arguments->farthest, "chunks; 0: as far as the setup allows")
        ->capture_default_str();
    command->add_option("--size", arguments->size, "of the picture, in pixels")->capture_default_str();
    addDeviceOption(*command);
    return [arguments](const std::stop_token& stop) { return runReach(*arguments, stop); };
}

} // namespace fell::cli
