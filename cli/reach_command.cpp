// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "measure/reach.h"
#include "offscreen.h"

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct ReachArguments {
    WorldArguments world;
    std::vector<std::string> setups{"near"};
    std::string route = "beck-to-summit", size = "1280x800";
    double budget = 0;
    int frames = 24, farthest = 0;
};

Outcome<std::vector<ReachSpec>> specsOf(const ReachArguments& arguments)
{
    if (arguments.frames < 1 || arguments.frames > 10000)
        return Problem{"--frames " + std::to_string(arguments.frames), "", "a whole number from 1 to 10000 is wanted"};
    auto route = findRoute(arguments.route, demoFolder() / "routes");
    if (!route)
        return route.problem();
    auto terrain = openWorld(arguments.world);
    if (!terrain)
        return terrain.problem();
    std::vector<ReachSpec> specs;
    for (const std::string& name : arguments.setups) {
        auto setup = openSetup(name, arguments.world.set);
        if (!setup)
            return setup.problem();
        ReachSpec spec{terrain.value(), setup.take(), route.value(), arguments.frames, arguments.farthest};
        if (arguments.budget != 0)
            if (auto wrong = writeField(*findField("draw.budget"), spec.setup, arguments.budget))
                return Problem{"--budget", "", *wrong};
        const int most = hasLevels(spec.setup.lod) ? kFarthestWithLevels : kFarthestPlain;
        if (arguments.farthest < 0 || arguments.farthest > most)
            return Problem{"--farthest " + std::to_string(arguments.farthest), "",
                "1 to " + std::to_string(most) + " chunks are allowed with " + spec.setup.name};
        specs.push_back(std::move(spec));
    }
    return specs;
}

int runReach(const ReachArguments& arguments, const std::stop_token& stop)
{
    const auto specs = specsOf(arguments);
    if (!specs)
        return fail(specs.problem());
    const auto size = parseSize(arguments.size);
    if (!size)
        return fail({"--size " + arguments.size, "", "WIDTHxHEIGHT from 16x16 to 8192x8192 is wanted"});
    auto made = Offscreen::create(*size);
    if (!made)
        return fail(made.problem(), kMachineLacks);
    const auto offscreen = made.take();
    nlohmann::ordered_json all{{"reach", nlohmann::ordered_json::array()}};
    for (std::size_t i = 0; i < specs.value().size() && !stop.stop_requested(); ++i) {
        const double done = static_cast<double>(i) / static_cast<double>(specs.value().size());
        const ReachResult result = findReach(
            specs.value()[i], offscreen->hooks(),
            [done](const ReachResult&, const std::string& doing) { showProgress(done, doing); }, stop);
        all["reach"].push_back(toJson(result));
        if (arguments.world.json)
            continue;
        for (const ReachStep& step : result.steps)
            std::printf("%4d chunks: p50 %.2f ms, p95 %.2f ms%s%s\n", step.distance, step.frameMs.p50, step.frameMs.p95,
                step.isWithin ? "" : ", over the budget", step.isConfirming ? " (once more)" : "");
        for (const std::string& finding : findingsOf(result))
            std::printf("%s\n", finding.c_str());
    }
    if (arguments.world.json)
        std::cout << all.dump(2) << "\n";
    return kDone;
}

} // namespace

Run addReach(CLI::App& parser)
{
    auto* command = parser.add_subcommand("reach", "find the farthest render distance whose frames keep a budget");
    auto arguments = std::make_shared<ReachArguments>();
    auto& world = arguments->world;
    command->add_option("--world", world.world, "a recipe file or a demo")->capture_default_str();
    command->add_option("--seed", world.seed, "replaces the recipe's seed")->check(seedValidator());
    command->add_option("--setup", arguments->setups, "once for each setup")->allow_extra_args(false)->take_all();
    command->add_option("--set", world.set, "overrides one choice of all setups: path=value")->allow_extra_args(false);
    command->add_flag("--json", world.json, "print one JSON document");
    command->add_option("--budget", arguments->budget, "milliseconds a frame at p95, in place of the setup's");
    command->add_option("--route", arguments->route, "a route file or one of demo/routes")->capture_default_str();
    command->add_option("--frames", arguments->frames, "along the route at each distance")->capture_default_str();
    command->add_option("--farthest", arguments->farthest, "chunks; 0: what the setup may have at most")
        ->capture_default_str();
    command->add_option("--size", arguments->size, "of the picture, in pixels")->capture_default_str();
    return [arguments](const std::stop_token& stop) { return runReach(*arguments, stop); };
}

} // namespace fell::cli
