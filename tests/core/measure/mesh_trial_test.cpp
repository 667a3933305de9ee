// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/measure/mesh_trial.h>

#include <gtest/gtest.h>

namespace fell::mesh_trial_test {
namespace {

std::vector<const Mesher*> allMeshers()
{
    std::vector<const Mesher*> out;
    for (const Mesher& mesher : meshers())
        out.push_back(&mesher);
    return out;
}

SideRules testRules()
{
    return sideRulesOf(test::testBlocks());
}

TEST(SurfaceChunks, AreTheSameEachTimeAndHoldSomeSurface)
{
    const auto terrain = test::testTerrain();
    const auto a = surfaceChunks(*terrain, *findGenerator("blocks"), 16, 12),
               b = surfaceChunks(*terrain, *findGenerator("samples"), 16, 12);
    ASSERT_EQ(a.size(), 12u);
    ASSERT_EQ(b.size(), 12u);
    for (std::size_t i = 0; i < a.size(); ++i) {
        EXPECT_EQ(a[i].voxels, b[i].voxels);
        ChunkSurface quads;
        const SideRules rules = sideRulesOf(terrain->recipe.blocks);
        meshExposedSides(a[i], {&rules, false}, quads);
        EXPECT_GT(quads.count(), 0u);
    }
}

TEST(MeshTrial, AllMethodsShowTheSameSurface)
{
    const auto chunks = surfaceChunks(*test::testTerrain(), *findGenerator("blocks"), 16, 6);
    const MeshTrial trial
        = runMeshTrial(chunks, testRules(), {allMeshers(), {findLayout("floats"), findLayout("packed")}, true, 2});
    ASSERT_EQ(trial.rows.size(), meshers().size() * 2);
    std::uint64_t exposed = 0, solid = 0;
    for (const auto& chunk : chunks)
        for (int y = 0; y < 16; ++y)
            for (int z = 0; z < 16; ++z)
                for (int x = 0; x < 16; ++x)
                    if (chunk.at(x, y, z) != kOpen) {
                        ++solid;
                        for (const Side side : kSides) {
                            const ChunkPos to = stepOf(side);
                            exposed += chunk.at(x + static_cast<int>(to.x), y + static_cast<int>(to.y),
                                           z + static_cast<int>(to.z))
                                == kOpen;
                        }
                    }
    for (const auto& row : trial.rows) {
        if (findMesher(row.mesher)->traits.makesTriangles) { // it shows another surface
            EXPECT_NE(row.digest, trial.rows[0].digest) << row.mesher;
            EXPECT_GT(row.triangles, row.quads * 2);
            // Triangles have three indices each, and share vertices: one each at least in a fan, three at most.
            const std::uint64_t quadBytes = row.quads * findLayout(row.layout)->bytesPerQuad();
            const std::uint64_t triangles = row.triangles - row.quads * 2;
            EXPECT_GT(row.vertexBytes, quadBytes + triangles * (sizeof(MeshVertex) + 3 * sizeof(std::uint32_t)));
            EXPECT_LT(row.vertexBytes, quadBytes + triangles * 3 * (sizeof(MeshVertex) + sizeof(std::uint32_t)));
            continue;
        }
        EXPECT_EQ(row.digest, trial.rows[0].digest) << row.mesher;
        EXPECT_EQ(row.exposedArea, exposed);
        EXPECT_EQ(row.mergedArea, row.mesher == "every" ? 6 * solid : exposed);
        EXPECT_EQ(row.vertexBytes, row.quads * findLayout(row.layout)->bytesPerQuad());
        EXPECT_EQ(row.chunkNs.count, chunks.size() * 2);
    }
    EXPECT_GT(trial.copyNs, 0);
    EXPECT_GT(trial.scanNs, 0);
    EXPECT_GT(trial.gatherNs, 0);
}

TEST(MeshTrial, ADifferentSurfaceHasADifferentDigest)
{
    const auto chunks = surfaceChunks(*test::testTerrain(), *findGenerator("blocks"), 16, 4);
    static const Mesher kBroken{"broken", "", "",
        +[](const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out) {
            meshExposedSides(voxels, rules, out);
            if (!out.in(Matter::Solid).empty())
                out.in(Matter::Solid).pop_back(); // a side that is missing must be seen
        },
        true};
    const MeshTrial trial
        = runMeshTrial(chunks, testRules(), {{findMesher("exposed"), &kBroken}, {findLayout("packed")}});
    EXPECT_NE(trial.rows[0].digest, trial.rows[1].digest);
}

TEST(MeshTrial, StopsWhenAsked)
{
    const auto chunks = surfaceChunks(*test::testTerrain(), *findGenerator("blocks"), 16, 2);
    std::stop_source source;
    source.request_stop();
    EXPECT_TRUE(
        runMeshTrial(chunks, testRules(), {allMeshers(), {findLayout("packed")}, false, 1000}, source.get_token())
            .stopped);
}

} // namespace
} // namespace fell::mesh_trial_test
