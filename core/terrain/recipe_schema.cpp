// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/recipe_schema.h>

#include <fell/terrain/recipe_fields.h>
#include <fell/terrain/recipe_versions.h>

#include <nlohmann/json.hpp>

#include <cmath>

namespace fell::terrain {
namespace {

using Json = nlohmann::ordered_json;
using Type = RecipeField::Type;

/// A number as people write it: 4, not 4.0.
Json numberOf(double value)
{
    if (value == std::floor(value) && std::abs(value) < 1e15)
        return Json(static_cast<std::int64_t>(value));
    return Json(value);
}

Json rangeSchema(const char* type, NumberRange range)
{
    return {{"type", type}, {"minimum", numberOf(range.low)}, {"maximum", numberOf(range.high)}};
}

Json listSchema(Json items, std::size_t min, std::size_t max)
{
    return {{"type", "array"}, {"items", std::move(items)}, {"minItems", min}, {"maxItems", max}};
}

Json refTo(const char* name)
{
    return {{"$ref", std::string("#/$defs/") + name}};
}

Json partSchema(const RecipePart& part, bool hasKind);

Json fieldSchema(const RecipeField& field)
{
    Json out;
    switch (field.type) {
    case Type::Number:
        out = rangeSchema("number", field.range);
        if (field.step > 0)
            out["multipleOf"] = field.step;
        break;
    case Type::Integer:
        out = rangeSchema("integer", field.range);
        break;
    case Type::Pair:
        out = listSchema(rangeSchema("number", field.range), 2, 2);
        break;
    case Type::Path:
        out = listSchema(listSchema(rangeSchema("number", kRecipePlace), 2, 2), 2, 1000);
        break;
    case Type::Curve:
        out = listSchema(listSchema(rangeSchema("number", {0, 1}), 2, 2), 2, 16);
        break;
    case Type::Block:
        out = refTo("block");
        break;
    case Type::Blocks:
        out = {{"type", "array"}, {"items", refTo("block")}};
        break;
    case Type::Text:
        out = {{"type", "string"}, {"maxLength", numberOf(field.range.high)}};
        break;
    case Type::Part:
        out = field.part == &kNoisePart   ? refTo("noise")
            : field.part == &kPatchesPart ? refTo("patches")
                                          : partSchema(*field.part, false);
        break;
    }
    if (field.note[0] != '\0')
        out["description"] = field.note;
    const bool hasDefault = !field.isRequired && (field.type == Type::Number || field.type == Type::Integer)
        && std::string_view(field.key) != "salt";
    if (hasDefault)
        out["default"] = numberOf(field.missing[0]);
    return out;
}

Json partSchema(const RecipePart& part, bool hasKind)
{
    Json required = Json::array(), properties = Json::object();
    if (hasKind) {
        required.push_back("kind");
        properties["kind"] = {{"const", part.id}};
    }
    if (part.isLayer) {
        properties["note"] = {{"type", "string"}};
        properties["off"] = refTo("off");
    }
    for (const RecipeField& field : part.fields) {
        if (field.isRequired)
            required.push_back(field.key);
        properties[field.key] = fieldSchema(field);
    }
    Json out;
    if (part.note[0] != '\0')
        out["description"] = part.note;
    out["type"] = "object";
    out["required"] = std::move(required);
    out["additionalProperties"] = false;
    out["properties"] = std::move(properties);
    return out;
}

Json placeSchema(const RecipePlace& place)
{
    Json item;
    if (place.hasKinds()) {
        Json kinds = Json::array();
        for (const RecipePart* part : place.parts)
            kinds.push_back(partSchema(*part, true));
        item = {{"oneOf", std::move(kinds)}};
    } else {
        item = partSchema(*place.parts[0], false);
    }
    return place.isList ? Json{{"type", "array"}, {"maxItems", place.max}, {"items", std::move(item)}} : item;
}

Json partsAt(const char* pointer)
{
    return placeSchema(recipePlace(pointer));
}

Json patternSchema()
{
    const Json voxel = listSchema(rangeSchema("integer", {-4096, 4096}), 3, 3);
    return {{"description", "a small world to measure with, instead of terrain"}, {"type", "object"},
        {"required", {"kind", "material"}}, {"additionalProperties", false},
        {"properties",
            {{"kind", {{"enum", {"level", "checker", "dust", "solid", "built"}}}}, {"material", refTo("block")},
                {"fill", {{"type", "number"}, {"minimum", 0}, {"maximum", 1}, {"default", 0.5}}},
                {"top",
                    {{"description", "built: voxels below it are the material"}, {"type", "integer"},
                        {"minimum", -4096}, {"maximum", 4096}}},
                {"every", listSchema(rangeSchema("integer", {8, 4096}), 2, 2)},
                {"boxes",
                    {{"description", "built: boxes of voxels, later ones over earlier ones"}, {"type", "array"},
                        {"maxItems", 1000},
                        {"items",
                            {{"type", "object"}, {"required", {"low", "high", "material"}},
                                {"additionalProperties", false},
                                {"properties",
                                    {{"note", {{"type", "string"}}}, {"low", voxel}, {"high", voxel},
                                        {"material", refTo("block")}}}}}}}}}};
}

Json viewSchema()
{
    return {{"description", "the first camera position: metres, degrees"}, {"type", "object"}, {"required", {"at"}},
        {"additionalProperties", false},
        {"properties",
            {{"at", listSchema(rangeSchema("integer", kRecipePlace), 3, 3)},
                {"yaw", {{"type", "number"}, {"minimum", -360}, {"maximum", 360}, {"default", 0}}},
                {"pitch", {{"type", "number"}, {"minimum", -90}, {"maximum", 90}, {"default", 0}}}}}};
}

/// "-2000 to 2000 m".
std::string allowed(const RecipeField& field)
{
    const std::string range = numberOf(field.range.low).dump() + " to " + numberOf(field.range.high).dump()
        + (field.unit[0] == '\0' ? "" : std::string(" ") + field.unit);
    switch (field.type) {
    case Type::Number:
        return field.step > 0 ? range + " in steps of " + numberOf(field.step).dump() : range;
    case Type::Integer:
        return "whole, " + range;
    case Type::Pair:
        return std::string("two numbers, ") + range
            + (field.order == RecipeField::Order::Any ? "" : ", the first below the second");
    case Type::Path:
        return "2 to 1000 points [x, z], metres";
    case Type::Curve:
        return "2 to 16 points of 0 to 1, going on to the right";
    case Type::Block:
        return "a block of the set";
    case Type::Blocks:
        return "blocks of the set";
    case Type::Text:
        return "a file";
    case Type::Part:
        return std::string("an object: ") + field.part->title;
    }
    return {};
}

std::string missing(const RecipeField& field)
{
    if (field.isRequired)
        return "must be there";
    const auto told = [](double value) { return std::isinf(value) ? std::string("no limit") : numberOf(value).dump(); };
    if (field.type == Type::Number || (field.type == Type::Integer && std::string_view(field.key) != "salt"))
        return told(field.missing[0]);
    if (field.type == Type::Pair)
        return field.missing[0] == field.missing[1] ? told(field.missing[0])
                                                    : told(field.missing[0]) + ", " + told(field.missing[1]);
    return "none";
}

void addTable(const RecipePart& part, const char* heading, std::string& out)
{
    out += std::string(heading) + " " + (part.id[0] == '\0' ? part.title : "`" + std::string(part.id) + "`") + "\n\n";
    if (part.note[0] != '\0')
        out += std::string(1, static_cast<char>(std::toupper(part.note[0]))) + (part.note + 1) + ".\n\n";
    out += "| key | what | allowed | if missing |\n| --- | --- | --- | --- |\n";
    for (const RecipeField& field : part.fields) {
        const std::string what = field.note[0] != '\0' ? field.note : field.title;
        out += "| `" + std::string(field.key) + "` | " + what + " | " + allowed(field) + " | " + missing(field)
            + " |\n";
    }
    out += "\n";
}

} // namespace

std::string recipeSchema()
{
    const Json text = {{"type", "string"}};
    Json properties
        = {{"$schema", text}, {"format", {{"const", "fell-recipe"}}}, {"version", {{"const", kRecipeVersion}}},
            {"name", {{"type", "string"}, {"maxLength", 80}}}, {"note", {{"type", "string"}, {"maxLength", 2000}}},
            {"seed", {{"type", "integer"}, {"minimum", 0}, {"maximum", 18446744073709551615ULL}}},
            {"voxel_metres",
                {{"description", "edge of a voxel"}, {"type", "number"}, {"minimum", 0.05}, {"maximum", 16},
                    {"default", 1}}},
            {"blocks", {{"description", "block set file next to the recipe"}, {"type", "string"}, {"maxLength", 500}}},
            {"water", partsAt("/water")},
            {"height",
                {{"type", "object"}, {"additionalProperties", false},
                    {"properties",
                        {{"base", rangeSchema("number", kRecipePlace)}, {"map", partsAt("/height/map")},
                            {"layers", partsAt("/height/layers")}, {"landforms", partsAt("/height/landforms")}}}}},
            {"overhangs", partsAt("/overhangs")}, {"caves", partsAt("/caves")}, {"strata", partsAt("/strata")},
            {"scatter", partsAt("/scatter")}, {"view", viewSchema()}, {"pattern", patternSchema()}};
    const Json schema = {{"$schema", "https://json-schema.org/draft/2020-12/schema"},
        {"$id", "fell-recipe-" + std::to_string(kRecipeVersion)}, {"title", "Recipe of a Fell world"},
        {"description",
            "Lengths are metres unless said otherwise; x runs east, y up, z south. Written by fell-cli recipe schema."},
        {"type", "object"}, {"required", {"format", "version", "name", "seed", "blocks"}},
        {"additionalProperties", false}, {"oneOf", {{{"required", {"pattern"}}}, {{"required", {"height", "strata"}}}}},
        {"properties", std::move(properties)},
        {"$defs",
            {{"off",
                 {{"description", "switched off: it is read and left out"}, {"type", "boolean"}, {"default", false}}},
                {"block", {{"description", "the name of a block of the set"}, {"type", "string"}}},
                {"noise", partSchema(kNoisePart, false)}, {"patches", partSchema(kPatchesPart, false)}}}};
    return schema.dump(2) + "\n";
}

std::string recipeReference()
{
    std::string out
        = "# Recipe reference\n\nEvery part of a recipe with its keys. `fell-cli recipe reference` writes this "
          "page from the tables that read the file. Every layer may also have a `note` (its name on the "
          "Recipe page) and `off` (it is read and left out). Lengths are metres; x runs east, y up, z "
          "south.\n\n";
    for (const RecipePlace& place : recipePlaces()) {
        if (!place.hasKinds()) {
            addTable(*place.parts[0], "##", out);
            continue;
        }
        out += "## `" + std::string(place.pointer + 1) + "`\n\nAt most " + std::to_string(place.max)
            + "; each has a `kind`:\n\n";
        for (const RecipePart* part : place.parts)
            addTable(*part, "###", out);
    }
    out += "## Parts of parts\n\n";
    for (const RecipePart* part : {&kNoisePart, &kWarpPart, &kPatchesPart, &kBandsPart})
        addTable(*part, "###", out);
    out.pop_back();
    return out;
}

} // namespace fell::terrain
