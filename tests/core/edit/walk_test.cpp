// SPDX-License-Identifier: Apache-2.0
// Walking, by hand and by chance: closed forms of falling and jumping, and a body that is never inside anything.
#include <fell/edit/walk.h>

#include "support/all_names.h"
#include "support/shaped_blocks.h"

#include <cmath>
#include <gtest/gtest.h>
#include <map>
#include <random>

namespace fell::walk_test {
namespace {

using namespace test::shaped;

struct Place {
    std::function<Material(VoxelPos)> at;
    BlockSet set = shapedBlocks();
    SideRules sides = sideRulesOf(set);
    CollisionRules rules = collisionRulesOf(sides);
    BodyShape shape;

    [[nodiscard]] ReadVoxel read() const
    {
        return [this](VoxelPos v) { return std::optional(at(v)); };
    }
    Body walk(Body body, const WalkKeys& keys, double yaw, double seconds) const
    {
        for (double left = seconds; left > 1e-9; left -= 0.02)
            body = walked(body, shape, keys, yaw, std::min(0.02, left), read(), rules);
        return body;
    }
};

double y(const Body& body)
{
    return static_cast<double>(body.cell.y) + body.within.y;
}
double z(const Body& body)
{
    return static_cast<double>(body.cell.z) + body.within.z;
}

/// Flat ground whose top is at y 0.
Material flat(VoxelPos v)
{
    return v.y < 0 ? kSlate : kOpen;
}

TEST(Walk, FallsToTheGroundAndStandsOnIt)
{
    const Place place{flat};
    Body body{{0, 10, 0}};
    body = place.walk(body, {}, 0, 0.5);
    EXPECT_NEAR(y(body), 10 - 0.5 * 24 * 0.25, 0.3) << "half g t squared, in steps";
    body = place.walk(body, {}, 0, 2);
    EXPECT_NEAR(y(body), 0, 1e-6);
    EXPECT_TRUE(body.isOnGround);
}

TEST(Walk, JumpsAsHighAsItsSpeedAllows)
{
    const Place place{flat};
    Body body = place.walk({{0, 0, 0}}, {}, 0, 0.1);
    double highest = 0;
    WalkKeys keys;
    keys.up = true;
    for (int i = 0; i < 60; ++i) {
        body = walked(body, place.shape, keys, 0, 0.01, place.read(), place.rules);
        highest = std::max(highest, y(body));
        keys.up = false;
    }
    EXPECT_NEAR(highest, 8.2 * 8.2 / (2 * 24), 0.1) << "v squared over 2 g";
}

TEST(Walk, ClimbsOneVoxelAndNotTwo)
{
    for (const int high : {1, 2}) {
        const Place place{[high](VoxelPos v) { return v.y < 0 || (v.z < -3 && v.y < high) ? kSlate : kOpen; }};
        WalkKeys keys;
        keys.forward = 1; // north, -z
        const Body body = place.walk({{0, 0, 0}}, keys, 0, 3);
        if (high == 1) {
            EXPECT_NEAR(y(body), 1, 1e-6);
            EXPECT_LT(z(body), -6);
        } else {
            EXPECT_NEAR(y(body), 0, 1e-6);
            EXPECT_NEAR(z(body), -3 + place.shape.width / 2, 1e-6) << "its side touches the wall";
        }
    }
}

TEST(Walk, AHalfBlockIsHalfAsHighAndASlopeIsWalkedUp)
{
    const Place half{[](VoxelPos v) { return v.y < 0 ? kSlate : v.y == 0 && v.z < -3 ? kHalf : kOpen; }};
    WalkKeys keys;
    keys.forward = 1;
    EXPECT_NEAR(y(half.walk({{0, 0, 0}}, keys, 0, 2)), 0.5, 1e-6);
    const Place slope{[](VoxelPos v) { // rises a voxel a voxel towards north
        return v.y < 0 || v.z < -4 - v.y ? kSlate : v.z == -4 - v.y && v.y < 5 ? kSlope : kOpen;
    }};
    const Body up = slope.walk({{0, 0, 0}}, keys, 0, 1.5);
    EXPECT_GT(y(up), 2.5);
    EXPECT_FALSE(isInside(up, slope.shape, slope.read(), slope.rules));
}

TEST(Walk, SwimsUpInWaterAndSinksSlowly)
{
    const Place place{[](VoxelPos v) { return v.y < -20 ? kSlate : v.y < 0 ? kWater : kOpen; }};
    Body body{{0, -10, 0}};
    const Body sunk = place.walk(body, {}, 0, 1);
    EXPECT_TRUE(sunk.isSwimming);
    EXPECT_GT(y(sunk), -12) << "free fall would be 12 voxels";
    EXPECT_LT(y(sunk), -10);
    WalkKeys up;
    up.up = true;
    EXPECT_GT(y(place.walk(body, up, 0, 3)), -3);
}

TEST(Walk, NeverGoesThroughAWallHoweverFastOrLongTheStep)
{
    const Place place{[](VoxelPos v) { return v.z == -10 || v.y < 0 ? kSlate : kOpen; }};
    for (const double speed : {1.0, 50.0, 5000.0, 5e6})
        for (const double seconds : {0.001, 0.1, 2.0}) {
            WalkKeys keys;
            keys.forward = 1;
            keys.speed = speed;
            Body body{{0, 0, 0}};
            body = walked(body, place.shape, keys, 0, seconds, place.read(), place.rules);
            EXPECT_GE(z(body), -9 + place.shape.width / 2 - 1e-6) << speed << " for " << seconds;
        }
    // Straight down onto one voxel of floor.
    Body falling{{0, 400, 0}};
    falling.velocity.y = -1e5;
    falling = walked(falling, place.shape, {}, 0, 1, place.read(), place.rules);
    EXPECT_NEAR(y(falling), 0, 1e-6);
}

TEST(Walk, IsNeverInsideAnythingInAWorldOfChance)
{
    for (const std::int64_t far : {std::int64_t{0}, std::int64_t{1} << 40}) {
        const Place place{[far](VoxelPos v) -> Material {
            const std::uint64_t hash = mix64(hashOf({v.x - far, v.y, v.z}));
            const Material kinds[]{kOpen, kOpen, kOpen, kOpen, kOpen, kOpen, kSlate, kHalf, kSlope, kWater};
            return v.y < -6 ? kSlate : v.y > 6 ? kOpen : kinds[hash % 10];
        }};
        std::mt19937_64 dice(6);
        const auto chance = [&] { return static_cast<double>(dice() >> 11) * 0x1p-53; };
        Body body{{far, 9, 0}};
        int grounded = 0;
        for (int i = 0; i < 6000; ++i) {
            WalkKeys keys;
            keys.forward = 2 * chance() - 1;
            keys.right = 2 * chance() - 1;
            keys.up = chance() < 0.3;
            keys.speed = std::pow(10, 3 * chance());
            body = walked(body, place.shape, keys, 360 * chance(), 0.1 * chance(), place.read(), place.rules);
            ASSERT_FALSE(isInside(body, place.shape, place.read(), place.rules)) << "step " << i;
            for (int a = 0; a < 3; ++a)
                ASSERT_TRUE(body.within[a] >= 0 && body.within[a] < 1);
            grounded += body.isOnGround;
        }
        EXPECT_GT(grounded, 500);
    }
}

TEST(Walk, WhatNobodyKnowsStopsIt)
{
    const Place place{flat};
    const ReadVoxel read = [&](VoxelPos v) { return v.z < -5 ? std::nullopt : std::optional(flat(v)); };
    WalkKeys keys;
    keys.forward = 1;
    Body body{{0, 0, 0}};
    for (int i = 0; i < 200; ++i)
        body = walked(body, place.shape, keys, 0, 0.02, read, place.rules);
    EXPECT_NEAR(z(body), -5 + place.shape.width / 2, 1e-6);
}

} // namespace
} // namespace fell::walk_test
