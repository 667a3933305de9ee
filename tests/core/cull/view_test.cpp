// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/cull/view.h>

#include <glm/geometric.hpp>
#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace fell::view_test {
namespace {

TEST(Eye, LooksNorthAtYawZeroAndEastAtNinety)
{
    Eye eye;
    EXPECT_NEAR(forwardOf(eye).z, -1, 1e-12);
    EXPECT_NEAR(rightOf(eye).x, 1, 1e-12);
    eye.yaw = 90;
    EXPECT_NEAR(forwardOf(eye).x, 1, 1e-12);
    EXPECT_NEAR(rightOf(eye).z, 1, 1e-12);
    eye.pitch = 90;
    EXPECT_NEAR(forwardOf(eye).y, 1, 1e-12);
}

TEST(Eye, MovesAcrossVoxelsAndKeepsItsPlaceInOne)
{
    const Eye eye = moved({{10, 0, 0}, {0.5, 0.25, 0.75}, 0, 0}, {2.75, -0.5, 0.5});
    EXPECT_EQ(eye.cell, (VoxelPos{13, -1, 1}));
    EXPECT_NEAR(eye.within.x, 0.25, 1e-12);
    EXPECT_NEAR(eye.within.y, 0.75, 1e-12);
    EXPECT_NEAR(eye.within.z, 0.25, 1e-12);
}

TEST(Eye, MovesAsFinelyFarAwayAsAtTheOrigin)
{
    Eye far{{std::int64_t{1} << 40, 0, 0}, {0.5, 0.5, 0.5}, 0, 0}, near{{0, 0, 0}, {0.5, 0.5, 0.5}, 0, 0};
    for (int i = 0; i < 1000; ++i) {
        far = moved(far, {0.0013, 0, 0});
        near = moved(near, {0.0013, 0, 0});
    }
    EXPECT_EQ(far.cell.x - (std::int64_t{1} << 40), near.cell.x);
    EXPECT_EQ(far.within.x, near.within.x);
}

glm::vec3 toScreen(const Eye& eye, const Lens& lens, glm::vec3 point)
{
    const glm::vec4 clip = viewProjection(eye, lens) * glm::vec4(point, 1);
    return glm::vec3(clip) / clip.w;
}

TEST(ViewProjection, PutsWhatLiesAheadInTheMiddle)
{
    const Eye eye{{5, 5, 5}, {0.5, 0.5, 0.5}, 30, -20};
    const glm::vec3 ahead = glm::vec3(eye.within + forwardOf(eye) * 10.0);
    const glm::vec3 screen = toScreen(eye, {}, ahead);
    EXPECT_NEAR(screen.x, 0, 1e-5);
    EXPECT_NEAR(screen.y, 0, 1e-5);
    const glm::vec3 right = toScreen(eye, {}, ahead + glm::vec3(rightOf(eye)));
    EXPECT_GT(right.x, 0);
    EXPECT_GT(toScreen(eye, {}, ahead + glm::vec3(0, 1, 0)).y, 0);
}

TEST(ViewProjection, ShowsHalfTheFieldOfViewAboveTheMiddle)
{
    // At 10 voxels ahead, with 90 degrees from bottom to top, the upper edge is 10 voxels up.
    const Eye eye{{0, 0, 0}, {0, 0, 0}, 0, 0};
    EXPECT_NEAR(toScreen(eye, {90, 1, 0.1f, 100}, {0, 10, -10}).y, 1, 1e-5);
    EXPECT_NEAR(toScreen(eye, {90, 2, 0.1f, 100}, {20, 0, -10}).x, 1, 1e-5);
}

TEST(ViewProjection, StaysDefinedLookingStraightDown)
{
    const Eye eye{{0, 0, 0}, {0, 0, 0}, 45, -90};
    const glm::vec3 screen = toScreen(eye, {}, {0, -10, 0});
    EXPECT_NEAR(screen.x, 0, 1e-4);
    EXPECT_NEAR(screen.y, 0, 1e-4);
}

TEST(PlanesOf, HoldExactlyWhatClipSpaceHolds)
{
    const Eye eye{{0, 0, 0}, {0.3, 0.1, 0.9}, 77, 13};
    const Lens lens{65, 1.6f, 0.5f, 60};
    const auto planes = planesOf(viewProjection(eye, lens));
    int inside = 0;
    std::mt19937 dice(3);
    for (int i = 0; i < 20000; ++i) {
        const auto part = [&dice] { return static_cast<float>(dice() % 10007) / 100 - 50; };
        const glm::vec3 point{part(), part(), part()};
        const glm::vec4 clip = viewProjection(eye, lens) * glm::vec4(point, 1);
        const bool inClip = std::abs(clip.x) < clip.w && std::abs(clip.y) < clip.w && std::abs(clip.z) < clip.w;
        bool inPlanes = true;
        for (const auto& plane : planes)
            inPlanes &= glm::dot(plane, glm::vec4(point, 1)) > 0;
        EXPECT_EQ(inClip, inPlanes);
        inside += inClip;
    }
    EXPECT_GT(inside, 100);
}

TEST(BoxOf, IsRelativeToTheVoxelOfTheEye)
{
    const std::int64_t far = std::int64_t{1} << 40;
    const Eye eye{{far + 5, 0, 0}, {0.5, 0.5, 0.5}, 0, 0};
    const Box box = boxOf(chunkOf({far + 40, 0, 0}, 32), 32, eye);
    EXPECT_EQ(box.low.x, 27.0f); // far is a multiple of 32: the chunk begins at far + 32
    EXPECT_EQ(box.high.x, 59.0f);
}

} // namespace
} // namespace fell::view_test
