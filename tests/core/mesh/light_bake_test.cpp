// SPDX-License-Identifier: Apache-2.0
// Levels at corners against the plain way, and quads counted by hand.
#include "core/mesh/light_bake_fixture.h"
#include "support/all_names.h"
#include "support/lit_blocks.h"
#include <fell/mesh/incremental_mesh.h>

#include <gtest/gtest.h>

#include <algorithm>

namespace fell::light_bake_test {
namespace {

using namespace test;

/// Every side of one voxel that a lit quad covers must have its corners' levels by interpolation.
void expectPlainLevels(const Baked& world, Matter matter, SideLight how)
{
    const QuadList& bare = world.quads.in(matter);
    LitQuads lit;
    bakeLight(bare, world.light, how, lit);
    ASSERT_EQ(lit.quads.size(), lit.lights.size());
    EXPECT_EQ(surfaceDigest(lit.quads), surfaceDigest(bare)) << "the same surface";
    EXPECT_EQ(areaOf(lit.quads), areaOf(bare)) << "no side twice";
    std::uint64_t wrong = 0, checked = 0;
    for (std::size_t i = 0; i < lit.quads.size(); ++i) {
        const QuadFields q = unpackQuad(lit.quads[i]);
        const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
        for (int c = 0; c < world.light.channels; ++c) {
            std::array<int, 4> corner{};
            for (std::size_t k = 0; k < 4; ++k)
                corner[k] = levelOf(lit.lights[i].corners[k], c);
            for (int x = 0; x < q.width; ++x)
                for (int y = 0; y < q.height; ++y)
                    for (int k = 0; k < 4; ++k) {
                        std::array<int, 3> voxel{q.x, q.y, q.z};
                        voxel[u] += x;
                        voxel[v] += y;
                        const int want = cornerLight(world.light, c, voxel, q.side, k, how);
                        const int px = x + (k == 1 || k == 2), py = y + (k >= 2);
                        // Bilinear, times width times height: whole numbers.
                        const int got = corner[0] * (q.width - px) * (q.height - py) + corner[1] * px * (q.height - py)
                            + corner[2] * px * py + corner[3] * (q.width - px) * py;
                        wrong += got != want * q.width * q.height;
                        // And a plane, wherever it is more than one voxel: no diagonal can be seen.
                        if (q.width * q.height > 1)
                            wrong += corner[0] + corner[2] != corner[1] + corner[3];
                        ++checked;
                    }
        }
    }
    EXPECT_EQ(wrong, 0u) << "of " << checked;
    EXPECT_GT(checked, 1000u);
}

/// The same, of quads that stay whole.
/// How many have cells, and how many do not.
std::pair<std::uint64_t, std::uint64_t> expectPlainCells(const Baked& world, bool rims)
{
    LitQuads bare, lit;
    std::vector<OcclusionRing> unused;
    if (rims)
        addOcclusionRings(world.padded, world.sides, world.quads.in(Matter::Solid), {}, bare, unused);
    else
        bare.quads = world.quads.in(Matter::Solid);
    LightCells cells;
    cells.begin(world.light.channels);
    bakeLight(bare.quads, world.light, {}, lit, &cells);
    EXPECT_EQ(lit.quads, bare.quads) << "none is cut";
    EXPECT_EQ(lit.quads.size(), lit.lights.size());
    std::uint64_t wrong = 0, inCells = 0, even = 0;
    std::uint32_t next = 0; // cells follow each other without gaps
    for (std::size_t n = 0; n < lit.quads.size(); ++n) {
        const QuadFields q = unpackQuad(lit.quads[n]);
        const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
        const auto& corners = lit.lights[n].corners;
        const bool isIn = (corners[0] & kInCells) != 0;
        for (const PackedLight corner : corners)
            EXPECT_EQ(corner, corners[0]) << "even, or the same head";
        const std::uint32_t head = corners[0] & ~kInCells;
        if (isIn) {
            EXPECT_EQ(head, next);
            EXPECT_EQ(cells.words.at(head * cells.wordsACell), lit.quads[n] & 0xFFFFFFFF);
            next += 1 + static_cast<std::uint32_t>(q.width * q.height);
        }
        (isIn ? inCells : even) += 1;
        for (int j = 0; j < q.height; ++j)
            for (int i = 0; i < q.width; ++i)
                for (int k = 0; k < 4; ++k) {
                    std::array<int, 3> voxel{q.x, q.y, q.z};
                    voxel[u] += i;
                    voxel[v] += j;
                    constexpr std::array<int, 4> kCorner{0, 1, 3, 2}; // of a cell, as cornerLight counts them
                    const PackedLight light
                        = isIn ? cells.at(head + 1 + static_cast<std::uint32_t>(j * q.width + i), k) : head;
                    for (int c = 0; c < world.light.channels; ++c)
                        wrong += levelOf(light, c)
                            != cornerLight(
                                world.light, c, voxel, q.side, kCorner[static_cast<std::size_t>(k)], {false, false});
                }
    }
    EXPECT_EQ(wrong, 0u);
    EXPECT_EQ(cells.words.size(), next * cells.wordsACell);
    return {inCells, even};
}

TEST(BakeLight, CellsHaveTheLevelsOfThePlainWayAndCutNoQuad)
{
    for (const char* mode : {"lamp-sky", "colour", "colour-sky"})
        for (const bool rims : {false, true})
            EXPECT_GT(expectPlainCells(dust(mode, 6, 0.2), rims).first, 1000u);
    // A lamp over the corner of a floor with stones on it: those far away are dark.
    const Baked slab(
        [](int x, int y, int z) {
            const bool stone = y < 2 || (y == 2 && x % 4 == 1 && z % 4 == 1);
            return x == 1 && y == 4 && z == 2 ? kLamp : stone ? kSlate : kOpen;
        },
        "colour-sky");
    const auto [inCells, even] = expectPlainCells(slab, true);
    EXPECT_GT(inCells, 2u);
    EXPECT_GT(even, 2u);
}

TEST(BakeLight, GivesEverySideTheLevelsOfThePlainWay)
{
    for (const char* mode : {"lamp-sky", "colour", "colour-sky"})
        for (const bool flat : {false, true})
            expectPlainLevels(dust(mode, 5), Matter::Solid, {flat, false});
}

TEST(BakeLight, LightsGlassByItsOwnVoxel)
{
    for (const bool flat : {false, true})
        expectPlainLevels(dust("colour", 9), Matter::SeeThrough, {flat, true});
}

TEST(BakeLight, KeepsAQuadWholeWhereLightIsEven)
{
    const Baked dark([](int, int y, int) { return y < 4 ? kSlate : kOpen; }, "colour");
    LitQuads lit;
    bakeLight(dark.quads.in(Matter::Solid), dark.light, {}, lit);
    EXPECT_EQ(lit.quads.size(), dark.quads.in(Matter::Solid).size());
    for (const QuadLight& light : lit.lights)
        EXPECT_EQ(light, QuadLight{});
}

TEST(BakeLight, ASlopeOfLightIsOneQuad)
{
    // A closed gallery one voxel high and wide along x with a lamp in its wall's end: levels fall evenly by one a
    // voxel, so its floor is one plane; with the lamp in the middle it is two.
    const auto gallery = [](int lampAt) {
        return Baked(
            [lampAt](int x, int y, int z) {
                if (y != 8 || z != 8 || x == 0 || x == 15)
                    return kSlate;
                return x == lampAt ? kLamp : kOpen;
            },
            "lamp-sky");
    };
    const auto floorsOf = [](const Baked& world) {
        LitQuads lit;
        bakeLight(world.quads.in(Matter::Solid), world.light, {}, lit);
        std::vector<std::pair<QuadFields, QuadLight>> floors;
        for (std::size_t i = 0; i < lit.quads.size(); ++i)
            if (const QuadFields q = unpackQuad(lit.quads[i]); q.side == Side::Up && q.y == 7)
                floors.push_back({q, lit.lights[i]});
        return floors;
    };
    const auto one = floorsOf(gallery(1));
    // x = 1 to 14. A corner has the mean of the two voxels at it, halves up: 15, 15, 14, ... 3, and at the closed end
    // the last voxel's own 2. So the first side is flat, and the slope runs on to the end.
    ASSERT_EQ(one.size(), 2u);
    const auto slope = std::max_element(
        one.begin(), one.end(), [](const auto& a, const auto& b) { return a.first.height < b.first.height; });
    EXPECT_EQ(slope->first.height, 13) << "x is the height of a side that looks up";
    EXPECT_EQ(levelOf(slope->second.corners[0], 0), 15);
    EXPECT_EQ(levelOf(slope->second.corners[3], 0), 2);
    EXPECT_EQ(slope->second.corners[0], slope->second.corners[1]) << "even across";
    EXPECT_EQ(floorsOf(gallery(7)).size(), 3u) << "two slopes and the lamp's own side";
}

TEST(BakeLight, ACornerIsNotLitThroughTheCrackBetweenTwoBlocks)
{
    // Two blocks that touch along an edge, light only on the far side of it.
    const Baked world(
        [](int x, int y, int z) {
            if (y < 8 || y > 8)
                return kSlate;
            const bool near = x < 8 && z < 8, far = x >= 8 && z >= 8;
            if (x == 9 && z == 9)
                return kLamp;
            return near || far ? kOpen : kSlate;
        },
        "lamp-sky");
    ASSERT_EQ(world.light.at(0, 7, 8, 7), 0);
    ASSERT_GT(world.light.at(0, 8, 8, 8), 0);
    EXPECT_EQ(cornerLight(world.light, 0, {7, 7, 7}, Side::Up, 2, {}), 0);
    EXPECT_EQ(cornerLight(world.light, 0, {8, 7, 8}, Side::Up, 0, {}), world.light.at(0, 8, 8, 8));
    expectPlainLevels(world, Matter::Solid, {});
}

} // namespace
} // namespace fell::light_bake_test
