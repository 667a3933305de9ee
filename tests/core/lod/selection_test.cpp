// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/lod/selection.h>

#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <set>

namespace fell::selection_test {
namespace {

LodView viewAt(ChunkPos viewer, int distance, double near = 4)
{
    return {viewer, distance, near, kMaxLevel};
}

/// The chunks among `chunks` that hold a place of level 0.
int holders(const std::vector<ShownChunk>& chunks, ChunkPos place)
{
    int count = 0;
    for (const ShownChunk& shown : chunks) {
        const int level = shown.chunk.level;
        count += ChunkPos{place.x >> level, place.y >> level, place.z >> level, level} == shown.chunk;
    }
    return count;
}

std::set<ChunkPos> leavesOf(const LodSelection& selection)
{
    std::set<ChunkPos> leaves;
    for (const auto& [chunk, node] : selection.nodes())
        if (!node.isSplit)
            leaves.insert(chunk);
    return leaves;
}

double distanceTo(ChunkPos chunk, ChunkPos viewer)
{
    double squared = 0;
    const std::array<std::int64_t, 3> at{chunk.x, chunk.y, chunk.z}, from{viewer.x, viewer.y, viewer.z};
    for (std::size_t a = 0; a < 3; ++a) {
        const double low = std::ldexp(static_cast<double>(at[a]), chunk.level),
                     high = std::ldexp(static_cast<double>(at[a] + 1), chunk.level),
                     middle = static_cast<double>(from[a]) + 0.5;
        const double away = std::max({0.0, low - middle, middle - high});
        squared += away * away;
    }
    return std::sqrt(squared);
}

TEST(LodSelection, EveryPlaceWithinTheDistanceHasOneLeaf)
{
    std::mt19937 dice(3);
    for (const ChunkPos viewer : {ChunkPos{0, 0, 0}, {-7, 3, 12}, {1'000'001, -5, -999'999}}) {
        const LodSelection selection = selectLevels(viewAt(viewer, 64), nullptr);
        std::vector<ShownChunk> leaves;
        for (const ChunkPos leaf : leavesOf(selection))
            leaves.push_back({leaf});
        for (int i = 0; i < 400; ++i) {
            const auto away = [&dice] { return static_cast<std::int64_t>(dice() % 129) - 64; };
            const ChunkPos offset{away(), away(), away()};
            const int expected = squaredLength(offset) <= 62 * 62 ? 1 : 0;
            EXPECT_GE(holders(leaves, viewer + offset), expected) << offset.x << " " << offset.y << " " << offset.z;
            EXPECT_LE(holders(leaves, viewer + offset), 1) << offset.x << " " << offset.y << " " << offset.z;
        }
    }
}

TEST(LodSelection, ALevelBeginsWhereTheOneBelowItEnds)
{
    const ChunkPos viewer{5, -2, 9};
    const LodSelection selection = selectLevels(viewAt(viewer, 200), nullptr);
    EXPECT_EQ(selection.coarsest(), 6) << "4 * 2^6 is the first beyond 200";
    for (const auto& [chunk, node] : selection.nodes()) {
        const double near = chunk.level == 0 ? 0 : std::ldexp(4.0, chunk.level - 1);
        EXPECT_EQ(node.isSplit, distanceTo(chunk, viewer) < near);
        EXPECT_LE(
            distanceTo(chunk, viewer), chunk.level == selection.coarsest() ? 200 : std::ldexp(4.0, chunk.level + 1));
    }
    EXPECT_TRUE(selection.contains(viewer)) << "full detail at the camera";
}

TEST(LodSelection, TheErrorOnScreenIsADistance)
{
    LodChoices choices;
    choices.scheme = "error";
    choices.error = 2;
    // Level 1 is wrong by one voxel of level 0; that is 2 pixels where a radian is 640 pixels at 320 voxels: 10 chunks.
    EXPECT_DOUBLE_EQ(firstLevelRadius(choices, 32, 640), 10);
    choices.error = 4;
    EXPECT_DOUBLE_EQ(firstLevelRadius(choices, 32, 640), 5);
    choices.scheme = "rings";
    choices.detail = 7;
    EXPECT_DOUBLE_EQ(firstLevelRadius(choices, 32, 640), 7) << "whatever the picture is like";
}

TEST(LodSelection, WalkingToAndFroChangesNothingAfterTheFirstTime)
{
    const ChunkPos here{0, 0, 0}, there{1, 0, 0};
    LodSelection first = selectLevels(viewAt(here, 64), nullptr);
    LodSelection second = selectLevels(viewAt(there, 64), &first);
    int changes = 0;
    for (int i = 0; i < 6; ++i) {
        LodSelection next = selectLevels(viewAt(i % 2 ? there : here, 64), &second);
        for (const auto& [chunk, node] : next.nodes())
            changes += chunk.level < next.coarsest() && !second.contains(chunk);
        second = std::move(next);
    }
    EXPECT_EQ(changes, 0) << "without slack it would be rebuilt six times";
    // Without the slack it is rebuilt each time.
    int bare = 0;
    LodSelection before = selectLevels(viewAt(here, 64), nullptr);
    for (int i = 0; i < 6; ++i) {
        LodSelection next = selectLevels(viewAt(i % 2 ? here : there, 64), nullptr);
        for (const auto& [chunk, node] : next.nodes())
            bare += chunk.level < next.coarsest() && !before.contains(chunk);
        before = std::move(next);
    }
    EXPECT_GT(bare, 100);
}

TEST(LodSelection, GrowsWithTheLogarithmOfTheDistance)
{
    const auto count
        = [](int distance) { return static_cast<double>(selectLevels(viewAt({}, distance), nullptr).nodes().size()); };
    const double slope = std::log(count(256) / count(16)) / std::log(256.0 / 16.0);
    EXPECT_LT(slope, 0.5);
    EXPECT_LT(count(512), count(256) * 1.35);
}

TEST(LodCover, OfEverythingReadyIsTheLeaves)
{
    const LodSelection selection = selectLevels(viewAt({3, 1, -4}, 100), nullptr);
    const LodCover cover = coverOf(selection, [](ChunkPos) { return true; });
    std::set<ChunkPos> shown;
    for (const ShownChunk& chunk : cover.chunks)
        shown.insert(chunk.chunk);
    EXPECT_EQ(shown, leavesOf(selection));
    EXPECT_EQ(cover.missing, 0u);
    EXPECT_EQ(cover.waiting, 0u);
}

TEST(LodCover, NeverShowsAPlaceTwiceOrLevelsThatDifferByMoreThanOne)
{
    const ChunkPos viewer{2, 0, 2};
    const LodSelection selection = selectLevels(viewAt(viewer, 64), nullptr);
    std::mt19937 dice(11);
    for (int round = 0; round < 20; ++round) {
        // Some are there and some are not, all of the coarsest are.
        std::set<ChunkPos> ready;
        const unsigned percent = 50 + dice() % 50;
        for (const auto& [chunk, node] : selection.nodes())
            if (chunk.level == selection.coarsest() || dice() % 100 < percent)
                ready.insert(chunk);
        const LodCover cover = coverOf(selection, [&](ChunkPos chunk) { return ready.contains(chunk); });
        std::set<ChunkPos> shown;
        for (const ShownChunk& chunk : cover.chunks) {
            EXPECT_TRUE(ready.contains(chunk.chunk));
            shown.insert(chunk.chunk);
        }
        for (int i = 0; i < 100; ++i) {
            const auto away = [&dice] { return static_cast<std::int64_t>(dice() % 61) - 30; };
            EXPECT_EQ(holders(cover.chunks, viewer + ChunkPos{away(), away(), away()}), 1);
        }
        for (const ShownChunk& chunk : cover.chunks)
            for (const Side side : kSides) {
                const ChunkPos neighbour = chunk.chunk + stepOf(side);
                const bool isCoarser = shown.contains(parentOf(neighbour));
                bool isFiner = false;
                for (unsigned c = 0; c < 8 && neighbour.level > 0; ++c)
                    isFiner |= shown.contains(childOf(neighbour, c));
                const bool isSame = shown.contains(neighbour);
                const auto bit = 1u << static_cast<unsigned>(side);
                EXPECT_EQ((chunk.coarser & bit) != 0, isCoarser && parentOf(neighbour) != parentOf(chunk.chunk));
                if (!isSame && !isCoarser && selection.covers(neighbour)) {
                    EXPECT_TRUE((chunk.finer & bit) != 0 && isFiner) << "neither same, coarser nor one finer";
                }
            }
    }
}

TEST(LodCover, AParentStandsInUntilAllEightAreThere)
{
    const LodSelection selection = selectLevels(viewAt({0, 0, 0}, 64), nullptr);
    const ChunkPos late{0, 0, 0}; // the one that is stood in
    const auto all = coverOf(selection, [&](ChunkPos chunk) { return chunk != late; });
    EXPECT_EQ(holders(all.chunks, late), 1);
    EXPECT_GE(all.waiting, 1u);
    const auto nothing = coverOf(selection, [](ChunkPos) { return false; });
    EXPECT_TRUE(nothing.chunks.empty());
    EXPECT_EQ(nothing.missing, selection.byLevel()[static_cast<std::size_t>(selection.coarsest())].size());
}

} // namespace
} // namespace fell::selection_test
