// SPDX-License-Identifier: Apache-2.0
// What is written as arrays of numbers, read again and compared with the world voxel by voxel.
#include <fell/exchange/nrrd.h>
#include <fell/exchange/nrrd_volume.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

namespace fell::nrrd_test {
namespace {

Material slowAt(const Terrain& terrain, const WorldChanges& changes, VoxelPos at)
{
    if (const auto changed = changes.at(at))
        return *changed;
    const ChunkPos chunk = chunkOf(at, 16);
    const VoxelPos in = at - originOf(chunk, 16);
    return generateChunk(*findGenerator("samples"), terrain, chunk, 16)
        .at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
}

TEST(Nrrd, HoldsEveryVoxelOfTheBoxWithWhatWasChanged)
{
    const auto terrain = test::testTerrain();
    WorldChanges changes;
    changes.set(std::vector<VoxelChange>{{{1, 12, 2}, kOpen, 3}, {{-3, 10, 4}, kOpen, 0}});
    const VoxelBox box{{-5, 8, -2}, {4, 15, 6}}; // cuts chunks of every edge
    const ExportFile file = voxelsToNrrd(*terrain, *findGenerator("blocks"), box, {}, &changes);
    EXPECT_EQ(file.count.bytes, file.bytes.size());
    const auto read = parseNrrd(file.bytes, "box.nrrd");
    ASSERT_TRUE(read) << sentence(read.problem());
    const NrrdVolume& volume = read.value();
    EXPECT_EQ(volume.size, (std::array<std::int64_t, 3>{9, 7, 8}));
    EXPECT_EQ(volume.type, "uint16");
    for (std::int64_t z = 0; z < 8; ++z)
        for (std::int64_t y = 0; y < 7; ++y)
            for (std::int64_t x = 0; x < 9; ++x)
                ASSERT_EQ(volume.at(x, y, z), slowAt(*terrain, changes, box.low + VoxelPos{x, y, z}))
                    << x << ", " << y << ", " << z;
}

TEST(Nrrd, MaterialsOfAnExportAreTheBlocksOfAnImport)
{
    const auto terrain = test::testTerrain();
    const ExportFile file = voxelsToNrrd(*terrain, *findGenerator("blocks"), {{0, 0, 0}, {8, 20, 8}});
    const auto volume = parseNrrd(file.bytes, "box.nrrd");
    ASSERT_TRUE(volume);
    const auto rule = ruleOf(volume.value(), terrain->recipe.blocks);
    ASSERT_TRUE(rule) << sentence(rule.problem());
    for (std::size_t m = 1; m < terrain->recipe.blocks.kinds.size(); ++m)
        EXPECT_EQ(rule.value().ids.at(static_cast<std::int64_t>(m)), m);
}

TEST(Nrrd, LightOverLevelGroundIsFullAboveAndNoneBelow)
{
    const auto terrain = test::demoTerrain("level");
    const VoxelBox box{{-3, -4, -3}, {5, 6, 5}};
    for (const char* mode : {"lamp-sky", "colour-sky"}) {
        const LightMode& light = *findLightMode(mode);
        const ExportFile file = lightToNrrd(*terrain, *findGenerator("blocks"), light, box);
        const auto body = file.bytes.find("\n\n") + 2;
        const int channels = light.channels();
        ASSERT_EQ(file.bytes.size() - body, static_cast<std::size_t>(8 * 10 * 8 * channels)) << mode;
        const int lamps = light.lamps;
        for (int z = 0; z < 8; ++z)
            for (int y = 0; y < 10; ++y)
                for (int x = 0; x < 8; ++x)
                    for (int c = 0; c < channels; ++c) {
                        const auto at = body + static_cast<std::size_t>(((z * 10 + y) * 8 + x) * channels + c);
                        const int expected = c < lamps || y < 4 ? 0 : 15;
                        ASSERT_EQ(static_cast<int>(file.bytes[at]), expected)
                            << mode << " " << x << ", " << y << ", " << z << ", channel " << c;
                    }
    }
}

TEST(Nrrd, ALampsLevelsFallByOneAStep)
{
    Recipe recipe = findWorld("level", demoFolder()).take();
    BlockKind lamp;
    lamp.name = "test-lamp";
    lamp.matter = Matter::SeeThrough;
    lamp.light = {1, {}, {12, 12, 12}};
    recipe.blocks.kinds.push_back(lamp);
    const auto material = static_cast<Material>(recipe.blocks.kinds.size() - 1);
    const auto terrain = makeTerrain(std::move(recipe));
    WorldChanges changes;
    changes.set(std::vector<VoxelChange>{{{0, 30, 0}, kOpen, material}});
    const VoxelBox box{{-5, 26, -5}, {6, 35, 6}};
    const LightMode& mode = *findLightMode("lamp-sky");
    const ExportFile file = lightToNrrd(*terrain, *findGenerator("blocks"), mode, box, {}, &changes);
    const auto body = file.bytes.find("\n\n") + 2;
    for (int z = 0; z < 11; ++z)
        for (int y = 0; y < 9; ++y)
            for (int x = 0; x < 11; ++x) {
                const auto at = body + static_cast<std::size_t>(((z * 9 + y) * 11 + x) * mode.channels());
                const int steps = std::abs(x - 5) + std::abs(y - 4) + std::abs(z - 5);
                ASSERT_EQ(static_cast<int>(file.bytes[at]), std::max(0, 12 - steps)) << x << ", " << y << ", " << z;
            }
}

TEST(Nrrd, StopsBetweenChunks)
{
    const auto terrain = test::testTerrain();
    int asked = 0;
    (void)voxelsToNrrd(*terrain, *findGenerator("blocks"), {{0, 0, 0}, {200, 100, 200}}, [&asked] {
        ++asked;
        return true;
    });
    EXPECT_GE(asked, 1);
    EXPECT_LE(asked, 2);
}

} // namespace
} // namespace fell::nrrd_test
