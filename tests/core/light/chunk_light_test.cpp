// SPDX-License-Identifier: Apache-2.0
// Levels of a chunk and the bits that light passes by, against one number a voxel.
#include <fell/light/chunk_light.h>

#include "support/all_names.h"
#include "support/lit_blocks.h"

#include <gtest/gtest.h>

#include <random>

namespace fell::chunk_light_test {
namespace {

std::size_t volumeOf(int edge)
{
    return static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge);
}

class ChunkLevels : public ::testing::TestWithParam<int> { };

TEST_P(ChunkLevels, AreWhatWasSetLastInEveryVoxel)
{
    const int edge = GetParam();
    std::mt19937_64 dice(static_cast<std::uint64_t>(edge));
    ChunkLight light;
    light.edge = edge;
    light.channels = 3;
    std::array<std::vector<int>, 3> slow;
    for (auto& of : slow)
        of.assign(volumeOf(edge), 0);
    for (int i = 0; i < 4000; ++i) {
        const auto channel = static_cast<int>(dice() % 3);
        const std::size_t voxel = dice() % volumeOf(edge);
        const auto level = static_cast<int>(dice() % 16);
        light.set(channel, voxel, level);
        slow[static_cast<std::size_t>(channel)][voxel] = level;
    }
    for (int c = 0; c < 3; ++c) {
        std::size_t lit = 0;
        for (std::size_t v = 0; v < volumeOf(edge); ++v) {
            const int level = slow[static_cast<std::size_t>(c)][v];
            ASSERT_EQ(light.at(c, v), level) << "channel " << c << ", voxel " << v;
            lit += level > 0;
        }
        EXPECT_EQ(litVoxels(light.of[static_cast<std::size_t>(c)], edge), lit);
    }
    EXPECT_GE(light.bytes(), 3 * volumeOf(edge) / 2) << "half a byte a voxel and channel";
}

TEST_P(ChunkLevels, ThatAreAllAlikeTakeNoBitsHoweverTheyCameAbout)
{
    const int edge = GetParam();
    ChannelLevels levels;
    levels.all = 7;
    EXPECT_EQ(litVoxels(levels, edge), volumeOf(edge));
    expand(levels, edge);
    EXPECT_EQ(levels.bits.size(), volumeOf(edge) / 16);
    ChunkLight spelt, plain;
    spelt.edge = plain.edge = edge;
    spelt.channels = plain.channels = 1;
    spelt.of[0] = levels;
    plain.of[0].all = 7;
    for (std::size_t v = 0; v < volumeOf(edge); v += 3)
        ASSERT_EQ(spelt.at(0, v), 7);
    EXPECT_EQ(digestOf(spelt), digestOf(plain)) << "whether spelt out or not";
    collapseIfUniform(levels, edge);
    EXPECT_TRUE(levels.bits.empty());
    EXPECT_EQ(levels.all, 7);
    spelt.set(0, volumeOf(edge) - 1, 6);
    EXPECT_NE(digestOf(spelt), digestOf(plain));
    collapseIfUniform(spelt.of[0], edge);
    EXPECT_FALSE(spelt.of[0].bits.empty()) << "one voxel differs";
}

TEST_P(ChunkLevels, DifferInTheSmallestBoxThatHoldsEveryDifference)
{
    const int edge = GetParam();
    ChunkLight a, b;
    a.edge = b.edge = edge;
    a.channels = b.channels = 2;
    a.of[0].all = b.of[0].all = 5;
    const auto indexOf = [edge](int x, int y, int z) { return static_cast<std::size_t>((y * edge + z) * edge + x); };
    EXPECT_TRUE(differenceOf(a, b).isEmpty());
    b.set(1, indexOf(3, 7, 2), 9);
    b.set(0, indexOf(edge - 1, 4, 11), 1);
    const ChunkBox box = differenceOf(a, b);
    EXPECT_FALSE(box.isEmpty());
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x) {
                const bool isInside = x >= 3 && x <= edge - 1 && y >= 4 && y <= 7 && z >= 2 && z <= 11;
                const bool isSaid = x >= box.low[0] && x < box.high[0] && y >= box.low[1] && y < box.high[1]
                    && z >= box.low[2] && z < box.high[2];
                ASSERT_EQ(isSaid, isInside) << x << ", " << y << ", " << z;
            }
    const ChunkBox back = differenceOf(b, a);
    EXPECT_EQ(back.low, box.low) << "whichever comes first";
    EXPECT_EQ(back.high, box.high);
}

INSTANTIATE_TEST_SUITE_P(Edges, ChunkLevels, ::testing::Values(16, 32, 64));

BlockSet passBlocks()
{
    BlockSet set;
    test::addLit(set, "slate", Matter::Solid, {15, {}, {}});
    test::addLit(set, "glowing-slate", Matter::Solid, {15, {}, {9, 9, 9}});
    test::addLit(set, "lamp", Matter::SeeThrough, {1, {}, {15, 12, 5}});
    test::addLit(set, "amber", Matter::SeeThrough, {1, {0, 3, 9}, {}});
    test::addLit(set, "fog", Matter::SeeThrough, {4, {}, {}});
    test::addLit(set, "water", Matter::Liquid, {2, {}, {}});
    return set;
}

std::vector<Material> mixed(int edge, std::uint64_t seed)
{
    std::mt19937_64 dice(seed);
    std::vector<Material> out(volumeOf(edge));
    for (Material& one : out)
        one = static_cast<Material>(dice() % 3 == 0 ? dice() % 7 : 0);
    return out;
}

TEST(Transmission, AreWhatTheRulesSayOfEveryVoxelInEveryColour)
{
    const BlockSet blocks = passBlocks();
    for (const char* mode : {"lamp-sky", "colour", "colour-sky"}) {
        const LightRules rules = lightRulesOf(blocks, *findLightMode(mode));
        const auto voxels = mixed(16, 3);
        const Transmission passes = transmissionOf(VoxelChunk(16, voxels), rules);
        std::size_t lamps = 0;
        for (std::size_t v = 0; v < voxels.size(); ++v) {
            EXPECT_EQ(passes.isOpenAt(v), rules.isOpen[voxels[v]] == 1);
            for (const LightColour colour :
                {LightColour::Plain, LightColour::Red, LightColour::Green, LightColour::Blue})
                ASSERT_EQ(takenAt(passes, v, colour), rules.attenuation[static_cast<std::size_t>(colour)][voxels[v]])
                    << mode << ", material " << voxels[v];
            if (rules.isLamp[voxels[v]]) {
                ASSERT_LT(lamps, passes.lamps.size());
                EXPECT_EQ(passes.lamps[lamps].voxel, v) << "by voxel";
                EXPECT_EQ(passes.lamps[lamps++].material, voxels[v]);
            }
        }
        EXPECT_EQ(passes.lamps.size(), lamps);
    }
}

TEST(Transmission, AfterAThousandChangesAreThoseOfTheVoxelsAsTheyAre)
{
    const LightRules rules = lightRulesOf(passBlocks(), *findLightMode("colour"));
    auto voxels = mixed(16, 5);
    Transmission passes = transmissionOf(VoxelChunk(16, voxels), rules);
    std::mt19937_64 dice(6);
    for (int i = 0; i < 1000; ++i) {
        const std::size_t voxel = dice() % voxels.size();
        voxels[voxel] = static_cast<Material>(dice() % 7);
        setVoxel(passes, voxel, voxels[voxel], rules);
    }
    const Transmission fresh = transmissionOf(VoxelChunk(16, voxels), rules);
    EXPECT_EQ(passes.lamps, fresh.lamps);
    for (std::size_t v = 0; v < voxels.size(); ++v) {
        ASSERT_EQ(passes.isOpenAt(v), fresh.isOpenAt(v));
        for (const LightColour colour : {LightColour::Plain, LightColour::Red, LightColour::Green, LightColour::Blue})
            ASSERT_EQ(takenAt(passes, v, colour), takenAt(fresh, v, colour)) << v;
    }
}

TEST(Transmission, OfAChunkOfOneMaterialNeedNoBits)
{
    const BlockSet blocks = passBlocks();
    const LightRules rules = lightRulesOf(blocks, *findLightMode("lamp-sky"));
    const Transmission open = transmissionOf(VoxelChunk(32), rules),
                       dark = transmissionOf(VoxelChunk(32, *findMaterial(blocks, "slate")), rules);
    EXPECT_EQ(open.kind, Transmission::Kind::Open);
    EXPECT_EQ(dark.kind, Transmission::Kind::Dark);
    EXPECT_TRUE(open.open.empty());
    EXPECT_LT(open.bytes() + dark.bytes(), 2 * sizeof(Transmission) + 64);
    EXPECT_EQ(takenAt(open, 5, LightColour::Plain), 1);
    EXPECT_EQ(takenAt(dark, 5, LightColour::Plain), 15);
}

} // namespace
} // namespace fell::chunk_light_test
