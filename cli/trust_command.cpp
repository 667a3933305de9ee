// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include <fell/measure/trust.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <iostream>

namespace fell::cli {
namespace {

struct TrustArguments {
    WorldArguments world;
    std::string setup = "near", route;
    int trials = 20, rounds = 6, frames = 8;
    double slower = 5;
    std::string allow = "2%";
};

Outcome<TrustSpec> trustSpecOf(const TrustArguments& arguments)
{
    auto setup = openSetup(arguments.setup, arguments.world);
    if (!setup)
        return setup.problem();
    std::shared_ptr<WorldChanges> changes;
    auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return terrain.problem();
    auto route = openRoute(arguments.route, arguments.world.world, *terrain.value(), changes);
    if (!route)
        return route.problem();
    Setup settled = setup.take();
    if (auto problem = settleDistance(settled, terrain.value()->recipe.voxelMetres))
        return *problem;
    TrustSpec spec{terrain.take(), settled, route.take(), arguments.trials, arguments.rounds, arguments.frames,
        arguments.slower / 100, changes, kGateAllowed, {0.1}};
    const auto allowed = shareOf(arguments.allow);
    if (!allowed)
        return Problem{"--allow " + arguments.allow, "", "is no share from 0 to 10, such as 2% or 0.02"};
    spec.allowed = *allowed;
    if (auto problem = checkTrust(spec))
        return *problem;
    return spec;
}

nlohmann::ordered_json ratiosOf(const std::vector<Ratio>& ratios)
{
    auto out = nlohmann::ordered_json::array();
    for (const Ratio& r : ratios)
        out.push_back({{"ratio", r.ratio}, {"low", r.low}, {"high", r.high}});
    return out;
}

/// "3 of 39 differ by more than 3 %, the worst by 4.1 %"
std::string saidOf(const std::vector<double>& steps)
{
    constexpr double kAllowed = 0.03;
    std::array<char, 120> text{};
    std::snprintf(text.data(), text.size(), "%d of %zu pairs differ by more than 3 %%, the worst by %.1f %%",
        static_cast<int>(std::count_if(steps.begin(), steps.end(), [](double s) { return s > kAllowed; })),
        steps.size(), steps.empty() ? 0.0 : *std::max_element(steps.begin(), steps.end()) * 100);
    return text.data();
}

nlohmann::ordered_json powerJson(const TrustResult& found)
{
    auto out = nlohmann::ordered_json::array();
    for (const PowerRow& row : found.power)
        out.push_back({{"rounds", row.rounds}, {"slower_percent", row.slower * 100}, {"trials", row.trials},
            {"said_slower", row.saidSlower}, {"said_within", row.saidWithin}});
    return out;
}

void printPower(const TrustResult& found)
{
    if (found.power.empty()) {
        std::printf("too few rounds for a power table: 6 in all, and more for longer gates\n");
        return;
    }
    std::printf(
        "\nWhat a gate with --allow %g%% says here, of mesh time; a slower verdict at 0 %% is a false alarm\n\n",
        found.allowed * 100);
    std::printf("%8s %10s %8s %8s %8s %14s\n", "rounds", "slower by", "trials", "slower", "within", "inconclusive");
    for (const PowerRow& row : found.power)
        std::printf("%8d %8.0f %% %8d %6.0f %% %6.0f %% %12.0f %%\n", row.rounds, row.slower * 100, row.trials,
            100.0 * row.saidSlower / row.trials, 100.0 * row.saidWithin / row.trials,
            100.0 * (row.trials - row.saidSlower - row.saidWithin) / row.trials);
    std::printf("\n");
}

int runTrust(const TrustArguments& arguments, const std::stop_token& stop)
{
    const auto spec = trustSpecOf(arguments);
    if (!spec)
        return fail(spec.problem());
    const TrustResult found = runTrust(
        spec.value(), [](const TransectProgress& at) { showProgress(at.share, at.doing); }, stop);
    if (arguments.world.json) {
        const nlohmann::ordered_json out{{"trials", arguments.trials}, {"rounds", arguments.rounds},
            {"slower_percent", arguments.slower}, {"same", ratiosOf(found.same)}, {"hold_one", found.holdOne()},
            {"slower", ratiosOf(found.slower)}, {"found", found.found()}, {"medians_us", found.mediansUs},
            {"medians_in_references", found.mediansInReferences}, {"allowed", found.allowed},
            {"power", powerJson(found)}, {"stopped", found.stopped}};
        printDocument("fell-trust", out);
        return kDone;
    }
    std::printf("%s against itself: %d of %zu intervals of the mesh time's ratio hold 1\n",
        spec.value().setup.name.c_str(), found.holdOne(), found.same.size());
    std::printf("slowed by %g %%: found %d times of %zu\n", arguments.slower, found.found(), found.slower.size());
    printPower(found);
    std::printf("medians from one transect to the next, in references: %s\n",
        saidOf(stepsBetween(found.mediansInReferences)).c_str());
    std::printf("the same in microseconds: %s\n", saidOf(stepsBetween(found.mediansUs)).c_str());
    if (found.stopped)
        std::printf("stopped early\n");
    return kDone;
}

} // namespace

Run addTrust(CLI::App& parser)
{
    auto* command = parser.add_subcommand(
        "trust", "measure what this machine can tell: a setup against itself, and against itself slowed");
    auto arguments = std::make_shared<TrustArguments>();
    auto& world = arguments->world;
    command->add_option("--world", world.world, "a world file, a recipe file, or a demo")->capture_default_str();
    command->add_option("--seed", world.seed, "replaces the recipe's seed")->check(seedValidator());
    addMethodOption(*command, arguments->world);
    command->add_option("--setup", arguments->setup, "what is measured")->capture_default_str();
    command->add_option("--set", world.set, "sets one setting of the setup: path=value")->allow_extra_args(false);
    command->add_flag("--json", world.json, "print one JSON document");
    command->add_option("--trials", arguments->trials, "runs of each of the two questions")->capture_default_str();
    command->add_option("--slower", arguments->slower, "percent that are added to the mesh time on purpose")
        ->capture_default_str();
    command->add_option("--allow", arguments->allow, "slowdown that is allowed, for the power table: 2% or 0.02")
        ->capture_default_str();
    addRouteOption(*command, arguments->route);
    command->add_option("--rounds", arguments->rounds, "of each transect")->capture_default_str();
    command->add_option("--frames", arguments->frames, "along the route in each round")->capture_default_str();
    return [arguments](const std::stop_token& stop) { return runTrust(*arguments, stop); };
}

} // namespace fell::cli
