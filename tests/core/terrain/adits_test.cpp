// SPDX-License-Identifier: Apache-2.0
// Walls along contours against the circle that a bell's contour is; adits by what a miner would ask of them.
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/terrain/features/adit.h>
#include <fell/terrain/generate.h>

#include <cmath>
#include <gtest/gtest.h>
#include <map>
#include <set>

namespace fell::adits_test {
namespace {

constexpr Material kSlate = 1, kTurf = 2, kWood = 4, kLamp = 5; // testBlocks, as materials

/// A bell of 60 m with a radius of 120 m on flat ground of slate, and scatter.
std::shared_ptr<const Terrain> hill(
    const std::string& scatter, const std::string& more = "", std::uint64_t seed = 3, double radius = 120)
{
    auto recipe = test::parseTestRecipe(R"({"format": "fell-recipe", "version": 2, "name": "hill", "seed": )"
        + std::to_string(seed) + R"(, "blocks": "b", "height": {"base": 4, "layers": [], "landforms": [
          {"kind": "summit", "at": [0, 0], "radius": )"
        + std::to_string(radius) + R"(, "height": 60}]}, )" + more
        + R"( "strata": [{"material": "slate"}], "scatter": [)" + scatter + "]}");
    EXPECT_TRUE(recipe) << (recipe ? "" : sentence(recipe.problem()));
    return recipe ? makeTerrain(recipe.take()) : nullptr;
}

const std::string kWalls = R"({"kind": "contour-wall", "spacing": 20, "chance": 1, "slope": 9, "ground": ["slate"],
    "height": 2, "material": "wood"})";
std::string aditsOf(const std::string& more = "", int chance = 1)
{
    return R"({"kind": "adit", "spacing": 64, "chance": )" + std::to_string(chance)
        + R"(, "slope": 4, "ground": ["slate"], "height": 3, "width": 3, "length": [10, 24], "floor": "turf")" + more
        + "}";
}
const std::string kFitted = R"(, "lamp": "needles", "frame": "wood", "rail": "water")";

/// The world, a voxel at a time, chunks made on demand.
class World {
public:
    explicit World(std::shared_ptr<const Terrain> terrain, int edge = 32, const char* generator = "blocks")
        : m_terrain(std::move(terrain))
        , m_edge(edge)
        , m_generator(*findGenerator(generator))
    {
    }
    Material at(VoxelPos voxel)
    {
        const ChunkPos chunk = chunkOf(voxel, m_edge);
        auto found = m_chunks.find({chunk.x, chunk.y, chunk.z});
        if (found == m_chunks.end())
            found = m_chunks
                        .emplace(std::array<std::int64_t, 3>{chunk.x, chunk.y, chunk.z},
                            generateChunk(m_generator, *m_terrain, chunk, m_edge))
                        .first;
        const VoxelPos in = voxel - originOf(chunk, m_edge);
        return found->second.at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
    }

private:
    std::shared_ptr<const Terrain> m_terrain;
    int m_edge;
    const Generator& m_generator;
    std::map<std::array<std::int64_t, 3>, VoxelChunk> m_chunks;
};

TEST(ContourWalls, StandOnTheCirclesOfABellAndHaveNoGap)
{
    const auto terrain = hill(kWalls);
    // 4 + 60 (1 - (r / 120)^2)^2 is 20, 40 and 60 there.
    std::vector<double> circles;
    for (const double height : {20.0, 40.0, 60.0})
        circles.push_back(120 * std::sqrt(1 - std::sqrt((height - 4) / 60)));
    std::set<std::pair<int, int>> walls;
    for (int z = -125; z < 125; ++z)
        for (int x = -125; x < 125; ++x) {
            const ColumnSample column = columnAt(*terrain, x, z);
            if (column.wall == kOpen)
                continue;
            EXPECT_EQ(column.wall, kWood);
            EXPECT_EQ(column.wallHeight, 2);
            walls.insert({x, z});
            const double r = std::hypot(x + 0.5, z + 0.5);
            double nearest = 1e9;
            for (const double circle : circles)
                nearest = std::min(nearest, circle - r); // inside, where it is higher
            const auto neighbour = std::count_if(
                circles.begin(), circles.end(), [r](double circle) { return r > circle - 1.6 && r < circle + 0.2; });
            EXPECT_EQ(neighbour, 1) << x << ' ' << z;
        }
    // Walked round from the east along whole sides, one comes back after once round.
    for (const double circle : circles) {
        std::set<std::pair<int, int>> ring;
        for (const auto& [x, z] : walls)
            if (std::abs(std::hypot(x + 0.5, z + 0.5) - circle) < 2)
                ring.insert({x, z});
        ASSERT_FALSE(ring.empty());
        std::vector<std::pair<int, int>> open{*ring.begin()};
        std::set<std::pair<int, int>> reached(open.begin(), open.end());
        while (!open.empty()) {
            const auto [x, z] = open.back();
            open.pop_back();
            for (const auto& [dx, dz] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}})
                if (ring.count({x + dx, z + dz}) != 0 && reached.insert({x + dx, z + dz}).second)
                    open.push_back({x + dx, z + dz});
        }
        EXPECT_EQ(reached.size(), ring.size()) << "in one piece, side by side";
        EXPECT_GT(static_cast<double>(ring.size()), 7 * circle) << "all the way round";
        EXPECT_LT(static_cast<double>(ring.size()), 11 * circle) << "one column thick";
    }
}

TEST(ContourWalls, KeepToTheirRules)
{
    const auto count = [](const Terrain& terrain) {
        int walls = 0;
        for (int z = -120; z < 120; ++z)
            for (int x = -120; x < 120; ++x)
                walls += columnAt(terrain, x, z).wall != kOpen;
        return walls;
    };
    const int all = count(*hill(kWalls));
    const auto with = [](const std::string& from, const std::string& to) {
        std::string text = kWalls;
        return text.replace(text.find(from), from.size(), to);
    };
    const int half = count(*hill(with("\"chance\": 1", "\"chance\": 0.5")));
    EXPECT_GT(half, all / 4);
    EXPECT_LT(half, all * 3 / 4);
    EXPECT_EQ(count(*hill(with("[\"slate\"]", "[\"turf\"]"))), 0);
    EXPECT_EQ(count(*hill(with("\"slope\": 9", "\"slope\": 0.01"))), 0);
    EXPECT_EQ(count(*hill(kWalls, R"("water": {"level": 80, "material": "water"},)")), 0) << "all of it is under water";
    EXPECT_LT(count(*hill(with("\"ground\"", "\"altitude\": [30, 50], \"ground\""))), all);
    const auto coarse = coarserTerrain(*hill(kWalls), 1);
    EXPECT_GT(count(*coarse), 0) << "two metres are a voxel of level 1";
    EXPECT_EQ(count(*coarserTerrain(*hill(kWalls), 2)), 0) << "and half of one of level 2";
}

/// All adits of the hill, from the cells around it.
std::vector<Adit> aditsOn(const Terrain& terrain)
{
    std::vector<Adit> out;
    for (const auto& placed : aditsNear(terrain, -128, -128, 256))
        out.push_back(dynamic_cast<const PlacedAdit&>(*placed).adit);
    return out;
}

TEST(Adits, AreWholeHollowFlooredAndLitWhicheverWayTheyAreMade)
{
    const auto terrain = hill(aditsOf(kFitted));
    const auto adits = aditsOn(*terrain);
    ASSERT_GE(adits.size(), 4u);
    World blocks(terrain), samples(terrain, 32, "samples"), small(terrain, 16);
    for (const Adit& adit : adits) {
        int lamps = 0, rails = 0, hollow = 0, props = 0;
        for (std::int64_t y = adit.low.y; y < adit.high.y; ++y)
            for (std::int64_t z = adit.low.z; z < adit.high.z; ++z)
                for (std::int64_t x = adit.low.x; x < adit.high.x; ++x) {
                    const VoxelPos voxel{x, y, z};
                    const Material is = blocks.at(voxel);
                    ASSERT_EQ(is, samples.at(voxel));
                    ASSERT_EQ(is, small.at(voxel));
                    lamps += is == kLamp;
                    props += is == kWood;
                    rails += is == 3;
                    hollow += is == kOpen;
                    if (is == 3) {
                        EXPECT_NE(blocks.at({x, y - 1, z}), kOpen) << "a rail that floats";
                        EXPECT_EQ(blocks.at({x, y + 1, z}), kOpen) << "a rail that is buried";
                    }
                    if (is == kLamp) {
                        int open = 0, solid = 0;
                        for (const VoxelPos side : {VoxelPos{1, 0, 0}, {-1, 0, 0}, {0, 0, 1}, {0, 0, -1}}) {
                            const Material neighbour = blocks.at(voxel + side);
                            open += neighbour == kOpen;
                            solid += neighbour == kSlate || neighbour == kTurf;
                        }
                        EXPECT_GE(open, 1) << "a lamp that lights nothing";
                        EXPECT_GE(solid, 1) << "a lamp that hangs on nothing";
                    }
                }
        EXPECT_GE(lamps, 1);
        EXPECT_GE(props, 3 * 2);
        EXPECT_GE(rails, 10);
        EXPECT_GE(hollow, 10 * 3 * 2);
    }
}

TEST(Adits, GoFromTheOpenIntoTheHillAndStayUnderIt)
{
    const auto terrain = hill(aditsOf(R"(, "rail": "water")"));
    World world(terrain);
    for (const Adit& adit : aditsOn(*terrain)) {
        const AditBox& rail = adit.boxes.back();
        ASSERT_EQ(rail.material, 3);
        const bool alongX = rail.high.x - rail.low.x > 1;
        const std::int64_t length = alongX ? rail.high.x - rail.low.x : rail.high.z - rail.low.z;
        int covered = 0, open = 0;
        bool firstIsOpen = false, lastIsOpen = false;
        for (std::int64_t i = 0; i < length; ++i) {
            const VoxelPos on{rail.low.x + (alongX ? i : 0), rail.low.y, rail.low.z + (alongX ? 0 : i)};
            EXPECT_EQ(world.at(on), 3);
            const float ground = groundHeight(*terrain, on.x, on.z) - static_cast<float>(on.y);
            (ground > 4 ? covered : open) += 1;
            if (ground > 4) {
                EXPECT_EQ(world.at(on + VoxelPos{0, 3, 0}), kSlate) << "its roof";
            }
            (i == 0 ? firstIsOpen : lastIsOpen) = ground <= 4;
        }
        EXPECT_NE(firstIsOpen, lastIsOpen) << "one end is under the hill, the other is not";
        EXPECT_GE(covered, 4);
        EXPECT_GE(open, 1);
    }
}

TEST(Adits, HaveARoofAndWallsWhereCavesRunThroughThem)
{
    const auto terrain
        = hill(aditsOf(), R"("caves": {"width": 0.4, "depth": [2, 60], "noise": {"feature": 14, "octaves": 2}},)");
    World world(terrain);
    int hollows = 0, lined = 0;
    for (const Adit& adit : aditsOn(*terrain)) {
        const AditBox& walls
            = adit.boxes[adit.boxes[0].low.y < adit.boxes[1].low.y ? 3 : 1]; // after the platform's two
        for (std::int64_t z = walls.low.z + 1; z + 1 < walls.high.z; ++z)
            for (std::int64_t x = walls.low.x + 1; x + 1 < walls.high.x; ++x) {
                EXPECT_NE(world.at({x, walls.low.y, z}), kOpen) << "the floor";
                EXPECT_NE(world.at({x, walls.high.y - 1, z}), kOpen) << "the roof";
                lined += world.at({x, walls.high.y - 1, z}) == kTurf;
                ++hollows;
            }
    }
    EXPECT_GT(hollows, 100);
    EXPECT_GT(lined, 5);
}

TEST(Adits, StayInTheirCellsAndAreTheSameWhereverOneAsksFrom)
{
    const auto terrain = hill(aditsOf(kFitted), "", 11);
    const auto all = aditsOn(*terrain);
    ASSERT_FALSE(all.empty());
    for (const Adit& adit : all) {
        EXPECT_EQ(chunkOf(adit.low, 64),
            (ChunkPos{chunkOf(adit.high - VoxelPos{1, 1, 1}, 64).x, chunkOf(adit.low, 64).y,
                chunkOf(adit.high - VoxelPos{1, 1, 1}, 64).z}));
        for (const VoxelPos corner : {adit.low, adit.high - VoxelPos{1, 1, 1}}) {
            const auto near = aditsNear(*terrain, corner.x, corner.z, 1);
            ASSERT_EQ(near.size(), 1u);
            EXPECT_EQ(dynamic_cast<const PlacedAdit&>(*near[0]).adit, adit);
        }
    }
}

TEST(Adits, AreNotWhereThereIsNoHillNoChanceOrNothingButWater)
{
    EXPECT_TRUE(aditsNear(*hill(aditsOf()), 1000, 1000, 640).empty()) << "flat ground covers nothing";
    EXPECT_TRUE(aditsOn(*hill(aditsOf("", 0))).empty());
    EXPECT_TRUE(aditsOn(*hill(aditsOf(), R"("water": {"level": 80, "material": "water"},)")).empty());
    EXPECT_TRUE(coarserTerrain(*hill(aditsOf()), 1)->features.empty());
    std::string near = aditsOf();
    EXPECT_TRUE(aditsOn(*hill(near.replace(near.find("64"), 2, "16"), R"("voxel_metres": 4,)")).empty())
        << "a cell of four voxels has no room for one";
}

TEST(Adits, TreesLeaveTheirMouthsFree)
{
    const std::string larches
        = R"({"kind": "larch", "spacing": 4, "chance": 1, "height": [5, 8], "crown": 2, "slope": 9,
        "ground": ["slate"], "trunk": "wood", "needles": "needles"})";
    const auto terrain = hill(larches + "," + aditsOf());
    World world(terrain);
    for (const Adit& adit : aditsOn(*terrain))
        for (std::int64_t z = adit.low.z; z < adit.high.z; ++z)
            for (std::int64_t x = adit.low.x; x < adit.high.x; ++x)
                for (std::int64_t y = adit.low.y; y < adit.high.y; ++y) {
                    const Material is = world.at({x, y, z});
                    EXPECT_TRUE(is == kOpen || is == kSlate || is == kTurf) << "half a tree at " << x << ' ' << z;
                }
}

TEST(Adits, WhatIsWrongWithThemIsSaid)
{
    const auto problemOf = [](const std::string& scatter) {
        const auto recipe = test::parseTestRecipe(R"({"format": "fell-recipe", "version": 2, "name": "x", "seed": 1,
            "blocks": "b", "height": {"layers": []}, "strata": [{"material": "slate"}], "scatter": [)"
            + scatter + "]}");
        return recipe ? "" : sentence(recipe.problem());
    };
    EXPECT_EQ(problemOf(aditsOf()), "");
    std::string near = aditsOf();
    EXPECT_NE(problemOf(near.replace(near.find("64"), 2, "15")).find("/scatter/0/spacing"), std::string::npos);
    EXPECT_NE(problemOf(aditsOf(R"(, "lamp": "gold")")).find("/scatter/0/lamp"), std::string::npos);
    EXPECT_NE(problemOf(aditsOf(R"(, "crown": 3)")).find("crown"), std::string::npos);
    std::string text = aditsOf();
    EXPECT_NE(
        problemOf(text.replace(text.find("[10, 24]"), 8, "[24, 10]")).find("/scatter/0/length"), std::string::npos);
    text = kWalls;
    EXPECT_NE(problemOf(text.replace(text.find("\"height\": 2,"), 12, "")).find("height"), std::string::npos);
}

} // namespace
} // namespace fell::adits_test
