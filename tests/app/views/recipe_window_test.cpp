// SPDX-License-Identifier: GPL-3.0-or-later
// The Recipe view in the real window: clicks, drags and keys, then the document, the map and the field.
#include "support/all_names.h"
#include "window_fixture.h"
#include <fell/app/views/curve_canvas.h>
#include <fell/demo/demo_folder.h>

#include <fstream>
#include <gtest/gtest.h>

namespace fell::recipe_window_test {
namespace {

class RecipeWindowTest : public WindowTest {
protected:
    RecipeEditor& openRecipe()
    {
        QTest::mouseClick(child<QToolButton>("showRecipe"), Qt::LeftButton);
        RecipeEditor& editor = m_window->recipe().editor();
        // Whole, not the half as fine one that may come before it.
        EXPECT_TRUE(becomes([&] {
            return !editor.preview().map.heights.empty() && editor.preview().map.width == editor.mapSpec().width;
        }));
        return editor;
    }
    CurveCanvas* curve() { return child<CurveCanvas>("layerCurve"); }
};

TEST_F(RecipeWindowTest, LayersNumbersAndSeedsAreChangedAndTheMapAndTheFieldFollow)
{
    RecipeEditor& editor = openRecipe();
    const auto before = editor.preview().map.heights;
    // The box of the first layer.
    auto* list = child<QListView>("recipeLayers");
    const QRect first = list->visualRect(list->model()->index(1, 0));
    QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, first.topLeft() + QPoint(15, first.height() / 2));
    EXPECT_TRUE(becomes([&] { return layersOf(editor.document())[0].isOff; }));
    EXPECT_TRUE(becomes([&] { return editor.preview().map.heights != before; }));
    trigger("undo"); // Ctrl+Z
    EXPECT_TRUE(becomes([&] { return editor.preview().map.heights == before; })) << "it is the recipe's here";
    // A number by its slider, with the keyboard.
    m_window->recipe().select("/height/layers/0");
    auto* slider = child<QSlider>("slide=/height/layers/0/amplitude");
    slider->setFocus();
    for (int i = 0; i < 5; ++i)
        QTest::keyClick(slider, Qt::Key_PageUp);
    const double amplitude = editor.document()["height"]["layers"][0]["amplitude"];
    EXPECT_GT(amplitude, 34);
    EXPECT_NEAR(child<QDoubleSpinBox>("number=/height/layers/0/amplitude")->value(), amplitude, 1e-9);
    // An end of the section's line is dragged.
    MapCanvas& map = m_window->recipe().map();
    const QPointF end(map.line()[0].x() * map.width(), map.line()[0].y() * map.height());
    const auto section = editor.sectionSpec().from;
    QTest::mousePress(&map, Qt::LeftButton, {}, end.toPoint());
    QTest::mouseMove(&map, end.toPoint() + QPoint(40, -30));
    QTest::mouseRelease(&map, Qt::LeftButton, {}, end.toPoint() + QPoint(40, -30));
    EXPECT_NEAR(
        editor.sectionSpec().from[0] - section[0], 40.0 / map.width() * map.across(), map.across() / map.width());
    // Nine seeds, and the fifth of them.
    QTest::mouseClick(child<QToolButton>("nineSeeds"), Qt::LeftButton);
    ASSERT_TRUE(becomes([&] { return editor.preview().seeds.size() == 9; }));
    const std::uint64_t seed = editor.seed();
    QTest::mouseClick(&map, Qt::LeftButton, {}, map.rect().center());
    EXPECT_EQ(editor.seed(), seed + 4);
    // The field.
    QTest::mouseClick(child<QPushButton>("recipeApply"), Qt::LeftButton);
    EXPECT_EQ(m_window->session().terrain().recipe.seed, seed + 4);
    ASSERT_EQ(m_window->session().terrain().recipe.layers.size(), 3u);
    EXPECT_EQ(m_window->session().terrain().recipe.layers[0].amplitude, amplitude);
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    waitUntilThere();
}

TEST_F(RecipeWindowTest, AKindIsChosenNoiseIsWarpedAndTheCurveIsDragged)
{
    RecipeEditor& editor = openRecipe();
    const auto before = editor.preview().map.heights;
    m_window->recipe().select("/height/layers/0");
    const auto layer = [&] { return editor.document()["height"]["layers"][0]; };
    // The kind, with the keyboard.
    auto* kind = child<QComboBox>("layerKind");
    ASSERT_EQ(kind->currentIndex(), 0);
    kind->setFocus();
    QTest::keyClick(kind, Qt::Key_Down);
    ASSERT_TRUE(becomes([&] { return layer()["kind"] == "billow"; }));
    EXPECT_TRUE(becomes([&] { return editor.preview().map.heights != before; }));
    trigger("undo");
    EXPECT_TRUE(becomes([&] { return editor.preview().map.heights == before; }));
    // The curve: one point more, dragged up, deleted; one undo for all of a drag.
    const auto press = [&](QPointF at) { QTest::mousePress(curve(), Qt::LeftButton, {}, at.toPoint()); };
    QTest::mouseDClick(curve(), Qt::LeftButton, {}, curve()->pixelOf({0.5, 0.5}).toPoint());
    ASSERT_EQ(layer()["curve"].size(), 3u);
    CurveCanvas* canvas = curve();
    EXPECT_NEAR(layer()["curve"][1][1].get<double>(), 0.5, 0.02);
    press(canvas->pixelOf(canvas->points()[1]));
    for (const double up : {0.6, 0.7, 0.8})
        QTest::mouseMove(canvas, canvas->pixelOf({0.4, up}).toPoint());
    QTest::mouseRelease(canvas, Qt::LeftButton, {}, canvas->pixelOf({0.4, 0.8}).toPoint());
    EXPECT_NEAR(layer()["curve"][1][0].get<double>(), 0.4, 0.01);
    EXPECT_NEAR(layer()["curve"][1][1].get<double>(), 0.8, 0.01);
    EXPECT_EQ(canvas, curve()) << "it stays under the pointer";
    EXPECT_TRUE(becomes([&] { return editor.preview().map.heights != before; }));
    QTest::keyClick(canvas, Qt::Key_Up);
    EXPECT_NEAR(layer()["curve"][1][1].get<double>(), 0.81, 0.011);
    // A point never passes its neighbour.
    press(canvas->pixelOf(canvas->points()[1]));
    QTest::mouseMove(canvas, canvas->pixelOf({1, 0.5}).toPoint() + QPoint(40, 0));
    QTest::mouseRelease(canvas, Qt::LeftButton, {}, canvas->rect().center());
    EXPECT_LT(canvas->points()[1][0], canvas->points()[2][0]);
    QTest::mouseClick(canvas, Qt::RightButton, {}, canvas->pixelOf(canvas->points()[1]).toPoint());
    EXPECT_FALSE(layer().contains("curve")) << "straight is none";
    // Warp, and its numbers are there.
    QTest::mouseClick(child<QCheckBox>("layerWarped"), Qt::LeftButton, {}, QPoint(8, 8));
    ASSERT_TRUE(becomes([&] { return layer().contains("warp"); }));
    EXPECT_TRUE(becomes([&] { return editor.preview().map.heights != before; }));
    EXPECT_NE(child<QDoubleSpinBox>("number=/height/layers/0/warp/amount"), nullptr);
}

TEST_F(RecipeWindowTest, AnOlderRecipeIsBroughtUpToDateAndTheBannerSaysHow)
{
    const test::TempFolder folder;
    const auto demo = demoFolder() / "corrowdale", file = folder.path() / "old.json";
    std::string text = test::textOf(demo / "recipe.json");
    const auto replace = [&text](const std::string& from, const std::string& to) {
        const std::size_t at = text.find(from);
        ASSERT_NE(at, std::string::npos) << from;
        text.replace(at, from.size(), to);
    };
    replace("\"version\": 2", "\"version\": 1");
    replace("\"kind\": \"least\"", "\"kind\": \"ridges\"");
    replace("\"blocks.json\"", '"' + (demo / "blocks.json").string() + '"');
    std::ofstream(file) << text;
    ASSERT_TRUE(m_window->world().open(QString::fromStdString(file.string())));
    EXPECT_TRUE(becomes([&] { return child<Banner>("banner")->text().contains("least"); }))
        << child<Banner>("banner")->text().toStdString();
    EXPECT_TRUE(child<Banner>("banner")->text().contains("/version: 1 is 2 now")) << "each change is said";
    EXPECT_EQ(openRecipe().document()["version"], 2);
}

} // namespace
} // namespace fell::recipe_window_test
