// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/recipe_layers.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/terrain/generate.h>

#include <algorithm>
#include <fstream>
#include <set>

namespace fell::recipe_layers_test {
namespace {

RecipeDocument document()
{
    return RecipeDocument::parse(test::fullRecipe());
}

std::uint64_t digestAround(const RecipeDocument& recipe)
{
    auto read = test::parseTestRecipe(recipe.dump());
    EXPECT_TRUE(read) << (read ? "" : sentence(read.problem()));
    const auto terrain = makeTerrain(read.take());
    std::uint64_t sum = 0;
    for (std::int64_t i = 0; i < 8; ++i)
        sum = mix64(sum + digestOf(generateChunk(*findGenerator("blocks"), *terrain, {i & 1, i >> 1 & 1, i >> 2}, 32)));
    return sum;
}

std::string pointerOf(const RecipeDocument& recipe, const std::string& what)
{
    for (const RecipeLayer& layer : layersOf(recipe))
        if (layer.what == what || layer.title == what)
            return layer.pointer;
    ADD_FAILURE() << "no layer " << what;
    return {};
}

TEST(RecipeLayers, AreListedInTheOrderOfTheWork)
{
    const auto layers = layersOf(document());
    std::vector<std::string> pointers;
    for (const RecipeLayer& layer : layers)
        pointers.push_back(layer.pointer);
    const std::vector<std::string> expected{"/height/layers/0", "/height/layers/1", "/height/landforms/0",
        "/height/landforms/1", "/height/landforms/2", "/height/landforms/3", "/height/landforms/4",
        "/height/landforms/5", "/overhangs", "/caves", "/water", "/strata/0", "/strata/1", "/strata/2", "/strata/3",
        "/scatter/0"};
    EXPECT_EQ(pointers, expected);
    EXPECT_EQ(layers[0].what, "noise, 4 octaves");
    EXPECT_EQ(layers[1].what, "least of two noises, 3 octaves");
    EXPECT_EQ(layers.back().title, "larches");
    EXPECT_FALSE(layers[8].isListed);
}

TEST(RecipeLayers, WhatIsSwitchedOffAndOnAgainIsTheSameWorld)
{
    const RecipeDocument recipe = document();
    const std::uint64_t before = digestAround(recipe);
    for (const RecipeLayer& layer : layersOf(recipe)) {
        if (layer.group == "strata" || layer.what == "track, turf")
            continue; // may hide behind others
        const RecipeDocument off = withLayerOff(recipe, layer.pointer, true);
        EXPECT_EQ(digestAround(withLayerOff(off, layer.pointer, false)), before) << layer.pointer;
    }
}

/// The reader and a document without the layer agree: nothing else moves, whatever noises come after it.
TEST(RecipeLayers, SwitchedOffIsAsTakenOut)
{
    const RecipeDocument recipe = document();
    for (const char* pointer :
        {"/height/layers/0", "/overhangs", "/caves", "/water", "/scatter/0", "/height/landforms/0"}) {
        const RecipeDocument off = withLayerOff(recipe, pointer, true), out = withoutLayer(recipe, pointer);
        EXPECT_EQ(digestAround(off), digestAround(out)) << pointer;
        EXPECT_NE(digestAround(off), digestAround(recipe)) << pointer;
    }
}

TEST(RecipeLayers, MovingTwoLayersOfHeightIsTheSameSumAndMovingStrataIsNot)
{
    const RecipeDocument recipe = document();
    const auto [moved, pointer] = withLayerMoved(recipe, "/height/layers/0", 1);
    EXPECT_EQ(pointer, "/height/layers/1");
    EXPECT_EQ(moved["height"]["layers"][1]["kind"], "noise");
    EXPECT_EQ(moved["height"]["layers"][1]["noise"]["salt"], 1) << "it keeps the noise that its old place gave it";
    const auto [back, first] = withLayerMoved(moved, pointer, -1);
    EXPECT_EQ(digestAround(back), digestAround(recipe));
    EXPECT_EQ(withLayerMoved(recipe, "/height/layers/0", -1).first, recipe) << "there is nothing above";
    EXPECT_NE(digestAround(withLayerMoved(recipe, "/strata/1", -1).first), 0u);
}

TEST(RecipeLayers, TwiceHasNoiseOfItsOwn)
{
    const auto [twice, pointer] = withLayerTwice(document(), "/height/layers/0");
    EXPECT_EQ(pointer, "/height/layers/1");
    ASSERT_EQ(twice["height"]["layers"].size(), 3u);
    EXPECT_NE(twice["height"]["layers"][0]["noise"]["salt"], twice["height"]["layers"][1]["noise"]["salt"]);
    EXPECT_NE(digestAround(twice), digestAround(document()));
}

TEST(RecipeLayers, EveryTemplateMakesARecipeThatIsRead)
{
    RecipeDocument recipe = document();
    for (const char* once : {"/overhangs", "/caves", "/water"})
        recipe = withoutLayer(recipe, once);
    std::set<std::string> pointers;
    for (const LayerTemplate& one : layerTemplates()) {
        const auto [added, pointer] = withLayerAdded(recipe, one, "slate");
        const auto read = test::parseTestRecipe(added.dump());
        EXPECT_TRUE(read) << one.title << ": " << (read ? "" : sentence(read.problem()));
        EXPECT_EQ(layersOf(added).size(), layersOf(recipe).size() + 1) << one.title;
        recipe = added;
    }
}

/// The range that is offered is the one that the reader takes: just beyond it, it is refused.
TEST(RecipeLayers, NumbersSayWhatTheReaderAllows)
{
    const RecipeDocument recipe = document();
    std::size_t numbers = 0;
    for (const RecipeLayer& layer : layersOf(recipe))
        for (const LayerNumber& number : numbersOf(recipe, layer.pointer)) {
            ++numbers;
            EXPECT_GE(number.value, number.low) << number.pointer;
            EXPECT_LE(number.value, number.high) << number.pointer;
            const double step = number.step > 0 ? number.step : 1e-3;
            const auto beyond = test::parseTestRecipe(withValue(recipe, number.pointer, number.high + step).dump());
            EXPECT_FALSE(beyond) << number.pointer << " takes more than " << number.high;
            if (!beyond) {
                EXPECT_NE(sentence(beyond.problem()).find(number.pointer.substr(0, number.pointer.rfind('/'))),
                    std::string::npos)
                    << sentence(beyond.problem());
            }
        }
    EXPECT_GT(numbers, 40u);
    EXPECT_EQ(numbersOf(recipe, "").size(), 1u) << "the base";
    EXPECT_EQ(materialsOf(recipe, "/scatter/0").size(), 2u) << "trunk and needles";
    EXPECT_EQ(numbersOf(recipe, pointerOf(recipe, "tunnels, 2 octaves"))[0].title, "width");
}

TEST(RecipeLayers, ALayerOfHeightIsShapedAndWarpedAndNothingElseMoves)
{
    const RecipeDocument recipe = document();
    const std::string layer = "/height/layers/0";
    EXPECT_TRUE(mayBeShaped(layer));
    EXPECT_FALSE(mayBeShaped("/height/landforms/0"));
    EXPECT_FALSE(mayBeShaped("/strata/0"));
    EXPECT_EQ(curveOf(recipe, layer), (std::vector<CurvePoint>{{0, 0}, {1, 1}}));
    const std::vector<CurvePoint> points{{0, 0.1}, {0.5, 0.2}, {1, 1}};
    const RecipeDocument shaped = withCurve(recipe, layer, points);
    EXPECT_EQ(curveOf(shaped, layer), points);
    EXPECT_NE(digestAround(shaped), digestAround(recipe));
    EXPECT_EQ(withCurve(shaped, layer, std::vector<CurvePoint>{{0, 0}, {1, 1}}), recipe) << "straight is none";
    const RecipeDocument warped = withWarp(recipe, layer, true);
    EXPECT_NE(digestAround(warped), digestAround(recipe));
    EXPECT_EQ(digestAround(withWarp(warped, layer, false)), digestAround(recipe)) << "its noises keep their salts";
    const auto numbers = numbersOf(warped, layer);
    const auto moved = std::find_if(numbers.begin(), numbers.end(),
        [](const LayerNumber& number) { return number.pointer == "/height/layers/0/warp/amount"; });
    ASSERT_NE(moved, numbers.end());
    EXPECT_EQ(moved->title, "warp: moved by");
    for (const char* kind : kindsOf(layer))
        EXPECT_TRUE(test::parseTestRecipe(withValue(warped, layer + "/kind", kind).dump())) << kind;
}

TEST(RecipeLayers, NamesStandInTheFile)
{
    const RecipeDocument named = withLayerNamed(document(), "/height/layers/0", "the long fell");
    EXPECT_EQ(layersOf(named)[0].title, "the long fell");
    EXPECT_EQ(digestAround(named), digestAround(document()));
}

} // namespace
} // namespace fell::recipe_layers_test
