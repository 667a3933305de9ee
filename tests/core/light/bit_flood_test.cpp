// SPDX-License-Identifier: Apache-2.0
// Floods in a region of bits, against a breadth-first search voxel by voxel.
#include <fell/light/restricted_flood.h>

#include "support/all_names.h"
#include "support/lit_blocks.h"

#include <gtest/gtest.h>

#include <array>
#include <deque>
#include <random>

namespace fell::bit_flood_test {
namespace {

constexpr int kEdge = 16;
constexpr std::size_t kVoxels = std::size_t{kEdge} * kEdge * kEdge;

enum Kind : Material { Open, Slate, Fog };

LightRules rules()
{
    BlockSet set;
    test::addLit(set, "slate", Matter::Solid, {15, {}, {}});
    test::addLit(set, "fog", Matter::SeeThrough, {4, {}, {}});
    return lightRulesOf(set, *findLightMode("lamp-sky"));
}

/// Material numbers may have been given in another order than they were added.
Material named(const char* name)
{
    BlockSet set;
    test::addLit(set, "slate", Matter::Solid, {15, {}, {}});
    test::addLit(set, "fog", Matter::SeeThrough, {4, {}, {}});
    return *findMaterial(set, name);
}

std::size_t indexOf(int x, int y, int z)
{
    return static_cast<std::size_t>((y * kEdge + z) * kEdge + x);
}

/// Levels of one chunk by taking the brightest voxel first, one after the other; the region ends at the chunk.
std::vector<int> slowLevels(const std::vector<Material>& voxels, const std::vector<LightSource>& lamps)
{
    const Material slate = named("slate"), fog = named("fog");
    const auto attenuation = [&](Material m) { return m == slate ? 15 : m == fog ? 4 : 1; };
    std::vector<int> levels(kVoxels, 0);
    std::array<std::deque<std::array<int, 3>>, 16> queue;
    for (const LightSource& lamp : lamps) {
        int& level = levels[indexOf(lamp.x, lamp.y, lamp.z)];
        level = std::max(level, lamp.level);
        queue[static_cast<std::size_t>(lamp.level)].push_back({lamp.x, lamp.y, lamp.z});
    }
    for (int level = 15; level > 0; --level)
        for (auto& now = queue[static_cast<std::size_t>(level)]; !now.empty(); now.pop_front()) {
            const auto [x, y, z] = now.front();
            if (levels[indexOf(x, y, z)] != level)
                continue;
            for (const auto& [dx, dy, dz] :
                {std::array{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}}) {
                const int nx = x + dx, ny = y + dy, nz = z + dz;
                if (nx < 0 || ny < 0 || nz < 0 || nx >= kEdge || ny >= kEdge || nz >= kEdge)
                    continue;
                const int next = level - attenuation(voxels[indexOf(nx, ny, nz)]);
                if (next > levels[indexOf(nx, ny, nz)]) {
                    levels[indexOf(nx, ny, nz)] = next;
                    queue[static_cast<std::size_t>(next)].push_back({nx, ny, nz});
                }
            }
        }
    return levels;
}

std::vector<Material> someVoxels(std::uint64_t seed, double solid, double foggy)
{
    const Material slate = named("slate"), fog = named("fog");
    std::mt19937_64 dice(seed);
    const auto share = [&dice] { return static_cast<double>(dice() >> 11) * 0x1p-53; };
    std::vector<Material> out(kVoxels, kOpen);
    for (Material& one : out) {
        const double s = share();
        one = s < solid ? slate : s < solid + foggy ? fog : Material{kOpen};
    }
    return out;
}

std::vector<LightSource> someLamps(const std::vector<Material>& voxels, std::uint64_t seed, int count)
{
    std::mt19937_64 dice(seed);
    std::vector<LightSource> out;
    while (static_cast<int>(out.size()) < count) {
        const int x = static_cast<int>(dice() % kEdge), y = static_cast<int>(dice() % kEdge),
                  z = static_cast<int>(dice() % kEdge);
        if (voxels[indexOf(x, y, z)] == kOpen)
            out.push_back({x, y, z, 1 + static_cast<int>(dice() % 15)});
    }
    return out;
}

/// A flood of the chunk that fills its region.
class ChunkFlood {
public:
    ChunkFlood(BitFlood& flood, const std::vector<Material>& voxels)
        : m_passes(transmissionOf(VoxelChunk(kEdge, voxels), rules()))
        , m_flood(flood, region, m_chunks, LightColour::Plain)
    {
    }
    Flooded from(std::vector<LightSource> lamps, const BitPlane* sky = nullptr)
    {
        m_start.lamps = std::move(lamps);
        m_start.sky = sky;
        return m_flood.flood(m_start);
    }
    const FloodRegion region = floodRegion(kEdge, kEdge, kEdge);

private:
    Transmission m_passes;
    std::array<RegionChunk, 1> m_chunks{{{&m_passes, {0, 0, 0}}}};
    RegionFlood m_flood;
    FloodStart m_start;
};

ChunkLight levelsOf(const Flooded& found)
{
    ChunkLight out;
    out.edge = kEdge;
    out.channels = 1;
    found.copyOut(out.of[0], kEdge, {0, 0, 0});
    return out;
}

TEST(FloodRegion, HasRoomForEveryVoxelAndAnEmptyBitBeyondEachRow)
{
    for (const int x : {1, 2, 16, 48, 62, 63, 64, 126})
        for (const int z : {1, 16, 48}) {
            const FloodRegion region = floodRegion(x, 5, z);
            EXPECT_GE(region.words * 64, x + 1) << "a bit stays empty beyond the row";
            EXPECT_GE(region.layer, region.words * (z + 1)) << "and a row beyond the layer";
            EXPECT_EQ(region.layer % kRegionGroup, 0) << "a layer is whole groups";
            EXPECT_EQ(region.total(), static_cast<std::size_t>(region.layer) * 7) << "a layer before and after";
            EXPECT_EQ(region.at(2, 3), 2 * region.layer + 3 * region.words);
        }
}

TEST(BitFlood, FloodsAsABreadthFirstSearchDoes)
{
    BitFlood flood; // used again and again: nothing of one flood is left in the next
    for (std::uint64_t seed = 0; seed < 24; ++seed) {
        const auto voxels = someVoxels(seed, 0.05 * static_cast<double>(seed % 8), seed % 3 == 0 ? 0.2 : 0.0);
        const auto lamps = someLamps(voxels, seed + 100, 1 + static_cast<int>(seed % 5));
        const ChunkLight fast = levelsOf(ChunkFlood(flood, voxels).from(lamps));
        const auto slow = slowLevels(voxels, lamps);
        for (std::size_t i = 0; i < kVoxels; ++i)
            ASSERT_EQ(fast.at(0, i), slow[i]) << "seed " << seed << ", voxel " << i;
    }
}

TEST(BitFlood, InTheOpenALevelIsTheLampsLessTheSteps)
{
    BitFlood flood;
    const ChunkLight light = levelsOf(ChunkFlood(flood, std::vector<Material>(kVoxels, kOpen)).from({{4, 5, 6, 13}}));
    for (int y = 0; y < kEdge; ++y)
        for (int z = 0; z < kEdge; ++z)
            for (int x = 0; x < kEdge; ++x)
                ASSERT_EQ(light.at(0, indexOf(x, y, z)),
                    std::max(0, 13 - std::abs(x - 4) - std::abs(y - 5) - std::abs(z - 6)));
}

TEST(BitFlood, DimmedByALevelItIsAFloodFromADimmerLamp)
{
    const auto voxels = someVoxels(7, 0.2, 0);
    const auto lamps = someLamps(voxels, 8, 1);
    for (const int by : {1, 4, 14}) {
        BitFlood flood;
        Flooded found = ChunkFlood(flood, voxels).from({{lamps[0].x, lamps[0].y, lamps[0].z, 15}});
        found.dim(by);
        const ChunkLight dimmed = levelsOf(found);
        const auto slow = slowLevels(voxels, {{lamps[0].x, lamps[0].y, lamps[0].z, 15 - by}});
        for (std::size_t i = 0; i < kVoxels; ++i)
            ASSERT_EQ(dimmed.at(0, i), slow[i]) << by;
    }
}

TEST(BitFlood, RaisingKeepsWhicheverLevelIsHigher)
{
    const auto voxels = someVoxels(9, 0.15, 0);
    const auto first = someLamps(voxels, 10, 2), second = someLamps(voxels, 11, 2);
    BitFlood flood;
    ChunkLight light = levelsOf(ChunkFlood(flood, voxels).from(first));
    const Flooded found = ChunkFlood(flood, voxels).from(second);
    EXPECT_TRUE(found.raiseTo(light.of[0], kEdge, {0, 0, 0}));
    const auto a = slowLevels(voxels, first), b = slowLevels(voxels, second);
    for (std::size_t i = 0; i < kVoxels; ++i)
        ASSERT_EQ(light.at(0, i), std::max(a[i], b[i]));
}

TEST(BitFlood, SkyInTheRegionFloodsFromEveryVoxelThatHasIt)
{
    // Full sky in one upright shaft: levels fall by the steps sideways.
    BitFlood flood;
    ChunkFlood open(flood, std::vector<Material>(kVoxels, kOpen));
    BitPlane sky;
    sky.reset(open.region);
    for (int y = 0; y < kEdge; ++y)
        sky.data()[open.region.at(y, 3)] |= std::uint64_t{1} << 9;
    const ChunkLight light = levelsOf(open.from({}, &sky));
    for (int y = 0; y < kEdge; ++y)
        for (int z = 0; z < kEdge; ++z)
            for (int x = 0; x < kEdge; ++x)
                ASSERT_EQ(light.at(0, indexOf(x, y, z)), std::max(0, 15 - std::abs(x - 9) - std::abs(z - 3)));
}

TEST(BitFlood, AnotherColourForgetsWhatTheOneBeforeWasTold)
{
    BlockSet set;
    test::addLit(set, "amber", Matter::SeeThrough, {1, {0, 3, 9}, {}});
    const LightRules tinting = lightRulesOf(set, *findLightMode("colour"));
    const Transmission passes
        = transmissionOf(VoxelChunk(kEdge, std::vector<Material>(kVoxels, *findMaterial(set, "amber"))), tinting);
    const std::array<RegionChunk, 1> chunks{{{&passes, {0, 0, 0}}}};
    BitFlood memory;
    RegionFlood flood(memory, floodRegion(kEdge, kEdge, kEdge), chunks, LightColour::Plain);
    FloodStart start;
    // Amber takes 1 level a step of red, 3 more of green and 9 more of blue: levels counted along a row.
    for (const auto& [colour, attenuation] :
        {std::pair{LightColour::Green, 4}, {LightColour::Red, 1}, {LightColour::Blue, 10}, {LightColour::Red, 1}}) {
        flood.setColour(colour);
        start.lamps = {{0, 8, 8, 15}};
        const ChunkLight light = levelsOf(flood.flood(start));
        for (int x = 0; x < kEdge; ++x)
            ASSERT_EQ(light.at(0, indexOf(x, 8, 8)), std::max(0, 15 - attenuation * x)) << static_cast<int>(colour);
    }
}

/// A flood restricted to what one lamp reaches.
struct Restricted {
    Restricted(const std::vector<Material>& voxels, std::vector<LightSource> changed)
        : passes(transmissionOf(VoxelChunk(kEdge, voxels), rules()))
        , flood(kernel, memory, floodRegion(kEdge, kEdge, kEdge), chunks, std::move(changed), {}, {})
    {
    }
    BitFlood kernel;
    RestrictedMemory memory;
    Transmission passes;
    std::array<RegionChunk, 1> chunks{{{&passes, {0, 0, 0}}}};
    RestrictedFlood flood;
};

TEST(RestrictedFlood, GivesTheLevelsThatTheWholeFloodGivesThere)
{
    for (std::uint64_t seed = 20; seed < 28; ++seed) {
        const auto voxels = someVoxels(seed, 0.25, 0);
        const auto lamps = someLamps(voxels, seed, 1);
        Restricted part(voxels, lamps);
        const auto slow = slowLevels(voxels, lamps);
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z)
                for (int x = 0; x < kEdge; ++x)
                    if (slow[indexOf(x, y, z)] > 0) {
                        ASSERT_TRUE(part.flood.insideAt(y, z) >> x & 1)
                            << "light of the source comes to " << x << ", " << y << ", " << z;
                    }
        FloodStart start;
        start.lamps = lamps;
        const Flooded found = part.flood.flood(start);
        ChunkLight light;
        light.edge = kEdge;
        light.channels = 1;
        part.flood.storeInside(found, light.of[0], kEdge, {0, 0, 0});
        for (std::size_t i = 0; i < kVoxels; ++i)
            ASSERT_EQ(light.at(0, i), slow[i]) << "seed " << seed;
    }
}

TEST(RestrictedFlood, LightComesInFromTheBorderAndNothingBeyondItIsWritten)
{
    for (std::uint64_t seed = 40; seed < 46; ++seed) {
        const auto voxels = someVoxels(seed, 0.15, 0);
        const auto lamps = someLamps(voxels, seed, 3);
        const auto all = slowLevels(voxels, lamps);
        ChunkLight light;
        light.edge = kEdge;
        light.channels = 1;
        expand(light.of[0], kEdge);
        for (std::size_t i = 0; i < kVoxels; ++i)
            light.set(0, i, all[i]);
        // A weak change far from the lamps, perhaps: what it reaches is put out and flooded from its border.
        LightSource changed = lamps[0];
        changed.level = 5;
        Restricted part(voxels, {changed});
        FloodBorder border;
        part.flood.readBorder(light.of[0], kEdge, {0, 0, 0}, border);
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z)
                for (int x = 0; x < kEdge; ++x)
                    if (part.flood.insideAt(y, z) >> x & 1)
                        light.set(0, indexOf(x, y, z), 0);
        FloodStart start;
        start.border = &border;
        for (const LightSource& lamp : lamps)
            if (part.flood.insideAt(lamp.y, lamp.z) >> lamp.x & 1)
                start.lamps.push_back(lamp);
        const Flooded found = part.flood.flood(start);
        part.flood.storeInside(found, light.of[0], kEdge, {0, 0, 0});
        for (std::size_t i = 0; i < kVoxels; ++i)
            ASSERT_EQ(light.at(0, i), all[i]) << "seed " << seed << ", voxel " << i;
    }
}

TEST(FloodBorder, KnowsADimmerOneByItsOffset)
{
    FloodBorder bright, dim, other;
    // Levels 9 and 3 in one word, and the same two levels dimmer, where the 3 is 1.
    bright.add(0, 5, {0b11, 0b10, 0b00, 0b01});
    dim.add(0, 5, {0b11, 0b01, 0b01, 0b00});
    EXPECT_EQ(dim.offsetFrom(bright), 2);
    EXPECT_TRUE(dim.isOffsetBy(2, bright));
    EXPECT_FALSE(dim.isOffsetBy(1, bright));
    EXPECT_FALSE(dim.isOffsetBy(-1, bright));
    other.add(0, 5, {0b01, 0b01, 0b01, 0b00}); // the 3 has gone dark, which two levels do not do
    EXPECT_FALSE(other.isOffsetBy(2, bright));
    EXPECT_EQ(FloodBorder{}.offsetFrom(bright), std::nullopt);
}

#ifndef NDEBUG
TEST(FloodedDeath, WhatAnOlderFloodFoundCannotBeRead)
{
    BitFlood flood;
    ChunkFlood open(flood, std::vector<Material>(kVoxels, kOpen));
    const Flooded old = open.from({{1, 1, 1, 4}});
    (void)open.from({{2, 2, 2, 4}});
    EXPECT_DEATH((void)levelsOf(old), "m_number");
}
#endif

} // namespace
} // namespace fell::bit_flood_test
