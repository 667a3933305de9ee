// SPDX-License-Identifier: Apache-2.0
// The world file: what was said to be saved is there, whatever happens to the process, the disk or the bytes.
#include <fell/save/world_file.h>

#include "core/save/world_file_fixture.h"
#include "support/all_names.h"
#include "support/temp_folder.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>
#include <xxhash.h>

#include <csignal>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace fell::stored_voxels_test {
namespace {

using namespace test;

std::shared_ptr<const VoxelChunk> numbered(ChunkPos chunk, int edge)
{
    std::vector<Material> voxels;
    const VoxelPos low = originOf(chunk, edge);
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                voxels.push_back(static_cast<Material>(((low.x + x) * 3 + (low.y + y) * 5 + (low.z + z) * 7) & 255));
    return std::make_shared<const VoxelChunk>(edge, std::move(voxels));
}

TEST(WholeChunks, ArePutTogetherFromChunksOfAnyEdgeWhereAllOfThemAreThere)
{
    const auto all = [](ChunkPos) { return true; };
    const std::vector<Material> expected = numbered({-1, 0, 2}, kKeptEdge)->voxels();
    ResidentVoxels small, large{{{-1, 0, 1}, numbered({-1, 0, 1}, 64)}}, same{{{-1, 0, 2}, numbered({-1, 0, 2}, 32)}};
    for (int i = 0; i < 8; ++i) {
        const ChunkPos at{-2 + (i & 1), i >> 1 & 1, 4 + (i >> 2)};
        small.emplace_back(at, numbered(at, 16));
    }
    for (const ResidentVoxels* from : {&small, &same}) {
        const auto whole = storedFromResidents(*from, all);
        ASSERT_EQ(whole.size(), 1u);
        EXPECT_EQ(whole[0].chunk, (ChunkPos{-1, 0, 2}));
        ASSERT_TRUE(whole[0].whole);
        EXPECT_EQ(whole[0].whole->voxels(), expected);
    }
    const auto eight = storedFromResidents(large, all);
    ASSERT_EQ(eight.size(), 8u);
    for (const StoredChunk& one : eight)
        EXPECT_EQ(one.whole->voxels(), numbered(one.chunk, kKeptEdge)->voxels())
            << one.chunk.x << one.chunk.y << one.chunk.z;
    small.pop_back();
    EXPECT_TRUE(storedFromResidents(small, all).empty()) << "a part of it is not there";
    EXPECT_TRUE(storedFromResidents(same, [](ChunkPos) { return false; }).empty());
}

TEST(WholeChunks, AreHeldAsWhatDiffersFromTheRecipeWhereThatIsKnown)
{
    std::vector<Material> voxels(std::size_t{32} * 32 * 32, 1);
    voxels[7] = 3;
    voxels[900] = kOpen;
    std::vector<StoredChunk> stored{{{0, 0, 0}, {}, std::make_shared<const VoxelChunk>(kKeptEdge, voxels)},
        {{1, 0, 0}, {}, std::make_shared<const VoxelChunk>(kKeptEdge, Material{1})}, {{2, 0, 0}, {{5, 2}}, nullptr}};
    const auto made = [&](ChunkPos) { return std::vector<Material>(voxels.size(), 1); };
    EXPECT_EQ(changesFrom(stored)[0].second.size(), voxels.size());
    const auto few = changesFrom(stored, made);
    ASSERT_EQ(few.size(), 2u) << "the second chunk is as the recipe says";
    EXPECT_EQ(few[0].second, (KeptVoxels{{7, 3}, {900, kOpen}}));
    EXPECT_EQ(few[1].second, (KeptVoxels{{5, 2}}));
}

} // namespace
} // namespace fell::stored_voxels_test
