// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/cull/scene.h>

#include <glm/geometric.hpp>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

namespace fell::steps_test {
namespace {

CullView viewFrom(const Eye& eye, float distance)
{
    return cullViewOf(eye, lensFor(65, 1.6, distance, 16), 16, distance);
}

struct Scene {
    CullScene scene;
    CullResult result;

    explicit Scene(const std::vector<ChunkPos>& chunks)
    {
        scene.clear({}, 16, 8);
        for (const ChunkPos chunk : chunks)
            scene.add(chunk, kAllSides);
    }
    std::vector<ChunkPos> kept(
        const CullView& view, const std::vector<std::string>& steps, const char* reach = "sphere")
    {
        scene.choose({steps, reach, 1, "chunk", "both"});
        scene.cull(view, result);
        std::vector<ChunkPos> out;
        for (const KeptChunk& chunk : result.kept)
            out.push_back(scene.chunks()[chunk.index]);
        std::sort(out.begin(), out.end());
        return out;
    }
};

std::vector<ChunkPos> cubeOfChunks(int radius)
{
    std::vector<ChunkPos> chunks;
    for (std::int64_t x = -radius; x <= radius; ++x)
        for (std::int64_t y = -radius; y <= radius; ++y)
            for (std::int64_t z = -radius; z <= radius; ++z)
                chunks.push_back({x, y, z});
    return chunks;
}

TEST(CullSteps, PlanesNeverRejectAChunkOfWhichAPointIsInView)
{
    // Thrown points: where one is in clip space, its chunk must have been kept.
    std::mt19937 dice(4);
    Scene cube(cubeOfChunks(5));
    for (int trial = 0; trial < 60; ++trial) {
        Eye eye;
        eye.yaw = static_cast<double>(dice() % 360);
        eye.pitch = static_cast<double>(dice() % 181) - 90;
        const CullView view = viewFrom(eye, 200);
        const auto chunks = cube.kept(view, {trial % 2 == 0 ? "view-planes" : "octree"});
        for (int i = 0; i < 3000; ++i) {
            const auto at = [&dice] { return static_cast<float>(dice() % 17600) / 100 - 80; };
            const glm::vec3 point{at(), at(), at()};
            if (!std::all_of(view.planes.begin(), view.planes.end(),
                    [&](const auto& plane) { return glm::dot(plane, glm::vec4(point, 1)) > 0; }))
                continue;
            const ChunkPos chunk = chunkOf(
                {static_cast<std::int64_t>(std::floor(point.x)), static_cast<std::int64_t>(std::floor(point.y)),
                    static_cast<std::int64_t>(std::floor(point.z))},
                16);
            ASSERT_TRUE(std::binary_search(chunks.begin(), chunks.end(), chunk));
        }
    }
}

TEST(CullSteps, PlanesRejectMostOfWhatLiesBehind)
{
    Scene cube(cubeOfChunks(5));
    const auto chunks = cube.kept(viewFrom({}, 200), {"view-planes"});
    EXPECT_LT(chunks.size(), cubeOfChunks(5).size() / 2);
    for (const ChunkPos chunk : chunks)
        EXPECT_LE(chunk.z, 0) << "the eye looks north, so what is kept begins at its own chunk";
}

TEST(CullSteps, DistanceKeepsWhatTouchesTheSphere)
{
    Scene few({{0, 0, 0}, {2, 0, 0}, {3, 0, 0}, {0, -3, 0}});
    // From (0.5, 0.5, 0.5): chunk 2 begins at 32 (31.5 away), chunk 3 at 48 (47.5 away), chunk y -3 ends at -32 (32.5
    // away).
    EXPECT_EQ(few.kept(viewFrom({}, 32), {"distance"}), (std::vector<ChunkPos>{{0, 0, 0}, {2, 0, 0}}));
    EXPECT_EQ(few.kept(viewFrom({}, 33), {"distance"}), (std::vector<ChunkPos>{{0, -3, 0}, {0, 0, 0}, {2, 0, 0}}));
    EXPECT_EQ(
        few.kept(viewFrom({}, 32), {"distance"}, "column"), (std::vector<ChunkPos>{{0, -3, 0}, {0, 0, 0}, {2, 0, 0}}))
        << "a column is as deep as it likes";
}

TEST(CullSteps, TheTriangleAndTheCornersLoseAChunkThatFillsTheView)
{
    // The camera is in front of the middle of a chunk's face, with a narrow view: no corner of it is in view.
    Scene one({{0, 0, -1}, {0, 0, 0}});
    const Eye eye{{8, 8, 4}, glm::dvec3(0.5), 0, 0};
    const CullView narrow = cullViewOf(eye, lensFor(20, 1.6, 64, 16), 16, 64);
    EXPECT_EQ(one.kept(narrow, {"view-planes"}).size(), 2u);
    EXPECT_EQ(one.kept(narrow, {"view-corners"}).size(), 0u);
    EXPECT_EQ(one.kept(narrow, {"view-triangle"}).size(), 0u);
    EXPECT_FALSE(findCullStep("view-corners")->isExact);
    EXPECT_FALSE(findCullStep("view-triangle")->isExact);
    EXPECT_TRUE(findCullStep("view-planes")->isExact);
}

TEST(CullSteps, ACornerInTheViewIsKept)
{
    Scene cube(cubeOfChunks(4));
    const CullView view = viewFrom({{8, 8, 8}, glm::dvec3(0.5), 45, 0}, 100);
    const auto planes = cube.kept(view, {"view-planes"}), corners = cube.kept(view, {"view-corners"}),
               triangle = cube.kept(view, {"view-triangle"});
    EXPECT_LT(corners.size(), planes.size());
    EXPECT_TRUE(std::includes(planes.begin(), planes.end(), corners.begin(), corners.end()));
    // North-east on the plan: the eye's own diagonal, at any height.
    for (int i = 1; i <= 4; ++i)
        EXPECT_TRUE(std::binary_search(triangle.begin(), triangle.end(), ChunkPos{i, 4, -i}));
    EXPECT_FALSE(std::binary_search(triangle.begin(), triangle.end(), ChunkPos{-1, 0, 1}));
}

TEST(CullSteps, FacingDrawsTheSidesThatLookToTheEye)
{
    const CullView view = viewFrom({{8, 8, 8}, glm::dvec3(0.5), 0, 0}, 100);
    const auto towardsEye = [&](ChunkPos chunk) { return sidesTowards(view, boxOf(chunk, 16, view.eye)); };
    EXPECT_EQ(towardsEye({0, 0, 0}), kAllSides) << "from within every direction can be seen";
    EXPECT_EQ(towardsEye({2, 2, 2}), onlySide(Side::West) | onlySide(Side::Down) | onlySide(Side::North));
    EXPECT_EQ(towardsEye({-2, -2, -2}), onlySide(Side::East) | onlySide(Side::Up) | onlySide(Side::South));
    EXPECT_EQ(towardsEye({0, 0, -3}),
        onlySide(Side::East) | onlySide(Side::West) | onlySide(Side::Up) | onlySide(Side::Down)
            | onlySide(Side::South));
    // A voxel's side at x + 1 faces east, to cameras beyond it: checked against every voxel of every chunk.
    std::mt19937 dice(2);
    for (int i = 0; i < 200; ++i) {
        const ChunkPos chunk{static_cast<std::int64_t>(dice() % 5) - 2, 0, 0};
        const CullView from = viewFrom({{static_cast<std::int64_t>(dice() % 48) - 16, 3, 3},
                                           glm::dvec3(static_cast<double>(dice() % 3) / 2, 0.5, 0.5), 0, 0},
            100);
        bool east = false, west = false;
        const double eye = static_cast<double>(from.eye.cell.x) + from.eye.within.x;
        for (std::int64_t x = chunk.x * 16; x < chunk.x * 16 + 16; ++x) {
            east |= eye > static_cast<double>(x + 1);
            west |= eye < static_cast<double>(x);
        }
        const SideSet sides = sidesTowards(from, boxOf(chunk, 16, from.eye));
        EXPECT_EQ((sides & onlySide(Side::East)) != 0, east);
        EXPECT_EQ((sides & onlySide(Side::West)) != 0, west);
    }
}

TEST(CullSteps, FacingByTheLeafDrawsNoLess)
{
    Scene cube(cubeOfChunks(4));
    const CullView view = viewFrom({{40, 8, 8}, glm::dvec3(0.5), 0, 0}, 100);
    const auto shown = [&](int leaf, const char* facing) {
        cube.scene.choose({{"facing"}, "sphere", leaf, facing, "both"});
        cube.scene.cull(view, cube.result);
        EXPECT_EQ(cube.result.kept.size(), cubeOfChunks(4).size()) << "no chunk is rejected";
        const CullCount& count = cube.result.counts[0];
        EXPECT_EQ(count.kept + count.rejected, count.tested);
        return cube.result.counts[0].kept;
    };
    EXPECT_EQ(shown(1, "node"), shown(1, "chunk"));
    EXPECT_GT(shown(4, "node"), shown(1, "chunk"));
}

TEST(CullSteps, CountsWhatEachStepWasAskedAndRejected)
{
    Scene cube(cubeOfChunks(4));
    const auto chunks = cube.kept(viewFrom({}, 40), {"distance", "view-planes"});
    const auto& counts = cube.result.counts;
    EXPECT_EQ(counts[0].tested, cubeOfChunks(4).size());
    EXPECT_EQ(counts[1].tested, counts[0].kept);
    EXPECT_EQ(counts[0].kept, counts[0].tested - counts[0].rejected);
    EXPECT_EQ(chunks.size(), counts[1].kept);
    EXPECT_GT(counts[0].rejected, 0u);
    EXPECT_GT(counts[1].rejected, 0u);
}

TEST(CullSteps, WhatIsKeptDoesNotDependOnTheOrder)
{
    Scene cube(cubeOfChunks(5));
    const CullView view = viewFrom({{3, 4, 5}, glm::dvec3(0.5), 30, -20}, 60);
    const auto first = cube.kept(view, {"octree", "distance", "hidden", "facing"});
    EXPECT_EQ(cube.kept(view, {"facing", "hidden", "distance", "octree"}), first);
    EXPECT_EQ(cube.kept(view, {"distance", "view-planes"}), first) << "open air hides nothing";
}

TEST(CullSteps, TellsWhichStepRejected)
{
    Scene cube(cubeOfChunks(4));
    cube.scene.choose({{"octree", "distance"}, "sphere", 1, "chunk", "both"});
    cube.scene.cull(viewFrom({}, 40), cube.result, true);
    std::array<std::uint64_t, 2> by{};
    for (const std::uint8_t step : cube.result.rejectedBy)
        if (step != CullResult::kNobody)
            ++by[step];
    EXPECT_EQ(by[0], cube.result.counts[0].rejected);
    EXPECT_EQ(by[1], cube.result.counts[1].rejected);
    EXPECT_GT(by[1], 0u);
}

TEST(CullScene, TheLastChunkTakesTheHoleOfOneThatGoes)
{
    Scene few({{0, 0, 0}, {1, 0, 0}, {2, 0, 0}});
    EXPECT_EQ(few.scene.remove(0), (ChunkPos{2, 0, 0}));
    EXPECT_EQ(few.scene.octree().find({2, 0, 0}), 0u);
    EXPECT_EQ(few.scene.remove(1), std::nullopt) << "it was the last itself";
    EXPECT_EQ(few.scene.chunks(), (std::vector<ChunkPos>{{2, 0, 0}}));
    few.scene.choose({{"octree"}, "sphere", 4, "chunk", "both"}); // another leaf: the same chunks
    EXPECT_EQ(few.scene.octree().find({2, 0, 0}), 0u);
}

TEST(CullSteps, WithoutStepsEverythingIsKept)
{
    Scene cube(cubeOfChunks(1));
    EXPECT_EQ(cube.kept(viewFrom({}, 1), {}).size(), 27u);
}

TEST(CullLevels, ChunksOfAllLevelsAreTestedByTheirOwnBoxes)
{
    // One chunk of level 2 ahead of the eye, 64 voxels wide, and one of level 0 within another's place behind it.
    const ChunkPos far{0, 0, -2, 2}, near{0, 0, 0}, behind{0, 0, 3, 1};
    Scene scene({far, near, behind});
    const CullView view = viewFrom({{8, 8, 8}, glm::dvec3(0.5), 0, 0}, 400);
    const Box box = boxOf(far, 16, view.eye);
    EXPECT_EQ(box.low, glm::vec3(-8, -8, -136));
    EXPECT_EQ(box.high, glm::vec3(56, 56, -72));
    for (const char* step : {"octree", "view-planes"})
        EXPECT_EQ(scene.kept(view, {step}), (std::vector<ChunkPos>{far, near})) << step;
    // The octree keeps the very same as planes against every box, for random chunks of all levels.
    std::mt19937 dice(9);
    std::vector<ChunkPos> many;
    for (int i = 0; i < 600; ++i) {
        const int level = static_cast<int>(dice() % 5);
        const auto at = [&] { return static_cast<std::int64_t>(dice() % 17) - 8; };
        const ChunkPos chunk{at(), at(), at(), level};
        if (std::find(many.begin(), many.end(), chunk) == many.end())
            many.push_back(chunk);
    }
    Scene all(many);
    for (int i = 0; i < 30; ++i) {
        const Eye eye{{static_cast<std::int64_t>(dice() % 300) - 150, 10, 0}, glm::dvec3(0.3),
            static_cast<double>(dice() % 360), static_cast<double>(dice() % 120) - 60};
        const CullView from = viewFrom(eye, 2000);
        EXPECT_EQ(all.kept(from, {"octree"}), all.kept(from, {"view-planes"}));
        EXPECT_EQ(all.kept(from, {"octree", "hidden", "facing"}).size(), all.kept(from, {"view-planes"}).size())
            << "nothing is known of what hides what";
    }
}

} // namespace
} // namespace fell::steps_test
