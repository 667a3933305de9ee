// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/sample.h>

#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/measure/light_trial.h>
#include <fell/measure/mesh_trial.h>
#include <fell/measure/store_trial.h>
#include <fell/measure/transect.h>

#include <gtest/gtest.h>

#include <cmath>
#include <set>

namespace fell::sample_test {
namespace {

/// As a volume is imported: nothing but what was changed, over ground 4096 voxels below.
std::shared_ptr<const Terrain> emptyWorld()
{
    return makeTerrain(test::parseTestRecipe(R"({"format": "fell-recipe", "version": 2, "name": "volume", "seed": 1,
        "voxel_metres": 0.5, "blocks": "b.json",
        "pattern": {"kind": "built", "material": "slate", "top": -4096, "every": [64, 64], "boxes": []}})")
                           .take());
}

/// A cube of slate, `edge` voxels long.
std::shared_ptr<WorldChanges> cubeAt(VoxelPos low, int edge)
{
    auto changes = std::make_shared<WorldChanges>();
    std::vector<VoxelChange> all;
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                all.push_back({low + VoxelPos{x, y, z}, kOpen, 1});
    changes->set(all);
    return changes;
}

std::uint64_t exposedIn(const std::vector<PaddedVoxels>& chunks, const Terrain& terrain)
{
    const SideRules rules = sideRulesOf(terrain.recipe.blocks);
    std::uint64_t sum = 0;
    for (const PaddedVoxels& chunk : chunks) {
        ChunkSurface quads;
        meshExposedSides(chunk, {&rules, false}, quads);
        sum += quads.count();
    }
    return sum;
}

TEST(Samples, OfAnImportedVolumeAreItsChunksAndShowItsWholeSurface)
{
    const auto terrain = emptyWorld();
    constexpr int kEdge = 40;
    const auto changes = cubeAt({1000, 300, -700}, kEdge);
    for (const int edge : {16, 32, 64}) {
        const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), edge, 4096, {}, changes.get());
        EXPECT_EQ(exposedIn(chunks, *terrain), 6u * kEdge * kEdge) << edge;
    }
    EXPECT_TRUE(surfaceChunks(*terrain, *findGenerator("blocks"), 32, 4, {}, nullptr).size() == 4)
        << "without it the ground far below is what there is";
}

TEST(Samples, OfAnEditedWorldBeginWhereItWasEdited)
{
    const auto terrain = test::demoTerrain("level");
    WorldChanges changes;
    changes.set(std::vector<VoxelChange>{{{5000, 40, -300}, kOpen, 1}});
    const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), 32, 1, {}, &changes);
    ASSERT_EQ(chunks.size(), 1u);
    EXPECT_EQ(exposedIn(chunks, *terrain), 6u) << "the block in the air alone";
    const auto more = surfaceChunks(*terrain, *findGenerator("blocks"), 32, 2, {}, &changes);
    ASSERT_EQ(more.size(), 2u);
    EXPECT_EQ(exposedIn(more, *terrain), 6u + 32 * 32) << "and the level ground under it";
}

TEST(Samples, OfEveryPatternHoldSurfaceWhereItHasAny)
{
    for (const char* world : {"level", "checker", "dust", "gallery"}) {
        const auto terrain = test::demoTerrain(world);
        for (const PaddedVoxels& chunk : surfaceChunks(*terrain, *findGenerator("blocks"), 32, 6))
            EXPECT_GT(exposedIn({chunk}, *terrain), 0u) << world;
    }
    const auto solid = test::demoTerrain("solid");
    const auto chunks = surfaceChunks(*solid, *findGenerator("blocks"), 16, 3);
    ASSERT_EQ(chunks.size(), 3u);
    EXPECT_EQ(exposedIn(chunks, *solid), 0u);
}

TEST(Samples, LampsStandOnGroundThatEndsAtAChunksBorder)
{
    const auto terrain = test::demoTerrain("level"); // its ground ends at height 0
    const LightRegion region = makeLightRegion(*terrain, *findGenerator("blocks"), {32, {4, 4, 4}, 20, 1});
    ASSERT_EQ(region.lamps.size(), 20u);
    for (const VoxelPos lamp : region.lamps)
        EXPECT_EQ(lamp.y, 0);
}

TEST(Samples, LargeCubesAndLightAreTakenWhereTheWorldWasChanged)
{
    const auto terrain = emptyWorld();
    const auto changes = cubeAt({1000, 300, -700}, 40);
    const auto cubes = sampleCubes(*terrain, *findGenerator("blocks"), 128, 2, {}, changes.get());
    std::size_t solid = 0;
    for (const auto& cube : cubes)
        solid += static_cast<std::size_t>(std::count(cube.begin(), cube.end(), Material{1}));
    EXPECT_GT(solid, 0u);
    const LightRegion region
        = makeLightRegion(*terrain, *findGenerator("blocks"), {32, {4, 4, 4}, 10, 1}, {}, changes.get());
    ASSERT_EQ(region.lamps.size(), 10u);
    for (const VoxelPos lamp : region.lamps)
        EXPECT_EQ(lamp.y, 340) << "on top of the cube";
}

TEST(Samples, ARouteRoundTheChangesLooksAtTheirMiddleFromOutside)
{
    const auto terrain = emptyWorld();
    const auto changes = cubeAt({1000, 300, -700}, 64);
    const auto route = routeRoundChanges(*terrain, *changes);
    ASSERT_TRUE(route);
    const glm::dvec3 middle{(1000 + 32) * 0.5, (300 + 32) * 0.5, (-700 + 32) * 0.5};
    for (const RoutePoint& point : route->points) {
        const glm::dvec3 away{middle.x - point.at[0], 0, middle.z - point.at[2]};
        const double yaw = point.yaw * M_PI / 180;
        EXPECT_GT(glm::length(away), 16) << "outside of the cube, which is 32 m long";
        EXPECT_GT(glm::dot(glm::normalize(away), glm::dvec3(std::sin(yaw), 0, -std::cos(yaw))), 0.9);
    }
    EXPECT_FALSE(routeRoundChanges(*terrain, WorldChanges{}));
}

TransectSpec specOf(std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes)
{
    TransectSpec spec;
    spec.terrain = std::move(terrain);
    spec.changes = std::move(changes);
    spec.a = test::unlitSetup();
    spec.a.chunk.edge = 16;
    spec.values = {3};
    spec.route = {"here", "here", {{{0, 10, 0}, 0, 0}, {{4, 10, 0}, 0, 0}}, -1e6};
    spec.rounds = 2;
    spec.frames = 2;
    return spec;
}

TEST(Samples, ATransectMeasuresWhatWasChangedAndWritesNothingBack)
{
    const auto changes = cubeAt({-10, 10, -10}, 20);
    TransectSpec spec = specOf(emptyWorld(), changes);
    spec.churn = {ChurnKind::Blocks, 4};
    const TransectResult result = runTransect(spec, nullptr, {}, {});
    ASSERT_EQ(result.rows.size(), 1u);
    EXPECT_FALSE(isEmpty(result));
    EXPECT_GT(result.rows[0].meshNs.count, 0u);
    EXPECT_GT(result.rows[0].churn.changes, 0u);
    EXPECT_EQ(changes->voxels(), 20u * 20 * 20) << "the churn of a leg stays in the leg";
    EXPECT_TRUE(isEmpty(runTransect(specOf(emptyWorld(), nullptr), nullptr, {}, {})));
}

TEST(Samples, TheFirstViewsMeshesAreTheSameInEachRunAndOtherOnesInAnotherWorld)
{
    const auto seen = [](const std::shared_ptr<WorldChanges>& changes) {
        TransectSpec spec = specOf(emptyWorld(), changes);
        spec.a.mesh.mesher = "exposed";
        return runTransect(spec, nullptr, {}, {}).rows.at(0).firstView;
    };
    const ViewMeshes once = seen(cubeAt({-10, 10, -10}, 20)), again = seen(cubeAt({-10, 10, -10}, 20)),
                     other = seen(cubeAt({-10, 10, -10}, 21));
    EXPECT_EQ(once.quads, 6u * 20 * 20);
    EXPECT_EQ(once, again);
    EXPECT_NE(once.digest, other.digest);
    EXPECT_EQ(other.quads, 6u * 21 * 21);
}

TEST(Samples, MetresCoverTheSameGroundWhateverTheChunkEdge)
{
    TransectSpec spec = specOf(test::demoTerrain("level"), nullptr);
    spec.vary = "stream.metres";
    spec.values = {64};
    const double voxel = spec.terrain->recipe.voxelMetres;
    std::set<double> perSquareKm;
    for (const int edge : {16, 32}) {
        spec.a.chunk.edge = edge;
        const TransectResult result = runTransect(spec, nullptr, {}, {});
        const TransectRow& row = result.rows.at(0);
        EXPECT_NEAR(row.meshNsPerVoxel, row.meshNs.p50 / std::pow(edge, 3), 1e-9);
        EXPECT_GT(row.meshMsPerSquareKm, 0);
        perSquareKm.insert(row.meshMsPerSquareKm);
        fell::Setup settled = spec.a;
        settled.stream.metres = 64;
        ASSERT_FALSE(settleDistance(settled, voxel));
        EXPECT_EQ(settled.stream.distance * edge * voxel, 64) << edge;
    }
    EXPECT_EQ(perSquareKm.size(), 2u);
    spec.values = {90000};
    ASSERT_TRUE(checkTransect(spec));
    EXPECT_NE(sentence(*checkTransect(spec)).find("chunks"), std::string::npos);
}

TEST(Samples, AChoiceThatVariesIsComparedWithItsFirstValue)
{
    TransectSpec spec = specOf(test::demoTerrain("level"), nullptr);
    spec.vary = "mesh.mesher";
    spec.values = {"every", "exposed", "greedy-bits"};
    spec.rounds = 3;
    const TransectResult result = runTransect(spec, nullptr, {}, {});
    ASSERT_EQ(result.toFirst.size(), 2u);
    for (const TransectRatio& ratio : result.toFirst) {
        EXPECT_EQ(ratio.to, "every");
        EXPECT_EQ(ratio.what, "mesh_ns");
        EXPECT_LT(ratio.ratio.ratio, 0.5) << "thousands of quads in place of few";
        EXPECT_GT(ratio.ratio.high, ratio.ratio.low);
    }
    EXPECT_EQ(result.toFirst[1].value, "greedy-bits");
    EXPECT_TRUE(result.ratios.empty());
}

TEST(MeshComparison, RatioIsThatOfItsRoundsAndBothSidesShowTheSameSurface)
{
    const auto terrain = test::testTerrain();
    const SideRules rules = sideRulesOf(terrain->recipe.blocks);
    const auto chunks = surfaceChunks(*terrain, *findGenerator("blocks"), 16, 8),
               larger = surfaceChunks(*terrain, *findGenerator("blocks"), 32, 3);
    const MeshSide every{&chunks, findMesher("every"), findLayout("corners"), false},
        greedy{&chunks, findMesher("greedy-bits"), findLayout("packed"), false},
        wide{&larger, findMesher("greedy-bits"), findLayout("packed"), false};
    const MeshComparison found = compareMeshing(every, greedy, rules, 4);
    ASSERT_EQ(found.rounds.size(), 4u);
    double product = 1;
    for (const double round : found.rounds)
        product *= round;
    EXPECT_NEAR(found.ratio.ratio, std::pow(product, 0.25), 1e-9);
    EXPECT_LE(found.ratio.low, found.ratio.ratio);
    EXPECT_GE(found.ratio.high, found.ratio.ratio);
    EXPECT_EQ(found.a.digest, found.b.digest);
    EXPECT_EQ(found.a.chunkNs.count, 8u * 4);
    const MeshComparison edges = compareMeshing(greedy, wide, rules, 2);
    EXPECT_EQ(edges.b.chunkNs.count, 3u * 2);
    EXPECT_GT(edges.ratio.ratio, 0);
}

} // namespace
} // namespace fell::sample_test
