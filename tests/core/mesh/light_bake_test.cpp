// SPDX-License-Identifier: Apache-2.0
// Levels at corners against the plain way, and quads counted by hand.
#include "light/flood.h"
#include "mesh/mesh_again.h"
#include "support/lit_blocks.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cstring>
#include <random>

namespace fell::light_bake_test {
namespace {

constexpr int kEdge = 16;
constexpr Material kSlate = 1, kLamp = 2, kGlass = 3, kHalf = 4;

BlockSet bakeBlocks()
{
    BlockSet set;
    test::addLit(set, "slate", Matter::Solid, {15, {}, {}});
    test::addLit(set, "lamp", Matter::SeeThrough, {1, {}, {15, 14, 12}});
    test::addLit(set, "glass", Matter::SeeThrough, {1, {0, 3, 9}, {}});
    test::addLit(set, "half", Matter::Solid, {1, {}, {}});
    set.kinds.back().shape = std::make_shared<const BlockShape>(halfShape());
    return set;
}

/// A chunk among open neighbours, below stone: its voxels, its light and its quads.
struct Baked {
    Baked(const std::function<Material(int, int, int)>& at, const char* mode)
        : blocks(bakeBlocks())
        , sides(sideRulesOf(blocks))
        , rules(lightRulesOf(blocks, *findLightMode(mode)))
    {
        std::vector<Material> voxels;
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z)
                for (int x = 0; x < kEdge; ++x)
                    voxels.push_back(at(x, y, z));
        const VoxelChunk middle(kEdge, std::move(voxels)), open(kEdge);
        Neighbourhood around;
        around.chunks.fill(&open);
        around.chunks[13] = &middle;
        gather(around, padded);
        const LightPasses here = passesOf(middle, rules), beside = passesOf(open, rules);
        const SkyFloor none = skyFloor(kEdge, INT64_MAX);
        LightBlock block{&rules, kEdge, {3, 3, 3}, std::vector<const LightPasses*>(27, &beside),
            std::vector<const SkyFloor*>(9, &none), 0};
        block.passes[13] = &here;
        FloodScratch scratch;
        floodPadded(block, light, scratch);
        findMesher("greedy-bits")->mesh(padded, {&sides, false}, quads);
    }
    BlockSet blocks;
    SideRules sides;
    LightRules rules;
    PaddedVoxels padded;
    PaddedLight light;
    ChunkSurface quads;
};

Baked dust(const char* mode, unsigned seed, double share = 0.35)
{
    std::mt19937 dice(seed);
    return Baked(
        [&](int, int, int) {
            const double d = static_cast<double>(dice()) / 4294967296.0;
            return d < share ? kSlate : d < share + 0.004 ? kLamp : d < share + 0.03 ? kGlass : kOpen;
        },
        mode);
}

int levelOf(PackedLight light, int channel)
{
    return static_cast<int>(light >> (4 * channel) & 15);
}

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
    std::vector<Rim> unused;
    if (rims)
        addRims(world.padded, world.sides, world.quads.in(Matter::Solid), {}, bare, unused);
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

TEST(LitLayouts, AllSayTheSameLight)
{
    std::mt19937 dice(3);
    std::vector<Quad> quads;
    std::vector<QuadLight> lights;
    for (int i = 0; i < 200; ++i) {
        quads.push_back(packQuad({1, 2, 3, 4, 5, kSides[dice() % 6], static_cast<Material>(dice() % 4096),
            static_cast<std::uint8_t>(dice() & 255)}));
        QuadLight light;
        for (PackedLight& corner : light.corners)
            corner = static_cast<PackedLight>(dice() & 0xFFFFFF);
        if (i % 3 == 0) // alike at all corners, as most are
            light.corners.fill(light.corners[0]);
        if (i % 2 == 0)
            quads.back() &= ~(Quad{255} << kShadeBit);
        if (i % 5 < 2)
            quads.back() |= Quad{1} << kNumberedBit;
        lights.push_back(light);
    }
    const auto floats = layOut(*findLayout("floats"), quads, lights),
               corners = layOut(*findLayout("corners"), quads, lights),
               packed = layOut(*findLayout("packed"), quads, lights);
    ASSERT_EQ(floats.size(), quads.size() * 192);
    ASSERT_EQ(corners.size(), quads.size() * 32);
    ASSERT_EQ(packed.size(), quads.size() * 20);
    for (std::size_t q = 0; q < quads.size(); ++q) {
        std::uint32_t record[5];
        std::memcpy(record, packed.data() + q * 20, 20);
        EXPECT_EQ(record[0] | std::uint64_t{record[1]} << 32, quads[q]);
        EXPECT_EQ(record[2] & 0xFFFFFF, lights[q].corners[0]);
        EXPECT_EQ((record[2] >> 24 | record[3] << 8) & 0xFFFFFF, lights[q].corners[1]);
        EXPECT_EQ((record[3] >> 16 | record[4] << 16) & 0xFFFFFF, lights[q].corners[2]);
        EXPECT_EQ(record[4] >> 8, lights[q].corners[3]);
        const QuadFields fields = unpackQuad(quads[q]);
        const auto round = cornersOf(fields);
        const std::size_t first = diagonalFromSecond(fields.shade, lights[q]) ? 1 : 0;
        for (std::size_t i = 0; i < 4; ++i) {
            std::uint32_t words[2];
            std::memcpy(words, corners.data() + q * 32 + i * 8, 8);
            const PackedLight light = words[1] >> 12 | (words[0] >> 26 & 15) << 20;
            EXPECT_EQ(words[1] & 4095, fields.material);
            const std::size_t corner = signOf(fields.side) > 0 ? (first + i) % 4 : (4 - i + (first ? 3 : 0)) % 4;
            EXPECT_EQ(light, lights[q].corners[corner]) << static_cast<int>(fields.side) << " " << i;
            const std::array<std::uint32_t, 3> place{words[0] & 127, words[0] >> 7 & 127, words[0] >> 14 & 127};
            for (std::size_t axis = 0; axis < 3; ++axis)
                EXPECT_EQ(static_cast<int>(place[axis]), round[(first + i) % 4][axis]);
        }
        for (std::size_t i = 0; i < 6; ++i) {
            float vertex[8];
            std::memcpy(vertex, floats.data() + q * 192 + i * 32, 32);
            std::uint32_t words[2];
            std::memcpy(words, corners.data() + q * 32 + kQuadIndices[i] * 8, 8);
            const auto material = static_cast<std::uint32_t>(vertex[6]),
                       darkness = static_cast<std::uint32_t>(vertex[7]);
            EXPECT_EQ(material & 4095, words[1] & 4095);
            EXPECT_EQ(material >> 12 | darkness >> 2 << 12, words[1] >> 12 | (words[0] >> 26 & 15) << 20);
            EXPECT_EQ(darkness & 3, words[0] >> 24 & 3);
        }
    }
}

TEST(LitMesh, OfKeptQuadsIsThatOfMeshingAnew)
{
    const Baked world = dust("colour", 21);
    for (const char* layout : {"floats", "corners", "packed"})
        for (const bool byBlock : {false, true}) {
            const ChunkMeshOptions options{findMesher("greedy-bits"),
                {findLayout(layout), {3, 1}, OcclusionForm::Corners, false, byBlock}, {&world.sides, true}};
            ChunkSurface kept;
            meshQuads(world.padded, options, kept);
            const ChunkMesh anew = buildChunkMesh(world.padded, options, &world.light),
                            again = layOutMesh(world.padded, kept, options, &world.light);
            EXPECT_TRUE(anew.lit);
            EXPECT_EQ(anew.vertices, again.vertices);
            EXPECT_EQ(anew.quads, again.quads);
            EXPECT_GE(anew.quadCount(), kept.count());
            EXPECT_EQ(anew.clear.size(), anew.quads[1] + anew.quads[2]) << "what is sorted is what is drawn";
        }
}

/// What differs between two chunks, voxel by voxel; nothing where one is empty.
ChunkDifference differenceOf(const PaddedVoxels& voxels, const PaddedLight& light, const Baked& now)
{
    if (voxels.edge == 0)
        return {};
    ChunkDifference out{ChunkBox::nothing(), ChunkBox::nothing()};
    for (int y = -1; y <= kEdge; ++y)
        for (int z = -1; z <= kEdge; ++z)
            for (int x = -1; x <= kEdge; ++x) {
                const ChunkBox here{{x, y, z}, {x + 1, y + 1, z + 1}, 1};
                if (voxels.at(x, y, z) != now.padded.at(x, y, z))
                    out.voxels->add(here);
                bool differs = light.isPassable(x, y, z) != now.light.isPassable(x, y, z);
                for (int c = 0; c < light.channels; ++c)
                    differs |= light.at(c, x, y, z) != now.light.at(c, x, y, z);
                if (differs)
                    out.light->add(here);
            }
    return out;
}

TEST(LitMesh, MeshedAgainIsTheMeshFromNothing)
{
    const auto bytesOf = [](const std::vector<MeshVertex>& shapes) {
        return std::string_view(reinterpret_cast<const char*>(shapes.data()), shapes.size() * sizeof(MeshVertex));
    };
    for (const char* mode : {"lamp-sky", "colour", "colour-sky"}) {
        std::size_t withShapes = 0;
        std::mt19937 dice(5);
        std::vector<Material> voxels(std::size_t{kEdge} * kEdge * kEdge);
        for (Material& one : voxels)
            one = dice() % 100 < 35 ? kSlate : kOpen;
        const auto world = [&] {
            return Baked(
                [&](int x, int y, int z) { return voxels[static_cast<std::size_t>((y * kEdge + z) * kEdge + x)]; },
                mode);
        };
        MeshedBefore before;
        PaddedVoxels lastVoxels;
        PaddedLight lastLight;
        for (int edit = 0; edit < 60; ++edit) {
            // One voxel, sometimes none, and now and then so many that hardly a quad stays.
            const int others = edit % 20 == 19 ? 500 : edit % 7 == 6 ? 0 : 1;
            for (int i = 0; i < others; ++i)
                voxels[dice() % voxels.size()] = std::array{kOpen, kSlate, kLamp, kGlass, kHalf}[dice() % 5];
            const Baked now = world();
            const bool isUnknown = edit == 30; // nobody says what differs
            const ChunkDifference differs = isUnknown ? ChunkDifference{} : differenceOf(lastVoxels, lastLight, now);
            lastVoxels = now.padded;
            lastLight = now.light;
            // A setup may leave occlusion out.
            const OcclusionForm occlusion
                = std::string_view(mode) != "colour-sky" ? OcclusionForm::Rings : OcclusionForm::None;
            const ChunkMeshOptions options{findMesher("greedy-bits"),
                {findLayout("packed"), findLightMode(mode)->format(), occlusion, true}, {&now.sides, false}};
            const ChunkMesh anew = buildChunkMesh(now.padded, options, &now.light),
                            again = meshAgain(now.padded, options, &now.light, nullptr, differs, before);
            ASSERT_EQ(anew.vertices, again.vertices) << mode << ", edit " << edit;
            ASSERT_EQ(anew.rims, again.rims) << mode << ", edit " << edit;
            ASSERT_EQ(anew.cells.words, again.cells.words) << mode << ", edit " << edit;
            ASSERT_EQ(anew.quads, again.quads);
            ASSERT_EQ(anew.graded, again.graded);
            ASSERT_EQ(anew.clear, again.clear);
            ASSERT_EQ(bytesOf(anew.shapes), bytesOf(again.shapes)) << mode << ", edit " << edit;
            withShapes += !anew.shapes.empty();
        }
        EXPECT_GT(withShapes, 30u);
    }
}

TEST(LitMesh, CellsAreOfTheGradedSolidQuadsAlone)
{
    const Baked world = dust("colour", 21);
    ChunkMeshOptions options{findMesher("greedy-bits"), {findLayout("packed"), {3, 1}}, {&world.sides, false}};
    const ChunkMesh cut = buildChunkMesh(world.padded, options, &world.light);
    EXPECT_TRUE(cut.cells.words.empty());
    options.format.occlusion = OcclusionForm::Rings;
    options.format.wantsCells = true;
    const ChunkMesh mesh = buildChunkMesh(world.padded, options, &world.light);
    EXPECT_LT(mesh.quads[0], cut.quads[0]) << "light cuts none";
    std::uint32_t at = 0, heads = 0, areas = 0;
    const auto quadAt = [&mesh](std::uint32_t n) {
        std::uint32_t words[5];
        std::memcpy(words, mesh.vertices.data() + std::size_t{n} * 20, 20);
        return std::array{words[0], words[2] & 0xFFFFFF, words[4] >> 8}; // its low word; light of its corners 0 and 3
    };
    for (const std::uint32_t count : mesh.sides)
        at += count;
    for (const std::uint32_t count : mesh.graded)
        for (std::uint32_t i = 0; i < count; ++i, ++at, ++heads) {
            const auto [low, head, last] = quadAt(at);
            ASSERT_EQ(head, last);
            ASSERT_LT(head * 2, mesh.cells.words.size());
            EXPECT_EQ(mesh.cells.words[head * 2], low) << "quad " << at;
            const QuadFields q = unpackQuad(low);
            areas += static_cast<std::uint32_t>(q.width * q.height);
        }
    EXPECT_EQ(at, mesh.quads[0]);
    EXPECT_GT(heads, 100u);
    EXPECT_EQ(mesh.cells.words.size(), 2u * (heads + areas));
    options.format.byBlock = true; // then corners have their light
    EXPECT_TRUE(buildChunkMesh(world.padded, options, &world.light).cells.words.empty());
}

TEST(LitMesh, AShapedBlockHasTheLightOfItsVoxel)
{
    MeshVertex vertex;
    vertex.material = 0xABC;
    vertex.part = 3;
    vertex.setLight(0xFEDCBA);
    EXPECT_EQ(vertex.light(), 0xFEDCBAu);
    EXPECT_EQ(vertex.material, 0xABC);
    EXPECT_EQ(vertex.part, 3);
    const Baked world = dust("colour", 2);
    int lit = 0;
    for (int y = 0; y < kEdge; ++y)
        for (int x = 0; x < kEdge; ++x)
            for (int c = 0; c < 4; ++c) {
                int want = world.light.isPassable(x, y, 5) ? world.light.at(c, x, y, 5) : 0;
                if (!world.light.isPassable(x, y, 5))
                    for (const auto& [dx, dy, dz] :
                        {std::array{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}})
                        if (world.light.isPassable(x + dx, y + dy, 5 + dz))
                            want = std::max(want, world.light.at(c, x + dx, y + dy, 5 + dz));
                EXPECT_EQ(levelOf(lightOfShape(world.light, x, y, 5), c), want);
                lit += want > 0;
            }
    EXPECT_GT(lit, 50);
}

} // namespace
} // namespace fell::light_bake_test
