// SPDX-License-Identifier: Apache-2.0
#include "terrain/recipe_layers.h"

#include <nlohmann/json.hpp>

#include "terrain/recipe.h"

#include <algorithm>
#include <array>
#include <cassert>

namespace fell {
namespace {

using Pointer = RecipeDocument::json_pointer;

/// A list of layers, or a layer that is there once.
struct Place {
    const char* pointer;
    const char* group;
    bool isList;
};
constexpr std::array<Place, 8> kPlaces{{
    {"/height/map", "ground", false},
    {"/height/layers", "ground", true},
    {"/height/landforms", "landforms", true},
    {"/overhangs", "overhangs", false},
    {"/caves", "caves", false},
    {"/water", "water", false},
    {"/strata", "strata", true},
    {"/scatter", "scatter", true},
}};

constexpr std::array<LayerTemplate, 21> kTemplates{{
    {"Rolling ground", "/height/layers",
        R"({"kind": "noise", "note": "rolling ground", "amplitude": 30, "exponent": 1, "noise": {"feature": 200, "octaves": 4}})"},
    {"Mountains", "/height/layers",
        R"({"kind": "noise", "note": "mountains", "amplitude": 120, "exponent": 3, "noise": {"feature": 500, "octaves": 4}})"},
    {"Ridges", "/height/layers",
        R"({"kind": "least", "note": "ridges", "amplitude": 40, "exponent": 1.5, "noise": {"feature": 300, "octaves": 4}})"},
    {"Domes", "/height/layers",
        R"({"kind": "greatest", "note": "domes", "amplitude": 40, "exponent": 1.5, "noise": {"feature": 300, "octaves": 4}})"},
    {"Sharp crests", "/height/layers",
        R"({"kind": "ridged", "note": "sharp crests", "amplitude": 60, "exponent": 2, "noise": {"feature": 260, "octaves": 4}})"},
    {"Round hills", "/height/layers",
        R"({"kind": "billow", "note": "round hills", "amplitude": 40, "exponent": 1, "noise": {"feature": 160, "octaves": 3}})"},
    {"Worn hills", "/height/layers",
        R"({"kind": "worn", "note": "worn hills", "amplitude": 90, "exponent": 1.25, "wear": 2, "noise": {"feature": 320, "octaves": 6}})"},
    {"Ledges that wind", "/height/layers",
        R"({"kind": "noise", "note": "ledges that wind", "amplitude": 50, "exponent": 1, "curve": [[0, 0], [0.35, 0.1], [0.45, 0.5], [0.6, 0.55], [0.7, 0.95], [1, 1]], "noise": {"feature": 300, "octaves": 4}, "warp": {"amount": 60, "noise": {"feature": 150, "octaves": 2}}})"},
    {"Summit", "/height/landforms",
        R"({"kind": "summit", "note": "a summit", "at": [0, 0], "radius": 150, "height": 60})"},
    {"Valley", "/height/landforms",
        R"({"kind": "trough", "note": "a valley", "path": [[-200, 0], [200, 0]], "width": 120, "floor": [0, 0]})"},
    {"Terraces", "/height/landforms",
        R"({"kind": "terraces", "note": "terraces", "at": [0, 0], "radius": 100, "floor": 10, "step": 8, "bench": 10, "material": "MATERIAL"})"},
    {"Spoil heap", "/height/landforms",
        R"({"kind": "heap", "note": "a heap", "at": [0, 0], "radius": 30, "height": 15, "material": "MATERIAL"})"},
    {"Track", "/height/landforms",
        R"({"kind": "track", "note": "a track", "path": [[-100, 0], [100, 0]], "width": 4, "material": "MATERIAL"})"},
    {"Wall", "/height/landforms",
        R"({"kind": "wall", "note": "a wall", "path": [[-60, 20], [60, 20]], "width": 1.5, "height": 2, "material": "MATERIAL"})"},
    {"Overhangs", "/overhangs",
        R"({"note": "crags that lean out", "amount": 8, "slope": [0.8, 1.6], "noise": {"feature": 22, "octaves": 3}})"},
    {"Caves", "/caves",
        R"({"note": "tunnels", "width": 0.08, "depth": [2, 70], "noise": {"feature": 44, "octaves": 2}})"},
    {"Water", "/water", R"({"level": 0, "material": "MATERIAL"})"},
    {"Stratum", "/strata", R"({"material": "MATERIAL", "note": "a stratum", "depth": [0, 2]})"},
    {"Single blocks", "/scatter",
        R"({"kind": "block", "note": "blocks that stand about", "spacing": 10, "chance": 0.5, "slope": 0.8, "ground": ["MATERIAL"], "block": "MATERIAL"})"},
    {"Walls along contours", "/scatter",
        R"({"kind": "contour-wall", "note": "walls along the contours", "spacing": 12, "chance": 0.8, "slope": 0.7, "ground": ["MATERIAL"], "height": 1, "material": "MATERIAL"})"},
    {"Adits", "/scatter",
        R"({"kind": "adit", "note": "adits", "spacing": 90, "chance": 0.8, "slope": 2, "ground": ["MATERIAL"], "height": 3, "width": 3, "length": [16, 40], "floor": "MATERIAL"})"},
}};

/// What a key of the document is called, and what it may be.
struct Key {
    const char* key;
    const char* title;
    const char* unit;
    double low, high, step;
};
constexpr std::array<Key, 56> kKeys{{
    {"amplitude", "height", "m", -2000, 2000, 0},
    {"exponent", "exponent", "", 0.25, 8, 0.25},
    {"feature", "feature size", "m", 2, 100000, 0},
    {"octaves", "octaves", "", 1, 12, 1},
    {"lacunarity", "lacunarity", "", 1.1, 4, 0},
    {"gain", "gain", "", 0.05, 1, 0},
    {"radius", "radius", "m", 1, 10000, 0},
    {"height", "height", "m", -2000, 2000, 0},
    {"step", "step", "m", 0.5, 200, 0},
    {"bench", "bench", "m", 0.5, 500, 0},
    {"width", "width", "m", 0.5, 10000, 0},
    {"floor", "floor", "m", -1e6, 1e6, 0},
    {"floor/0", "floor at the start", "m", -1e6, 1e6, 0},
    {"floor/1", "floor at the end", "m", -1e6, 1e6, 0},
    {"at/0", "east", "m", -1e6, 1e6, 0},
    {"at/1", "south", "m", -1e6, 1e6, 0},
    {"amount", "amount", "m", 0, 200, 0},
    {"slope/0", "from slope", "", 0, 1000, 0},
    {"slope/1", "to slope", "", 0, 1000, 0},
    {"slope", "steepest ground", "", 0, 10, 0},
    {"depth/0", "from depth", "m", 0, 10000, 0},
    {"depth/1", "to depth", "m", 0, 10000, 0},
    {"altitude/0", "from altitude", "m", -1e6, 1e6, 0},
    {"altitude/1", "to altitude", "m", -1e6, 1e6, 0},
    {"above", "patches above", "", -1, 1, 0},
    {"every", "every", "m", 1, 1000, 0},
    {"thickness", "thickness", "m", 0.5, 1000, 0},
    {"spacing", "spacing", "m", 2, 500, 0},
    {"chance", "chance", "", 0, 1, 0},
    {"crown", "crown", "m", 1, 8, 0},
    {"level", "level", "m", -1e6, 1e6, 0},
    // Where a layer's own is another:
    {"caves/width", "width", "", 0, 0.5, 0},
    {"caves/depth/0", "from depth", "m", 1, 1000, 0},
    {"caves/depth/1", "to depth", "m", 1, 1000, 0},
    {"overhangs/slope/0", "none at slope", "", 0, 100, 0},
    {"overhangs/slope/1", "all at slope", "", 0, 100, 0},
    {"wall/height", "height", "m", 0.5, 20, 0},
    {"larch/height/0", "least height", "m", 3, 40, 0},
    {"larch/height/1", "greatest height", "m", 3, 40, 0},
    {"trough/floor/0", "floor at the start", "m", -1e6, 1e6, 0},
    {"trough/floor/1", "floor at the end", "m", -1e6, 1e6, 0},
    {"height/metres_per_pixel", "pixel", "m", 0.01, 1000, 0},
    {"height/range/0", "lowest value", "m", -20000, 20000, 0},
    {"height/range/1", "highest value", "m", -20000, 20000, 0},
    {"height/at/0", "middle, east", "m", -1e6, 1e6, 0},
    {"height/at/1", "middle, south", "m", -1e6, 1e6, 0},
    {"water/level", "level", "m", -1e6, 1e6, 0},
    {"warp/amount", "moved by", "m", 0, 5000, 0},
    {"contour-wall/height", "height", "m", 0.5, 20, 0},
    {"contour-wall/spacing", "metres up to the next", "m", 2, 500, 0},
    {"adit/spacing", "spacing", "m", 16, 500, 0},
    {"adit/height", "height", "m", 1, 12, 0},
    {"adit/width", "width", "m", 1, 12, 0},
    {"adit/length/0", "least length", "m", 4, 200, 0},
    {"adit/length/1", "greatest length", "m", 4, 200, 0},
    {"wear", "worn on slopes", "", 0, 16, 0},
}};

const Key* keyNamed(const std::string& name)
{
    const auto found = std::find_if(kKeys.begin(), kKeys.end(), [&name](const Key& key) { return name == key.key; });
    return found == kKeys.end() ? nullptr : &*found;
}

/// That of the kind of layer if it has one of its own.
const Key* keyOf(const std::string& kind, const std::string& name)
{
    const Key* own = keyNamed(kind + "/" + name);
    return own ? own : keyNamed(name);
}

std::string textAt(const RecipeDocument& layer, const char* key)
{
    const auto found = layer.find(key);
    return found != layer.end() && found->is_string() ? found->get<std::string>() : std::string();
}

std::string groundOf(const std::string& kind)
{
    return kind == "least"   ? "least of two noises"
        : kind == "greatest" ? "greatest of two noises"
        : kind == "ridged"   ? "ridged noise"
        : kind == "billow"   ? "billow noise"
        : kind == "worn"     ? "worn noise"
                             : "noise";
}

std::string kindOf(const RecipeDocument& layer, const std::string& group)
{
    const std::string kind = textAt(layer, "kind");
    const auto octaves = [&layer] {
        const auto noise = layer.find("noise");
        const auto count = noise != layer.end() && noise->contains("octaves") ? (*noise)["octaves"] : RecipeDocument(1);
        return count.dump() + (count == 1 ? " octave" : " octaves");
    };
    if (layer.contains("file"))
        return "a map of heights";
    if (group == "ground")
        return groundOf(kind) + (layer.contains("warp") ? ", warped, " : ", ") + octaves()
            + (layer.contains("curve") ? ", by a curve" : "");
    if (group == "overhangs")
        return "density in three dimensions, " + octaves();
    if (group == "caves")
        return "tunnels, " + octaves();
    if (group == "water")
        return "water at " + (layer.contains("level") ? layer["level"].dump() : "0") + " m";
    if (group == "strata") {
        std::string by;
        for (const char* key : {"depth", "slope", "altitude", "patches", "bands"})
            if (layer.contains(key))
                by += (by.empty() ? " by " : ", ") + std::string(key);
        return textAt(layer, "material") + (by.empty() ? ", the rest" : by);
    }
    if (group == "scatter")
        return kind == "block"       ? textAt(layer, "block") + ", single"
            : kind == "adit"         ? "adits into the hill"
            : kind == "contour-wall" ? textAt(layer, "material") + " along contours"
                                     : "larches";
    const std::string material = textAt(layer, "material");
    return kind + (material.empty() ? "" : ", " + material);
}

/// Visits every noise in the order in which the reader comes by them.
template <typename Visit> void eachNoise(RecipeDocument& recipe, const Visit& visit)
{
    const auto within = [&visit](RecipeDocument& layer) {
        if (layer.contains("noise"))
            visit(layer["noise"]);
        if (layer.contains("warp") && layer["warp"].contains("noise"))
            visit(layer["warp"]["noise"]);
        if (layer.contains("patches") && layer["patches"].contains("noise"))
            visit(layer["patches"]["noise"]);
    };
    for (const Place& place : kPlaces) {
        const Pointer at(place.pointer);
        if (!recipe.contains(at))
            continue;
        RecipeDocument& here = recipe[at];
        if (place.isList)
            std::for_each(here.begin(), here.end(), within);
        else
            within(here);
    }
}

std::uint64_t saltOf(const RecipeDocument& noise)
{
    return noise.contains("salt") && noise["salt"].is_number_unsigned() ? noise["salt"].get<std::uint64_t>() : 0;
}

RecipeDocument salted(RecipeDocument recipe)
{
    std::uint64_t place = 0;
    eachNoise(recipe, [&place](RecipeDocument& noise) {
        ++place;
        if (!noise.contains("salt"))
            noise["salt"] = place;
    });
    return recipe;
}

std::uint64_t mostSalt(RecipeDocument& recipe)
{
    std::uint64_t most = 0;
    eachNoise(recipe, [&most](RecipeDocument& noise) { most = std::max(most, saltOf(noise)); });
    return most;
}

/// Another salt than all others, for each noise of a layer that has come twice.
void saltAnew(RecipeDocument& recipe, RecipeDocument& layer)
{
    std::uint64_t most = mostSalt(recipe);
    if (layer.contains("noise"))
        layer["noise"]["salt"] = ++most;
    for (const char* part : {"warp", "patches"})
        if (layer.contains(part))
            layer[part]["noise"]["salt"] = ++most;
}

/// The list that a layer stands in, and its place there.
struct InList {
    Pointer list;
    std::size_t index;
};
InList inList(const std::string& pointer)
{
    const std::size_t slash = pointer.rfind('/');
    return {Pointer(pointer.substr(0, slash)), static_cast<std::size_t>(std::stoul(pointer.substr(slash + 1)))};
}

/// `kind` of the layer; `name` of the node within it; `of`: what stands before its title.
void addNumbers(const RecipeDocument& node, const std::string& pointer, const std::string& kind,
    const std::string& name, const std::string& of, std::vector<LayerNumber>& out)
{
    if (name == "salt" || name == "path" || name == "off" || name == "dip" || name == "curve")
        return;
    if (node.is_number()) {
        if (const Key* key = keyOf(kind, name))
            out.push_back({pointer, of + key->title, key->unit, node.get<double>(), key->low, key->high, key->step});
    } else if (node.is_object()) {
        for (const auto& [key, value] : node.items())
            addNumbers(value, pointer + "/" + key, kind, name == "warp" ? "warp/" + key : key,
                key == "patches" || key == "warp" ? key + ": " : of, out);
    } else if (node.is_array()) {
        for (std::size_t i = 0; i < node.size(); ++i)
            addNumbers(node[i], pointer + "/" + std::to_string(i), kind, name + "/" + std::to_string(i), of, out);
    }
}

} // namespace

std::vector<RecipeLayer> layersOf(const RecipeDocument& recipe)
{
    std::vector<RecipeLayer> out;
    for (const Place& place : kPlaces) {
        const Pointer at(place.pointer);
        if (!recipe.contains(at))
            continue;
        const RecipeDocument& here = recipe[at];
        const auto add = [&](const RecipeDocument& layer, const std::string& pointer) {
            if (!layer.is_object())
                return;
            const std::string what = kindOf(layer, place.group), note = textAt(layer, "note");
            const bool isOff = layer.contains("off") && layer["off"] == true;
            out.push_back({pointer, place.group, note.empty() ? what : note, what, isOff, place.isList});
        };
        if (!place.isList)
            add(here, place.pointer);
        else if (here.is_array())
            for (std::size_t i = 0; i < here.size(); ++i)
                add(here[i], std::string(place.pointer) + "/" + std::to_string(i));
    }
    return out;
}

std::vector<LayerNumber> numbersOf(const RecipeDocument& recipe, const std::string& pointer)
{
    std::vector<LayerNumber> out;
    if (pointer.empty()) {
        const Pointer base("/height/base");
        if (recipe.contains(base))
            out.push_back({"/height/base", "ground before any layer", "m", recipe[base].get<double>(), -1e6, 1e6, 0});
        return out;
    }
    const Pointer at(pointer);
    if (recipe.contains(at)) {
        const RecipeDocument& layer = recipe[at];
        const std::string kind = textAt(layer, "kind");
        addNumbers(layer, pointer, kind.empty() ? pointer.substr(1, pointer.find('/', 1) - 1) : kind, "", "", out);
    }
    return out;
}

std::vector<LayerMaterial> materialsOf(const RecipeDocument& recipe, const std::string& pointer)
{
    std::vector<LayerMaterial> out;
    const Pointer at(pointer);
    if (pointer.empty() || !recipe.contains(at))
        return out;
    for (const char* key : {"material", "block", "trunk", "needles", "floor", "lamp", "frame", "rail"})
        if (const std::string value = textAt(recipe[at], key); !value.empty())
            out.push_back({pointer + "/" + key, key, value});
    return out;
}

std::span<const char* const> kindsOf(const std::string& pointer)
{
    return pointer.starts_with("/height/layers/") ? std::span<const char* const>(kHeightLayerKinds)
                                                  : std::span<const char* const>();
}

bool mayBeShaped(const std::string& pointer)
{
    return !kindsOf(pointer).empty();
}

std::vector<CurvePoint> curveOf(const RecipeDocument& recipe, const std::string& pointer)
{
    const Pointer at(pointer + "/curve");
    return recipe.contains(at) ? recipe[at].get<std::vector<CurvePoint>>() : std::vector<CurvePoint>{{0, 0}, {1, 1}};
}

RecipeDocument withCurve(const RecipeDocument& recipe, const std::string& pointer, std::span<const CurvePoint> points)
{
    RecipeDocument out = recipe;
    RecipeDocument& layer = out.at(Pointer(pointer));
    if (points.size() == 2 && points[0] == CurvePoint{0, 0} && points[1] == CurvePoint{1, 1})
        layer.erase("curve");
    else
        layer["curve"] = std::vector<CurvePoint>(points.begin(), points.end());
    return out;
}

RecipeDocument withKind(const RecipeDocument& recipe, const std::string& pointer, const std::string& kind)
{
    RecipeDocument out = recipe;
    RecipeDocument& layer = out.at(Pointer(pointer));
    layer["kind"] = kind;
    if (kind != "worn")
        layer.erase("wear");
    else if (!layer.contains("wear"))
        layer["wear"] = 1;
    return out;
}

RecipeDocument withWarp(const RecipeDocument& recipe, const std::string& pointer, bool warped)
{
    RecipeDocument out = salted(recipe);
    RecipeDocument& layer = out.at(Pointer(pointer));
    layer.erase("warp");
    if (warped) {
        const std::uint64_t salt = mostSalt(out) + 1;
        layer["warp"] = RecipeDocument::parse(R"({"amount": 40, "noise": {"feature": 120, "octaves": 2}})");
        layer["warp"]["noise"]["salt"] = salt;
    }
    return out;
}

std::span<const LayerTemplate> layerTemplates()
{
    return kTemplates;
}

RecipeDocument withLayerOff(const RecipeDocument& recipe, const std::string& pointer, bool off)
{
    RecipeDocument out = salted(recipe);
    RecipeDocument& layer = out.at(Pointer(pointer));
    if (off)
        layer["off"] = true;
    else
        layer.erase("off");
    return out;
}

std::pair<RecipeDocument, std::string> withLayerMoved(const RecipeDocument& recipe, const std::string& pointer, int by)
{
    const auto [list, index] = inList(pointer);
    RecipeDocument out = salted(recipe);
    RecipeDocument& all = out.at(list);
    const auto to = static_cast<std::ptrdiff_t>(index) + by;
    if (to < 0 || to >= static_cast<std::ptrdiff_t>(all.size()))
        return {recipe, pointer};
    std::swap(all[index], all[static_cast<std::size_t>(to)]);
    return {std::move(out), list.to_string() + "/" + std::to_string(to)};
}

std::pair<RecipeDocument, std::string> withLayerTwice(const RecipeDocument& recipe, const std::string& pointer)
{
    const auto [list, index] = inList(pointer);
    RecipeDocument out = salted(recipe);
    RecipeDocument copy = out.at(Pointer(pointer));
    saltAnew(out, copy);
    RecipeDocument& all = out.at(list);
    all.insert(all.begin() + static_cast<std::ptrdiff_t>(index) + 1, std::move(copy));
    return {std::move(out), list.to_string() + "/" + std::to_string(index + 1)};
}

RecipeDocument withoutLayer(const RecipeDocument& recipe, const std::string& pointer)
{
    RecipeDocument out = salted(recipe);
    const bool isOnce = std::any_of(kPlaces.begin(), kPlaces.end(),
        [&pointer](const Place& place) { return !place.isList && pointer == place.pointer; });
    if (isOnce) {
        const std::size_t slash = pointer.rfind('/');
        out.at(Pointer(pointer.substr(0, slash))).erase(pointer.substr(slash + 1));
        return out;
    }
    const auto [list, index] = inList(pointer);
    out.at(list).erase(index);
    return out;
}

std::pair<RecipeDocument, std::string> withLayerAdded(
    const RecipeDocument& recipe, const LayerTemplate& layer, const std::string& material)
{
    RecipeDocument out = salted(recipe);
    std::string text = layer.json;
    for (std::size_t at = text.find("MATERIAL"); at != std::string::npos; at = text.find("MATERIAL"))
        text.replace(at, 8, material);
    RecipeDocument made = RecipeDocument::parse(text);
    saltAnew(out, made);
    const std::string list = layer.list;
    const auto place
        = std::find_if(kPlaces.begin(), kPlaces.end(), [&list](const Place& one) { return list == one.pointer; });
    assert(place != kPlaces.end());
    if (!place->isList) {
        out[Pointer(list)] = std::move(made);
        return {std::move(out), list};
    }
    RecipeDocument& all = out[Pointer(list)];
    if (!all.is_array())
        all = RecipeDocument::array();
    // The first rule that holds names the material: a stratum at the end would never be asked.
    const std::size_t at = list == "/strata" ? 0 : all.size();
    all.insert(all.begin() + static_cast<std::ptrdiff_t>(at), std::move(made));
    return {std::move(out), list + "/" + std::to_string(at)};
}

RecipeDocument withLayerNamed(const RecipeDocument& recipe, const std::string& pointer, const std::string& title)
{
    return withValue(recipe, pointer + "/note", title);
}

RecipeDocument withValue(const RecipeDocument& recipe, const std::string& pointer, const nlohmann::json& value)
{
    RecipeDocument out = recipe;
    out[Pointer(pointer)] = RecipeDocument(value);
    return out;
}

} // namespace fell
