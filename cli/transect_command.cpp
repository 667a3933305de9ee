// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "methods.h"
#include "offscreen.h"
#include <fell/audit/setup_audit.h>
#include <fell/input/text_file.h>
#include <fell/measure/ledger.h>
#include <fell/measure/report.h>
#include <fell/measure/results.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <iostream>
#include <set>
#include <tuple>

namespace fell::cli {
namespace {

struct TransectArguments {
    WorldArguments world;
    std::vector<std::string> setups{"near"};
    std::set<std::string> given; // options that were named, with or without a value
    std::vector<std::string> vary{"stream.distance=4,6,8"};
    std::string a, b; // overrides of one side
    std::string ledger, route, out, size = "1280x800";
    int rounds = 3, frames = 24;
    std::string churn = "none";
    bool noDraw = false, keep = false, audit = true;
};

/// "path=a,b,c" as a path of a setup and its values.
std::optional<Problem> readVaried(const std::string& text, std::string& path, std::vector<nlohmann::json>& values)
{
    const std::size_t equals = text.find('=');
    path = text.substr(0, equals);
    const SetupField* field = findField(path);
    if (!field)
        return Problem{"--vary " + text, "", "varies no setting; " + allowedPaths(path)};
    if (equals == std::string::npos)
        return Problem{"--vary " + text, "", "has no values; path=value,value is expected, e.g. stream.distance=2,4,6"};
    for (std::string one : splitList(text.substr(equals + 1))) {
        std::replace(one.begin(), one.end(), '+', ','); // within a list of cull steps
        nlohmann::json value = valueFromText(*field, one);
        if (std::find(values.begin(), values.end(), value) != values.end())
            return Problem{"--vary " + text, "", "names " + one + " twice: each value is measured once"};
        values.push_back(std::move(value));
    }
    return std::nullopt;
}

/// With --method alone: A is the first library, B the second or else the setup's own mesher.
std::optional<Problem> compareMethods(const TransectArguments& arguments, TransectSpec& spec)
{
    const auto methods = loadMethods(arguments.world);
    if (!methods)
        return methods.problem();
    if (methods.value().empty())
        return std::nullopt;
    WorldArguments without = arguments.world;
    without.methods.clear();
    const auto own = openSetup(arguments.setups[0], without);
    if (!own)
        return own.problem();
    const Mesher* other = methods.value().size() > 1 ? methods.value()[1] : findMesher(own.value().mesh.mesher);
    if (spec.a.mesh.mesher == other->id)
        return std::nullopt;
    spec.b = spec.a;
    chooseMesher(*spec.b, *other);
    for (Setup* side : {&spec.a, &*spec.b})
        side->name = (side->name + " " + side->mesh.mesher).substr(0, 40);
    return std::nullopt;
}

Outcome<TransectSpec> transectSpecOf(const TransectArguments& arguments)
{
    TransectSpec spec;
    if (arguments.vary.size() > 2)
        return Problem{
            "--vary", "", "is given " + std::to_string(arguments.vary.size()) + " times, one or two things can vary"};
    if (auto wrong = readVaried(arguments.vary[0], spec.vary, spec.values))
        return *wrong;
    if (arguments.vary.size() == 2)
        if (auto wrong = readVaried(arguments.vary[1], spec.second, spec.secondValues))
            return *wrong;
    for (const std::string& one : arguments.world.set)
        if (const std::string at = one.substr(0, one.find('=')); at == spec.vary || at == spec.second)
            return Problem{"--set " + one, "", "is what --vary varies: name the value there"};
    if (arguments.setups.size() > 2)
        return Problem{"--setup", "",
            "is given " + std::to_string(arguments.setups.size()) + " times, one or two setups are allowed"};
    auto a = openSetup(arguments.setups[0], arguments.world);
    if (!a)
        return a.problem();
    spec.a = a.take();
    if (!arguments.a.empty() || !arguments.b.empty()) {
        if (arguments.setups.size() == 2)
            return Problem{"--a, --b", "", "change one common setup; name one --setup"};
        spec.b = spec.a;
        for (auto [side, text, setup] :
            {std::tuple("A", &arguments.a, &spec.a), std::tuple("B", &arguments.b, &*spec.b)})
            if (auto wrong = applySide(*setup, side, *text, {spec.vary, spec.second}))
                return *wrong;
    }
    if (arguments.setups.size() < 2 && !spec.b && spec.vary != "mesh.mesher" && spec.second != "mesh.mesher")
        if (auto wrong = compareMethods(arguments, spec))
            return *wrong;
    if (arguments.setups.size() == 2) {
        auto b = openSetup(arguments.setups[1], arguments.world);
        if (!b)
            return b.problem();
        spec.b = b.take();
    }
    std::shared_ptr<WorldChanges> changes;
    auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return terrain.problem();
    spec.terrain = terrain.take();
    spec.changes = changes;
    spec.worldName = arguments.world.world;
    auto route = openRoute(arguments.route, arguments.world.world, *spec.terrain, changes);
    if (!route)
        return route.problem();
    spec.route = route.take();
    spec.rounds = arguments.rounds;
    spec.frames = arguments.frames;
    auto churn = parseChurn(arguments.churn);
    if (!churn)
        return churn.problem();
    spec.churn = churn.value();
    if (auto problem = checkTransect(spec))
        return *problem;
    return spec;
}

int writeAll(const TransectResult& result, const std::filesystem::path& folder)
{
    const std::string plots = toSvg(result);
    const Report report = reportOf(result);
    const std::pair<const char*, std::string> files[]{{"transect.csv", toCsv(result)},
        {"transect.json", toJson(result).dump(2) + "\n"}, {"transect.svg", plots}, {"report.md", toMarkdown(report)},
        {"report.html", toHtml(report, plots)}};
    int code = kDone;
    for (const auto& [name, text] : files) // what can be written is
        if (auto problem = writeFile(folder / name, text))
            code = fail(*problem, kCannotWrite);
    if (code != kDone)
        return code;
    std::cerr << "written: transect.csv, transect.json, transect.svg, report.md, report.html in " << folder.string()
              << "\n";
    return kDone;
}

int runTransect(const TransectArguments& arguments, const std::stop_token& stop)
{
    const auto spec = transectSpecOf(arguments);
    if (!spec)
        return fail(spec.problem());
    const auto size = parseSize(arguments.size);
    if (!size)
        return fail({"--size " + arguments.size, "", "WIDTHxHEIGHT from 16x16 to 8192x8192 is expected"});
    for (const auto& [option, text] : {std::pair("--ledger", &arguments.ledger), std::pair("--out", &arguments.out)})
        if (text->empty() && arguments.given.count(option) > 0)
            return fail({option, "", "is empty: give a name"});
    if (!arguments.out.empty())
        if (auto problem = makeFolder(arguments.out))
            return fail(*problem, kCannotWrite);

    std::unique_ptr<Offscreen> offscreen;
    if (!arguments.noDraw) {
        auto made = Offscreen::create(*size);
        if (!made)
            return fail(
                {made.problem().where, "", made.problem().what + "; --no-draw measures the rest"}, kMachineLacks);
        offscreen = made.take();
    }
    std::unique_ptr<Ledger> ledger; // opened first: what cannot be kept need not be measured
    if (arguments.keep || !arguments.ledger.empty()) {
        auto opened = Ledger::open(arguments.ledger.empty() ? homeLedger() : std::filesystem::path(arguments.ledger));
        if (!opened)
            return fail(opened.problem(), kCannotWrite);
        ledger = opened.take();
    }
    if (spec.value().b)
        sayDifferences(spec.value().a, *spec.value().b);
    TransectResult result = runTransect(
        spec.value(), offscreen ? &offscreen->hooks() : nullptr,
        [](const TransectProgress& at) { showProgress(at.share, at.doing); }, stop);
    if (isEmpty(result) && !result.stopped && !stop.stop_requested())
        return fail({"--world " + arguments.world.world, "",
            "has nothing to mesh or draw along " + spec.value().route.title + ": choose another --route"});
    if (arguments.audit)
        result.audits = auditMethodsOf(spec.value(), stop);
    // The result first, wherever else it cannot go: a measurement is never thrown away.
    std::cout << (arguments.world.json ? toJson(result).dump(2) + "\n" : toMarkdown(reportOf(result)));
    int code = std::any_of(result.audits.begin(), result.audits.end(),
                   [](const AuditNote& note) { return note.differences > 0; })
            || std::any_of(
                result.rows.begin(), result.rows.end(), [](const TransectRow& row) { return row.failedChunks > 0; })
        ? kDoesNotHold
        : kDone;
    if (!arguments.out.empty() && !result.rows.empty())
        if (const int written = writeAll(result, arguments.out); written != kDone)
            code = written;
    if (ledger && !result.rows.empty()) {
        const auto id = ledger->keep(result);
        if (id)
            std::cerr << "kept as trial " << id.value() << "\n";
        else
            code = fail(id.problem(), kCannotWrite);
    }
    return code;
}

} // namespace

Run addTransect(CLI::App& parser)
{
    auto* command = parser.add_subcommand(
        "transect", "measure mesh time and frame time along a route while one or two settings vary");
    auto arguments = std::make_shared<TransectArguments>();
    auto& world = arguments->world;
    command->add_option("--world", world.world, "a world file, a recipe file, or a demo")->capture_default_str();
    command->add_option("--seed", world.seed, "replaces the recipe's seed")->check(seedValidator());
    addMethodOption(*command, arguments->world);
    command->add_option("--setup", arguments->setups, "once for A, a second time for B")
        ->allow_extra_args(false)
        ->take_all();
    command->add_option("--set", world.set, "sets one setting of both setups: path=value")->allow_extra_args(false);
    command->add_option("--a", arguments->a, "path=value[,path=value] of A alone: compares with B on the same setup");
    command->add_option("--b", arguments->b, "the same of B alone");
    command->add_flag("--json", world.json, "print one JSON document");
    command->add_option("--vary", arguments->vary, "PATH=a,b,c; a second time for a heat map of both")
        ->allow_extra_args(false)
        ->take_all()
        ->capture_default_str();
    addRouteOption(*command, arguments->route);
    command->add_option("--rounds", arguments->rounds, "rounds; the setups are interleaved")->capture_default_str();
    command->add_option("--frames", arguments->frames, "frames along the route in each round")->capture_default_str();
    command->add_option("--churn", arguments->churn, "changes in each frame: blocks:N, lamps:N or blasts:N")
        ->capture_default_str();
    command->add_option("--size", arguments->size, "of the picture, in pixels")->capture_default_str();
    command->add_option("--out", arguments->out, "a folder that gets CSV, JSON, plots and a report");
    command->add_flag("--keep", arguments->keep, "save the run in the ledger");
    command->add_option("--ledger", arguments->ledger, "save the run in this ledger file");
    command->add_flag("!--no-audit", arguments->audit, "leave out the quick audit of the methods");
    command->add_flag("--no-draw", arguments->noDraw, "measure meshing only: needs no graphics driver");
    addDeviceOption(*command);
    return [arguments, command](const std::stop_token& stop) {
        for (const char* option : {"--ledger", "--out"})
            if (command->count(option) > 0)
                arguments->given.insert(option);
        if (arguments->noDraw)
            if (auto problem = checkUnused(*command, {"--size"}, "--no-draw draws no picture"))
                return fail(*problem);
        return runTransect(*arguments, stop);
    };
}

} // namespace fell::cli
