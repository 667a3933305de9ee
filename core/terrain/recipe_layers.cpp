// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/recipe_layers.h>

#include <nlohmann/json.hpp>

#include <fell/terrain/feature.h>
#include <fell/terrain/height_layer.h>
#include <fell/terrain/recipe.h>

#include <algorithm>
#include <cassert>

namespace fell::terrain {
namespace {

using Pointer = RecipeDocument::json_pointer;

std::span<const LayerTemplate> templates()
{
    static const std::vector<LayerTemplate> kTemplates = [] {
        std::vector<LayerTemplate> out;
        for (const RecipePlace& place : recipePlaces())
            for (const RecipePart* part : place.parts)
                for (const PartTemplate& one : part->templates)
                    out.push_back({one.title, place.pointer, one.json});
        return out;
    }();
    return kTemplates;
}

std::string textAt(const RecipeDocument& layer, const char* key)
{
    const auto found = layer.find(key);
    return found != layer.end() && found->is_string() ? found->get<std::string>() : std::string();
}

/// The part that a layer at a place is; null where its kind is not known.
const RecipePart* partOf(const RecipePlace& place, const RecipeDocument& layer)
{
    return place.find(textAt(layer, "kind"));
}

const RecipePlace* placeOf(const std::string& pointer)
{
    const auto all = recipePlaces();
    const auto found = std::find_if(all.begin(), all.end(), [&pointer](const RecipePlace& place) {
        return pointer == place.pointer || (place.isList && pointer.starts_with(std::string(place.pointer) + "/"));
    });
    return found == all.end() ? nullptr : &*found;
}

std::string whatIs(const RecipeDocument& layer, const RecipePlace& place)
{
    const RecipePart* part = partOf(place, layer);
    const std::string title = part ? part->title : textAt(layer, "kind"), group = place.group;
    const auto octaves = [&layer] {
        const auto noise = layer.find("noise");
        const auto count = noise != layer.end() && noise->contains("octaves") ? (*noise)["octaves"] : RecipeDocument(1);
        return count.dump() + (count == 1 ? " octave" : " octaves");
    };
    if (layer.contains("file"))
        return title;
    if (group == "ground")
        return title + (layer.contains("warp") ? ", warped, " : ", ") + octaves()
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
    for (const FeatureKind* kind : featureKinds())
        if (kind->part == part)
            return kind->describe([&layer](const char* key) { return textAt(layer, key); });
    const std::string material = textAt(layer, "material");
    return title + (material.empty() ? "" : ", " + material);
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
    for (const RecipePlace& place : recipePlaces()) {
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

std::uint64_t maxSalt(RecipeDocument& recipe)
{
    std::uint64_t max = 0;
    eachNoise(recipe, [&max](RecipeDocument& noise) { max = std::max(max, saltOf(noise)); });
    return max;
}

/// Another salt than all others, for each noise of a layer that has come twice.
void saltAnew(RecipeDocument& recipe, RecipeDocument& layer)
{
    std::uint64_t max = maxSalt(recipe);
    if (layer.contains("noise"))
        layer["noise"]["salt"] = ++max;
    for (const char* part : {"warp", "patches"})
        if (layer.contains(part))
            layer[part]["noise"]["salt"] = ++max;
}

/// The list that contains a layer, and its place there.
struct InList {
    Pointer list;
    std::size_t index;
};
InList inList(const std::string& pointer)
{
    const std::size_t slash = pointer.rfind('/');
    return {Pointer(pointer.substr(0, slash)), static_cast<std::size_t>(std::stoul(pointer.substr(slash + 1)))};
}

/// `of`: the prefix of a title.
void addNumbers(const RecipeDocument& node, const std::string& pointer, const RecipePart& part, const std::string& of,
    std::vector<LayerNumber>& out)
{
    for (const RecipeField& field : part.fields) {
        const auto found = node.find(field.key);
        if (found == node.end())
            continue;
        const std::string at = pointer + "/" + field.key;
        const auto add = [&](const RecipeDocument& value, const std::string& where, const char* title) {
            if (value.is_number() && title[0] != '\0')
                out.push_back({where, of + title, field.unit, value.get<double>(), field.range.low, field.range.high,
                    field.step});
        };
        if (field.part && found->is_object()) {
            const bool isNamed = field.part == &kPatchesPart || field.part == &kWarpPart;
            addNumbers(*found, at, *field.part, isNamed ? std::string(field.key) + ": " : of, out);
        } else if (found->is_array() && found->size() == 2) {
            add((*found)[0], at + "/0", field.title);
            add((*found)[1], at + "/1", field.secondTitle);
        } else {
            add(*found, at, field.title);
        }
    }
}

} // namespace

std::vector<RecipeLayer> layersOf(const RecipeDocument& recipe)
{
    std::vector<RecipeLayer> out;
    for (const RecipePlace& place : recipePlaces()) {
        const Pointer at(place.pointer);
        if (!recipe.contains(at))
            continue;
        const RecipeDocument& here = recipe[at];
        const auto add = [&](const RecipeDocument& layer, const std::string& pointer) {
            if (!layer.is_object())
                return;
            const std::string what = whatIs(layer, place), note = textAt(layer, "note");
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
            out.push_back({"/height/base", "base height", "m", recipe[base].get<double>(), -1e6, 1e6, 0});
        return out;
    }
    const Pointer at(pointer);
    if (recipe.contains(at)) {
        const RecipeDocument& layer = recipe[at];
        const RecipePlace* place = placeOf(pointer);
        if (const RecipePart* part = place ? partOf(*place, layer) : nullptr)
            addNumbers(layer, pointer, *part, "", out);
    }
    return out;
}

std::vector<LayerMaterial> materialsOf(const RecipeDocument& recipe, const std::string& pointer)
{
    std::vector<LayerMaterial> out;
    const Pointer at(pointer);
    if (pointer.empty() || !recipe.contains(at))
        return out;
    const RecipePlace* place = placeOf(pointer);
    const RecipePart* part = place ? partOf(*place, recipe[at]) : nullptr;
    for (std::size_t i = 0; part && i < part->fields.size(); ++i) {
        const RecipeField& field = part->fields[i];
        if (const std::string value = textAt(recipe[at], field.key);
            field.type == RecipeField::Type::Block && !value.empty())
            out.push_back({pointer + "/" + field.key, field.title, value});
    }
    return out;
}

std::span<const char* const> kindsOf(const std::string& pointer)
{
    static const std::vector<const char*> kKinds = [] {
        std::vector<const char*> out;
        for (const HeightLayerKind* kind : heightLayerKinds())
            out.push_back(kind->part->id);
        return out;
    }();
    return pointer.starts_with("/height/layers/") ? std::span<const char* const>(kKinds)
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
    const RecipePlace* place = placeOf(pointer);
    const RecipePart *before = place ? partOf(*place, layer) : nullptr, *now = place ? place->find(kind) : nullptr;
    assert(now);
    layer["kind"] = kind;
    for (std::size_t i = 0; before && i < before->fields.size(); ++i)
        if (!now->find(before->fields[i].key))
            layer.erase(before->fields[i].key);
    for (const RecipeField& field : now->fields)
        if (field.comesWithKind && !layer.contains(field.key))
            layer[field.key] = field.missing[0];
    return out;
}

RecipeDocument withWarp(const RecipeDocument& recipe, const std::string& pointer, bool warped)
{
    RecipeDocument out = salted(recipe);
    RecipeDocument& layer = out.at(Pointer(pointer));
    layer.erase("warp");
    if (warped) {
        const std::uint64_t salt = maxSalt(out) + 1;
        layer["warp"] = RecipeDocument::parse(R"({"amount": 40, "noise": {"feature": 120, "octaves": 2}})");
        layer["warp"]["noise"]["salt"] = salt;
    }
    return out;
}

std::span<const LayerTemplate> layerTemplates()
{
    return templates();
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
    const RecipePlace* once = placeOf(pointer);
    if (once && !once->isList) {
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
    if (!recipePlace(list).isList) {
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

} // namespace fell::terrain
