// SPDX-License-Identifier: Apache-2.0
// The parts of a recipe that are no layer of height and no feature, and where all parts stand.
#include <fell/terrain/feature.h>
#include <fell/terrain/height_layer.h>
#include <fell/terrain/recipe_fields.h>

namespace fell::terrain {
namespace {

using Type = RecipeField::Type;
using Order = RecipeField::Order;
constexpr double kFar = 1e6; // metres

RecipeField at(const char* title = "east", const char* secondTitle = "south")
{
    return numberPair("at", title, secondTitle, "m", kRecipePlace, "where its middle is: x and z");
}
RecipeField path()
{
    return fieldOf(Type::Path, "path", "points on the plan");
}
RecipeField radius()
{
    return number("radius", "radius", "m", {1, 10000});
}
RecipeField width()
{
    return number("width", "width", "m", {0.5, 10000});
}
RecipeField material()
{
    return block("material", "material", "what it covers the ground with");
}
RecipeField noise()
{
    return partField("noise", kNoisePart);
}

RecipeField file()
{
    RecipeField out = fieldOf(Type::Text, "file", "absolute, or from the block set's folder");
    out.range = {0, 4000};
    return out;
}

const RecipePart kMapPart{"", "a map of heights",
    "heights from elsewhere, under all layers; fell-cli world import writes its file",
    {file(), number("metres_per_pixel", "pixel", "m", {0.01, 1000}),
        numberPair("range", "lowest value", "highest value", "m", {-20000, 20000},
            "of the lowest and the highest value of a sample"),
        at("middle, east", "middle, south").orElse(0.0)}};

const std::vector<RecipePart>& landforms()
{
    static const std::vector<RecipePart> kParts{
        {"summit", "summit", "raises a bell",
            {at(), radius(), number("height", "height", "m", {-2000, 2000}), material().optional()},
            {{"Summit", R"({"kind": "summit", "note": "a summit", "at": [0, 0], "radius": 150, "height": 60})"}}},
        {"trough", "trough", "brings the ground to a floor along a path, full within a tenth of its width",
            {path(), width(),
                numberPair("floor", "floor at the start", "floor at the end", "m", kRecipePlace,
                    "altitude at the first and at the last point"),
                material().optional()},
            {{"Valley",
                R"({"kind": "trough", "note": "a valley", "path": [[-200, 0], [200, 0]], "width": 120, "floor": [0, 0]})"}}},
        {"terraces", "terraces", "cuts steps into what is higher",
            {at(), radius(), number("floor", "floor", "m", kRecipePlace, "altitude of the lowest step"),
                number("step", "step", "m", {0.5, 200}), number("bench", "bench", "m", {0.5, 500}),
                material().optional()},
            {{"Terraces",
                R"({"kind": "terraces", "note": "terraces", "at": [0, 0], "radius": 100, "floor": 10, "step": 8, "bench": 10, "material": "MATERIAL"})"}}},
        {"heap", "heap", "a cone of loose stone",
            {at(), radius(), number("height", "height", "m", {-2000, 2000}), material().optional()},
            {{"Spoil heap",
                R"({"kind": "heap", "note": "a heap", "at": [0, 0], "radius": 30, "height": 15, "material": "MATERIAL"})"}}},
        {"track", "track", "paints a material along a path", {path(), width(), material()},
            {{"Track",
                R"({"kind": "track", "note": "a track", "path": [[-100, 0], [100, 0]], "width": 4, "material": "MATERIAL"})"}}},
        {"wall", "wall", "a wall on the ground along a path",
            {path(), width(), number("height", "height", "m", {0.5, 20}), material()},
            {{"Wall",
                R"({"kind": "wall", "note": "a wall", "path": [[-60, 20], [60, 20]], "width": 1.5, "height": 2, "material": "MATERIAL"})"}}},
    };
    return kParts;
}

const RecipePart kOverhangsPart{"", "overhangs",
    "a density in three dimensions that falls with height, where the ground is steep",
    {number("amount", "amount", "m", {0, 200}, "that the ground is pushed in or out"),
        numberPair("slope", "none at slope", "all at slope", "", {0, 100}, "metres up a metre along", Order::Rising),
        noise()},
    {{"Overhangs",
        R"({"note": "crags that lean out", "amount": 8, "slope": [0.8, 1.6], "noise": {"feature": 22, "octaves": 3}})"}}};

const RecipePart kCavesPart{"", "caves", "tunnels where two noises are both near zero",
    {number("width", "width", "", {0, 0.5}, "the radius of \"near\""),
        numberPair("depth", "from depth", "to depth", "m", {1, 1000}, "below the ground"), noise()},
    {{"Caves", R"({"note": "tunnels", "width": 0.08, "depth": [2, 70], "noise": {"feature": 44, "octaves": 2}})"}}};

const RecipePart kWaterPart{"", "water", "fills what is open below a level",
    {number("level", "level", "m", kRecipePlace), block("material", "material")},
    {{"Water", R"({"level": 0, "material": "MATERIAL"})"}}};

const RecipePart kStratumPart{"", "stratum", "a material and where it is; the first rule that holds wins",
    {block("material", "material"),
        numberPair("depth", "from depth", "to depth", "m", {0, 10000}, "below the ground")
            .orElse({0.0, std::numeric_limits<double>::infinity()}),
        numberPair("slope", "from slope", "to slope", "", {0, 1000}, "metres up a metre along")
            .orElse({0.0, std::numeric_limits<double>::infinity()}),
        numberPair("altitude", "from altitude", "to altitude", "m", kRecipePlace)
            .orElse({-std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity()}),
        partField("patches", kPatchesPart, "where a noise is above a value").optional(),
        partField("bands", kBandsPart, "in layers that may dip").optional()},
    {{"Stratum", R"({"material": "MATERIAL", "note": "a stratum", "depth": [0, 2]})"}}};

template <typename Kinds> std::vector<const RecipePart*> partsOf(const Kinds& kinds)
{
    std::vector<const RecipePart*> out;
    for (const auto* kind : kinds)
        out.push_back(kind->part);
    return out;
}

} // namespace

const RecipePart kNoisePart{"", "noise", "",
    {number("feature", "feature size", "m", {2, 100000}, "metres from one lattice point to the next"),
        integer("octaves", "octaves", {1, 12}).orElse(1.0),
        number("lacunarity", "lacunarity", "", {1.1, 4}, "from one octave's frequency to the next").orElse(2.0),
        number("gain", "gain", "", {0.05, 1}, "from one octave's amplitude to the next").orElse(0.5),
        integer("salt", "", {0, static_cast<double>(kMaxSalt)},
            "tells noises of one recipe apart; if missing, its place among them")
            .optional()},
    {}, false};

const RecipePart kWarpPart{
    "", "warp", "", {number("amount", "moved by", "m", {0, 5000}, "where the noise is 1"), noise()}, {}, false};

const RecipePart kPatchesPart{"", "patches", "", {noise(), number("above", "patches above", "", {-1, 1})}, {}, false};

const RecipePart kBandsPart{"", "bands", "",
    {number("every", "every", "m", {1, 1000}), number("thickness", "thickness", "m", {0.5, 1000}),
        numberPair("dip", "", "", "", {-4, 4}, "metres down a metre along x and z").orElse(0.0)},
    {}, false};

RecipePart layerPart(RecipePart own)
{
    std::vector<RecipeField> fields{number("amplitude", "height", "m", {-2000, 2000}),
        number("exponent", "exponent", "", {0.25, 8}, "above 1 turns hills into mountains", 0.25).orElse(1.0)};
    fields.insert(fields.end(), own.fields.begin(), own.fields.end());
    fields.push_back(fieldOf(Type::Curve, "curve", "what the layer's share of its height becomes").optional());
    fields.push_back(noise());
    fields.push_back(
        partField("warp", kWarpPart, "the noise is read from where another moves each column to").optional());
    own.fields = std::move(fields);
    return own;
}

RecipePart featurePart(RecipePart own, RecipeField spacing, RecipeField chance)
{
    std::vector<RecipeField> fields{spacing, chance};
    fields.insert(fields.end(), own.fields.begin(), own.fields.end());
    fields.push_back(numberPair("altitude", "from altitude", "to altitude", "m", kRecipePlace).orElse({-kFar, kFar}));
    fields.push_back(number("slope", "steepest ground", "", {0, 10}, "metres up a metre along").orElse(0.7));
    fields.push_back(partField("patches", kPatchesPart, "where a noise is above a value").optional());
    fields.push_back(fieldOf(Type::Blocks, "ground", "blocks that it may be placed on"));
    own.fields = std::move(fields);
    return own;
}

std::span<const RecipePlace> recipePlaces()
{
    static const std::vector<RecipePlace> kPlaces = [] {
        std::vector<const RecipePart*> forms;
        for (const RecipePart& part : landforms())
            forms.push_back(&part);
        return std::vector<RecipePlace>{{"/height/map", "ground", false, 1, {&kMapPart}},
            {"/height/layers", "ground", true, 16, partsOf(heightLayerKinds())},
            {"/height/landforms", "landforms", true, 200, std::move(forms)},
            {"/overhangs", "overhangs", false, 1, {&kOverhangsPart}}, {"/caves", "caves", false, 1, {&kCavesPart}},
            {"/water", "water", false, 1, {&kWaterPart}}, {"/strata", "strata", true, 32, {&kStratumPart}},
            {"/scatter", "scatter", true, 16, partsOf(featureKinds())}};
    }();
    return kPlaces;
}

} // namespace fell::terrain
