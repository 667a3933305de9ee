// SPDX-License-Identifier: Apache-2.0
// What tools change, counted by hand and by closed forms; undo as a twin of doing.
#include <fell/edit/history.h>
#include <fell/edit/tools.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <cmath>
#include <gtest/gtest.h>
#include <map>
#include <set>

namespace fell::tools_test {
namespace {

constexpr Material kSlate = 1, kTurf = 2;

/// Slate with turf on top; the ground's highest voxel is at y 9.
struct Ground {
    std::map<VoxelPos, Material> changed;
    BlockSet set = test::testBlocks();
    SideRules rules = sideRulesOf(set);
    std::function<std::int64_t(std::int64_t, std::int64_t)> height = [](std::int64_t, std::int64_t) { return 9; };

    [[nodiscard]] Material at(VoxelPos at) const
    {
        const auto found = changed.find(at);
        if (found != changed.end())
            return found->second;
        const std::int64_t top = height(at.x, at.z);
        return at.y > top ? kOpen : at.y == top ? kTurf : kSlate;
    }
    [[nodiscard]] ReadVoxel read() const
    {
        return [this](VoxelPos v) -> std::optional<Material> {
            return std::abs(v.x) > 100 ? std::nullopt : std::optional(at(v));
        };
    }
    std::vector<VoxelChange> use(const ToolUse& how)
    {
        auto changes = changesOf(how, read(), rules);
        std::set<VoxelPos> once;
        for (const VoxelChange& one : changes) {
            EXPECT_TRUE(once.insert(one.at).second) << "a voxel is changed once";
            EXPECT_EQ(one.before, at(one.at));
            EXPECT_NE(one.before, one.after);
        }
        apply(changes);
        return changes;
    }
    void apply(std::span<const VoxelChange> changes)
    {
        for (const VoxelChange& one : changes)
            changed[one.at] = one.after;
    }
    [[nodiscard]] std::int64_t top(std::int64_t x, std::int64_t z) const
    {
        std::int64_t y = 60;
        while (at({x, y, z}) == kOpen)
            --y;
        return y;
    }
};

TEST(Tools, ABallHasTheVoxelsWhoseMiddleLiesWithin)
{
    Ground ground;
    std::size_t count = 0;
    for (int y = -6; y <= 6; ++y)
        for (int z = -6; z <= 6; ++z)
            for (int x = -6; x <= 6; ++x)
                count += std::sqrt(x * x + y * y + z * z) <= 5.5;
    EXPECT_EQ(ground.use({.kind = ToolKind::Ball, .at = {0, -40, 0}, .radius = 5}).size(), count);
    EXPECT_EQ(ground.use({.kind = ToolKind::Ball, .at = {0, -40, 0}, .radius = 5}).size(), 0u) << "it is open already";
}

TEST(Tools, ABoxHasBothCornersWhicheverComesFirst)
{
    Ground ground;
    const auto there = ground.use({.kind = ToolKind::Box, .at = {3, 2, 1}, .to = {1, 4, 1}});
    EXPECT_EQ(there.size(), 9u);
    EXPECT_EQ(ground.use({.kind = ToolKind::Box, .at = {1, 4, 1}, .to = {3, 2, 1}, .material = kSlate}).size(), 9u);
    EXPECT_EQ(ground.use({.kind = ToolKind::Box, .at = {0, -5, 0}, .to = {10000, -5, 0}}).size(),
        static_cast<std::size_t>(kLargestBox))
        << "no larger than this";
}

TEST(Tools, PlaceOnlyFillsWhatIsOpenAndRemoveOnlyWhatIsNot)
{
    Ground ground;
    EXPECT_EQ(ground.use({.kind = ToolKind::Place, .at = {0, 10, 0}, .material = kSlate}).size(), 1u);
    EXPECT_EQ(ground.use({.kind = ToolKind::Place, .at = {0, 10, 0}, .material = kTurf}).size(), 0u);
    EXPECT_EQ(ground.use({.kind = ToolKind::Remove, .at = {0, 10, 0}}).size(), 1u);
    EXPECT_EQ(ground.use({.kind = ToolKind::Remove, .at = {0, 10, 0}}).size(), 0u);
    EXPECT_EQ(ground.use({.kind = ToolKind::Remove, .at = {500, 0, 0}}).size(), 0u) << "unknown voxels";
}

TEST(Tools, RaisingMakesAHillThatFallsOffEvenlyAndKeepsItsTurf)
{
    Ground ground;
    ground.use({.kind = ToolKind::Raise, .at = {0, 9, 0}, .radius = 9});
    EXPECT_EQ(ground.top(0, 0), 9 + 3) << "a third of the radius";
    EXPECT_EQ(ground.at({0, 12, 0}), kTurf);
    for (std::int64_t x = 0; x < 12; ++x) {
        EXPECT_LE(ground.top(x + 1, 0), ground.top(x, 0));
        EXPECT_EQ(ground.top(x, 0), ground.top(-x, 0));
        EXPECT_EQ(ground.top(x, 0), ground.top(0, x));
    }
    EXPECT_EQ(ground.top(10, 0), 9);
}

TEST(Tools, LoweringDigsTheSameHollow)
{
    Ground ground;
    ground.use({.kind = ToolKind::Lower, .at = {0, 9, 0}, .radius = 9});
    EXPECT_EQ(ground.top(0, 0), 9 - 3);
    EXPECT_EQ(ground.at({0, 6, 0}), kTurf) << "turf stays on top";
    EXPECT_EQ(ground.top(10, 0), 9);
}

TEST(Tools, SmoothingTakesAStepDown)
{
    Ground ground;
    ground.height = [](std::int64_t x, std::int64_t) { return x < 0 ? 9 : 15; };
    const auto steepest = [&] {
        std::int64_t max = 0;
        for (std::int64_t x = -3; x < 3; ++x)
            max = std::max(max, std::abs(ground.top(x + 1, 0) - ground.top(x, 0)));
        return max;
    };
    EXPECT_EQ(steepest(), 6);
    ground.use({.kind = ToolKind::Smooth, .at = {0, 12, 0}, .radius = 5});
    EXPECT_EQ(steepest(), 2) << "columns next to the step become 11 and 13: means of 9, 9, 15 and of 9, 15, 15";
    EXPECT_EQ(ground.top(-1, 0), 11);
    EXPECT_EQ(ground.top(0, 0), 13);
}

TEST(Tools, PaintOnlyTouchesWhatShowsASide)
{
    Ground ground;
    const auto painted = ground.use({.kind = ToolKind::Paint, .at = {0, 9, 0}, .radius = 3, .material = kSlate});
    std::size_t disc = 0;
    for (int z = -3; z <= 3; ++z)
        for (int x = -3; x <= 3; ++x)
            disc += std::hypot(x, z) <= 3.5;
    EXPECT_EQ(painted.size(), disc) << "only the top of the ground shows a side";
    for (const VoxelChange& one : painted)
        EXPECT_EQ(one.at.y, 9);
}

TEST(Tools, ABlastIsRaggedBetweenTwoThirdsAndFourThirdsAndGoesByItsSeed)
{
    const auto blast = [](std::uint64_t seed) {
        Ground ground;
        return ground.use({.kind = ToolKind::Blast, .at = {0, -50, 0}, .radius = 9, .seed = seed});
    };
    const auto one = blast(1);
    EXPECT_EQ(one, blast(1));
    EXPECT_NE(one, blast(2));
    std::set<VoxelPos> gone;
    for (const VoxelChange& change : one) {
        const double away = std::hypot(change.at.x, change.at.y + 50, change.at.z);
        EXPECT_LE(away, 12.5);
        EXPECT_EQ(change.after, kOpen);
        gone.insert(change.at);
    }
    for (int y = -6; y <= 6; ++y)
        for (int z = -6; z <= 6; ++z)
            for (int x = -6; x <= 6; ++x)
                if (std::sqrt(x * x + y * y + z * z) <= 6.5) {
                    EXPECT_TRUE(gone.contains({x, y - 50, z}));
                }
    const auto pieces = debrisOf(one, {0, -50, 0}, 1, 40);
    EXPECT_EQ(pieces.size(), 40u);
    for (const DebrisPiece& piece : pieces)
        EXPECT_GT(piece.velocity[1], 0) << "thrown up";
}

TEST(EditHistory, UndoTakesBackInTheOppositeOrderAndRedoDoesItAgain)
{
    Ground ground;
    EditHistory history;
    std::vector<std::map<VoxelPos, Material>> states{ground.changed};
    const auto settle = [&] { // what is like the untouched ground says nothing
        std::map<VoxelPos, Material> out;
        for (const auto& [at, material] : ground.changed) {
            Ground fresh;
            if (fresh.at(at) != material)
                out[at] = material;
        }
        return out;
    };
    for (const ToolUse& use : {ToolUse{.kind = ToolKind::Raise, .at = {0, 9, 0}, .radius = 6},
             ToolUse{.kind = ToolKind::Ball, .at = {2, 8, 1}, .radius = 4},
             ToolUse{.kind = ToolKind::Box, .at = {0, 5, 0}, .to = {6, 12, 3}, .material = kSlate}}) {
        history.add({"use", ground.use(use)});
        states.push_back(settle());
    }
    for (std::size_t i = 3; i > 0; --i) {
        EXPECT_EQ(settle(), states[i]);
        ground.apply(inverse(history.undo()->changes));
    }
    EXPECT_EQ(settle(), states[0]);
    EXPECT_EQ(history.undo(), nullptr);
    for (std::size_t i = 1; i <= 3; ++i) {
        ground.apply(history.redo()->changes);
        EXPECT_EQ(settle(), states[i]);
    }
    EXPECT_EQ(history.redo(), nullptr);
    history.undo();
    history.add({"another", {{{0, 0, 0}, 1, 0}}});
    EXPECT_EQ(history.redo(), nullptr) << "what could be redone is gone";
    EXPECT_EQ(history.nextUndo()->title, "another");
}

TEST(EditHistory, ForgetsTheOldestPastItsBytes)
{
    EditHistory history(10 * 1000 * sizeof(VoxelChange));
    for (int i = 0; i < 50; ++i)
        history.add({std::to_string(i), std::vector<VoxelChange>(1000, {{i, 0, 0}, 1, 0})});
    EXPECT_LE(history.bytes(), 10 * 1000 * sizeof(VoxelChange));
    EXPECT_GE(history.size(), 8u);
    EXPECT_EQ(history.nextUndo()->title, "49");
}

} // namespace
} // namespace fell::tools_test
