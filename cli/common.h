// SPDX-License-Identifier: Apache-2.0
// What all commands of fell-cli have in common: exit codes, worlds and setups by name, stopping, logging.
#pragma once

#include <fell/demo/demo_folder.h>
#include <fell/measure/route.h>
#include <fell/mesh/meshers.h>
#include <fell/save/changes.h>
#include <fell/setup/setup.h>
#include <fell/terrain/terrain.h>

#include <CLI/CLI.hpp>
#include <nlohmann/json_fwd.hpp>

#include <array>
#include <charconv>
#include <filesystem>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace fell::cli {

/// Exit codes, as shared with scripts.
enum Exit : int {
    kDone = 0,
    kDoesNotHold = 1, // ran, and what was checked does not hold
    kBadInput = 2, // arguments or files; one sentence on standard error
    kMachineLacks = 3, // a driver or a package
    kCannotWrite = 4, // out of space, read-only; nothing half-written is left
    kInconclusive = 5, // ran, and what was measured cannot tell
    kStopped = 130 // Ctrl+C
};

/// The arguments that choose a world and a setup.
struct WorldArguments {
    std::string world = "corrowdale";
    std::optional<std::uint64_t> seed;
    std::string setup = "near";
    std::vector<std::string> set;
    std::vector<std::string> methods; // shared libraries, see addMethodOption
    bool json = false;
};

enum class SetupOptions : std::uint8_t { With, Without };
void addWorldOptions(CLI::App& command, WorldArguments& arguments, SetupOptions setup = SetupOptions::With);

/// Of a world file what was changed goes to `changes`; a command that has no use for it says that it leaves it out.
Outcome<std::shared_ptr<const Terrain>> openWorld(
    const WorldArguments& arguments, std::shared_ptr<WorldChanges>* changes = nullptr);
/// The route of this name. An empty name: one around the edits where the world is nothing else, as an imported
/// volume is; else the demo route of the world's name; else beck-to-summit. Errors: what findRoute says.
Outcome<Route> openRoute(const std::string& name, const std::string& world, const Terrain& terrain,
    const std::shared_ptr<const WorldChanges>& changes);
void addRouteOption(CLI::App& command, std::string& route);

/// What is wrong with --set of a path that the command does not use: `used` are paths, or groups such as "mesh.".
std::optional<Problem> checkUsed(const std::vector<std::string>& set, const std::vector<std::string>& used);
/// The same for options that were given and change nothing; `why` ends the sentence, e.g. "draws nothing".
std::optional<Problem> checkUnused(
    const CLI::App& command, const std::vector<std::string>& options, const std::string& why);

/// The setup of this name with --method and --set of the arguments: the first library's mesher is the setup's, and what
/// it cannot do is switched off, which standard error says. --set comes last.
Outcome<Setup> openSetup(const std::string& name, const WorldArguments& arguments);

/// "--method FILE": methods from outside, by openSetup and loadMethods.
void addMethodOption(CLI::App& command, WorldArguments& arguments);
/// Checks each library in a separate process (audit/method_check.h) and loads those that are new. In the order of the
/// arguments. Errors: a library that cannot be loaded, or whose check finds a fault.
Outcome<std::vector<const Mesher*>> loadMethods(const WorldArguments& arguments);

/// "path=value,path=value" of --a or --b onto one side's setup, whose name then says so. A comma that is followed by no
/// path belongs to the value, as in cull.steps. An empty text does nothing. Errors: what applyOverride says; a path
/// that is varied.
std::optional<Problem> applySide(
    Setup& setup, const std::string& side, const std::string& text, const std::vector<std::string>& varied);

/// Lists on standard error every choice in which the two differ, before they are compared.
void sayDifferences(const Setup& a, const Setup& b);

/// Says before any work is done why `output` cannot be written, as fail() does: kBadInput where it is one of the files
/// that the command reads (those of `arguments` and `inputs`), kCannotWrite otherwise. kDone where it can.
int refuseOutput(
    const std::string& output, const WorldArguments& arguments, const std::vector<std::string>& inputs = {});

/// Whole numbers of exactly this form, e.g. "960x600" for two and 'x'; nothing for signs, spaces, or a number that does
/// not fit.
template <std::size_t kCount> std::optional<std::array<int, kCount>> wholeNumbers(std::string_view text, char separator)
{
    std::array<int, kCount> out{};
    const char *at = text.data(), *end = at + text.size();
    for (std::size_t i = 0; i < kCount; ++i) {
        if (i > 0 && (at == end || *at++ != separator))
            return std::nullopt;
        if (at == end || *at < '0' || *at > '9')
            return std::nullopt;
        const auto read = std::from_chars(at, end, out[i]);
        if (read.ec != std::errc{})
            return std::nullopt;
        at = read.ptr;
    }
    return at == end ? std::optional(out) : std::nullopt;
}

/// Digits alone, 0 to 2^64-1: "-1", "0x10" and " 5" are refused.
CLI::Validator seedValidator();

/// Flushes standard output. Returns `code`, or kCannotWrite with a sentence where not all of it was written.
int finishOutput(int code);

/// "5%" or "0.05"; nothing where it is no share from 0 to 10.
std::optional<double> shareOf(const std::string& text);

/// Prints `body` as a document of this format, e.g. "fell-mesh": what it is, its version and what made it come first.
/// schemas/ holds a schema of each.
void printDocument(const std::string& format, const nlohmann::ordered_json& body);

/// "a,b,c" to its parts; empty parts are kept, so that they can be refused.
std::vector<std::string> splitList(const std::string& text);

/// Prints the problem as one sentence on standard error and returns `code`.
int fail(const Problem& problem, Exit code = kBadInput);

/// A chosen list of methods by id, e.g. "every,exposed". Errors: an unknown one, with all that are known.
template <typename Method>
Outcome<std::vector<const Method*>> chooseMethods(
    const std::string& option, const std::string& text, std::span<const Method> table);

/// Asked to stop by Ctrl+C or a termination signal. Set up once, before any thread is started.
std::stop_token stopOnSignals();

/// From here on showProgress shows nothing.
void hideProgress();
/// A line on standard error about how far the work is; overwritten in place on a terminal.
void showProgress(double share, const std::string& doing);

} // namespace fell::cli

#include "common_methods.h"
