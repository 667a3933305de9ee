// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/demo/demo_folder.h>

#include <gtest/gtest.h>

namespace fell::recipe_test {
namespace {

using test::fullRecipe;
using test::parseTestRecipe;

std::string replaced(std::string text, const std::string& from, const std::string& to)
{
    const std::size_t at = text.find(from);
    EXPECT_NE(at, std::string::npos) << from;
    return text.replace(at, from.size(), to);
}

TEST(Recipe, ReadsEveryKindOfLayer)
{
    auto outcome = parseTestRecipe(fullRecipe());
    ASSERT_TRUE(outcome) << sentence(outcome.problem());
    const Recipe recipe = outcome.take();
    EXPECT_EQ(recipe.seed, 7u);
    EXPECT_EQ(recipe.layers.size(), 2u);
    EXPECT_EQ(recipe.layers[1].kind, findHeightLayerKind("least"));
    EXPECT_EQ(recipe.layers[1].exponent, 1.5);
    EXPECT_EQ(recipe.landforms.size(), 6u);
    EXPECT_EQ(recipe.landforms[5].kind, Landform::Kind::Wall);
    EXPECT_EQ(recipe.landforms[5].material, 1);
    EXPECT_EQ(recipe.strata[0].bands->every, 9);
    EXPECT_EQ(recipe.strata[1].patches->above, -0.3);
    EXPECT_EQ(recipe.features[0].ground, (std::vector<Material>{2, 4}));
    EXPECT_EQ(recipe.water, 3);
    EXPECT_EQ(*recipe.waterLevel, 2);
}

TEST(Recipe, NoisesOfOneRecipeDoNotShareTheirSeed)
{
    const auto recipe = parseTestRecipe(fullRecipe());
    EXPECT_NE(recipe.value().layers[0].noise.salt, recipe.value().layers[1].noise.salt);
    EXPECT_NE(recipe.value().overhangs->noise.salt, recipe.value().caves->noise.salt);
}

TEST(Recipe, SaysFileAndPointerAndRangeOfWhatIsWrong)
{
    const std::tuple<std::string, std::string, std::string> cases[]{
        {"\"octaves\": 4", "\"octaves\": 40", "/height/layers/0/noise/octaves"},
        {"\"octaves\": 4", "\"octavs\": 4", "/height/layers/0/noise/octavs"},
        {"\"octaves\": 4", "\"octaves\": \"four\"", "/height/layers/0/noise/octaves"},
        {"\"exponent\": 1.25", "\"exponent\": 1.3", "/height/layers/0/exponent"},
        {"\"kind\": \"summit\"", "\"kind\": \"volcano\"", "/height/landforms/0/kind"},
        {"\"path\": [[-60, -20], [60, 20]]", "\"path\": [[-60, -20]]", "/height/landforms/1/path"},
        {"\"material\": \"turf\"}", "\"material\": \"marble\"}", "/height/landforms/4/material"},
        {"\"slope\": [0.5, 1.2]", "\"slope\": [1.2, 0.5]", "/overhangs/slope"},
        {"\"width\": 0.12", "\"width\": 3", "/caves/width"},
        {"\"material\": \"turf\", \"depth\"", "\"material\": \"marble\", \"depth\"", "/strata/1/material"},
        {"\"ground\": [\"turf\", \"wood\"]", "\"ground\": [\"marble\"]", "/scatter/0/ground"},
        {"\"seed\": 7", "\"seed\": -7", "/seed"},
        {"\"voxel_metres\": 1", "\"voxel_metres\": 0", "/voxel_metres"},
        {"\"format\": \"fell-recipe\"", "\"format\": \"cake\"", "/format"},
        {"\"name\": \"Test dale\"", "\"nom\": \"Test dale\"", "/nom"},
    };
    for (const auto& [from, to, pointer] : cases) {
        const auto recipe = parseTestRecipe(replaced(fullRecipe(), from, to));
        ASSERT_FALSE(recipe) << to;
        EXPECT_EQ(recipe.problem().pointer, pointer) << sentence(recipe.problem());
        EXPECT_EQ(recipe.problem().where, "test.json");
        EXPECT_EQ(sentence(recipe.problem()).find('\n'), std::string::npos);
    }
}

TEST(Recipe, RefusesBytesThatAreNoJson)
{
    EXPECT_FALSE(parseTestRecipe("\x89PNG\r\n"));
    EXPECT_FALSE(parseTestRecipe(""));
    EXPECT_FALSE(parseTestRecipe("[]"));
    EXPECT_FALSE(parseTestRecipe("null"));
}

TEST(Recipe, NeverCrashesOnBrokenText)
{
    // Every prefix, and every byte replaced once: each is a recipe or one sentence.
    const std::string whole = fullRecipe();
    for (std::size_t length = 0; length < whole.size(); length += 7)
        EXPECT_FALSE(parseTestRecipe(whole.substr(0, length)));
    for (std::size_t at = 0; at < whole.size(); at += 3) {
        std::string text = whole;
        text[at] = '9';
        const auto recipe = parseTestRecipe(text);
        if (!recipe) {
            EXPECT_FALSE(recipe.problem().what.empty());
        }
    }
}

TEST(Recipe, FindsDemosByNameAndFilesByPath)
{
    for (const char* name : {"corrowdale", "gallery", "level", "checker", "dust", "solid"})
        EXPECT_TRUE(findWorld(name, demoFolder())) << name;
    EXPECT_TRUE(findWorld(demoFolder() / "level/recipe.json", "/nowhere"));
    const auto none = findWorld("atlantis", demoFolder());
    ASSERT_FALSE(none);
    EXPECT_NE(none.problem().what.find("corrowdale, dust, gallery, level or solid"), std::string::npos)
        << none.problem().what;
}

TEST(Recipe, SaysWhatIsWrongWithABuiltPatternOrAView)
{
    const auto recipe = [](const std::string& parts) {
        return parseTestRecipe(
            R"({"format": "fell-recipe", "version": 1, "name": "x", "seed": 1, "blocks": "b", )" + parts + "}");
    };
    const auto built = [&](const std::string& boxes) {
        return recipe(R"("pattern": {"kind": "built", "material": "slate", "top": 4, "every": [32, 32], "boxes": [)"
            + boxes + "]}");
    };
    const auto good = built(R"({"low": [1, 2, 3], "high": [4, 5, 6], "material": "open"})");
    ASSERT_TRUE(good) << good.problem().what;
    ASSERT_EQ(good.value().pattern->boxes.size(), 1u);
    EXPECT_EQ(good.value().pattern->boxes[0].high, (std::array<int, 3>{4, 5, 6}));
    const std::pair<std::string, std::string> wrong[]{
        {R"({"low": [1, 2, 3], "high": [4, 2, 6], "material": "open"})", "/pattern/boxes/0/high"},
        {R"({"low": [1, 2], "high": [4, 5, 6], "material": "open"})", "/pattern/boxes/0/low"},
        {R"({"low": [1, 2, 3], "high": [4, 5, 6], "material": "gold"})", "/pattern/boxes/0/material"},
        {R"({"low": [1, 2, 3], "high": [4, 5, 6], "material": "open", "colour": 1})", "/pattern/boxes/0/colour"}};
    for (const auto& [box, pointer] : wrong) {
        const auto bad = built(box);
        ASSERT_FALSE(bad) << box;
        EXPECT_EQ(bad.problem().pointer, pointer);
    }
    const std::string level = R"("pattern": {"kind": "level", "material": "slate"}, )";
    ASSERT_TRUE(recipe(level + R"("view": {"at": [1, 2, 3], "yaw": 90})"));
    EXPECT_EQ(recipe(level + R"("view": {"at": [1, 2, 3], "yaw": 90})").value().view->yaw, 90);
    EXPECT_EQ(recipe(level + R"("view": {"at": [1, 2]})").problem().pointer, "/view/at");
    EXPECT_EQ(recipe(level + R"("view": {"at": [1, 2, 3], "pitch": 91})").problem().pointer, "/view/pitch");
}

TEST(Recipe, SaysWhichBlockFileIsMissing)
{
    const test::TempFolder folder;
    const auto recipe = loadRecipe(folder.write("recipe.json", fullRecipe()));
    ASSERT_FALSE(recipe);
    EXPECT_EQ(recipe.problem().where, (folder / "b.json").string());
}

} // namespace
} // namespace fell::recipe_test
