// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/recipe_editor.h>

#include <nlohmann/json.hpp>

#include "support/all_names.h"
#include "support/event_loop.h"
#include "support/temp_folder.h"
#include <fell/app/models/world_session.h>

#include <QCoreApplication>
#include <QSignalSpy>
#include <QTest>
#include <gtest/gtest.h>

namespace fell::recipe_editor_test {
namespace {

class RecipeEditorTest : public test::EventLoopTest {
protected:
    RecipeEditorTest() { editor.begin(findWorld("corrowdale", demoFolder()).take()); }

    RecipeDocument with(const char* pointer, const nlohmann::json& value) const
    {
        return withValue(editor.document(), pointer, value);
    }

    RecipeEditor editor;
};

TEST_F(RecipeEditorTest, ChangesAreUndoneAndOnesOfOneSliderTogether)
{
    const RecipeDocument first = editor.document();
    EXPECT_FALSE(editor.isChanged());
    for (const int amplitude : {40, 41, 42})
        EXPECT_FALSE(editor.change(with("/height/layers/0/amplitude", amplitude), "a slider"));
    EXPECT_FALSE(editor.change(with("/height/base", 20), "another"));
    EXPECT_TRUE(editor.isChanged());
    EXPECT_EQ(editor.recipe().base, 20);
    editor.undo();
    EXPECT_EQ(editor.document()["height"]["layers"][0]["amplitude"], 42);
    EXPECT_EQ(editor.recipe().base, 14);
    editor.undo();
    EXPECT_EQ(editor.document(), first) << "three moves of one slider are one step";
    EXPECT_FALSE(editor.canUndo());
    EXPECT_FALSE(editor.isChanged());
    editor.redo();
    editor.redo();
    EXPECT_EQ(editor.recipe().base, 20);
    EXPECT_FALSE(editor.canRedo());
}

TEST_F(RecipeEditorTest, WhatIsNoRecipeIsSaidAndChangesNothing)
{
    const RecipeDocument first = editor.document();
    const auto wrong = editor.change(with("/height/layers/0/noise/octaves", 13));
    ASSERT_TRUE(wrong);
    EXPECT_TRUE(wrong->contains("/height/layers/0/noise/octaves")) << wrong->toStdString();
    EXPECT_EQ(editor.document(), first);
    EXPECT_FALSE(editor.canUndo());
}

TEST_F(RecipeEditorTest, TheNewestPreviewWinsAndIsTheMapOfTheRecipe)
{
    QSignalSpy previews(&editor, &RecipeEditor::previewed);
    const MapSpec map{64, 48, 8, {}};
    editor.look(map, {{-100, 0}, {100, 0}, 64, 32}, false);
    for (int i = 0; i < 20; ++i)
        editor.change(with("/height/base", 30 + i), "a slider");
    const auto expected = mapOf(*makeTerrain(editor.recipe()), map);
    EXPECT_TRUE(QTest::qWaitFor([&] { return editor.preview().map.heights == expected.heights; }, 60000));
    EXPECT_LE(previews.count(), 21) << "those that were overtaken are not shown";
    EXPECT_GT(editor.preview().ms, 0);
    EXPECT_EQ(editor.preview().section.columns, 64);
    EXPECT_TRUE(editor.preview().seeds.empty());
    editor.look(map, editor.sectionSpec(), true);
    EXPECT_TRUE(QTest::qWaitFor([&] { return editor.preview().seeds.size() == 9; }, 60000));
    EXPECT_NE(editor.preview().seeds[0].heights, editor.preview().seeds[1].heights);
}

TEST_F(RecipeEditorTest, EveryLayerGetsItsCost)
{
    // A layer is generated for about 0.1 s, and for 2 s under a sanitizer: of the demo's forty-eight four are enough.
    RecipeDocument few = editor.document();
    few.erase("scatter");
    few.erase("overhangs");
    few["strata"] = nlohmann::json::array({few["strata"].back()});
    few["height"].erase("landforms");
    few["height"]["layers"] = nlohmann::json::array({few["height"]["layers"].front()});
    ASSERT_EQ(layersOf(few).size(), 4u) << "rolling ground, caves, water, slate";
    ASSERT_FALSE(editor.change(few));
    editor.look({32, 32, 8, {}}, {{-100, 0}, {100, 0}, 64, 32}, false);
    ASSERT_TRUE(QTest::qWaitFor([&] { return editor.costs().has_value(); }, 120000));
    EXPECT_EQ(editor.costs()->layers.size(), layersOf(editor.document()).size());
    EXPECT_GT(editor.costs()->columnNs, 0);
    double max = 0;
    for (const LayerCost& cost : editor.costs()->layers)
        max = std::max(max, cost.share);
    EXPECT_GT(max, 0.02);
    EXPECT_LT(max, 1);
    editor.change(with("/height/base", 20));
    EXPECT_FALSE(editor.costs()) << "they were another recipe's";
}

TEST_F(RecipeEditorTest, IsSavedAsARecipeThatOpensAsTheSameWorld)
{
    const test::TempFolder folder;
    editor.change(withLayerOff(editor.document(), "/caves", true));
    editor.setSeed(99);
    const auto file = folder / "mine.json";
    ASSERT_FALSE(editor.save(file));
    EXPECT_FALSE(editor.isChanged());
    const auto opened = findWorld(file.string(), demoFolder());
    ASSERT_TRUE(opened) << sentence(opened.problem());
    EXPECT_EQ(opened.value().seed, 99u);
    EXPECT_FALSE(opened.value().caves.has_value());
    EXPECT_EQ(opened.value().blocks.kinds.size(), editor.recipe().blocks.kinds.size()) << "the block set is found";
    EXPECT_TRUE(editor.save("/proc/nowhere/mine.json"));
    editor.undo();
    EXPECT_TRUE(editor.isChanged()) << "it is not as it was saved any more";
}

} // namespace
} // namespace fell::recipe_editor_test
