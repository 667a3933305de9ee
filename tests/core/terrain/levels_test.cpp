// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/terrain/features/larch.h>
#include <fell/terrain/generate.h>

#include <gtest/gtest.h>

#include <cmath>

namespace fell::levels_test {
namespace {

using test::demoTerrain;
using test::testTerrain;

/// The highest voxel of a column that is neither open nor one of the kinds that stand on the ground, and its material.
struct Surface {
    std::int64_t y = INT64_MIN;
    Material material = kOpen;
};

Surface surfaceOf(const Terrain& terrain, std::int64_t x, std::int64_t z)
{
    const auto ground = static_cast<std::int64_t>(std::floor(groundHeight(terrain, x, z)));
    for (std::int64_t y = ground + 2; y > ground - 40; --y) {
        const ChunkPos chunk = chunkOf({x, y, z}, 16);
        const VoxelPos in = VoxelPos{x, y, z} - originOf(chunk, 16);
        const VoxelChunk voxels = generateChunk(*findGenerator("samples"), terrain, chunk, 16);
        const Material m = voxels.at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
        if (m != kOpen)
            return {y, m};
    }
    return {};
}

TEST(Levels, LevelZeroIsTheWorldItself)
{
    const auto terrain = testTerrain();
    const auto same = coarserTerrain(*terrain, 0);
    for (std::int64_t x = -2; x < 2; ++x)
        EXPECT_EQ(digestOf(generateChunk(*findGenerator("blocks"), *same, {x, 0, 1}, 16)),
            digestOf(generateChunk(*findGenerator("blocks"), *terrain, {x, 0, 1}, 16)));
}

TEST(Levels, BlocksGiveTheVoxelsOfSamplesOnEveryLevel)
{
    for (const char* world : {"corrowdale", "gallery", "dust"}) {
        const auto terrain = demoTerrain(world);
        for (int level = 1; level <= kMaxLevel; ++level) {
            const auto coarse = coarserTerrain(*terrain, level);
            for (const ChunkPos chunk : {ChunkPos{0, 0, 0}, {-1, 0, -1}, {1, -1, 0}, {-3, 1, 2}})
                EXPECT_EQ(digestOf(generateChunk(*findGenerator("samples"), *coarse, chunk, 32)),
                    digestOf(generateChunk(*findGenerator("blocks"), *coarse, chunk, 32)))
                    << world << " level " << level << ": " << chunk.x << " " << chunk.y << " " << chunk.z;
        }
    }
}

TEST(Levels, TheGroundLiesWithinHalfAVoxelOfTheFineOne)
{
    const auto terrain = demoTerrain("corrowdale");
    for (int level = 1; level <= 6; ++level) {
        const auto coarse = coarserTerrain(*terrain, level);
        const double size = std::ldexp(1.0, level);
        double sum = 0, bias = 0;
        int count = 0;
        for (std::int64_t z = -40; z < 40; z += 7)
            for (std::int64_t x = -40; x < 40; x += 7) {
                // Half of the four columns in the middle of the coarse one: fine ground at the same place.
                const std::int64_t fx = (x << level) + (1 << level) / 2, fz = (z << level) + (1 << level) / 2;
                const double fine = (groundHeight(*terrain, fx, fz) + groundHeight(*terrain, fx - 1, fz)
                                        + groundHeight(*terrain, fx, fz - 1) + groundHeight(*terrain, fx - 1, fz - 1))
                    / 4.0;
                const double difference = groundHeight(*coarse, x, z) * size - fine;
                sum += std::abs(difference);
                bias += difference;
                ++count;
            }
        EXPECT_LT(sum / count, 0.25 * size) << "level " << level;
        EXPECT_LT(std::abs(bias / count), 0.15 * size) << "level " << level;
    }
}

TEST(Levels, TheSurfaceKeepsItsMaterial)
{
    const auto terrain = demoTerrain("corrowdale");
    for (const int level : {1, 2, 3}) {
        const auto coarse = coarserTerrain(*terrain, level);
        int same = 0, count = 0;
        for (std::int64_t i = 0; i < 60; ++i) {
            const std::int64_t x = (i * 37 % 500 - 250) >> level, z = (i * 61 % 500 - 250) >> level;
            const std::int64_t middle = 1 << level >> 1;
            same += surfaceOf(*coarse, x, z).material
                == surfaceOf(*terrain, (x << level) + middle, (z << level) + middle).material;
            ++count;
        }
        EXPECT_GT(same, count / 2) << "level " << level;
    }
}

/// The trees and blocks of a patch.
std::vector<Tree> treesOf(const ColumnPatch& patch)
{
    std::vector<Tree> out;
    for (const auto& placed : patch.features)
        if (const auto* tree = dynamic_cast<const PlacedTree*>(placed.get()))
            out.push_back(tree->tree);
    return out;
}

TEST(Levels, ATreeKeepsItsPlaceAndItsHeight)
{
    const auto terrain = demoTerrain("corrowdale");
    const auto coarse = coarserTerrain(*terrain, 1);
    int together = 0, fineTrees = 0;
    for (std::int64_t z = -4; z < 4; ++z)
        for (std::int64_t x = -4; x < 4; ++x) {
            const ColumnPatch far = columnsByBlocks(*coarse, x * 32, z * 32, 32);
            const std::vector<Tree> trees = treesOf(far);
            const ColumnPatch near = columnsByBlocks(*terrain, x * 64, z * 64, 64);
            for (const Tree& tree : treesOf(near)) {
                if (tree.trunk == kOpen)
                    continue; // a block, too small for level 1
                ++fineTrees;
                for (const Tree& other : trees)
                    if (other.foot.x == tree.foot.x >> 1 && other.foot.z == tree.foot.z >> 1) {
                        ++together;
                        EXPECT_NEAR(2 * other.height, tree.height, 1);
                        EXPECT_NEAR(static_cast<double>(2 * other.foot.y), static_cast<double>(tree.foot.y), 4);
                        break;
                    }
            }
        }
    ASSERT_GT(fineTrees, 50);
    EXPECT_GT(together, fineTrees * 8 / 10);
}

TEST(Levels, WhereTreesAreTooSmallTheirCrownsColourTheGround)
{
    const auto terrain = demoTerrain("corrowdale");
    const auto coarse = coarserTerrain(*terrain, 4); // a voxel is higher than the highest larch
    for (const auto& feature : coarse->features)
        ASSERT_LT(feature->phase(), Feature::Phase::Stand);
    const Material needles = *findMaterial(coarse->recipe.blocks, "larch-needles");
    int covered = 0;
    for (std::int64_t z = -32; z < 32; ++z)
        for (std::int64_t x = -32; x < 32; ++x)
            covered += columnAt(*coarse, x, z).cover == needles;
    EXPECT_GT(covered, 64 * 64 / 100);
    EXPECT_LT(covered, 64 * 64 / 2);
}

TEST(Levels, NoisesAreTheSameFieldInLongerSteps)
{
    NoiseSpec spec;
    spec.featureSize = 256;
    spec.octaves = 3;
    const Noise fine = makeNoise(spec), coarse = coarserNoise(fine, 3, true);
    ASSERT_EQ(coarse.octaves.size(), fine.octaves.size());
    for (std::int64_t i = -20; i < 20; ++i) {
        // The middle of the coarse voxel lies between two fine ones.
        const float low = noiseAt(fine, {i * 8 + 3, 0, 40 + 3}), high = noiseAt(fine, {i * 8 + 4, 0, 40 + 4});
        EXPECT_NEAR(noiseAt(coarse, {i, 0, 5}), (low + high) / 2, 2e-3);
    }
    EXPECT_TRUE(coarserNoise(fine, 8, false).octaves.empty()) << "a feature a voxel long would only alias";
    EXPECT_EQ(noiseAt(coarserNoise(fine, 8, false), {1, 2, 3}), 0.0F);
}

} // namespace
} // namespace fell::levels_test
