// SPDX-License-Identifier: Apache-2.0
#include "terrain/landforms.h"

#include <gtest/gtest.h>

namespace fell {
namespace {

double heightAt(const Landform& form, double x, double z, double before)
{
    Ground ground;
    ground.height = before;
    shapeGround({&form}, x, z, ground);
    return ground.height;
}

TEST(Landforms, ASummitIsABellThatEndsAtItsRadius)
{
    Landform summit{.kind = Landform::Kind::Summit, .at = {10, 20}, .radius = 100, .height = 50};
    EXPECT_EQ(heightAt(summit, 10, 20, 5), 55);
    EXPECT_EQ(heightAt(summit, 110, 20, 5), 5);
    EXPECT_NEAR(heightAt(summit, 60, 20, 0), 50 * 0.75 * 0.75, 1e-9); // half way: (1 - 1/4)^2
}

TEST(Landforms, AHeapIsAConeWithItsOwnStone)
{
    Landform heap{.kind = Landform::Kind::Heap, .at = {0, 0}, .radius = 20, .height = 10, .material = 3};
    EXPECT_NEAR(heightAt(heap, 5, 0, 2), 2 + 7.5, 1e-9);
    Ground ground;
    shapeGround({&heap}, 1, 1, ground);
    EXPECT_EQ(ground.cover, 3);
}

TEST(Landforms, ATroughBringsTheGroundToItsFloorAlongThePath)
{
    Landform trough{.kind = Landform::Kind::Trough, .path = {{0, 0}, {100, 0}}, .width = 40, .floor = {10, 30}};
    EXPECT_NEAR(heightAt(trough, 0, 0, 90), 10, 1e-9);
    EXPECT_NEAR(heightAt(trough, 50, 3, 90), 20, 1e-9); // half way along, within the flat tenth
    EXPECT_NEAR(heightAt(trough, 100, 0, 90), 30, 1e-9);
    EXPECT_EQ(heightAt(trough, 50, 20, 90), 90) << "at half the width nothing is left of it";
    const double side = heightAt(trough, 50, 12, 90); // (20 - 12) / 16 = 1/2: a smooth step's middle
    EXPECT_NEAR(side, 55, 1e-9);
}

TEST(Landforms, TerracesCutStepsAndNeverFill)
{
    Landform quarry{.kind = Landform::Kind::Terraces,
        .at = {0, 0},
        .radius = 50,
        .step = 4,
        .bench = 5,
        .floor = {6, 6},
        .material = 2};
    EXPECT_EQ(heightAt(quarry, 3, 0, 40), 6);
    EXPECT_EQ(heightAt(quarry, 12, 0, 40), 6); // the floor is two benches wide
    EXPECT_EQ(heightAt(quarry, 16, 0, 40), 10); // one bench up
    EXPECT_EQ(heightAt(quarry, 21, 0, 40), 14);
    EXPECT_EQ(heightAt(quarry, 16, 0, 7), 7) << "lower ground stays";
    EXPECT_EQ(heightAt(quarry, 51, 0, 40), 40);
}

TEST(Landforms, TracksPaintAndWallsStand)
{
    Landform track{.kind = Landform::Kind::Track, .path = {{0, 0}, {0, 50}}, .width = 4, .material = 4};
    Landform wall{.kind = Landform::Kind::Wall, .path = {{0, 0}, {0, 50}}, .width = 2, .height = 3, .material = 5};
    Ground on, beside;
    shapeGround({&track, &wall}, 0.5, 20, on);
    shapeGround({&track, &wall}, 1.5, 20, beside);
    EXPECT_EQ(on.cover, 4);
    EXPECT_EQ(on.wall, 5);
    EXPECT_EQ(on.wallHeight, 3);
    EXPECT_EQ(beside.cover, 4);
    EXPECT_EQ(beside.wall, kOpen);
    EXPECT_EQ(on.height, 0) << "neither lifts the ground";
}

TEST(Landforms, OnlyThoseNearABoxAreLookedAt)
{
    const std::vector<Landform> all{{.kind = Landform::Kind::Summit, .at = {0, 0}, .radius = 10, .height = 1},
        {.kind = Landform::Kind::Track, .path = {{100, 0}, {200, 0}}, .width = 6, .material = 1}};
    EXPECT_EQ(landformsNear(all, {-5, -5, 5, 5}).size(), 1u);
    EXPECT_EQ(landformsNear(all, {150, -2, 160, 2}).front(), &all[1]);
    EXPECT_EQ(landformsNear(all, {97, 2, 98, 3}).size(), 1u); // the half width counts
    EXPECT_TRUE(landformsNear(all, {50, 50, 60, 60}).empty());
}

} // namespace
} // namespace fell
