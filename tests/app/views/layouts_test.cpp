// SPDX-License-Identifier: GPL-3.0-or-later
// The window itself: actions, questions, worlds, themes, and how its small parts are laid out. The real window: real
// mouse and key events, then what the user would see.
#include "window_fixture.h"

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <climits>
#include <gtest/gtest.h>

namespace fell::layouts_test {
namespace {

TEST(OctreeSquares, AColumnIsEmptyOnlyIfAllOfItIs)
{
    using Kind = OctreeCell::Kind;
    const std::vector<OctreeCell> cells{{Kind::Node, {0, 0, 0}, 2}, {Kind::Leaf, {0, 0, 0}, 1},
        {Kind::Empty, {0, 1, 0}, 1}, {Kind::Empty, {1, 0, 0}, 1}, {Kind::Empty, {1, 1, 0}, 1},
        {Kind::Leaf, {1, 1, 1}, 1}};
    const auto above = octreeSquares(cells, {0, 0, 0}, true);
    const auto has = [](const std::vector<OctreeSquare>& all, const OctreeSquare& one) {
        return std::find(all.begin(), all.end(), one) != all.end();
    };
    EXPECT_EQ(above.size(), 4u);
    EXPECT_TRUE(has(above, {0, 0, 2, false}));
    EXPECT_TRUE(has(above, {0, 0, 1, false})) << "the empty place lies over a leaf";
    EXPECT_TRUE(has(above, {1, 0, 1, true}));
    EXPECT_TRUE(has(above, {1, 1, 1, false}));
    const auto side = octreeSquares(cells, {0, 0, 0}, false); // the cut at z = 0; up is less down
    EXPECT_TRUE(has(side, {0, -1, 2, false})) << "its top row";
    EXPECT_TRUE(has(side, {0, -1, 1, true}));
    EXPECT_FALSE(has(side, {1, -1, 1, false})) << "that leaf lies south of the cut";
}

TEST(RailLayout, PlatesFillTheWidthInOrderAndAreFoundAgain)
{
    const RailLayout layout{1280, 92, 5};
    for (int i = 0; i < 5; ++i) {
        EXPECT_EQ(layout.plateAt(layout.plate(i).center()), i);
        if (i > 0) {
            EXPECT_EQ(layout.plate(i).left() - layout.plate(i - 1).right() - 1, RailLayout::kGap);
        }
    }
    EXPECT_EQ(layout.plate(0).left(), RailLayout::kMargin);
    EXPECT_EQ(layout.plate(4).right() + 1, 1280 - RailLayout::kMargin);
    EXPECT_EQ(layout.plateAt({0, 0}), -1);
}

TEST(StripLayout, TheNewestFrameEndsAtTheRightEdge)
{
    const StripLayout layout{QRect(100, 10, 480, 80), 10, 20};
    EXPECT_EQ(layout.barWidth(), 2);
    EXPECT_EQ(layout.left(9), 578);
    EXPECT_EQ(layout.frameAt(579), 9);
    EXPECT_EQ(layout.frameAt(561), 0);
    EXPECT_EQ(layout.frameAt(558), -1);
    EXPECT_EQ(layout.y(20), 10);
    EXPECT_EQ(layout.y(0), 90);
}

/// Contrast of two sRGB colours, 1 to 21.
/// Source  Web Content Accessibility Guidelines 2.1, 2018, "contrast ratio" and "relative luminance".
double contrast(const QColor& a, const QColor& b)
{
    const auto luminance = [](const QColor& of) {
        const auto linear = [](double c) { return c <= 0.03928 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4); };
        return 0.2126 * linear(of.redF()) + 0.7152 * linear(of.greenF()) + 0.0722 * linear(of.blueF());
    };
    const double la = luminance(a), lb = luminance(b);
    return (std::max(la, lb) + 0.05) / (std::min(la, lb) + 0.05);
}

TEST(Theme, TheInterfaceGrowsWithTheTextOfTheDesktop)
{
    EXPECT_EQ(textScale(9.75), 1); // 13 pixels
    EXPECT_EQ(textScale(9), 1); // near enough
    EXPECT_NEAR(textScale(12), 16.0 / 13, 1e-9);
    EXPECT_NEAR(textScale(19.5), 2, 1e-9);
    EXPECT_EQ(textScale(200), 2.5);
    EXPECT_EQ(textScale(1), 0.75);
}

TEST(Theme, TextHasAContrastOf4AndAHalfAndSignsOf3)
{
    EXPECT_NEAR(contrast(Qt::black, Qt::white), 21, 1e-6);
    EXPECT_NEAR(contrast("#777777", "#FFFFFF"), 4.48, 0.01);
    for (const Theme& theme : {limewash(), slate()}) {
        const std::pair<QColor, QColor> texts[]{{theme.ink, theme.window}, {theme.ink, theme.panel},
            {theme.ink, theme.line}, {theme.ink, theme.track}, {theme.muted, theme.window}, {theme.muted, theme.panel},
            {theme.muted, theme.track}, {theme.over, theme.window}, {theme.over, theme.panel},
            {theme.setupA, theme.window}, {theme.setupA, theme.panel}, {theme.onColour, theme.selection},
            {theme.onColour, theme.over}, {theme.onColour, theme.setupA}, {theme.onB, theme.setupB},
            {theme.panel, theme.ink}};
        for (const auto& [text, under] : texts)
            EXPECT_GE(contrast(text, under), 4.5) << theme.name.toStdString() << ": " << text.name().toStdString()
                                                  << " on " << under.name().toStdString();
        for (const QColor& sign : {theme.setupB, theme.selection, theme.setupA, theme.over})
            for (const QColor& under : {theme.window, theme.panel})
                EXPECT_GE(contrast(sign, under), 3) << theme.name.toStdString() << ": " << sign.name().toStdString();
    }
}

TEST(FittedTo, KeepsTheFrameOnTheScreen)
{
    const QRect free(0, 30, 1280, 770); // below a panel
    const QMargins frame(1, 20, 1, 5);
    const QRect tooTall = fittedTo(free, {0, 20, 1280, 800}, frame);
    EXPECT_TRUE(free.contains(tooTall.marginsAdded(frame)));
    EXPECT_EQ(tooTall.height(), 770 - 25);
    const QRect fits(100, 100, 600, 400);
    EXPECT_EQ(fittedTo(free, fits, frame), fits);
    EXPECT_EQ(fittedTo(free, {1000, 700, 600, 400}, frame), QRect(679, 395, 600, 400)) << "moved, not shrunk";
}

TEST(FieldView, SaysWhatToInstallWhereThereIsNoOpenGl45)
{
    if (qgetenv("MESA_GL_VERSION_OVERRIDE") != "3.3")
        GTEST_SKIP() << "run with MESA_GL_VERSION_OVERRIDE=3.3, as CTest does";
    {
        MainWindow window(makeTerrain(findWorld("level", demoFolder()).take()), test::unlitSetup());
        window.show();
        ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
        ASSERT_TRUE(QTest::qWaitFor([&] { return window.field().window() == nullptr; }, kPatienceMs));
        const auto* message = window.findChild<QLabel*>("fieldMessage");
        ASSERT_NE(message, nullptr);
        EXPECT_TRUE(message->isVisible());
        EXPECT_TRUE(message->text().contains("libgl1-mesa-dri"));
        EXPECT_TRUE(message->text().contains("4.5"));
        // What needs no picture works.
        TransectSentence sentence;
        sentence.values = "1";
        sentence.rounds = 1;
        sentence.frames = 1;
        window.showTransect();
        window.transect().setSentence(sentence);
        window.transect().walk();
        EXPECT_TRUE(QTest::qWaitFor([&] { return !window.runner().isRunning(); }, kPatienceMs));
        ASSERT_EQ(window.runner().result().rows.size(), 1u);
        EXPECT_GT(window.runner().result().rows[0].meshNs.p50, 0);
        EXPECT_EQ(window.runner().result().rows[0].frameMs.count, 0u);
        EXPECT_TRUE(window.banner().text().contains("frames were not drawn"));
    }
    qunsetenv("MESA_GL_VERSION_OVERRIDE");
}

} // namespace
} // namespace fell::layouts_test
