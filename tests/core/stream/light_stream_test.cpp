// SPDX-License-Identifier: Apache-2.0
// Light in the streamed world, against floods of the whole region at once.
#include "support/all_names.h"
#include "support/asked_again.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/demo/demo_folder.h>
#include <fell/stream/light_view.h>

#include <array>
#include <chrono>
#include <gtest/gtest.h>
#include <map>
#include <memory>
#include <thread>

namespace fell::light_stream_test {
namespace {

using namespace std::chrono_literals;

std::shared_ptr<const Terrain> gallery()
{
    return makeTerrain(findWorld("gallery", demoFolder()).take());
}

fell::Setup litSetup(const char* mode, int workers = 2)
{
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = 16;
    setup.stream.distance = 2;
    setup.stream.workers = workers;
    setup.light.mode = mode;
    return setup;
}

struct Shown {
    std::map<ChunkPos, std::vector<std::byte>> meshes;
    int uploads = 0, relit = 0;
};

Shown settled(Streamer& streamer, ChunkPos at)
{
    Shown shown;
    streamer.moveTo(at);
    const auto end = std::chrono::steady_clock::now() + 60s;
    while (!streamer.settled()) {
        for (StreamEvent& event : streamer.take(SIZE_MAX))
            if (event.kind == StreamEvent::Kind::Upload && !event.mesh.isBare) {
                ++shown.uploads;
                shown.relit += event.mesh.relit;
                EXPECT_TRUE(event.mesh.mesh.lit || event.mesh.mesh.isEmpty());
                shown.meshes[event.chunk] = std::move(event.mesh.mesh.vertices);
            }
        if (std::chrono::steady_clock::now() > end) {
            ADD_FAILURE() << "not settled within a minute";
            break;
        }
        std::this_thread::sleep_for(1ms);
    }
    return shown;
}

std::shared_ptr<const ChunkLight> lightOf(const Streamer& streamer, ChunkPos chunk)
{
    return test::askedAgain([&] { return streamer.light(chunk); });
}

/// All chunks from `low` on flooded as one block, with the floors of the terrain: the other way.
std::vector<ChunkLight> regionOf(
    const Terrain& terrain, const LightRules& rules, int edge, ChunkPos low, int size, std::vector<VoxelChunk>& chunks)
{
    const Generator& generator = *findGenerator("samples");
    std::vector<Transmission> passes;
    for (int y = 0; y < size; ++y)
        for (int z = 0; z < size; ++z)
            for (int x = 0; x < size; ++x) {
                chunks.push_back(generateChunk(generator, terrain, low + ChunkPos{x, y, z}, edge));
                passes.push_back(transmissionOf(chunks.back(), rules));
            }
    LightBlock block{&rules, edge, {size, size, size}, {}, {}, originOf(low, edge).y};
    for (const Transmission& one : passes)
        block.passes.push_back(&one);
    std::vector<SkyHeightMap> floors;
    for (int z = 0; z < size; ++z)
        for (int x = 0; x < size; ++x) {
            const VoxelPos corner = originOf(low + ChunkPos{x, 0, z}, edge);
            floors.push_back(floorOfTerrain(
                terrain, generator, generator.columns(terrain, corner.x, corner.z, edge), rules, INT64_MIN));
        }
    for (const SkyHeightMap& floor : floors)
        block.floors.push_back(&floor);
    FloodScratch blockScratch;
    return floodBlock(block, blockScratch);
}

TEST(LitStream, KeepsTheLightThatAFloodOfTheRegionGives)
{
    const auto terrain = gallery();
    for (const char* mode : {"lamp-sky", "colour-sky"}) {
        Streamer streamer(terrain, litSetup(mode));
        const ChunkPos middle{3, 0, 3};
        const Shown shown = settled(streamer, middle);
        EXPECT_GT(streamer.counts().lit, 10u);
        EXPECT_EQ(streamer.counts().lit, streamer.counts().meshed);
        EXPECT_GT(streamer.counts().lightBytes, 0u);
        EXPECT_EQ(shown.relit, 0);
        constexpr int kSize = 5;
        std::vector<VoxelChunk> chunks;
        const ChunkPos low = middle - ChunkPos{2, 2, 2};
        const std::vector<ChunkLight> all = regionOf(*terrain, streamer.lightRules(), 16, low, kSize, chunks);
        int compared = 0;
        for (int y = 1; y < 4; ++y) // the outer ones lack what lies beyond the region
            for (int z = 1; z < 4; ++z)
                for (int x = 1; x < 4; ++x) {
                    const auto light = lightOf(streamer, low + ChunkPos{x, y, z});
                    ASSERT_TRUE(light) << x << " " << y << " " << z;
                    EXPECT_EQ(digestOf(*light), digestOf(all[static_cast<std::size_t>((y * kSize + z) * kSize + x)]))
                        << mode << " " << x << " " << y << " " << z;
                    ++compared;
                }
        EXPECT_EQ(compared, 27);
    }
}

TEST(LitStream, LaterComesToTheSameMeshesOverHalfLitOnes)
{
    const auto terrain = gallery();
    fell::Setup later = litSetup("colour");
    later.light.arrival = "later";
    Streamer atOnce(terrain, litSetup("colour")), afterwards(terrain, later);
    const Shown whole = settled(atOnce, {3, 0, 3}), relit = settled(afterwards, {3, 0, 3});
    EXPECT_EQ(whole.meshes, relit.meshes);
    EXPECT_EQ(relit.relit, static_cast<int>(whole.meshes.size()));
    EXPECT_EQ(relit.uploads, 2 * whole.uploads) << "each mesh once half-lit and once whole";
    EXPECT_EQ(afterwards.counts().relit, afterwards.counts().meshed);
    EXPECT_EQ(afterwards.counts().toLight, 0u);
    EXPECT_EQ(afterwards.counts().lightBytes, atOnce.counts().lightBytes) << "the quads that were kept are gone";
}

TEST(LitStream, HasNothingWithoutLight)
{
    Streamer streamer(gallery(), litSetup("none"));
    streamer.moveTo({0, 0, 3});
    while (!streamer.settled()) {
        (void)streamer.take(SIZE_MAX);
        std::this_thread::sleep_for(1ms);
    }
    EXPECT_EQ(streamer.counts().lit, 0u);
    EXPECT_EQ(streamer.counts().lightBytes, 0u);
    EXPECT_EQ(streamer.light({0, 0, 3}), nullptr);
}

TEST(LitStream, GivesTheSameMeshesOnOneThreadAndOnFour)
{
    const auto terrain = test::testTerrain();
    Streamer one(terrain, litSetup("colour", 1)), four(terrain, litSetup("colour", 4));
    EXPECT_EQ(settled(one, {0, 0, 0}).meshes, settled(four, {0, 0, 0}).meshes);
}

TEST(SkyCache, HasTheFloorsThatLookingDownEachColumnGives)
{
    const auto terrain = test::testTerrain();
    const Generator& generator = *findGenerator("blocks");
    const LightRules rules = lightRulesOf(terrain->recipe.blocks, *findLightMode("lamp-sky"));
    LevelSource source(terrain, generator, 16, 4096);
    SkyCache sky(source, rules, *findForm("palette"));
    EXPECT_EQ(sky.find(2, -3), nullptr);
    const auto floor = sky.at(2, -3);
    EXPECT_EQ(sky.find(2, -3), floor);
    const ColumnPatch patch = generator.columns(*terrain, 32, -48, 16);
    for (int x = 0; x < 16; x += 5)
        for (int z = 0; z < 16; z += 5) {
            std::int64_t y = patch.top + 40;
            const auto isOpen = [&](std::int64_t at) {
                const VoxelPos voxel{32 + x, at, -48 + z};
                const ChunkPos chunk = chunkOf(voxel, 16);
                return rules.isOpen[generateChunk(generator, *terrain, chunk, 16)
                                        .at(x, static_cast<int>(at - originOf(chunk, 16).y), z)];
            };
            while (isOpen(y - 1))
                --y;
            EXPECT_EQ(floor->from[static_cast<std::size_t>(z * 16 + x)], y);
        }
    // The chunks that were generated on the way are handed over once, and are those of the generator.
    const ChunkPos highest = chunkOf({32, patch.top - 1, -48}, 16);
    const SkyCache::Seen seen = sky.take(highest);
    ASSERT_TRUE(seen.voxels && seen.passes);
    EXPECT_EQ(digestOf(*seen.voxels), digestOf(generateChunk(generator, *terrain, highest, 16)));
    EXPECT_EQ(sky.take(highest).voxels, nullptr);
}

/// A view that holds the chunks of a box, all lit: no worker can keep them from it any more.
std::unique_ptr<LightView> viewOf(const Streamer& streamer, VoxelPos low, std::array<int, 3> size)
{
    return test::askedAgain([&] {
        auto view = std::make_unique<LightView>(streamer, 16);
        return view->volume(low, size, 3).isWhole ? std::move(view) : nullptr;
    });
}

TEST(LightView, FollowsLightBackToItsLampAndToTheSky)
{
    const auto terrain = gallery();
    Streamer streamer(terrain, litSetup("colour"));
    (void)settled(streamer, {3, 0, 3});
    const auto& kinds = terrain->recipe.blocks.kinds;
    const auto held = viewOf(streamer, {32, -16, 32}, {48, 48, 48});
    ASSERT_TRUE(held);
    LightView& view = *held;
    int lamps = 0, skies = 0;
    for (std::int64_t x = 38; x < 58; x += 3)
        for (std::int64_t y = 0; y < 12; y += 3) {
            const VoxelPos from{x, y, 50};
            for (const int channel : {0, 3}) {
                const auto level = view.level(from, channel);
                ASSERT_TRUE(level);
                const auto path = view.path(from, channel);
                EXPECT_EQ(path.empty(), *level == 0);
                if (path.empty())
                    continue;
                EXPECT_EQ(path.front().at, from);
                EXPECT_EQ(path.front().level, *level);
                for (std::size_t i = 1; i < path.size(); ++i) {
                    const VoxelPos by = path[i].at - path[i - 1].at;
                    EXPECT_EQ(std::abs(by.x) + std::abs(by.y) + std::abs(by.z), 1);
                    EXPECT_GT(path[i].level, path[i - 1].level);
                }
                if (channel == 0) {
                    EXPECT_EQ(kinds[*view.material(path.back().at)].light.emission[0], path.back().level);
                    ++lamps;
                } else {
                    EXPECT_EQ(path.back().level, 15) << "under the open sky";
                    ++skies;
                }
            }
        }
    EXPECT_GT(lamps, 3);
    EXPECT_GT(skies, 3);
}

TEST(LightView, AVolumeHasTheLevelsOfItsVoxelsAndSaysWhatItDoesNotKnow)
{
    Streamer streamer(gallery(), litSetup("colour"));
    (void)settled(streamer, {3, 0, 3});
    const VoxelPos low{40, -5, 45};
    const auto held = viewOf(streamer, low, {20, 9, 11});
    ASSERT_TRUE(held);
    LightView& view = *held;
    const LightVolume inside = view.volume(low, {20, 9, 11}, 3);
    EXPECT_TRUE(inside.isWhole);
    std::size_t i = 0;
    for (int y = 0; y < 9; ++y)
        for (int z = 0; z < 11; ++z)
            for (int x = 0; x < 20; ++x, ++i)
                ASSERT_EQ(inside.levels[i], view.level(low + VoxelPos{x, y, z}, 3));
    const LightVolume outside = view.volume({4000, 0, 0}, {20, 2, 2}, 3);
    EXPECT_FALSE(outside.isWhole);
    EXPECT_EQ(outside.levels, std::vector<std::uint8_t>(80, 255));
}

} // namespace
} // namespace fell::light_stream_test
