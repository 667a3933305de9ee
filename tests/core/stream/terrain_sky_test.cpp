// SPDX-License-Identifier: Apache-2.0
// Where the sky begins, against a look at every voxel from above.
#include <fell/stream/terrain_sky.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

#include <map>

namespace fell::terrain_sky_test {
namespace {

constexpr int kEdge = 16;

/// The voxels of a column of chunks, made one by one with the slow generator.
class Column {
public:
    Column(const Terrain& terrain, std::int64_t x, std::int64_t z)
        : m_terrain(terrain)
        , m_x(x)
        , m_z(z)
    {
    }
    Material at(int x, std::int64_t y, int z)
    {
        const ChunkPos chunk{m_x, chunkOf({0, y, 0}, kEdge).y, m_z};
        auto found = m_chunks.find(chunk.y);
        if (found == m_chunks.end())
            found = m_chunks.emplace(chunk.y, generateChunk(*findGenerator("samples"), m_terrain, chunk, kEdge)).first;
        return found->second.at(x, static_cast<int>(y - chunk.y * kEdge), z);
    }

private:
    const Terrain& m_terrain;
    std::int64_t m_x, m_z;
    std::map<std::int64_t, VoxelChunk> m_chunks;
};

TEST(TerrainSky, NothingStandsAtTheTopOfAColumnOrAboveIt)
{
    const auto terrain = test::testTerrain();
    const Generator& generator = *findGenerator("blocks");
    for (const auto& [cx, cz] : {std::pair{0, 0}, {2, -1}, {-3, 2}, {1, 4}}) {
        const ColumnPatch columns = generator.columns(*terrain, cx * kEdge, cz * kEdge, kEdge);
        const auto top = topOfTerrain(*terrain, columns);
        ASSERT_TRUE(top);
        Column slow(*terrain, cx, cz);
        for (int z = 0; z < kEdge; ++z)
            for (int x = 0; x < kEdge; ++x)
                for (std::int64_t y = *top; y < *top + 2 * kEdge; ++y)
                    ASSERT_EQ(slow.at(x, y, z), kOpen) << cx << ", " << cz << ": " << x << ", " << y << ", " << z;
    }
}

TEST(TerrainSky, TheFloorOfEachColumnIsAboveItsHighestVoxelThatIsNoOpenAir)
{
    const auto terrain = test::testTerrain();
    const Generator& generator = *findGenerator("blocks");
    const LightRules rules = lightRulesOf(terrain->recipe.blocks, *findLightMode("lamp-sky"));
    for (const auto& [cx, cz] : {std::pair{0, 0}, {1, 1}, {-2, 0}}) {
        const ColumnPatch columns = generator.columns(*terrain, cx * kEdge, cz * kEdge, kEdge);
        const auto top = topOfTerrain(*terrain, columns);
        ASSERT_TRUE(top);
        std::vector<ChunkPos> seen;
        const SkyHeightMap floor = floorOfTerrain(*terrain, generator, columns, rules, *top - 200,
            [&seen](ChunkPos chunk, VoxelChunk&&, Transmission&&) { seen.push_back(chunk); });
        ASSERT_EQ(floor.from.size(), static_cast<std::size_t>(kEdge) * kEdge);
        Column slow(*terrain, cx, cz);
        for (int z = 0; z < kEdge; ++z)
            for (int x = 0; x < kEdge; ++x) {
                std::int64_t y = *top;
                while (y > *top - 200 && slow.at(x, y - 1, z) == kOpen)
                    --y;
                ASSERT_EQ(floor.from[static_cast<std::size_t>(z * kEdge + x)], y) << x << ", " << z;
            }
        EXPECT_EQ(floor.lowest, *std::min_element(floor.from.begin(), floor.from.end()));
        EXPECT_EQ(floor.highest, *std::max_element(floor.from.begin(), floor.from.end()));
        ASSERT_FALSE(seen.empty());
        for (std::size_t i = 1; i < seen.size(); ++i)
            EXPECT_EQ(seen[i].y, seen[i - 1].y - 1) << "from the top down, each once";
    }
}

TEST(TerrainSky, PatternsHaveTheTopThatTheirShapeSays)
{
    const auto topOf = [](const char* world) {
        const auto terrain = test::demoTerrain(world);
        return topOfTerrain(*terrain, findGenerator("blocks")->columns(*terrain, 0, 0, kEdge));
    };
    EXPECT_EQ(topOf("level"), 0);
    EXPECT_EQ(topOf("solid"), std::nullopt);
    EXPECT_EQ(topOf("checker"), std::nullopt);
}

TEST(TerrainSky, WhatABlockLetsThroughIsNotItsFloor)
{
    // One chunk of air with a pane at height 8 and a stone at height 3, over nothing.
    BlockSet blocks;
    BlockKind stone, glass;
    stone.name = "stone";
    glass.name = "glass";
    glass.matter = Matter::SeeThrough;
    glass.light = {1, {}, {}};
    blocks.kinds.push_back(stone);
    blocks.kinds.push_back(glass);
    const LightRules rules = lightRulesOf(blocks, *findLightMode("lamp-sky"));
    const auto make = [](ChunkPos chunk) {
        std::vector<Material> voxels(kEdge * kEdge * kEdge, kOpen);
        if (chunk.y == 0) {
            voxels[(3 * kEdge + 5) * kEdge + 5] = 1;
            voxels[(8 * kEdge + 6) * kEdge + 6] = 2;
        } else if (chunk.y < 0) {
            std::fill(voxels.begin(), voxels.end(), Material{1});
        }
        return VoxelChunk(kEdge, std::move(voxels));
    };
    const SkyHeightMap floor = floorBelow({0, 0, 0}, kEdge, 16, make, rules, -100);
    EXPECT_EQ(floor.from[5 * kEdge + 5], 4) << "on the stone";
    EXPECT_EQ(floor.from[6 * kEdge + 6], 9) << "full sky ends at glass, which takes a level";
    EXPECT_EQ(floor.from[0], 0) << "on the ground below";
    EXPECT_EQ(floor.lowest, 0);
    EXPECT_EQ(floor.highest, 9);
}

} // namespace
} // namespace fell::terrain_sky_test
