// SPDX-License-Identifier: Apache-2.0
#include <fell/cull/chunk_octree.h>

#include "support/all_names.h"
#include <fell/cull/steps.h>

#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <random>

namespace fell::chunk_octree_test {
namespace {

CullView viewFrom(const Eye& eye, float fieldOfView = 65, int edge = 32, float distance = 200)
{
    return cullViewOf(eye, lensFor(fieldOfView, 1.6, distance, edge), edge, distance);
}

/// All chunks whose own box is within the planes: what the walk must find.
std::vector<std::uint32_t> oneByOne(const CullView& view, const std::map<ChunkPos, std::uint32_t>& chunks)
{
    std::vector<std::uint32_t> out;
    for (const auto& [chunk, item] : chunks)
        if (isWithinPlanes(view, boxOf(chunk, view.edge, view.eye)))
            out.push_back(item);
    std::sort(out.begin(), out.end());
    return out;
}

std::vector<std::uint32_t> walked(const ChunkOctree& tree, const CullView& view)
{
    std::vector<std::uint32_t> out;
    (void)tree.walk(view, out);
    std::sort(out.begin(), out.end());
    return out;
}

class Octree : public testing::TestWithParam<int> { };
INSTANTIATE_TEST_SUITE_P(Leaves, Octree, testing::Values(1, 2, 4));

TEST_P(Octree, HoldsWhatAMapHoldsWhileChunksComeAndGo)
{
    std::mt19937 dice(7);
    ChunkOctree tree(GetParam());
    std::map<ChunkPos, std::uint32_t> plain;
    for (int i = 0; i < 6000; ++i) {
        const auto at = [&] { return static_cast<std::int64_t>(dice() % 23) - 11 + (i / 2000) * 1000; };
        const ChunkPos chunk{at(), at(), at()};
        if (dice() % 5 < 3) {
            plain[chunk] = dice() % 100000;
            tree.put(chunk, plain[chunk]);
        } else if (plain.erase(chunk) > 0) {
            tree.remove(chunk);
        }
        ASSERT_EQ(tree.size(), plain.size());
        ASSERT_EQ(tree.find(chunk).has_value(), plain.count(chunk) == 1);
    }
    for (const auto& [chunk, item] : plain)
        ASSERT_EQ(tree.find(chunk), item);
    EXPECT_FALSE(tree.find({500, 0, 0}));
    for (const auto& [chunk, item] : plain)
        tree.remove(chunk);
    EXPECT_EQ(tree.size(), 0u);
    EXPECT_EQ(tree.figures().nodes, 0u) << "nothing is left where nothing is";
}

TEST_P(Octree, FindsTheVeryChunksThatPlanesAgainstEveryBoxFind)
{
    std::mt19937 dice(11);
    ChunkOctree tree(GetParam());
    std::map<ChunkPos, std::uint32_t> chunks;
    for (int i = 0; i < 4000; ++i) {
        const auto at = [&dice](int reach) {
            return static_cast<std::int64_t>(dice() % static_cast<unsigned>(2 * reach + 1)) - reach;
        };
        const ChunkPos chunk{at(12), at(5), at(12)};
        chunks[chunk] = static_cast<std::uint32_t>(i);
        tree.put(chunk, static_cast<std::uint32_t>(i));
    }
    std::uint64_t max = 0;
    for (int i = 0; i < 300; ++i) {
        Eye eye;
        eye.cell = {static_cast<std::int64_t>(dice() % 500) - 250, static_cast<std::int64_t>(dice() % 200) - 100,
            static_cast<std::int64_t>(dice() % 500) - 250};
        if (i % 5 == 0)
            eye = {{0, 0, 0}, glm::dvec3(0), 0, 0}; // on the corner of eight chunks
        eye.yaw = i % 3 == 0 ? 90.0 * (i % 4) : static_cast<double>(dice() % 3600) / 10;
        eye.pitch = i % 7 == 0 ? -90 : static_cast<double>(dice() % 1800) / 10 - 90;
        const CullView view = viewFrom(eye, static_cast<float>(20 + dice() % 100));
        ASSERT_EQ(walked(tree, view), oneByOne(view, chunks)) << "view " << i;
        std::vector<std::uint32_t> out;
        max = std::max(max, tree.walk(view, out).takenWhole);
    }
    EXPECT_GT(max, 0u) << "some node lay wholly inside";
}

TEST(ChunkOctree, TheRootGrowsBothWaysAndShrinksAgain)
{
    ChunkOctree tree;
    tree.put({0, 0, 0}, 1);
    EXPECT_EQ(tree.figures().depth, 1);
    tree.put({-1, -1, -1}, 2);
    tree.put({40, 0, 0}, 3);
    EXPECT_EQ(tree.find({0, 0, 0}), 1u);
    EXPECT_EQ(tree.find({-1, -1, -1}), 2u);
    EXPECT_GE(tree.figures().depth, 6) << "64 chunks hold -1 to 40";
    tree.remove({40, 0, 0});
    tree.remove({-1, -1, -1});
    EXPECT_EQ(tree.figures().depth, 1);
    EXPECT_EQ(tree.find({0, 0, 0}), 1u);
}

TEST(ChunkOctree, FarFromTheOriginItIsTheSame)
{
    const std::int64_t far = std::int64_t{1} << 40;
    ChunkOctree near, away;
    for (int x = -6; x <= 6; ++x)
        for (int z = -6; z <= 6; ++z) {
            near.put({x, 0, z}, static_cast<std::uint32_t>((x + 6) * 13 + z + 6));
            away.put({far + x, 0, z}, static_cast<std::uint32_t>((x + 6) * 13 + z + 6));
        }
    Eye eye{{5, 10, 7}, glm::dvec3(0.5), 33, -10};
    const auto here = walked(near, viewFrom(eye));
    eye.cell.x += far * 32;
    EXPECT_EQ(walked(away, viewFrom(eye)), here);
    EXPECT_GT(here.size(), 10u);
}

TEST(ChunkOctree, CountsItsNodesLeavesAndEmptyPlaces)
{
    ChunkOctree one;
    one.put({0, 0, 0}, 0);
    one.put({1, 0, 0}, 1);
    OctreeFigures figures = one.figures();
    EXPECT_EQ(figures.nodes, 1u);
    EXPECT_EQ(figures.leaves, 2u);
    EXPECT_EQ(figures.empty, 6u);
    const auto cells = one.cells();
    EXPECT_EQ(std::count_if(
                  cells.begin(), cells.end(), [](const OctreeCell& c) { return c.kind == OctreeCell::Kind::Empty; }),
        6);
    ChunkOctree four(4);
    for (int x = 0; x < 4; ++x)
        four.put({x, 2, 3}, static_cast<std::uint32_t>(x));
    figures = four.figures();
    EXPECT_EQ(figures.leaves, 1u) << "four chunks in one leaf of 4 x 4 x 4";
    EXPECT_EQ(figures.chunks, 4u);
    EXPECT_EQ(four.leafOf({-1, 0, 5}).low, (ChunkPos{-4, 0, 4}));
}

} // namespace
} // namespace fell::chunk_octree_test
