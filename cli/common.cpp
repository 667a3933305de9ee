// SPDX-License-Identifier: Apache-2.0
#include "common.h"
#include "demo/demo_folder.h"
#include "input/text_file.h"
#include "keep/world_file.h"
#include "terrain/generate.h"

#include <chrono>
#include <csignal>
#include <cstdio>
#include <iostream>
#include <thread>
#include <unistd.h>

namespace fell::cli {

void addWorldOptions(CLI::App& command, WorldArguments& arguments)
{
    command
        .add_option("--world", arguments.world,
            "a world file, a recipe file, or a demo: corrowdale, level, checker, dust, solid")
        ->capture_default_str();
    command.add_option("--seed", arguments.seed, "replaces the recipe's seed (0 to 2^64-1)")->check(seedValidator());
    command.add_option("--setup", arguments.setup, "a setup file, or one of demo/setups: near, plain")
        ->capture_default_str();
    command.add_option("--set", arguments.set, "overrides one choice of the setup: path=value")
        ->allow_extra_args(false);
    command.add_flag("--json", arguments.json, "print one JSON document instead of text for people");
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
        std::cerr << "fell-cli: " << sentence(warning) << "; a marked shape stands in for it\n";
    return makeTerrain(recipe.take(), arguments.seed);
}

Outcome<Setup> openSetup(const std::string& name, const std::vector<std::string>& set)
{
    auto found = findSetup(name, demoFolder() / "setups");
    if (!found)
        return found;
    Setup setup = found.take();
    for (const auto& assignment : set)
        if (auto problem = applyOverride(setup, assignment))
            return *problem;
    if (auto problem = checkSetup(setup))
        return *problem;
    return setup;
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
        ::_exit(kStopped); // the work did not end by itself; files are only ever renamed when whole
    }).detach();
    return source.get_token();
}

void showProgress(double share, const std::string& doing)
{
    static const bool kTerminal = ::isatty(STDERR_FILENO) != 0;
    std::fprintf(stderr, kTerminal ? "\r\033[K%3.0f %%  %s" : "%3.0f %%  %s\n", share * 100, doing.c_str());
    if (kTerminal && share >= 1)
        std::fputc('\n', stderr);
    std::fflush(stderr);
}

} // namespace fell::cli
