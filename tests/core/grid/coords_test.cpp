// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/grid/coords.h>

#include <gtest/gtest.h>

#include <random>
#include <unordered_set>

namespace fell::coords_test {
namespace {

TEST(Coords, ChunkOfRoundsDownBelowZero)
{
    EXPECT_EQ(chunkOf({0, 31, 32}, 32), (ChunkPos{0, 0, 1}));
    EXPECT_EQ(chunkOf({-1, -32, -33}, 32), (ChunkPos{-1, -1, -2}));
}

TEST(Coords, EveryVoxelLiesInTheChunkThatIsSaidToHoldIt)
{
    std::mt19937_64 dice(1);
    for (int i = 0; i < 3000; ++i) {
        const auto far = [&dice] { return static_cast<std::int64_t>(dice()) >> (dice() % 60 + 3); };
        const VoxelPos voxel{far(), far(), far()};
        for (const int edge : kChunkEdges) {
            const VoxelPos low = originOf(chunkOf(voxel, edge), edge);
            const VoxelPos in = voxel - low;
            EXPECT_TRUE(in.x >= 0 && in.y >= 0 && in.z >= 0 && in.x < edge && in.y < edge && in.z < edge);
        }
    }
}

TEST(Coords, OppositeSidesCancel)
{
    for (const Side side : kSides) {
        EXPECT_EQ(opposite(opposite(side)), side);
        EXPECT_EQ(stepOf(side) + stepOf(opposite(side)), (ChunkPos{0, 0, 0}));
        EXPECT_EQ(squaredLength(stepOf(side)), 1);
    }
    EXPECT_EQ(stepOf(Side::Up), (ChunkPos{0, 1, 0}));
    EXPECT_EQ(stepOf(Side::North), (ChunkPos{0, 0, -1}));
}

TEST(Coords, OnlyThreeEdgesAreChunkEdges)
{
    int count = 0;
    for (int edge = -1; edge <= 128; ++edge)
        count += isChunkEdge(edge);
    EXPECT_EQ(count, 3);
    EXPECT_TRUE(isChunkEdge(16) && isChunkEdge(32) && isChunkEdge(64));
}

TEST(Coords, NeighbouringChunksDoNotShareHashes)
{
    // 41^3 positions in 64 bits: by the birthday bound a good hash collides with a chance of 10^-10.
    std::unordered_set<std::uint64_t> seen;
    for (std::int64_t x = -20; x <= 20; ++x)
        for (std::int64_t y = -20; y <= 20; ++y)
            for (std::int64_t z = -20; z <= 20; ++z)
                seen.insert(hashOf({x, y, z}));
    EXPECT_EQ(seen.size(), 41u * 41u * 41u);
}

TEST(Mix64, ChangesHalfOfTheBitsForOneBitOfInput)
{
    std::mt19937_64 dice(2);
    double changed = 0;
    constexpr int kTrials = 4000;
    for (int i = 0; i < kTrials; ++i) {
        const std::uint64_t value = dice();
        changed += __builtin_popcountll(mix64(value) ^ mix64(value ^ (1ull << (dice() % 64))));
    }
    EXPECT_NEAR(changed / kTrials, 32, 0.4); // five standard deviations of the mean: 5 * 4 / sqrt(4000)
}

} // namespace
} // namespace fell::coords_test
