// SPDX-License-Identifier: Apache-2.0
#include "core/stream/streamer_fixture.h"
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/mesh/layouts.h>
#include <fell/stream/streamer.h>

#include <chrono>
#include <gtest/gtest.h>
#include <map>
#include <set>
#include <thread>

namespace fell::streamer_test {
namespace {

using namespace test::streamer;
using test::testTerrain;
using namespace std::chrono_literals;

TEST(Streamer, ShowsTheMeshesOfAllChunksWithinTheDistance)
{
    const auto terrain = testTerrain();
    Streamer streamer(terrain, smallSetup(2));
    Shown shown;
    streamer.moveTo({1, 0, -1});
    settle(streamer, shown);
    // The slow way: every chunk of the ball alone.
    std::map<ChunkPos, VoxelChunk> chunks;
    const auto at = [&](ChunkPos pos) -> const VoxelChunk& {
        if (!chunks.contains(pos))
            chunks.emplace(pos, generateChunk(*findGenerator("samples"), *terrain, pos, 16));
        return chunks.at(pos);
    };
    std::size_t withMesh = 0;
    for (const ChunkPos offset : ballOffsets(2)) {
        const ChunkPos chunk = ChunkPos{1, 0, -1} + offset;
        Neighbourhood around;
        for (std::int64_t i = 0; i < 27; ++i)
            around.chunks[static_cast<std::size_t>(i)] = &at(chunk + ChunkPos{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1});
        PaddedVoxels padded;
        gather(around, padded);
        const SideRules rules = sideRulesOf(terrain->recipe.blocks);
        ChunkSurface quads;
        findMesher("greedy-bits")->mesh(padded, {&rules, true}, quads);
        const auto bytes = encodeQuads(*findLayout("corners"), quads.all());
        if (bytes.empty())
            continue;
        ++withMesh;
        ASSERT_TRUE(shown.meshes.contains(chunk)) << chunk.x << " " << chunk.y << " " << chunk.z;
        EXPECT_EQ(shown.meshes[chunk], bytes);
    }
    EXPECT_EQ(std::count_if(shown.meshes.begin(), shown.meshes.end(), [](const auto& m) { return !m.second.empty(); }),
        static_cast<long>(withMesh));
    EXPECT_GT(withMesh, 5u);
}

TEST(Streamer, GivesTheSameMeshesOnOneThreadAndOnFive)
{
    Shown one, five;
    {
        Streamer streamer(testTerrain(), smallSetup(2, 1));
        streamer.moveTo({0, 0, 0});
        settle(streamer, one);
    }
    Streamer streamer(testTerrain(), smallSetup(2, 5));
    streamer.moveTo({0, 0, 0});
    settle(streamer, five);
    EXPECT_EQ(one.meshes, five.meshes);
}

TEST(Streamer, FlyingAwayReleasesAndComingBackRestores)
{
    Streamer streamer(testTerrain(), smallSetup(2));
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    const auto home = shown.meshes;
    const StreamCounts before = streamer.counts();
    streamer.moveTo({40, 0, 0});
    settle(streamer, shown);
    for (const auto& [chunk, bytes] : shown.meshes)
        EXPECT_GT(chunk.x, 30);
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    EXPECT_EQ(shown.meshes, home);
    EXPECT_EQ(streamer.counts().voxelBytes, before.voxelBytes);
    EXPECT_EQ(streamer.counts().meshBytes, before.meshBytes);
    EXPECT_GT(streamer.counts().retired, 0u);
}

TEST(Streamer, TheDistanceGrowsAndShrinksTheWorld)
{
    Streamer streamer(testTerrain(), smallSetup(1));
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    const std::size_t small = shown.meshes.size();
    streamer.setDistance(3);
    settle(streamer, shown);
    EXPECT_GT(shown.meshes.size(), small);
    streamer.setDistance(1);
    settle(streamer, shown);
    for (const auto& [chunk, bytes] : shown.meshes)
        EXPECT_LE(squaredLength(chunk), 4) << "one chunk of slack";
}

TEST(Streamer, TakesNoMoreThanTheBudgetButAlwaysSomething)
{
    Streamer streamer(testTerrain(), smallSetup(2));
    streamer.moveTo({0, 0, 0});
    std::size_t largest = 0, taken = 0;
    constexpr std::size_t kBudget = 20000;
    const auto end = std::chrono::steady_clock::now() + 60s;
    while (!streamer.settled() && std::chrono::steady_clock::now() < end) {
        std::size_t bytes = 0;
        const auto events = streamer.take(kBudget);
        int meshes = 0; // bare chunks cost nothing and pass next to one that is larger
        for (const auto& event : events) {
            bytes += event.mesh.mesh.bytes();
            meshes += event.mesh.mesh.bytes() > 0;
        }
        if (meshes > 1) {
            EXPECT_LE(bytes, kBudget);
        }
        largest = std::max(largest, bytes);
        taken += bytes;
    }
    EXPECT_TRUE(streamer.settled());
    EXPECT_GT(taken, kBudget);
    EXPECT_EQ(streamer.counts().pendingBytes, 0u);
}

/// Its meshes take more than the 64 MiB that it allows.
fell::Setup largerThanItsMemory()
{
    fell::Setup setup = smallSetup(4);
    setup.mesh.mesher = "every";
    setup.mesh.layout = "floats"; // 4.7 MB for a solid chunk of edge 16
    setup.stream.memory = 64;
    return setup;
}

TEST(Streamer, StopsMakingWhenTheMemoryIsFullAndSaysSo)
{
    const fell::Setup setup = largerThanItsMemory();
    Streamer streamer(testTerrain(), setup);
    Shown shown;
    streamer.moveTo({0, -1, 0});
    settle(streamer, shown);
    const StreamCounts counts = streamer.counts();
    EXPECT_TRUE(counts.full);
    EXPECT_LT(counts.voxelBytes + counts.meshBytes, (64u + 20u) << 20) << "at most a mesh a worker above";
}

TEST(Streamer, ChangesNothingIfNobodyEverMoves)
{
    std::atomic<int> jobs = 0;
    Streamer streamer(testTerrain(), smallSetup(2), [&jobs](const ChunkJob&) { ++jobs; });
    std::this_thread::sleep_for(5ms);
    EXPECT_TRUE(streamer.take(SIZE_MAX).empty());
    EXPECT_FALSE(streamer.settled());
    EXPECT_EQ(streamer.voxels({0, 0, 0}), nullptr);
    EXPECT_EQ(jobs, 0);
    EXPECT_EQ(streamer.counts().resident, 0u);
    // The same streamer is alive: it makes everything when the eye moves.
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    EXPECT_GT(jobs, 0);
    EXPECT_GT(shown.uploads, 0);
}

TEST(Streamer, CountsWhatItDid)
{
    Streamer streamer(testTerrain(), smallSetup(1));
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    const StreamCounts counts = streamer.counts();
    EXPECT_EQ(counts.generated, withNeighbours(ballOffsets(1)).size());
    EXPECT_EQ(counts.resident, counts.generated);
    EXPECT_GT(counts.generateNs, 0u);
    EXPECT_EQ(counts.meshed, static_cast<std::uint64_t>(shown.uploads));
    EXPECT_TRUE(test::askedAgain([&] { return streamer.voxels({0, 0, 0}); }));
}

TEST(Streamer, GivesTheSameMeshesInEveryShapeAndOrder)
{
    Shown pool;
    {
        Streamer streamer(testTerrain(), smallSetup(2));
        streamer.moveTo({0, 0, 0});
        settle(streamer, pool);
    }
    for (const char* shape : {"per-stage", "drawing", "pool"})
        for (const char* order : {"nearest", "view"}) {
            fell::Setup setup = smallSetup(2);
            setup.stream.shape = shape;
            setup.stream.order = order;
            Streamer streamer(testTerrain(), setup);
            Shown shown;
            streamer.moveTo({0, 0, 0}, {0, 0, 1});
            settle(streamer, shown);
            EXPECT_EQ(shown.meshes, pool.meshes) << shape << " " << order;
        }
}

TEST(Streamer, DeliversWithinTheBudgetOfAFrame)
{
    Streamer streamer(testTerrain(), smallSetup(3));
    streamer.moveTo({0, 0, 0});
    FrameBudget budget;
    budget.meshes = 3;
    const auto end = std::chrono::steady_clock::now() + 60s;
    int all = 0;
    while (!streamer.settled() && std::chrono::steady_clock::now() < end) {
        int applied = 0;
        const Delivery done = streamer.deliver(budget, [&](const StreamEvent&) { ++applied; });
        EXPECT_LE(done.meshes, 3);
        EXPECT_EQ(done.meshes + done.releases + done.bare, applied);
        all += done.meshes;
    }
    EXPECT_TRUE(streamer.settled());
    EXPECT_EQ(streamer.counts().meshed, static_cast<std::uint64_t>(all));
    budget = {};
    budget.time = 0ns;
    streamer.moveTo({50, 0, 0});
    const auto patience = std::chrono::steady_clock::now() + 60s;
    int events = 0;
    while (!streamer.settled() && std::chrono::steady_clock::now() < patience) {
        const Delivery one = streamer.deliver(budget, [](const StreamEvent&) {});
        ASSERT_LE(one.meshes + one.releases + one.bare, 1) << "no time: one event, so that it goes on at all";
        events += one.meshes + one.releases + one.bare;
    }
    EXPECT_TRUE(streamer.settled());
    EXPECT_GT(events, all) << "old chunks went and new ones came, one call each";
}

TEST(Streamer, AChunkThatCannotBeGeneratedIsMarkedAndTheOthersGoOn)
{
    const ChunkPos bad{1, 0, 0}, flaky{0, 0, 1};
    std::atomic<int> tries = 0, flakyTries = 0;
    Streamer streamer(testTerrain(), smallSetup(2), [&](const ChunkJob& job) {
        if (job.kind == ChunkJob::Kind::Generate && job.chunk == bad) {
            ++tries;
            throw std::runtime_error("no ground here");
        }
        if (job.kind == ChunkJob::Kind::Mesh && job.chunk == flaky && flakyTries++ == 0)
            throw std::bad_alloc();
    });
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    EXPECT_EQ(tries, ResidentSet::kMaxTries);
    const StreamCounts counts = streamer.counts();
    EXPECT_EQ(counts.failed, 1u);
    EXPECT_EQ(counts.failures, 4u);
    EXPECT_EQ(stageOf(streamer, bad), ChunkProgress::Failed);
    EXPECT_NE(stageOf(streamer, flaky), ChunkProgress::Failed);
    for (const ChunkPos chunk : ballOffsets(2)) {
        if (chunk == bad)
            continue;
        const ChunkProgress stage = stageOf(streamer, chunk);
        EXPECT_TRUE(stage == ChunkProgress::Meshed || stage == ChunkProgress::Bare) << wordsOf(stage);
    }
    int failed = 0;
    const auto life = streamer.lives().of(bad);
    for (const LifeEvent& event : life)
        failed += event.step == LifeStep::Failed;
    EXPECT_EQ(failed, ResidentSet::kMaxTries);
}

TEST(Streamer, ALifeRunsFromGeneratingToUploadedInOrder)
{
    Streamer streamer(testTerrain(), smallSetup(2));
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    ASSERT_FALSE(shown.meshes.empty());
    const ChunkPos chunk = shown.meshes.begin()->first;
    std::vector<LifeStep> steps;
    for (const LifeEvent& event : streamer.lives().of(chunk))
        steps.push_back(event.step);
    EXPECT_EQ(steps,
        (std::vector<LifeStep>{
            LifeStep::Generating, LifeStep::Generated, LifeStep::Meshing, LifeStep::Meshed, LifeStep::Uploaded}));
    EXPECT_EQ(streamer.lives().lost(), 0u);
    streamer.moveTo({40, 0, 0});
    settle(streamer, shown);
    std::set<LifeStep> ends;
    for (const LifeEvent& event : streamer.lives().of(chunk)) {
        ends.insert(event.step);
        if (event.step == LifeStep::Retired) {
            EXPECT_GT(event.thread, 0) << "a worker let it go";
        }
    }
    EXPECT_TRUE(ends.contains(LifeStep::Released));
    EXPECT_TRUE(ends.contains(LifeStep::Retired));
}

TEST(Streamer, ShowsItsPlanAMomentLater)
{
    Streamer streamer(testTerrain(), smallSetup(2));
    Shown shown;
    streamer.moveTo({3, 0, 0});
    settle(streamer, shown);
    EXPECT_EQ(streamer.plan(), nullptr) << "the first asks for it";
    std::shared_ptr<const fell::PlanView> plan;
    const auto end = std::chrono::steady_clock::now() + 20s;
    while (!plan && std::chrono::steady_clock::now() < end) {
        std::this_thread::sleep_for(1ms);
        plan = streamer.plan();
    }
    ASSERT_NE(plan, nullptr);
    EXPECT_EQ(plan->viewer, (ChunkPos{3, 0, 0}));
    EXPECT_EQ(plan->chunks.size(), streamer.counts().resident);
    std::size_t meshed = 0;
    for (const ChunkStatus& glance : plan->chunks)
        meshed += glance.stage == ChunkProgress::Meshed;
    EXPECT_EQ(meshed, shown.meshes.size());
}

TEST(Streamer, PastItsMemoryTheFarthestGoAndItSaysHowFarItReaches)
{
    const fell::Setup setup = largerThanItsMemory();
    Streamer streamer(testTerrain(), setup);
    Shown shown;
    streamer.moveTo({0, -1, 0});
    settle(streamer, shown);
    ASSERT_TRUE(streamer.counts().full);
    EXPECT_GT(streamer.counts().fullAt, 0);
    EXPECT_LT(streamer.counts().fullAt, 5);
    streamer.moveTo({4, -1, 0});
    settle(streamer, shown);
    EXPECT_GT(streamer.counts().evicted, 0u);
    EXPECT_LT(streamer.counts().voxelBytes + streamer.counts().meshBytes, (64u + 20u) << 20);
    const ChunkProgress here = stageOf(streamer, {4, -1, 0});
    EXPECT_TRUE(here == ChunkProgress::Meshed || here == ChunkProgress::Bare) << wordsOf(here);
}

TEST(Streamer, TakesMoreMemoryAndLessThatIsEnough)
{
    fell::Setup setup = largerThanItsMemory();
    Streamer streamer(testTerrain(), setup);
    Shown shown;
    streamer.moveTo({0, -1, 0});
    settle(streamer, shown);
    ASSERT_TRUE(streamer.counts().full);
    const auto few = shown.meshes.size();
    setup.stream.memory = 4096;
    EXPECT_TRUE(streamer.retune(setup));
    settle(streamer, shown);
    EXPECT_FALSE(streamer.counts().full);
    EXPECT_GT(shown.meshes.size(), few);
    setup.stream.memory = 64;
    EXPECT_FALSE(streamer.retune(setup)) << "more than that is held";
    setup.stream.memory = 2048;
    EXPECT_TRUE(streamer.retune(setup));
    settle(streamer, shown);
    EXPECT_FALSE(streamer.counts().full);
}

TEST(SectorOf, IsTheNearestOfTwentySixDirections)
{
    EXPECT_EQ(sectorOf({{}, {}, 0, 0}), (ViewSector{0, 0, -1}));
    EXPECT_EQ(sectorOf({{}, {}, 90, 0}), (ViewSector{1, 0, 0}));
    EXPECT_EQ(sectorOf({{}, {}, 135, 0}), (ViewSector{1, 0, 1}));
    EXPECT_EQ(sectorOf({{}, {}, 0, 89}), (ViewSector{0, 1, 0}));
    EXPECT_EQ(sectorOf({{}, {}, 20, -20}), (ViewSector{0, 0, -1}));
}

} // namespace
} // namespace fell::streamer_test
