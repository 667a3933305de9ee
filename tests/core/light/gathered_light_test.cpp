// SPDX-License-Identifier: Apache-2.0
// Light gathered again after edits, against light gathered from nothing and a box found voxel by voxel.
#include "support/all_names.h"
#include "support/lit_around.h"
#include <fell/light/gathered_light.h>

#include <gtest/gtest.h>

namespace fell::gathered_light_test {
namespace {

/// The light values of voxels that light enters; others do not count.
int levelAt(const PaddedLight& light, std::size_t channel, int x, int y, int z)
{
    const auto& all = light.of[channel].all;
    return all ? (light.isPassable(x, y, z) ? *all : 0) : light.at(static_cast<int>(channel), x, y, z);
}

/// The plain way.
ChunkBox differenceOf(const PaddedLight& before, const PaddedLight& now)
{
    ChunkBox box = ChunkBox::nothing();
    for (int y = -1; y <= now.edge; ++y)
        for (int z = -1; z <= now.edge; ++z)
            for (int x = -1; x <= now.edge; ++x) {
                bool differs = before.isPassable(x, y, z) != now.isPassable(x, y, z);
                for (std::size_t c = 0; c < static_cast<std::size_t>(now.channels); ++c)
                    differs |= levelAt(before, c, x, y, z) != levelAt(now, c, x, y, z);
                if (differs)
                    box.add({{x, y, z}, {x + 1, y + 1, z + 1}, 1});
            }
    return box;
}

/// 27 chunks that are edited and flooded; chunks whose light stays keep who they are.
struct Edited {
    Edited(int edge, const char* mode, double share)
        : around(edge, mode, share, 3)
    {
        for (std::size_t i = 0; i < 27; ++i)
            now.passes[i] = std::make_shared<const Transmission>(around.passes[i]);
        flood();
    }
    void flood()
    {
        FloodScratch blockScratch;
        const std::vector<ChunkLight> lights = floodBlock(around.block, blockScratch);
        for (std::size_t i = 0; i < 27; ++i)
            if (!now.levels[i] || !(*now.levels[i] == lights[i]))
                now.levels[i] = std::make_shared<const ChunkLight>(lights[i]);
    }
    void put(std::size_t chunk, std::size_t voxel, Material material)
    {
        setVoxel(around.passes[chunk], voxel, material, around.rules);
        now.passes[chunk] = std::make_shared<const Transmission>(around.passes[chunk]);
    }
    [[nodiscard]] PaddedLight fromNothing() const
    {
        LightBlock block{&around.rules, around.block.edge, {3, 3, 3}, {}, {}, 0};
        std::array<const ChunkLight*, 27> levels{};
        for (std::size_t i = 0; i < 27; ++i) {
            block.passes.push_back(now.passes[i].get());
            levels[i] = now.levels[i].get();
        }
        PaddedLight out;
        gatherLight(block, levels, out);
        return out;
    }
    test::Around around;
    LightAround now;
};

class GatheredLightTest : public ::testing::TestWithParam<std::tuple<int, const char*, double>> { };

TEST_P(GatheredLightTest, AfterEditsIsThatFromNothing)
{
    const auto& [edge, mode, share] = GetParam();
    Edited world(edge, mode, share);
    const auto e = static_cast<std::size_t>(edge);
    GatheredLight again;
    EXPECT_FALSE(updatePaddedLight(world.around.rules, edge, world.now, again)) << "nothing is known yet";
    EXPECT_TRUE(updatePaddedLight(world.around.rules, edge, world.now, again)->isEmpty());
    std::mt19937 dice(11);
    const auto somewhere = [&]() -> std::size_t { // often in a border, which other chunks look into
        return std::array{std::size_t{0}, e - 1, dice() % e}[dice() % 3];
    };
    std::size_t different = 0;
    for (int edit = 0; edit < (edge > 32 ? 16 : 24); ++edit) {
        if (edit % 8 == 7) { // other code floods it, with a neighbour that is not there
            LightBlock lacking = world.around.block;
            lacking.passes[14] = nullptr;
            FloodScratch scratch;
            floodPadded(lacking, again.light, scratch);
            again.invalidate();
        }
        const PaddedLight before = again.light;
        // Mostly the middle and what lies next to it, near their common side; sometimes none, sometimes a lamp.
        constexpr std::array<std::size_t, 8> kWhere{13, 13, 13, 12, 16, 4, 22, 26};
        const std::size_t chunk = kWhere[dice() % kWhere.size()];
        const Material material = std::array{
            kOpen, test::kAroundSlate, test::kAroundLamp, test::kAroundAmber, test::kAroundWater}[dice() % 5];
        if (edit % 6 != 5)
            world.put(chunk, (somewhere() * e + somewhere()) * e + somewhere(), material);
        world.flood();
        const auto box = updatePaddedLight(world.around.rules, edge, world.now, again);
        const PaddedLight rebuilt = world.fromNothing();
        ASSERT_EQ(again.light.passable, rebuilt.passable) << edit;
        for (std::size_t c = 0; c < static_cast<std::size_t>(rebuilt.channels); ++c) {
            ASSERT_EQ(again.light.of[c].all, rebuilt.of[c].all) << edit << ", channel " << c;
            ASSERT_TRUE(rebuilt.of[c].all || again.light.of[c].digits == rebuilt.of[c].digits)
                << edit << ", channel " << c;
        }
        const ChunkBox want = differenceOf(before, rebuilt);
        ASSERT_TRUE(box);
        ASSERT_EQ(box->isEmpty(), want.isEmpty()) << edit;
        different += !want.isEmpty();
        if (!want.isEmpty()) {
            EXPECT_EQ(box->low, want.low) << edit;
            EXPECT_EQ(box->high, want.high) << edit;
        }
    }
    EXPECT_GT(different, 3u);
}

// Without stone all lies under the open sky: channels that are even at first, and alike in all chunks.
INSTANTIATE_TEST_SUITE_P(EdgesAndModes, GatheredLightTest,
    ::testing::Values(std::tuple{16, "lamp-sky", 0.3}, std::tuple{16, "colour-sky", 0.0}, std::tuple{16, "colour", 0.9},
        std::tuple{32, "colour", 0.4}, std::tuple{64, "lamp-sky", 0.35}));

TEST(GatheredLight, UnderTheOpenSkyStaysEvenWhereABlockIsPlaced)
{
    Edited world(16, "lamp-sky", 0);
    for (std::size_t i = 0; i < 27; ++i) {
        world.around.passes[i] = transmissionOf(VoxelChunk(16, i < 9 ? test::kAroundSlate : kOpen), world.around.rules);
        world.now.passes[i] = std::make_shared<const Transmission>(world.around.passes[i]);
    }
    for (SkyHeightMap& floor : world.around.floors) { // stone below, open air above it: even, and not alike
        floor = skyFloor(16, 16);
    }
    world.flood();
    GatheredLight again;
    (void)updatePaddedLight(world.around.rules, 16, world.now, again);
    const std::size_t sky = 1;
    ASSERT_EQ(again.light.of[sky].all, 15);
    world.put(4, 15 * 256 + 5 * 16 + 5, kOpen); // a hole in the ground: as bright as all else
    world.around.floors[4].from[5 * 16 + 5] = 15;
    world.flood();
    const auto box = updatePaddedLight(world.around.rules, 16, world.now, again);
    ASSERT_TRUE(box);
    EXPECT_EQ(box->low, (std::array{5, -1, 5}));
    EXPECT_EQ(box->high, (std::array{6, 0, 6}));
    EXPECT_EQ(again.light.of[sky].all, 15);
    EXPECT_TRUE(again.light.isPassable(5, -1, 5));
}

} // namespace
} // namespace fell::gathered_light_test
