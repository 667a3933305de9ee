// SPDX-License-Identifier: Apache-2.0
#include "core/cull/visibility_fixture.h"
#include "support/all_names.h"
#include <fell/cull/scene.h>
#include <fell/cull/visibility.h>
#include <fell/cull/visibility_table.h>

#include <glm/geometric.hpp>
#include <glm/trigonometric.hpp>
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <random>
#include <set>

namespace fell::visibility_table_test {
namespace {

using namespace test;

/// A world of edge 16 in which rays can be followed voxel by voxel.
struct RayWorld {
    static constexpr int kEdge = 16, kReach = 4;
    std::function<bool(VoxelPos)> isOpaque;
    CullScene scene;
    std::vector<ChunkPos> chunks;

    void build()
    {
        scene.clear({{"hidden"}, "sphere", 1, "chunk", "both"}, kEdge, kReach);
        for (int y = -kReach; y <= kReach; ++y)
            for (int z = -kReach; z <= kReach; ++z)
                for (int x = -kReach; x <= kReach; ++x) {
                    if (x * x + y * y + z * z > kReach * kReach)
                        continue;
                    const VoxelPos low = originOf({x, y, z}, kEdge);
                    const auto voxels = paddedOf(kEdge, [&](int i, int j, int k) -> Material {
                        return isOpaque(low + VoxelPos{i, j, k}) ? 1 : kOpen;
                    });
                    scene.learn({x, y, z}, computeVisibility(voxels, kSolidCubes));
                    scene.add({x, y, z}, kAllSides);
                }
    }

    /// Every chunk that a ray passes until it meets something opaque.
    void follow(const Eye& eye, glm::dvec3 direction, std::set<ChunkPos>& seen) const
    {
        glm::dvec3 at = eye.within;
        VoxelPos voxel = eye.cell;
        for (int step = 0; step < 400; ++step) {
            seen.insert(chunkOf(voxel, kEdge));
            if (isOpaque(voxel) || squaredLength(chunkOf(voxel, kEdge)) > kReach * kReach)
                return;
            int axis = 0;
            double first = 1e9;
            for (int i = 0; i < 3; ++i) {
                const double to = direction[i] > 0 ? (1 - at[i]) / direction[i]
                    : direction[i] < 0             ? -at[i] / direction[i]
                                                   : 1e9;
                if (to < first) {
                    first = to;
                    axis = i;
                }
            }
            at += direction * first;
            at[axis] = direction[axis] > 0 ? 0 : 1;
            const std::int64_t by = direction[axis] > 0 ? 1 : -1;
            voxel = voxel + VoxelPos{axis == 0 ? by : 0, axis == 1 ? by : 0, axis == 2 ? by : 0};
        }
    }
};

/// What the walk alone keeps, seen 64 voxels far through a usual lens.
std::set<ChunkPos> keptByTheWalk(RayWorld& world, const Eye& eye)
{
    const CullView view = cullViewOf(eye, lensFor(65, 1.6, 64, 16), 16, 64);
    CullResult result;
    world.scene.choose({{"hidden"}, "sphere", 1, "chunk", "walk"});
    world.scene.cull(view, result);
    std::set<ChunkPos> kept;
    for (const KeptChunk& chunk : result.kept)
        kept.insert(world.scene.chunks()[chunk.index]);
    return kept;
}

std::uint64_t caseOf(VoxelPos v, std::int64_t cell)
{
    const auto down = [cell](std::int64_t a) { return (a + 1000 * cell) / cell; };
    return mix64(static_cast<std::uint64_t>((down(v.x) * 4099 + down(v.y)) * 4099 + down(v.z)));
}

TEST(Hidden, NeverLosesAChunkThatARayReaches)
{
    const std::array<std::function<bool(VoxelPos)>, 5> worlds{
        [](VoxelPos v) {
            return v.y < 4 + 8 * std::sin(static_cast<double>(v.x) * 0.11) * std::cos(static_cast<double>(v.z) * 0.07);
        },
        [](VoxelPos v) { return caseOf(v, 8) % 100 < 45; }, // caves
        [](VoxelPos v) { return caseOf(v, 1) % 100 < 12; }, // dust
        [](VoxelPos v) {
            return !((v.y >= 0 && v.y < 6 && v.z >= 0 && v.z < 7) || (v.y >= 0 && v.y < 6 && v.x >= 20 && v.x < 27));
        },
        [](VoxelPos v) { return (v.x % 24 == 0 && v.y % 17 > 2) || v.y % 20 == 0; }};
    std::mt19937 dice(9);
    std::uint64_t rejected = 0, views = 0, corners = 0;
    for (const auto& isOpaque : worlds) {
        RayWorld world;
        world.isOpaque = isOpaque;
        world.build();
        for (int i = 0; i < 60; ++i) {
            Eye eye;
            do
                eye.cell = {static_cast<std::int64_t>(dice() % 40) - 12, static_cast<std::int64_t>(dice() % 40) - 12,
                    static_cast<std::int64_t>(dice() % 40) - 12};
            while (isOpaque(eye.cell));
            eye.within = {0.5, 0.5, 0.5};
            // On the borders of chunks, and as near to them as may be: there a border is looked at edge-on.
            if (const VoxelPos corner = originOf(chunkOf(eye.cell, 16), 16); i % 5 == 0 && !isOpaque(corner)) {
                eye.cell = corner;
                constexpr std::array<double, 4> kAway{0, 1e-6, 0.049, 0.051};
                const auto away = [&] { return kAway[dice() % kAway.size()]; };
                eye.within = {away(), away(), away()};
                ++corners;
            }
            eye.yaw = static_cast<double>(dice() % 360);
            eye.pitch = i % 6 == 0 ? -90 : static_cast<double>(dice() % 121) - 60;
            const CullView view = cullViewOf(
                eye, lensFor(i % 3 == 0 ? 110 : 65, 1.6, RayWorld::kReach * 16, 16), 16, RayWorld::kReach * 16);
            CullResult result;
            world.scene.cull(view, result);
            std::set<ChunkPos> kept, seen;
            for (const KeptChunk& chunk : result.kept)
                kept.insert(world.scene.chunks()[chunk.index]);
            rejected += result.counts[0].rejected;
            ++views;
            const glm::dvec3 forward = forwardOf(eye), right = rightOf(eye), up = glm::cross(right, forward);
            const double high = std::tan(glm::radians(view.lens.fieldOfView / 2)), wide = high * 1.6;
            for (int ray = 0; ray < 1500; ++ray) {
                const auto unit = [&dice] { return static_cast<double>(dice() % 20001) / 10000 - 1; };
                world.follow(eye, glm::normalize(forward + right * (unit() * wide) + up * (unit() * high)), seen);
            }
            for (const ChunkPos chunk : seen)
                if (squaredLength(chunk) <= RayWorld::kReach * RayWorld::kReach) {
                    ASSERT_TRUE(kept.count(chunk)) << chunk.x << " " << chunk.y << " " << chunk.z << " view " << i;
                }
        }
    }
    EXPECT_GT(corners, 20u);
    EXPECT_GT(rejected, views * 100) << "of 257 chunks it rejects many";
}

TEST(Hidden, ALookDoesNotFollowATunnelRoundItsBends)
{
    // Two tunnels that meet chunk by chunk, but whose openings do not lie behind each other as seen from the first: one
    // at the foot of the chunks to the north, one at their head from the third chunk on, joined by an upright shaft.
    RayWorld world;
    world.isOpaque = [](VoxelPos v) {
        const bool within = v.x >= 6 && v.x < 10;
        const bool foot = v.y >= 0 && v.y < 3 && v.z >= -32, head = v.y >= 13 && v.y < 16 && v.z < -28;
        const bool shaft = v.y >= 0 && v.y < 16 && v.z < -28 && v.z >= -32;
        return !(within && (foot || head || shaft));
    };
    world.build();
    const Eye eye{{8, 1, 12}, glm::dvec3(0.5), 0, 0};
    const std::set<ChunkPos> kept = keptByTheWalk(world, eye);
    for (const std::int64_t z : {0, -1, -2, -3}) // the last one is the wall behind the shaft
        EXPECT_TRUE(kept.count({0, 0, z})) << z;
    // By hand: through the foot's far border (z = -16, up to y = 3, 28.5 voxels off) a look rises by 1.5 in 28.5; at
    // the head's border (z = -32, from y = 13, 44.5 off) it would have to have risen by 11.5.
    EXPECT_FALSE(kept.count({0, 0, -4})) << "no straight look reaches the head's tunnel";
}

TEST(Hidden, ALookInAGalleryDoesNotComeOutInAnotherOne)
{
    // Two galleries to the north that nothing joins, one above the other: each chunk's north and south sides are open
    // from the foot of the lower to the head of the upper. At z = -40 the lower one turns to the east.
    RayWorld world;
    world.isOpaque = [](VoxelPos v) {
        const bool isLower
            = v.y >= 0 && v.y < 4 && ((v.x >= 6 && v.x < 10 && v.z > -44) || (v.z <= -40 && v.z > -44 && v.x >= 6));
        const bool isUpper = v.x >= 6 && v.x < 10 && v.y >= 10 && v.y < 14;
        return !isLower && !isUpper;
    };
    world.build();
    // The eye's own chunk is looked out of as a whole; what comes after it is told apart.
    const Eye eye{{8, 1, 12}, glm::dvec3(0.5), 0, 0};
    const std::set<ChunkPos> kept = keptByTheWalk(world, eye);
    EXPECT_TRUE(kept.count({0, 0, -3})) << "where the lower one turns";
    // By hand: the upper one's floor is at y = 10, 8.5 above the eye; its first border (z = 0, 12.5 off) is seen under
    // 34 degrees, above the view's 32.5, and what is within the view at z = -16 leads on to the north.
    EXPECT_FALSE(kept.count({0, 0, -4})) << "only the upper gallery goes on";
}

TEST(Hidden, BehindAWallNothingIsKept)
{
    RayWorld world;
    world.isOpaque = [](VoxelPos v) { return v.z <= -16 && v.z > -32; }; // a wall to the north, 16 thick
    world.build();
    const Eye eye{{8, 8, 8}, glm::dvec3(0.5), 0, 0};
    const CullView view = cullViewOf(eye, lensFor(65, 1.6, 64, 16), 16, 64);
    CullResult both, walk, depth;
    world.scene.cull(view, both);
    for (const KeptChunk& chunk : both.kept)
        EXPECT_GE(world.scene.chunks()[chunk.index].z, -2);
    for (const auto& [mode, result] : {std::pair{"walk", &walk}, {"depth", &depth}}) {
        world.scene.choose({{"hidden"}, "sphere", 1, "chunk", mode});
        world.scene.cull(view, *result);
        EXPECT_LT(result->counts[0].kept, 257u) << mode;
        EXPECT_GE(result->counts[0].kept, both.counts[0].kept) << mode;
    }
}

TEST(Hidden, WithTheEyeInAWallNothingIsHidden)
{
    RayWorld world;
    world.isOpaque = [](VoxelPos) { return true; };
    world.build();
    CullView view = cullViewOf({}, lensFor(65, 1.6, 64, 16), 16, 64, false);
    CullResult result;
    world.scene.cull(view, result);
    EXPECT_EQ(result.kept.size(), world.scene.chunks().size()) << "the near plane cuts the wall open";
    view.nearPlaneIsClear = true;
    world.scene.cull(view, result);
    EXPECT_LT(result.kept.size(), 10u);
}

TEST(DepthBeams, CutAPartOfThePictureToWhatIsSeenPastAWall)
{
    // A wall to the north that ends in the west, at x = 0; its cells begin 24.5 voxels before the eye.
    VisibilityTable field;
    field.clear(4);
    for (int y = -4; y <= 4; ++y)
        for (int x = -4; x <= 4; ++x)
            field.learn({x, y, -2}, x >= 0 ? ChunkVisibility::closed() : ChunkVisibility::open());
    const Eye eye{{8, 8, 8}, glm::dvec3(0.5), 0, 0};
    const CullView view = cullViewOf(eye, lensFor(65, 1.6, 64, 16), 16, 64);
    DepthBeams beams;
    beams.run(field, view);
    const PictureRect past = beams.reaching({}, 60);
    // By hand: the wall's end is 8.5 to the left of 24.5 ahead; the picture's half is 1.6 tan(32.5 deg) of its depth.
    const float end = -8.5F / 24.5F / 1.0193F, beam = 2.0F / static_cast<float>(beams.columns());
    EXPECT_FLOAT_EQ(past.low.x, -1);
    EXPECT_GE(past.high.x, end);
    EXPECT_LE(past.high.x, end + 1.01F * beam);
    EXPECT_FLOAT_EQ(past.low.y, -1);
    EXPECT_FLOAT_EQ(past.high.y, 1);
    // What is nearer than the wall is all there, and on its side nothing farther is.
    EXPECT_FLOAT_EQ(beams.reaching({}, 20).high.x, 1);
    EXPECT_TRUE(beams.reaching({glm::vec2(0, -0.5), glm::vec2(0.5, 0.5)}, 60).isEmpty());
}

TEST(VisibilityTable, ForgetsWhatLiesWhereAnotherChunkIsNow)
{
    VisibilityTable field;
    field.clear(2); // 7 places an axis
    field.learn({1, 0, 0}, ChunkVisibility::closed());
    ASSERT_NE(field.find({1, 0, 0}), nullptr);
    EXPECT_EQ(field.find({8, 0, 0}), nullptr);
    field.learn({8, 0, 0}, ChunkVisibility::open());
    EXPECT_EQ(field.find({1, 0, 0}), nullptr);
    field.forget({1, 0, 0});
    EXPECT_NE(field.find({8, 0, 0}), nullptr);
    field.forget({8, 0, 0});
    EXPECT_EQ(field.find({8, 0, 0}), nullptr);
}

} // namespace
} // namespace fell::visibility_table_test
