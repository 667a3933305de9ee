// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include "methods.h"
#include <fell/audit/method_report.h>
#include <fell/input/text_file.h>
#include <fell/plugin/loaded_mesher.h>

#include <nlohmann/json.hpp>

#include <iostream>
#include <map>

namespace fell::cli {
namespace {

struct MethodArguments {
    WorldArguments world;
    std::vector<std::string> files;
    std::string save;
};

/// The voxels with their neighbours as NRRD, x fastest, then z, then y, as Fell holds them.
std::string nrrdOf(const PaddedVoxels& voxels)
{
    const std::string stride = std::to_string(voxels.stride());
    std::string text = "NRRD0004\n# a chunk of edge " + std::to_string(voxels.edge) + " with "
        + std::to_string(voxels.apron)
        + " layers of its neighbours; axes x, z, y; numbers of blocks\ntype: uint16\ndimension: 3\nsizes: " + stride
        + " " + stride + " " + stride + "\nendian: little\nencoding: raw\n\n";
    for (const Material material : voxels.voxels) {
        text += static_cast<char>(material & 255);
        text += static_cast<char>(material >> 8);
    }
    return text;
}

int runMethodCheck(const MethodArguments& arguments, const std::stop_token& stop)
{
    if (!arguments.save.empty()) {
        if (const int code = refuseOutput(arguments.save, arguments.world, arguments.files); code != kDone)
            return code;
        if (arguments.files.size() > 1)
            return fail({"--save " + arguments.save, "", "keeps one counterexample: name one library"});
    }
    const auto terrain = openWorld(arguments.world);
    if (!terrain)
        return fail(terrain.problem());
    const BlockSet& blocks = terrain.value()->recipe.blocks;
    auto rows = nlohmann::ordered_json::array();
    bool isGood = true;
    for (const std::string& file : arguments.files) {
        MethodCheckSpec spec;
        spec.file = file;
        spec.blocks = blocks;
        const auto hash = hashOf(file);
        const auto found = checkMethod(spec, stop);
        if (!found)
            return fail(found.problem());
        if (stop.stop_requested())
            return kStopped;
        rows.push_back(toJson(file, hash ? hash.value() : "", found.value(), blocks));
        const auto& fault = found.value().fault;
        isGood &= !fault;
        if (!arguments.world.json)
            std::cout << file << ": " << found.value().method.name << " "
                      << (fault ? sentenceOf(*fault, blocks)
                                : "passed " + counted(static_cast<std::uint64_t>(found.value().cases), "case"))
                      << "\n";
        if (fault && !arguments.save.empty() && fault->counterexample.edge > 0)
            if (auto problem = writeFile(arguments.save, nrrdOf(fault->counterexample)))
                return fail(*problem, kCannotWrite);
    }
    if (arguments.world.json)
        printDocument("fell-method-check", {{"rows", rows}});
    return isGood ? kDone : kDoesNotHold;
}

} // namespace

Outcome<std::vector<const Mesher*>> loadMethods(const WorldArguments& arguments)
{
    static std::map<std::string, const Mesher*> loaded; // by file; commands open several setups
    std::vector<const Mesher*> out;
    for (const std::string& file : arguments.methods) {
        const Mesher*& mesher = loaded[file];
        if (!mesher) {
            auto recipe = findWorld("corrowdale", demoFolder()); // whose blocks are of all kinds
            if (!recipe)
                return recipe.problem();
            MethodCheckSpec spec;
            spec.file = file;
            spec.blocks = recipe.value().blocks;
            const auto hash = hashOf(file);
            const auto found = checkMethod(spec);
            if (!found)
                return found.problem();
            if (const auto& fault = found.value().fault)
                return Problem{file, "",
                    found.value().method.name + " " + sentenceOf(*fault, spec.blocks)
                        + "; it is not loaded: fell-cli method check " + file + " --save case.nrrd saves the case"};
            const auto made = loadMesher(file, hash ? hash.value() : "");
            if (!made)
                return made.problem();
            mesher = made.value();
            std::cerr << file << ": " << mesher->id << " passed " << found.value().cases << " cases\n";
        }
        out.push_back(mesher);
    }
    return out;
}

void chooseMesher(Setup& setup, const Mesher& mesher)
{
    for (const std::string& said : useMesher(setup, mesher))
        std::cerr << said << "\n";
}

void addMethodOption(CLI::App& command, WorldArguments& arguments)
{
    command
        .add_option("--method", arguments.methods,
            "a mesher of your own: a shared library, see docs/howto/own-mesher.md; it is checked first")
        ->allow_extra_args(false);
}

Run addMethod(CLI::App& parser)
{
    auto* command = parser.add_subcommand("method", "methods of your own, from shared libraries");
    auto* check = command->add_subcommand("check",
        "run a mesher on hard worlds in a separate process; exit code 1 for a crash, hang, leak, wrong write or "
        "surface");
    command->require_subcommand(1);
    auto arguments = std::make_shared<MethodArguments>();
    check->add_option("file", arguments->files, "shared libraries")->required();
    addWorldOptions(*check, arguments->world, SetupOptions::Without);
    check->add_option("--save", arguments->save, "write the counterexample as NRRD");
    return [arguments](const std::stop_token& stop) -> int { return runMethodCheck(*arguments, stop); };
}

} // namespace fell::cli
