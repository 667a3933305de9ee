// SPDX-License-Identifier: Apache-2.0
// The region that light is measured in, against the plain light of the audits: voxel by voxel in every mode.
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/audit/plain_light.h>
#include <fell/measure/light_trial.h>

#include <gtest/gtest.h>

#include <set>

namespace fell::region_light_test {
namespace {

constexpr int kEdge = 16, kSide = 2;

LightRegion region(const Terrain& terrain, int lamps)
{
    return makeLightRegion(terrain, *findGenerator("blocks"), {kEdge, {kSide, kSide, kSide}, lamps, 3});
}

ChunkPos placeOf(const LightRegion& of, std::size_t i)
{
    const auto c = static_cast<std::int64_t>(i);
    return of.low + ChunkPos{c % kSide, c / kSide / kSide, c / kSide % kSide};
}

class RegionLight : public ::testing::TestWithParam<const char*> { };

TEST_P(RegionLight, IsThatOfThePlainFloodInEveryVoxelAndChannel)
{
    const LightRegion of = region(*test::testTerrain(), 12);
    ASSERT_EQ(of.lamps.size(), 12u);
    const LightRules rules = lightRulesOf(of.blocks, *findLightMode(GetParam()));
    FloodScratch scratch;
    const std::vector<ChunkLight> fast = lightOfRegion(of, rules, scratch);
    ASSERT_EQ(fast.size(), of.chunks.size());
    PlainLight plain(rules, kEdge);
    for (std::size_t i = 0; i < of.chunks.size(); ++i)
        plain.put(placeOf(of, i), of.chunks[i].voxels());
    plain.flood();
    int lit = 0;
    for (std::size_t i = 0; i < fast.size(); ++i) {
        const VoxelPos origin = originOf(placeOf(of, i), kEdge);
        for (int v = 0; v < kEdge * kEdge * kEdge; ++v)
            for (int c = 0; c < fast[i].channels; ++c) {
                const VoxelPos at = origin + VoxelPos{v % kEdge, v / kEdge / kEdge, v / kEdge % kEdge};
                const int level = fast[i].at(c, static_cast<std::size_t>(v));
                ASSERT_EQ(level, plain.level(at, c)) << at.x << ", " << at.y << ", " << at.z << ", channel " << c;
                lit += level > 0;
            }
    }
    EXPECT_GT(lit, 1000) << "or nothing was compared";
}

TEST_P(RegionLight, OfTheWorldToEditIsTheSame)
{
    const LightRegion of = region(*test::testTerrain(), 5);
    const LightRules rules = lightRulesOf(of.blocks, *findLightMode(GetParam()));
    LightWorld world = worldOfRegion(of, rules);
    FloodScratch scratch;
    const std::vector<ChunkLight> flooded = lightOfRegion(of, rules, scratch);
    for (std::size_t i = 0; i < flooded.size(); ++i) {
        const VoxelPos origin = originOf(placeOf(of, i), kEdge);
        for (int v = 0; v < kEdge * kEdge * kEdge; v += 7)
            for (int c = 0; c < flooded[i].channels; ++c)
                ASSERT_EQ(world.level(origin + VoxelPos{v % kEdge, v / kEdge / kEdge, v / kEdge % kEdge}, c),
                    flooded[i].at(c, static_cast<std::size_t>(v)));
    }
}

INSTANTIATE_TEST_SUITE_P(Modes, RegionLight, ::testing::Values("lamp-sky", "colour", "colour-sky"));

Material materialAt(const LightRegion& of, VoxelPos at)
{
    for (std::size_t i = 0; i < of.chunks.size(); ++i)
        if (placeOf(of, i) == chunkOf(at, kEdge)) {
            const VoxelPos in = at - originOf(placeOf(of, i), kEdge);
            return of.chunks[i].at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
        }
    return kOpen;
}

TEST(LightRegion, LampsStandOnSomethingAndSparePlacesAreFree)
{
    const LightRegion of = region(*test::testTerrain(), 20);
    std::set<std::array<std::int64_t, 3>> places;
    for (const VoxelPos lamp : of.lamps) {
        EXPECT_EQ(materialAt(of, lamp), of.lamp);
        const Material below = materialAt(of, lamp - VoxelPos{0, 1, 0});
        EXPECT_NE(below, kOpen) << lamp.x << ", " << lamp.y << ", " << lamp.z;
        EXPECT_TRUE(places.insert({lamp.x, lamp.y, lamp.z}).second) << "two lamps in one voxel";
    }
    for (const VoxelPos free : of.spare) {
        EXPECT_EQ(materialAt(of, free), kOpen);
        EXPECT_FALSE(places.contains({free.x, free.y, free.z}));
    }
    for (const VoxelPos neighbour : besideLamps(of)) {
        EXPECT_EQ(materialAt(of, neighbour), kOpen);
        bool touches = false;
        for (const VoxelPos lamp : of.lamps)
            touches |= std::abs(neighbour.x - lamp.x) + std::abs(neighbour.y - lamp.y) + std::abs(neighbour.z - lamp.z)
                == 1;
        EXPECT_TRUE(touches);
    }
}

TEST(LightTrial, HasARowAModeWithTheFloodsDigest)
{
    const LightRegion of = region(*test::testTerrain(), 6);
    const std::vector<const LightMode*> modes{findLightMode("colour"), findLightMode("lamp-sky")};
    const LightTrial trial = runLightTrial(of, modes, 2);
    ASSERT_EQ(trial.rows.size(), 2u);
    EXPECT_EQ(trial.edge, kEdge);
    EXPECT_FALSE(trial.stopped);
    FloodScratch scratch;
    for (std::size_t m = 0; m < 2; ++m) {
        const LightTrialRow& row = trial.rows[m];
        EXPECT_EQ(row.mode, modes[m]->id);
        EXPECT_EQ(row.digest, digestOf(lightOfRegion(of, lightRulesOf(of.blocks, *modes[m]), scratch)));
        EXPECT_EQ(row.voxels, 8u * kEdge * kEdge * kEdge);
        EXPECT_EQ(row.lamps, 6u);
        EXPECT_EQ(row.floodMs.count, 2u) << "the first flood warms up";
        EXPECT_LE(row.bytesPerVoxel, 0.5 * modes[m]->channels() + 0.2) << "half a byte a voxel and channel at most";
    }
    EXPECT_NE(trial.rows[0].digest, trial.rows[1].digest);
    std::stop_source stop;
    stop.request_stop();
    EXPECT_TRUE(runLightTrial(of, modes, 2, stop.get_token()).stopped);
}

} // namespace
} // namespace fell::region_light_test
