// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/recipe_map.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>
#include <map>

namespace fell::recipe_map_test {
namespace {

TEST(TerrainMap, IsTheGroundOfEachPixelsColumn)
{
    const auto terrain = test::testTerrain();
    const TerrainMap map = mapOf(*terrain, {64, 48, 1, {10, -7}});
    ASSERT_EQ(map.heights.size(), 64u * 48);
    int compared = 0;
    for (int y = 0; y < 48; y += 5)
        for (int x = 0; x < 64; x += 7) {
            // The middle of the picture is at 10, -7: half of it lies west and north of that.
            const auto wx = static_cast<std::int64_t>(std::floor(10 - 31.5 + x)),
                       wz = static_cast<std::int64_t>(std::floor(-7 - 23.5 + y));
            const auto at = static_cast<std::size_t>(y * 64 + x);
            EXPECT_EQ(map.heights[at], groundHeight(*terrain, wx, wz)) << x << ", " << y;
            // The voxel below the ground, by the plain generator; caves and overhangs are not seen from above.
            const auto v = static_cast<std::int64_t>(std::ceil(map.heights[at] - 0.5F)) - 1;
            const ChunkPos chunk = chunkOf({wx, v, wz}, 16);
            const VoxelPos in = VoxelPos{wx, v, wz} - originOf(chunk, 16);
            const Material below = generateChunk(*findGenerator("samples"), *terrain, chunk, 16)
                                       .at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
            const ColumnSample column = columnAt(*terrain, wx, wz);
            if (column.push != 0 || column.wall != kOpen || below == kOpen)
                continue;
            ++compared;
            EXPECT_EQ(map.materials[at], v + 1 < terrain->waterLevel ? terrain->recipe.water : below) << x << ", " << y;
        }
    EXPECT_GT(compared, 20);
}

TEST(TerrainMap, FromFartherAwayIsTheCoarserGround)
{
    const auto terrain = test::testTerrain();
    const TerrainMap map = mapOf(*terrain, {32, 32, 8, {}});
    for (int i = 0; i < 32; ++i) {
        const double metres = (i - 15.5) * 8;
        const double ground = groundHeight(
            *terrain, static_cast<std::int64_t>(std::floor(metres)), static_cast<std::int64_t>(std::floor(metres)));
        EXPECT_NEAR(map.heights[static_cast<std::size_t>(i * 33)], ground, 24) << "within the slope of eight metres";
    }
    EXPECT_LT(map.min, map.max);
}

TEST(TerrainMap, ShadesWhatFacesNorthWestBrighter)
{
    TerrainMap map{
        .width = 3, .height = 3, .metresPerPixel = 1, .heights = {}, .slopes = {}, .materials = {}, .columnNs = {}};
    map.materials.assign(9, 1);
    map.slopes.assign(9, 1);
    map.columnNs.assign(9, 1);
    const BlockSet blocks = test::testBlocks();
    const auto middle = [&](std::vector<float> heights) {
        map.heights = std::move(heights);
        map.min = *std::min_element(map.heights.begin(), map.heights.end());
        map.max = *std::max_element(map.heights.begin(), map.heights.end());
        return static_cast<int>(pictureOf(map, blocks, MapLook::Relief)[3 * 4 + 1]);
    };
    const int level = middle({0, 0, 0, 0, 0, 0, 0, 0, 0});
    EXPECT_GT(middle({0, 1, 2, 1, 2, 3, 2, 3, 4}), level) << "rises to the south-east, so it looks north-west";
    EXPECT_LT(middle({4, 3, 2, 3, 2, 1, 2, 1, 0}), level);
    const auto heights = pictureOf(map, blocks, MapLook::Height);
    EXPECT_GT(heights[1], heights[3 * 8 + 1]) << "the highest is lightest";
}

TEST(TerrainSection, IsWhatTheChunksHoldAlongTheLine)
{
    const auto terrain = test::testTerrain();
    const TerrainSection section = sectionOf(*terrain, {{-32, 5}, {32, 5}, 64, 64});
    EXPECT_DOUBLE_EQ(section.metresPerCell, 1);
    std::size_t solid = 0;
    std::map<ChunkPos, VoxelChunk> chunks;
    for (int c = 0; c < 64; ++c)
        for (int r = 0; r < 64; ++r) {
            const VoxelPos at{c - 32, static_cast<std::int64_t>(std::floor(section.top - r - 0.5)), 5};
            const ChunkPos chunk = chunkOf(at, 64);
            auto found = chunks.find(chunk);
            if (found == chunks.end())
                found = chunks.emplace(chunk, generateChunk(*findGenerator("samples"), *terrain, chunk, 64)).first;
            const VoxelPos in = at - originOf(chunk, 64);
            const Material expected
                = found->second.at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
            ASSERT_EQ(section.cells[static_cast<std::size_t>(r * 64 + c)], expected) << c << ", " << r;
            solid += expected != kOpen;
        }
    EXPECT_GT(solid, 500u);
    EXPECT_LT(solid, 64u * 64 - 300);
}

TEST(TerrainMap, APatternHasNone)
{
    EXPECT_TRUE(mapOf(*test::demoTerrain("checker"), {}).heights.empty());
}

} // namespace
} // namespace fell::recipe_map_test
