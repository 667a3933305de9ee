// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/mesh/meshers.h>
#include <fell/terrain/generate.h>

#include <algorithm>
#include <gtest/gtest.h>
#include <map>
#include <set>

namespace fell::meshers_test {
namespace {

using test::RandomNeighbourhood;

/// Twenty plain solid cubes, in the order of their numbers.
const SideRules& plainRules()
{
    static const SideRules kRules = [] {
        BlockSet blocks;
        for (int i = 1; i <= 20; ++i)
            blocks.kinds.push_back({.name = "solid-" + std::to_string(i)});
        return sideRulesOf(blocks);
    }();
    return kRules;
}

std::vector<Quad> meshed(const char* mesher, const Neighbourhood& around)
{
    PaddedVoxels padded;
    gather(around, padded);
    ChunkSurface quads;
    findMesher(mesher)->mesh(padded, {&plainRules(), false}, quads);
    return quads.all();
}

Neighbourhood alone(const VoxelChunk& chunk, const VoxelChunk& around)
{
    Neighbourhood out;
    out.chunks.fill(&around);
    out.chunks[13] = &chunk;
    return out;
}

VoxelChunk withOne(int edge, int x, int y, int z, Material material)
{
    std::vector<Material> voxels(static_cast<std::size_t>(edge) * edge * edge);
    voxels[static_cast<std::size_t>((y * edge + z) * edge + x)] = material;
    return {edge, std::move(voxels)};
}

TEST(Meshers, OneVoxelHasSixSides)
{
    const VoxelChunk open(32), one = withOne(32, 31, 0, 7, 3);
    for (const Mesher& mesher : meshers()) {
        if (mesher.traits.makesTriangles)
            continue; // not of quads alone: bevelled_test.cpp
        const auto quads = meshed(mesher.id, alone(one, open));
        EXPECT_EQ(quads.size(), 6u) << mesher.id;
        std::set<Side> sides;
        for (const Quad quad : quads) {
            sides.insert(unpackQuad(quad).side);
            EXPECT_EQ(unpackQuad(quad).material, 3);
        }
        EXPECT_EQ(sides.size(), 6u);
    }
}

TEST(Meshers, ASolidCubeShowsSixTimesItsEdgeSquared)
{
    for (const int edge : kChunkEdges) {
        const VoxelChunk open(edge), solid(edge, 1);
        EXPECT_EQ(areaOf(meshed("exposed", alone(solid, open))), static_cast<std::uint64_t>(6 * edge * edge));
        EXPECT_EQ(meshed("every", alone(solid, open)).size(), static_cast<std::size_t>(6 * edge * edge * edge));
    }
}

TEST(Meshers, ACheckerboardShowsEverySideOfEveryVoxel)
{
    const auto terrain = test::demoTerrain("checker");
    std::vector<VoxelChunk> chunks;
    Neighbourhood around;
    chunks.reserve(27);
    for (std::int64_t i = 0; i < 27; ++i) {
        chunks.push_back(generateChunk(*findGenerator("blocks"), *terrain, {i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1}, 32));
        around.chunks[static_cast<std::size_t>(i)] = &chunks.back();
    }
    EXPECT_EQ(meshed("exposed", around).size(), 32u * 32 * 32 / 2 * 6);
    EXPECT_EQ(surfaceDigest(meshed("exposed", around)), surfaceDigest(meshed("every", around)));
}

TEST(Meshers, NoSideIsHiddenBetweenTwoChunks)
{
    const VoxelChunk open(16), solid(16, 1);
    Neighbourhood pair = alone(solid, open);
    pair.chunks[neighbourIndex(stepOf(Side::East))] = &solid;
    for (const Quad quad : meshed("exposed", pair))
        EXPECT_NE(unpackQuad(quad).side, Side::East) << "the wall between two solid chunks";
    EXPECT_EQ(areaOf(meshed("exposed", pair)), 5u * 16 * 16);
}

TEST(Meshers, ExposedSidesAreThoseThatALookAtEveryNeighbourFinds)
{
    for (const double fill : {0.02, 0.3, 0.5, 0.9, 1.0}) {
        const RandomNeighbourhood world(16, fill, 4, static_cast<std::uint64_t>(fill * 1000));
        std::multiset<Quad> slow;
        for (int x = 0; x < 16; ++x)
            for (int y = 0; y < 16; ++y)
                for (int z = 0; z < 16; ++z)
                    for (const Side side : kSides) {
                        const ChunkPos to = stepOf(side);
                        const Material here = world.at(x, y, z);
                        if (here != kOpen
                            && world.at(
                                   x + static_cast<int>(to.x), y + static_cast<int>(to.y), z + static_cast<int>(to.z))
                                == kOpen)
                            slow.insert(packQuad({x, y, z, 1, 1, side, here}));
                    }
        const auto fast = meshed("exposed", world.view());
        EXPECT_EQ(std::multiset<Quad>(fast.begin(), fast.end()), slow) << fill;
    }
}

TEST(Meshers, TwoChunksTogetherShowTheSurfaceOfTheirUnion)
{
    // Closed surface: for each axis, what looks one way equals what looks the other way, summed over a solid body
    // in open air. Here the body is the centre chunk filled by chance, with nothing around it.
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        const RandomNeighbourhood world(16, 0.4, 3, seed);
        const VoxelChunk open(16);
        const auto quads = meshed("exposed", alone(*world.view().chunks[13], open));
        std::map<Side, std::int64_t> area;
        for (const Quad quad : quads)
            ++area[unpackQuad(quad).side];
        EXPECT_EQ(area[Side::East], area[Side::West]);
        EXPECT_EQ(area[Side::Up], area[Side::Down]);
        EXPECT_EQ(area[Side::South], area[Side::North]);
    }
}

TEST(Meshers, EmptyChunksAndBuriedOnesGiveNothing)
{
    const VoxelChunk open(32), solid(32, 2);
    for (const Mesher& mesher : meshers())
        EXPECT_TRUE(meshed(mesher.id, alone(open, solid)).empty()) << mesher.id;
    EXPECT_TRUE(meshed("exposed", alone(solid, solid)).empty());
    EXPECT_FALSE(findMesher("exposed")->traits.drawsHidden);
    EXPECT_TRUE(findMesher("every")->traits.drawsHidden);
}

TEST(Meshers, TheTableNamesEachOnce)
{
    std::set<std::string> ids;
    for (const Mesher& mesher : meshers()) {
        EXPECT_TRUE(ids.insert(mesher.id).second);
        EXPECT_EQ(findMesher(mesher.id), &mesher);
    }
    EXPECT_EQ(findMesher("best"), nullptr);
}

} // namespace
} // namespace fell::meshers_test
