// SPDX-License-Identifier: Apache-2.0
// Shade in a word next to each quad against the shade of each side looked up voxel by voxel, and cuts counted by hand.
#include "support/all_names.h"
#include "support/lit_blocks.h"
#include <fell/light/flood.h>
#include <fell/mesh/chunk_mesh.h>

#include <gtest/gtest.h>

#include <functional>
#include <random>

namespace fell::rim_shade_test {
namespace {

constexpr Material kSlate = 1, kLamp = 2, kGlass = 3;

BlockSet blocksHere()
{
    BlockSet set;
    test::addLit(set, "slate", Matter::Solid, {15, {}, {}});
    test::addLit(set, "lamp", Matter::SeeThrough, {1, {}, {15, 14, 12}});
    test::addLit(set, "glass", Matter::SeeThrough, {1, {0, 3, 9}, {}});
    return set;
}

/// A chunk among open neighbours, its sides merged as if unshaded.
struct Merged {
    Merged(int edge, const std::function<Material(int, int, int)>& at)
        : blocks(blocksHere())
        , sides(sideRulesOf(blocks))
        , middle(edge, voxelsOf(edge, at))
        , open(edge)
    {
        Neighbourhood around;
        around.chunks.fill(&open);
        around.chunks[13] = &middle;
        gather(around, padded);
        findMesher("greedy-bits")->mesh(padded, {&sides, false}, quads);
    }
    static std::vector<Material> voxelsOf(int edge, const std::function<Material(int, int, int)>& at)
    {
        std::vector<Material> voxels;
        for (int y = 0; y < edge; ++y)
            for (int z = 0; z < edge; ++z)
                for (int x = 0; x < edge; ++x)
                    voxels.push_back(at(x, y, z));
        return voxels;
    }
    BlockSet blocks;
    SideRules sides;
    VoxelChunk middle, open;
    PaddedVoxels padded;
    ChunkSurface quads;
};

Merged dust(int edge, int share, std::uint32_t seed)
{
    auto random = std::make_shared<std::mt19937>(seed);
    return {edge, [random, share](int, int, int) {
                const auto r = static_cast<int>((*random)() % 100);
                return r < share ? kSlate : r < share + 2 ? kLamp : r < share + 5 ? kGlass : kOpen;
            }};
}

/// Ground in steps, as quads of every length lie on it.
Merged steps(int edge)
{
    return {edge, [](int x, int y, int z) { return y <= 4 + x / 7 + z / 23 + (x == 3 && z > 5) ? kSlate : kOpen; }};
}

std::array<int, 3> voxelAt(const QuadFields& q, int i, int j)
{
    const auto a = static_cast<std::size_t>(axisOf(q.side));
    std::array<int, 3> at{q.x, q.y, q.z};
    at[(a + 1) % 3] += i;
    at[(a + 2) % 3] += j;
    return at;
}

/// Every corner of every side that the quads cover.
void expectShade(const Merged& world, const LitQuads& out, const std::vector<OcclusionRing>& rims)
{
    ASSERT_EQ(out.quads.size(), rims.size());
    for (std::size_t n = 0; n < rims.size(); ++n) {
        const QuadFields q = unpackQuad(out.quads[n]);
        EXPECT_TRUE(q.hasRing);
        for (int j = 0; j < q.height; ++j)
            for (int i = 0; i < q.width; ++i) {
                const auto [x, y, z] = voxelAt(q, i, j);
                const std::uint8_t ambientOcclusion = cornerOcclusion(world.padded, world.sides, x, y, z, q.side);
                const std::array<int, 4> here{rimDarkness(rims[n], i, j), rimDarkness(rims[n], i + 1, j),
                    rimDarkness(rims[n], i + 1, j + 1), rimDarkness(rims[n], i, j + 1)};
                for (int c = 0; c < 4; ++c)
                    ASSERT_EQ(here[static_cast<std::size_t>(c)], cornerDarkness(ambientOcclusion, c))
                        << "quad " << n << " of " << q.width << " x " << q.height << ", cell " << i << " " << j
                        << ", corner " << c << ", side " << static_cast<int>(q.side);
            }
    }
}

/// The same sides, with the flag that says how they are shaded taken off.
std::vector<Quad> plainSides(const QuadList& quads)
{
    std::vector<Quad> out;
    for (QuadFields q : [&] {
             std::vector<QuadFields> fields;
             for (const Quad quad : unitSides(quads))
                 fields.push_back(unpackQuad(quad));
             return fields;
         }()) {
        q.hasRing = false;
        out.push_back(packQuad(q));
    }
    std::sort(out.begin(), out.end());
    return out;
}

class RimShade : public testing::TestWithParam<int> { };
INSTANTIATE_TEST_SUITE_P(Edges, RimShade, testing::Values(16, 32, 64));

TEST_P(RimShade, DarkensEachCornerAsItsOwnVoxelsSay)
{
    for (const Merged& world : {dust(GetParam(), 6, 3), dust(GetParam(), 50, 4), steps(GetParam())})
        for (const QuadList& quads : world.quads.of) {
            LitQuads out;
            std::vector<OcclusionRing> rims;
            addOcclusionRings(world.padded, world.sides, quads, {}, out, rims);
            expectShade(world, out, rims);
            EXPECT_EQ(plainSides(out.quads), plainSides(quads));
            EXPECT_TRUE(out.lights.empty());
        }
}

TEST(RimShade, CutsWhatFitsNoWordAndLeavesTheRest)
{
    // A floor of 15 x 16 next to a wall along one edge: a strip of 1 x 16 along it, in two, and 14 x 16 with nothing
    // around it.
    const Merged floor(16, [](int x, int y, int) { return y == 0 || (x == 0 && y == 1) ? kSlate : kOpen; });
    LitQuads out;
    std::vector<OcclusionRing> rims;
    addOcclusionRings(floor.padded, floor.sides, floor.quads.in(Matter::Solid), {}, out, rims);
    std::vector<std::array<int, 2>> sizes;
    for (std::size_t n = 0; n < out.quads.size(); ++n)
        if (const QuadFields q = unpackQuad(out.quads[n]); q.side == Side::Up && q.y == 0) {
            sizes.push_back({std::min(q.width, q.height), std::max(q.width, q.height)});
            EXPECT_EQ(rims[n] == 0, sizes.back()[0] == 14);
        }
    std::sort(sizes.begin(), sizes.end());
    EXPECT_EQ(sizes, (std::vector<std::array<int, 2>>{{1, 8}, {1, 8}, {14, 16}}));
    // A plain has no steps: nothing is cut.
    const Merged plain(16, [](int, int y, int) { return y < 8 ? kSlate : kOpen; });
    LitQuads whole;
    std::vector<OcclusionRing> none;
    addOcclusionRings(plain.padded, plain.sides, plain.quads.in(Matter::Solid), {}, whole, none);
    EXPECT_EQ(none, std::vector<OcclusionRing>(6, 0));
}

TEST(RimShade, LightOfAQuadThatIsCutStaysWhereItWas)
{
    Merged world = steps(32);
    const LightRules rules = lightRulesOf(world.blocks, *findLightMode("colour"));
    std::vector<Material> voxels = world.middle.voxels();
    for (const int at : {(9 * 32 + 8) * 32 + 9, (12 * 32 + 25) * 32 + 20}) // lamps over the steps
        voxels[static_cast<std::size_t>(at)] = kLamp;
    const VoxelChunk lit(32, std::move(voxels));
    const Transmission here = transmissionOf(lit, rules), around = transmissionOf(world.open, rules);
    const SkyHeightMap none = skyFloor(32, INT64_MAX);
    LightBlock block{&rules, 32, {3, 3, 3}, std::vector<const Transmission*>(27, &around),
        std::vector<const SkyHeightMap*>(9, &none), 0};
    block.passes[13] = &here;
    PaddedLight light;
    FloodScratch scratch;
    floodPadded(block, light, scratch);
    LitQuads baked, out;
    std::vector<OcclusionRing> rims;
    bakeLight(world.quads.in(Matter::Solid), light, {}, baked);
    addOcclusionRings(world.padded, world.sides, baked.quads, baked.lights, out, rims);
    EXPECT_GT(out.quads.size(), baked.quads.size()) << "some are cut, or this shows nothing";
    expectShade(world, out, rims);
    for (std::size_t n = 0; n < rims.size(); ++n) {
        const QuadFields q = unpackQuad(out.quads[n]);
        const std::array<std::array<int, 2>, 4> cells{
            {{0, 0}, {q.width - 1, 0}, {q.width - 1, q.height - 1}, {0, q.height - 1}}};
        for (int corner = 0; corner < 4; ++corner)
            for (int c = 0; c < 4; ++c) {
                const auto [i, j] = cells[static_cast<std::size_t>(corner)];
                ASSERT_EQ(static_cast<int>(out.lights[n].corners[static_cast<std::size_t>(corner)] >> (4 * c) & 15),
                    cornerLight(light, c, voxelAt(q, i, j), q.side, corner, {}))
                    << n << " corner " << corner << " channel " << c;
            }
    }
}

TEST(RimShade, AMeshHasAWordForEachQuadAndKnowsWhichAreLitEvenly)
{
    const Merged world = dust(16, 30, 9);
    PaddedLight light;
    light.begin(16, 4);
    std::fill(light.passable.begin(), light.passable.end(), ~std::uint64_t{0});
    for (std::size_t c = 0; c < 4; ++c)
        light.of[c].all = 9;
    const ChunkMeshOptions options{
        findMesher("greedy-bits"), {findLayout("corners"), {3, 1}, OcclusionForm::Rings}, {&world.sides, false}};
    const ChunkMesh even = buildChunkMesh(world.padded, options, &light);
    EXPECT_EQ(even.rims.size(), even.quadCount());
    EXPECT_EQ(even.bytes(), even.quadCount() * std::size_t{32 + 4});
    EXPECT_EQ(even.varyingLight, (std::array<std::uint32_t, kSideCount>{}));
    // Brighter above than below: sides that stand upright run from one level to the other.
    light.of[0].all.reset();
    light.of[0].digits.assign(light.passable.size() * 4, 0);
    for (int y = 6; y <= 16; ++y)
        for (int z = -1; z <= 16; ++z)
            light.of[0].digits[light.row(y, z) * 4] = ~std::uint64_t{0};
    const ChunkMesh varyingLight = buildChunkMesh(world.padded, options, &light);
    std::uint32_t all = 0;
    for (std::size_t side = 0; side < kSideCount; ++side) {
        all += varyingLight.sides[side] + varyingLight.varyingLight[side];
        EXPECT_EQ(varyingLight.varyingLight[side] > 0,
            side != static_cast<std::size_t>(Side::Up) && side != static_cast<std::size_t>(Side::Down))
            << side;
    }
    EXPECT_EQ(all, varyingLight.quads[0]);
    EXPECT_EQ(varyingLight.rims.size(), varyingLight.quadCount());
}

} // namespace
} // namespace fell::rim_shade_test
