// SPDX-License-Identifier: Apache-2.0
#include "exchange/surface.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>
#include <tiny_gltf.h>

#include <cstring>
#include <map>
#include <sstream>

namespace fell::exchange_test {
namespace {

using test::demoTerrain;
using test::testTerrain;

VoxelBox box(std::int64_t x0, std::int64_t y0, std::int64_t z0, std::int64_t x1, std::int64_t y1, std::int64_t z1)
{
    return {{x0, y0, z0}, {x1, y1, z1}};
}

TEST(ParseBox, ReadsSixNumbersAndRefusesTheRest)
{
    const auto good = parseBox("-5,0,3,5,10,4");
    ASSERT_TRUE(good);
    EXPECT_EQ(good.value().low, (VoxelPos{-5, 0, 3}));
    EXPECT_EQ(good.value().high, (VoxelPos{5, 10, 4}));
    for (const char* text : {"", "1,2,3", "0,0,0,1,1,1,1", "0,0,0,1,1,x", "0,0,0,1,1,1 ", "0,0,0,0,1,1", "5,0,0,1,1,1",
             "0,0,0,2000,1,1", "0,0,0,1000,1000,1000", "9223372036854775807,0,0,1,1,1"})
        EXPECT_FALSE(parseBox(text)) << text;
}

TEST(Surface, IsWhatALookAtEveryVoxelAndItsRealNeighbourFinds)
{
    const auto terrain = testTerrain();
    const VoxelBox region = box(-9, 3, -20, 23, 21, 11); // does not fit the chunks
    fell::Setup setup;
    setup.chunk.edge = 16;
    const auto sides = surfaceOf(*terrain, setup, region);
    std::map<ChunkPos, VoxelChunk> chunks;
    const auto at = [&](VoxelPos v) {
        const ChunkPos chunk = chunkOf(v, 16);
        if (!chunks.contains(chunk))
            chunks.emplace(chunk, generateChunk(*findGenerator("samples"), *terrain, chunk, 16));
        const VoxelPos in = v - originOf(chunk, 16);
        return chunks.at(chunk).at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
    };
    std::size_t slow = 0;
    for (std::int64_t x = region.low.x; x < region.high.x; ++x)
        for (std::int64_t y = region.low.y; y < region.high.y; ++y)
            for (std::int64_t z = region.low.z; z < region.high.z; ++z)
                for (const Side side : kSides) {
                    const ChunkPos to = towards(side);
                    slow += at({x, y, z}) != kOpen && at({x + to.x, y + to.y, z + to.z}) == kOpen;
                }
    EXPECT_EQ(sides.size(), slow);
    EXPECT_GT(slow, 100u);
    for (const SurfaceSide& side : sides)
        EXPECT_EQ(side.material, at(region.low + VoxelPos{side.voxel[0], side.voxel[1], side.voxel[2]}));
}

TEST(Surface, DoesNotDependOnTheChunkEdge)
{
    const auto terrain = testTerrain();
    fell::Setup small, large;
    small.chunk.edge = 16;
    large.chunk.edge = 64;
    EXPECT_EQ(surfaceOf(*terrain, small, box(-20, 0, -20, 20, 20, 20)).size(),
        surfaceOf(*terrain, large, box(-20, 0, -20, 20, 20, 20)).size());
}

TEST(Surface, LevelGroundShowsItsTop)
{
    const auto sides = surfaceOf(*demoTerrain("level"), {}, box(0, -4, 0, 10, 4, 7));
    EXPECT_EQ(sides.size(), 70u); // the walls of the box border solid ground outside it
    for (const SurfaceSide& side : sides) {
        EXPECT_EQ(side.side, Side::Up);
        EXPECT_EQ(side.voxel[1], 3); // voxel -1, counted from the box's lower corner at -4
    }
}

/// Reads the little-endian number at `at` and moves on.
template <typename T> T take(const std::string& bytes, std::size_t& at)
{
    T value;
    std::memcpy(&value, bytes.data() + at, sizeof value);
    at += sizeof value;
    return value;
}

TEST(Ply, HoldsWhatItsHeaderSays)
{
    const auto terrain = demoTerrain("level");
    const auto sides = surfaceOf(*terrain, {}, box(0, -2, 0, 3, 2, 2));
    const ExportFile file = toPly(sides, terrain->recipe);
    const std::size_t body = file.bytes.find("end_header\n") + 11;
    EXPECT_EQ(file.bytes.rfind("ply\nformat binary_little_endian 1.0\n", 0), 0u);
    EXPECT_NE(file.bytes.find("element vertex 24\n"), std::string::npos);
    EXPECT_NE(file.bytes.find("element face 12\n"), std::string::npos);
    EXPECT_EQ(file.bytes.size(), body + 24 * (6 * 4 + 3) + 12 * (1 + 3 * 4));
    EXPECT_EQ(file.count.bytes, file.bytes.size());
    std::size_t at = body;
    double area = 0;
    std::vector<std::array<float, 3>> corners;
    for (int v = 0; v < 24; ++v) {
        corners.push_back({take<float>(file.bytes, at), take<float>(file.bytes, at), take<float>(file.bytes, at)});
        EXPECT_EQ(corners.back()[1], 2.0f);
        at += 15;
    }
    for (int f = 0; f < 12; ++f) {
        EXPECT_EQ(take<std::uint8_t>(file.bytes, at), 3);
        const auto i = take<std::int32_t>(file.bytes, at), j = take<std::int32_t>(file.bytes, at),
                   k = take<std::int32_t>(file.bytes, at);
        const auto& a = corners.at(static_cast<std::size_t>(i));
        const auto& b = corners.at(static_cast<std::size_t>(j));
        const auto& c = corners.at(static_cast<std::size_t>(k));
        // The y of the cross product: positive means that the face looks up.
        area += ((b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2])) / 2;
    }
    EXPECT_NEAR(area, 6, 1e-9);
}

TEST(Glb, OpensAgainWithPositionsInMetresAndAMaterialForEachLook)
{
    auto recipe = test::parseTestRecipe(test::fullRecipe()).take();
    recipe.voxelMetres = 0.5;
    const auto terrain = makeTerrain(recipe);
    const auto sides = surfaceOf(*terrain, {}, box(-16, 0, -16, 16, 24, 16));
    const ExportFile file = toGlb(sides, terrain->recipe);
    tinygltf::Model model;
    tinygltf::TinyGLTF reader;
    std::string error, warning;
    ASSERT_TRUE(reader.LoadBinaryFromMemory(&model, &error, &warning,
        reinterpret_cast<const unsigned char*>(file.bytes.data()), static_cast<unsigned>(file.bytes.size())))
        << error;
    EXPECT_TRUE(warning.empty()) << warning;
    ASSERT_EQ(model.meshes.size(), 1u);
    std::size_t triangles = 0;
    for (const auto& primitive : model.meshes[0].primitives) {
        triangles += model.accessors[static_cast<std::size_t>(primitive.indices)].count / 3;
        const auto& positions = model.accessors[static_cast<std::size_t>(primitive.attributes.at("POSITION"))];
        ASSERT_EQ(positions.maxValues.size(), 3u);
        EXPECT_LE(positions.maxValues[0], 16.0); // 32 voxels of half a metre
        EXPECT_GE(positions.minValues[0], 0.0);
        EXPECT_GE(primitive.material, 0);
    }
    EXPECT_EQ(triangles, sides.size() * 2);
    EXPECT_EQ(model.materials.size(), model.meshes[0].primitives.size());
    // "turf" has top #50A050 in the test set: green is the strongest of its factors.
    bool turf = false;
    for (const auto& material : model.materials)
        if (material.name == "turf top") {
            turf = true;
            EXPECT_GT(
                material.pbrMetallicRoughness.baseColorFactor[1], material.pbrMetallicRoughness.baseColorFactor[0]);
            EXPECT_NEAR(material.pbrMetallicRoughness.baseColorFactor[0], 0.0802,
                0.0002); // (80/255 + 0.055)/1.055 to the power 2.4
        }
    EXPECT_TRUE(turf);
}

TEST(Glb, AnEmptyBoxIsAFileWithoutAMesh)
{
    const auto terrain = demoTerrain("level");
    const ExportFile file = toGlb(surfaceOf(*terrain, {}, box(0, 5, 0, 8, 8, 8)), terrain->recipe);
    tinygltf::Model model;
    tinygltf::TinyGLTF reader;
    std::string error, warning;
    EXPECT_TRUE(reader.LoadBinaryFromMemory(&model, &error, &warning,
        reinterpret_cast<const unsigned char*>(file.bytes.data()), static_cast<unsigned>(file.bytes.size())))
        << error;
    EXPECT_TRUE(model.meshes.empty());
    EXPECT_EQ(file.count.triangles, 0u);
}

} // namespace
} // namespace fell::exchange_test
