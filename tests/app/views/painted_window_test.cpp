// SPDX-License-Identifier: GPL-3.0-or-later
// What needs no pointer and no eyes: each control has a name and can be reached by Tab, painted views have keys and
// text.
#include "window_fixture.h"

#include <fell/app/views/arena_canvas.h>
#include <fell/app/views/heat_map.h>
#include <fell/app/views/map_canvas.h>
#include <fell/app/views/plan_canvas.h>

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QAbstractSlider>
#include <QAbstractSpinBox>
#include <QAccessible>
#include <QScrollBar>
#include <QStackedWidget>

namespace fell::painted_window_test {
namespace {

constexpr const char* kPages[]{"view.field", "view.transect", "plan", "view.recipe", "view.blocks"};

class PaintedWindowTest : public WindowTest {
protected:
    /// Keys as they reach a view that has the focus.
    QString told(QWidget* view, Qt::Key key, Qt::KeyboardModifiers with = {})
    {
        QTest::keyClick(view, key, with);
        return view->accessibleDescription();
    }
};

bool isControl(const QWidget* widget)
{
    if (qobject_cast<const QScrollBar*>(widget))
        return false; // lists scroll by their own keys
    return qobject_cast<const QAbstractButton*>(widget) || qobject_cast<const QComboBox*>(widget)
        || qobject_cast<const QAbstractSpinBox*>(widget) || qobject_cast<const QAbstractSlider*>(widget)
        || qobject_cast<const QAbstractItemView*>(widget) || qobject_cast<const QLineEdit*>(widget);
}

/// The editor within a spin box or a drop-down list, the corner of a table.
bool isPartOfAnother(const QWidget* widget)
{
    for (const QWidget* above = widget->parentWidget(); above; above = above->parentWidget())
        if (qobject_cast<const QComboBox*>(above) || qobject_cast<const QAbstractSpinBox*>(above)
            || qobject_cast<const QAbstractItemView*>(above) || qobject_cast<const QTabBar*>(above))
            return true;
    return false;
}

TEST_F(PaintedWindowTest, EveryControlHasANameAndIsReachedByTab)
{
    for (const char* page : kPages) {
        trigger(QLatin1String(page));
        QTest::qWait(300);
        for (const QWidget* widget : m_window->findChildren<QWidget*>()) {
            if (!widget->isVisible() || !isControl(widget) || isPartOfAnother(widget))
                continue;
            const QString what
                = QStringLiteral("%1: %2 %3")
                      .arg(QLatin1String(page), QLatin1String(widget->metaObject()->className()), widget->objectName());
            QAccessibleInterface* seen = QAccessible::queryAccessibleInterface(const_cast<QWidget*>(widget));
            ASSERT_NE(seen, nullptr) << what.toStdString();
            EXPECT_FALSE(seen->text(QAccessible::Name).trimmed().isEmpty()) << what.toStdString() << " has no name";
            EXPECT_TRUE(widget->focusPolicy() & Qt::TabFocus) << what.toStdString() << " is not reached by Tab";
        }
    }
}

TEST_F(PaintedWindowTest, TheStageRailTellsItsStageAndLeadsToB)
{
    StageRail& rail = m_window->rail();
    m_window->bench().openStage(QStringLiteral("mesh"));
    rail.select(QStringLiteral("mesh"), false);
    EXPECT_TRUE(rail.accessibleDescription().startsWith("Mesh, greedy, bits: "))
        << rail.accessibleDescription().toStdString();
    EXPECT_TRUE(told(&rail, Qt::Key_Right).startsWith("Upload")) << rail.accessibleDescription().toStdString();
    const QString alone = rail.accessibleDescription();
    (void)told(&rail, Qt::Key_Down);
    EXPECT_FALSE(m_window->session().editsB()) << "there is no B";
    trigger("setup.b-copy");
    ASSERT_TRUE(becomes([&] { return rail.plates().second; }));
    (void)told(&rail, Qt::Key_Down);
    EXPECT_TRUE(m_window->session().editsB());
    (void)told(&rail, Qt::Key_Up);
    EXPECT_FALSE(m_window->session().editsB());
}

TEST_F(PaintedWindowTest, TheFrameStripIsReadWithArrows)
{
    auto* strip = m_window->findChild<FrameStrip*>();
    ASSERT_NE(strip, nullptr);
    EXPECT_TRUE(strip->focusPolicy() & Qt::TabFocus);
    for (int i = 0; i < 4; ++i) { // frames, by changing the surface
        const auto frames = [&] { return strip->accessibleDescription().section(' ', 0, 0).toInt(); };
        const int drawn = frames();
        trigger(i % 2 == 0 ? "surface=1" : "surface=0");
        ASSERT_TRUE(becomes([&] { return frames() > drawn; }));
    }
    ASSERT_TRUE(becomes([&] { return strip->accessibleDescription().section(' ', 0, 0).toInt() >= 4; }));
    const QString newest = told(strip, Qt::Key_End), before = told(strip, Qt::Key_Left);
    EXPECT_TRUE(newest.startsWith("Frame ")) << newest.toStdString();
    EXPECT_NE(before, newest) << "the frame before it";
    EXPECT_EQ(told(strip, Qt::Key_Right), newest);
    QTest::qWait(600);
    EXPECT_EQ(strip->accessibleDescription(), newest) << "the frames stand while they are read";
    (void)told(strip, Qt::Key_Escape);
    EXPECT_TRUE(becomes([&] { return strip->accessibleDescription().contains("median"); }));
}

TEST_F(PaintedWindowTest, TheMapOfChunksIsProbedWithArrows)
{
    trigger("plan");
    auto* above = child<PlanCanvas>("planAbove");
    ASSERT_TRUE(becomes([&] { return above->accessibleDescription().contains("meshed"); }))
        << above->accessibleDescription().toStdString();
    QApplication::setActiveWindow(m_window.get()); // what a window manager does
    above->setFocus();
    QTest::keyClick(above, Qt::Key_Down); // from the chunk under the pointer to a chosen one
    QTest::qWait(500);
    auto* title = child<QLabel>("storyTitle");
    const QString first = title->text();
    (void)told(above, Qt::Key_Right);
    EXPECT_TRUE(becomes([&] { return title->text() != first; })) << "the chunk to the east is probed";
    const QString east = title->text();
    (void)told(above, Qt::Key_Left);
    EXPECT_TRUE(becomes([&] { return title->text() == first; })) << title->text().toStdString();
    EXPECT_NE(east, first);
    const VoxelPos from = m_window->session().eye.cell;
    (void)told(above, Qt::Key_Right, Qt::ControlModifier);
    EXPECT_EQ(m_window->session().eye.cell.x, from.x + 32) << "a chunk to the east";
    auto* arena = m_window->findChild<ArenaCanvas*>();
    ASSERT_TRUE(becomes([&] { return arena->accessibleDescription().contains("pages"); }));
    QTest::keyClick(arena, Qt::Key_Right);
    EXPECT_TRUE(becomes([&] { return arena->accessibleDescription().contains("the chosen chunk has pages"); }))
        << arena->accessibleDescription().toStdString();
}

TEST_F(PaintedWindowTest, TheMapOfARecipeMovesWithArrows)
{
    trigger("view.recipe");
    auto* map = child<MapCanvas>("recipeMap");
    ASSERT_TRUE(becomes([&] { return map->accessibleDescription().contains("west to east"); }));
    const QString first = map->accessibleDescription();
    const QString east = told(map, Qt::Key_Right);
    EXPECT_NE(east, first);
    EXPECT_EQ(told(map, Qt::Key_Left), first);
    const double across = map->across();
    (void)told(map, Qt::Key_Plus);
    EXPECT_NEAR(map->across(), across * 0.8, 1e-9);
    const QPointF end = map->line()[1], start = map->line()[0];
    (void)told(map, Qt::Key_Up, Qt::ShiftModifier);
    EXPECT_LT(map->line()[1].y(), end.y());
    EXPECT_EQ(map->line()[0], start);
    (void)told(map, Qt::Key_Up, Qt::ControlModifier);
    EXPECT_LT(map->line()[0].y(), start.y());
    auto* section = child<SectionCanvas>("recipeSection");
    EXPECT_TRUE(becomes([&] { return told(section, Qt::Key_Down).contains("m high"); }));
}

/// Two values by two: 1, 2 over 10, 20, with a cost of their product.
TransectResult square()
{
    TransectResult out;
    out.vary = "stream.distance";
    out.second = "chunk.edge";
    out.a.name = "near";
    for (const int second : {10, 20})
        for (const int value : {1, 2}) {
            TransectRow row;
            row.side = 'A';
            row.setup = "near";
            row.value = value;
            row.second = second;
            row.frameMs.count = 3;
            row.frameMs.p50 = value * second;
            out.rows.push_back(row);
        }
    return out;
}

TEST(HeatMap, IsReadWithArrows)
{
    HeatMap map;
    map.resize(500, 300);
    map.show(square(), true);
    EXPECT_TRUE(map.focusPolicy() & Qt::TabFocus);
    const auto told = [&map](Qt::Key key) {
        QTest::keyClick(&map, key);
        return map.accessibleDescription().section('\n', 1, 1).toStdString();
    };
    EXPECT_EQ(told(Qt::Key_Right).rfind("p50 10", 0), 0u) << "the first";
    EXPECT_EQ(told(Qt::Key_Right).rfind("p50 20", 0), 0u);
    EXPECT_EQ(told(Qt::Key_Down).rfind("p50 40", 0), 0u);
    EXPECT_EQ(told(Qt::Key_Right).rfind("p50 40", 0), 0u) << "there is none to the right";
    EXPECT_EQ(told(Qt::Key_Left).rfind("p50 20", 0), 0u) << "1 at 20";
    EXPECT_EQ(told(Qt::Key_Up).rfind("p50 10", 0), 0u);
}

} // namespace
} // namespace fell::painted_window_test
