// SPDX-License-Identifier: Apache-2.0
// The meshers against each other, on many random neighbourhoods with every kind of matter and shape.
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/mesh/meshers.h>

#include <algorithm>
#include <gtest/gtest.h>
#include <set>

namespace fell::greedy_test {
namespace {

using test::RandomNeighbourhood;

/// Three plain solid cubes, then glass of two kinds, water, a half block and a slope, and a solid cube behind them.
BlockSet mixedBlocks()
{
    BlockSet blocks;
    for (const char* name : {"slate", "turf", "peat"})
        blocks.kinds.push_back({.name = name});
    blocks.kinds.push_back({.name = "clear-glass", .matter = Matter::SeeThrough});
    blocks.kinds.push_back({.name = "amber-glass", .matter = Matter::SeeThrough});
    blocks.kinds.push_back({.name = "water", .matter = Matter::Liquid});
    blocks.kinds.push_back({.name = "half", .shape = std::make_shared<const BlockShape>(halfShape())});
    blocks.kinds.push_back({.name = "slope", .shape = std::make_shared<const BlockShape>(slopeShape())});
    blocks.kinds.push_back({.name = "late-slate"});
    return blocks;
}

ChunkSurface meshed(MeshFunction mesh, const PaddedVoxels& voxels, const MeshRules& rules)
{
    ChunkSurface out;
    mesh(voxels, rules, out);
    for (QuadList& list : out.of)
        std::sort(list.begin(), list.end());
    return out;
}

/// By the rules alone: each side of each cube, looked up on its own.
ChunkSurface byTheRules(const RandomNeighbourhood& world, int edge, const SideRules& rules, const PaddedVoxels& padded,
    bool ambientOcclusion)
{
    ChunkSurface out;
    for (int x = 0; x < edge; ++x)
        for (int y = 0; y < edge; ++y)
            for (int z = 0; z < edge; ++z)
                for (const Side side : kSides) {
                    const Material here = world.at(x, y, z);
                    const ChunkPos to = stepOf(side);
                    if (!rules.isCube(here)
                        || !isSideSeen(rules, here,
                            world.at(
                                x + static_cast<int>(to.x), y + static_cast<int>(to.y), z + static_cast<int>(to.z)),
                            side))
                        continue;
                    out.in(rules.matter[here])
                        .push_back(packQuad({x, y, z, 1, 1, side, here,
                            ambientOcclusion ? cornerOcclusion(padded, rules, x, y, z, side) : std::uint8_t{0}}));
                }
    for (QuadList& list : out.of)
        std::sort(list.begin(), list.end());
    return out;
}

std::vector<Quad> sortedSides(const QuadList& quads)
{
    auto sides = unitSides(quads);
    std::sort(sides.begin(), sides.end());
    return sides;
}

struct Case {
    int edge;
    double fill;
    unsigned kinds;
};

class MeshersAgree : public testing::TestWithParam<Case> { };

TEST_P(MeshersAgree, OnEverySideItsMaterialAndItsShade)
{
    const Case c = GetParam();
    const SideRules rules = sideRulesOf(mixedBlocks());
    ASSERT_EQ(rules.solidCubes, 3);
    for (std::uint64_t seed = 0; seed < (c.edge == 64 ? 1 : 4); ++seed)
        for (const bool ambientOcclusion : {false, true}) {
            const RandomNeighbourhood world(c.edge, c.fill, c.kinds, seed + 100 * c.kinds);
            PaddedVoxels padded;
            gather(world.view(), padded);
            const MeshRules meshRules{&rules, ambientOcclusion};
            const ChunkSurface slow = byTheRules(world, c.edge, rules, padded, ambientOcclusion),
                               voxels = meshed(meshExposedSides, padded, meshRules),
                               bits = meshed(meshExposedBits, padded, meshRules),
                               taught = meshed(meshGreedyTaught, padded, meshRules),
                               greedy = meshed(meshGreedyBits, padded, meshRules);
            for (std::size_t m = 0; m < kMatterCount; ++m) {
                ASSERT_EQ(voxels.of[m], slow.of[m]) << m << " seed " << seed << " shade " << ambientOcclusion;
                ASSERT_EQ(bits.of[m], slow.of[m]) << m << " seed " << seed << " shade " << ambientOcclusion;
                ASSERT_EQ(sortedSides(taught.of[m]), std::vector<Quad>(slow.of[m].begin(), slow.of[m].end()))
                    << m << " seed " << seed << " shade " << ambientOcclusion;
                ASSERT_EQ(greedy.of[m], taught.of[m]) << m << " seed " << seed << " shade " << ambientOcclusion;
            }
        }
}

INSTANTIATE_TEST_SUITE_P(Worlds, MeshersAgree,
    testing::Values(Case{16, 0.5, 1}, Case{16, 0.05, 3}, Case{16, 0.95, 2}, Case{16, 0.7, 9}, Case{32, 0.5, 1},
        Case{32, 0.98, 1}, Case{32, 0.9, 9}, Case{32, 0.02, 9}, Case{32, 1.0, 3}, Case{64, 0.6, 2}, Case{64, 0.97, 9}));

TEST(Meshers, AgreeWhereNoBlockTypeIsASolidCube)
{
    BlockSet blocks; // as parseBlockSet reads one of glass and water alone
    blocks.kinds.push_back({.name = "glass", .matter = Matter::SeeThrough});
    blocks.kinds.push_back({.name = "water", .matter = Matter::Liquid});
    const SideRules rules = sideRulesOf(blocks);
    ASSERT_EQ(rules.solidCubes, 0);
    PaddedVoxels one;
    one.edge = 16;
    one.voxels.assign(18 * 18 * 18, kOpen);
    one.voxels[one.index(8, 8, 8)] = 1;
    for (const MeshFunction mesh : {meshExposedSides, meshExposedBits, meshGreedyTaught, meshGreedyBits})
        EXPECT_EQ(meshed(mesh, one, {&rules, false}).in(Matter::SeeThrough).size(), 6u) << "one voxel in the air";
    for (const int edge : {16, 32})
        for (std::uint64_t seed = 0; seed < 3; ++seed) {
            const RandomNeighbourhood world(edge, 0.6, 2, seed);
            PaddedVoxels padded;
            gather(world.view(), padded);
            const ChunkSurface slow = byTheRules(world, edge, rules, padded, false),
                               bits = meshed(meshExposedBits, padded, {&rules, false}),
                               greedy = meshed(meshGreedyBits, padded, {&rules, false});
            for (std::size_t m = 0; m < kMatterCount; ++m) {
                EXPECT_EQ(bits.of[m], slow.of[m]);
                EXPECT_EQ(sortedSides(greedy.of[m]), std::vector<Quad>(slow.of[m].begin(), slow.of[m].end()));
            }
        }
}

TEST(Greedy, MakesOneQuadOfAFlatWall)
{
    const SideRules rules = sideRulesOf(mixedBlocks());
    for (const int edge : kChunkEdges) {
        const VoxelChunk open(edge), solid(edge, 1);
        Neighbourhood around;
        around.chunks.fill(&open);
        around.chunks[13] = &solid;
        PaddedVoxels padded;
        gather(around, padded);
        for (const MeshFunction mesh : {meshGreedyTaught, meshGreedyBits}) {
            const ChunkSurface all = meshed(mesh, padded, {&rules, false});
            const QuadList& quads = all.in(Matter::Solid);
            ASSERT_EQ(quads.size(), 6u);
            for (const Quad quad : quads)
                EXPECT_EQ(unpackQuad(quad).width * unpackQuad(quad).height, edge * edge);
        }
    }
}

/// A chunk of one layer of floor with a pillar on it, all of material 1, in open air.
PaddedVoxels pillarOnAFloor()
{
    std::vector<Material> voxels(16 * 16 * 16);
    for (std::size_t z = 0; z < 16; ++z)
        for (std::size_t x = 0; x < 16; ++x)
            voxels[z * 16 + x] = 1;
    voxels[(1 * 16 + 8) * 16 + 8] = 1; // at (8, 1, 8)
    const VoxelChunk open(16), chunk(16, std::move(voxels));
    Neighbourhood around;
    around.chunks.fill(&open);
    around.chunks[13] = &chunk;
    PaddedVoxels padded;
    gather(around, padded);
    return padded;
}

TEST(CornerShade, DarkensTheFloorRoundAPillarAndNothingElse)
{
    const SideRules rules = sideRulesOf(mixedBlocks());
    const PaddedVoxels padded = pillarOnAFloor();
    // By hand: east of the pillar, the floor's two western corners touch it. On an upper side u is z and v is x, so
    // the corners at low v are 0 and 1: each has one solid voxel next to it.
    EXPECT_EQ(cornerOcclusion(padded, rules, 9, 0, 8, Side::Up), 0b0000'0011);
    // North-east of it only one corner does, over the diagonal: high z, low x is corner 1.
    EXPECT_EQ(cornerOcclusion(padded, rules, 9, 0, 7, Side::Up), 0b0000'0010);
    EXPECT_EQ(cornerOcclusion(padded, rules, 3, 0, 3, Side::Up), 0);
    // The pillar's east face is above the floor: u is y, v is z; both corners at low u, 0 and 3, have the floor
    // below them and, across, more floor: two voxels, but never two sides that meet.
    EXPECT_EQ(cornerOcclusion(padded, rules, 8, 1, 8, Side::East), 0b1001'0000);
    // Around the pillar the floor has eight darkened sides; only they and the pillar's feet are shaded.
    const ChunkSurface quads = meshed(meshExposedBits, padded, {&rules, true});
    EXPECT_EQ(std::count_if(
                  quads.of[0].begin(), quads.of[0].end(), [](Quad q) { return unpackQuad(q).ambientOcclusion != 0; }),
        8 + 4);
}

TEST(CornerShade, TwoBlocksThatMeetCloseACorner)
{
    const SideRules rules = sideRulesOf(mixedBlocks());
    PaddedVoxels padded = pillarOnAFloor();
    padded.voxels[padded.index(9, 1, 7)]
        = 1; // with the pillar at (8, 1, 8) it closes a corner of the floor at (9, 0, 8)
    // Next to (9, 0, 8): west is the pillar, north the new one; corner 0 (low z, low x) is between them: 3. Corner 1
    // has the pillar: 1. Corner 3 (low z, high x) has the new one: 1.
    EXPECT_EQ(cornerOcclusion(padded, rules, 9, 0, 8, Side::Up), 0b0001'1011);
}

TEST(Greedy, KeepsShadeEvenAlongEveryMerge)
{
    const SideRules rules = sideRulesOf(mixedBlocks());
    for (std::uint64_t seed = 0; seed < 30; ++seed) {
        const RandomNeighbourhood world(16, 0.08 + 0.03 * static_cast<double>(seed), 1, seed);
        PaddedVoxels padded;
        gather(world.view(), padded);
        const ChunkSurface quads = meshed(meshGreedyBits, padded, {&rules, true});
        for (const Quad quad : quads.of[0]) {
            const QuadFields q = unpackQuad(quad);
            const auto dark = [&q](int corner) { return cornerDarkness(q.ambientOcclusion, corner); };
            EXPECT_TRUE(q.width == 1 || (dark(0) == dark(1) && dark(2) == dark(3)));
            EXPECT_TRUE(q.height == 1 || (dark(0) == dark(3) && dark(1) == dark(2)));
        }
    }
}

TEST(SideRules, GlassHidesOnlyItsOwnKindAndWaterShowsNoWallsInside)
{
    const SideRules rules = sideRulesOf(mixedBlocks());
    const Material slate = 1, clear = 4, amber = 5, water = 6, half = 7, slope = 8;
    for (const Side side : kSides) {
        EXPECT_FALSE(isSideSeen(rules, clear, clear, side));
        EXPECT_TRUE(isSideSeen(rules, clear, amber, side));
        EXPECT_TRUE(isSideSeen(rules, slate, clear, side));
        EXPECT_FALSE(isSideSeen(rules, clear, slate, side));
        EXPECT_FALSE(isSideSeen(rules, water, water, side));
        EXPECT_TRUE(isSideSeen(rules, slate, water, side));
        EXPECT_TRUE(isSideSeen(rules, water, kOpen, side));
    }
    // The half block is at the floor of its voxel: it hides what is below it and nothing else wholly.
    EXPECT_FALSE(isSideSeen(rules, slate, half, Side::Up));
    EXPECT_TRUE(isSideSeen(rules, slate, half, Side::Down));
    EXPECT_TRUE(isSideSeen(rules, slate, half, Side::East));
    EXPECT_FALSE(isSideSeen(rules, half, half, Side::East)) << "equal halves side by side";
    EXPECT_FALSE(isSideSeen(rules, half, slate, Side::East));
    // The slope's back is its north side: a block north of it looks south, at that side.
    EXPECT_FALSE(isSideSeen(rules, slate, slope, Side::South));
    EXPECT_TRUE(isSideSeen(rules, slate, slope, Side::North));
    EXPECT_TRUE(isSideSeen(rules, half, slope, Side::East)) << "half a side against a triangle";
}

} // namespace
} // namespace fell::greedy_test
