// SPDX-License-Identifier: Apache-2.0
#include "mesh/layouts.h"
#include "stream/estimate.h"
#include "stream/streamer.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"

#include <chrono>
#include <gtest/gtest.h>
#include <map>
#include <mutex>
#include <set>
#include <thread>

namespace fell::streamer_test {
namespace {

using namespace std::chrono_literals;
using test::testTerrain;

fell::Setup smallSetup(int distance, int workers = 2)
{
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = 16;
    setup.stream.distance = distance;
    setup.stream.workers = workers;
    return setup;
}

/// What the drawing side holds: the last mesh of each chunk.
struct Shown {
    std::map<ChunkPos, std::vector<std::byte>> meshes;
    int uploads = 0, releases = 0;

    void apply(std::vector<StreamEvent> events)
    {
        for (auto& event : events) {
            if (event.mesh.isBare)
                continue;
            if (event.kind == StreamEvent::Kind::Upload) {
                ++uploads;
                meshes[event.chunk] = std::move(event.mesh.mesh.vertices);
            } else {
                ++releases;
                EXPECT_EQ(meshes.erase(event.chunk), 1u) << "released what was never there";
            }
        }
    }
};

/// Takes events until everything is there; fails after a minute.
void settle(Streamer& streamer, Shown& shown, std::size_t bytes = SIZE_MAX)
{
    const auto end = std::chrono::steady_clock::now() + 60s;
    while (std::chrono::steady_clock::now() < end) {
        shown.apply(streamer.take(bytes));
        if (streamer.settled())
            return;
        std::this_thread::sleep_for(1ms);
    }
    FAIL() << "not settled within a minute";
}

/// A probe never waits: while a worker has the map it tells nothing, so it is asked again.
ChunkProgress stageOf(const Streamer& streamer, ChunkPos chunk)
{
    auto probe = streamer.probe(chunk);
    for (; !probe; probe = streamer.probe(chunk))
        std::this_thread::yield();
    return probe->stage;
}

TEST(Streamer, ShowsTheMeshesOfAllChunksWithinTheDistance)
{
    const auto terrain = testTerrain();
    Streamer streamer(terrain, smallSetup(2));
    Shown shown;
    streamer.moveTo({1, 0, -1});
    settle(streamer, shown);
    // The slow way: every chunk of the ball by itself.
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
        const auto bytes = layOut(*findLayout("corners"), quads.all());
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
        int meshes = 0; // bare chunks cost nothing and pass beside one that is larger
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
    EXPECT_NE(streamer.voxels({0, 0, 0}), nullptr);
}

TEST(Streamer, WindowAndRenderThreadUseItAtOnce)
{
    const fell::Setup setup = smallSetup(2);
    Streamer streamer(testTerrain(), setup);
    std::mutex shownMutex;
    std::set<ChunkPos> shown;
    std::uint64_t edits = 0;
    std::jthread render([&](const std::stop_token& stop) {
        while (!stop.stop_requested()) {
            streamer.beginFrame();
            (void)streamer.isFree({{0, 40, 0}}, {});
            streamer.deliver({4096, 8, 1ms}, [&](const StreamEvent& event) {
                const std::scoped_lock lock(shownMutex);
                if (event.kind == StreamEvent::Kind::Edited)
                    ++edits;
                else if (event.kind == StreamEvent::Kind::Upload && !event.mesh.isBare)
                    shown.insert(event.chunk);
                else if (event.kind == StreamEvent::Kind::Release)
                    shown.erase(event.chunk);
            });
            streamer.endFrame();
        }
    });
    constexpr int kRounds = 40;
    for (int i = 0; i < kRounds; ++i) { // the window
        streamer.moveTo({i % 3, 0, i % 2}, {});
        streamer.lookThrough(400 + i);
        streamer.setDistance(1 + i % 2);
        const VoxelPos at{i, 2, i};
        (void)streamer.edit({[at](const ReadVoxel& read) {
            const Material before = read(at).value_or(kOpen);
            return std::vector<VoxelChange>{{at, before, static_cast<Material>(before == kOpen ? 1 : 0)}};
        }});
        (void)streamer.plan();
        (void)streamer.voxels({0, 0, 0});
        (void)streamer.counts();
        std::this_thread::sleep_for(1ms);
    }
    streamer.setDistance(2);
    streamer.moveTo({0, 0, 0}, {});
    const auto end = std::chrono::steady_clock::now() + 120s;
    while (!streamer.settled() && std::chrono::steady_clock::now() < end)
        std::this_thread::sleep_for(1ms);
    ASSERT_TRUE(streamer.settled());
    render = {};
    EXPECT_EQ(edits, static_cast<std::uint64_t>(kRounds)) << "each is told once";
    EXPECT_TRUE(streamer.take(SIZE_MAX).empty());
    // The same world with all changes, seen by one thread alone.
    Streamer alone(testTerrain(), setup, {}, streamer.changes());
    Shown plain;
    alone.moveTo({0, 0, 0}, {});
    settle(alone, plain);
    for (const auto& [chunk, mesh] : plain.meshes)
        EXPECT_TRUE(shown.contains(chunk)) << chunk.x << ' ' << chunk.y << ' ' << chunk.z;
    for (const ChunkPos chunk : shown) // a mesh is kept one chunk beyond the distance
        EXPECT_LE(chunk.x * chunk.x + chunk.y * chunk.y + chunk.z * chunk.z, 9);
}

TEST(Streamer, CanBeTornDownAtAnyMoment)
{
    const auto terrain = testTerrain();
    std::mt19937 dice(5);
    int early = 0, late = 0;
    for (int i = 0; i < 200; ++i) {
        std::atomic<int> working = 0;
        std::atomic<bool> isGone = false;
        std::atomic<int> afterwards = 0; // jobs that began when the streamer had been torn down
        {
            Streamer streamer(terrain, smallSetup(2, 3), [&](const ChunkJob&) {
                ++working;
                afterwards += isGone;
            });
            streamer.moveTo({static_cast<int>(dice() % 9), 0, 0});
            if (dice() % 2)
                streamer.moveTo({static_cast<int>(dice() % 9), 0, 5});
            std::this_thread::sleep_for(std::chrono::microseconds(dice() % 3000));
            if (dice() % 2)
                streamer.take(1000);
            (working == 0 ? early : late) += 1;
        }
        isGone = true;
        ASSERT_EQ(afterwards, 0) << "a worker outlived its streamer";
    }
    EXPECT_GT(late, 20) << "most are torn down amid their work, or nothing was tried here";
    EXPECT_EQ(early + late, 200);
}

/// A frame that is drawn keeps each worker from beginning a job once, and not for ever.
TEST(Streamer, AFrameHoldsWorkersBackAndNoLongerThanItLasts)
{
    std::atomic<int> jobs = 0;
    Streamer streamer(testTerrain(), smallSetup(3), [&jobs](const ChunkJob&) { ++jobs; });
    streamer.beginFrame();
    streamer.moveTo({0, 0, 0});
    Shown shown;
    settle(streamer, shown); // with a frame that never ends
    const fell::StreamCounts counts = streamer.counts();
    EXPECT_GT(jobs, 100);
    EXPECT_GT(counts.heldNs, 0U);
    EXPECT_LE(counts.holds, 3U) << "a worker waited for the same frame again";
    streamer.endFrame();
    streamer.moveTo({3, 0, 0});
    settle(streamer, shown);
    EXPECT_TRUE(streamer.settled());
}

/// Frames without a pause between them take half of a worker's time at most: after each wait it works as long.
TEST(Streamer, FramesWithoutAPauseLeaveTheWorkersHalfOfTheTime)
{
    using Clock = std::chrono::steady_clock;
    fell::Setup setup = smallSetup(3);
    setup.stream.workers = 1;
    Streamer streamer(testTerrain(), setup);
    streamer.moveTo({0, 0, 0});
    const auto begin = Clock::now();
    for (int frame = 0; frame < 60 || Clock::now() < begin + 300ms; ++frame) {
        if (frame > 0)
            streamer.endFrame();
        streamer.beginFrame();
        std::this_thread::sleep_for(5ms);
        streamer.moveTo({frame % 5, 0, 0}); // so that there is always something to make
        streamer.take(1 << 20);
    }
    const fell::StreamCounts counts = streamer.counts();
    const auto all = static_cast<double>(std::chrono::nanoseconds(Clock::now() - begin).count());
    EXPECT_GT(counts.holds, 5U);
    // Each wait is followed by one as long without, but the last one.
    EXPECT_LT(static_cast<double>(counts.heldNs), all * 0.6);
    EXPECT_GT(counts.meshed, 0U);
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

TEST(Streamer, OneThreadAStageGeneratesOnTheFirstAndMeshesOnTheSecond)
{
    fell::Setup setup = smallSetup(2);
    setup.stream.shape = "per-stage";
    Streamer streamer(testTerrain(), setup);
    Shown shown;
    streamer.moveTo({0, 0, 0});
    settle(streamer, shown);
    for (const LifeEvent& event : streamer.lives().all()) {
        if (event.step == LifeStep::Generated) {
            EXPECT_EQ(event.thread, 1);
        } else if (event.step == LifeStep::Meshed || event.step == LifeStep::Bare) {
            EXPECT_EQ(event.thread, 2);
        } else if (event.step == LifeStep::Uploaded) {
            EXPECT_EQ(event.thread, 0);
        }
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
    EXPECT_EQ(tries, ResidentSet::kMostTries);
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
    EXPECT_EQ(failed, ResidentSet::kMostTries);
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

TEST(Streamer, TakesAnotherNumberOfWorkersWhileItWorks)
{
    std::mutex mutex;
    std::set<std::thread::id> seen;
    fell::Setup setup = smallSetup(3);
    setup.stream.workers = 1;
    const auto note = [&](const ChunkJob&) {
        const std::scoped_lock lock(mutex);
        seen.insert(std::this_thread::get_id());
    };
    const auto threadsNow = [&](Streamer& streamer, ChunkPos at, Shown& shown) {
        {
            const std::scoped_lock lock(mutex);
            seen.clear();
        }
        streamer.moveTo(at);
        settle(streamer, shown);
        const std::scoped_lock lock(mutex);
        return seen.size();
    };
    Shown shown, fresh;
    Streamer streamer(testTerrain(), setup, note);
    EXPECT_EQ(threadsNow(streamer, {0, 0, 0}, shown), 1u);
    setup.stream.workers = 4;
    EXPECT_TRUE(streamer.retune(setup));
    EXPECT_GT(threadsNow(streamer, {40, 0, 0}, shown), 1u);
    setup.stream.workers = 1;
    EXPECT_TRUE(streamer.retune(setup));
    threadsNow(streamer, {80, 0, 0}, shown); // what was begun by the others ends
    EXPECT_EQ(threadsNow(streamer, {0, 0, 0}, shown), 1u);
    Streamer other(testTerrain(), setup);
    other.moveTo({0, 0, 0});
    settle(other, fresh);
    EXPECT_EQ(shown.meshes.size(), fresh.meshes.size()) << "the same is there as with one worker from the beginning";
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

TEST(ExpectedBytes, GrowWithTheSquareOfTheReach)
{
    StreamCounts counts;
    fell::Setup now = smallSetup(4), next = smallSetup(8);
    EXPECT_EQ(expectedBytes(counts, now, next), 0u) << "nothing is known yet";
    counts.resident = 1000;
    counts.voxelBytes = 10'000'000;
    counts.meshBytes = 20'000'000;
    const auto same = expectedBytes(counts, now, now), twice = expectedBytes(counts, now, next);
    EXPECT_EQ(same, 30'000'000u + 300'000u);
    EXPECT_EQ(twice, 120'000'000u + 8 * 300'000u);
    next = now;
    next.mesh.layout = "floats"; // 192 bytes a quad in place of 32
    EXPECT_EQ(expectedBytes(counts, now, next), 10'000'000u + 120'000'000u + 300'000u);
}

TEST(SectorOf, IsTheNearestOfTwentySixDirections)
{
    EXPECT_EQ(sectorOf({{}, {}, 0, 0}), (ViewSector{0, 0, -1}));
    EXPECT_EQ(sectorOf({{}, {}, 90, 0}), (ViewSector{1, 0, 0}));
    EXPECT_EQ(sectorOf({{}, {}, 135, 0}), (ViewSector{1, 0, 1}));
    EXPECT_EQ(sectorOf({{}, {}, 0, 89}), (ViewSector{0, 1, 0}));
    EXPECT_EQ(sectorOf({{}, {}, 20, -20}), (ViewSector{0, 0, -1}));
}

TEST(ColumnCache, GivesTheSamePatchToEveryThreadAndForgetsWithoutHarm)
{
    const auto terrain = testTerrain();
    ColumnCache cache(*terrain, *findGenerator("blocks"), 16, 8);
    const auto kept = cache.at(0, 0);
    std::vector<std::jthread> threads;
    for (int t = 0; t < 4; ++t)
        threads.emplace_back([&] {
            for (std::int64_t i = 0; i < 40; ++i) {
                const auto patch = cache.at(i % 10, i % 7);
                EXPECT_EQ(patch->x0, i % 10 * 16);
                EXPECT_EQ(patch->z0, i % 7 * 16);
            }
        });
    threads.clear();
    EXPECT_EQ(kept->height, cache.at(0, 0)->height);
}

} // namespace
} // namespace fell::streamer_test
