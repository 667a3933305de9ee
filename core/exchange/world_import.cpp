// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/world_import.h>

#include <fell/exchange/chunk_gather.h>
#include <fell/input/text_file.h>
#include <fell/save/world_file.h>
#include <fell/terrain/recipe_versions.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace fell::exchange {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

Json recipeFor(const ImportSpec& spec)
{
    return {{"format", "fell-recipe"}, {"version", kRecipeVersion}, {"name", cutText(spec.out.stem().string(), 80)},
        {"seed", spec.like.seed}, {"voxel_metres", spec.like.voxelMetres}, {"blocks", "blocks.json"}};
}

Outcome<std::unique_ptr<WorldFile>> create(const ImportSpec& spec, const Json& recipe)
{
    return WorldFile::createDraft(spec.out,
        {recipe["name"].get<std::string>(), recipe.dump(2), spec.like.blocks.text,
            fs::absolute(spec.like.blocks.folder).string(), spec.like.seed, "changed", "cube"});
}

/// Materials by height and slope, of the kinds that the world has; where it lacks one, its first.
Json strataFor(const ImportSpec& spec)
{
    const BlockSet& blocks = spec.like.blocks;
    const auto named = [&blocks](const char* name) {
        return findMaterial(blocks, name) ? std::string(name) : blocks.kinds.at(1).name;
    };
    if (!spec.material.empty())
        return Json::array({Json{{"material", spec.material}}});
    const double tops = spec.heights[0] + (spec.heights[1] - spec.heights[0]) * 0.75;
    return Json::array({
        Json{{"material", named("scree")}, {"note", "below the crags"}, {"depth", {0, 3}}, {"slope", {0.75, 1.0}}},
        Json{{"material", named("slate")}, {"note", "crags"}, {"slope", {1.0, 1000}}},
        Json{{"material", named("scree")}, {"note", "the stony tops"}, {"depth", {0, 1}}, {"altitude", {tops, 1e6}}},
        Json{{"material", named("turf")}, {"depth", {0, 1}}},
        Json{{"material", named("earth")}, {"depth", {1, 4}}},
        Json{{"material", named("slate")}},
    });
}

std::optional<Problem> isThere(const fs::path& file)
{
    std::error_code error;
    if (fs::exists(file, error))
        return Problem{file.string(), "", "is there already; nothing was changed: name another file"};
    return std::nullopt;
}

Problem stopped(const ImportSpec& spec)
{
    return {spec.in.string(), "", "was not imported: it was stopped"};
}

Outcome<ImportResult> importHeights(const ImportSpec& spec, const std::function<bool(double share)>& progress)
{
    const auto info = heightPngInfo(spec.in);
    if (!info)
        return info.problem();
    const auto [low, high] = spec.heights;
    if (!(low < high && low >= -20000 && high <= 20000))
        return Problem{
            "heights", "", "two numbers of metres are expected, the first below the second, from -20000 to 20000"};
    if (!(spec.metresPerPixel >= 0.01 && spec.metresPerPixel <= 1000))
        return Problem{"metres a pixel", "", "0.01 to 1000 are allowed"};
    const fs::path heights = fs::absolute(fs::path(spec.out).replace_extension(".heights"));
    for (const fs::path& file : {spec.out, heights})
        if (auto problem = isThere(file))
            return *problem;
    if (auto problem = importHeightPng(spec.in, heights, progress))
        return *problem;
    Json recipe = recipeFor(spec);
    recipe["height"] = {{"base", 0},
        {"map",
            {{"file", fs::absolute(heights).string()}, {"metres_per_pixel", spec.metresPerPixel},
                {"range", spec.heights}}}};
    recipe["strata"] = strataFor(spec);
    recipe["view"] = {{"at", {0, static_cast<int>(std::ceil(high)), 0}}, {"yaw", 45}, {"pitch", -20}};
    auto made = create(spec, recipe);
    std::optional<Problem> problem = made ? std::nullopt : std::optional(made.problem());
    const std::unique_ptr<WorldFile> world = made ? made.take() : nullptr;
    if (world)
        problem = world->publish();
    if (problem) {
        std::error_code error;
        fs::remove(heights, error);
        return *problem;
    }
    const HeightPngInfo& of = info.value();
    return ImportResult{{of.width, 1, of.height}, "grey, " + std::to_string(of.bits) + " bits", heights, 0, 0,
        world->figures().value().bytes};
}

Outcome<ImportResult> importVolume(const ImportSpec& spec, const std::function<bool(double share)>& progress)
{
    constexpr std::int64_t kFarthest = 1'000'000'000;
    for (const std::int64_t along : {spec.at.x, spec.at.y, spec.at.z})
        if (along > kFarthest || along < -kFarthest)
            return Problem{"lowest corner", "", "at most 1000000000 voxels from the origin are allowed"};
    if (auto problem = isThere(spec.out))
        return *problem;
    const auto volume = readNrrd(spec.in);
    if (!volume)
        return volume.problem();
    VolumeRule rule;
    if (spec.threshold && !std::isfinite(*spec.threshold))
        return Problem{"threshold", "", "is not a number: give a value of the volume, e.g. 0.5"};
    if (spec.threshold) {
        rule.above = spec.threshold;
        rule.material = findMaterial(spec.like.blocks, spec.material).value_or(1);
    } else if (!spec.ids.empty()) {
        rule.ids = spec.ids;
    } else {
        auto own = ruleOf(volume.value(), spec.like.blocks);
        if (!own)
            return own.problem();
        rule = own.take();
    }
    Json recipe = recipeFor(spec);
    recipe["pattern"] = {{"kind", "built"}, {"material", spec.like.blocks.kinds.at(1).name}, {"top", -4096},
        {"every", {64, 64}}, {"boxes", Json::array()}};
    const auto& size = volume.value().size;
    const auto metre = [&](std::int64_t voxel) {
        constexpr double kMetres = 1e6;
        return static_cast<int>(std::clamp(static_cast<double>(voxel) * spec.like.voxelMetres, -kMetres, kMetres));
    };
    recipe["view"]
        = {{"at", {metre(spec.at.x + size[0] / 2), metre(spec.at.y + size[1]), metre(spec.at.z + size[2] * 3 / 2)}},
            {"yaw", 0}, {"pitch", -25}};
    auto made = create(spec, recipe);
    if (!made)
        return made.problem();
    std::unique_ptr<WorldFile> world = made.take();
    std::optional<Problem> problem;
    const bool isAll
        = eachChunkOf(volume.value(), rule, spec.at, [&](const std::vector<StoredChunk>& layer, double share) {
              problem = world->save(layer);
              return !problem && (!progress || progress(share));
          });
    if (!isAll)
        return problem.value_or(stopped(spec));
    if (world->figures().value().voxels == 0)
        return Problem{spec.in.string(), "",
            "was not imported: none of its " + std::to_string(size[0] * size[1] * size[2])
                + " voxels becomes a block by the threshold or the ids that were given"};
    if (const auto unpublished = world->publish())
        return *unpublished;
    const WorldFigures figures = world->figures().value();
    return ImportResult{size, volume.value().type, {}, figures.chunks, figures.voxels, figures.bytes};
}

/// The lowest and highest voxel of what came so far.
struct Box {
    VoxelPos low{INT64_MAX, INT64_MAX, INT64_MAX}, high{INT64_MIN, INT64_MIN, INT64_MIN};
    void add(VoxelPos at)
    {
        low = {std::min(low.x, at.x), std::min(low.y, at.y), std::min(low.z, at.z)};
        high = {std::max(high.x, at.x), std::max(high.y, at.y), std::max(high.z, at.z)};
    }
};

Box boxOf(const ForeignHeader& header, const ForeignChunk& chunk, VoxelPos shift)
{
    Box out;
    out.add(header.placeOf(chunk.at, {0, 0, 0}) + shift);
    out.add(header.placeOf(chunk.at, {header.edge[0] - 1, header.edge[1] - 1, header.edge[2] - 1}) + shift);
    return out;
}

/// Fills the world with the chunks; `first` was read already. What they lie in goes into `box`.
std::optional<Problem> readChunks(const ImportSpec& spec, ForeignChunks& chunks, ForeignChunk& chunk,
    const std::vector<Material>& materials, WorldFile& world, Box& box,
    const std::function<bool(double share)>& progress)
{
    ChunkGather gather(world);
    for (bool isThere = true; isThere;) {
        if (auto problem = gather.add(chunks.header(), chunk, materials, spec.at))
            return problem;
        const Box of = boxOf(chunks.header(), chunk, spec.at);
        box.add(of.low);
        box.add(of.high);
        if (progress && !progress(chunks.share()))
            return stopped(spec);
        const auto next = chunks.next(chunk);
        if (!next)
            return next.problem();
        isThere = next.value();
    }
    return gather.finish();
}

Outcome<ImportResult> importChunks(const ImportSpec& spec, const std::function<bool(double share)>& progress)
{
    if (auto problem = isThere(spec.out))
        return *problem;
    auto opened = ForeignChunks::open(spec.in);
    if (!opened)
        return opened.problem();
    ForeignChunks& chunks = *opened.value();
    const ForeignHeader& header = chunks.header();
    const auto blocks = blocksOf(header, spec.in.string());
    if (!blocks)
        return blocks.problem();
    ForeignChunk chunk;
    const auto first = chunks.next(chunk); // for the first camera position
    if (!first)
        return first.problem();
    if (!first.value())
        return Problem{spec.in.string(), "", "contains no chunk: one or more are expected"};
    const Box near = boxOf(header, chunk, spec.at);
    const auto metre = [&](std::int64_t voxel) {
        constexpr double kMetres = 1e6;
        return static_cast<int>(std::clamp(static_cast<double>(voxel) * header.voxelMetres, -kMetres, kMetres));
    };
    ImportSpec with = spec;
    with.like.blocks.text = blocks.value().json;
    with.like.voxelMetres = header.voxelMetres;
    Json recipe = recipeFor(with);
    if (!header.name.empty())
        recipe["name"] = cutText(header.name, 80);
    const std::string ground = Json::parse(blocks.value().json)["blocks"][0]["name"].get<std::string>();
    recipe["pattern"]
        = {{"kind", "built"}, {"material", ground}, {"top", -4096}, {"every", {64, 64}}, {"boxes", Json::array()}};
    recipe["view"]
        = {{"at", {metre(near.low.x), metre(near.high.y) + 20, metre(near.high.z) + 20}}, {"yaw", 30}, {"pitch", -25}};
    auto made = create(with, recipe);
    if (!made)
        return made.problem();
    const std::unique_ptr<WorldFile> world = made.take();
    Box box;
    if (auto problem = readChunks(spec, chunks, chunk, blocks.value().materials, *world, box, progress))
        return *problem;
    if (world->figures().value().voxels == 0)
        return Problem{spec.in.string(), "", "was not imported: none of its voxels is anything but air; check the ids"};
    if (auto unpublished = world->publish())
        return *unpublished;
    const WorldFigures figures = world->figures().value();
    const auto text = [](int edge) { return std::to_string(edge); };
    return ImportResult{{box.high.x - box.low.x + 1, box.high.y - box.low.y + 1, box.high.z - box.low.z + 1},
        "chunks of " + text(header.edge[0]) + " x " + text(header.edge[1]) + " x " + text(header.edge[2]), {},
        figures.chunks, figures.voxels, figures.bytes};
}

} // namespace

std::optional<ImportKind> importKindOf(const fs::path& file)
{
    std::error_code error;
    if (file == "-" || file.filename() == "fell-chunks.json" || fs::exists(file / "fell-chunks.json", error))
        return ImportKind::Chunks;
    std::string ending = file.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return std::tolower(c); });
    return ending == ".png"   ? std::optional(ImportKind::Heights)
        : ending == ".nrrd"   ? std::optional(ImportKind::Volume)
        : ending == ".chunks" ? std::optional(ImportKind::Chunks)
                              : std::nullopt;
}

Outcome<ImportResult> importWorld(const ImportSpec& spec, const std::function<bool(double share)>& progress)
{
    if (!spec.material.empty() && !findMaterial(spec.like.blocks, spec.material))
        return Problem{spec.material, "", "is no block kind of the world"};
    const auto kind = importKindOf(spec.in);
    if (!kind)
        return Problem{spec.in.string(), "",
            "is neither a height map (.png), a volume (.nrrd), nor chunks (.chunks, or a folder with "
            "fell-chunks.json), "
            "which are allowed"};
    return *kind == ImportKind::Heights ? importHeights(spec, progress)
        : *kind == ImportKind::Volume   ? importVolume(spec, progress)
                                        : importChunks(spec, progress);
}

} // namespace fell::exchange
