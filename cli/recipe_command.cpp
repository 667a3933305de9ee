// SPDX-License-Identifier: Apache-2.0
// fell-cli recipe: checks a recipe, lists its layers with what they cost, draws its map.
#include "commands.h"
#include "common.h"
#include <fell/gpu/picture.h>
#include <fell/input/nearest.h>
#include <fell/input/text_file.h>
#include <fell/measure/recipe_trial.h>
#include <fell/save/world_file.h>
#include <fell/terrain/recipe_map.h>
#include <fell/terrain/recipe_schema.h>

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct RecipeArguments {
    std::string file, out, look = "relief", size = "512x512", at = "0,0";
    std::optional<std::uint64_t> seed;
    double metres = 4;
    bool json = false;
};

struct Opened {
    Recipe recipe;
    RecipeDocument document;
};

Outcome<Opened> openRecipe(const RecipeArguments& arguments)
{
    auto recipe = findWorldOrFile(arguments.file, demoFolder());
    if (!recipe)
        return recipe.problem();
    Opened out{recipe.take(), {}};
    out.document = RecipeDocument::parse(out.recipe.text);
    return out;
}

int check(const RecipeArguments& arguments)
{
    const auto opened = openRecipe(arguments);
    if (!opened)
        return fail(opened.problem());
    const auto layers = layersOf(opened.value().document);
    const auto off = std::count_if(layers.begin(), layers.end(), [](const RecipeLayer& layer) { return layer.isOff; });
    const auto& updates = opened.value().recipe.updates;
    if (arguments.json) {
        printDocument("fell-recipe-check",
            {{"recipe", opened.value().recipe.name}, {"layers", layers.size()}, {"off", off}, {"updates", updates}});
        return kDone;
    }
    if (!updates.empty())
        std::cout << arguments.file << " is of an older version; it is read as if it said\n";
    for (const std::string& update : updates)
        std::cout << "  " << update << "\n";
    std::cout << arguments.file << ": " << opened.value().recipe.name << ", " << layers.size() << " layers"
              << (off > 0 ? ", " + std::to_string(off) + " of them off" : "") << ", nothing is wrong with it\n";
    return kDone;
}

int show(const RecipeArguments& arguments, const std::stop_token& stop)
{
    const auto opened = openRecipe(arguments);
    if (!opened)
        return fail(opened.problem());
    const Opened& recipe = opened.value();
    const auto costs = costsOf(
        recipe.document, arguments.file, [&](const std::string&) -> Outcome<BlockSet> { return recipe.recipe.blocks; },
        stop);
    if (!costs)
        return fail(costs.problem());
    if (costs.value().stopped)
        return kStopped;
    const auto layers = layersOf(recipe.document);
    auto rows = nlohmann::ordered_json::array();
    if (!arguments.json)
        std::printf("%s, seed %llu: %.0f ns a column\n"
                    "A share is what leaving the layer out saves, with its 95 %% interval; layers share work.\n\n"
                    "%7s %7s  %-16s  %-10s %s\n",
            recipe.recipe.name.c_str(), static_cast<unsigned long long>(recipe.recipe.seed), costs.value().columnNs,
            "ns", "share", "interval", "group", "layer");
    for (std::size_t i = 0; i < layers.size(); ++i) {
        const LayerCost cost = i < costs.value().layers.size() ? costs.value().layers[i] : LayerCost{};
        rows.push_back({{"pointer", layers[i].pointer}, {"group", layers[i].group}, {"title", layers[i].title},
            {"what", layers[i].what}, {"off", layers[i].isOff}, {"column_ns", cost.columnNs}, {"share", cost.share},
            {"low", cost.low}, {"high", cost.high}});
        if (arguments.json)
            continue;
        char figures[64] = "      -       -  off             ";
        if (cost.isKnown())
            std::snprintf(figures, sizeof figures, "%7.1f %6.1f%%  %5.1f to %4.1f %%  ", cost.columnNs,
                cost.share * 100, cost.low * 100, cost.high * 100);
        else if (!layers[i].isOff && cost.high * 100 < 0.05)
            std::snprintf(figures, sizeof figures, "      -       -  nothing");
        else if (!layers[i].isOff)
            std::snprintf(
                figures, sizeof figures, "      -       -  below %.1f %%     ", std::max(0.0, cost.high * 100));
        std::printf("%-34s %-10s %s%s\n", figures, layers[i].group.c_str(), layers[i].title.c_str(),
            layers[i].title == layers[i].what ? "" : (" (" + layers[i].what + ")").c_str());
    }
    if (arguments.json)
        printDocument("fell-recipe-costs",
            {{"recipe", recipe.recipe.name}, {"seed", recipe.recipe.seed}, {"column_ns", costs.value().columnNs},
                {"layers", rows}});
    return kDone;
}

int map(const RecipeArguments& arguments, const std::stop_token& stop)
{
    const auto looks = mapLooks();
    const auto look = std::find_if(
        looks.begin(), looks.end(), [&arguments](const MapLookChoice& one) { return arguments.look == one.id; });
    if (look == looks.end()) {
        std::vector<std::string> known;
        for (const MapLookChoice& one : looks)
            known.emplace_back(one.id);
        return fail({"--look " + arguments.look, "", "is no look of a map, " + allowedNames(arguments.look, known)});
    }
    MapSpec spec;
    const auto pixelSize = wholeNumbers<2>(arguments.size, 'x');
    spec.width = pixelSize ? (*pixelSize)[0] : 0;
    spec.height = pixelSize ? (*pixelSize)[1] : 0;
    int read = 0;
    if (spec.width < 16 || spec.height < 16 || spec.width > 4096 || spec.height > 4096)
        return fail({"--size " + arguments.size, "", "WIDTHxHEIGHT from 16x16 to 4096x4096 is expected"});
    if (std::sscanf(arguments.at.c_str(), "%lf,%lf%n", &spec.middle[0], &spec.middle[1], &read) != 2
        || static_cast<std::size_t>(read) != arguments.at.size()
        || !(std::abs(spec.middle[0]) <= 1e6 && std::abs(spec.middle[1]) <= 1e6))
        return fail({"--at " + arguments.at, "", "east,south in metres is expected, each at most 1000000 either way"});
    if (!(arguments.metres >= 0.05 && arguments.metres <= 1000))
        return fail({"--metres", "", "0.05 to 1000 metres a pixel are allowed"});
    spec.metresPerPixel = arguments.metres;
    WorldArguments inputs;
    inputs.world = arguments.file;
    if (const int code = refuseOutput(arguments.out, inputs); code != kDone)
        return code;
    const auto opened = openRecipe(arguments);
    if (!opened)
        return fail(opened.problem());
    const auto terrain = makeTerrain(opened.value().recipe, arguments.seed);
    if (terrain->recipe.pattern)
        return fail({arguments.file, "", "is a pattern without ground; recipes with a height have maps"});
    const TerrainMap made = mapOf(*terrain, spec, stop);
    if (stop.stop_requested())
        return kStopped;
    const auto colours = pictureOf(made, terrain->recipe.blocks, look->look);
    std::vector<std::uint8_t> pixels;
    for (std::size_t i = 0; i < colours.size(); i += 3)
        pixels.insert(pixels.end(), {colours[i], colours[i + 1], colours[i + 2], 255});
    if (auto problem = writeFile(arguments.out, toPng(pixels, spec.width, spec.height)))
        return fail(*problem, kCannotWrite);
    if (arguments.json)
        printDocument("fell-recipe-map",
            {{"width", spec.width}, {"height", spec.height}, {"metres_per_pixel", spec.metresPerPixel},
                {"lowest", made.min}, {"highest", made.max}});
    else
        std::printf("%s: %d x %d pixels, ground from %.1f to %.1f m\n", arguments.out.c_str(), spec.width, spec.height,
            made.min, made.max);
    return kDone;
}

} // namespace

Run addRecipe(CLI::App& parser)
{
    CLI::App& command = *parser.add_subcommand("recipe", "recipes: the layers of a world");
    command.require_subcommand(1);
    auto arguments = std::make_shared<RecipeArguments>();
    const auto add = [&](const char* name, const char* title) {
        CLI::App* part = command.add_subcommand(name, title);
        part->add_option("file", arguments->file, "a recipe file or a demo")->required();
        part->add_flag("--json", arguments->json, "one JSON document");
        return part;
    };
    CLI::App *checks = add("check", "check a recipe; exit code 2 with the JSON pointer of what is wrong"),
             *shows = add("show", "print the layers and the cost of each"), *maps = add("map", "write the map as PNG");
    maps->add_option("--out", arguments->out, "the file to write")->required();
    maps->add_option("--look", arguments->look, "relief, height, slope, material or cost")->capture_default_str();
    maps->add_option("--size", arguments->size, "pixels")->capture_default_str();
    maps->add_option("--metres", arguments->metres, "a pixel")->capture_default_str();
    maps->add_option("--at", arguments->at, "the middle: metres east, south")->capture_default_str();
    maps->add_option("--seed", arguments->seed, "replaces the recipe's seed")->check(seedValidator());
    const auto text = [&command](const char* name, const char* title) { return command.add_subcommand(name, title); };
    CLI::App *schema = text("schema", "print the JSON Schema of recipes"),
             *reference = text("reference", "print every key of a recipe as Markdown");
    return [arguments, checks, shows, schema, reference](const std::stop_token& stop) -> int {
        if (schema->parsed() || reference->parsed()) {
            std::cout << (schema->parsed() ? recipeSchema() : recipeReference());
            return kDone;
        }
        return checks->parsed() ? check(*arguments) : shows->parsed() ? show(*arguments, stop) : map(*arguments, stop);
    };
}

} // namespace fell::cli
