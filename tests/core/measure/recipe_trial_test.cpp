// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/recipe_trial.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/input/json_reader.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::recipe_trial_test {
namespace {

RecipeDocument documentOf(const std::string& text)
{
    return parseOrderedJson(text, "test.json").take();
}

Outcome<BlockSet> testBlocksNamed(const std::string&)
{
    return test::testBlocks();
}

TEST(RecipeTrial, HasEveryLayerInItsOrderAndSharesWithinTheWhole)
{
    const RecipeDocument document = documentOf(test::fullRecipe());
    const auto costs = costsOf(document, "test.json", testBlocksNamed);
    ASSERT_TRUE(costs) << sentence(costs.problem());
    const auto layers = layersOf(document);
    ASSERT_EQ(costs.value().layers.size(), layers.size());
    EXPECT_GT(costs.value().columnNs, 0);
    for (std::size_t i = 0; i < layers.size(); ++i) {
        const LayerCost& cost = costs.value().layers[i];
        EXPECT_EQ(cost.pointer, layers[i].pointer);
        EXPECT_LE(cost.low, cost.share);
        EXPECT_LE(cost.share, cost.high);
        EXPECT_LE(cost.share, 1) << "it cannot save more than everything";
        EXPECT_EQ(cost.isKnown(), cost.low > 0);
        EXPECT_DOUBLE_EQ(cost.columnNs, cost.share * costs.value().columnNs);
    }
}

TEST(RecipeTrial, ALayerThatIsOffCostsNothing)
{
    RecipeDocument document = documentOf(test::fullRecipe());
    const auto layers = layersOf(document);
    document = withLayerOff(document, layers.front().pointer, true);
    const auto costs = costsOf(document, "test.json", testBlocksNamed);
    ASSERT_TRUE(costs) << sentence(costs.problem());
    EXPECT_EQ(costs.value().layers.front().columnNs, 0);
    EXPECT_EQ(costs.value().layers.front().share, 0);
    EXPECT_FALSE(costs.value().layers.front().isKnown());
}

TEST(RecipeTrial, APatternHasNoLayersAndABrokenRecipeIsASentence)
{
    const auto pattern = costsOf(documentOf(R"({"format": "fell-recipe", "version": 2, "name": "p", "seed": 1,
        "voxel_metres": 1, "blocks": "b.json", "pattern": {"kind": "level", "material": "slate"}})"),
        "p.json", testBlocksNamed);
    ASSERT_TRUE(pattern) << sentence(pattern.problem());
    EXPECT_TRUE(pattern.value().layers.empty());
    const auto broken = costsOf(documentOf(R"({"format": "fell-recipe", "version": 2})"), "b.json", testBlocksNamed);
    ASSERT_FALSE(broken);
    EXPECT_NE(sentence(broken.problem()).find("b.json"), std::string::npos);
}

TEST(RecipeTrial, Stops)
{
    std::stop_source stop;
    stop.request_stop();
    const auto costs = costsOf(documentOf(test::fullRecipe()), "test.json", testBlocksNamed, stop.get_token());
    ASSERT_TRUE(costs);
    EXPECT_TRUE(costs.value().stopped);
}

} // namespace
} // namespace fell::recipe_trial_test
