// SPDX-License-Identifier: Apache-2.0
// Picking against a slow twin that intersects the ray with the box of every voxel, and by hand.
#include <fell/edit/pick.h>

#include "support/all_names.h"
#include "support/shaped_blocks.h"

#include <glm/geometric.hpp>
#include <gtest/gtest.h>

#include <map>
#include <random>

namespace fell::pick_test {
namespace {

using namespace test::shaped;

struct World {
    std::map<VoxelPos, Material> voxels;
    BlockSet set = shapedBlocks();
    SideRules rules = sideRulesOf(set);
    [[nodiscard]] ReadVoxel read() const
    {
        return [this](VoxelPos at) -> std::optional<Material> {
            const auto found = voxels.find(at);
            return found == voxels.end() ? kOpen : found->second;
        };
    }
};

/// Where a ray enters a box; nothing if it misses, or begins inside.
std::optional<double> entry(glm::dvec3 from, glm::dvec3 direction, glm::dvec3 low)
{
    double in = -1e300, out = 1e300;
    for (int a = 0; a < 3; ++a) {
        if (direction[a] == 0) {
            if (from[a] < low[a] || from[a] >= low[a] + 1)
                return std::nullopt;
            continue;
        }
        const double one = (low[a] - from[a]) / direction[a], two = (low[a] + 1 - from[a]) / direction[a];
        in = std::max(in, std::min(one, two));
        out = std::min(out, std::max(one, two));
    }
    return in <= out && in >= 0 ? std::optional(in) : std::nullopt;
}

TEST(Pick, TheFirstCubeIsTheOneThatATestOfEveryBoxFinds)
{
    std::mt19937_64 dice(11);
    const auto chance = [&] { return static_cast<double>(dice() >> 11) * 0x1p-53; };
    for (const std::int64_t far : {std::int64_t{0}, std::int64_t{1} << 40}) { // a million million voxels away
        World world;
        std::vector<VoxelPos> cubes;
        for (int i = 0; i < 200; ++i) {
            const auto at = [&] { return static_cast<std::int64_t>(dice() % 40) - 20; };
            cubes.push_back({far + at(), at(), at()});
            world.voxels[cubes.back()] = kSlate;
        }
        int hits = 0;
        for (int ray = 0; ray < 2000; ++ray) {
            Eye eye;
            eye.cell = {far + 3, 2, -5};
            eye.within = {chance(), chance(), chance()};
            world.voxels.erase(eye.cell);
            const glm::dvec3 direction = glm::normalize(glm::dvec3(chance() - 0.5, chance() - 0.5, chance() - 0.5));
            std::optional<double> nearest;
            for (const auto& [cube, material] : world.voxels) {
                const VoxelPos by = cube - eye.cell;
                const auto at = entry(eye.within, direction,
                    {static_cast<double>(by.x), static_cast<double>(by.y), static_cast<double>(by.z)});
                if (at && (!nearest || *at < *nearest))
                    nearest = at;
            }
            const auto found = pick(world.read(), world.rules, eye, direction, {.farthest = 100});
            ASSERT_EQ(found.has_value(), nearest.has_value()) << ray;
            if (found) {
                ASSERT_NEAR(found->distance, *nearest, 1e-9);
                const ChunkPos step = stepOf(found->side);
                ASSERT_EQ(found->before, (found->voxel + VoxelPos{step.x, step.y, step.z}));
                ++hits;
            }
        }
        EXPECT_GT(hits, 200);
    }
}

TEST(Pick, ThroughAnEdgeItStepsXThenYThenZ)
{
    World world;
    world.voxels = {{{1, 0, 0}, kSlate}, {{0, 1, 0}, kSlate}, {{0, 0, 1}, kSlate}, {{1, 1, 1}, kSlate}};
    Eye eye; // in the middle of voxel 0, 0, 0
    const auto along
        = [&](glm::dvec3 direction) { return pick(world.read(), world.rules, eye, glm::normalize(direction)).value(); };
    EXPECT_EQ(along({1, 1, 1}).voxel, (VoxelPos{1, 0, 0}));
    EXPECT_EQ(along({1, 1, 1}).side, Side::West);
    EXPECT_EQ(along({0, 1, 1}).voxel, (VoxelPos{0, 1, 0}));
    world.voxels.erase({1, 0, 0});
    world.voxels.erase({0, 1, 0});
    world.voxels.erase({0, 0, 1});
    EXPECT_EQ(along({1, 1, 1}).voxel, (VoxelPos{1, 1, 1}));
    EXPECT_EQ(along({1, 1, 1}).side, Side::North) << "z is stepped last";
}

TEST(Pick, AShapedBlockIsMetWhereItIs)
{
    World world;
    world.voxels = {{{0, 0, -3}, kHalf}, {{0, 0, -5}, kSlate}};
    Eye eye;
    eye.within = {0.5, 0.75, 0.5};
    EXPECT_EQ(pick(world.read(), world.rules, eye, {0, 0, -1})->voxel, (VoxelPos{0, 0, -5})) << "over the half block";
    eye.within.y = 0.25;
    const auto low = pick(world.read(), world.rules, eye, {0, 0, -1});
    EXPECT_EQ(low->voxel, (VoxelPos{0, 0, -3}));
    EXPECT_EQ(low->side, Side::South);
    EXPECT_NEAR(low->distance, 0.5 + 2, 1e-6) << "its south side is the voxel's";
    eye.cell = {0, 4, -3};
    const auto above = pick(world.read(), world.rules, eye, {0, -1, 0});
    EXPECT_NEAR(above->distance, 0.25 + 3 + 0.5, 1e-6) << "half way down the voxel";
    EXPECT_EQ(above->side, Side::Up);
}

TEST(Pick, ASlopeIsMetOnItsSlope)
{
    World world;
    world.voxels = {{{0, 0, 0}, kSlope}}; // rises towards north: at z the height is 1 - z
    for (const double z : {0.2, 0.5, 0.9}) {
        Eye eye;
        eye.cell = {0, 2, 0};
        eye.within = {0.4, 0, z};
        const auto met = pick(world.read(), world.rules, eye, {0, -1, 0});
        ASSERT_TRUE(met);
        EXPECT_NEAR(met->distance, 2 - (1 - z), 1e-6);
    }
}

TEST(Pick, LooksThroughWaterUnlessToldNotTo)
{
    World world;
    world.voxels = {{{0, -1, 0}, kWater}, {{0, -2, 0}, kSlate}};
    Eye eye;
    EXPECT_EQ(pick(world.read(), world.rules, eye, {0, -1, 0})->voxel, (VoxelPos{0, -2, 0}));
    EXPECT_EQ(pick(world.read(), world.rules, eye, {0, -1, 0}, {.throughLiquids = false})->voxel, (VoxelPos{0, -1, 0}));
}

TEST(Pick, EndsWhereNobodyKnowsAndAtItsReach)
{
    World world;
    world.voxels = {{{0, -30, 0}, kSlate}};
    Eye eye;
    EXPECT_FALSE(pick(world.read(), world.rules, eye, {0, -1, 0}, {.farthest = 29}));
    EXPECT_TRUE(pick(world.read(), world.rules, eye, {0, -1, 0}, {.farthest = 30}));
    const ReadVoxel unknown = [&](VoxelPos at) { return at.y < -10 ? std::nullopt : world.read()(at); };
    EXPECT_FALSE(pick(unknown, world.rules, eye, {0, -1, 0}));
}

} // namespace
} // namespace fell::pick_test
