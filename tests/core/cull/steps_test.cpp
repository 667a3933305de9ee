// SPDX-License-Identifier: Apache-2.0
#include "cull/steps.h"

#include <glm/geometric.hpp>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

namespace fell {
namespace {

CullView viewFrom(const Eye& eye, float distance)
{
    return {eye, 16, distance, planesOf(viewProjection(eye, {65, 1.6f, 0.1f, distance + 64}))};
}

std::vector<std::uint32_t> kept(const CullView& view, const std::vector<const CullStep*>& steps,
    const std::vector<ChunkPos>& chunks, std::vector<CullCount>& counts)
{
    std::vector<std::uint32_t> out;
    counts.assign(steps.size(), {});
    cullChunks(view, steps, chunks, out, counts);
    return out;
}

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
    const auto chunks = cubeOfChunks(5);
    std::vector<CullCount> counts;
    for (int trial = 0; trial < 60; ++trial) {
        Eye eye;
        eye.yaw = static_cast<double>(dice() % 360);
        eye.pitch = static_cast<double>(dice() % 181) - 90;
        const CullView view = viewFrom(eye, 200);
        const auto indices = kept(view, {findCullStep("view-planes")}, chunks, counts);
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
            ASSERT_TRUE(
                std::any_of(indices.begin(), indices.end(), [&](std::uint32_t k) { return chunks[k] == chunk; }));
        }
    }
}

TEST(CullSteps, PlanesRejectMostOfWhatLiesBehind)
{
    std::vector<CullCount> counts;
    const auto chunks = cubeOfChunks(5);
    const auto indices = kept(viewFrom({}, 200), {findCullStep("view-planes")}, chunks, counts);
    EXPECT_LT(indices.size(), chunks.size() / 2);
    for (const std::uint32_t i : indices)
        EXPECT_LE(chunks[i].z, 0) << "the eye looks north, so what is kept begins at its own chunk";
}

TEST(CullSteps, DistanceKeepsWhatTouchesTheSphere)
{
    std::vector<CullCount> counts;
    const std::vector<ChunkPos> chunks{{0, 0, 0}, {2, 0, 0}, {3, 0, 0}, {0, -3, 0}};
    // From (0.5, 0.5, 0.5): chunk 2 begins at 32 (31.5 away), chunk 3 at 48 (47.5 away), chunk y -3 ends at -32 (32.5
    // away).
    EXPECT_EQ(kept(viewFrom({}, 32), {findCullStep("distance")}, chunks, counts), (std::vector<std::uint32_t>{0, 1}));
    EXPECT_EQ(
        kept(viewFrom({}, 33), {findCullStep("distance")}, chunks, counts), (std::vector<std::uint32_t>{0, 1, 3}));
}

TEST(CullSteps, CountsWhatEachStepWasAskedAndRejected)
{
    std::vector<CullCount> counts;
    const auto chunks = cubeOfChunks(4);
    const auto indices
        = kept(viewFrom({}, 40), {findCullStep("distance"), findCullStep("view-planes")}, chunks, counts);
    EXPECT_EQ(counts[0].tested, chunks.size());
    EXPECT_EQ(counts[1].tested, counts[0].tested - counts[0].rejected);
    EXPECT_EQ(indices.size(), counts[1].tested - counts[1].rejected);
    EXPECT_GT(counts[0].rejected, 0u);
    EXPECT_GT(counts[1].rejected, 0u);
}

TEST(CullSteps, WithoutStepsEverythingIsKept)
{
    std::vector<CullCount> counts;
    EXPECT_EQ(kept(viewFrom({}, 1), {}, cubeOfChunks(1), counts).size(), 27u);
}

} // namespace
} // namespace fell
