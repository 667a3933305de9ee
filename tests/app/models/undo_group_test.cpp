// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/all_names.h"
#include <fell/app/models/undo_group.h>

#include <gtest/gtest.h>

#include <array>

namespace fell::undo_group_test {
namespace {

/// A document that is a number: each change adds 1.
struct Counted {
    int at = 0, last = 0;
    void change() { last = ++at; }
    UndoDocument document(const char* title)
    {
        return {QString::fromLatin1(title), [this] { return at > 0; }, [this] { return at < last; }, [this] { --at; },
            [this] { ++at; }};
    }
};

class UndoGroupTest : public testing::Test {
protected:
    UndoGroupTest()
    {
        group.add("world", world.document("world"));
        group.add("setup", setup.document("setup"));
        QObject::connect(&group, &UndoGroup::changed, [this] { ++told; });
    }
    Counted world, setup;
    UndoGroup group;
    int told = 0;
};

TEST_F(UndoGroupTest, UndoesTheActiveDocumentAlone)
{
    world.change();
    setup.change();
    group.setActive({"setup"});
    ASSERT_NE(group.undoable(), nullptr);
    EXPECT_EQ(group.undoable()->title, "setup");
    group.undo();
    EXPECT_EQ(setup.at, 0);
    EXPECT_EQ(world.at, 1);
    EXPECT_EQ(group.undoable(), nullptr) << "the world is not worked on now";
    group.undo();
    EXPECT_EQ(world.at, 1);
    group.redo();
    EXPECT_EQ(setup.at, 1);
    EXPECT_EQ(group.redoable(), nullptr);
}

TEST_F(UndoGroupTest, TheNextDocumentComesWhereTheFirstHasNothing)
{
    setup.change();
    world.change();
    group.setActive({"world", "setup"});
    group.undo();
    EXPECT_EQ(world.at, 0);
    EXPECT_EQ(group.undoable()->title, "setup");
    group.undo();
    EXPECT_EQ(setup.at, 0);
    EXPECT_EQ(group.undoable(), nullptr);
    EXPECT_EQ(group.redoable()->title, "world");
}

TEST_F(UndoGroupTest, SaysWhereSomethingIsOther)
{
    group.setActive({"setup"});
    EXPECT_EQ(told, 1);
    group.setActive({"setup"});
    EXPECT_EQ(told, 1);
    group.undo();
    EXPECT_EQ(told, 1) << "there was nothing to undo";
    setup.change();
    group.note();
    group.undo();
    EXPECT_EQ(told, 3);
}

} // namespace
} // namespace fell::undo_group_test
