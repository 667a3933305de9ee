// SPDX-License-Identifier: Apache-2.0
// fell-cli world: makes, describes, checks and tidies world files.
#include "commands.h"
#include "common.h"
#include "import_command.h"
#include <fell/grid/coords.h>
#include <fell/input/temp_folder.h>
#include <fell/measure/keep_trial.h>
#include <fell/measure/sample.h>
#include <fell/terrain/generate.h>

#include <nlohmann/json.hpp>

#include <iostream>

namespace fell::cli {
namespace {

struct WorldFileArguments {
    WorldArguments world;
    std::string file, group = "cube";
    int radius = 4, edits = 1000;
};

nlohmann::ordered_json jsonOf(const std::vector<DamagedRow>& damaged)
{
    auto out = nlohmann::ordered_json::array();
    for (const DamagedRow& row : damaged)
        out.push_back({{"where", row.where}, {"why", row.why}});
    return out;
}

std::string lowerHex(Rgb colour)
{
    char text[8];
    std::snprintf(text, sizeof text, "#%02x%02x%02x", colour.r, colour.g, colour.b);
    return text;
}

/// What info and verify say.
int describe(const WorldFile& world, const std::vector<DamagedRow>& damaged, const WorldFileArguments& arguments)
{
    const auto figures = world.figures();
    if (!figures)
        return fail(figures.problem());
    const auto recipe = recipeOf(world.header(), world.file().string());
    if (!recipe)
        return fail(recipe.problem());
    const WorldFigures& f = figures.value();
    if (arguments.world.json) {
        nlohmann::ordered_json out{{"file", world.file().string()}, {"recipe", world.header().name},
            {"seed", world.header().seed}, {"keeps", world.header().what}, {"group", world.header().group},
            {"chunks", f.chunks}, {"edits", f.voxels}, {"rows", f.rows}, {"row_bytes", f.rowBytes}, {"bytes", f.bytes},
            {"read_only", world.whyReadOnly()}, {"damaged", jsonOf(damaged)},
            {"blocks", nlohmann::ordered_json::array()}};
        const auto& kinds = recipe.value().blocks.kinds;
        for (std::size_t m = 0; m < kinds.size(); ++m)
            out["blocks"].push_back({{"id", m}, {"name", kinds[m].name}, {"opacity", kinds[m].light.opacity},
                {"emission", kinds[m].light.emission}, {"colour", lowerHex(kinds[m].top)}});
        printDocument("fell-world", out);
    } else {
        std::cout << world.file().string() << ": " << world.header().name << ", seed " << world.header().seed << "\n"
                  << f.voxels << " changed voxels in " << f.chunks << " chunks, " << f.rows << " rows (a "
                  << world.header().group << " each), " << f.rowBytes << " bytes of rows, " << f.bytes << " in all\n";
        if (!world.whyReadOnly().empty())
            std::cout << world.whyReadOnly() << "\n";
        for (const DamagedRow& row : damaged)
            std::cout << "damaged: " << row.where << " (" << row.why << ")\n";
    }
    return kDone;
}

int make(const WorldFileArguments& arguments)
{
    const auto terrain = openWorld(arguments.world);
    if (!terrain)
        return fail(terrain.problem());
    const Recipe& recipe = terrain.value()->recipe;
    const auto made = WorldFile::create(arguments.file,
        {recipe.name, recipe.text, recipe.blocks.text, std::filesystem::absolute(recipe.blocks.folder).string(),
            recipe.seed, "changed", arguments.group});
    if (!made)
        return fail(made.problem(), made.problem().what.rfind("cannot be made", 0) == 0 ? kCannotWrite : kBadInput);
    return describe(*made.value(), {}, arguments);
}

/// A world of any kind as one file that carries the pictures and models of its blocks, and its heights.
int pack(const WorldFileArguments& arguments, const std::stop_token& stop)
{
    const bool isFile = isDatabase(arguments.world.world);
    WorldHeader header;
    std::vector<StoredChunk> chunks;
    std::vector<WorldFile::Text> texts;
    if (isFile) {
        auto opened = WorldFile::open(arguments.world.world, WorldAccess::Read);
        if (!opened)
            return fail(opened.problem());
        auto contents = opened.value()->load([&stop](std::uint64_t, std::uint64_t) { return !stop.stop_requested(); });
        if (!contents)
            return stop.stop_requested() ? static_cast<int>(kStopped) : fail(contents.problem());
        if (!contents.value().damaged.empty())
            return fail({arguments.world.world, "", "holds damaged rows: world verify lists them"});
        auto found = opened.value()->texts();
        if (!found)
            return fail(found.problem());
        header = opened.value()->header();
        chunks = contents.take().chunks;
        texts = found.take();
    } else {
        const auto recipe = findWorld(arguments.world.world, demoFolder());
        if (!recipe)
            return fail(recipe.problem());
        header = {recipe.value().name, recipe.value().text, recipe.value().blocks.text,
            std::filesystem::absolute(recipe.value().blocks.folder).string(), recipe.value().seed, "changed",
            arguments.group};
    }
    auto made = WorldFile::createDraft(arguments.file, header, true);
    if (!made)
        return fail(made.problem(), made.problem().what.rfind("cannot be made", 0) == 0 ? kCannotWrite : kBadInput);
    constexpr std::size_t kTogether = 4096; // chunks a transaction
    for (std::size_t at = 0; at < chunks.size(); at += kTogether) {
        if (stop.stop_requested())
            return kStopped;
        showProgress(static_cast<double>(at) / static_cast<double>(chunks.size()), "packing");
        if (auto problem = made.value()->save(std::span(chunks).subspan(at, std::min(kTogether, chunks.size() - at))))
            return fail(*problem, kCannotWrite);
    }
    for (const WorldFile::Text& one : texts)
        if (auto problem = made.value()->putText(one.kind, one.name, one.json))
            return fail(*problem, kCannotWrite);
    if (auto problem = made.value()->publish())
        return fail(*problem, kCannotWrite);
    return describe(*made.value(), {}, arguments);
}

ProgressFn untilStopped(const std::stop_token& stop, const char* doing)
{
    return [stop, doing](std::uint64_t done, std::uint64_t all) {
        showProgress(static_cast<double>(done) / static_cast<double>(std::max<std::uint64_t>(1, all)), doing);
        return !stop.stop_requested();
    };
}

/// Describes it with the rows that cannot be read; `damagedCode` where there are any.
int check(const WorldFile& world, const WorldFileArguments& arguments, const std::stop_token& stop, Exit damagedCode)
{
    const auto damaged = world.verify(untilStopped(stop, "checking"));
    if (!damaged)
        return stop.stop_requested() ? static_cast<int>(kStopped) : fail(damaged.problem());
    const int said = describe(world, damaged.value(), arguments);
    return said != kDone ? said : damaged.value().empty() ? kDone : damagedCode;
}

int compact(WorldFile& world, const WorldFileArguments& arguments, const std::stop_token& stop)
{
    auto recipe = recipeOf(world.header(), world.file().string());
    if (!recipe)
        return fail(recipe.problem());
    const auto terrain = makeTerrain(recipe.take());
    const auto saved = world.compact(
        [&](ChunkPos chunk) { return generateChunk(*findGenerator("blocks"), *terrain, chunk, kKeptEdge).voxels(); },
        untilStopped(stop, "comparing with the recipe"));
    if (!saved)
        return stop.stop_requested() ? static_cast<int>(kStopped) : fail(saved.problem(), kCannotWrite);
    if (!arguments.world.json)
        std::cout << saved.value() << " bytes smaller\n";
    return check(world, arguments, stop, kDone);
}

void printWays(const KeepTrial& trial, bool isJson)
{
    if (isJson) {
        nlohmann::ordered_json out{{"visited_chunks", trial.visited}, {"changed_chunks", trial.changed},
            {"changed_voxels", trial.voxels}, {"make_ms", trial.makeMs}, {"rows", nlohmann::ordered_json::array()}};
        for (const KeepTrialRow& row : trial.rows)
            out["rows"].push_back({{"keeps", row.what}, {"group", row.group}, {"bytes", row.bytes}, {"rows", row.rows},
                {"chunks", row.chunks}, {"save_ms", row.saveMs}, {"load_ms", row.loadMs},
                {"near_load_ms", row.nearLoadMs}, {"held_bytes", row.loadedBytes}, {"same", row.same}});
        printDocument("fell-world-ways", out);
        return;
    }
    std::printf(
        "%llu chunks visited, %llu voxels changed in %llu chunks; regenerating the visited ones takes %.1f ms\n\n",
        static_cast<unsigned long long>(trial.visited), static_cast<unsigned long long>(trial.voxels),
        static_cast<unsigned long long>(trial.changed), trial.makeMs);
    std::printf("%-9s %-7s %11s %6s %7s %9s %9s %13s %11s  %s\n", "keeps", "row", "bytes", "rows", "chunks", "save ms",
        "load ms", "8 chunks ms", "held bytes", "reads back");
    for (const KeepTrialRow& row : trial.rows)
        std::printf("%-9s %-7s %11llu %6llu %7llu %9.1f %9.1f %13.2f %11llu  %s\n", row.what.c_str(), row.group.c_str(),
            static_cast<unsigned long long>(row.bytes), static_cast<unsigned long long>(row.rows),
            static_cast<unsigned long long>(row.chunks), row.saveMs, row.loadMs, row.nearLoadMs,
            static_cast<unsigned long long>(row.loadedBytes), row.same ? "the same" : "OTHER VOXELS");
}

int compareWays(const WorldFileArguments& arguments, const std::stop_token& stop)
{
    WorldArguments world = arguments.world;
    if (!arguments.file.empty())
        world.world = arguments.file;
    auto changes = std::make_shared<WorldChanges>();
    const auto terrain = openWorld(world, &changes);
    if (!terrain)
        return fail(terrain.problem());
    const ChunkPos home = chunkOf(middleOfInterest(*terrain.value(), changes.get()), kKeptEdge);
    const auto folder = TempFolder::make();
    if (!folder)
        return fail(folder.problem(), kCannotWrite);
    const auto trial = runKeepTrial(
        {terrain.value(), changes, home, arguments.radius, arguments.edits, 3, folder.value()->path()}, stop);
    if (!trial)
        return fail(trial.problem(), kCannotWrite);
    if (trial.value().stopped)
        return kStopped;
    printWays(trial.value(), arguments.world.json);
    const auto& rows = trial.value().rows;
    return std::all_of(rows.begin(), rows.end(), [](const KeepTrialRow& row) { return row.same; }) ? kDone
                                                                                                   : kDoesNotHold;
}

} // namespace

Run addWorld(CLI::App& parser)
{
    CLI::App& command = *parser.add_subcommand("world", "world files: a recipe and its edits");
    command.require_subcommand(1);
    auto arguments = std::make_shared<WorldFileArguments>();
    CLI::App* chosen[4]{};
    const std::pair<const char*, const char*> kCommands[]{{"new", "make a world file from a recipe, a demo or a seed"},
        {"info", "print what a world file contains"}, {"verify", "read every row; exit code 1 if one is damaged"},
        {"compact", "remove voxels that equal the recipe, and free the space"}};
    for (std::size_t i = 0; i < 4; ++i) {
        chosen[i] = command.add_subcommand(kCommands[i].first, kCommands[i].second);
        chosen[i]->add_option("file", arguments->file, "the world file")->required();
        if (i > 0)
            chosen[i]->add_flag("--json", arguments->world.json, "one JSON document");
    }
    addWorldOptions(*chosen[0], arguments->world, SetupOptions::Without);
    std::vector<std::string> groups;
    for (const KeepMethod& group : keepGroups())
        groups.emplace_back(group.id);
    chosen[0]
        ->add_option("--group", arguments->group, "what a row holds: chunk, column or cube")
        ->check(CLI::IsMember(groups));
    CLI::App* ways = command.add_subcommand("ways", "save the same chunks in every way and compare; no file is left");
    ways->add_option("file", arguments->file, "a world file whose edits are saved; not given: made-up edits");
    addWorldOptions(*ways, arguments->world, SetupOptions::Without);
    ways->add_option("--radius", arguments->radius, "chunks that count as visited")
        ->check(CLI::Range(1, 16))
        ->capture_default_str();
    ways->add_option("--edits", arguments->edits, "changed voxels where the world has none")
        ->check(CLI::Range(1, 1000000))
        ->capture_default_str();
    CLI::App* packs
        = command.add_subcommand("pack", "write one file that contains block set, models, textures and height maps");
    packs->add_option("world", arguments->world.world, "a world file, a recipe file, or a demo")->required();
    packs->add_option("file", arguments->file, "the world file to make")->required();
    packs->add_flag("--json", arguments->world.json, "one JSON document");
    auto import = std::make_shared<ImportArguments>();
    CLI::App* imports = command.add_subcommand(
        "import", "make a world file from a height map (PNG), a volume (NRRD) or chunks of an engine");
    addImportOptions(*imports, *import);
    return [arguments, import, imports, ways, packs, isNew = chosen[0], isVerify = chosen[2], isCompact = chosen[3]](
               const std::stop_token& stop) -> int {
        if (isNew->parsed())
            return make(*arguments);
        if (imports->parsed())
            return importWorld(*import, stop);
        if (packs->parsed())
            return pack(*arguments, stop);
        if (ways->parsed())
            return compareWays(*arguments, stop);
        auto opened = WorldFile::open(arguments->file, isCompact->parsed() ? WorldAccess::Write : WorldAccess::Read);
        if (!opened)
            return fail(opened.problem());
        const auto world = opened.take();
        if (isVerify->parsed())
            return check(*world, *arguments, stop, kDoesNotHold);
        if (isCompact->parsed())
            return compact(*world, *arguments, stop);
        return check(*world, *arguments, stop, kDone);
    };
}

} // namespace fell::cli
