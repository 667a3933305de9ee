// SPDX-License-Identifier: Apache-2.0
// Chunks that are built in one call, against the stages called one by one, and what a mesher with a wide apron is
// given.
#include <fell/stream/chunk_builder.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/stream/level_source.h>
#include <fell/stream/sky_cache.h>
#include <fell/stream/thread_clock.h>

#include <gtest/gtest.h>

#include <array>
#include <string_view>

namespace fell::chunk_builder_test {
namespace {

constexpr int kEdge = 16;

fell::Setup setupOf(const char* light, const char* mesher = "greedy-bits")
{
    fell::Setup setup;
    setup.chunk.edge = kEdge;
    setup.light.mode = light;
    setup.mesh.mesher = mesher;
    setup.lod.scheme = "off";
    return setup;
}

/// A chunk of the test dale with its neighbours, and its sky.
class Dale {
public:
    explicit Dale(const fell::Setup& setup, ChunkPos chunk = {1, 0, 1})
        : rules(m_terrain->recipe.blocks, setup)
        , m_source(m_terrain, *rules.pipeline.generator, kEdge, 64)
        , m_sky(m_source, rules.light, *rules.pipeline.form)
    {
        input.chunk = chunk;
        input.around = &around;
        input.passes = &passes;
        input.floorAt = [this](std::int64_t x, std::int64_t z) { return m_sky.at(x, z); };
        for (std::size_t i = 0; i < 27; ++i) {
            const auto n = static_cast<std::int64_t>(i);
            set(i, m_source.voxels(chunk + ChunkPos{n % 3 - 1, n / 9 - 1, n / 3 % 3 - 1}));
        }
    }
    void set(std::size_t i, const VoxelChunk& voxels)
    {
        around[i] = std::make_shared<const VoxelChunk>(voxels.convertedTo(*rules.pipeline.form));
        passes[i] = std::make_shared<const Transmission>(transmissionOf(voxels, rules.light));
    }
    [[nodiscard]] Neighbourhood view() const
    {
        Neighbourhood out;
        for (std::size_t i = 0; i < 27; ++i)
            out.chunks[i] = around[i].get();
        return out;
    }

private:
    std::shared_ptr<const Terrain> m_terrain = test::testTerrain();

public:
    BuildRules rules;
    SharedAround<VoxelChunk> around;
    SharedAround<Transmission> passes;
    BuildInput input;

private:
    LevelSource m_source;
    SkyCache m_sky;
};

void expectSame(const ChunkMesh& a, const ChunkMesh& b)
{
    EXPECT_EQ(a.vertices, b.vertices);
    EXPECT_EQ(a.rims, b.rims);
    EXPECT_EQ(a.cells.words, b.cells.words);
    EXPECT_EQ(a.quads, b.quads);
    EXPECT_EQ(a.clear, b.clear);
    const auto bytesOf = [](const TriangleList& all) {
        return std::string_view(
            reinterpret_cast<const char*>(all.vertices.data()), all.vertices.size() * sizeof(MeshVertex));
    };
    EXPECT_EQ(bytesOf(a.shapes), bytesOf(b.shapes));
    EXPECT_EQ(a.shapes.indices, b.shapes.indices);
}

TEST(ChunkBuilder, IsItsStagesOneAfterTheOther)
{
    for (const char* mode : {"none", "lamp-sky", "colour-sky"})
        for (const char* mesher : {"greedy-bits", "bevelled"}) {
            const Dale dale(setupOf(mode, mesher));
            BuildScratch scratch;
            const BuiltChunk built = buildChunk(dale.input, dale.rules, scratch);
            ASSERT_FALSE(built.isBare);

            PaddedVoxels voxels;
            gather(dale.view(), voxels);
            PaddedLight light;
            const auto lit
                = lightSurroundings(dale.input.chunk, kEdge, dale.rules.light, dale.passes, dale.input.floorAt);
            if (dale.rules.isLit())
                floodPadded(lit->block, light, scratch.flood);
            expectSame(built.mesh, buildChunkMesh(voxels, dale.rules.meshing, dale.rules.isLit() ? &light : nullptr));
            EXPECT_EQ(built.isFlooded, dale.rules.isLit());
            EXPECT_EQ(built.light != nullptr, dale.rules.isLit());
            EXPECT_TRUE(built.sight);
            EXPECT_GT(built.mesh.quadCount() + built.mesh.shapes.count(), 0u);
        }
}

TEST(ChunkBuilder, WhatTheScratchHoldsFromBeforeMeansNothing)
{
    const Dale dale(setupOf("colour-sky")), other(setupOf("colour-sky"), {-2, 0, 3});
    BuildScratch fresh, used;
    (void)buildChunk(other.input, other.rules, used);
    expectSame(buildChunk(dale.input, dale.rules, fresh).mesh, buildChunk(dale.input, dale.rules, used).mesh);
}

TEST(ChunkBuilder, RebuildingAfterEditsIsBuildingFromNothing)
{
    for (const char* mesher : {"greedy-bits", "bevelled"}) {
        Dale dale(setupOf("colour-sky", mesher));
        RebuildCache cache;
        BuildScratch scratch, other;
        std::mt19937 dice(3);
        for (int edit = 0; edit < 12; ++edit) {
            const std::size_t which = edit % 3 == 2 ? 12 : 13; // also a neighbour
            std::vector<Material> voxels = dale.around[which]->voxels();
            voxels[dice() % voxels.size()] = static_cast<Material>(dice() % 3);
            dale.set(which, VoxelChunk(kEdge, std::move(voxels)));
            const BuiltChunk again = rebuildChunk(dale.input, dale.rules, nullptr, cache, scratch);
            expectSame(again.mesh, buildChunk(dale.input, dale.rules, other).mesh);
        }
    }
}

TEST(ChunkBuilder, LightThatComesLaterIsTheLightThatComesAtOnce)
{
    fell::Setup later = setupOf("colour-sky");
    later.light.arrival = "later";
    const Dale dale(later), whole(setupOf("colour-sky"));
    BuildScratch scratch;
    const BuiltChunk first = buildChunk(dale.input, dale.rules, scratch);
    ASSERT_TRUE(first.surface);
    EXPECT_FALSE(first.isFlooded);
    const BuiltChunk lit = relightChunk(dale.input, dale.rules, *first.surface, scratch);
    EXPECT_TRUE(lit.isFlooded);
    expectSame(lit.mesh, buildChunk(whole.input, whole.rules, scratch).mesh);
}

TEST(ChunkBuilder, OpenAndBuriedChunksAreBareUnlessTheMesherDrawsWhatIsHidden)
{
    for (const Material all : {kOpen, Material{1}})
        for (const char* mesher : {"every", "greedy-bits"}) {
            Dale dale(setupOf("none", mesher));
            for (std::size_t i = 0; i < 27; ++i)
                dale.set(i, VoxelChunk(kEdge, all));
            BuildScratch scratch;
            const BuiltChunk built = buildChunk(dale.input, dale.rules, scratch);
            EXPECT_EQ(built.isBare, all == kOpen || std::string_view(mesher) != "every") << mesher << all;
            EXPECT_TRUE(built.sight);
        }
}

/// Quads that tell which voxel lies two layers below the chunk's lowest corner.
void meshBelow(const PaddedVoxels& voxels, const MeshRules&, ChunkSurface& out)
{
    out.in(Matter::Solid)
        .push_back(packQuad({.x = 1, .y = 2, .z = 3, .side = Side::Up, .material = voxels.at(0, -2, 0)}));
}
constexpr Mesher kBelow{"below", "", "", meshBelow, {.apron = 2}};

TEST(ChunkBuilder, AMesherIsGivenAsManyLayersAsItAsksFor)
{
    Dale dale(setupOf("none"));
    dale.rules.meshing.mesher = &kBelow;
    const auto below = [&](Material material) {
        std::vector<Material> voxels = dale.around[4]->voxels();
        voxels[static_cast<std::size_t>((kEdge - 2) * kEdge * kEdge)] = material;
        dale.set(4, VoxelChunk(kEdge, std::move(voxels)));
    };
    RebuildCache cache;
    BuildScratch scratch;
    for (const Material material : {Material{1}, Material{2}, Material{1}}) {
        below(material); // beyond what others read: reported as no difference
        const ChunkMesh built = buildChunk(dale.input, dale.rules, scratch).mesh,
                        again = rebuildChunk(dale.input, dale.rules, nullptr, cache, scratch).mesh;
        ASSERT_EQ(scratch.surface.in(Matter::Solid).size(), 1u);
        EXPECT_EQ(unpackQuad(scratch.surface.in(Matter::Solid)[0]).material, material);
        expectSame(built, again);
        const ChunkSurface& bare = buildSurface(dale.view(), kBelow, dale.rules.meshing.rules, scratch);
        EXPECT_EQ(unpackQuad(bare.in(Matter::Solid)[0]).material, material);
    }
}

TEST(ChunkBuilder, TheHooksTimeCountsAsMeshing)
{
    Dale dale(setupOf("none"));
    BuildScratch scratch;
    std::uint64_t told = 0;
    constexpr std::uint64_t kLong = 20'000'000; // of the thread's own time, however busy the machine is
    dale.rules.meshed = [&](std::uint64_t ns) {
        told = ns;
        for (const std::uint64_t start = threadNs(); threadNs() - start < kLong;) { }
    };
    const BuiltChunk built = buildChunk(dale.input, dale.rules, scratch);
    EXPECT_GT(told, 0u);
    EXPECT_GE(built.meshNs, told + kLong);
}

} // namespace
} // namespace fell::chunk_builder_test
