// SPDX-License-Identifier: Apache-2.0
#include <fell/lod/seams.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

#include <functional>
#include <map>
#include <random>

namespace fell::seams_test {
namespace {

constexpr int kEdge = 16;
using Field = std::function<Material(VoxelPos)>; // of a level's voxels

/// A chunk of a field, and one with its border.
VoxelChunk chunkFrom(const Field& field, ChunkPos chunk)
{
    std::vector<Material> voxels;
    for (int y = 0; y < kEdge; ++y)
        for (int z = 0; z < kEdge; ++z)
            for (int x = 0; x < kEdge; ++x)
                voxels.push_back(field(originOf(chunk, kEdge) + VoxelPos{x, y, z}));
    return VoxelChunk(kEdge, std::move(voxels));
}

PaddedVoxels paddedFrom(const Field& field, ChunkPos chunk)
{
    PaddedVoxels padded;
    padded.edge = kEdge;
    padded.voxels.resize(18 * 18 * 18);
    for (int y = -1; y <= kEdge; ++y)
        for (int z = -1; z <= kEdge; ++z)
            for (int x = -1; x <= kEdge; ++x)
                padded.voxels[padded.index(x, y, z)] = field(originOf(chunk, kEdge) + VoxelPos{x, y, z});
    return padded;
}

/// The unit sides of seams of one border as (i, j, looks into the chunk) to material.
std::map<std::array<int, 3>, Material> cellsOf(const std::vector<Quad>& quads, Side border)
{
    std::map<std::array<int, 3>, Material> cells;
    const auto a = static_cast<std::size_t>(axisOf(border)), u = (a + 1) % 3, v = (a + 2) % 3;
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        EXPECT_EQ(planeOf(q), signOf(border) > 0 ? kEdge : 0);
        EXPECT_EQ(q.side, q.facesInward ? opposite(border) : border);
        const std::array<int, 3> at{q.x, q.y, q.z};
        for (int j = at[v]; j < at[v] + q.height; ++j)
            for (int i = at[u]; i < at[u] + q.width; ++i)
                EXPECT_TRUE(cells.try_emplace({i, j, q.facesInward}, q.material).second) << "covered twice";
    }
    return cells;
}

/// Two levels of random dust that have nothing to do with each other: the hardest border.
TEST(Seams, StitchesAreTheSidesThatNoMeshHas)
{
    const SideRules rules = sideRulesOf(test::testBlocks());
    const auto dust = [](std::uint64_t seed, VoxelPos at) {
        const std::uint64_t dice = mix64(seed + hashOf({at.x, at.y, at.z}));
        return static_cast<Material>(dice % 5 < 2 ? kOpen : 1 + dice / 5 % 2);
    };
    const Field fine = [&](VoxelPos at) { return dust(1, at); };
    const Field coarse = [&](VoxelPos at) { return dust(2, at); };
    for (const ChunkPos chunk : {ChunkPos{0, 0, 0}, {1, 0, 1}, {-1, -2, 5}, {3, 3, 2}}) {
        const PaddedVoxels padded = paddedFrom(fine, chunk);
        const ChunkPos parent = parentOf(chunk);
        const VoxelChunk own = chunkFrom(coarse, parent);
        std::vector<VoxelChunk> beyond;
        for (int axis = 0; axis < 3; ++axis)
            beyond.push_back(chunkFrom(coarse, parent + stepOf(outerSide(chunk, axis))));
        SeamQuads seams;
        stitch(chunk, padded, {&own, {&beyond[0], &beyond[1], &beyond[2]}}, rules, {}, seams);
        for (const Side side : kSides) {
            const bool isOuter = outerSide(chunk, axisOf(side)) == side;
            const auto cells = cellsOf(seams.quads[static_cast<std::size_t>(side)], side);
            if (!isOuter) {
                EXPECT_TRUE(cells.empty()) << "that border lies within the parent";
                continue;
            }
            const auto a = static_cast<std::size_t>(axisOf(side)), u = (a + 1) % 3, v = (a + 2) % 3;
            std::size_t expected = 0;
            for (int j = 0; j < kEdge; ++j)
                for (int i = 0; i < kEdge; ++i) {
                    // Everything by world positions, voxel by voxel.
                    std::array<std::int64_t, 3> local{};
                    local[a] = signOf(side) > 0 ? kEdge - 1 : 0;
                    local[u] = i;
                    local[v] = j;
                    const VoxelPos here = originOf(chunk, kEdge) + VoxelPos{local[0], local[1], local[2]};
                    const ChunkPos step = stepOf(side);
                    const VoxelPos there = here + VoxelPos{step.x, step.y, step.z};
                    const auto half = [](VoxelPos at) { return VoxelPos{at.x >> 1, at.y >> 1, at.z >> 1}; };
                    const Material fineHere = fine(here), fineThere = fine(there), coarseHere = coarse(half(here)),
                                   coarseThere = coarse(half(there));
                    if (fineHere != kOpen && coarseThere == kOpen && fineThere != kOpen) {
                        ASSERT_TRUE(cells.contains({i, j, 0}));
                        EXPECT_EQ(cells.at({i, j, 0}), fineHere);
                        ++expected;
                    }
                    if (fineHere == kOpen && coarseThere != kOpen && coarseHere != kOpen) {
                        ASSERT_TRUE(cells.contains({i, j, 1}));
                        EXPECT_EQ(cells.at({i, j, 1}), coarseThere);
                        ++expected;
                    }
                }
            EXPECT_EQ(cells.size(), expected);
            EXPECT_GT(expected, 50u);
        }
    }
}

TEST(Seams, LevelGroundOfTwoHeightsGetsOneStepAllRound)
{
    const SideRules rules = sideRulesOf(test::testBlocks());
    // Fine ground up to 5; coarse ground up to 3 coarse voxels, 6 fine ones.
    const Field fine = [](VoxelPos at) { return at.y < 5 ? Material{1} : kOpen; };
    const Field coarse = [](VoxelPos at) { return at.y < 3 ? Material{1} : kOpen; };
    const ChunkPos chunk{1, 0, 0}; // east, and the others within: low borders on y and z, a high one on x
    const PaddedVoxels padded = paddedFrom(fine, chunk);
    const VoxelChunk own = chunkFrom(coarse, {0, 0, 0}), east = chunkFrom(coarse, {1, 0, 0}),
                     below = chunkFrom(coarse, {0, -1, 0}), north = chunkFrom(coarse, {0, 0, -1});
    SeamQuads seams;
    stitch(chunk, padded, {&own, {&east, &below, &north}}, rules, {}, seams);
    const auto& atEast = seams.quads[static_cast<std::size_t>(Side::East)];
    ASSERT_EQ(atEast.size(), 1u);
    EXPECT_EQ(unpackQuad(atEast[0]), (QuadFields{15, 5, 0, 1, 16, Side::West, 1, 0, true}))
        << "one voxel high, all along";
    EXPECT_EQ(seams.quads[static_cast<std::size_t>(Side::North)].size(), 1u);
    EXPECT_TRUE(seams.quads[static_cast<std::size_t>(Side::Down)].empty());
    EXPECT_EQ(seams.count(), 2u);
}

TEST(Seams, SkirtsHangBelowTheSurfaceAndNoDeeper)
{
    const SideRules rules = sideRulesOf(test::testBlocks());
    const Field deep = [](VoxelPos at) { return at.y < 15 ? Material{2} : kOpen; };
    SeamQuads seams;
    hangSkirts(paddedFrom(deep, {0, 0, 0}), rules, {}, seams);
    const auto cells = cellsOf(seams.quads[static_cast<std::size_t>(Side::East)], Side::East);
    // Border east: along i runs y, along j z.
    for (int y = 0; y < kEdge; ++y)
        EXPECT_EQ(cells.contains({y, 3, 0}), y < 15 && y >= 15 - kSkirtDepth) << y;
    EXPECT_EQ(cellsOf(seams.quads[static_cast<std::size_t>(Side::Up)], Side::Up).size(), 0u) << "the top is open air";
    EXPECT_EQ(cellsOf(seams.quads[static_cast<std::size_t>(Side::Down)], Side::Down).size(), 256u);
}

TEST(Seams, QuadsThatLookIntoTheirVoxelKeepThatInEveryLayout)
{
    const QuadFields fields{15, 4, 2, 3, 5, Side::West, 7, 0, true};
    EXPECT_EQ(unpackQuad(packQuad(fields)), fields);
    const auto corners = cornersOf(fields);
    for (const auto& corner : corners)
        EXPECT_EQ(corner[0], 16) << "at the far side of its voxel";
    const Quad quad = packQuad(fields);
    const auto floats = encodeQuads(*findLayout("floats"), {&quad, 1});
    float x = 0;
    std::memcpy(&x, floats.data(), sizeof x);
    EXPECT_EQ(x, 16.0F);
    const auto packed = encodeQuads(*findLayout("corners"), {&quad, 1});
    std::uint32_t word = 0;
    std::memcpy(&word, packed.data(), sizeof word);
    EXPECT_EQ(word & 127u, 16u);
    // Seen from the west, where it looks to, its corners run counter-clockwise: their normal points west.
    const std::array<int, 3> a{
        corners[1][0] - corners[0][0], corners[1][1] - corners[0][1], corners[1][2] - corners[0][2]},
        b{corners[2][0] - corners[0][0], corners[2][1] - corners[0][1], corners[2][2] - corners[0][2]};
    EXPECT_LT(a[1] * b[2] - a[2] * b[1], 0);
}

} // namespace
} // namespace fell::seams_test
