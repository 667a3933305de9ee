// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/exchange/export_mesh.h>

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

/// The sides of the surface one by one, as a mesher that merges none emits them.
std::size_t areaOf(const BoxSurface& surface)
{
    std::size_t area = 0;
    for (const SurfaceQuad& quad : surface.quads)
        area += static_cast<std::size_t>(quad.width) * static_cast<std::size_t>(quad.height);
    return area;
}

fell::Setup exposed(int edge = 32)
{
    fell::Setup setup;
    setup.chunk.edge = edge;
    setup.mesh.mesher = "exposed";
    return setup;
}

TEST(Surface, IsWhatALookAtEveryVoxelAndItsRealNeighbourFinds)
{
    const auto terrain = testTerrain();
    const VoxelBox region = box(-9, 3, -20, 23, 21, 11); // does not fit the chunks
    const BoxSurface sides = surfaceOf(*terrain, exposed(16), region);
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
                    const ChunkPos to = stepOf(side);
                    slow += at({x, y, z}) != kOpen && at({x + to.x, y + to.y, z + to.z}) == kOpen;
                }
    EXPECT_EQ(sides.quads.size(), slow);
    EXPECT_GT(slow, 100u);
    for (const SurfaceQuad& side : sides.quads)
        EXPECT_EQ(side.material, at(region.low + VoxelPos{side.voxel[0], side.voxel[1], side.voxel[2]}));
    for (const char* mesher : {"greedy", "greedy-bits"}) {
        fell::Setup merged = exposed(32);
        merged.mesh.mesher = mesher;
        const BoxSurface fewer = surfaceOf(*terrain, merged, region);
        EXPECT_EQ(areaOf(fewer), slow) << mesher << ": cut at the box, not dropped";
        EXPECT_LT(fewer.quads.size(), slow);
        for (const SurfaceQuad& quad : fewer.quads)
            for (std::size_t axis = 0; axis < 3; ++axis)
                EXPECT_GE(quad.voxel[axis], 0);
    }
}

TEST(Surface, DoesNotDependOnTheChunkEdge)
{
    const auto terrain = testTerrain();
    EXPECT_EQ(areaOf(surfaceOf(*terrain, exposed(16), box(-20, 0, -20, 20, 20, 20))),
        areaOf(surfaceOf(*terrain, exposed(64), box(-20, 0, -20, 20, 20, 20))));
}

TEST(Surface, LevelGroundShowsItsTop)
{
    const BoxSurface surface = surfaceOf(*demoTerrain("level"), exposed(), box(0, -4, 0, 10, 4, 7));
    EXPECT_EQ(surface.quads.size(), 70u); // the walls of the box border solid ground outside it
    for (const SurfaceQuad& side : surface.quads) {
        EXPECT_EQ(side.side, Side::Up);
        EXPECT_EQ(side.voxel[1], 3); // voxel -1, counted from the box's lower corner at -4
    }
}

TEST(Surface, AnEmptyBoxKnowsWhereTheGroundIs)
{
    const auto terrain = demoTerrain("level");
    const VoxelBox high = box(0, 500, 0, 8, 508, 8);
    EXPECT_TRUE(surfaceOf(*terrain, exposed(), high).isEmpty());
    EXPECT_EQ(groundAt(*terrain, high, nullptr), 0);
    WorldChanges changes;
    changes.set(std::vector<VoxelChange>{{{4, 20, 4}, kOpen, 1}});
    EXPECT_EQ(groundAt(*terrain, high, &changes), 21) << "on the block that was put there";
    EXPECT_EQ(groundAt(*demoTerrain("solid"), high, nullptr), std::nullopt);
}

/// A level world with a half block, a slope and a pane of glass on it.
struct ShapedWorld {
    std::shared_ptr<const Terrain> terrain;
    WorldChanges changes;
    ShapedWorld()
    {
        Recipe recipe = findWorld("level", demoFolder()).take();
        BlockKind half, glass;
        half.name = "half";
        half.shape = std::make_shared<const BlockShape>(halfShape());
        half.shapeName = "half";
        half.top = {200, 10, 10};
        glass.name = "glass";
        glass.matter = Matter::SeeThrough;
        glass.opacity = 0.25F;
        recipe.blocks.kinds.push_back(half);
        recipe.blocks.kinds.push_back(glass);
        const auto last = static_cast<Material>(recipe.blocks.kinds.size() - 1);
        terrain = makeTerrain(std::move(recipe));
        changes.set(
            std::vector<VoxelChange>{{{4, 0, 4}, kOpen, static_cast<Material>(last - 1)}, {{8, 0, 8}, kOpen, last}});
    }
    [[nodiscard]] BoxSurface surface() const
    {
        return surfaceOf(*terrain, exposed(), box(0, -4, 0, 16, 4, 16), {}, &changes);
    }
};

TEST(Surface, ShapedBlocksAreInItWithoutWhatTheirNeighboursCover)
{
    const ShapedWorld world;
    const BoxSurface surface = world.surface();
    EXPECT_EQ(surface.shapedBlocks, 1u);
    EXPECT_EQ(surface.triangles.size(), 10u) << "a box of half the height without its floor: five sides";
    for (const SurfaceTriangle& triangle : surface.triangles)
        for (const glm::vec3& corner : triangle.corners) {
            EXPECT_GE(corner.x, 4);
            EXPECT_LE(corner.x, 5);
            EXPECT_GE(corner.y, 4);
            EXPECT_LE(corner.y, 4.5F);
        }
}

TEST(ExportParts, VerticesAreSharedBetweenSidesThatMeetInOnePlane)
{
    const auto terrain = demoTerrain("level");
    const auto parts = exportParts(surfaceOf(*terrain, exposed(), box(0, -2, 0, 3, 2, 2)), terrain->recipe.blocks);
    ASSERT_EQ(parts.size(), 1u);
    EXPECT_EQ(parts[0].vertices.size(), 4u * 3) << "a grid of 3 by 2 sides";
    EXPECT_EQ(parts[0].indices.size(), 3u * 2 * 6);
    double area = 0;
    for (std::size_t i = 0; i < parts[0].indices.size(); i += 3) {
        const auto corner = [&](std::size_t k) { return parts[0].vertices[parts[0].indices[i + k]].place; };
        const glm::vec3 normal = glm::cross(corner(1) - corner(0), corner(2) - corner(0));
        EXPECT_GT(normal.y, 0) << "counter-clockwise from above";
        area += normal.y / 2;
    }
    EXPECT_NEAR(area, 6, 1e-6);
}

TEST(ExportParts, TexturesReadFromLeftToRightOnEverySide)
{
    // From outside, up being up (on top and bottom: north, and south), u grows to the right and v downward.
    const std::array<std::pair<Side, std::array<glm::vec3, 2>>, 6> kRightAndDown{
        {{Side::East, {{{0, 0, -1}, {0, -1, 0}}}}, {Side::West, {{{0, 0, 1}, {0, -1, 0}}}},
            {Side::Up, {{{1, 0, 0}, {0, 0, 1}}}}, {Side::Down, {{{1, 0, 0}, {0, 0, -1}}}},
            {Side::South, {{{1, 0, 0}, {0, -1, 0}}}}, {Side::North, {{{-1, 0, 0}, {0, -1, 0}}}}}};
    for (const auto& [side, axes] : kRightAndDown) {
        const glm::vec3 from{3, 5, 7};
        const auto at = textureAt(from, side), right = textureAt(from + axes[0], side),
                   down = textureAt(from + axes[1], side);
        EXPECT_EQ(right[0] - at[0], 1) << static_cast<int>(side);
        EXPECT_EQ(right[1], at[1]);
        EXPECT_EQ(down[1] - at[1], 1) << static_cast<int>(side);
        EXPECT_EQ(down[0], at[0]);
        const ChunkPos normal = stepOf(side);
        EXPECT_EQ(glm::cross(axes[0], -axes[1]), glm::vec3(normal.x, normal.y, normal.z)) << "and not mirrored";
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
    const ExportFile file = toPly(surfaceOf(*terrain, exposed(), box(0, -2, 0, 3, 2, 2)), terrain->recipe);
    const std::size_t body = file.bytes.find("end_header\n") + 11;
    EXPECT_EQ(file.bytes.rfind("ply\nformat binary_little_endian 1.0\n", 0), 0u);
    EXPECT_NE(file.bytes.find("element vertex 12\n"), std::string::npos);
    EXPECT_NE(file.bytes.find("element face 12\n"), std::string::npos);
    EXPECT_EQ(file.bytes.size(), body + 12 * (6 * 4 + 3) + 12 * (1 + 3 * 4));
    EXPECT_EQ(file.count.bytes, file.bytes.size());
    EXPECT_EQ(file.count.vertices, 12u);
    std::size_t at = body;
    double area = 0;
    std::vector<std::array<float, 3>> corners;
    for (int v = 0; v < 12; ++v) {
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

tinygltf::Model readAgain(const ExportFile& file)
{
    tinygltf::Model model;
    tinygltf::TinyGLTF reader;
    std::string error, warning;
    EXPECT_TRUE(reader.LoadBinaryFromMemory(&model, &error, &warning,
        reinterpret_cast<const unsigned char*>(file.bytes.data()), static_cast<unsigned>(file.bytes.size())))
        << error;
    EXPECT_TRUE(warning.empty()) << warning;
    return model;
}

TEST(Glb, OpensAgainWithPositionsInMetresAndAMaterialForEachLook)
{
    auto recipe = test::parseTestRecipe(test::fullRecipe()).take();
    recipe.voxelMetres = 0.5;
    const auto terrain = makeTerrain(recipe);
    const BoxSurface surface = surfaceOf(*terrain, exposed(), box(-16, 0, -16, 16, 24, 16));
    const tinygltf::Model model = readAgain(toGlb(surface, terrain->recipe));
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
    EXPECT_EQ(triangles, surface.quads.size() * 2);
    EXPECT_EQ(model.nodes[0].translation, (std::vector<double>{-8, 0, -8})) << "where the box lies in the world";
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

TEST(Glb, GlassIsBlendedAndTexturesAreInTheFile)
{
    const ShapedWorld world;
    const tinygltf::Model glassy = readAgain(toGlb(world.surface(), world.terrain->recipe));
    int blended = 0;
    for (const auto& material : glassy.materials)
        if (material.name.rfind("glass", 0) == 0) {
            EXPECT_EQ(material.alphaMode, "BLEND");
            EXPECT_EQ(material.pbrMetallicRoughness.baseColorFactor[3], 0.25);
            ++blended;
        } else {
            EXPECT_EQ(material.alphaMode, "OPAQUE");
        }
    EXPECT_GE(blended, 2) << "its top and its sides";

    const auto dale = demoTerrain("corrowdale");
    const auto ground = static_cast<std::int64_t>(groundHeight(*dale, 0, 0));
    const ExportFile file = toGlb(surfaceOf(*dale, exposed(), box(-8, ground - 8, -8, 8, ground + 8, 8)), dale->recipe);
    const tinygltf::Model model = readAgain(file);
    ASSERT_FALSE(model.images.empty());
    for (const auto& image : model.images) {
        EXPECT_EQ(image.mimeType, "image/png");
        EXPECT_GE(image.bufferView, 0) << "embedded";
    }
    for (const auto& primitive : model.meshes[0].primitives) {
        const auto& material = model.materials[static_cast<std::size_t>(primitive.material)];
        EXPECT_EQ(
            primitive.attributes.contains("TEXCOORD_0"), material.pbrMetallicRoughness.baseColorTexture.index >= 0);
    }
    EXPECT_TRUE(file.leftOut.empty());
    EXPECT_FALSE(
        toPly(surfaceOf(*dale, exposed(), box(-8, ground - 8, -8, 8, ground + 8, 8)), dale->recipe).leftOut.empty());
}

TEST(Glb, BoxesSideBySideMeetWhereTheyDoInTheWorld)
{
    auto recipe = test::parseTestRecipe(test::fullRecipe()).take();
    recipe.voxelMetres = 0.25;
    const auto terrain = makeTerrain(recipe);
    // Bounds along x, in metres of the world: the node's place and what its vertices say.
    const auto reachOf = [&terrain](const VoxelBox& of) {
        const tinygltf::Model model = readAgain(toGlb(surfaceOf(*terrain, exposed(), of), terrain->recipe));
        std::array<double, 2> reach{1e30, -1e30};
        for (const auto& primitive : model.meshes.at(0).primitives) {
            const auto& places = model.accessors[static_cast<std::size_t>(primitive.attributes.at("POSITION"))];
            reach[0] = std::min(reach[0], model.nodes[0].translation[0] + places.minValues[0]);
            reach[1] = std::max(reach[1], model.nodes[0].translation[0] + places.maxValues[0]);
        }
        return reach;
    };
    const auto left = reachOf(box(-24, -20, -16, 8, 40, 16)), right = reachOf(box(8, -20, -16, 40, 40, 16));
    EXPECT_NEAR(left[0], -24 * 0.25, 1e-6);
    EXPECT_NEAR(left[1], 8 * 0.25, 1e-6);
    EXPECT_NEAR(right[0], 8 * 0.25, 1e-6) << "the second begins where the first ends";
    EXPECT_NEAR(right[1], 40 * 0.25, 1e-6);
}

TEST(ExportParts, HoldTheSameAreaWhicheverMesherMadeThem)
{
    const auto terrain = testTerrain();
    const auto areaWith = [&terrain](const char* mesher) {
        fell::Setup setup = exposed(32);
        setup.mesh.mesher = mesher;
        std::map<std::string, double> areas; // by look
        for (const ExportPart& part :
            exportParts(surfaceOf(*terrain, setup, box(-9, 0, -13, 22, 30, 17)), terrain->recipe.blocks))
            for (std::size_t i = 0; i < part.indices.size(); i += 3) {
                const auto corner = [&](std::size_t k) { return part.vertices[part.indices[i + k]].place; };
                const glm::vec3 across = glm::cross(corner(1) - corner(0), corner(2) - corner(0));
                EXPECT_GT(glm::dot(across, part.vertices[part.indices[i]].normal), 0) << "seen from outside";
                areas[part.name] += glm::length(across) / 2;
            }
        return areas;
    };
    const auto plain = areaWith("exposed"), merged = areaWith("greedy-bits");
    ASSERT_EQ(plain.size(), merged.size());
    for (const auto& [look, area] : plain)
        EXPECT_NEAR(merged.at(look), area, 1e-3 * area) << look;
}

TEST(Obj, NamesItsMaterialsAndEveryCornerOfItsFaces)
{
    const ShapedWorld world;
    const BoxSurface surface = world.surface();
    const ExportFile file = toObj(surface, world.terrain->recipe, "box.mtl");
    EXPECT_NE(file.bytes.find("\nmtllib box.mtl\n"), std::string::npos);
    std::istringstream lines(file.bytes);
    std::string line;
    std::size_t vertices = 0, faces = 0, largest = 0;
    while (std::getline(lines, line)) {
        vertices += line.rfind("v ", 0) == 0;
        if (line.rfind("usemtl ", 0) == 0) {
            EXPECT_NE(file.materials.find("newmtl " + line.substr(7) + "\n"), std::string::npos) << line;
        }
        if (line.rfind("f ", 0) == 0) {
            ++faces;
            std::istringstream corners(line.substr(2));
            std::string corner;
            int count = 0;
            while (corners >> corner) {
                largest = std::max<std::size_t>(largest, std::stoul(corner));
                ++count;
            }
            EXPECT_EQ(count, 3);
        }
    }
    EXPECT_EQ(faces, surface.quads.size() * 2 + surface.triangles.size());
    EXPECT_EQ(faces, file.count.triangles);
    EXPECT_EQ(vertices, file.count.vertices);
    EXPECT_EQ(largest, vertices) << "they are counted from 1, and each is used";
    EXPECT_NE(file.materials.find("d 0.25"), std::string::npos);
}

TEST(Glb, AnEmptyBoxIsAFileWithoutAMesh)
{
    const auto terrain = demoTerrain("level");
    const ExportFile file = toGlb(surfaceOf(*terrain, exposed(), box(0, 5, 0, 8, 8, 8)), terrain->recipe);
    EXPECT_TRUE(readAgain(file).meshes.empty());
    EXPECT_EQ(file.count.triangles, 0u);
}

} // namespace
} // namespace fell::exchange_test
