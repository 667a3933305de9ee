// SPDX-License-Identifier: Apache-2.0
// Levels at corners against the plain way, and quads counted by hand.
#include "core/mesh/light_bake_fixture.h"
#include "support/all_names.h"
#include "support/lit_blocks.h"
#include <fell/mesh/incremental_mesh.h>

#include <gtest/gtest.h>

#include <algorithm>
#include <cstring>
#include <random>

namespace fell::lit_mesh_test {
namespace {

using namespace test;

TEST(LitLayouts, AllSayTheSameLight)
{
    std::mt19937 dice(3);
    std::vector<Quad> quads;
    std::vector<QuadLight> lights;
    for (int i = 0; i < 200; ++i) {
        quads.push_back(packQuad({1, 2, 3, 4, 5, kSides[dice() % 6], static_cast<Material>(dice() % 4096),
            static_cast<std::uint8_t>(dice() & 255)}));
        QuadLight light;
        for (PackedLight& corner : light.corners)
            corner = static_cast<PackedLight>(dice() & 0xFFFFFF);
        if (i % 3 == 0) // alike at all corners, as most are
            light.corners.fill(light.corners[0]);
        if (i % 2 == 0)
            quads.back() &= ~(Quad{255} << kOcclusionBit);
        if (i % 5 < 2)
            quads.back() |= Quad{1} << kRingBit;
        lights.push_back(light);
    }
    const auto floats = encodeQuads(*findLayout("floats"), quads, lights),
               corners = encodeQuads(*findLayout("corners"), quads, lights),
               packed = encodeQuads(*findLayout("packed"), quads, lights);
    ASSERT_EQ(floats.size(), quads.size() * 192);
    ASSERT_EQ(corners.size(), quads.size() * 32);
    ASSERT_EQ(packed.size(), quads.size() * 20);
    for (std::size_t q = 0; q < quads.size(); ++q) {
        std::uint32_t record[5];
        std::memcpy(record, packed.data() + q * 20, 20);
        EXPECT_EQ(record[0] | std::uint64_t{record[1]} << 32, quads[q]);
        EXPECT_EQ(record[2] & 0xFFFFFF, lights[q].corners[0]);
        EXPECT_EQ((record[2] >> 24 | record[3] << 8) & 0xFFFFFF, lights[q].corners[1]);
        EXPECT_EQ((record[3] >> 16 | record[4] << 16) & 0xFFFFFF, lights[q].corners[2]);
        EXPECT_EQ(record[4] >> 8, lights[q].corners[3]);
        const QuadFields fields = unpackQuad(quads[q]);
        const auto round = cornersOf(fields);
        const std::size_t first = flipDiagonal(fields.ambientOcclusion, lights[q]) ? 1 : 0;
        for (std::size_t i = 0; i < 4; ++i) {
            std::uint32_t words[2];
            std::memcpy(words, corners.data() + q * 32 + i * 8, 8);
            const PackedLight light = words[1] >> 12 | (words[0] >> 26 & 15) << 20;
            EXPECT_EQ(words[1] & 4095, fields.material);
            const std::size_t corner = signOf(fields.side) > 0 ? (first + i) % 4 : (4 - i + (first ? 3 : 0)) % 4;
            EXPECT_EQ(light, lights[q].corners[corner]) << static_cast<int>(fields.side) << " " << i;
            const std::array<std::uint32_t, 3> place{words[0] & 127, words[0] >> 7 & 127, words[0] >> 14 & 127};
            for (std::size_t axis = 0; axis < 3; ++axis)
                EXPECT_EQ(static_cast<int>(place[axis]), round[(first + i) % 4][axis]);
        }
        for (std::size_t i = 0; i < 6; ++i) {
            float vertex[8];
            std::memcpy(vertex, floats.data() + q * 192 + i * 32, 32);
            std::uint32_t words[2];
            std::memcpy(words, corners.data() + q * 32 + kQuadIndices[i] * 8, 8);
            const auto material = static_cast<std::uint32_t>(vertex[6]),
                       darkness = static_cast<std::uint32_t>(vertex[7]);
            EXPECT_EQ(material & 4095, words[1] & 4095);
            EXPECT_EQ(material >> 12 | darkness >> 2 << 12, words[1] >> 12 | (words[0] >> 26 & 15) << 20);
            EXPECT_EQ(darkness & 3, words[0] >> 24 & 3);
        }
    }
}

TEST(LitMesh, OfKeptQuadsIsThatOfMeshingAnew)
{
    const Baked world = dust("colour", 21);
    for (const char* layout : {"floats", "corners", "packed"})
        for (const bool byBlock : {false, true}) {
            const ChunkMeshOptions options{findMesher("greedy-bits"),
                {findLayout(layout), {3, 1}, OcclusionForm::Corners, false, byBlock}, {&world.sides, true}};
            ChunkSurface kept;
            meshQuads(world.padded, options, kept);
            const ChunkMesh rebuilt = buildChunkMesh(world.padded, options, &world.light),
                            again = encodeMesh(world.padded, kept, options, &world.light);
            EXPECT_TRUE(rebuilt.lit);
            EXPECT_EQ(rebuilt.vertices, again.vertices);
            EXPECT_EQ(rebuilt.quads, again.quads);
            EXPECT_GE(rebuilt.quadCount(), kept.count());
            EXPECT_EQ(rebuilt.clear.size(), rebuilt.quads[1] + rebuilt.quads[2]) << "what is sorted is what is drawn";
        }
}

/// What differs between two chunks, voxel by voxel; nothing where one is empty.
ChunkDifference differenceOf(const PaddedVoxels& voxels, const PaddedLight& light, const Baked& now)
{
    if (voxels.edge == 0)
        return {};
    ChunkDifference out{ChunkBox::nothing(), ChunkBox::nothing()};
    for (int y = -1; y <= kEdge; ++y)
        for (int z = -1; z <= kEdge; ++z)
            for (int x = -1; x <= kEdge; ++x) {
                const ChunkBox here{{x, y, z}, {x + 1, y + 1, z + 1}, 1};
                if (voxels.at(x, y, z) != now.padded.at(x, y, z))
                    out.voxels->add(here);
                bool differs = light.isPassable(x, y, z) != now.light.isPassable(x, y, z);
                for (int c = 0; c < light.channels; ++c)
                    differs |= light.at(c, x, y, z) != now.light.at(c, x, y, z);
                if (differs)
                    out.light->add(here);
            }
    return out;
}

TEST(LitMesh, MeshedAgainIsTheMeshFromNothing)
{
    const auto bytesOf = [](const TriangleList& shapes) {
        return std::string_view(
            reinterpret_cast<const char*>(shapes.vertices.data()), shapes.vertices.size() * sizeof(MeshVertex));
    };
    for (const char* mode : {"lamp-sky", "colour", "colour-sky"}) {
        std::size_t withShapes = 0;
        std::mt19937 dice(5);
        std::vector<Material> voxels(std::size_t{kEdge} * kEdge * kEdge);
        for (Material& one : voxels)
            one = dice() % 100 < 35 ? kSlate : kOpen;
        const auto world = [&] {
            return Baked(
                [&](int x, int y, int z) { return voxels[static_cast<std::size_t>((y * kEdge + z) * kEdge + x)]; },
                mode);
        };
        RemeshCache before;
        PaddedVoxels lastVoxels;
        PaddedLight lastLight;
        for (int edit = 0; edit < 60; ++edit) {
            // One voxel, sometimes none, and now and then enough that hardly a quad stays.
            const int others = edit % 20 == 19 ? 500 : edit % 7 == 6 ? 0 : 1;
            for (int i = 0; i < others; ++i)
                voxels[dice() % voxels.size()] = std::array{kOpen, kSlate, kLamp, kGlass, kHalf}[dice() % 5];
            const Baked now = world();
            const bool isUnknown = edit == 30; // the difference is unknown
            const ChunkDifference differs = isUnknown ? ChunkDifference{} : differenceOf(lastVoxels, lastLight, now);
            lastVoxels = now.padded;
            lastLight = now.light;
            // A setup may leave occlusion out.
            const OcclusionForm occlusion
                = std::string_view(mode) != "colour-sky" ? OcclusionForm::Rings : OcclusionForm::None;
            const ChunkMeshOptions options{findMesher("greedy-bits"),
                {findLayout("packed"), findLightMode(mode)->format(), occlusion, true}, {&now.sides, false}};
            const ChunkMesh rebuilt = buildChunkMesh(now.padded, options, &now.light),
                            again = remesh(now.padded, options, &now.light, nullptr, differs, before);
            ASSERT_EQ(rebuilt.vertices, again.vertices) << mode << ", edit " << edit;
            ASSERT_EQ(rebuilt.rims, again.rims) << mode << ", edit " << edit;
            ASSERT_EQ(rebuilt.cells.words, again.cells.words) << mode << ", edit " << edit;
            ASSERT_EQ(rebuilt.quads, again.quads);
            ASSERT_EQ(rebuilt.varyingLight, again.varyingLight);
            ASSERT_EQ(rebuilt.clear, again.clear);
            ASSERT_EQ(bytesOf(rebuilt.shapes), bytesOf(again.shapes)) << mode << ", edit " << edit;
            ASSERT_EQ(rebuilt.shapes.indices, again.shapes.indices);
            withShapes += !rebuilt.shapes.isEmpty();
        }
        EXPECT_GT(withShapes, 30u);
    }
}

TEST(LitMesh, CellsAreOfTheGradedSolidQuadsAlone)
{
    const Baked world = dust("colour", 21);
    ChunkMeshOptions options{findMesher("greedy-bits"), {findLayout("packed"), {3, 1}}, {&world.sides, false}};
    const ChunkMesh cut = buildChunkMesh(world.padded, options, &world.light);
    EXPECT_TRUE(cut.cells.words.empty());
    options.format.occlusion = OcclusionForm::Rings;
    options.format.wantsCells = true;
    const ChunkMesh mesh = buildChunkMesh(world.padded, options, &world.light);
    EXPECT_LT(mesh.quads[0], cut.quads[0]) << "light cuts none";
    std::uint32_t at = 0, heads = 0, areas = 0;
    const auto quadAt = [&mesh](std::uint32_t n) {
        std::uint32_t words[5];
        std::memcpy(words, mesh.vertices.data() + std::size_t{n} * 20, 20);
        return std::array{words[0], words[2] & 0xFFFFFF, words[4] >> 8}; // its low word; light of its corners 0 and 3
    };
    for (const std::uint32_t count : mesh.sides)
        at += count;
    for (const std::uint32_t count : mesh.varyingLight)
        for (std::uint32_t i = 0; i < count; ++i, ++at, ++heads) {
            const auto [low, head, last] = quadAt(at);
            ASSERT_EQ(head, last);
            ASSERT_LT(head * 2, mesh.cells.words.size());
            EXPECT_EQ(mesh.cells.words[head * 2], low) << "quad " << at;
            const QuadFields q = unpackQuad(low);
            areas += static_cast<std::uint32_t>(q.width * q.height);
        }
    EXPECT_EQ(at, mesh.quads[0]);
    EXPECT_GT(heads, 100u);
    EXPECT_EQ(mesh.cells.words.size(), 2u * (heads + areas));
    options.format.byBlock = true; // then corners have their light
    EXPECT_TRUE(buildChunkMesh(world.padded, options, &world.light).cells.words.empty());
}

TEST(LitMesh, AShapedBlockHasTheLightOfItsVoxel)
{
    MeshVertex vertex;
    vertex.material = 0xABC;
    vertex.part = 3;
    vertex.setLight(0xFEDCBA);
    EXPECT_EQ(vertex.light(), 0xFEDCBAu);
    EXPECT_EQ(vertex.material, 0xABC);
    EXPECT_EQ(vertex.part, 3);
    const Baked world = dust("colour", 2);
    int lit = 0;
    for (int y = 0; y < kEdge; ++y)
        for (int x = 0; x < kEdge; ++x)
            for (int c = 0; c < 4; ++c) {
                int want = world.light.isPassable(x, y, 5) ? world.light.at(c, x, y, 5) : 0;
                if (!world.light.isPassable(x, y, 5))
                    for (const auto& [dx, dy, dz] :
                        {std::array{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}})
                        if (world.light.isPassable(x + dx, y + dy, 5 + dz))
                            want = std::max(want, world.light.at(c, x + dx, y + dy, 5 + dz));
                EXPECT_EQ(levelOf(lightOfShape(world.light, x, y, 5), c), want);
                lit += want > 0;
            }
    EXPECT_GT(lit, 50);
}

} // namespace
} // namespace fell::lit_mesh_test
