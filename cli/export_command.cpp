// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include <fell/exchange/nrrd.h>
#include <fell/exchange/surface.h>
#include <fell/input/nearest.h>
#include <fell/input/text_file.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <iostream>

namespace fell::cli {
namespace {

struct ExportArguments {
    WorldArguments world;
    std::string what = "mesh", format, mode = "colour-sky", box = "-64,-16,-64,64,48,64", out;
};

std::filesystem::path materialFileOf(const std::string& out)
{
    return std::filesystem::path(out).replace_extension(".mtl");
}

int write(const ExportArguments& arguments, const ExportFile& file, const std::stop_token& stop)
{
    if (stop.stop_requested())
        return kStopped;
    if (!file.materials.empty())
        if (auto problem = writeFile(materialFileOf(arguments.out), file.materials))
            return fail(*problem, kCannotWrite);
    if (auto problem = writeFile(arguments.out, file.bytes))
        return fail(*problem, kCannotWrite);
    if (arguments.world.json) {
        nlohmann::ordered_json said{{"bytes", file.count.bytes}};
        if (arguments.what == "mesh") {
            said["vertices"] = file.count.vertices;
            said["triangles"] = file.count.triangles;
            said["left_out"] = file.leftOut;
        }
        printDocument("fell-export", said);
        return kDone;
    }
    std::cout << arguments.out << ": ";
    if (arguments.what == "mesh")
        std::cout << file.count.triangles << " triangles, " << file.count.vertices << " vertices, ";
    std::cout << file.count.bytes << " bytes\n";
    for (const std::string& sentence : file.leftOut)
        std::cout << "left out: " << sentence << "\n";
    return kDone;
}

/// The format that was named, else that of the file's ending, else the first.
Outcome<std::string> formatOf(const ExportArguments& arguments)
{
    std::vector<std::string> known;
    for (const MeshFileFormat& format : meshFileFormats())
        known.emplace_back(format.id);
    if (arguments.what != "mesh")
        known = {"nrrd"};
    std::string ending = std::filesystem::path(arguments.out).extension().string();
    ending.erase(0, ending.empty() ? 0 : 1);
    const bool isKnownEnding = std::find(known.begin(), known.end(), ending) != known.end();
    if (arguments.format.empty())
        return isKnownEnding ? ending : known.front();
    if (std::find(known.begin(), known.end(), arguments.format) == known.end())
        return Problem{
            "--format " + arguments.format, "", "is not known here, " + allowedNames(arguments.format, known)};
    if (isKnownEnding && ending != arguments.format)
        return Problem{"--format " + arguments.format, "", "does not fit --out " + arguments.out};
    return arguments.format;
}

int runExport(const ExportArguments& arguments, const std::stop_token& stop)
{
    const auto format = formatOf(arguments);
    if (!format)
        return fail(format.problem());
    const bool isMesh = arguments.what == "mesh";
    if (auto problem = checkUsed(arguments.world.set,
            isMesh ? std::vector<std::string>{"chunk.edge", "generate.method", "mesh.mesher"}
                   : std::vector<std::string>{"generate.method"}))
        return fail(*problem);
    const LightMode* mode = findLightMode(arguments.mode);
    if (!mode || mode->channels() == 0)
        return fail({"--mode " + arguments.mode, "", "allowed are lamp-sky, colour or colour-sky"});
    const auto box = parseBox(arguments.box);
    if (!box)
        return fail(box.problem());
    const auto setup = openSetup(arguments.world.setup, arguments.world);
    if (!setup)
        return fail(setup.problem());
    std::shared_ptr<WorldChanges> changes;
    const auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return fail(terrain.problem());
    if (const int code = refuseOutput(arguments.out, arguments.world); code != kDone)
        return code;
    if (isMesh && format.value() == "obj")
        if (const int code = refuseOutput(materialFileOf(arguments.out).string(), arguments.world); code != kDone)
            return code;
    const auto stopped = [&stop] { return stop.stop_requested(); };
    const Generator& generator = *findGenerator(setup.value().generate.method);
    if (arguments.what == "voxels")
        return write(arguments, voxelsToNrrd(*terrain.value(), generator, box.value(), stopped, changes.get()), stop);
    if (arguments.what == "light")
        return write(
            arguments, lightToNrrd(*terrain.value(), generator, *mode, box.value(), stopped, changes.get()), stop);
    const BoxSurface surface = surfaceOf(
        *terrain.value(), setup.value(), box.value(),
        [&stop](double share) {
            showProgress(share, "meshing");
            return !stop.stop_requested();
        },
        changes.get());
    if (stop.stop_requested())
        return kStopped;
    if (surface.isEmpty()) {
        const auto ground = groundAt(*terrain.value(), box.value(), changes.get());
        return fail({"--box " + arguments.box, "",
            "holds no surface, so nothing was written; "
                + (ground ? "the ground at its middle is at y = " + std::to_string(*ground)
                          : std::string("this world has no ground that ends"))});
    }
    const std::string materials = materialFileOf(arguments.out).filename().string();
    return write(arguments, toMeshFile(format.value(), surface, terrain.value()->recipe, materials), stop);
}

} // namespace

Run addExport(CLI::App& parser)
{
    auto* command = parser.add_subcommand("export", "write a box of the world in an open format");
    command->require_subcommand(1);
    auto arguments = std::make_shared<ExportArguments>();
    const auto add = [&](const char* what, const char* title, const char* formats) {
        auto* part = command->add_subcommand(what, title);
        addWorldOptions(*part, arguments->world);
        if (std::string_view(what) == "mesh")
            addMethodOption(*part, arguments->world);
        part->add_option("--format", arguments->format, formats);
        part->add_option("--box", arguments->box, "x0,y0,z0,x1,y1,z1 in voxels, upper bound outside")
            ->capture_default_str();
        part->add_option("--out", arguments->out, "the file to write")->required();
        part->callback([arguments, what] { arguments->what = what; });
        return part;
    };
    add("mesh", "write the surface of a box, without faces that neighbours outside the box cover",
        "glb (metres, where the box lies), ply or obj (voxels from the box's lower corner); else by the file's ending");
    add("voxels", "write the block type numbers of a box", "nrrd");
    add("light", "write the light values of a box, lit also from outside the box", "nrrd")
        ->add_option("--mode", arguments->mode, "lamp-sky, colour or colour-sky")
        ->capture_default_str();
    return [arguments](const std::stop_token& stop) { return runExport(*arguments, stop); };
}

} // namespace fell::cli
