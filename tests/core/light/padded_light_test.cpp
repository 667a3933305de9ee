// SPDX-License-Identifier: Apache-2.0
// A chunk's light with one layer around it, against the flood of all 27 chunks at once.
#include "support/all_names.h"
#include "support/lit_around.h"
#include <fell/light/flood.h>

#include <gtest/gtest.h>

namespace fell::padded_light_test {
namespace {

using test::Around;

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
    FloodScratch blockScratch;
    const std::vector<ChunkLight> all = floodBlock(around.block, blockScratch);
    PaddedLight padded;
    FloodScratch scratch;
    floodPadded(around.block, padded, scratch);
    ASSERT_EQ(padded.channels, findLightMode(mode)->channels());
    std::uint64_t wrong = 0, lit = 0;
    for (int y = -1; y <= edge; ++y)
        for (int z = -1; z <= edge; ++z)
            for (int x = -1; x <= edge; ++x) {
                const Split sx = split(x, edge), sy = split(y, edge), sz = split(z, edge);
                const std::size_t chunk = (sy.chunk * 3 + sz.chunk) * 3 + sx.chunk;
                const auto voxel = static_cast<std::size_t>((sy.in * edge + sz.in) * edge + sx.in);
                const Material material = around.chunks[chunk].at(sx.in, sy.in, sz.in);
                const bool passable = around.rules.attenuation[0][material] < kMaxLight;
                wrong += padded.isPassable(x, y, z) != passable;
                for (int c = 0; c < padded.channels; ++c) {
                    const int want = all[chunk].at(c, voxel);
                    // A level that all open voxels share is returned for the opaque ones too; they are not read.
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

TEST(PaddedLight, SaysThatLightIsEvenWhereItIs)
{
    Around around(16, "colour", 0.0, 1);
    for (Transmission& passes : around.passes)
        passes = transmissionOf(VoxelChunk(16), around.rules);
    for (SkyHeightMap& floor : around.floors)
        floor = skyFloor(16, INT64_MIN);
    PaddedLight padded;
    FloodScratch scratch;
    floodPadded(around.block, padded, scratch);
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
} // namespace fell::padded_light_test
