// SPDX-License-Identifier: Apache-2.0
// Recipe text to a Recipe: parts are read by their tables, and become one struct each.
#include <fell/input/json_reader.h>
#include <fell/terrain/feature.h>
#include <fell/terrain/height_layer.h>
#include <fell/terrain/recipe.h>
#include <fell/terrain/recipe_versions.h>

#include <nlohmann/json.hpp>

#include <algorithm>

namespace fell::terrain {
namespace {

NoiseRecipe noiseOf(const PartValues& from)
{
    return {from.number("feature"), from.integer("octaves"), from.number("lacunarity"), from.number("gain"),
        static_cast<std::uint64_t>(from.number("salt")) * 0x9E37};
}

HeightLayer layerOf(const RecipePart& part, const PartValues& from)
{
    HeightLayer out;
    out.kind = findHeightLayerKind(part.id);
    out.amplitude = from.number("amplitude");
    out.exponent = from.number("exponent");
    if (part.find("wear"))
        out.wear = from.number("wear");
    out.curve = from.points("curve");
    if (const PartValues* noise = from.part("noise"))
        out.noise = noiseOf(*noise);
    if (const PartValues* warp = from.part("warp"))
        out.warp = {warp->number("amount"), noiseOf(*warp->part("noise"))};
    return out;
}

Landform landformOf(const RecipePart& part, const PartValues& from)
{
    static const std::vector<std::string> kKinds{"summit", "trough", "terraces", "heap", "track", "wall"}; // as in Kind
    Landform form;
    form.kind = static_cast<Landform::Kind>(std::find(kKinds.begin(), kKinds.end(), part.id) - kKinds.begin());
    const auto numberIf = [&](const char* key, double& into) {
        if (part.find(key))
            into = from.number(key);
    };
    numberIf("radius", form.radius);
    numberIf("width", form.width);
    numberIf("height", form.height);
    numberIf("step", form.step);
    numberIf("bench", form.bench);
    if (part.find("at"))
        form.at = from.pair("at");
    form.path = from.points("path");
    if (const RecipeField* floor = part.find("floor"))
        form.floor = floor->type == RecipeField::Type::Pair ? from.pair("floor")
                                                            : std::array{from.number("floor"), from.number("floor")};
    form.material = from.block("material");
    return form;
}

Stratum::Patches patchesOf(const PartValues& from)
{
    return {noiseOf(*from.part("noise")), from.number("above")};
}

Stratum stratumOf(const PartValues& from)
{
    Stratum rule;
    rule.material = from.block("material");
    rule.depth = from.pair("depth");
    rule.slope = from.pair("slope");
    rule.altitude = from.pair("altitude");
    if (const PartValues* patches = from.part("patches"))
        rule.patches = patchesOf(*patches);
    if (const PartValues* bands = from.part("bands"))
        rule.bands = {bands->number("every"), bands->number("thickness"), bands->pair("dip")};
    return rule;
}

FeatureRule featureOf(const RecipePart& part, PartValues from)
{
    FeatureRule rule;
    const auto kinds = featureKinds();
    rule.kind
        = *std::find_if(kinds.begin(), kinds.end(), [&part](const FeatureKind* kind) { return kind->part == &part; });
    rule.spacing = from.number("spacing");
    rule.chance = from.number("chance");
    rule.altitude = from.pair("altitude");
    rule.slope = from.number("slope");
    rule.ground = from.blocks("ground");
    if (const PartValues* patches = from.part("patches"))
        rule.patches = patchesOf(*patches);
    rule.own = std::move(from);
    return rule;
}

MapLayer mapOf(JsonReader& reader, const PartValues& from, const std::filesystem::path& folder)
{
    MapLayer out{from.text("file"), nullptr, from.number("metres_per_pixel"), from.pair("range"), from.pair("at")};
    auto map = HeightMap::open(folder / out.file);
    if (map)
        out.map = map.take();
    else
        reader.fail("file", sentence(map.problem()));
    return out;
}

void built(JsonReader& from, PartReader& parts, Pattern& out)
{
    constexpr int kFarVoxel = 4096, kMaxBoxes = 1000;
    out.top = static_cast<int>(from.integer("top", -kFarVoxel, kFarVoxel));
    if (const auto every = from.integers("every", 2, 8, kFarVoxel); every.size() == 2)
        out.every = {every[0], every[1]};
    from.each("boxes", kMaxBoxes, [&](JsonReader box) {
        box.onlyKeys({"note", "low", "high", "material"});
        Pattern::Box made;
        const auto low = box.integers("low", 3, -kFarVoxel, kFarVoxel),
                   high = box.integers("high", 3, -kFarVoxel, kFarVoxel);
        for (std::size_t a = 0; a < 3 && low.size() == 3 && high.size() == 3; ++a) {
            made.low[a] = low[a];
            made.high[a] = high[a];
            if (high[a] <= low[a])
                box.fail("high", "must lie beyond low on every axis");
        }
        made.material = parts.block(box, "material");
        out.boxes.push_back(made);
    });
}

Pattern patternFrom(JsonReader from, PartReader& parts)
{
    static const std::vector<std::string> kKinds{"level", "checker", "dust", "solid", "built"};
    Pattern out;
    const std::string kind = from.choice("kind", kKinds);
    out.kind = static_cast<Pattern::Kind>(std::find(kKinds.begin(), kKinds.end(), kind) - kKinds.begin());
    out.material = parts.block(from, "material");
    if (out.kind == Pattern::Kind::Built) {
        from.onlyKeys({"kind", "material", "top", "every", "boxes"});
        built(from, parts, out);
        return out;
    }
    from.onlyKeys({"kind", "material", "fill"});
    out.fill = from.numberOr("fill", 0.5, {0, 1});
    return out;
}

/// Reads the landforms and features in the order of the document; those that are switched off are left out.
template <typename Take>
void readPlace(JsonReader parent, const char* key, const char* pointer, PartReader& parts, const Take& take)
{
    const RecipePlace& place = recipePlace(pointer);
    const auto one = [&](JsonReader from) {
        auto [part, values] = parts.read(from, place);
        if (!from.failed() && !isOff(from))
            take(from, *part, std::move(values));
    };
    if (place.isList)
        parent.each(key, place.max, one);
    else if (parent.has(key))
        one(parent.object(key));
}

void readHeight(JsonReader from, PartReader& parts, Recipe& recipe)
{
    from.onlyKeys({"base", "map", "layers", "landforms"});
    readPlace(from, "map", "/height/map", parts, [&](JsonReader& map, const RecipePart&, const PartValues& values) {
        recipe.map = mapOf(map, values, recipe.blocks.folder);
    });
    recipe.base = from.numberOr("base", 0, kRecipePlace);
    readPlace(
        from, "layers", "/height/layers", parts, [&](JsonReader&, const RecipePart& part, const PartValues& values) {
            recipe.layers.push_back(layerOf(part, values));
        });
    readPlace(from, "landforms", "/height/landforms", parts,
        [&](JsonReader&, const RecipePart& part, const PartValues& values) {
            recipe.landforms.push_back(landformOf(part, values));
        });
}

Recipe::View viewFrom(JsonReader from)
{
    from.onlyKeys({"at", "yaw", "pitch"});
    Recipe::View view;
    constexpr int kFarthest = 1'000'000;
    if (const auto at = from.integers("at", 3, -kFarthest, kFarthest); at.size() == 3)
        std::copy(at.begin(), at.end(), view.at.begin());
    view.yaw = from.numberOr("yaw", 0, {-360, 360});
    view.pitch = from.numberOr("pitch", 0, {-90, 90});
    return view;
}

void readParts(JsonReader& root, PartReader& parts, Recipe& recipe)
{
    if (root.has("pattern"))
        recipe.pattern = patternFrom(root.object("pattern"), parts);
    else
        readHeight(root.object("height"), parts, recipe);
    if (root.has("view"))
        recipe.view = viewFrom(root.object("view"));
    readPlace(root, "water", "/water", parts, [&](JsonReader&, const RecipePart&, const PartValues& values) {
        recipe.waterLevel = values.number("level");
        recipe.water = values.block("material");
    });
    readPlace(root, "overhangs", "/overhangs", parts, [&](JsonReader&, const RecipePart&, const PartValues& values) {
        recipe.overhangs = {values.number("amount"), values.pair("slope"), noiseOf(*values.part("noise"))};
    });
    readPlace(root, "caves", "/caves", parts, [&](JsonReader&, const RecipePart&, const PartValues& values) {
        recipe.caves = {values.number("width"), values.pair("depth"), noiseOf(*values.part("noise"))};
    });
    readPlace(root, "strata", "/strata", parts,
        [&](JsonReader&, const RecipePart&, const PartValues& values) { recipe.strata.push_back(stratumOf(values)); });
    readPlace(root, "scatter", "/scatter", parts, [&](JsonReader&, const RecipePart& part, PartValues values) {
        recipe.features.push_back(featureOf(part, std::move(values)));
    });
    if (!root.failed() && !recipe.pattern && recipe.strata.empty())
        root.fail("strata", "is missing or empty, at least one rule that names a material is expected");
}

} // namespace

Outcome<Recipe> parseRecipe(std::string_view json, const std::string& where, const BlockSource& blocks)
{
    std::string updated; // outlives what is read from it
    std::vector<std::string> updates;
    if (auto ordered = parseOrderedJson(json, where)) {
        nlohmann::ordered_json document = ordered.take();
        updates = bringUpToDate(document);
        if (!updates.empty())
            json = updated = document.dump(2);
    }
    auto parsed = parseJson(json, where);
    if (!parsed)
        return parsed.problem();
    std::optional<Problem> problem;
    JsonReader root(parsed.value(), problem, where);
    root.onlyKeys({"$schema", "format", "version", "name", "note", "seed", "voxel_metres", "blocks", "water", "height",
        "overhangs", "caves", "strata", "scatter", "pattern", "view"});
    static const std::vector<std::string> kFormat{"fell-recipe"};
    root.choice("format", kFormat);
    root.integer("version", kRecipeVersion, kRecipeVersion);
    Recipe recipe;
    recipe.updates = std::move(updates);
    recipe.text = json;
    recipe.name = root.text("name", 80);
    recipe.note = root.has("note") ? root.text("note", 2000) : "";
    recipe.seed = root.seed("seed");
    recipe.voxelMetres = root.numberOr("voxel_metres", 1, {0.05, 16});
    const std::string blockFile = root.text("blocks", 500);
    if (problem)
        return *problem;
    auto found = blocks(blockFile);
    if (!found)
        return found.problem();
    recipe.blocks = found.take();
    PartReader parts(recipe.blocks);
    readParts(root, parts, recipe);
    if (problem)
        return *problem;
    return recipe;
}

} // namespace fell::terrain
