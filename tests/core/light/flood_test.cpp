// SPDX-License-Identifier: Apache-2.0
// Levels counted by hand, and closed forms: in the open a lamp's level is its own less the steps to it.
#include "support/all_names.h"
#include "support/lit_blocks.h"
#include <fell/light/flood.h>
#include <fell/light/light_world.h>

#include <gtest/gtest.h>

#include <cstdlib>
#include <map>
#include <random>

namespace fell::flood_test {
namespace {

enum Kind : Material { Open, Slate, Lamp, Amber, Fog, Water };

BlockSet lightBlocks()
{
    BlockSet set;
    test::addLit(set, "slate", Matter::Solid, {15, {}, {}});
    test::addLit(set, "lamp", Matter::Solid, {15, {}, {15, 12, 5}});
    test::addLit(set, "amber", Matter::SeeThrough, {1, {0, 3, 9}, {}});
    test::addLit(set, "fog", Matter::SeeThrough, {4, {}, {}});
    test::addLit(set, "water", Matter::Liquid, {2, {}, {}});
    return set;
}

/// A cube of chunks filled by a function of the voxel.
class Room {
public:
    Room(int edge, int chunks, const char* mode, const std::function<Material(VoxelPos)>& at)
        : m_chunks(chunks)
        , rules(lightRulesOf(lightBlocks(), *findLightMode(mode)))
        , world(
              rules, edge, [this](std::int64_t x, std::int64_t z) { return floorOf(x, z); },
              LightWorld::Publish::Immediately)
    {
        for (int y = 0; y < chunks; ++y)
            for (int z = 0; z < chunks; ++z)
                for (int x = 0; x < chunks; ++x) {
                    const VoxelPos origin = originOf({x, y, z}, edge);
                    std::vector<Material> voxels;
                    for (int vy = 0; vy < edge; ++vy)
                        for (int vz = 0; vz < edge; ++vz)
                            for (int vx = 0; vx < edge; ++vx)
                                voxels.push_back(at(origin + VoxelPos{vx, vy, vz}));
                    voxelsOf.push_back({{x, y, z}, VoxelChunk(edge, std::move(voxels))});
                }
        std::vector<std::pair<ChunkPos, const VoxelChunk*>> all;
        for (const auto& [chunk, held] : voxelsOf)
            all.push_back({chunk, &held});
        world.putAll(all);
    }

private:
    SkyHeightMap floorOf(std::int64_t x, std::int64_t z)
    {
        const int edge = voxelsOf.front().second.edge();
        if (x < 0 || z < 0 || x >= m_chunks || z >= m_chunks)
            return skyFloor(edge, INT64_MAX);
        SkyHeightMap floor = skyFloor(edge, std::int64_t{m_chunks} * edge);
        for (int y = m_chunks - 1; y >= 0; --y)
            (void)carveThrough(floor,
                transmissionOf(voxelsOf[static_cast<std::size_t>((y * m_chunks + z) * m_chunks + x)].second, rules),
                std::int64_t{y} * edge);
        return floor;
    }
    int m_chunks;

public:
    LightRules rules;
    std::vector<std::pair<ChunkPos, VoxelChunk>> voxelsOf;
    LightWorld world;
};

class EachEdge : public testing::TestWithParam<int> { };
INSTANTIATE_TEST_SUITE_P(Flood, EachEdge, testing::Values(16, 32, 64));

TEST_P(EachEdge, ALampInTheOpenFallsOffByOneAStepAcrossChunkBorders)
{
    const int edge = GetParam();
    const VoxelPos lamp{edge - 1, edge, edge + 3};
    Room room(edge, 2, "colour", [&](VoxelPos at) { return at == lamp ? Lamp : Open; });
    constexpr std::array<int, 3> kGives{15, 12, 5};
    int reached = 0;
    for (int y = 0; y < 2 * edge; ++y)
        for (int z = 0; z < 2 * edge; ++z)
            for (int x = 0; x < 2 * edge; ++x) {
                const auto steps = static_cast<int>(std::abs(x - lamp.x) + std::abs(y - lamp.y) + std::abs(z - lamp.z));
                for (int c = 0; c < 3; ++c)
                    ASSERT_EQ(room.world.level({x, y, z}, c), std::max(0, kGives[static_cast<std::size_t>(c)] - steps))
                        << x << " " << y << " " << z << " channel " << c;
                reached += steps < 15;
            }
    // The octahedron of 14 steps has (2 * 14 + 1) * (2 * 14^2 + 2 * 14 + 3) / 3 voxels; the smallest room cuts it.
    constexpr int kWhole = 29 * (2 * 196 + 28 + 3) / 3;
    if (edge > 16) {
        EXPECT_EQ(reached, kWhole);
    } else {
        EXPECT_LT(reached, kWhole);
    }
}

TEST(Flood, SkyFallsWithoutLossThroughOpenAirOnly)
{
    // A roof at y = 20 with one hole and one pane over the middle; below it a hall to y = 10.
    Room room(32, 1, "lamp-sky", [](VoxelPos at) -> Material {
        if (at.y == 20)
            return at == VoxelPos{8, 20, 8} ? Open : at == VoxelPos{24, 20, 24} ? Fog : Slate;
        return at.y < 10 ? Slate : Open;
    });
    const auto sky = [&](int x, int y, int z) { return room.world.level({x, y, z}, 1); };
    EXPECT_EQ(sky(3, 21, 3), 15);
    EXPECT_EQ(sky(8, 10, 8), 15) << "at the bottom of the shaft";
    EXPECT_EQ(sky(9, 10, 8), 14);
    EXPECT_EQ(sky(8, 15, 12), 11) << "four steps from the shaft";
    EXPECT_EQ(sky(24, 20, 24), 11) << "fog takes four";
    EXPECT_EQ(sky(24, 19, 24), 10) << "under it nothing falls without loss";
    EXPECT_EQ(sky(24, 17, 24), 8);
    EXPECT_EQ(sky(0, 9, 0), 0) << "in the rock";
}

TEST(Flood, TintedGlassTakesMoreOfSomeColours)
{
    // A gallery one voxel wide along x, a lamp at its end and a pane of amber across it.
    Room room(32, 1, "colour-sky", [](VoxelPos at) -> Material {
        if (at.y != 16 || at.z != 16)
            return Slate;
        return at.x == 4 ? Lamp : at.x == 7 ? Amber : Open;
    });
    const auto lamp = [&](int x, int c) { return room.world.level({x, 16, 16}, c); };
    constexpr std::array<int, 3> kBefore{13, 10, 3};
    for (int c = 0; c < 3; ++c)
        EXPECT_EQ(lamp(6, c), kBefore[static_cast<std::size_t>(c)]);
    EXPECT_EQ(lamp(7, 0), 12);
    EXPECT_EQ(lamp(7, 1), 6); // 10 less 1 + 3
    EXPECT_EQ(lamp(7, 2), 0); // 3 less 1 + 9
    EXPECT_EQ(lamp(8, 0), 11);
    EXPECT_EQ(lamp(8, 1), 5);
    EXPECT_EQ(lamp(12, 1), 1);
    for (int c = 3; c < 6; ++c)
        EXPECT_EQ(lamp(6, c), 0) << "no sky gets in";
}

TEST(Flood, WaterTakesTwoLevels)
{
    Room room(16, 1, "lamp-sky", [](VoxelPos at) -> Material { return at.y < 8 ? Water : Open; });
    for (int depth = 0; depth < 8; ++depth)
        EXPECT_EQ(room.world.level({5, 7 - depth, 9}, 1), std::max(0, 15 - 2 * (depth + 1))) << depth;
}

TEST(Flood, ChannelsThatAreAllAlikeTakeNoBytes)
{
    Room room(32, 1, "colour-sky", [](VoxelPos) -> Material { return Open; });
    const ChunkLight* light = room.world.find({0, 0, 0});
    ASSERT_TRUE(light);
    for (const ChannelLevels& levels : light->of)
        EXPECT_TRUE(levels.bits.empty());
    EXPECT_EQ(light->at(3, 0), 15);
    EXPECT_EQ(light->at(0, 0), 0);
}

TEST(Flood, ThePathLeadsBackToTheLampOrTheSky)
{
    Room room(16, 2, "lamp-sky", [](VoxelPos at) -> Material {
        return at == VoxelPos{3, 3, 3} ? Lamp : at.y > 12 || (at.y > 3 && at.x == 9) ? Slate : Open;
    });
    const auto path = room.world.pathOf({9, 2, 5}, 0);
    ASSERT_EQ(path.size(), 10u);
    EXPECT_EQ(path.front().at, (VoxelPos{9, 2, 5}));
    EXPECT_EQ(path.back().at, (VoxelPos{3, 3, 3}));
    for (std::size_t i = 0; i < path.size(); ++i)
        EXPECT_EQ(path[i].level, 6 + static_cast<int>(i));
    EXPECT_TRUE(room.world.pathOf({9, 2, 5}, 1).empty()) << "no sky here";
}

TEST(Flood, AWholeWorldWaitsForAllNeighbours)
{
    const LightRules rules = lightRulesOf(lightBlocks(), *findLightMode("lamp-sky"));
    LightWorld world(rules, 16, [](std::int64_t, std::int64_t) { return skyFloor(16, INT64_MIN); });
    const VoxelChunk open(16);
    for (std::int64_t i = 0; i < 27; ++i) {
        EXPECT_FALSE(world.find({1, 1, 1}));
        world.put({i % 3, i / 9, i / 3 % 3}, open);
    }
    EXPECT_TRUE(world.find({1, 1, 1}));
    EXPECT_FALSE(world.find({0, 1, 1}));
}

TEST(LightEdit, ALampTakenAwayAndPutBackLeavesEverythingAsItWas)
{
    Room room(32, 2, "colour", [](VoxelPos at) -> Material {
        return at == VoxelPos{31, 31, 31} || at == VoxelPos{40, 28, 30} ? Lamp : at.y < 24 ? Slate : Open;
    });
    const std::uint64_t before = room.world.digest();
    const auto out = room.world.edit({31, 31, 31}, Open);
    ASSERT_TRUE(out);
    EXPECT_EQ(out->channelsFlooded, 4) << "the sky falls into the column below it too";
    EXPECT_NE(room.world.digest(), before);
    EXPECT_EQ(room.world.level({31, 31, 31}, 0), 15 - 13) << "the other lamp is 13 steps away";
    room.world.edit({31, 31, 31}, Lamp);
    EXPECT_EQ(room.world.digest(), before);
}

TEST(LightEdit, OpeningARoofLetsTheSkyFallThroughSeveralChunks)
{
    Room room(16, 3, "lamp-sky", [](VoxelPos at) -> Material { return at.y == 40 ? Slate : Open; });
    EXPECT_EQ(room.world.level({20, 2, 20}, 1), 0);
    const std::uint64_t before = room.world.digest();
    room.world.edit({20, 40, 20}, Open);
    for (int y = 0; y < 40; ++y)
        ASSERT_EQ(room.world.level({20, y, 20}, 1), 15) << y;
    EXPECT_EQ(room.world.level({24, 2, 20}, 1), 11);
    EXPECT_EQ(room.world.level({27, 2, 27}, 1), 1);
    room.world.edit({20, 40, 20}, Slate);
    EXPECT_EQ(room.world.digest(), before);
}

TEST(LightEdit, WhereLightComesAnotherWayOnlyTheVoxelItselfChanges)
{
    Room room(32, 1, "lamp-sky", [](VoxelPos at) -> Material {
        return at == VoxelPos{10, 10, 10} ? Lamp : at.y == 31 ? Slate : Open;
    });
    const auto change = room.world.edit({16, 16, 16}, Slate); // 18 steps away: dark before
    ASSERT_TRUE(change);
    EXPECT_EQ(change->channelsFlooded, 0);
    const auto near = room.world.edit({12, 12, 10}, Slate); // light comes around it on either side
    ASSERT_TRUE(near);
    EXPECT_EQ(near->channelsFlooded, 0);
    EXPECT_EQ(room.world.level({12, 12, 10}, 0), 0);
    EXPECT_EQ(room.world.level({13, 12, 10}, 0), 10);
    EXPECT_FALSE(room.world.edit({100, 0, 0}, Slate)) << "no such chunk";
}

TEST(LightEdit, ManyAtOnceGiveWhatTheSameEditsGiveOneByOne)
{
    const auto world = [](VoxelPos at) -> Material {
        return at.y == 30 && (at.x + at.z) % 9 != 0 ? Slate
            : at.y < 8                              ? Slate
            : at == VoxelPos{20, 12, 20}            ? Lamp
                                                    : Open;
    };
    Room together(16, 3, "colour-sky", world), alone(16, 3, "colour-sky", world);
    std::mt19937_64 dice(17);
    for (int round = 0; round < 8; ++round) {
        std::vector<LightEdit> edits;
        const std::size_t count = round % 2 == 0 ? 60 : 3;
        for (std::size_t i = 0; i < count; ++i) {
            const auto roll = [&] { return static_cast<std::int64_t>(dice() % 24) + 12; };
            const Material kinds[]{Open, Slate, Lamp, Open};
            edits.push_back({{roll(), roll(), roll()}, kinds[dice() % 4]});
        }
        together.world.editAll(edits);
        for (const LightEdit& one : edits)
            alone.world.edit(one.at, one.material);
        ASSERT_EQ(together.world.digest(), alone.world.digest()) << round;
    }
}

TEST(LightEdit, ABlockBesideALampShadesOnlyTheLineBehindIt)
{
    static constexpr VoxelPos kLampAt{30, 30, 30};
    Room room(32, 2, "colour", [](VoxelPos at) -> Material { return at == kLampAt ? Lamp : Open; });
    const std::uint64_t before = room.world.digest();
    const auto change = room.world.edit({31, 30, 30}, Slate);
    ASSERT_TRUE(change);
    EXPECT_EQ(change->chunks.size(), 2u) << "the line goes on in the next chunk, and nowhere else";
    constexpr std::array<int, 3> kGives{15, 12, 5};
    for (int x = 20; x < 48; ++x)
        for (int y = 28; y < 33; ++y)
            for (int c = 0; c < 3; ++c) {
                const bool isBehind = y == 30 && x > 31;
                const int away = std::abs(x - 30) + std::abs(y - 30) + (isBehind ? 2 : 0); // around the block
                const int want = x == 31 && y == 30 ? 0 : std::max(0, kGives[static_cast<std::size_t>(c)] - away);
                ASSERT_EQ(room.world.level({x, y, 30}, c), want) << x << " " << y << " channel " << c;
            }
    room.world.edit({31, 30, 30}, Open);
    EXPECT_EQ(room.world.digest(), before);
}

TEST(LightEdit, OneByOneOrAllAtOnceInEveryKindOfBlock)
{
    const auto world = [](VoxelPos at) -> Material {
        const std::uint64_t roll = mix64(static_cast<std::uint64_t>((at.y * 64 + at.z) * 64 + at.x)) % 100;
        return at.y > 36 ? Open
            : roll < 35  ? Slate
            : roll < 37  ? Lamp
            : roll < 45  ? Amber
            : roll < 50  ? Fog
            : roll < 56  ? Water
                         : Open;
    };
    Room together(16, 3, "colour-sky", world), alone(16, 3, "colour-sky", world);
    std::mt19937_64 dice(23);
    for (int round = 0; round < 6; ++round) {
        std::vector<LightEdit> edits;
        for (int i = 0; i < 100; ++i) {
            const auto roll = [&] { return static_cast<std::int64_t>(dice() % 48); };
            const Material kinds[]{Open, Slate, Lamp, Amber, Fog, Water, Open, Slate};
            edits.push_back({{roll(), roll(), roll()}, kinds[dice() % 8]});
        }
        together.world.editAll(edits);
        for (const LightEdit& one : edits)
            alone.world.edit(one.at, one.material);
        ASSERT_EQ(together.world.digest(), alone.world.digest()) << round;
    }
}

TEST(LightEdit, AWorldOfChunksThatAreKeptElsewhereLeavesThemAsTheyWere)
{
    Room room(16, 3, "colour", [](VoxelPos at) -> Material {
        return at.y < 20 ? Slate : at == VoxelPos{24, 22, 24} ? Lamp : Open;
    });
    std::map<ChunkPos, KnownLight> kept;
    for (std::int64_t i = 0; i < 27; ++i) {
        const ChunkPos chunk{i % 3, i / 9, i / 3 % 3};
        kept[chunk] = {room.world.sharePasses(chunk), room.world.shareLight(chunk)};
    }
    const std::uint64_t before = digestOf(*kept[{1, 1, 1}].light);
    LightScratch scratch;
    LightWorld second(
        room.world.rules(), 16, [&](std::int64_t x, std::int64_t z) { return room.world.floor(x, z); },
        [&](ChunkPos chunk) -> std::optional<KnownLight> {
            const auto found = kept.find(chunk);
            return found == kept.end() ? std::nullopt : std::optional(found->second);
        },
        scratch);
    EXPECT_TRUE(second.changedChunks().empty());
    second.editAll(std::vector<LightEdit>{{{24, 22, 24}, Open}});
    room.world.edit({24, 22, 24}, Open);
    EXPECT_EQ(digestOf(*kept[{1, 1, 1}].light), before);
    EXPECT_EQ(digestOf(*second.find({1, 1, 1})), digestOf(*room.world.find({1, 1, 1})));
    bool found = false;
    for (const auto& [chunk, box] : second.changedChunks())
        if (chunk == ChunkPos{1, 1, 1}) {
            found = true;
            // Red and green reached 13 and more voxels from (8, 6, 8) in the chunk: all of it above the ground.
            EXPECT_EQ(box.low, (std::array<int, 3>{0, 4, 0}));
            EXPECT_EQ(box.high[1], 16);
        }
    EXPECT_TRUE(found);
}

TEST(LightEdit, ALayerRoundAChunkIsPutTogetherAsItIsFlooded)
{
    for (const int edge : kChunkEdges) {
        Room room(edge, 3, "colour-sky", [edge](VoxelPos at) -> Material {
            return (at.x * 7 + at.y * 5 + at.z * 3) % 11 == 0 ? Slate
                : at.y < edge                                 ? Open
                : at == VoxelPos{edge + 3, edge + 2, edge}    ? Lamp
                                                              : Open;
        });
        PaddedLight copied, flooded;
        // The middle chunk's neighbours lack what lies beyond the room, so only the middle is known both ways.
        ASSERT_TRUE(room.world.find({1, 1, 1}));
        LightBlock block{&room.world.rules(), edge, {3, 3, 3}, {}, {}, 0};
        std::array<const ChunkLight*, 27> lights{};
        std::vector<std::shared_ptr<const Transmission>> passes;
        for (std::int64_t i = 0; i < 27; ++i)
            passes.push_back(room.world.sharePasses({i % 3, i / 9, i / 3 % 3}));
        for (const auto& one : passes)
            block.passes.push_back(one.get());
        for (std::int64_t z = 0; z < 3; ++z)
            for (std::int64_t x = 0; x < 3; ++x)
                block.floors.push_back(&room.world.floor(x, z));
        FloodScratch scratch;
        const std::vector<ChunkLight> all = floodBlock(block, scratch);
        for (std::size_t i = 0; i < 27; ++i)
            lights[i] = &all[i];
        gatherLight(block, lights, copied);
        floodPadded(block, flooded, scratch);
        for (int c = 0; c < 6; ++c)
            for (int y = -1; y <= edge; ++y)
                for (int z = -1; z <= edge; ++z)
                    for (int x = -1; x <= edge; ++x)
                        ASSERT_EQ(copied.at(c, x, y, z), flooded.at(c, x, y, z)) << edge << " channel " << c;
    }
}

} // namespace
} // namespace fell::flood_test
