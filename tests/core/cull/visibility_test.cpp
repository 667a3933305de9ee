// SPDX-License-Identifier: Apache-2.0
#include "core/cull/visibility_fixture.h"
#include "support/all_names.h"
#include <fell/cull/scene.h>
#include <fell/cull/visibility.h>
#include <fell/cull/visibility_table.h>

#include <glm/geometric.hpp>
#include <glm/trigonometric.hpp>
#include <gtest/gtest.h>

#include <bit>
#include <functional>
#include <map>
#include <queue>
#include <random>
#include <set>

namespace fell::visibility_test {
namespace {

using namespace test;

/// The opening of a side grows by a voxel that lies on it.
void grow(ChunkPortals& openings, Side side, const std::array<int, 3>& at, int edge)
{
    const auto axis = static_cast<std::size_t>(axisOf(side));
    Portal& opening = openings[static_cast<std::size_t>(side)];
    const std::array<int, 2> place{at[axis == 0 ? 1 : 0], at[axis == 2 ? 1 : 2]};
    opening.cells |= std::uint64_t{1} << (place[1] * 8 / edge * 8 + place[0] * 8 / edge);
    for (std::size_t i = 0; i < 2; ++i) {
        opening.low[i] = std::min(opening.low[i], static_cast<std::uint8_t>(place[i] * 64 / edge));
        opening.high[i] = std::max(opening.high[i], static_cast<std::uint8_t>((place[i] + 1) * 64 / edge));
    }
}

struct PlainSight {
    std::array<SideSet, kSideCount> through{};
    std::uint64_t solid = 0;
    ChunkPortals all{};
    std::vector<ChunkPortals> regions; // that touch two sides or more
};

/// All that lie in one list are in the other; more than kMaxRegions are told by their sum.
void expectSameRegions(const ChunkVisibility& sight, const PlainSight& plain, const std::string& where)
{
    ASSERT_EQ(sight.isJoined(), !plain.regions.empty()) << where;
    if (plain.regions.size() > ChunkVisibility::kMaxRegions) {
        ASSERT_EQ(sight.regionCount(), ChunkVisibility::kMaxRegions) << where;
        for (const auto& one : plain.regions) {
            const bool within = std::any_of(sight.openings.begin() + 1, sight.openings.end(), [&](const auto& other) {
                for (std::size_t s = 0; s < kSideCount; ++s)
                    if (!one[s].isEmpty() && !(one[s].cutTo(other[s]) == one[s]))
                        return false;
                return true;
            });
            ASSERT_TRUE(within) << where;
        }
        return;
    }
    std::vector<ChunkPortals> found;
    for (std::size_t i = 0; i < sight.regionCount(); ++i)
        found.push_back(sight.region(i));
    ASSERT_EQ(found.size(), plain.regions.size()) << where;
    for (const auto& one : plain.regions)
        ASSERT_NE(std::find(found.begin(), found.end(), one), found.end()) << where;
}

/// A flood from every voxel that is not opaque, voxel by voxel: the plain way.
PlainSight plainSight(const PaddedVoxels& voxels)
{
    const int edge = voxels.edge;
    const auto isOpen = [&](int x, int y, int z) {
        const Material m = voxels.at(x, y, z);
        return m == kOpen || m > kSolidCubes;
    };
    std::set<std::array<int, 3>> seen;
    PlainSight sight;
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x) {
                if (!isOpen(x, y, z) || !seen.insert({x, y, z}).second)
                    continue;
                SideSet touched = 0;
                ChunkPortals openings{};
                std::queue<std::array<int, 3>> next;
                next.push({x, y, z});
                while (!next.empty()) {
                    const auto at = next.front();
                    next.pop();
                    for (const Side side : kSides) {
                        auto to = at;
                        to[static_cast<std::size_t>(axisOf(side))] += signOf(side);
                        if (*std::min_element(to.begin(), to.end()) < 0
                            || *std::max_element(to.begin(), to.end()) >= edge)
                            touched |= onlySide(side), grow(openings, side, at, edge);
                        else if (isOpen(to[0], to[1], to[2]) && seen.insert(to).second)
                            next.push(to);
                    }
                }
                if (std::popcount(touched) > 1)
                    sight.regions.push_back(openings);
                for (const Side side : kSides)
                    if (touched & onlySide(side))
                        sight.through[static_cast<std::size_t>(side)] |= touched;
            }
    for (const Side side : kSides)
        for (int a = 0; a < edge; ++a)
            for (int b = 0; b < edge; ++b) {
                const auto axis = static_cast<std::size_t>(axisOf(side));
                std::array<int, 3> at{};
                at[axis] = signOf(side) > 0 ? edge - 1 : 0;
                at[axis == 0 ? 1 : 0] = a;
                at[axis == 2 ? 1 : 2] = b;
                if (isOpen(at[0], at[1], at[2]))
                    grow(sight.all, side, at, edge);
            }
    const int cell = edge / kSightCells;
    for (int y = 0; y < kSightCells; ++y)
        for (int z = 0; z < kSightCells; ++z)
            for (int x = 0; x < kSightCells; ++x) {
                bool solid = true;
                for (int i = 0; i < cell * cell * cell; ++i)
                    solid &= !isOpen(x * cell + i % cell, y * cell + i / cell / cell, z * cell + i / cell % cell);
                sight.solid |= std::uint64_t{solid} << ((y * 4 + z) * 4 + x);
            }
    return sight;
}

TEST(ChunkVisibility, IsKeptOnlyWhereLookingAnewSaysTheSame)
{
    std::mt19937_64 dice(17);
    constexpr int kEdge = 16;
    int kept = 0, keptOnSide = 0, all = 0;
    for (int round = 0; round < 4000; ++round) {
        // Loose stones, caves of two noises' kind, and ground: what is above a wavy line is open.
        const unsigned fill = round % 3 == 0 ? 15 : round % 3 == 1 ? 60 : 92;
        std::vector<Material> voxels(std::size_t{kEdge} * kEdge * kEdge);
        for (std::size_t i = 0; i < voxels.size(); ++i) {
            const bool ground = i / (kEdge * kEdge) < 8 + i % kEdge / 5;
            const bool solid = round % 4 == 3 ? ground != (dice() % 40 == 0) : dice() % 100 < fill;
            voxels[i] = static_cast<Material>(solid ? 1 + dice() % kSolidCubes
                    : dice() % 20 == 0              ? kSolidCubes + 1
                                                    : 0);
        }
        const auto sight = [&] {
            return computeVisibility(
                paddedOf(kEdge,
                    [&](int x, int y, int z) { return voxels[static_cast<std::size_t>((y * kEdge + z) * kEdge + x)]; }),
                kSolidCubes);
        };
        const VoxelChunk before(kEdge, voxels);
        const ChunkVisibility was = sight();
        const std::array<int, 3> at{static_cast<int>(dice() % kEdge),
            static_cast<int>(round % 4 == 3 ? 6 + dice() % 6 : dice() % kEdge), static_cast<int>(dice() % kEdge)};
        const auto after = static_cast<Material>(dice() % (kSolidCubes + 2));
        const bool isKept = visibilityUnchanged(before, at, after, kSolidCubes);
        voxels[static_cast<std::size_t>((at[1] * kEdge + at[2]) * kEdge + at[0])] = after;
        ++all;
        kept += isKept;
        keptOnSide
            += isKept && std::any_of(at.begin(), at.end(), [](int place) { return place == 0 || place == kEdge - 1; });
        if (!isKept)
            continue;
        const ChunkVisibility now = sight();
        ASSERT_EQ(now.through, was.through) << round;
        ASSERT_EQ(now.solid, was.solid) << round;
        ASSERT_EQ(now.isOpen, was.isOpen) << round;
        ASSERT_EQ(now.openings.size(), was.openings.size()) << round;
        if (now.openings.size() <= ChunkVisibility::kMaxRegions) {
            ASSERT_TRUE(std::is_permutation(now.openings.begin(), now.openings.end(), was.openings.begin())) << round;
        }
    }
    EXPECT_GT(kept, all / 4);
    EXPECT_LT(kept, all);
    EXPECT_GT(keptOnSide, all / 16);
}

TEST(Sight, IsWhatAFloodFromEveryVoxelFinds)
{
    std::mt19937 dice(5);
    std::array<int, 8> regions{}; // cases by how many there are
    for (const int edge : {16, 32, 64})
        for (int i = 0; i < (edge == 16 ? 60 : edge == 32 ? 12 : 2); ++i) {
            const unsigned density = i % 6 * 20 + 3;
            const bool caves = i % 2 == 1;
            std::map<int, Material> block; // larger blocks leave ways through
            const auto voxels = paddedOf(edge, [&](int x, int y, int z) -> Material {
                if (caves) {
                    Material& m = block[(x / 4 * 100 + y / 4) * 100 + z / 4];
                    if (m == 0)
                        m = static_cast<Material>(dice() % 100 < density ? 1 + dice() % 4 : 9);
                    return m == 9 ? kOpen : m;
                }
                const unsigned roll = dice() % 100;
                return static_cast<Material>(roll < density ? 1 + dice() % 4 : roll < density + 3 ? 5 : kOpen);
            });
            const ChunkVisibility sight = computeVisibility(voxels, kSolidCubes);
            const PlainSight plain = plainSight(voxels);
            ASSERT_EQ(sight.through, plain.through) << "edge " << edge << " case " << i;
            ASSERT_EQ(sight.solid, plain.solid) << "edge " << edge << " case " << i;
            ASSERT_EQ(sight.all(), plain.all) << "edge " << edge << " case " << i;
            expectSameRegions(sight, plain, "edge " + std::to_string(edge) + " case " + std::to_string(i));
            regions[std::min<std::size_t>(7, plain.regions.size())] += 1;
        }
    EXPECT_GT(regions[0], 3);
    EXPECT_GT(regions[1], 3);
    EXPECT_GT(regions[2] + regions[3] + regions[4] + regions[5] + regions[6], 3);
    EXPECT_GT(regions[7], 3);
}

TEST(Sight, OfShapesDrawnByHand)
{
    // A tunnel along x: only its two ends see each other.
    const auto tunnel = paddedOf(16, [](int, int y, int z) -> Material { return y == 5 && z == 5 ? kOpen : 1; });
    ChunkVisibility sight = computeVisibility(tunnel, kSolidCubes);
    EXPECT_EQ(sight.through[0], onlySide(Side::East) | onlySide(Side::West));
    EXPECT_EQ(sight.through[2], 0);
    EXPECT_EQ(std::popcount(sight.solid), 60) << "four cells in a row have the tunnel";
    EXPECT_EQ(sight.all()[0], (Portal{{20, 20}, {24, 24}, 1U << (2 * 8 + 2)})) << "voxel 5 of 16, in 64ths";
    EXPECT_TRUE(sight.all()[2].isEmpty());
    // A wall of glass is looked through, a wall of stone is not.
    for (const bool glass : {true, false}) {
        const auto wall = paddedOf(16, [&](int x, int, int) -> Material { return x == 8 ? (glass ? 5 : 1) : kOpen; });
        sight = computeVisibility(wall, kSolidCubes);
        EXPECT_EQ((sight.through[0] & onlySide(Side::West)) != 0, glass);
        EXPECT_TRUE(sight.through[0] & onlySide(Side::Up));
    }
    EXPECT_EQ(sightOfUniform(kOpen, 4), ChunkVisibility::open());
    EXPECT_EQ(sightOfUniform(5, 4), ChunkVisibility::open());
    EXPECT_EQ(sightOfUniform(4, 4), ChunkVisibility::closed());
    EXPECT_EQ(
        computeVisibility(paddedOf(16, [](int, int, int) -> Material { return 2; }), 4), ChunkVisibility::closed());
}

} // namespace
} // namespace fell::visibility_test
