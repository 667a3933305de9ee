// SPDX-License-Identifier: Apache-2.0
#include "core/stream/streamer_fixture.h"
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/stream/streamer.h>

#include <chrono>
#include <gtest/gtest.h>
#include <mutex>
#include <set>
#include <thread>

namespace fell::streamer_threads_test {
namespace {

using namespace test::streamer;
using test::testTerrain;
using namespace std::chrono_literals;

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
            (void)streamer.nearPlaneIsClear({{0, 40, 0}}, {});
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
    for (int frame = 0; frame < 60 || (streamer.counts().meshed == 0 && Clock::now() < begin + 60s); ++frame) {
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
    EXPECT_GT(counts.meshed, 0U) << "in a minute";
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

} // namespace
} // namespace fell::streamer_threads_test
