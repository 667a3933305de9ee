// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/level_source.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/lod/reduce.h>

#include <gtest/gtest.h>

namespace fell::level_source_test {
namespace {

constexpr int kEdge = 16;

class LevelSources : public ::testing::Test {
protected:
    std::shared_ptr<const Terrain> m_terrain = test::testTerrain();
    const Generator& m_generator = *findGenerator("blocks");
    SideRules m_rules = sideRulesOf(m_terrain->recipe.blocks);
    LevelSource m_finest{m_terrain, m_generator, kEdge, 64};
    LevelSource m_once{m_finest, m_rules}, m_twice{m_once, m_rules};

    /// The chunk that holds the ground's surface over a column of chunks.
    static ChunkPos surface(LevelSource& source, int level)
    {
        return {1, chunkOf({0, *source.top(1, -2) - 1, 0}, kEdge).y, -2, level};
    }
};

TEST_F(LevelSources, TheRecipesIsWhatTheGeneratorMakes)
{
    const ChunkPos chunk = surface(m_finest, 0);
    EXPECT_EQ(digestOf(m_finest.voxels(chunk)), digestOf(generateChunk(m_generator, *m_terrain, chunk, kEdge)));
}

TEST_F(LevelSources, TheReducedIsMadeOfEightAndOfWhatLiesOnTop)
{
    const ChunkPos chunk = surface(m_once, 1);
    std::vector<VoxelChunk> made;
    for (unsigned p = 0; p < 8; ++p)
        made.push_back(generateChunk(m_generator, *m_terrain, childOf(chunk, p), kEdge));
    for (unsigned p : {0u, 1u, 4u, 5u})
        made.push_back(generateChunk(m_generator, *m_terrain, childOf(chunk + ChunkPos{0, 1, 0}, p), kEdge));
    std::array<const VoxelChunk*, 8> parts{};
    std::array<const VoxelChunk*, 4> above{};
    for (std::size_t p = 0; p < 8; ++p)
        parts[p] = &made[p];
    for (std::size_t p = 0; p < 4; ++p)
        above[p] = &made[8 + p];
    EXPECT_EQ(digestOf(m_once.voxels(chunk)), digestOf(reduced(parts, above, m_rules)));
    EXPECT_FALSE(m_once.voxels(chunk).isUniform()) << "a surface is in it";
}

TEST_F(LevelSources, NothingIsAtOrAboveTheTop)
{
    for (LevelSource* source : {&m_finest, &m_once, &m_twice}) {
        const int level = source == &m_finest ? 0 : source == &m_once ? 1 : 2;
        ChunkPos chunk = surface(*source, level);
        const std::int64_t top = *source->top(1, -2);
        for (int up = 0; up < 2; ++up, ++chunk.y) {
            const VoxelChunk voxels = source->voxels(chunk);
            for (int y = 0; y < kEdge; ++y)
                for (int z = 0; z < kEdge && chunk.y * kEdge + y >= top; ++z)
                    for (int x = 0; x < kEdge; ++x)
                        ASSERT_EQ(voxels.at(x, y, z), kOpen)
                            << "level " << level << " at " << x << ", " << y << ", " << z;
        }
    }
}

/// Ground of level 2 lies where the mean of the four by four columns of level 0 has it, within two of its voxels.
TEST_F(LevelSources, ReducedTwiceTheGroundStaysWhereItIs)
{
    const auto topSolid = [this](LevelSource& source, std::int64_t x, std::int64_t z) {
        const std::int64_t chunkX = chunkOf({x, 0, z}, kEdge).x, chunkZ = chunkOf({x, 0, z}, kEdge).z;
        std::int64_t y = *source.top(chunkX, chunkZ) - 1;
        for (;; --y) {
            const ChunkPos chunk{chunkX, chunkOf({0, y, 0}, kEdge).y, chunkZ, 0};
            ChunkPos at = chunk;
            at.level = &source == &m_finest ? 0 : 2;
            const VoxelPos origin = originOf(chunk, kEdge);
            const Material m = source.voxels(at).at(
                static_cast<int>(x - origin.x), static_cast<int>(y - origin.y), static_cast<int>(z - origin.z));
            if (m != kOpen && m_rules.matter[m] == Matter::Solid)
                return y + 1;
        }
    };
    for (int i = 0; i < 6; ++i) {
        const std::int64_t x = 5 + 3 * i, z = -9 - 2 * i;
        double mean = 0;
        for (int dx = 0; dx < 4; ++dx)
            for (int dz = 0; dz < 4; ++dz)
                mean += static_cast<double>(topSolid(m_finest, 4 * x + dx, 4 * z + dz)) / 16;
        EXPECT_NEAR(static_cast<double>(topSolid(m_twice, x, z)) * 4, mean, 8) << "column " << x << ", " << z;
    }
}

} // namespace
} // namespace fell::level_source_test
