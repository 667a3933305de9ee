// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/arguments.h>
#include <fell/app/start.h>

#include <fell/input/problem.h>
#include <fell/measure/machine.h>

#include <CLI/CLI.hpp>

#include <iostream>

namespace fell::app {

std::optional<int> parse(int argc, char** argv, const Program& program, Arguments& arguments)
{
    CLI::App parser(program.about, program.name);
    parser.set_version_flag("--version", measure::versionLine("fell"), "print version, commit and compiler");
    parser
        .add_option("--world,world", arguments.world,
            "a world file, a recipe file, or a demo: corrowdale, level, checker, dust, solid")
        ->capture_default_str();
    parser.add_option("--seed", arguments.seed, "replaces the recipe's seed");
    parser.add_option("--setup", arguments.setup,
        "a setup file, or one of demo/setups; not given: valley, as far as the frame budget of this driver allows");
    parser.add_option("--set", arguments.set, "overrides one setting: path=value")->allow_extra_args(false);
    parser
        .add_option("--theme", arguments.theme,
            "limewash (light) or slate (dark); not given: as chosen last, else as the desktop")
        ->check(CLI::IsMember({"limewash", "slate"}));
    parser
        .add_option("--method", arguments.methods,
            "a mesher of your own: a shared library, see docs/howto/own-mesher.md; it is checked first")
        ->allow_extra_args(false);
    parser.add_option("--shaders", arguments.shaders,
        "a folder of shaders, in place of those that were built in; observed: a changed file is used at once");
    parser.add_option(
        "--write-shaders", arguments.writeShaders, "writes the shaders that were built in to a folder, and ends");
    parser.add_option("--check-method", arguments.checkMethod)->group(""); // the window's own question
    if (!program.folderOption.empty())
        parser.add_option(program.folderOption, arguments.folder, program.folderNote)->capture_default_str();
    try {
        parser.parse(argc, argv);
        return std::nullopt;
    } catch (const CLI::CallForHelp&) {
        std::cout << parser.help();
        return 0;
    } catch (const CLI::CallForVersion& version) {
        std::cout << version.what() << "\n";
        return 0;
    } catch (const CLI::ParseError& error) {
        std::cerr << "fell: " << sentence(input::Problem{"arguments", "", error.what()}) << "\n";
        return 2;
    }
}

} // namespace fell::app
