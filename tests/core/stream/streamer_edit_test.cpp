// SPDX-License-Identifier: Apache-2.0
// Edits of a resident world, against a streamer that makes the edited world from nothing.
#include "support/all_names.h"
#include "support/edited_stream.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/stream/light_view.h>

#include <chrono>
#include <gtest/gtest.h>
#include <map>
#include <random>
#include <thread>

namespace fell::streamer_edit_test {
namespace {

using namespace std::chrono_literals;
using namespace test;

fell::Setup editSetup(const char* mode, int edge = 16, int workers = 2)
{
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = edge;
    setup.stream.distance = edge == 16 ? 3 : 2;
    setup.stream.workers = workers;
    setup.light.mode = mode;
    return setup;
}

std::shared_ptr<const Terrain> gallery()
{
    return test::demoTerrain("gallery");
}

class EditedStream : public testing::TestWithParam<std::tuple<const char*, int>> { };

TEST_P(EditedStream, ShowsWhatTheEditedWorldShowsFromNothing)
{
    const auto [mode, edge] = GetParam();
    const auto terrain = gallery();
    const fell::Setup setup = editSetup(mode, edge);
    const ChunkPos at = chunkOf({56, 8, 56}, edge);
    Streamer streamer(terrain, setup);
    Shown shown;
    streamer.moveTo(at);
    settle(streamer, shown);
    shown.uploads.clear();
    std::mt19937_64 dice(3);
    const auto kinds = static_cast<unsigned>(terrain->recipe.blocks.kinds.size());
    const VoxelPos low = originOf(at, edge);
    const auto somewhere = [&] {
        const auto roll = [&] { return static_cast<std::int64_t>(dice() % static_cast<unsigned>(edge + 8)) - 4; };
        return low + VoxelPos{roll(), roll(), roll()};
    };
    std::size_t asked = 0;
    for (int i = 0; i < 40; ++i, ++asked) // single voxels of every kind: lamps, glass, rock, air
        (void)streamer.edit(setVoxels({{somewhere(), kOpen, static_cast<Material>(dice() % kinds)}}));
    for (int i = 0; i < 4; ++i, asked += 2) { // holes, some up to the sky, and balls of some kind
        (void)streamer.edit(ball(somewhere(), 6, kOpen));
        (void)streamer.edit(ball(somewhere(), 4, static_cast<Material>(1 + dice() % (kinds - 1))));
    }
    settle(streamer, shown);
    EXPECT_EQ(shown.outcomes.size(), asked);
    EXPECT_EQ(shown.releases, 0) << "what was shown stays until the new mesh is there";
    expectAsFromNothing(terrain, setup, streamer, shown, at);
}

INSTANTIATE_TEST_SUITE_P(
    Modes, EditedStream, testing::Combine(testing::Values("none", "lamp-sky", "colour-sky"), testing::Values(16, 32)));

TEST(StreamEdit, AShaftToTheSkyIsLitToItsBottomAndDarkAgainWhenClosed)
{
    const auto terrain = test::demoTerrain("level");
    const fell::Setup setup = editSetup("lamp-sky");
    Streamer streamer(terrain, setup);
    Shown shown;
    const ChunkPos at{0, -1, 0};
    streamer.moveTo(at);
    settle(streamer, shown);
    const auto before = shown.meshes;
    std::vector<VoxelChange> shaft;
    for (std::int64_t y = 40; y > -30; --y)
        shaft.push_back({{5, y, 5}, kOpen, kOpen});
    (void)streamer.edit(setVoxels(shaft));
    settle(streamer, shown);
    {
        const auto level = askedAgain([&] { return LightView(streamer, 16).level({5, -28, 5}, 1); });
        EXPECT_EQ(level, 15);
    }
    expectAsFromNothing(terrain, setup, streamer, shown, at);
    ASSERT_EQ(shown.outcomes.size(), 1u);
    std::vector<VoxelChange> back;
    for (const VoxelChange& one : shown.outcomes[0]->changes)
        back.push_back({one.at, one.after, one.before});
    (void)streamer.edit(setVoxels(back));
    settle(streamer, shown);
    EXPECT_EQ(shown.meshes, before);
}

TEST(StreamEdit, ABallAtTheMeetingOfEightChunksMeshesEachTouchedChunkOnce)
{
    const auto terrain = test::demoTerrain("solid");
    fell::Setup setup = editSetup("none", 32);
    Streamer streamer(terrain, setup);
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    // Solid rock all round: eight chunks lose voxels, and no ninth reads them, since the ball ends 19 voxels short.
    shown.uploads.clear();
    (void)streamer.edit(ball({0, 0, 0}, 12, 1));
    (void)streamer.edit(ball({0, 0, 0}, 12, kOpen));
    settle(streamer, shown);
    const auto& dug = *shown.outcomes.back();
    EXPECT_EQ(dug.voxelChunks, 8);
    EXPECT_EQ(dug.meshed, 8);
    EXPECT_EQ(dug.changes.size() > 7000, true);
}

TEST(StreamEdit, EachVoxelByItselfComesToTheSameAndMeshesFarMoreOften)
{
    const auto terrain = gallery();
    const fell::Setup gathered = editSetup("lamp-sky");
    fell::Setup each = gathered;
    each.edit.method = "each";
    const ChunkPos at = chunkOf({56, 8, 56}, 16);
    std::array<Shown, 2> shown;
    std::array<int, 2> meshed{};
    std::size_t i = 0;
    for (const fell::Setup& setup : {gathered, each}) {
        Streamer streamer(terrain, setup);
        streamer.moveTo(at);
        settle(streamer, shown[i]);
        (void)streamer.edit(ball({56, 8, 56}, 3, kOpen));
        settle(streamer, shown[i]);
        meshed[i] = shown[i].outcomes.at(0)->meshed;
        ++i;
    }
    EXPECT_EQ(shown[0].meshes, shown[1].meshes);
    EXPECT_GT(meshed[1], 20 * meshed[0] / 8) << meshed[0];
    EXPECT_GT(meshed[1], static_cast<int>(shown[1].outcomes[0]->changes.size()) - 1);
}

TEST(StreamEdit, AllMeshesOfAnEditComeInOneFrameHoweverSmallTheBudget)
{
    Streamer streamer(gallery(), editSetup("lamp-sky"));
    Shown shown;
    streamer.moveTo(chunkOf({56, 8, 56}, 16));
    settle(streamer, shown);
    (void)streamer.edit(ball(originOf(chunkOf({56, 8, 56}, 16), 16), 5, kOpen));
    int max = 0, sum = 0;
    const auto end = std::chrono::steady_clock::now() + 60s;
    while (!streamer.settled() && std::chrono::steady_clock::now() < end) {
        int now = 0;
        streamer.deliver({.bytes = 16, .meshes = 1, .time = 1ns},
            [&](const StreamEvent& event) { now += event.kind == StreamEvent::Kind::Upload && event.mesh.edit == 1; });
        max = std::max(max, now);
        sum += now;
    }
    EXPECT_GE(sum, 8);
    EXPECT_EQ(max, sum);
}

TEST(StreamEdit, WhatIsNotResidentIsLeftOutAndSaidSo)
{
    Streamer streamer(gallery(), editSetup("none"));
    Shown shown;
    streamer.moveTo({3, 0, 3});
    settle(streamer, shown);
    (void)streamer.edit(
        setVoxels({{{100000, 0, 0}, kOpen, 1}, {{50, 60, 50}, kOpen, 1}, {{50, 61, 50}, kOpen, 60000}}));
    settle(streamer, shown);
    ASSERT_EQ(shown.outcomes.size(), 1u);
    EXPECT_EQ(shown.outcomes[0]->missing, 1u);
    EXPECT_EQ(shown.outcomes[0]->changes.size(), 1u) << "and no such block is none";
    EXPECT_EQ(streamer.changes()->voxels(), 1u);
}

TEST(StreamEdit, ChunksThatWentAwayComeBackChanged)
{
    const auto terrain = gallery();
    const fell::Setup setup = editSetup("lamp-sky");
    Streamer streamer(terrain, setup);
    Shown shown;
    const ChunkPos at = chunkOf({56, 8, 56}, 16);
    streamer.moveTo(at);
    settle(streamer, shown);
    (void)streamer.edit(ball({56, 8, 56}, 5, 1));
    settle(streamer, shown);
    streamer.moveTo(at + ChunkPos{40, 0, 0});
    settle(streamer, shown);
    streamer.moveTo(at);
    settle(streamer, shown);
    expectAsFromNothing(terrain, setup, streamer, shown, at);
}

TEST(StreamEdit, AWorldOfKnownVoxelsIsTheSameAndMakesNone)
{
    const auto terrain = gallery();
    const fell::Setup setup = editSetup("lamp-sky", 16, 3);
    const ChunkPos at = chunkOf({56, 8, 56}, 16);
    Shown first, second;
    Streamer before(terrain, setup);
    before.moveTo(at);
    settle(before, first);
    (void)before.edit(setVoxels({{{56, 8, 56}, kOpen, 1}, {{57, 8, 56}, kOpen, 2}}));
    settle(before, first);
    const auto residents = askedAgain([&] { return before.residents(); });
    ASSERT_TRUE(residents);
    const auto known = std::make_shared<KnownVoxels>(*residents);
    // What is edited after they were taken down must not be lost.
    (void)before.edit(setVoxels({{{58, 8, 57}, kOpen, 1}}));
    settle(before, first);
    Streamer after(terrain, setup, {}, before.changes(), known);
    after.moveTo(at);
    settle(after, second);
    expectAsFromNothing(terrain, setup, after, second, at);
    EXPECT_EQ(first.meshes, second.meshes);
    const StreamCounts counts = after.counts();
    EXPECT_EQ(counts.known, known->taken());
    EXPECT_GT(counts.known * 10, counts.generated * 9);
    EXPECT_EQ(before.counts().known, 0u);
    EXPECT_EQ(known->take(at), nullptr) << "each is given once";
}

TEST(StreamEdit, UndoTakesBackAlsoWhatHasGone)
{
    const auto terrain = gallery();
    const fell::Setup setup = editSetup("lamp-sky");
    Streamer streamer(terrain, setup);
    Shown shown;
    const ChunkPos at = chunkOf({56, 8, 56}, 16);
    streamer.moveTo(at);
    settle(streamer, shown);
    const auto before = shown.meshes;
    (void)streamer.edit(ball({56, 8, 56}, 5, 1));
    settle(streamer, shown);
    ASSERT_NE(shown.meshes, before);
    std::vector<VoxelChange> back;
    for (const VoxelChange& one : shown.outcomes.at(0)->changes)
        back.push_back({one.at, one.after, one.before});
    streamer.moveTo(at + ChunkPos{40, 0, 0});
    settle(streamer, shown);
    (void)streamer.edit({[&back](const ReadVoxel&) { return back; }, true});
    settle(streamer, shown);
    EXPECT_EQ(shown.outcomes.at(1)->missing, 0u);
    streamer.moveTo(at);
    settle(streamer, shown);
    EXPECT_EQ(shown.meshes, before);
}

TEST(StreamEdit, EditsWhileChunksAreStillComingAreNotLost)
{
    const auto terrain = gallery();
    const fell::Setup setup = editSetup("lamp-sky", 16, 3);
    Streamer streamer(terrain, setup);
    Shown shown;
    const ChunkPos at = chunkOf({56, 8, 56}, 16);
    streamer.moveTo(at);
    std::mt19937_64 dice(9);
    const auto end = std::chrono::steady_clock::now() + 60s;
    for (int i = 0; std::chrono::steady_clock::now() < end && (i < 60 || !streamer.settled()); ++i) {
        const auto roll = [&](std::int64_t from) { return from + static_cast<std::int64_t>(dice() % 24) - 12; };
        if (i < 60)
            (void)streamer.edit(setVoxels({{{roll(56), roll(8), roll(56)}, kOpen, static_cast<Material>(dice() % 3)}}));
        for (StreamEvent& event : streamer.take(SIZE_MAX))
            shown.take(event);
        std::this_thread::sleep_for(1ms);
    }
    settle(streamer, shown);
    EXPECT_EQ(shown.outcomes.size(), 60u);
    expectAsFromNothing(terrain, setup, streamer, shown, at);
}

TEST(StreamEdit, CoarserLevelsFollow)
{
    const auto terrain = test::testTerrain();
    for (const char* seams : {"open", "stitched"}) {
        fell::Setup setup = editSetup("lamp-sky");
        setup.lod.scheme = "rings";
        setup.lod.levels = 2;
        setup.lod.seams = seams;
        setup.stream.distance = 10;
        Streamer streamer(terrain, setup);
        Shown shown;
        streamer.moveTo({0, 0, 0});
        settle(streamer, shown);
        std::vector<VoxelChange> tower;
        for (std::int64_t y = 0; y < 90; ++y)
            for (std::int64_t z = 0; z < 8; ++z)
                for (std::int64_t x = 0; x < 8; ++x)
                    tower.push_back({{x, y, z}, kOpen, 1});
        (void)streamer.edit(setVoxels(tower));
        settle(streamer, shown);
        EXPECT_GT(shown.outcomes.at(0)->changes.size(), 1000u);
        Streamer fresh(terrain, setup, {}, streamer.changes());
        Shown whole;
        fresh.moveTo({0, 0, 0});
        settle(fresh, whole);
        int different = 0;
        for (const auto& [chunk, mesh] : whole.meshes)
            different += !shown.meshes.contains(chunk) || shown.meshes[chunk] != mesh;
        EXPECT_EQ(different, 0) << seams << " of " << whole.meshes.size();
        EXPECT_EQ(shown.meshes.size(), whole.meshes.size());
    }
}

/// Whether rock next to rock that was dug into hung skirts depended on whether it was made before or after.
TEST(StreamEdit, SkirtsDoNotDependOnWhenAChunkWasMade)
{
    const auto terrain = test::testTerrain();
    fell::Setup setup = editSetup("none");
    setup.lod.scheme = "rings";
    setup.lod.levels = 1;
    setup.lod.seams = "skirts";
    setup.stream.distance = 6;
    Streamer streamer(terrain, setup);
    Shown shown;
    streamer.moveTo({0, -4, 0});
    settle(streamer, shown);
    const auto isRock = [&](ChunkPos chunk) {
        const auto voxels = askedAgain([&] { return streamer.voxels(chunk); });
        return voxels && voxels->isUniform() && voxels->uniform() != kOpen;
    };
    ChunkPos at{0, -2, 0};
    while (at.y > -8 && !(isRock(at) && isRock(at + ChunkPos{0, 1, 0}) && isRock(at + ChunkPos{0, 2, 0})))
        --at.y;
    ASSERT_TRUE(isRock(at));
    const VoxelPos hole = originOf(at, 16) + VoxelPos{8, 8, 8};
    const Material rock = askedAgain([&] { return streamer.voxels(at); })->uniform();
    const auto compare = [&](const char* when) {
        settle(streamer, shown);
        Streamer fresh(terrain, setup, {}, streamer.changes());
        Shown whole;
        fresh.moveTo({0, -4, 0});
        settle(fresh, whole);
        EXPECT_EQ(shown.meshes, whole.meshes) << when;
    };
    (void)streamer.edit(setVoxels({{hole, rock, kOpen}}));
    compare("dug");
    (void)streamer.edit(setVoxels({{hole, kOpen, rock}}));
    compare("filled again");
}

} // namespace
} // namespace fell::streamer_edit_test
