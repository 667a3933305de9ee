// SPDX-License-Identifier: Apache-2.0
// Recipe text to a Recipe: one small function for each kind of object in the file.
#include "input/json_reader.h"
#include "terrain/recipe.h"
#include "terrain/recipe_versions.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace fell {
namespace {

constexpr NumberRange kPlace{-1e6, 1e6}; // metres
constexpr NumberRange kLength{0, 10000}; // metres
constexpr std::int64_t kMostSalt = 1'000'000'000;

/// A layer that is switched off is read, so that what is wrong in it is found, and left out.
bool isOff(JsonReader& from)
{
    return from.has("off") && from.flag("off");
}

/// Reads the parts of one recipe; knows the block names that materials are chosen from.
class RecipeParts {
public:
    explicit RecipeParts(const BlockSet& blocks)
    {
        for (const auto& kind : blocks.kinds)
            m_names.push_back(kind.name);
    }

    Material material(JsonReader& from, const char* key)
    {
        const std::string name = from.choice(key, m_names);
        const auto found = std::find(m_names.begin(), m_names.end(), name);
        return found == m_names.end() ? kOpen : static_cast<Material>(found - m_names.begin());
    }

    NoiseRecipe noise(JsonReader from)
    {
        from.onlyKeys({"feature", "octaves", "lacunarity", "gain", "salt"});
        NoiseRecipe noise;
        noise.feature = from.number("feature", {2, 100000});
        noise.octaves = static_cast<int>(from.integerOr("octaves", 1, 1, 12));
        noise.lacunarity = from.numberOr("lacunarity", 2, {1.1, 4});
        noise.gain = from.numberOr("gain", 0.5, {0.05, 1});
        ++m_salt; // also where the recipe says one: what comes after stays as it was
        noise.salt = static_cast<std::uint64_t>(from.integerOr("salt", m_salt, 0, kMostSalt)) * 0x9E37;
        return noise;
    }

    HeightLayer layer(JsonReader& from)
    {
        from.onlyKeys({"kind", "note", "off", "amplitude", "exponent", "wear", "curve", "noise", "warp"});
        static const std::vector<std::string> kKinds(kHeightLayerKinds.begin(), kHeightLayerKinds.end());
        HeightLayer layer;
        const std::string kind = from.choice("kind", kKinds);
        layer.kind = static_cast<HeightLayer::Kind>(std::find(kKinds.begin(), kKinds.end(), kind) - kKinds.begin());
        layer.amplitude = from.number("amplitude", {-2000, 2000});
        layer.exponent = from.numberOr("exponent", 1, {0.25, 8});
        if (layer.exponent * 4 != std::floor(layer.exponent * 4))
            from.fail("exponent", "is no multiple of 0.25, a number from 0.25 to 8 in steps of 0.25 is wanted");
        if (from.has("wear") && layer.kind != HeightLayer::Kind::Worn)
            from.fail("wear", "belongs to layers of the kind worn");
        layer.wear = from.numberOr("wear", 1, {0, 16});
        if (from.has("curve"))
            layer.curve = curve(from);
        layer.noise = noise(from.object("noise"));
        if (from.has("warp")) {
            JsonReader warp = from.object("warp");
            warp.onlyKeys({"amount", "noise"});
            const double amount = warp.number("amount", {0, 5000});
            layer.warp = {amount, noise(warp.object("noise"))};
        }
        return layer;
    }

    Landform landform(JsonReader& from)
    {
        static const std::vector<std::string> kKinds{"summit", "trough", "terraces", "heap", "track", "wall"};
        Landform form;
        const std::string kind = from.choice("kind", kKinds);
        form.kind = static_cast<Landform::Kind>(std::find(kKinds.begin(), kKinds.end(), kind) - kKinds.begin());
        if (from.failed())
            return form;
        if (kind == "summit" || kind == "terraces" || kind == "heap")
            circle(from, form, kind);
        else
            line(from, form, kind);
        if (from.has("material"))
            form.material = material(from, "material");
        return form;
    }

    Stratum stratum(JsonReader& from)
    {
        from.onlyKeys({"material", "note", "off", "depth", "slope", "altitude", "patches", "bands"});
        Stratum rule;
        rule.material = material(from, "material");
        rule.depth = from.pairOr("depth", rule.depth, kLength);
        rule.slope = from.pairOr("slope", rule.slope, {0, 1000});
        rule.altitude = from.pairOr("altitude", rule.altitude, kPlace);
        if (from.has("patches"))
            rule.patches = patches(from.object("patches"));
        if (from.has("bands"))
            rule.bands = bands(from.object("bands"));
        return rule;
    }

    Scatter scatter(JsonReader& from)
    {
        static const std::vector<std::string> kKinds(kScatterKinds.begin(), kScatterKinds.end());
        const std::string kind = from.choice("kind", kKinds);
        Scatter trees;
        trees.kind = static_cast<Scatter::Kind>(std::find(kKinds.begin(), kKinds.end(), kind) - kKinds.begin());
        trees.spacing = from.number("spacing", {trees.kind == Scatter::Kind::Adit ? 16.0 : 2.0, 500});
        trees.chance = from.number("chance", {0, 1});
        scatterOwn(from, trees);
        trees.altitude = from.pairOr("altitude", {-1e6, 1e6}, kPlace);
        trees.slope = from.numberOr("slope", 0.7, {0, 10});
        if (from.has("patches"))
            trees.patches = patches(from.object("patches"));
        if (!from.failed() && (!from.has("ground") || !from.json()["ground"].is_array()))
            from.fail("ground", "an array of block names is wanted");
        const auto count = from.failed() ? 0 : from.json()["ground"].size();
        for (std::size_t i = 0; i < count && !from.failed(); ++i) {
            const auto& name = from.json()["ground"][i];
            const auto found
                = name.is_string() ? std::find(m_names.begin(), m_names.end(), name.get<std::string>()) : m_names.end();
            if (found == m_names.end())
                from.fail("ground",
                    "holds " + name.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) + ", allowed are "
                        + listOf(m_names));
            else
                trees.ground.push_back(static_cast<Material>(found - m_names.begin()));
        }
        return trees;
    }

    Overhangs overhangs(JsonReader from)
    {
        from.onlyKeys({"note", "off", "amount", "slope", "noise"});
        Overhangs out;
        out.amount = from.number("amount", {0, 200});
        out.slope = from.pair("slope", {0, 100});
        if (!from.failed() && out.slope[0] >= out.slope[1])
            from.fail("slope", "the first number must be below the second");
        out.noise = noise(from.object("noise"));
        return out;
    }

    Caves caves(JsonReader from)
    {
        from.onlyKeys({"note", "off", "width", "depth", "noise"});
        Caves out;
        out.width = from.number("width", {0, 0.5});
        out.depth = from.pair("depth", {1, 1000});
        out.noise = noise(from.object("noise"));
        return out;
    }

    Pattern pattern(JsonReader from)
    {
        static const std::vector<std::string> kKinds{"level", "checker", "dust", "solid", "built"};
        Pattern out;
        const std::string kind = from.choice("kind", kKinds);
        out.kind = static_cast<Pattern::Kind>(std::find(kKinds.begin(), kKinds.end(), kind) - kKinds.begin());
        out.material = material(from, "material");
        if (out.kind == Pattern::Kind::Built) {
            from.onlyKeys({"kind", "material", "top", "every", "boxes"});
            built(from, out);
            return out;
        }
        from.onlyKeys({"kind", "material", "fill"});
        out.fill = from.numberOr("fill", 0.5, {0, 1});
        return out;
    }

    void built(JsonReader& from, Pattern& out)
    {
        constexpr int kFar = 4096, kMostBoxes = 1000;
        out.top = static_cast<int>(from.integer("top", -kFar, kFar));
        if (const auto every = from.integers("every", 2, 8, kFar); every.size() == 2)
            out.every = {every[0], every[1]};
        from.each("boxes", kMostBoxes, [&](JsonReader box) {
            box.onlyKeys({"note", "low", "high", "material"});
            Pattern::Box made;
            const auto low = box.integers("low", 3, -kFar, kFar), high = box.integers("high", 3, -kFar, kFar);
            for (std::size_t a = 0; a < 3 && low.size() == 3 && high.size() == 3; ++a) {
                made.low[a] = low[a];
                made.high[a] = high[a];
                if (high[a] <= low[a])
                    box.fail("high", "must lie beyond low on every axis");
            }
            made.material = material(box, "material");
            out.boxes.push_back(made);
        });
    }

private:
    /// What only one kind of things that stand about has.
    void scatterOwn(JsonReader& from, Scatter& out)
    {
        std::vector<std::string> keys{
            "kind", "note", "off", "spacing", "chance", "altitude", "slope", "ground", "patches"};
        const auto alsoKeys = [&](std::initializer_list<const char*> own) {
            keys.insert(keys.end(), own.begin(), own.end());
            from.onlyKeys(keys);
        };
        switch (out.kind) {
        case Scatter::Kind::Larch:
            alsoKeys({"height", "crown", "trunk", "needles"});
            out.height = from.pair("height", {3, 40});
            out.crown = from.number("crown", {1, 8});
            out.trunk = material(from, "trunk");
            out.needles = material(from, "needles");
            break;
        case Scatter::Kind::Block:
            alsoKeys({"block"});
            out.block = material(from, "block");
            out.turns = turnsOf(out.block);
            break;
        case Scatter::Kind::ContourWall:
            alsoKeys({"height", "material"});
            out.height[0] = from.number("height", {0.5, 20});
            out.material = material(from, "material");
            break;
        case Scatter::Kind::Adit:
            alsoKeys({"height", "width", "length", "floor", "lamp", "frame", "rail"});
            adit(from, out);
            break;
        }
    }

    void adit(JsonReader& from, Scatter& out)
    {
        out.height[0] = from.number("height", {1, 12});
        out.width = from.number("width", {1, 12});
        out.length = from.pair("length", {4, 200});
        if (!from.failed() && out.length[0] > out.length[1])
            from.fail("length", "the first number must not be above the second");
        out.floor = material(from, "floor");
        for (auto [key, part] :
            {std::pair{"lamp", &Scatter::lamp}, {"frame", &Scatter::frame}, {"rail", &Scatter::rail}})
            if (from.has(key))
                out.*part = material(from, key);
        out.turns = out.rail == kOpen ? 1 : turnsOf(out.rail);
    }

    /// A block and those that follow it as its turned kinds.
    [[nodiscard]] int turnsOf(Material block) const
    {
        int turns = 1;
        while (turns < 4 && block + turns < static_cast<int>(m_names.size())
            && m_names[static_cast<std::size_t>(block + turns)] == m_names[block] + "-" + std::to_string(turns * 90))
            ++turns;
        return turns;
    }

    static std::vector<CurvePoint> curve(JsonReader& from)
    {
        auto points = from.points("curve", 2, {0, 1});
        if (!from.failed() && points.size() > kMostCurvePoints)
            from.fail("curve", "has more than 16 points, 2 to 16 are allowed");
        for (std::size_t i = 1; i < points.size() && !from.failed(); ++i)
            if (points[i][0] <= points[i - 1][0])
                from.fail(
                    "curve", "does not go on to the right, each point's first number must be above the one before");
        return points;
    }

    static void circle(JsonReader& from, Landform& form, const std::string& kind)
    {
        if (kind == "terraces")
            from.onlyKeys({"kind", "note", "off", "at", "radius", "floor", "step", "bench", "material"});
        else
            from.onlyKeys({"kind", "note", "off", "at", "radius", "height", "material"});
        form.at = from.pair("at", kPlace);
        form.radius = from.number("radius", {1, 10000});
        if (kind == "terraces") {
            const double floor = from.number("floor", kPlace);
            form.floor = {floor, floor};
            form.step = from.number("step", {0.5, 200});
            form.bench = from.number("bench", {0.5, 500});
        } else {
            form.height = from.number("height", {-2000, 2000});
        }
    }

    static void line(JsonReader& from, Landform& form, const std::string& kind)
    {
        form.path = from.points("path", 2, kPlace);
        form.width = from.number("width", {0.5, 10000});
        if (kind == "trough") {
            from.onlyKeys({"kind", "note", "off", "path", "width", "floor", "material"});
            form.floor = from.pair("floor", kPlace);
            return;
        }
        if (kind == "wall") {
            from.onlyKeys({"kind", "note", "off", "path", "width", "height", "material"});
            form.height = from.number("height", {0.5, 20});
        } else {
            from.onlyKeys({"kind", "note", "off", "path", "width", "material"});
        }
        if (!from.has("material"))
            from.fail("material", "is missing, one of the known names is wanted");
    }

    Stratum::Patches patches(JsonReader from)
    {
        from.onlyKeys({"noise", "above"});
        return {noise(from.object("noise")), from.number("above", {-1, 1})};
    }

    static Stratum::Bands bands(JsonReader from)
    {
        from.onlyKeys({"every", "thickness", "dip"});
        Stratum::Bands out;
        out.every = from.number("every", {1, 1000});
        out.thickness = from.number("thickness", {0.5, 1000});
        out.dip = from.pairOr("dip", {0, 0}, {-4, 4});
        return out;
    }

    std::vector<std::string> m_names;
    std::uint64_t m_salt = 0;
};

void readWater(JsonReader from, RecipeParts& parts, Recipe& recipe)
{
    from.onlyKeys({"level", "material", "off"});
    const double level = from.number("level", kPlace);
    const Material water = parts.material(from, "material");
    if (isOff(from))
        return;
    recipe.waterLevel = level;
    recipe.water = water;
}

/// A part that is there once or not.
template <typename Part, typename Read> void readPart(JsonReader from, std::optional<Part>& into, const Read& read)
{
    Part part = read(from);
    if (!isOff(from))
        into = std::move(part);
}

MapLayer mapFrom(JsonReader& from, const std::filesystem::path& folder)
{
    from.onlyKeys({"note", "off", "file", "metres_per_pixel", "range", "at"});
    MapLayer out;
    out.file = from.text("file", 4000);
    out.metresPerPixel = from.number("metres_per_pixel", {0.01, 1000});
    out.range = from.pair("range", {-20000, 20000});
    out.at = from.pairOr("at", {0, 0}, kPlace);
    if (from.failed())
        return out;
    auto map = HeightMap::open(folder / out.file);
    if (map)
        out.map = map.take();
    else
        from.fail("file", sentence(map.problem()));
    return out;
}

void readHeight(JsonReader from, RecipeParts& parts, Recipe& recipe)
{
    from.onlyKeys({"base", "map", "layers", "landforms"});
    if (from.has("map"))
        readPart(from.object("map"), recipe.map, [&](JsonReader& of) { return mapFrom(of, recipe.blocks.folder); });
    recipe.base = from.numberOr("base", 0, kPlace);
    from.each("layers", 16, [&](JsonReader layer) {
        HeightLayer read = parts.layer(layer);
        if (!isOff(layer))
            recipe.layers.push_back(read);
    });
    from.each("landforms", 200, [&](JsonReader form) {
        Landform read = parts.landform(form);
        if (!isOff(form))
            recipe.landforms.push_back(std::move(read));
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

void readParts(JsonReader& root, RecipeParts& parts, Recipe& recipe)
{
    if (root.has("pattern"))
        recipe.pattern = parts.pattern(root.object("pattern"));
    else
        readHeight(root.object("height"), parts, recipe);
    if (root.has("view"))
        recipe.view = viewFrom(root.object("view"));
    if (root.has("water"))
        readWater(root.object("water"), parts, recipe);
    if (root.has("overhangs"))
        readPart(root.object("overhangs"), recipe.overhangs, [&](JsonReader& of) { return parts.overhangs(of); });
    if (root.has("caves"))
        readPart(root.object("caves"), recipe.caves, [&](JsonReader& of) { return parts.caves(of); });
    root.each("strata", kMostStrata, [&](JsonReader rule) {
        Stratum read = parts.stratum(rule);
        if (!isOff(rule))
            recipe.strata.push_back(std::move(read));
    });
    root.each("scatter", 16, [&](JsonReader trees) {
        Scatter read = parts.scatter(trees);
        if (!isOff(trees))
            recipe.scatter.push_back(std::move(read));
    });
    if (!root.failed() && !recipe.pattern && recipe.strata.empty())
        root.fail("strata", "is missing or empty, at least one rule that names a material is wanted");
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
    RecipeParts parts(recipe.blocks);
    readParts(root, parts, recipe);
    if (problem)
        return *problem;
    return recipe;
}

} // namespace fell
