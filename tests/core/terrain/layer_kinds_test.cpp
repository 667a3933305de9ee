// SPDX-License-Identifier: Apache-2.0
// Every kind of height layer, warp and curve: each column worked out once more from the noise, and blocks against
// samples to the bit.
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/terrain/columns.h>
#include <fell/terrain/generate.h>
#include <fell/terrain/recipe_layers.h>
#include <fell/terrain/recipe_versions.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace fell::layer_kinds_test {
namespace {

std::string recipeOf(const std::string& layer, int version = 2)
{
    return R"({"format": "fell-recipe", "version": )" + std::to_string(version)
        + R"(, "name": "x", "seed": 3, "blocks": "b", "height": {"base": 10, "layers": [)" + layer
        + R"(]}, "strata": [{"material": "slate"}]})";
}

std::shared_ptr<const Terrain> terrainOf(const std::string& layer)
{
    auto recipe = test::parseTestRecipe(recipeOf(layer));
    EXPECT_TRUE(recipe) << (recipe ? "" : sentence(recipe.problem()));
    return recipe ? makeTerrain(recipe.take()) : nullptr;
}

const char* const kNoise = R"("noise": {"feature": 24, "octaves": 3})";

std::string layerOf(const std::string& kind, const std::string& more = "")
{
    return R"({"kind": ")" + kind + R"(", "amplitude": 40, )" + more + kNoise + "}";
}

constexpr VoxelPos kColumns[]{{0, 0, 0}, {17, 0, -5}, {-301, 0, 88}, {4099, 0, 12345}, {-77777, 0, -3}};

TEST(LayerKinds, FoldedNoiseIsEachOctaveWithoutItsSignAndRidgedThatUpsideDown)
{
    const auto billow = terrainOf(layerOf("billow")), ridged = terrainOf(layerOf("ridged"));
    for (const VoxelPos at : kColumns) {
        double folded = 0;
        for (const NoiseOctave& octave : billow->heights[0].first.octaves) {
            Noise one{{octave}, false};
            one.octaves[0].amplitude = 1;
            folded += std::abs(noiseAt(one, at)) * static_cast<double>(octave.amplitude);
        }
        const double share = std::min(1.0, folded * 1.8);
        EXPECT_NEAR(groundHeight(*billow, at.x, at.z), 10 + 40 * share, 1e-4);
        EXPECT_NEAR(groundHeight(*ridged, at.x, at.z), 10 + 40 * (1 - share), 1e-4);
    }
}

TEST(LayerKinds, LeastAndGreatestAreOfTheSameTwoNoises)
{
    const auto min = terrainOf(layerOf("least")), greatest = terrainOf(layerOf("greatest"));
    int apart = 0;
    for (const VoxelPos at : kColumns) {
        const float a = noiseAt(min->heights[0].first, at), b = noiseAt(min->heights[0].second, at);
        const auto height = [](float value) { return 10 + 40 * std::clamp(value * 0.7 + 0.5, 0.0, 1.0); };
        EXPECT_NEAR(groundHeight(*min, at.x, at.z), height(std::min(a, b)), 1e-4);
        EXPECT_NEAR(groundHeight(*greatest, at.x, at.z), height(std::max(a, b)), 1e-4);
        apart += a != b;
    }
    EXPECT_GT(apart, 3);
}

TEST(LayerKinds, AWornOctaveCountsForLessWhereThoseUpToItAreSteep)
{
    // 40 m of height at wear 2, half a metre a voxel: 80 voxels, of which noise of 1 is 0.7.
    const auto worn = terrainOf(layerOf("worn", R"("wear": 2, )")), plain = terrainOf(layerOf("noise"));
    const double wear = 2 * std::pow(40 * worn->voxelsPerMetre * 0.7, 2);
    int less = 0;
    for (const VoxelPos at : kColumns) {
        double sum = 0, east = 0, south = 0;
        for (const NoiseOctave& octave : plain->heights[0].first.octaves) {
            const Noise one{{octave}};
            const auto value = [&](int dx, int dz) {
                return static_cast<double>(noiseAt(one, {at.x + dx, at.y, at.z + dz}));
            };
            east += (value(1, 0) - value(-1, 0)) / 2;
            south += (value(0, 1) - value(0, -1)) / 2;
            sum += value(0, 0) / (1 + wear * (east * east + south * south));
        }
        EXPECT_NEAR(groundHeight(*worn, at.x, at.z),
            (10 + 40 * std::clamp(sum * 0.7 + 0.5, 0.0, 1.0)) * worn->voxelsPerMetre, 2e-3);
        less += std::abs(noiseAt(worn->heights[0].first, at)) < std::abs(noiseAt(plain->heights[0].first, at));
    }
    EXPECT_GE(less, 3);
    const auto unworn = terrainOf(layerOf("worn", R"("wear": 0, )"));
    for (const VoxelPos at : kColumns)
        EXPECT_EQ(groundHeight(*unworn, at.x, at.z), groundHeight(*plain, at.x, at.z));
}

TEST(LayerKinds, WornGroundIsSmootherWhereItIsSteep)
{
    const auto worn = terrainOf(layerOf("worn", R"("wear": 4, )")), plain = terrainOf(layerOf("noise"));
    const int edge = 128;
    const ColumnPatch a = columnsByBlocks(*plain, 0, 0, edge), b = columnsByBlocks(*worn, 0, 0, edge);
    // The second difference along a row, as a measure of what is fine: kept on flat ground, lost on slopes.
    std::array<double, 2> before{}, after{}; // flat, steep
    for (int z = 0; z < edge; ++z)
        for (int x = 1; x + 1 < edge; ++x) {
            const auto at = static_cast<std::size_t>(z * edge + x);
            const auto bend = [at](const ColumnPatch& of) {
                return std::abs(of.height[at + 1] - 2 * of.height[at] + of.height[at - 1]);
            };
            const bool steep = std::abs(a.height[at + 1] - a.height[at - 1]) > 2.4F;
            before[steep] += bend(a);
            after[steep] += bend(b);
        }
    EXPECT_LT(after[1], 0.6 * before[1]);
    EXPECT_GT(after[0] / before[0], 1.2 * after[1] / before[1]);
}

TEST(LayerKinds, WhatOnlyOneKindHasComesAndGoesWithIt)
{
    const RecipeDocument plain = RecipeDocument::parse(recipeOf(layerOf("noise")));
    const RecipeDocument worn = withKind(plain, "/height/layers/0", "worn");
    EXPECT_EQ(worn["height"]["layers"][0]["wear"], 1);
    EXPECT_TRUE(test::parseTestRecipe(worn.dump()));
    EXPECT_EQ(withKind(worn, "/height/layers/0", "noise"), plain);
    const auto wrong = test::parseTestRecipe(recipeOf(layerOf("billow", R"("wear": 1, )")));
    ASSERT_FALSE(wrong);
    EXPECT_NE(sentence(wrong.problem()).find("/height/layers/0/wear"), std::string::npos) << sentence(wrong.problem());
}

TEST(LayerKinds, FoldedNoiseIsZeroOnTheMeanSoThatCoarseLevelsStayInPlace)
{
    Noise noise = makeNoise({.featureSize = 37, .octaves = 1, .seed = 8});
    noise.folded = true;
    std::vector<float> values(256 * 256);
    NoiseScratch scratch;
    double sum = 0;
    for (int i = 0; i < 8; ++i) {
        noiseBlock(noise, {{i * 1000, 0, i * 777}, 256, 1, 256}, scratch, values);
        for (const float value : values)
            sum += value;
    }
    EXPECT_NEAR(sum / (8.0 * 256 * 256), 0, 0.01);
}

TEST(LayerKinds, ACurveShapesTheShareAfterTheExponent)
{
    const auto plain = terrainOf(layerOf("noise", R"("exponent": 2, )"));
    const auto shaped = terrainOf(layerOf("noise", R"("exponent": 2, "curve": [[0, 0.2], [1, 0.7]], )"));
    for (const VoxelPos at : kColumns) {
        const double share = (groundHeight(*plain, at.x, at.z) - 10) / 40;
        EXPECT_NEAR(groundHeight(*shaped, at.x, at.z), 10 + 40 * (0.2 + 0.5 * share), 1e-4);
    }
}

TEST(LayerKinds, WarpReadsTheNoiseFromElsewhere)
{
    // A warp whose noise is moved by whole voxels only: then it is the noise of another column, to the bit.
    const Noise noise = makeNoise({.featureSize = 24, .octaves = 3, .seed = 5});
    for (const VoxelPos at : kColumns)
        for (const int east : {-40, 0, 7})
            EXPECT_EQ(
                noiseAtOffset(noise, at, static_cast<float>(east), 3), noiseAt(noise, {at.x + east, at.y, at.z + 3}));
    // And half a voxel lies between two.
    const Noise smooth = makeNoise({.featureSize = 400, .octaves = 1, .seed = 5});
    EXPECT_NEAR(
        noiseAtOffset(smooth, {5, 0, 5}, 0.5f, 0), (noiseAt(smooth, {5, 0, 5}) + noiseAt(smooth, {6, 0, 5})) / 2, 1e-5);
    const std::string warp = R"("warp": {"amount": 30, "noise": {"feature": 60}}, )";
    const auto warped = terrainOf(layerOf("noise", warp));
    const HeightNoise& by = warped->heights[0];
    for (const VoxelPos at : kColumns) {
        const float value = noiseAtOffset(by.first, at, noiseAt(by.warpEast, at) * 30, noiseAt(by.warpSouth, at) * 30);
        EXPECT_NEAR(groundHeight(*warped, at.x, at.z), 10 + 40 * std::clamp(value * 0.7 + 0.5, 0.0, 1.0), 1e-4);
    }
}

TEST(LayerKinds, BlocksGiveTheColumnsOfSamplesOnEveryLevel)
{
    const std::string warp = R"("warp": {"amount": 18.5, "noise": {"feature": 30, "octaves": 2}}, )",
                      curve = R"("curve": [[0, 0], [0.3, 0.6], [0.7, 0.6], [1, 1]], "exponent": 1.25, )";
    for (const HeightLayerKind* each : heightLayerKinds())
        for (const std::string& more : {std::string(), warp, curve, warp + curve}) {
            const auto fine = terrainOf(layerOf(each->part->id, more));
            for (const int level : {0, 1, 3, kMaxLevel}) {
                const auto terrain = coarserTerrain(*fine, level);
                for (const std::int64_t x0 : {-64L, 1L << 40}) {
                    const ColumnPatch blocks = columnsByBlocks(*terrain, x0, 96, 16),
                                      samples = columnsBySamples(*terrain, x0, 96, 16);
                    EXPECT_EQ(blocks.height, samples.height) << each->part->id << " " << more << " level " << level;
                    EXPECT_EQ(blocks.rules, samples.rules) << each->part->id << " " << more << " level " << level;
                }
            }
        }
}

TEST(LayerKinds, SaysWhatIsWrongWithACurveOrAWarp)
{
    const std::pair<std::string, std::string> wrong[]{{R"("curve": [[0, 0]], )", "/height/layers/0/curve"},
        {R"("curve": [[0, 0], [0, 1]], )", "/height/layers/0/curve"},
        {R"("curve": [[0, 0], [1, 1.5]], )", "/height/layers/0/curve"}, {R"("curve": 3, )", "/height/layers/0/curve"},
        {R"("warp": {"amount": -1, "noise": {"feature": 9}}, )", "/height/layers/0/warp/amount"},
        {R"("warp": {"amount": 1}, )", "/height/layers/0/warp/noise"},
        {R"("warp": {"amount": 1, "noise": {"feature": 9}, "more": 1}, )", "/height/layers/0/warp/more"}};
    for (const auto& [more, pointer] : wrong) {
        const auto recipe = test::parseTestRecipe(recipeOf(layerOf("noise", more)));
        ASSERT_FALSE(recipe) << more;
        EXPECT_TRUE(recipe.problem().pointer.starts_with(pointer)) << sentence(recipe.problem());
    }
}

TEST(RecipeVersions, AnOlderOneGivesTheSameWorldAndSaysWhatHasBecomeOfIt)
{
    const auto now = test::parseTestRecipe(recipeOf(layerOf("least")));
    auto older = test::parseTestRecipe(recipeOf(layerOf("ridges"), 1));
    ASSERT_TRUE(now && older) << (older ? "" : sentence(older.problem()));
    EXPECT_TRUE(now.value().updates.empty());
    ASSERT_EQ(older.value().updates.size(), 2u);
    EXPECT_EQ(older.value().updates[0], "/version: 1 is 2 now");
    EXPECT_TRUE(older.value().updates[1].starts_with("/height/layers/0/kind")) << older.value().updates[1];
    EXPECT_EQ(older.value().layers[0].kind, findHeightLayerKind("least"));
    const auto again = test::parseTestRecipe(older.value().text); // what is kept of it is of today
    ASSERT_TRUE(again);
    EXPECT_TRUE(again.value().updates.empty());
    const auto a = makeTerrain(now.value()), b = makeTerrain(older.value());
    for (const VoxelPos at : kColumns)
        EXPECT_EQ(groundHeight(*a, at.x, at.z), groundHeight(*b, at.x, at.z));
}

TEST(RecipeVersions, OthersAreLeftAndRefused)
{
    EXPECT_FALSE(test::parseTestRecipe(recipeOf(layerOf("ridges"), 2))) << "a new recipe says least";
    const auto newer = test::parseTestRecipe(recipeOf(layerOf("noise"), kRecipeVersion + 1));
    ASSERT_FALSE(newer);
    EXPECT_EQ(newer.problem().pointer, "/version");
    for (const char* text : {"[]", "3", R"({"version": 1})", R"({"format": "fell-setup", "version": 1})"}) {
        auto document = nlohmann::ordered_json::parse(text);
        EXPECT_TRUE(bringUpToDate(document).empty()) << text;
        EXPECT_EQ(document, nlohmann::ordered_json::parse(text));
    }
}

} // namespace
} // namespace fell::layer_kinds_test
