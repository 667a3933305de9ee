// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/terrain/landforms.h>

#include <gtest/gtest.h>

namespace fell::landforms_test {
namespace {

Ground shaped(const std::vector<Landform>& forms, double x, double z, double before = 0)
{
    Ground ground;
    ground.height = before;
    shapeGround(landformsNear(forms, {-1e9, -1e9, 1e9, 1e9}), x, z, ground);
    return ground;
}

double heightAt(const Landform& form, double x, double z, double before)
{
    return shaped({form}, x, z, before).height;
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
    EXPECT_EQ(shaped({heap}, 1, 1).cover, 3);
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
    const Ground on = shaped({track, wall}, 0.5, 20), off = shaped({track, wall}, 1.5, 20);
    EXPECT_EQ(on.cover, 4);
    EXPECT_EQ(on.wall, 5);
    EXPECT_EQ(on.wallHeight, 3);
    EXPECT_EQ(off.cover, 4);
    EXPECT_EQ(off.wall, kOpen);
    EXPECT_EQ(on.height, 0) << "neither lifts the ground";
}

TEST(Landforms, OnlyThoseNearABoxAreLookedAt)
{
    const std::vector<Landform> all{{.kind = Landform::Kind::Summit, .at = {0, 0}, .radius = 10, .height = 1},
        {.kind = Landform::Kind::Track, .path = {{100, 0}, {200, 0}}, .width = 6, .material = 1}};
    EXPECT_EQ(landformsNear(all, {-5, -5, 5, 5}).forms.size(), 1u);
    EXPECT_EQ(landformsNear(all, {150, -2, 160, 2}).forms.front().form, &all[1]);
    EXPECT_EQ(landformsNear(all, {97, 2, 98, 3}).forms.size(), 1u); // the half width counts
    EXPECT_TRUE(landformsNear(all, {50, 50, 60, 60}).forms.empty());
}

/// Segments and forms that a box leaves out change no column in it: every column near a winding beck, a wall and a
/// heap, once among all of them and once among those of its box of 16.
TEST(Landforms, LeavingOutWhatIsFarAwayChangesNothing)
{
    const std::vector<Landform> all{{.kind = Landform::Kind::Trough,
                                        .path = {{-40, -30}, {-5, 8}, {12, -9}, {30, 44}, {60, 44}},
                                        .width = 22,
                                        .floor = {3, -2},
                                        .material = 6},
        {.kind = Landform::Kind::Wall, .path = {{-30, 20}, {0, 16}, {0, -16}}, .width = 3, .height = 2, .material = 5},
        {.kind = Landform::Kind::Heap, .at = {9, 9}, .radius = 13, .height = 7, .material = 3}};
    std::size_t segments = 0, boxes = 0;
    for (int z0 = -48; z0 < 64; z0 += 16)
        for (int x0 = -48; x0 < 64; x0 += 16, ++boxes) {
            const auto near = landformsNear(all, {x0 + 0.0, z0 + 0.0, x0 + 16.0, z0 + 16.0});
            segments += near.segments.size();
            for (int z = z0; z <= z0 + 16; ++z)
                for (int x = x0; x <= x0 + 16; ++x) {
                    const Ground expected = shaped(all, x, z, 11);
                    Ground ground;
                    ground.height = 11;
                    shapeGround(near, x, z, ground);
                    ASSERT_EQ(ground.height, expected.height) << x << ", " << z;
                    ASSERT_EQ(ground.cover, expected.cover) << x << ", " << z;
                    ASSERT_EQ(ground.wall, expected.wall) << x << ", " << z;
                }
        }
    EXPECT_LT(segments, boxes * 6 / 2) << "of six segments most lie elsewhere";
}

} // namespace
} // namespace fell::landforms_test
