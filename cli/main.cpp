// SPDX-License-Identifier: Apache-2.0
// fell-cli: results on standard output, everything else on standard error.
#include "commands.h"
#include "common.h"
#include <fell/input/nearest.h>
#include <fell/measure/machine.h>
#include <fell/terrain/height_map.h>

#include <spdlog/sinks/stdout_color_sinks.h>
#include <spdlog/spdlog.h>

#include <algorithm>
#include <csignal>
#include <iostream>
#include <map>

namespace {

/// Every command can be quiet, those below a command too.
void addQuiet(CLI::App& command, bool& quiet)
{
    command.add_flag("--quiet", quiet, "no progress on standard error; warnings and errors stay");
    for (CLI::App* below : command.get_subcommands({}))
        addQuiet(*below, quiet);
}

/// What helps after an argument that was refused: the option that an unknown one is nearest to, and where all are
/// listed.
std::string helpFor(const CLI::App& parser, int argc, char** argv)
{
    const CLI::App* command = &parser;
    std::string called = "fell-cli";
    std::vector<std::string> unknown;
    for (int i = 1; i < argc; ++i) {
        const std::string text = argv[i];
        if (text.starts_with("--")) {
            unknown.push_back(text.substr(0, text.find('=')));
            continue;
        }
        for (const CLI::App* below : command->get_subcommands({}))
            if (below->get_name() == text) {
                command = below;
                called += " " + text;
                break;
            }
    }
    std::vector<std::string> known;
    for (const CLI::Option* option : command->get_options())
        for (const std::string& name : option->get_lnames())
            known.push_back("--" + name);
    for (const std::string& one : unknown)
        if (std::find(known.begin(), known.end(), one) == known.end())
            if (const std::string nearest = fell::input::nearestName(one, known); !nearest.empty())
                return ": did you mean " + nearest + "? (" + called + " --help lists all options)";
    return " (" + called + " --help lists what is allowed)";
}

int runCommand(int argc, char** argv)
{
    using namespace fell::cli;
    CLI::App parser(
        "Fell without a window: builds voxel worlds and measures every stage of their pipeline.", "fell-cli");
    parser.set_version_flag("--version", fell::measure::versionLine("fell-cli"), "print version, commit and compiler");
    parser.require_subcommand(1);
    std::map<std::string, Run> runs;
    runs["stages"] = addStages(parser);
    runs["mesh"] = addMesh(parser);
    runs["transect"] = addTransect(parser);
    runs["reach"] = addReach(parser);
    runs["trust"] = addTrust(parser);
    runs["gate"] = addGate(parser);
    runs["ledger"] = addLedger(parser);
    runs["export"] = addExport(parser);
    runs["picture"] = addPicture(parser);
    runs["fly"] = addFly(parser);
    runs["store"] = addStore(parser);
    runs["light"] = addLight(parser);
    runs["audit"] = addAudit(parser);
    runs["world"] = addWorld(parser);
    runs["recipe"] = addRecipe(parser);
    runs["why"] = addWhy(parser);
    runs["method"] = addMethod(parser);
    runs["duel"] = addDuel(parser);
    runs["reference"] = addReference(parser);
    bool quiet = false;
    addQuiet(parser, quiet);
    try {
        parser.parse(argc, argv);
    } catch (const CLI::CallForHelp&) {
        std::cout << (parser.get_subcommands().empty() ? &parser : parser.get_subcommands()[0])->help();
        return finishOutput(kDone);
    } catch (const CLI::CallForVersion& version) {
        std::cout << version.what() << "\n";
        return finishOutput(kDone);
    } catch (const CLI::Success&) { // an option that has done all there was to do
        return finishOutput(kDone);
    } catch (const CLI::ParseError& error) {
        if (argc > 1 && argv[1][0] != '-' && !runs.contains(argv[1])) {
            std::vector<std::string> known;
            for (const auto& [name, run] : runs)
                known.push_back(name);
            return fail({argv[1], "", "is no command of fell-cli, " + fell::input::allowedNames(argv[1], known)});
        }
        return fail({"arguments", "", std::string(error.what()) + helpFor(parser, argc, argv)});
    }
    if (quiet)
        hideProgress();
    const std::stop_token stop = stopOnSignals();
    const int code = runs.at(parser.get_subcommands()[0]->get_name())(stop);
    if (fell::terrain::HeightMap::isCut())
        return fail({"a height map", "",
            "was made shorter by another program while it was read: nothing that was printed holds; run it again"});
    return finishOutput(stop.stop_requested() ? static_cast<int>(kStopped) : code);
}

} // namespace

int main(int argc, char** argv)
{
    // A file that may grow no further is a sentence and exit code 4, not a signal.
    std::signal(SIGXFSZ, SIG_IGN);
    spdlog::set_default_logger(spdlog::stderr_color_mt("fell"));
    try {
        return runCommand(argc, argv);
    } catch (const std::bad_alloc&) {
        return fell::cli::fail(
            {"this machine", "", "has not enough memory for that; a smaller distance, box or count is expected"},
            fell::cli::kMachineLacks);
    } catch (const std::exception& error) {
        return fell::cli::fail(
            {"", "", std::string("stopped by an internal error: ") + error.what()}, fell::cli::kBadInput);
    }
}
