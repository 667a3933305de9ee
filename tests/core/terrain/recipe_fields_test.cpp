// SPDX-License-Identifier: Apache-2.0
// The tables of recipes, against what the reader does with each field, and against the files made of them.
#include <fell/terrain/recipe_fields.h>

#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/terrain/feature.h>
#include <fell/terrain/height_layer.h>
#include <fell/terrain/recipe_layers.h>
#include <fell/terrain/recipe_schema.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <cmath>

namespace fell::recipe_fields_test {
namespace {

using Json = nlohmann::ordered_json;
using Type = RecipeField::Type;

/// A value that a field allows: the middle of its range, on its steps.
Json goodValue(const RecipeField& field);

Json goodPart(const RecipePart& part)
{
    Json out = Json::object();
    if (part.id[0] != '\0')
        out["kind"] = part.id;
    for (const RecipeField& field : part.fields)
        out[field.key] = goodValue(field);
    return out;
}

Json goodValue(const RecipeField& field)
{
    const double middle = (field.range.low + field.range.high) / 2;
    switch (field.type) {
    case Type::Number:
        return field.step > 0 ? std::floor(middle / field.step) * field.step : middle;
    case Type::Integer:
        return static_cast<std::int64_t>(middle);
    case Type::Pair:
        return {field.range.low, field.range.high};
    case Type::Path:
        return {{0, 0}, {10, 5}};
    case Type::Curve:
        return {{0, 0}, {0.5, 0.25}, {1, 1}};
    case Type::Block:
        return "slate";
    case Type::Blocks:
        return {"slate", "turf"};
    case Type::Text:
        return "none";
    case Type::Part:
        return goodPart(*field.part);
    }
    return {};
}

/// A recipe with one part at its place.
Json recipeWith(const RecipePlace& place, const Json& part)
{
    Json out = Json::parse(R"({"format": "fell-recipe", "version": 2, "name": "x", "seed": 1, "blocks": "b",
        "height": {}, "strata": [{"material": "slate"}]})");
    const Json::json_pointer at(place.pointer);
    if (place.isList)
        out[at] = Json::array({part});
    else
        out[at] = part;
    return out;
}

std::string problemOf(const Json& recipe)
{
    const auto read = test::parseTestRecipe(recipe.dump());
    return read ? "" : sentence(read.problem());
}

/// Calls visit(place, part, place of its object in the recipe) for every part but the height map, whose file must be.
template <typename Visit> void eachPart(const Visit& visit)
{
    for (const RecipePlace& place : recipePlaces())
        for (const RecipePart* part : place.parts)
            if (std::string_view(place.pointer) != "/height/map")
                visit(place, *part, std::string(place.pointer) + (place.isList ? "/0" : ""));
}

TEST(RecipeFields, EveryPartIsReadWithAllItsKeysAndWithThoseThatItMustHave)
{
    int parts = 0;
    eachPart([&](const RecipePlace& place, const RecipePart& part, const std::string&) {
        ++parts;
        Json all = goodPart(part);
        EXPECT_EQ(problemOf(recipeWith(place, all)), "") << place.pointer << " " << part.id;
        for (const RecipeField& field : part.fields)
            if (!field.isRequired)
                all.erase(field.key);
        EXPECT_EQ(problemOf(recipeWith(place, all)), "") << place.pointer << " " << part.id << ", the least";
    });
    EXPECT_EQ(parts, 6 + 6 + 1 + 1 + 1 + 1 + 4) << "layers, landforms, overhangs, caves, water, strata, features";
}

TEST(RecipeFields, WhatIsMissingUnknownOrOutOfRangeIsSaidWithItsPlace)
{
    eachPart([&](const RecipePlace& place, const RecipePart& part, const std::string& at) {
        const Json all = goodPart(part);
        Json strange = all;
        strange["gold"] = 1;
        EXPECT_NE(problemOf(recipeWith(place, strange)).find("gold"), std::string::npos) << part.title;
        for (const RecipeField& field : part.fields) {
            Json changed = all;
            changed.erase(field.key);
            const std::string where = at + "/" + field.key;
            EXPECT_EQ(problemOf(recipeWith(place, changed)).find(where) != std::string::npos, field.isRequired)
                << where;
            if (field.type == Type::Number || field.type == Type::Integer) {
                for (const double beyond : {field.range.low - 1, field.range.high + 1}) {
                    changed[field.key] = beyond;
                    EXPECT_NE(problemOf(recipeWith(place, changed)).find(where), std::string::npos) << where;
                }
            }
            changed[field.key] = true; // of no type that there is
            EXPECT_NE(problemOf(recipeWith(place, changed)).find(where), std::string::npos) << where;
        }
    });
}

TEST(RecipeFields, ThePageShowsWhatTheReaderAllows)
{
    eachPart([&](const RecipePlace& place, const RecipePart& part, const std::string& at) {
        const Json recipe = recipeWith(place, goodPart(part));
        std::size_t titled = 0;
        const std::function<void(const RecipePart&)> count = [&](const RecipePart& of) {
            for (const RecipeField& field : of.fields) {
                if (field.part)
                    count(*field.part);
                const bool isNumber = field.type == Type::Number || field.type == Type::Integer;
                titled += (isNumber || field.type == Type::Pair) && field.title[0] != '\0';
                titled += field.type == Type::Pair && field.secondTitle[0] != '\0';
            }
        };
        count(part);
        const auto shown = numbersOf(recipe, at);
        EXPECT_EQ(shown.size(), titled) << part.title;
        for (const LayerNumber& one : shown) {
            for (const double end : {one.low, one.high}) {
                if (one.pointer.find("slope/") != std::string::npos || one.pointer.find("length/") != std::string::npos)
                    continue; // two that must stay in order
                const Json value = end == std::floor(end) ? Json(static_cast<std::int64_t>(end)) : Json(end);
                EXPECT_EQ(problemOf(withValue(recipe, one.pointer, value)), "") << one.pointer << " " << end;
            }
        }
    });
}

TEST(RecipeFields, SchemaAndReferenceAreThoseOfTheTables)
{
    const auto fileText = [](const char* name) { return test::textOf(std::filesystem::path(sourceFolder()) / name); };
    EXPECT_EQ(fileText("demo/recipe.schema.json"), recipeSchema()) << "fell-cli recipe schema >demo/recipe.schema.json";
    EXPECT_EQ(fileText("docs/recipe-reference.md"), recipeReference())
        << "fell-cli recipe reference >docs/recipe-reference.md";
}

} // namespace
} // namespace fell::recipe_fields_test
