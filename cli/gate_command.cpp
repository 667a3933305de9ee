// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "gate_comparison.h"
#include "methods.h"
#include "offscreen.h"
#include <fell/input/text_file.h>
#include <fell/measure/findings.h>
#include <fell/measure/gate.h>
#include <fell/measure/results.h>
#include <fell/save/world_file.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <charconv>
#include <iostream>

namespace fell::cli {
namespace {

struct GateArguments {
    WorldArguments world;
    std::string baseline, comparison, allow = "2%", route, junit, a;
    std::optional<int> rounds;
    bool setupGiven = false, worldGiven = false;
};

Outcome<TransectSpec> gateSpecOf(const GateArguments& arguments, const TransectResult& then)
{
    TransectSpec spec;
    spec.vary = then.vary;
    spec.second = then.second;
    const auto addOnce = [](std::vector<nlohmann::json>& list, const nlohmann::json& value) {
        if (std::find(list.begin(), list.end(), value) == list.end())
            list.push_back(value);
    };
    for (const TransectRow& row : then.rows) {
        addOnce(spec.values, row.value);
        if (!spec.second.empty())
            addOnce(spec.secondValues, row.second);
    }
    spec.rounds = arguments.rounds.value_or(then.rounds);
    spec.frames = then.frames;
    spec.churn = then.churn;
    spec.a = then.a;
    if (arguments.setupGiven) {
        auto setup = openSetup(arguments.world.setup, arguments.world);
        if (!setup)
            return setup.problem();
        spec.a = setup.take();
    } else {
        if (const auto methods = loadMethods(arguments.world).take(); !methods.empty())
            chooseMesher(spec.a, *methods[0]);
        for (const auto& one : arguments.world.set)
            if (auto wrong = applyOverride(spec.a, one))
                return *wrong;
    }
    if (auto wrong = applySide(spec.a, "A", arguments.a, {spec.vary, spec.second}))
        return *wrong;
    if (!differencesOf(spec.a, then.a).empty())
        spec.b = then.a; // the baseline's setup can be measured again, in turn with the new one
    WorldArguments world = arguments.world;
    if (!arguments.worldGiven && !then.worldName.empty()) {
        world.world = then.worldName;
        if (!world.seed && !isDatabase(world.world))
            world.seed = then.seed;
    }
    std::shared_ptr<WorldChanges> changes;
    auto terrain = openWorld(world, &changes);
    if (!terrain)
        return terrain.problem();
    spec.terrain = terrain.take();
    spec.changes = changes;
    spec.worldName = world.world;
    if (arguments.route.empty() && then.path) {
        spec.route = *then.path;
    } else {
        auto route = openRoute(arguments.route, world.world, *spec.terrain, changes);
        if (!route)
            return route.problem();
        spec.route = route.take();
    }
    if (auto problem = checkTransect(spec))
        return *problem;
    const Recipe& recipe = spec.terrain->recipe;
    if (recipe.name != then.world || recipe.seed != then.seed || spec.route.title != then.route)
        return Problem{"--baseline " + arguments.baseline, "",
            "was measured in " + then.world + ", seed " + std::to_string(then.seed) + ", along " + then.route
                + "; a gate measures the same world and route again, and this is " + recipe.name + ", seed "
                + std::to_string(recipe.seed) + ", along " + spec.route.title};
    return spec;
}

/// Prints the rows, and says by the exit code whether they hold.
int sayRows(const std::vector<GateRow>& rows, const TransectResult& then, const TransectResult& now, double allowed,
    bool isJson)
{
    nlohmann::ordered_json json{{"baseline", {{"commit", then.machine.commit}, {"processor", then.machine.processor}}},
        {"allowed", allowed}, {"in_turn", now.b.has_value()}, {"noise", now.noise},
        {"rows", nlohmann::ordered_json::array()}};
    bool isSlower = false, isUnknown = false;
    for (const GateRow& row : rows) {
        isSlower |= row.verdict == Verdict::Slower;
        isUnknown |= row.verdict == Verdict::Inconclusive;
        json["rows"].push_back(
            {{"value", row.value}, {"across", row.second}, {"what", row.what}, {"ratio", row.ratio.ratio},
                {"low", row.ratio.low}, {"high", row.ratio.high}, {"verdict", textOf(row.verdict)}});
        if (row.counts) {
            json["rows"].back()["then"] = (*row.counts)[0];
            json["rows"].back()["now"] = (*row.counts)[1];
        }
        const char* verdict = row.counts && row.verdict == Verdict::Slower ? "differs" : textOf(row.verdict);
        if (!isJson && !(row.counts && row.verdict == Verdict::Within))
            std::cout << sentenceOf(row) << ": " << verdict << "\n";
    }
    if (isJson)
        printDocument("fell-gate", json);
    else if (const auto same = std::count_if(rows.begin(), rows.end(),
                 [](const GateRow& row) { return row.counts && row.verdict == Verdict::Within; });
             same > 0)
        std::cout << same << " counts (triangles, bytes, draw calls and the like) are as they were\n";
    return isSlower ? kDoesNotHold : isUnknown ? kInconclusive : kDone;
}

int runGate(const GateArguments& arguments, const std::stop_token& stop)
{
    const auto allowed = shareOf(arguments.allow);
    if (!allowed)
        return fail({"--allow " + arguments.allow, "", "is no share from 0 to 10, such as 2% or 0.02"});
    if (arguments.baseline.empty() == arguments.comparison.empty())
        return fail({"gate", "", "needs either --baseline FILE or --comparison FILE"});
    if (!arguments.comparison.empty())
        return judgeComparison({arguments.comparison, *allowed, arguments.junit, arguments.world.json});
    if (const auto methods = loadMethods(arguments.world); !methods) // before the baseline, which may name one
        return fail(methods.problem());
    const auto text = readFile(arguments.baseline);
    if (!text)
        return fail(text.problem());
    const auto then = parseResultJson(text.value(), arguments.baseline);
    if (!then)
        return fail(then.problem());
    if (const int rounds = arguments.rounds.value_or(then.value().rounds); rounds < 2 || rounds > 50)
        return fail({"--rounds " + std::to_string(rounds), "", "2 to 50 rounds are allowed: one shows no interval"});
    for (const std::string& one : arguments.world.set)
        if (const std::string path = one.substr(0, one.find('='));
            path == then.value().vary || path == then.value().second)
            return fail({"--set " + one, "", "is what the baseline varies, so both sides would be the same"});
    const auto spec = gateSpecOf(arguments, then.value());
    if (!spec)
        return fail(spec.problem());
    if (!arguments.junit.empty())
        if (const int code = refuseOutput(arguments.junit, arguments.world, {arguments.baseline, arguments.route});
            code != kDone)
            return code;
    std::unique_ptr<Offscreen> offscreen;
    if (!then.value().driver.empty()) {
        auto made = Offscreen::create({then.value().width, then.value().height});
        if (!made)
            return fail(made.problem(), kMachineLacks);
        offscreen = made.take();
    }
    if (spec.value().b)
        sayDifferences(spec.value().a, *spec.value().b);
    const TransectResult now = runTransect(
        spec.value(), offscreen ? &offscreen->hooks() : nullptr,
        [](const TransectProgress& at) { showProgress(at.share, at.doing); }, stop);
    if (now.stopped)
        return kStopped;
    if (!now.b && now.machine.processor != then.value().machine.processor)
        std::cerr << "the baseline is from another processor, " << then.value().machine.processor
                  << ": what differs may be the machine\n";
    const auto rows = now.b ? compareInTurn(now, *allowed) : compareWithBaseline(then.value(), now, *allowed);
    if (isEmpty(now))
        return fail({"--world " + spec.value().worldName, "", "has nothing to mesh or draw along " + now.route});
    if (rows.empty())
        return fail({"--baseline " + arguments.baseline, "", "has no cost of setup A that could be measured again"});
    if (!arguments.junit.empty())
        if (auto problem = writeFile(arguments.junit, toJUnit(rows, then.value(), *allowed)))
            return fail(*problem, kCannotWrite);
    return sayRows(rows, then.value(), now, *allowed, arguments.world.json);
}

} // namespace

Run addGate(CLI::App& parser)
{
    auto* command = parser.add_subcommand("gate",
        "run an earlier transect again and compare, or judge two builds; exit code 1: a whole interval is above the "
        "limit, 5: "
        "inconclusive");
    auto arguments = std::make_shared<GateArguments>();
    addWorldOptions(*command, arguments->world);
    addMethodOption(*command, arguments->world);
    command->add_option("--baseline", arguments->baseline, "the JSON document of an earlier transect");
    auto* comparison = command->add_option("--comparison", arguments->comparison,
        "the JSON document of mesh (two sides) or duel, with the old build as A and the new one as B");
    command->add_option("--allow", arguments->allow, "slowdown that is allowed: 2% or 0.02")->capture_default_str();
    command->add_option("--route", arguments->route, "a route; not given: that of the baseline");
    command->add_option("--a", arguments->a, "path=value[,path=value] of the baseline's setup, against that setup");
    command->add_option("--rounds", arguments->rounds, "number of rounds; not given: that of the baseline");
    command->add_option("--junit", arguments->junit, "a JUnit XML file for build servers");
    addDeviceOption(*command);
    for (const char* other : {"--baseline", "--world", "--seed", "--setup", "--set", "--method", "--route", "--a",
             "--rounds", "--device"}) // of what is measured again
        comparison->excludes(command->get_option(other));
    return [arguments, command](const std::stop_token& stop) {
        arguments->setupGiven = command->count("--setup") > 0; // else the baseline's own
        arguments->worldGiven = command->count("--world") > 0; // else the baseline's
        return runGate(*arguments, stop);
    };
}

} // namespace fell::cli
