// SPDX-License-Identifier: Apache-2.0
// A chunk's light with one layer round it, against the flood of all 27 chunks at once.
#include "light/flood.h"
#include "support/lit_blocks.h"

#include <gtest/gtest.h>

#include <random>

namespace fell {
namespace {

constexpr Material kSlate = 1, kLamp = 2, kAmber = 3, kWater = 4;

BlockSet paddedBlocks()
{
    BlockSet set;
    test::addLit(set, "slate", Matter::Solid, {15, {}, {}});
    test::addLit(set, "lamp", Matter::Solid, {15, {}, {15, 12, 5}});
    test::addLit(set, "amber", Matter::SeeThrough, {1, {0, 3, 9}, {}});
    test::addLit(set, "water", Matter::Liquid, {2, {2, 1, 0}, {}});
    return set;
}

/// 3 x 3 x 3 chunks of `share` stone with some lamps, glass and water, and the sky above them.
struct Around {
    Around(int edge, const char* mode, double share, unsigned seed)
        : rules(lightRulesOf(paddedBlocks(), *findLightMode(mode)))
    {
        std::mt19937 dice(seed);
        std::uniform_real_distribution<double> chance(0, 1);
        for (int i = 0; i < 27; ++i) {
            std::vector<Material> voxels;
            for (int v = 0; v < edge * edge * edge; ++v) {
                const double d = chance(dice);
                voxels.push_back(d < share  ? kSlate
                        : d < share + 0.002 ? kLamp
                        : d < share + 0.02  ? kAmber
                        : d < share + 0.04  ? kWater
                                            : kOpen);
            }
            chunks.push_back(VoxelChunk(edge, std::move(voxels)));
            passes.push_back(passesOf(chunks.back(), rules));
        }
        block = {&rules, edge, {3, 3, 3}, {}, {}, 0};
        for (const LightPasses& one : passes)
            block.passes.push_back(&one);
        for (std::size_t i = 0; i < 9; ++i) {
            floors.push_back(skyFloor(edge, std::int64_t{3} * edge));
            for (std::size_t y = 3; y-- > 0;)
                (void)extendDown(floors.back(), passes[y * 9 + i], static_cast<std::int64_t>(y) * edge);
        }
        for (const SkyFloor& floor : floors)
            block.floors.push_back(&floor);
    }
    Around(const Around&) = delete;
    Around& operator=(const Around&) = delete;

    LightRules rules;
    std::vector<VoxelChunk> chunks;
    std::vector<LightPasses> passes;
    std::vector<SkyFloor> floors;
    LightBlock block;
};

struct Split {
    std::size_t chunk; // on its axis
    int in;
};
Split split(int at, int edge)
{
    return at < 0 ? Split{0, edge - 1} : at < edge ? Split{1, at} : Split{2, 0};
}

class PaddedLightTest : public ::testing::TestWithParam<std::tuple<int, const char*, double>> { };

TEST_P(PaddedLightTest, IsTheFloodOfAllChunksCutOut)
{
    const auto& [edge, mode, share] = GetParam();
    const Around around(edge, mode, share, 7);
    const std::vector<ChunkLight> all = floodBlock(around.block);
    PaddedLight padded;
    floodPadded(around.block, padded);
    ASSERT_EQ(padded.channels, findLightMode(mode)->channels());
    std::uint64_t wrong = 0, lit = 0;
    for (int y = -1; y <= edge; ++y)
        for (int z = -1; z <= edge; ++z)
            for (int x = -1; x <= edge; ++x) {
                const Split sx = split(x, edge), sy = split(y, edge), sz = split(z, edge);
                const std::size_t chunk = (sy.chunk * 3 + sz.chunk) * 3 + sx.chunk;
                const auto voxel = static_cast<std::size_t>((sy.in * edge + sz.in) * edge + sx.in);
                const Material material = around.chunks[chunk].at(sx.in, sy.in, sz.in);
                const bool passable = around.rules.takes[0][material] < kMostLight;
                wrong += padded.isPassable(x, y, z) != passable;
                for (int c = 0; c < padded.channels; ++c) {
                    const int want = all[chunk].at(c, voxel);
                    // A level that all open voxels share is told for the closed ones too; nobody asks there.
                    if (passable || !padded.of[static_cast<std::size_t>(c)].all)
                        wrong += padded.at(c, x, y, z) != want;
                    lit += want > 0;
                }
            }
    EXPECT_EQ(wrong, 0u);
    EXPECT_GT(lit, 100u) << "a test in the dark shows nothing";
    const ChunkLight inner = innerOf(padded);
    EXPECT_EQ(digestOf(inner), digestOf(all[13])) << "what is kept of it";
}

INSTANTIATE_TEST_SUITE_P(EdgesAndModes, PaddedLightTest,
    ::testing::Values(std::tuple{16, "lamp-sky", 0.3}, std::tuple{16, "colour-sky", 0.5}, std::tuple{32, "colour", 0.4},
        std::tuple{64, "lamp-sky", 0.35}, std::tuple{16, "colour", 0.0}));

TEST(PaddedLight, DifferenceIsTheBoxOfAllThatDiffers)
{
    for (const int edge : {16, 32, 64}) {
        Around around(edge, "colour", 0.4, 11);
        PaddedLight before, after;
        floodPadded(around.block, before);
        EXPECT_TRUE(differenceOf(before, before)->isEmpty());
        // A lamp in the middle chunk goes on, in the chunk's far corner: it reaches into what lies round it.
        std::vector<Material> voxels = around.chunks[13].voxels();
        voxels.back() = kAmber;
        around.passes[13] = passesOf(VoxelChunk(edge, std::move(voxels)), around.rules);
        floodPadded(around.block, after);
        ChunkBox want{{edge, edge, edge}, {-1, -1, -1}, 0};
        for (int y = -1; y <= edge; ++y)
            for (int z = -1; z <= edge; ++z)
                for (int x = -1; x <= edge; ++x) {
                    bool differs = before.isPassable(x, y, z) != after.isPassable(x, y, z);
                    for (int c = 0; c < before.channels; ++c)
                        differs |= before.at(c, x, y, z) != after.at(c, x, y, z);
                    if (!differs)
                        continue;
                    const std::array<int, 3> at{x, y, z};
                    for (std::size_t axis = 0; axis < 3; ++axis) {
                        want.low[axis] = std::min(want.low[axis], at[axis]);
                        want.high[axis] = std::max(want.high[axis], at[axis] + 1);
                    }
                    ++want.voxels;
                }
        const auto box = differenceOf(before, after);
        ASSERT_TRUE(box);
        EXPECT_GT(want.voxels, 0u);
        EXPECT_EQ(box->voxels, want.voxels);
        EXPECT_EQ(box->low, want.low);
        EXPECT_EQ(box->high, want.high);
    }
    PaddedLight other;
    other.begin(16, 1);
    PaddedLight larger;
    larger.begin(32, 1);
    EXPECT_FALSE(differenceOf(other, larger));
}

TEST(PaddedLight, SaysThatLightIsEvenWhereItIs)
{
    Around around(16, "colour", 0.0, 1);
    for (LightPasses& passes : around.passes)
        passes = passesOf(VoxelChunk(16), around.rules);
    for (SkyFloor& floor : around.floors)
        floor = skyFloor(16, INT64_MIN);
    PaddedLight padded;
    floodPadded(around.block, padded);
    EXPECT_TRUE(padded.isEven());
    EXPECT_EQ(padded.of[3].all, 15);
    EXPECT_EQ(padded.of[0].all, 0);
    EXPECT_EQ(innerOf(padded).bytes(), ChunkLight{}.bytes()) << "one number a channel";
}

TEST(PaddedLight, WithoutAFloodHasSkyFromStraightAboveOnly)
{
    const Around around(16, "colour", 0.1, 3);
    PaddedLight padded;
    skyOnly(around.block, padded);
    std::uint64_t under = 0, wrong = 0;
    for (int y = -1; y <= 16; ++y)
        for (int z = -1; z <= 16; ++z)
            for (int x = -1; x <= 16; ++x) {
                if (!padded.isPassable(x, y, z))
                    continue;
                bool open = true; // looked for voxel by voxel, upwards
                for (int up = y + 16; up < 48 && open; ++up)
                    open
                        = around.chunks[static_cast<std::size_t>((up / 16 * 3 + (z + 16) / 16) * 3 + (x + 16) / 16)].at(
                              (x + 16) % 16, up % 16, (z + 16) % 16)
                        == kOpen;
                wrong += padded.at(3, x, y, z) != (open ? 15 : 0);
                wrong += padded.at(0, x, y, z) != 0;
                under += open;
            }
    EXPECT_EQ(wrong, 0u);
    EXPECT_GT(under, 100u);
}

} // namespace
} // namespace fell
