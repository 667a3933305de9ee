// SPDX-License-Identifier: Apache-2.0
// Edits that meet something else on the way: another edit, a refresh of the coarser levels, a viewer that leaves, an
// undo of what is not resident, a second streamer of the same world.
#include "support/all_names.h"
#include "support/edited_stream.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/stream/resident_set.h>
#include <fell/terrain/columns.h>

#include <gtest/gtest.h>

namespace fell::edit_order_test {
namespace {

using namespace std::chrono_literals;
using namespace test;

fell::Setup setupOf(const char* mode, int edge, int distance)
{
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = edge;
    setup.stream.distance = distance;
    setup.stream.workers = 2;
    setup.light.mode = mode;
    return setup;
}

EditRequest everywhere(std::vector<VoxelChange> changes)
{
    EditRequest request = setVoxels(std::move(changes));
    request.isEverywhere = true;
    return request;
}

/// How many meshes are others than those of the same world made from nothing.
std::size_t staleMeshes(const std::shared_ptr<const Terrain>& terrain, const fell::Setup& setup,
    const std::shared_ptr<WorldChanges>& changes, ChunkPos at, const Shown& shown)
{
    Streamer fresh(terrain, setup, {}, changes);
    Shown whole;
    fresh.moveTo(at);
    settle(fresh, whole);
    std::size_t stale = 0;
    for (const auto& [chunk, mesh] : whole.meshes) {
        const auto found = shown.meshes.find(chunk);
        stale += found == shown.meshes.end() || found->second != mesh;
    }
    return stale;
}

TEST(EditOrder, AnEditWhileCoarserLevelsAreRefreshedIsNotWrittenOver)
{
    const auto terrain = demoTerrain("corrowdale");
    fell::Setup setup = setupOf("lamp-sky", 32, 12);
    setup.lod.scheme = "rings";
    const auto changes = std::make_shared<WorldChanges>();
    Streamer streamer(terrain, setup, {}, changes);
    Shown shown;
    const auto ground = static_cast<std::int64_t>(groundHeight(*terrain, 8, 8));
    const ChunkPos at = chunkOf({8, ground, 8}, 32);
    streamer.moveTo(at);
    settle(streamer, shown);
    const std::int64_t y = (ground + 3) | 1; // odd on every axis: it decides its voxel of level 1
    for (int round = 0; round < 4; ++round) {
        const Material block = round % 2 == 0 ? Material{1} : kOpen;
        const std::size_t before = shown.outcomes.size();
        streamer.edit(setVoxels({{{9, y, 9}, kOpen, block}}));
        while (shown.outcomes.size() == before) {
            for (StreamEvent& event : streamer.take(SIZE_MAX))
                shown.take(event);
            std::this_thread::sleep_for(200us);
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(15 * (round + 1))); // the refresh is under way
        streamer.edit(setVoxels({{{12, y + 1, 12}, kOpen, block}}));
        settle(streamer, shown);
        std::size_t late = 0;
        for (int i = 0; i < 200; ++i, std::this_thread::sleep_for(1ms))
            for (StreamEvent& event : streamer.take(SIZE_MAX)) {
                ++late;
                shown.take(event);
            }
        EXPECT_EQ(late, 0u) << "events after settled(), round " << round;
        EXPECT_EQ(staleMeshes(terrain, setup, changes, at, shown), 0u) << "round " << round;
    }
}

TEST(EditOrder, UndoOfARoofThatIsNotResidentGivesTheGroundItsSkyBack)
{
    constexpr int kHeight = 200;
    const auto terrain = demoTerrain("level");
    const fell::Setup setup = setupOf("lamp-sky", 16, 2);
    const auto changes = std::make_shared<WorldChanges>();
    Streamer streamer(terrain, setup, {}, changes);
    Shown shown;
    streamer.moveTo({0, kHeight / 16, 0});
    settle(streamer, shown);
    std::vector<VoxelChange> roof;
    for (int z = -24; z <= 40; ++z)
        for (int x = -24; x <= 40; ++x)
            roof.push_back({{x, kHeight, z}, kOpen, 1});
    streamer.edit(setVoxels(roof));
    settle(streamer, shown);
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    EXPECT_EQ(staleMeshes(terrain, setup, changes, {0, 0, 0}, shown), 0u) << "in its shadow";
    for (VoxelChange& one : roof)
        std::swap(one.before, one.after);
    for (VoxelChange& one : roof)
        one.after = kOpen;
    streamer.edit(everywhere(roof));
    settle(streamer, shown);
    EXPECT_EQ(staleMeshes(terrain, setup, changes, {0, 0, 0}, shown), 0u) << "after the undo";
}

TEST(EditOrder, LightThatComesLaterReachesEditsAtTheRim)
{
    const auto terrain = demoTerrain("corrowdale");
    fell::Setup setup = setupOf("colour", 16, 2);
    setup.light.arrival = "later";
    const auto changes = std::make_shared<WorldChanges>();
    const auto ground = static_cast<std::int64_t>(groundHeight(*terrain, 8, 8));
    const ChunkPos at = chunkOf({8, ground, 8}, 16);
    Streamer streamer(terrain, setup, {}, changes);
    Shown shown;
    streamer.moveTo(at);
    settle(streamer, shown);
    std::vector<VoxelChange> built;
    for (int x = -14; x < 30; x += 7)
        for (int z = -14; z < 30; z += 7)
            for (int y = -2; y < 4; y += 2)
                built.push_back({{x + (x < 8 ? -24 : 24), ground + y, z}, kOpen, Material{1}});
    streamer.edit(setVoxels(built));
    settle(streamer, shown);
    EXPECT_EQ(streamer.counts().toLight, 0u);
    EXPECT_EQ(staleMeshes(terrain, setup, changes, at, shown), 0u);
}

TEST(EditOrder, VoxelByVoxelWhatHasLeftMeanwhileIsMissingAndNotCounted)
{
    const auto terrain = demoTerrain("level");
    fell::Setup setup = setupOf("none", 16, 2);
    setup.edit.method = "each";
    Streamer streamer(terrain, setup, [](const ChunkJob& job) {
        if (job.kind == ChunkJob::Kind::Generate) // as a heavy recipe: what comes back has no voxels for a while
            std::this_thread::sleep_for(3ms);
    });
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    for (int round = 0; round < 3; ++round) {
        streamer.edit(ball({8, -8, 8}, 7, round % 2 == 0 ? kOpen : Material{1}));
        for (int k = 0; streamer.counts().edits > 0; ++k) {
            streamer.moveTo(k % 2 == 0 ? ChunkPos{40, 0, 0} : ChunkPos{0, 0, 0});
            for (int i = 0; i < 10; ++i, std::this_thread::sleep_for(1ms))
                for (StreamEvent& event : streamer.take(SIZE_MAX))
                    shown.take(event);
        }
        streamer.moveTo({0, 0, 0});
        settle(streamer, shown);
    }
    ASSERT_EQ(shown.outcomes.size(), 3u);
    for (const auto& outcome : shown.outcomes) // what an outcome says was done
        for (const VoxelChange& one : outcome->changes)
            EXPECT_TRUE(streamer.changes()->at(one.at).has_value());
    EXPECT_GT(shown.outcomes[0]->missing, 0u);
    EXPECT_LE(streamer.changes()->voxels(),
        shown.outcomes[0]->changes.size() + shown.outcomes[1]->changes.size() + shown.outcomes[2]->changes.size());
}

TEST(EditOrder, AStoppedEditTellsWhatItHasDone)
{
    const auto terrain = demoTerrain("level");
    fell::Setup setup = setupOf("lamp-sky", 16, 2);
    setup.edit.method = "each";
    Streamer streamer(terrain, setup);
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    streamer.edit(ball({8, -8, 8}, 7, kOpen));
    while (streamer.changes()->voxels() < 20) {
        (void)streamer.take(SIZE_MAX);
        std::this_thread::sleep_for(1ms);
    }
    streamer.stop();
    for (StreamEvent& event : streamer.take(SIZE_MAX))
        shown.take(event);
    ASSERT_EQ(shown.outcomes.size(), 1u);
    EXPECT_EQ(shown.outcomes[0]->changes.size(), streamer.changes()->voxels());
    EXPECT_LT(shown.outcomes[0]->changes.size(), 1000u) << "of some 1,400: it stopped";
}

TEST(EditOrder, ASecondStreamerOfTheWorldWritesNothingIntoIt)
{
    const auto terrain = demoTerrain("level");
    const auto changes = std::make_shared<WorldChanges>();
    const fell::Setup setup = setupOf("lamp-sky", 16, 2);
    Streamer a(terrain, setup, {}, changes), b(terrain, setup, {}, changes);
    Shown shownA, shownB;
    a.moveTo({0, 0, 0});
    b.moveTo({0, 0, 0});
    settle(a, shownA);
    settle(b, shownB);
    a.edit(ball({8, -4, 8}, 3, kOpen));
    settle(a, shownA);
    const std::vector<VoxelChange> dug = shownA.outcomes.at(0)->changes;
    std::vector<VoxelChange> undo = dug;
    for (VoxelChange& one : undo)
        std::swap(one.before, one.after);
    a.edit(everywhere(undo)); // in A it is undone before B has begun
    settle(a, shownA);
    EditRequest late = setVoxels(dug);
    late.isSaved = true;
    b.edit(std::move(late));
    settle(b, shownB);
    for (const VoxelChange& one : dug)
        EXPECT_EQ(changes->at(one.at), one.before) << "B wrote what A had taken back";
    EXPECT_EQ(staleMeshes(terrain, setup, changes, {0, 0, 0}, shownB), 0u) << "B shows the world as it is";
}

TEST(EditOrder, WorldsThatAreSolidWithoutEndKeepTheirSkyWhenDugIn)
{
    for (const char* name : {"checker", "dust", "solid"}) {
        const auto terrain = demoTerrain(name);
        const fell::Setup setup = setupOf("lamp-sky", 16, 2);
        const auto changes = std::make_shared<WorldChanges>();
        Streamer live(terrain, setup, {}, changes);
        Shown shown;
        live.moveTo({0, 0, 0});
        settle(live, shown);
        live.edit(setVoxels({{{8, 5, 8}, kOpen, kOpen}, {{7, 5, 8}, kOpen, kOpen}}));
        settle(live, shown);
        EXPECT_EQ(staleMeshes(terrain, setup, changes, {0, 0, 0}, shown), 0u) << name;
    }
}

TEST(EditOrder, AWorldWithoutSkyIsNotShownInDaylightFirst)
{
    fell::Setup setup = setupOf("lamp-sky", 16, 2);
    setup.light.arrival = "later";
    Streamer streamer(demoTerrain("dust"), setup);
    streamer.moveTo({0, 0, 0});
    std::map<ChunkPos, std::vector<std::byte>> first, last;
    const auto take = [&] {
        for (StreamEvent& event : streamer.take(SIZE_MAX))
            if (event.kind == StreamEvent::Kind::Upload && !event.mesh.mesh.isEmpty()) {
                first.try_emplace(event.chunk, event.mesh.mesh.vertices);
                last[event.chunk] = event.mesh.mesh.vertices;
            }
    };
    while (!streamer.settled()) {
        take();
        std::this_thread::sleep_for(1ms);
    }
    take();
    ASSERT_GT(first.size(), 10u);
    for (const auto& [chunk, mesh] : first) // it has neither sky nor lamps: no light comes later
        EXPECT_EQ(mesh, last[chunk]) << chunk.x << " " << chunk.y << " " << chunk.z;
}

TEST(EditOrder, ChunksThatWaitForLightAreListedOnceHoweverOftenTheViewerMoves)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    const auto open = std::make_shared<const VoxelChunk>(32, kOpen);
    const auto passes = std::make_shared<const Transmission>();
    const auto quads = std::make_shared<const ChunkSurface>();
    for (std::int64_t move = 0; move < 40; ++move) {
        map.centreOn({move, 0, 0}, 3, retired);
        for (int budget = 400; budget > 0; --budget) {
            const auto job = map.next(true, true);
            if (!job)
                break;
            if (job->kind == ChunkJob::Kind::Generate)
                map.generated(*job, open, passes);
            else if (job->kind == ChunkJob::Kind::Mesh)
                map.meshed(*job, MeshResult{true, 100, nullptr, quads});
            else
                break; // light is never given
        }
        EXPECT_LE(map.readyToLight(), map.size()) << "move " << move;
    }
}

TEST(EditOrder, TheTopOfAColumnGoesWithTheLastBuiltVoxel)
{
    WorldChanges changes;
    changes.set(std::vector<VoxelChange>{{{3, 2000, 3}, kOpen, 1}, {{3, 10, 3}, kOpen, 1}});
    EXPECT_EQ(changes.top(0, 0, 32, 0), 2001);
    changes.set(std::vector<VoxelChange>{{{3, 2000, 3}, 1, kOpen}});
    EXPECT_EQ(changes.top(0, 0, 32, 0), 11) << "a tower that was taken down";
    changes.set(std::vector<VoxelChange>{{{3, 10, 3}, 1, kOpen}});
    EXPECT_EQ(changes.top(0, 0, 32, 0), std::nullopt);
    EXPECT_EQ(changes.at({3, 10, 3}), kOpen);
    EXPECT_EQ(changes.at({4, 10, 3}), std::nullopt);
}

} // namespace
} // namespace fell::edit_order_test
