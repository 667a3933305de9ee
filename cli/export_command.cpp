// SPDX-License-Identifier: Apache-2.0
#include "commands.h"
#include "common.h"
#include "exchange/surface.h"
#include "input/text_file.h"

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct Arguments {
    WorldArguments world;
    std::string format = "glb", box = "-64,-16,-64,64,48,64", out;
};

int run(const Arguments& arguments, const std::stop_token& stop)
{
    if (arguments.format != "glb" && arguments.format != "ply")
        return fail({"--format " + arguments.format, "", "allowed are glb or ply"});
    const auto box = parseBox(arguments.box);
    if (!box)
        return fail(box.problem());
    const auto setup = openSetup(arguments.world.setup, arguments.world.set);
    if (!setup)
        return fail(setup.problem());
    const auto terrain = openWorld(arguments.world);
    if (!terrain)
        return fail(terrain.problem());
    if (auto problem = checkWritable(arguments.out))
        return fail(*problem, kCannotWrite);
    const auto surface
        = surfaceOf(*terrain.value(), setup.value(), box.value(), [&stop] { return stop.stop_requested(); });
    if (stop.stop_requested())
        return kStopped;
    const Recipe& recipe = terrain.value()->recipe;
    const ExportFile file = arguments.format == "glb" ? toGlb(surface, recipe) : toPly(surface, recipe);
    if (auto problem = writeFile(arguments.out, file.bytes))
        return fail(*problem, kCannotWrite);
    if (arguments.world.json)
        std::cout << nlohmann::ordered_json{{"bytes", file.count.bytes}, {"vertices", file.count.vertices},
            {"triangles", file.count.triangles}}
                         .dump(2)
                  << "\n";
    else
        std::cout << arguments.out << ": " << file.count.triangles << " triangles, " << file.count.vertices
                  << " vertices, " << file.count.bytes << " bytes\n";
    return kDone;
}

} // namespace

Run addExport(CLI::App& parser)
{
    auto* command = parser.add_subcommand("export", "write one box of the world in an open format");
    auto arguments = std::make_shared<Arguments>();
    auto* mesh
        = command->add_subcommand("mesh", "the sides of the voxels in the box, dropped by their real neighbours");
    command->require_subcommand(1);
    addWorldOptions(*mesh, arguments->world);
    mesh->add_option("--format", arguments->format, "glb (metres) or ply (voxels from the box's lower corner)")
        ->capture_default_str();
    mesh->add_option("--box", arguments->box, "x0,y0,z0,x1,y1,z1 in voxels, upper bound outside")
        ->capture_default_str();
    mesh->add_option("--out", arguments->out, "the file to write")->required();
    return [arguments](const std::stop_token& stop) { return run(*arguments, stop); };
}

} // namespace fell::cli
