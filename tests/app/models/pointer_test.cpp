// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/app/models/chunk_story.h>
#include <fell/app/models/pointer.h>
#include <fell/app/models/world_session.h>

#include <glm/geometric.hpp>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <thread>

namespace fell::pointer_test {
namespace {

TEST(DirectionThrough, TheMiddleIsWhereTheEyeLooksAndAnEdgeHalfTheFieldOfViewBeside)
{
    const Eye eye{{5, 6, 7}, {0.5, 0.5, 0.5}, 30, 10};
    Lens lens;
    lens.fieldOfView = 60;
    lens.aspect = 1;
    EXPECT_NEAR(glm::dot(directionThrough(eye, lens, 0, 0), forwardOf(eye)), 1, 1e-5);
    for (const auto& [x, y] : {std::pair{1.0, 0.0}, {0.0, -1.0}})
        EXPECT_NEAR(glm::dot(directionThrough(eye, lens, x, y), forwardOf(eye)), std::cos(30 * 3.14159265 / 180), 1e-4);
}

TEST(PointedAt, FindsTheFirstVoxelThatIsNotOpen)
{
    // Level ground: solid below 0. From 10.5 above it, straight down: ten open voxels, then the one at -1.
    const auto terrain = test::demoTerrain("level");
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = 16;
    setup.stream.distance = 2;
    Streamer streamer(terrain, setup);
    streamer.moveTo({0, 0, 0});
    while (!streamer.settled()) {
        streamer.take(SIZE_MAX);
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    const Eye eye{{3, 10, 4}, {0.5, 0.5, 0.5}, 0, -90};
    const auto down = pointedAt(streamer, eye, {0, -1, 0}, 16, 50);
    ASSERT_TRUE(down);
    EXPECT_EQ(down->voxel, (VoxelPos{3, -1, 4}));
    EXPECT_EQ(down->chunk, (ChunkPos{0, -1, 0}));
    EXPECT_EQ(down->material, 1);
    EXPECT_NEAR(down->voxels, 10.5, 1e-9);
    EXPECT_FALSE(pointedAt(streamer, eye, {0, 1, 0}, 16, 50));
    EXPECT_FALSE(pointedAt(streamer, eye, {0, -1, 0}, 16, 9)) << "too far";
    // Down and east at 45 degrees it meets the ground 10.5 to the east.
    const auto aslant = pointedAt(streamer, eye, glm::normalize(glm::dvec3{1, -1, 0}), 16, 50);
    ASSERT_TRUE(aslant);
    EXPECT_EQ(aslant->voxel, (VoxelPos{14, -1, 4}));
}

TEST(PointedAt, FindsLongVoxelsWhereTheyAreShown)
{
    // Level ground again, in levels: far away a ray meets ground of longer voxels at the same height.
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = 16;
    setup.stream.distance = 32;
    setup.lod.scheme = "rings";
    Streamer streamer(test::demoTerrain("level"), setup);
    streamer.moveTo({0, 0, 0});
    while (!streamer.settled()) {
        streamer.take(SIZE_MAX);
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    ASSERT_TRUE(streamer.cover());
    const ShownChunks shown = shownOf(*streamer.cover());
    const Eye eye{{3, 10, 4}, {0.5, 0.5, 0.5}, 0, 0};
    const auto down = pointedAt(streamer, shown, eye, {0, -1, 0}, 16, 400);
    ASSERT_TRUE(down);
    EXPECT_EQ(down->voxel, (VoxelPos{3, -1, 4}));
    EXPECT_NEAR(down->voxels, 10.5, 1e-3);
    EXPECT_EQ(down->before, (VoxelPos{3, 0, 4}));
    // 10.5 down on 300 to the east: level 2 or 3, whose voxels are 4 or 8 long and begin that far below the ground.
    const auto far = pointedAt(streamer, shown, eye, glm::normalize(glm::dvec3{300, -10.5, 0}), 16, 500);
    ASSERT_TRUE(far);
    EXPECT_GE(far->chunk.level, 2);
    EXPECT_EQ(far->voxel.y, -(1 << far->chunk.level));
    EXPECT_EQ(far->voxel.x, 303 >> far->chunk.level << far->chunk.level);
    EXPECT_NEAR(far->voxels, std::hypot(300, 10.5), 0.1);
    EXPECT_TRUE(shown.contains(far->chunk));
    EXPECT_FALSE(pointedAt(streamer, shown, eye, {0, 1, 0}, 16, 2000));
}

TEST(WorldSession, HoldsTwoSetupsAndEditsOneAtATime)
{
    WorldSession session(test::demoTerrain("level"), test::unlitSetup());
    fell::Setup b = test::unlitSetup();
    b.name = "other";
    session.compareWith(b);
    EXPECT_TRUE(session.hasB());
    EXPECT_TRUE(session.streamerB());
    session.edited().set("stream.distance", 2);
    session.edit(true);
    session.edited().set("stream.distance", 3);
    EXPECT_EQ(session.setup().stream.distance, 2);
    EXPECT_EQ(session.setupB().stream.distance, 3);
    const std::uint64_t epoch = session.epochB();
    session.edited().set("mesh.mesher", "every");
    EXPECT_GT(session.epochB(), epoch) << "other meshes are made";
    session.edited().undo();
    EXPECT_EQ(session.setupB().mesh.mesher, "greedy-bits");
    session.setPaused(true);
    EXPECT_FALSE(session.streamer());
    EXPECT_FALSE(session.streamerB());
    session.setPaused(false);
    EXPECT_TRUE(session.streamerB());
    session.compareWith(std::nullopt);
    EXPECT_FALSE(session.editsB());
}

TEST(WorldSession, TheFirstViewIsTheRecipesWhereTheDistanceShowsTheGround)
{
    const auto terrain = makeTerrain(findWorld("corrowdale", demoFolder()).take());
    fell::Setup setup; // 128 m: from 62 m above the water hardly any ground is seen
    const Eye low = WorldSession::firstView(*terrain, setup);
    EXPECT_EQ(low, eyeOn(findRoute("beck-to-summit", demoFolder() / "routes").take(), 0.06, *terrain));
    setup.stream.metres = 512;
    const Eye high = WorldSession::firstView(*terrain, setup);
    EXPECT_EQ(high.cell, (VoxelPos{-40, 62, -95}));
    EXPECT_EQ(high.yaw, 146);
    const auto gallery = makeTerrain(findWorld("gallery", demoFolder()).take());
    EXPECT_EQ(WorldSession::firstView(*gallery, fell::Setup()).cell, (VoxelPos{10, 3, 48})) << "inside of it";
}

TEST(ChunkStory, SaysWhomAChunkWaitsForAndTellsItsLifeNewestFirst)
{
    ChunkDetails probe;
    probe.around.fill(ChunkProgress::Meshed);
    probe.stage = probe.around[13] = ChunkProgress::Waiting;
    probe.around[12] = ChunkProgress::Generating; // west
    probe.around[4] = ChunkProgress::Wanted; // below
    const ChunkPos chunk{5, 6, 7};
    const std::vector<LifeEvent> life{
        {1'000'000'000, chunk, 0, 2, LifeStep::Generating}, {1'500'000'000, chunk, 12'000, 2, LifeStep::Generated}};
    const ChunkStory story = storyOf(chunk, probe, std::nullopt, life, 3'000'000'000, nullptr);
    EXPECT_EQ(story.title.toStdString(), "Chunk 5, 6, 7");
    EXPECT_EQ(story.state.toStdString(), "waits for neighbours");
    EXPECT_EQ(story.whyNot.toStdString(), "it waits for the voxels of 2 of its neighbours: 5, 5, 7 · 4, 6, 7");
    EXPECT_EQ(story.neighbours.toStdString(), "Neighbours: 1 to be generated, 1 being generated, 24 meshed");
    ASSERT_EQ(story.life.size(), 2u);
    EXPECT_EQ(story.life[0].what.toStdString(), "generated");
    EXPECT_EQ(story.life[0].ago.toStdString(), "1.50 s ago");
    EXPECT_EQ(story.life[0].thread.toStdString(), "worker 2");
    EXPECT_EQ(story.life[0].cost.toStdString(), "12.0 µs");
}

} // namespace
} // namespace fell::pointer_test
