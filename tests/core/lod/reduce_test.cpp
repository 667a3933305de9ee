// SPDX-License-Identifier: Apache-2.0
#include <fell/lod/reduce.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

#include <functional>
#include <random>

namespace fell::reduce_test {
namespace {

constexpr int kEdge = 16;

/// Eight chunks of a field over the doubled cube.
struct Parts {
    std::vector<VoxelChunk> chunks;
    std::array<const VoxelChunk*, 8> all{};
    explicit Parts(const std::function<Material(int, int, int)>& field)
    {
        chunks.reserve(8);
        for (int p = 0; p < 8; ++p) {
            std::vector<Material> voxels;
            for (int y = 0; y < kEdge; ++y)
                for (int z = 0; z < kEdge; ++z)
                    for (int x = 0; x < kEdge; ++x)
                        voxels.push_back(field((p & 1) * kEdge + x, (p >> 1 & 1) * kEdge + y, (p >> 2) * kEdge + z));
            chunks.emplace_back(kEdge, std::move(voxels));
        }
        for (std::size_t p = 0; p < 8; ++p)
            all[p] = &chunks[p];
    }
    [[nodiscard]] VoxelChunk reduce() const
    {
        return reduced(all, {}, sideRulesOf(test::testTerrain()->recipe.blocks));
    }
};

/// Two plain solid kinds of the small world.
std::array<Material, 2> solids()
{
    const SideRules rules = sideRulesOf(test::testTerrain()->recipe.blocks);
    std::array<Material, 2> out{};
    std::size_t found = 0;
    for (Material m = 1; found < 2 && m < rules.matter.size(); ++m)
        if (rules.isPlainSolid(m))
            out[found++] = m;
    return out;
}

TEST(Reduce, GroundKeepsItsHeightAndItsTurf)
{
    const auto [turf, stone] = solids();
    for (int height = 8; height < 20; ++height) {
        const VoxelChunk coarse = Parts([&, t = turf, s = stone](int, int y, int) {
            return y >= height ? kOpen : y == height - 1 ? t : s;
        }).reduce();
        int top = -1;
        for (int y = 0; y < kEdge; ++y)
            if (coarse.at(5, y, 5) != kOpen)
                top = y;
        EXPECT_EQ(top, (height + 1) / 2 - 1) << height << ": half a voxel up at most";
        EXPECT_EQ(coarse.at(5, top, 5), turf) << height;
        EXPECT_EQ(coarse.at(5, top - 1, 5), stone) << height;
    }
}

TEST(Reduce, AWallOneVoxelThinIsNotAveragedAway)
{
    const auto [wall, ground] = solids();
    const VoxelChunk coarse = Parts([w = wall, g = ground](int x, int y, int) {
        return y < 4 ? g : x == 9 && y < 12 ? w : kOpen;
    }).reduce();
    for (int z = 0; z < kEdge; ++z)
        for (int y = 2; y < 6; ++y)
            EXPECT_EQ(coarse.at(4, y, z), wall) << y << " " << z;
    EXPECT_EQ(coarse.at(4, 6, 3), kOpen);
    EXPECT_EQ(coarse.at(3, 3, 3), kOpen);
    EXPECT_EQ(coarse.at(5, 3, 3), kOpen);
}

TEST(Reduce, ASingleVoxelGoesAndAHoleOfOneCloses)
{
    const auto [a, b] = solids();
    const VoxelChunk lone
        = Parts([a = a](int x, int y, int z) { return x == 6 && y == 6 && z == 6 ? a : kOpen; }).reduce();
    EXPECT_TRUE(lone.isUniform());
    EXPECT_EQ(lone.uniform(), kOpen);
    const VoxelChunk hole
        = Parts([b = b](int x, int y, int z) { return x == 6 && y == 6 && z == 6 ? kOpen : b; }).reduce();
    EXPECT_EQ(hole.at(3, 3, 3), b);
}

TEST(Reduce, WhatIsUniformStaysSo)
{
    const Material stone = solids()[1];
    const VoxelChunk coarse = Parts([stone](int, int, int) { return stone; }).reduce();
    EXPECT_TRUE(coarse.isUniform());
    EXPECT_EQ(coarse.uniform(), stone);
}

TEST(Reduce, IsSolidWhereHalfIsOrAColumnIsAndNowhereElse)
{
    const Material stone = solids()[1];
    std::mt19937 dice(5);
    std::vector<std::uint8_t> filled(32 * 32 * 32);
    for (auto& one : filled)
        one = dice() % 3 == 0;
    const auto at
        = [&filled](int x, int y, int z) { return filled[static_cast<std::size_t>((y * 32 + z) * 32 + x)] != 0; };
    const VoxelChunk coarse = Parts([&](int x, int y, int z) { return at(x, y, z) ? stone : kOpen; }).reduce();
    for (int y = 0; y < kEdge; ++y)
        for (int z = 0; z < kEdge; ++z)
            for (int x = 0; x < kEdge; ++x) {
                int count = 0;
                bool column = false;
                for (int dz = 0; dz < 2; ++dz)
                    for (int dx = 0; dx < 2; ++dx) {
                        const bool low = at(2 * x + dx, 2 * y, 2 * z + dz),
                                   high = at(2 * x + dx, 2 * y + 1, 2 * z + dz);
                        count += low + high;
                        column |= low && high;
                    }
                ASSERT_EQ(coarse.at(x, y, z) != kOpen, count >= 4 || column) << x << " " << y << " " << z;
            }
}

} // namespace
} // namespace fell::reduce_test
