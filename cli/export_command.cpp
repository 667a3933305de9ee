// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include "exchange/nrrd.h"
#include "exchange/surface.h"
#include "input/text_file.h"

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct ExportArguments {
    WorldArguments world;
    std::string what = "mesh", format = "glb", mode = "colour-sky", box = "-64,-16,-64,64,48,64", out;
};

int write(const ExportArguments& arguments, const ExportFile& file, const std::stop_token& stop)
{
    if (stop.stop_requested())
        return kStopped;
    if (auto problem = writeFile(arguments.out, file.bytes))
        return fail(*problem, kCannotWrite);
    if (arguments.world.json)
        std::cout << nlohmann::ordered_json{{"bytes", file.count.bytes}, {"vertices", file.count.vertices},
            {"triangles", file.count.triangles}}
                         .dump(2)
                  << "\n";
    else if (file.count.triangles > 0)
        std::cout << arguments.out << ": " << file.count.triangles << " triangles, " << file.count.vertices
                  << " vertices, " << file.count.bytes << " bytes\n";
    else
        std::cout << arguments.out << ": " << file.count.bytes << " bytes\n";
    return kDone;
}

int runExport(const ExportArguments& arguments, const std::stop_token& stop)
{
    const bool isMesh = arguments.what == "mesh";
    if (isMesh && arguments.format != "glb" && arguments.format != "ply")
        return fail({"--format " + arguments.format, "", "allowed are glb or ply"});
    if (!isMesh && arguments.format != "nrrd")
        return fail({"--format " + arguments.format, "", "allowed is nrrd"});
    const LightMode* mode = findLightMode(arguments.mode);
    if (!mode || mode->channels() == 0)
        return fail({"--mode " + arguments.mode, "", "allowed are lamp-sky, colour or colour-sky"});
    const auto box = parseBox(arguments.box);
    if (!box)
        return fail(box.problem());
    const auto setup = openSetup(arguments.world.setup, arguments.world.set);
    if (!setup)
        return fail(setup.problem());
    std::shared_ptr<WorldChanges> changes;
    const auto terrain = openWorld(arguments.world, &changes);
    if (!terrain)
        return fail(terrain.problem());
    if (const int code = refuseOutput(arguments.out, arguments.world); code != kDone)
        return code;
    const auto stopped = [&stop] { return stop.stop_requested(); };
    const Generator& generator = *findGenerator(setup.value().generate.method);
    if (arguments.what == "voxels")
        return write(arguments, voxelsToNrrd(*terrain.value(), generator, box.value(), stopped, changes.get()), stop);
    if (arguments.what == "light")
        return write(
            arguments, lightToNrrd(*terrain.value(), generator, *mode, box.value(), stopped, changes.get()), stop);
    const auto surface = surfaceOf(*terrain.value(), setup.value(), box.value(), stopped, changes.get());
    if (stop.stop_requested())
        return kStopped;
    const Recipe& recipe = terrain.value()->recipe;
    return write(arguments, arguments.format == "glb" ? toGlb(surface, recipe) : toPly(surface, recipe), stop);
}

} // namespace

Run addExport(CLI::App& parser)
{
    auto* command = parser.add_subcommand("export", "write one box of the world in an open format");
    command->require_subcommand(1);
    auto arguments = std::make_shared<ExportArguments>();
    const auto add = [&](const char* what, const char* title, const char* formats) {
        auto* part = command->add_subcommand(what, title);
        addWorldOptions(*part, arguments->world);
        part->add_option("--format", arguments->format, formats);
        part->add_option("--box", arguments->box, "x0,y0,z0,x1,y1,z1 in voxels, upper bound outside")
            ->capture_default_str();
        part->add_option("--out", arguments->out, "the file to write")->required();
        part->callback([arguments, what, part] {
            arguments->what = what;
            if (arguments->what != "mesh" && part->count("--format") == 0)
                arguments->format = "nrrd";
        });
        return part;
    };
    add("mesh", "the sides of the voxels in the box, dropped by their real neighbours",
        "glb (metres) or ply (voxels from the box's lower corner)");
    add("voxels", "the material numbers of the box", "nrrd");
    add("light", "the light of the box, with all that lights it from outside", "nrrd")
        ->add_option("--mode", arguments->mode, "lamp-sky, colour or colour-sky")
        ->capture_default_str();
    return [arguments](const std::stop_token& stop) { return runExport(*arguments, stop); };
}

} // namespace fell::cli
