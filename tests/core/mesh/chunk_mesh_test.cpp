// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/mesh/chunk_mesh.h>

#include <algorithm>
#include <gtest/gtest.h>

namespace fell::chunk_mesh_test {
namespace {

BlockSet shapedBlocks()
{
    BlockSet blocks;
    blocks.kinds.push_back({.name = "slate"});
    blocks.kinds.push_back({.name = "half", .shape = std::make_shared<const BlockShape>(halfShape())});
    blocks.kinds.push_back({.name = "water", .matter = Matter::Liquid});
    return blocks;
}
constexpr Material kSlate = 1, kHalf = 2, kWater = 3;

struct Placed {
    int x, y, z;
    Material material;
};

PaddedVoxels voxelsWith(std::initializer_list<Placed> placed)
{
    PaddedVoxels voxels{16, kMinApron, std::vector<Material>(18 * 18 * 18)};
    for (const Placed& p : placed)
        voxels.voxels[voxels.index(p.x, p.y, p.z)] = p.material;
    return voxels;
}

TriangleList baked(const PaddedVoxels& voxels)
{
    const SideRules rules = sideRulesOf(shapedBlocks());
    TriangleList out;
    bakeShapes(voxels, rules, out);
    return out;
}

TEST(BakeShapes, LeavesOutSidesThatNeighboursCover)
{
    // By hand: a half block has six sides of two triangles, which share four vertices.
    const auto sidesOf = [](std::initializer_list<Placed> placed) {
        const TriangleList all = baked(voxelsWith(placed));
        EXPECT_EQ(all.vertices.size(), all.count() * 2);
        return all.count() / 2;
    };
    EXPECT_EQ(sidesOf({{3, 3, 3, kHalf}}), 6u);
    EXPECT_EQ(sidesOf({{3, 3, 3, kHalf}, {3, 2, 3, kSlate}}), 5u) << "stone below its floor";
    EXPECT_EQ(sidesOf({{3, 3, 3, kHalf}, {3, 4, 3, kSlate}}), 6u) << "its top is below the side";
    EXPECT_EQ(sidesOf({{3, 3, 3, kHalf}, {4, 3, 3, kHalf}}), 10u) << "two halves side by side";
    EXPECT_EQ(sidesOf({{3, 3, 3, kHalf}, {3, 3, 4, kWater}}), 6u) << "water is seen through";
    EXPECT_EQ(sidesOf({{15, 3, 3, kHalf}, {16, 3, 3, kSlate}}), 5u) << "across the chunk's border";
}

TEST(BakeShapes, PutsThemInTheirVoxel)
{
    for (const MeshVertex& vertex : baked(voxelsWith({{5, 6, 7, kHalf}})).vertices) {
        EXPECT_TRUE(vertex.place[0] == 5 * 256 || vertex.place[0] == 6 * 256);
        EXPECT_TRUE(vertex.place[1] == 6 * 256 || vertex.place[1] == 6 * 256 + 128);
        EXPECT_TRUE(vertex.place[2] == 7 * 256 || vertex.place[2] == 8 * 256);
        EXPECT_EQ(vertex.material, kHalf);
    }
}

TEST(BakeShapes, DropsAFootThatIsTooSmallToCoverAnything)
{
    // One triangle on the floor of its voxel, a tenth of it: on stone it cannot be seen, on air and on a half block it
    // can.
    BlockSet blocks = shapedBlocks();
    ShapeTriangle foot{{{{0.5F, 0, 0.5F}, {0.6F, 0, 0.5F}, {0.5F, 0, 0.6F}}}, {0, -1, 0}, std::nullopt, std::nullopt};
    blocks.kinds.push_back({.name = "post", .shape = std::make_shared<const BlockShape>(shapeFrom({foot}))});
    const SideRules rules = sideRulesOf(blocks);
    ASSERT_EQ(rules.covers[4][static_cast<std::size_t>(Side::Down)], 0);
    for (const auto& [below, vertices] : {std::pair{kOpen, 3u}, {kSlate, 0u}, {kHalf, 3u}, {kWater, 3u}}) {
        TriangleList out;
        bakeShapes(voxelsWith({{3, 3, 3, Material{4}}, {3, 2, 3, below}}), rules, out);
        EXPECT_EQ(std::ranges::count_if(out.vertices, [](const MeshVertex& v) { return v.material == 4; }), vertices)
            << below;
    }
}

ChunkMesh built(const PaddedVoxels& voxels, bool bake, bool byBlock)
{
    static const SideRules kRules = sideRulesOf(shapedBlocks());
    return buildChunkMesh(voxels,
        {findMesher("greedy-bits"), {findLayout("packed"), {}, OcclusionForm::None, false, byBlock}, {&kRules, false},
            bake});
}

TEST(ChunkMesh, KeepsMattersApartAndShapesBakedOrListed)
{
    const PaddedVoxels voxels = voxelsWith({{1, 1, 1, kSlate}, {2, 1, 1, kSlate}, {9, 9, 9, kWater}, {4, 4, 4, kHalf}});
    const ChunkMesh mesh = built(voxels, true, false);
    EXPECT_EQ(mesh.quads, (std::array<std::uint32_t, 3>{6, 0, 6}));
    EXPECT_EQ(mesh.vertices.size(), 12u * 8);
    EXPECT_EQ(mesh.clear.size(), 6u);
    EXPECT_EQ(mesh.shapes.count(), 12u);
    EXPECT_EQ(mesh.shapes.vertices.size(), 24u);
    EXPECT_TRUE(mesh.objects.empty());
    const ChunkMesh listed = built(voxels, false, false);
    EXPECT_TRUE(listed.shapes.isEmpty());
    ASSERT_EQ(listed.objects.size(), 1u);
    EXPECT_EQ(listed.objects[0].voxel, (std::array<std::uint8_t, 3>{4, 4, 4}));
}

TEST(ChunkMesh, ListsBlocksByVoxelForADrawEach)
{
    const ChunkMesh mesh = built(voxelsWith({{1, 1, 1, kSlate}, {2, 1, 1, kSlate}, {8, 1, 1, kSlate}}), true, true);
    ASSERT_EQ(mesh.blocks.size(), 3u);
    std::vector<std::uint32_t> counts;
    for (const BlockRange& block : mesh.blocks)
        counts.push_back(block.count);
    std::sort(counts.begin(), counts.end());
    EXPECT_EQ(counts, (std::vector<std::uint32_t>{5, 5, 6})) << "two share a face, one is alone";
    EXPECT_EQ(mesh.quads[0], 16u);
}

} // namespace
} // namespace fell::chunk_mesh_test
