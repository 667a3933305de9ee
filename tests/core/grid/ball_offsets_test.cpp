// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/grid/ball_offsets.h>

#include <gtest/gtest.h>

#include <algorithm>
#include <set>

namespace fell::reach_test {
namespace {

TEST(BallOffsets, HoldsAsManyAsGaussCounted)
{
    // Points of the integer lattice within a sphere of radius r: 1, 7, 33, 123, 257, 515 (OEIS A000605).
    const std::size_t counts[]{1, 7, 33, 123, 257, 515};
    for (int radius = 0; radius <= 5; ++radius)
        EXPECT_EQ(ballOffsets(radius).size(), counts[radius]) << radius;
}

TEST(BallOffsets, BeginsHereAndNeverComesCloser)
{
    const auto offsets = ballOffsets(9);
    EXPECT_EQ(offsets.front(), (ChunkPos{0, 0, 0}));
    for (std::size_t i = 1; i < offsets.size(); ++i)
        EXPECT_LE(squaredLength(offsets[i - 1]), squaredLength(offsets[i]));
    EXPECT_LE(squaredLength(offsets.back()), 81);
}

TEST(BallOffsets, HasEveryOffsetOnceAndAgreesWithWithinBall)
{
    const auto offsets = ballOffsets(6);
    const std::set<ChunkPos> set(offsets.begin(), offsets.end());
    EXPECT_EQ(set.size(), offsets.size());
    for (std::int64_t x = -8; x <= 8; ++x)
        for (std::int64_t y = -8; y <= 8; ++y)
            for (std::int64_t z = -8; z <= 8; ++z)
                EXPECT_EQ(set.contains({x, y, z}), withinBall({x, y, z}, 6));
}

TEST(WithNeighbours, AddsExactlyTheTwentySixRoundEachOffset)
{
    EXPECT_EQ(withNeighbours({{0, 0, 0}}).size(), 27u);
    const auto ball = ballOffsets(3);
    std::set<ChunkPos> slow;
    for (const ChunkPos offset : ball)
        for (int x = -1; x <= 1; ++x)
            for (int y = -1; y <= 1; ++y)
                for (int z = -1; z <= 1; ++z)
                    slow.insert(offset + ChunkPos{x, y, z});
    const auto fast = withNeighbours(ball);
    EXPECT_EQ(std::set<ChunkPos>(fast.begin(), fast.end()), slow);
    EXPECT_EQ(fast.size(), slow.size());
}

} // namespace
} // namespace fell::reach_test
