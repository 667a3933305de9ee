// SPDX-License-Identifier: Apache-2.0
#include "common.h"
#include "methods.h"
#include <fell/demo/demo_folder.h>
#include <fell/input/temp_folder.h>
#include <fell/input/text_file.h>
#include <fell/measure/findings.h>
#include <fell/measure/machine.h>
#include <fell/measure/sample.h>
#include <fell/save/world_file.h>
#include <fell/terrain/generate.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <chrono>
#include <csignal>
#include <cstdio>
#include <iostream>
#include <thread>
#include <unistd.h>

namespace fell::cli {

void addWorldOptions(CLI::App& command, WorldArguments& arguments, SetupOptions setup)
{
    command
        .add_option("--world", arguments.world,
            "a world file, a recipe file, or a demo: corrowdale, gallery, level, checker, dust or solid")
        ->capture_default_str();
    command.add_option("--seed", arguments.seed, "replaces the recipe's seed (0 to 2^64-1)")->check(seedValidator());
    command.add_flag("--json", arguments.json, "print one JSON document instead of text for people");
    if (setup == SetupOptions::Without)
        return;
    command
        .add_option("--setup", arguments.setup, "a setup file, or a setup by name: long-view, near, plain or valley")
        ->capture_default_str();
    command.add_option("--set", arguments.set, "sets one setting of the setup: path=value")->allow_extra_args(false);
}

namespace {

/// What a world file is made from, and what was changed.
Outcome<Recipe> openFile(const WorldArguments& arguments, std::shared_ptr<WorldChanges>* changes)
{
    auto opened = WorldFile::open(arguments.world, WorldAccess::Read);
    if (!opened)
        return opened.problem();
    const auto world = opened.take();
    auto contents = world->load();
    if (!contents)
        return contents.problem();
    WorldContents all = contents.take();
    for (const DamagedRow& row : all.damaged)
        std::cerr << "fell-cli: " << arguments.world << ": " << row.where << " are damaged and left out: " << row.why
                  << "\n";
    auto recipe = recipeOf(world->header(), arguments.world);
    if (changes && recipe) {
        const auto terrain = makeTerrain(recipe.value(), arguments.seed);
        *changes = std::make_shared<WorldChanges>();
        (*changes)->replaceAll(changesFrom(std::move(all.chunks), [&terrain](ChunkPos chunk) {
            return generateChunk(*findGenerator("blocks"), *terrain, chunk, kKeptEdge).voxels();
        }));
    } else if (!all.chunks.empty()) {
        std::cerr << "fell-cli: " << arguments.world << ": what was changed in " << all.chunks.size()
                  << " chunks is left out here: this command works on what the recipe makes\n";
    }
    return recipe;
}

} // namespace

Outcome<std::shared_ptr<const Terrain>> openWorld(
    const WorldArguments& arguments, std::shared_ptr<WorldChanges>* changes)
{
    auto recipe = isDatabase(arguments.world) ? openFile(arguments, changes) : findWorld(arguments.world, demoFolder());
    if (!recipe)
        return recipe.problem();
    for (const Problem& warning : recipe.value().blocks.warnings)
        std::cerr << "fell-cli: " << sentence(warning) << "; a marked shape replaces it\n";
    return makeTerrain(recipe.take(), arguments.seed);
}

Outcome<Route> openRoute(const std::string& name, const std::string& world, const Terrain& terrain,
    const std::shared_ptr<const WorldChanges>& changes)
{
    const std::filesystem::path folder = demoFolder() / "routes";
    if (!name.empty())
        return findRoute(name, folder);
    if (terrain.recipe.pattern && changes)
        if (auto round = routeRoundChanges(terrain, *changes))
            return std::move(*round);
    std::error_code error;
    const bool isNamed
        = world.find('/') == std::string::npos && std::filesystem::exists(folder / (world + ".json"), error);
    return findRoute(isNamed ? world : "beck-to-summit", folder);
}

void addRouteOption(CLI::App& command, std::string& route)
{
    command
        .add_option("--route", route,
            "a route file, or a route by name; not given: the demo route of the world's name, a route around the edits "
            "of an "
            "imported world, or beck-to-summit")
        ->check([](const std::string& text) { return text.empty() ? "is empty: give a name" : ""; });
}

std::optional<Problem> checkUsed(const std::vector<std::string>& set, const std::vector<std::string>& used)
{
    for (const std::string& one : set) {
        const std::string path = one.substr(0, one.find('='));
        const bool isUsed = std::any_of(used.begin(), used.end(),
            [&path](const std::string& of) { return of.ends_with('.') ? path.rfind(of, 0) == 0 : path == of; });
        if (!isUsed && findField(path))
            return Problem{"--set " + one, "",
                "changes nothing here; "
                    + (used.empty() ? "no choice of a setup is used" : "used are " + listOf(used))};
    }
    return std::nullopt;
}

std::optional<Problem> checkUnused(
    const CLI::App& command, const std::vector<std::string>& options, const std::string& why)
{
    for (const std::string& option : options)
        if (command.count(option) > 0)
            return Problem{option, "", "changes nothing here: " + why};
    return std::nullopt;
}

Outcome<Setup> openSetup(const std::string& name, const WorldArguments& arguments)
{
    const auto methods = loadMethods(arguments); // first: a setup may name one of them
    if (!methods)
        return methods.problem();
    auto found = findSetup(name, demoFolder() / "setups");
    if (!found)
        return found;
    Setup setup = found.take();
    if (!methods.value().empty())
        chooseMesher(setup, *methods.value()[0]);
    for (const auto& assignment : arguments.set)
        if (auto problem = applyOverride(setup, assignment))
            return *problem;
    if (auto problem = checkSetup(setup))
        return *problem;
    return setup;
}

std::optional<Problem> applySide(
    Setup& setup, const std::string& side, const std::string& text, const std::vector<std::string>& varied)
{
    if (text.empty())
        return std::nullopt;
    std::vector<std::string> assignments;
    for (const std::string& part : splitList(text))
        if (part.find('=') == std::string::npos && !assignments.empty())
            assignments.back() += "," + part;
        else
            assignments.push_back(part);
    for (const std::string& one : assignments) {
        if (std::find(varied.begin(), varied.end(), one.substr(0, one.find('='))) != varied.end())
            return Problem{"--" + std::string(side == "A" ? "a " : "b ") + one, "", "is what --vary varies"};
        if (auto wrong = applyOverride(setup, one))
            return wrong;
    }
    setup.name = (setup.name + " " + text).substr(0, 40);
    return checkSetup(setup);
}

std::optional<double> shareOf(const std::string& text)
{
    const bool isPercent = !text.empty() && text.back() == '%';
    const char* end = text.data() + text.size() - (isPercent ? 1 : 0);
    double value = 0;
    const auto read = std::from_chars(text.data(), end, value);
    value /= isPercent ? 100 : 1;
    if (read.ec != std::errc{} || read.ptr != end || !(value >= 0 && value <= 10))
        return std::nullopt;
    return value;
}

void sayDifferences(const Setup& a, const Setup& b)
{
    const auto differences = differencesOf(a, b);
    for (const SetupDifference& one : differences)
        std::cerr << one.path << ": A " << one.a << ", B " << one.b << "\n";
    if (differences.empty())
        std::cerr << "A and B are the same setup\n";
}

int refuseOutput(const std::string& output, const WorldArguments& arguments, const std::vector<std::string>& inputs)
{
    std::vector<std::filesystem::path> read(inputs.begin(), inputs.end());
    read.emplace_back(arguments.world);
    read.emplace_back(arguments.setup);
    const auto problem = checkOutput(output, read);
    if (!problem)
        return kDone;
    return fail(*problem, checkWritable(output) && !output.empty() ? kCannotWrite : kBadInput);
}

CLI::Validator seedValidator()
{
    return {[](std::string& text) -> std::string {
                std::uint64_t seed = 0;
                const bool isPlain = !text.empty() && text.find_first_not_of("0123456789") == std::string::npos
                    && (text.size() == 1 || text[0] != '0');
                const auto read = std::from_chars(text.data(), text.data() + text.size(), seed);
                return isPlain && read.ec == std::errc{}
                    ? ""
                    : "is " + text + ", allowed is a whole number from 0 to 2^64-1";
            },
        "WHOLE NUMBER"};
}

int finishOutput(int code)
{
    std::cout.flush();
    const bool isWritten = std::fflush(stdout) == 0 && std::ferror(stdout) == 0 && std::cout.good();
    if (isWritten)
        return code;
    return fail(
        {"standard output", "", "cannot be written, so the result is not whole: free space, or write elsewhere"},
        kCannotWrite);
}

void printDocument(const std::string& format, const nlohmann::ordered_json& body)
{
    nlohmann::ordered_json root{{"format", format}, {"version", 1}, {"made_by", versionLine("fell-cli")}};
    for (const auto& [key, value] : body.items())
        root[key] = value;
    std::cout << root.dump(2) << "\n";
}

std::vector<std::string> splitList(const std::string& text)
{
    std::vector<std::string> parts{""};
    for (const char c : text)
        if (c == ',')
            parts.emplace_back();
        else
            parts.back() += c;
    return parts;
}

int fail(const Problem& problem, Exit code)
{
    std::cerr << "fell-cli: " << sentence(problem) << "\n";
    return code;
}

std::stop_token stopOnSignals()
{
    // The signals are blocked everywhere and waited for by one thread: a handler could do nothing but set a flag.
    sigset_t signals;
    sigemptyset(&signals);
    sigaddset(&signals, SIGINT);
    sigaddset(&signals, SIGTERM);
    ::pthread_sigmask(SIG_BLOCK, &signals, nullptr);
    static std::stop_source source;
    std::thread([signals] {
        int which = 0;
        ::sigwait(&signals, &which);
        source.request_stop();
        std::this_thread::sleep_for(std::chrono::milliseconds(800));
        removeTempFolders(); // the work is slow to stop; files that stay are only renamed when whole
        ::_exit(kStopped);
    }).detach();
    return source.get_token();
}

namespace {
bool s_showsProgress = true;
}

void hideProgress()
{
    s_showsProgress = false;
}

void showProgress(double share, const std::string& doing)
{
    if (!s_showsProgress)
        return;
    static const bool kTerminal = ::isatty(STDERR_FILENO) != 0;
    static double lastShare = -1;
    static std::string lastDoing;
    // A log gets a line for each tenth of a piece of work, not one a frame.
    if (!kTerminal && doing == lastDoing && share < 1 && share >= lastShare && share - lastShare < 0.1)
        return;
    lastShare = share;
    lastDoing = doing;
    std::fprintf(stderr, kTerminal ? "\r\033[K%3.0f %%  %s" : "%3.0f %%  %s\n", share * 100, doing.c_str());
    if (kTerminal && share >= 1)
        std::fputc('\n', stderr);
    std::fflush(stderr);
}

} // namespace fell::cli
