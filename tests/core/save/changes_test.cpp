// SPDX-License-Identifier: Apache-2.0
// What was changed, against a plain map from voxel to material.
#include "support/all_names.h"
#include <fell/save/changes.h>

#include <gtest/gtest.h>
#include <map>
#include <random>

namespace fell::changes_test {
namespace {

using Plain = std::map<VoxelPos, Material>;

std::vector<VoxelChange> randomChanges(std::mt19937_64& dice, int count, std::int64_t reach)
{
    const auto roll = [&] { return static_cast<std::int64_t>(dice() % static_cast<unsigned>(2 * reach)) - reach; };
    std::vector<VoxelChange> out;
    for (int i = 0; i < count; ++i)
        out.push_back({{roll(), roll(), roll()}, 0, static_cast<Material>(dice() % 5)});
    return out;
}

std::vector<Material> expected(const Plain& plain, ChunkPos chunk, int edge)
{
    std::vector<Material> out(static_cast<std::size_t>(edge) * edge * edge, 99);
    const VoxelPos low = originOf(chunk, edge);
    for (const auto& [at, material] : plain)
        if (const VoxelPos in = at - low;
            in.x >= 0 && in.y >= 0 && in.z >= 0 && in.x < edge && in.y < edge && in.z < edge)
            out[static_cast<std::size_t>((in.y * edge + in.z) * edge + in.x)] = material;
    return out;
}

TEST(WorldChanges, ACopyGoesItsOwnWay)
{
    WorldChanges first;
    first.set(std::vector<VoxelChange>{{{1, 2, 3}, kOpen, 5}, {{100, 200, 300}, kOpen, 6}});
    const auto copy = first.copy();
    EXPECT_EQ(copy->voxels(), 2u);
    EXPECT_EQ(copy->at({1, 2, 3}), 5);
    EXPECT_EQ(copy->top(100 / 16, 300 / 16, 16, 0), first.top(100 / 16, 300 / 16, 16, 0));
    EXPECT_TRUE(copy->takeUnsaved().empty()) << "a copy has nothing to save";
    EXPECT_EQ(first.unsaved(), 2u);
    copy->set(std::vector<VoxelChange>{{{1, 2, 3}, 5, kOpen}, {{-7, 0, 0}, kOpen, 2}});
    EXPECT_EQ(first.at({1, 2, 3}), 5) << "what one changes the other does not see";
    EXPECT_EQ(first.at({-7, 0, 0}), std::nullopt);
    EXPECT_EQ(copy->at({1, 2, 3}), kOpen);
    first.set(std::vector<VoxelChange>{{{100, 200, 300}, 6, 9}});
    EXPECT_EQ(copy->at({100, 200, 300}), 6);
    EXPECT_GT(copy->version(chunkOf({-7, 0, 0}, 16), 16), 0u);
    EXPECT_EQ(first.version(chunkOf({-7, 0, 0}, 16), 16), 0u);
}

TEST(WorldChanges, ChunksOfEveryEdgeGetWhatAPlainMapSays)
{
    std::mt19937_64 dice(5);
    WorldChanges changes;
    Plain plain;
    for (int round = 0; round < 30; ++round) {
        const auto some = randomChanges(dice, 40, 70);
        changes.set(some);
        for (const VoxelChange& one : some)
            plain[one.at] = one.after;
    }
    EXPECT_EQ(changes.voxels(), plain.size());
    for (const int edge : kChunkEdges) {
        const std::int64_t reach = 70 / edge + 1;
        for (std::int64_t y = -reach; y <= reach; ++y)
            for (std::int64_t z = -reach; z <= reach; ++z)
                for (std::int64_t x = -reach; x <= reach; ++x) {
                    std::vector<Material> voxels(static_cast<std::size_t>(edge) * edge * edge, 99);
                    const bool any = changes.apply({x, y, z}, edge, voxels);
                    const auto right = expected(plain, {x, y, z}, edge);
                    ASSERT_EQ(voxels, right) << edge << ": " << x << " " << y << " " << z;
                    const bool isThere
                        = std::any_of(right.begin(), right.end(), [](Material material) { return material != 99; });
                    ASSERT_EQ(any, isThere);
                    ASSERT_TRUE(changes.touches({x, y, z}, edge) || !any);
                }
    }
}

TEST(WorldChanges, OfSeveralChangesOfAVoxelTheLastStays)
{
    WorldChanges changes;
    const std::vector<VoxelChange> thrice{{{1, 2, 3}, 0, 4}, {{1, 2, 3}, 4, 2}, {{1, 2, 3}, 2, 3}};
    changes.set(thrice);
    ASSERT_TRUE(changes.of({0, 0, 0}));
    EXPECT_EQ(*changes.of({0, 0, 0}), (KeptVoxels{{(2 * 32 + 3) * 32 + 1, 3}}));
}

TEST(WorldChanges, ACoarserVoxelGoesByTheMiddleOneOfThoseItStandsFor)
{
    WorldChanges changes;
    changes.set(std::vector<VoxelChange>{{{6, 6, 6}, 0, 1}, {{9, 8, 8}, 0, 2}}); // 6 = 4 + 2 is the middle of [4, 8)
    std::vector<Material> voxels(16 * 16 * 16, 0);
    ASSERT_TRUE(changes.apply({0, 0, 0, 2}, 16, voxels));
    EXPECT_EQ(voxels[(1 * 16 + 1) * 16 + 1], 1);
    voxels[(1 * 16 + 1) * 16 + 1] = 0;
    EXPECT_EQ(std::count(voxels.begin(), voxels.end(), 0), 16 * 16 * 16)
        << "(9, 8, 8) is the middle of no coarse voxel";
}

TEST(WorldChanges, TheTopLiesAboveTheHighestChangedVoxel)
{
    WorldChanges changes;
    EXPECT_FALSE(changes.top(0, 0, 32, 0));
    changes.set(std::vector<VoxelChange>{{{5, 70, 5}, 0, 1}, {{40, -9, 5}, 0, 1}});
    EXPECT_EQ(changes.top(0, 0, 32, 0), 71);
    EXPECT_EQ(changes.top(1, 0, 32, 0), -8);
    EXPECT_EQ(changes.top(0, 0, 64, 0), 71);
    EXPECT_EQ(changes.top(0, 0, 32, 3), 9) << "70 lies in voxel 8 of eight voxels each";
    EXPECT_FALSE(changes.top(-1, 0, 32, 0));
}

TEST(WorldChanges, AnEditionTellsWhatCameBetween)
{
    WorldChanges changes;
    EXPECT_EQ(changes.version({0, 0, 0}, 32), 0u);
    changes.set(std::vector<VoxelChange>{{{0, 0, 0}, 0, 1}});
    const std::uint64_t first = changes.version({0, 0, 0}, 16);
    EXPECT_GT(first, 0u);
    changes.set(std::vector<VoxelChange>{{{100, 0, 0}, 0, 1}});
    EXPECT_EQ(changes.version({0, 0, 0}, 16), first) << "another chunk's";
    changes.set(std::vector<VoxelChange>{{{0, 0, 0}, 1, 0}});
    EXPECT_GT(changes.version({0, 0, 0}, 16), first);
}

TEST(WorldChanges, WhatIsUnsavedIsTakenOnceAndMayBeGivenBack)
{
    WorldChanges changes;
    changes.set(std::vector<VoxelChange>{{{0, 0, 0}, 0, 1}, {{40, 0, 0}, 0, 2}});
    const auto taken = changes.takeUnsaved();
    EXPECT_EQ(taken.size(), 2u);
    EXPECT_EQ(changes.unsaved(), 0u);
    changes.set(std::vector<VoxelChange>{{{0, 0, 1}, 0, 3}});
    EXPECT_EQ(taken.front().second->size(), 1u) << "what was taken is not written again";
    changes.markUnsaved(std::vector<ChunkPos>{{1, 0, 0}});
    EXPECT_EQ(changes.unsaved(), 2u);
    changes.replaceAll({{{3, 0, 0}, {{7, 1}, {5, 2}}}});
    EXPECT_EQ(changes.chunks(), 1u);
    EXPECT_EQ(*changes.of({3, 0, 0}), (KeptVoxels{{5, 2}, {7, 1}}));
    EXPECT_EQ(changes.unsaved(), 0u);
}

} // namespace
} // namespace fell::changes_test
