// SPDX-License-Identifier: Apache-2.0
// The flood in a box of bits, against a breadth-first search voxel by voxel.
#include "light/window.h"

#include "support/lit_blocks.h"

#include <gtest/gtest.h>

#include <array>
#include <deque>
#include <random>

namespace fell::window_test {
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

/// Levels of one chunk by taking the brightest voxel first, one after the other; the window ends at the chunk.
std::vector<int> slowLevels(const std::vector<Material>& voxels, const std::vector<WindowSource>& lamps)
{
    const Material slate = named("slate"), fog = named("fog");
    const auto takes = [&](Material m) { return m == slate ? 15 : m == fog ? 4 : 1; };
    std::vector<int> levels(kVoxels, 0);
    std::array<std::deque<std::array<int, 3>>, 16> queue;
    for (const WindowSource& lamp : lamps) {
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
                const int next = level - takes(voxels[indexOf(nx, ny, nz)]);
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

std::vector<WindowSource> someLamps(const std::vector<Material>& voxels, std::uint64_t seed, int count)
{
    std::mt19937_64 dice(seed);
    std::vector<WindowSource> out;
    while (static_cast<int>(out.size()) < count) {
        const int x = static_cast<int>(dice() % kEdge), y = static_cast<int>(dice() % kEdge),
                  z = static_cast<int>(dice() % kEdge);
        if (voxels[indexOf(x, y, z)] == kOpen)
            out.push_back({x, y, z, 1 + static_cast<int>(dice() % 15)});
    }
    return out;
}

/// The window's levels of the chunk that fills it.
ChunkLight flooded(LightWindow& window, const std::vector<Material>& voxels, const std::vector<WindowSource>& lamps)
{
    window.begin(windowShape(kEdge, kEdge, kEdge));
    window.addPasses(passesOf(VoxelChunk(kEdge, voxels), rules()), {0, 0, 0}, LightColour::Plain);
    LightWindow::Start start;
    start.lamps = lamps;
    window.flood(start);
    ChunkLight out;
    out.edge = kEdge;
    out.channels = 1;
    window.copyOut(out.of[0], kEdge, {0, 0, 0});
    return out;
}

TEST(WindowShape, HasRoomForEveryVoxelAndAnEmptyBitBeyondEachRow)
{
    for (const int x : {1, 2, 16, 48, 62, 63, 64, 126})
        for (const int z : {1, 16, 48}) {
            const WindowShape shape = windowShape(x, 5, z);
            EXPECT_GE(shape.words * 64, x + 1) << "a bit stays empty beyond the row";
            EXPECT_GE(shape.layer, shape.words * (z + 1)) << "and a row beyond the layer";
            EXPECT_EQ(shape.layer % kWindowGroup, 0) << "a layer is whole groups";
            EXPECT_EQ(shape.total(), static_cast<std::size_t>(shape.layer) * 7) << "a layer before and after";
            EXPECT_EQ(shape.at(2, 3), 2 * shape.layer + 3 * shape.words);
        }
}

TEST(LightWindow, FloodsAsABreadthFirstSearchDoes)
{
    LightWindow window; // used again and again: nothing of one flood is left in the next
    for (std::uint64_t seed = 0; seed < 24; ++seed) {
        const auto voxels = someVoxels(seed, 0.05 * static_cast<double>(seed % 8), seed % 3 == 0 ? 0.2 : 0.0);
        const auto lamps = someLamps(voxels, seed + 100, 1 + static_cast<int>(seed % 5));
        const ChunkLight fast = flooded(window, voxels, lamps);
        const auto slow = slowLevels(voxels, lamps);
        for (std::size_t i = 0; i < kVoxels; ++i)
            ASSERT_EQ(fast.at(0, i), slow[i]) << "seed " << seed << ", voxel " << i;
    }
}

TEST(LightWindow, InTheOpenALevelIsTheLampsLessTheSteps)
{
    LightWindow window;
    const ChunkLight light = flooded(window, std::vector<Material>(kVoxels, kOpen), {{4, 5, 6, 13}});
    for (int y = 0; y < kEdge; ++y)
        for (int z = 0; z < kEdge; ++z)
            for (int x = 0; x < kEdge; ++x)
                ASSERT_EQ(light.at(0, indexOf(x, y, z)),
                    std::max(0, 13 - std::abs(x - 4) - std::abs(y - 5) - std::abs(z - 6)));
}

TEST(LightWindow, DimmedByALevelItIsAFloodFromADimmerLamp)
{
    const auto voxels = someVoxels(7, 0.2, 0);
    const auto lamps = someLamps(voxels, 8, 1);
    for (const int by : {1, 4, 14}) {
        LightWindow window;
        (void)flooded(window, voxels, {{lamps[0].x, lamps[0].y, lamps[0].z, 15}});
        window.dim(by);
        ChunkLight dimmed;
        dimmed.edge = kEdge;
        dimmed.channels = 1;
        window.copyOut(dimmed.of[0], kEdge, {0, 0, 0});
        const auto slow = slowLevels(voxels, {{lamps[0].x, lamps[0].y, lamps[0].z, 15 - by}});
        for (std::size_t i = 0; i < kVoxels; ++i)
            ASSERT_EQ(dimmed.at(0, i), slow[i]) << by;
    }
}

TEST(LightWindow, RaisingKeepsWhicheverLevelIsHigher)
{
    const auto voxels = someVoxels(9, 0.15, 0);
    const auto first = someLamps(voxels, 10, 2), second = someLamps(voxels, 11, 2);
    LightWindow window;
    ChunkLight light = flooded(window, voxels, first);
    (void)flooded(window, voxels, second);
    EXPECT_TRUE(window.raiseTo(light.of[0], kEdge, {0, 0, 0}));
    const auto a = slowLevels(voxels, first), b = slowLevels(voxels, second);
    for (std::size_t i = 0; i < kVoxels; ++i)
        ASSERT_EQ(light.at(0, i), std::max(a[i], b[i]));
}

TEST(LightWindow, SkyInTheWindowFloodsFromEveryVoxelThatHasIt)
{
    // Full sky in one upright shaft: levels fall by the steps sideways.
    LightWindow window;
    window.begin(windowShape(kEdge, kEdge, kEdge));
    window.addPasses(passesOf(VoxelChunk(kEdge), rules()), {0, 0, 0}, LightColour::Plain);
    window.sky().reset(window.shape());
    for (int y = 0; y < kEdge; ++y)
        window.sky().data()[window.shape().at(y, 3)] |= std::uint64_t{1} << 9;
    LightWindow::Start start;
    start.sky = true;
    window.flood(start);
    ChunkLight light;
    light.edge = kEdge;
    light.channels = 1;
    window.copyOut(light.of[0], kEdge, {0, 0, 0});
    for (int y = 0; y < kEdge; ++y)
        for (int z = 0; z < kEdge; ++z)
            for (int x = 0; x < kEdge; ++x)
                ASSERT_EQ(light.at(0, indexOf(x, y, z)), std::max(0, 15 - std::abs(x - 9) - std::abs(z - 3)));
}

TEST(LightWindow, KeptToWhatAChangeCanReachTheLevelsThereAreTheSame)
{
    LightWindow window;
    for (std::uint64_t seed = 20; seed < 28; ++seed) {
        const auto voxels = someVoxels(seed, 0.25, 0);
        const auto lamps = someLamps(voxels, seed, 1);
        window.begin(windowShape(kEdge, kEdge, kEdge));
        window.addPasses(passesOf(VoxelChunk(kEdge, voxels), rules()), {0, 0, 0}, LightColour::Plain);
        window.keepTo({lamps[0]}, {});
        const auto slow = slowLevels(voxels, lamps);
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z)
                for (int x = 0; x < kEdge; ++x)
                    if (slow[indexOf(x, y, z)] > 0) {
                        ASSERT_TRUE(window.keptAt(y, z) >> x & 1)
                            << "light of the source comes to " << x << ", " << y << ", " << z;
                    }
        LightWindow::Start start;
        start.lamps = lamps;
        window.flood(start);
        ChunkLight light;
        light.edge = kEdge;
        light.channels = 1;
        window.copyInsideOut(light.of[0], kEdge, {0, 0, 0});
        for (std::size_t i = 0; i < kVoxels; ++i)
            ASSERT_EQ(light.at(0, i), slow[i]) << "seed " << seed;
    }
}

} // namespace
} // namespace fell::window_test
