// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/stream/estimate.h>
#include <fell/stream/streamer.h>

#include <chrono>
#include <gtest/gtest.h>
#include <set>
#include <thread>

namespace fell::levels_test {
namespace {

using namespace std::chrono_literals;
using test::testTerrain;

fell::Setup levelSetup(int distance, const char* seams = "stitched")
{
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = 16;
    setup.stream.distance = distance;
    setup.stream.workers = 2;
    setup.lod.scheme = "rings";
    setup.lod.seams = seams;
    return setup;
}

/// What the drawing side holds and shows; checks every step of it.
struct Picture {
    std::set<ChunkPos> held, shown; // held: meshes and bare chunks
    std::set<ChunkPos> bare;
    std::uint64_t covers = 0, seams = 0;

    void apply(const StreamEvent& event)
    {
        if (event.kind == StreamEvent::Kind::Upload) {
            held.insert(event.chunk);
            if (event.mesh.isBare)
                bare.insert(event.chunk);
            for (const std::uint32_t count : event.mesh.mesh.seams)
                seams += count;
        } else if (event.kind == StreamEvent::Kind::Release) {
            EXPECT_FALSE(shown.contains(event.chunk)) << "released while it is shown";
            EXPECT_EQ(held.erase(event.chunk), 1u);
        } else {
            ++covers;
            shown.clear();
            for (const ShownChunk& chunk : event.cover->chunks) {
                EXPECT_TRUE(held.contains(chunk.chunk)) << "shown before it was there";
                shown.insert(chunk.chunk);
            }
        }
    }
    /// How many of the shown chunks hold a place of level 0.
    [[nodiscard]] int over(ChunkPos place) const
    {
        int count = 0;
        for (int level = 0; level <= kMaxLevel; ++level)
            count += shown.contains({place.x >> level, place.y >> level, place.z >> level, level});
        return count;
    }
};

void settle(Streamer& streamer, Picture& picture, std::size_t bytes = SIZE_MAX)
{
    const auto end = std::chrono::steady_clock::now() + 60s;
    while (std::chrono::steady_clock::now() < end) {
        for (const StreamEvent& event : streamer.take(bytes))
            picture.apply(event);
        if (streamer.settled())
            return;
        std::this_thread::sleep_for(1ms);
    }
    FAIL() << "not settled within a minute";
}

TEST(StreamerLevels, CoverTheViewVolumeOnceAndSharpenFromCoarseToFine)
{
    Streamer streamer(testTerrain(), levelSetup(16));
    Picture picture;
    streamer.moveTo({0, 0, 0});
    settle(streamer, picture);
    EXPECT_GT(picture.covers, 0u);
    const StreamCounts counts = streamer.counts();
    EXPECT_EQ(counts.levelsMissing, 0u);
    EXPECT_EQ(counts.levelsWaiting, 0u);
    EXPECT_GT(picture.seams, 0u);
    EXPECT_TRUE(picture.shown.contains({0, 0, 0})) << "full detail at the camera";
    for (std::int64_t i = 0; i < 200; ++i) {
        const ChunkPos place{i * 7 % 17 - 8, i * 5 % 15 - 7, i * 11 % 19 - 9};
        EXPECT_EQ(picture.over(place), 1) << place.x << " " << place.y << " " << place.z;
    }
    std::uint64_t shown = 0;
    for (const std::uint64_t level : counts.shownAt)
        shown += level;
    EXPECT_EQ(shown, picture.shown.size());
}

TEST(StreamerLevels, AWalkNeverOpensAGap)
{
    Streamer streamer(testTerrain(), levelSetup(16));
    Picture picture;
    streamer.moveTo({0, 0, 0});
    settle(streamer, picture);
    const std::uint64_t resident = streamer.counts().resident;
    for (std::int64_t step = 1; step <= 10; ++step) {
        streamer.moveTo({step, 0, step / 2});
        for (int i = 0; i < 3; ++i) { // a few frames with little to spend
            for (const StreamEvent& event : streamer.take(100000))
                picture.apply(event);
            for (std::int64_t x = -4; x <= 4; x += 4)
                // Shown at the beginning, and within the distance all the while: the rim may come late.
                EXPECT_EQ(picture.over({step / 2 + x, 0, step / 4 + x}), 1) << "step " << step;
            std::this_thread::sleep_for(2ms);
        }
    }
    settle(streamer, picture);
    EXPECT_TRUE(picture.shown.contains({10, 0, 5}));
    EXPECT_LT(streamer.counts().resident, 2 * resident) << "what lies behind has gone";
}

TEST(StreamerLevels, WalkingToAndFroMakesNothingTwice)
{
    Streamer streamer(testTerrain(), levelSetup(10));
    Picture picture;
    for (const std::int64_t x : {0, 1, 0, 1}) {
        streamer.moveTo({x, 0, 0});
        settle(streamer, picture);
    }
    const std::uint64_t meshed = streamer.counts().meshed;
    for (const std::int64_t x : {0, 1, 0, 1, 0, 1}) {
        streamer.moveTo({x, 0, 0});
        settle(streamer, picture);
    }
    EXPECT_EQ(streamer.counts().meshed, meshed);
}

TEST(StreamerLevels, TheErrorOnScreenFollowsThePicture)
{
    fell::Setup setup = levelSetup(10);
    setup.lod.scheme = "error";
    setup.lod.error = 8;
    Streamer streamer(testTerrain(), setup);
    Picture picture;
    streamer.lookThrough(300);
    streamer.moveTo({0, 0, 0});
    settle(streamer, picture);
    const std::uint64_t coarse = streamer.counts().shownAt[0];
    streamer.lookThrough(600); // a picture twice as high asks for twice the detail
    for (int frame = 0; frame < 40 && !streamer.settled(); ++frame) {
        for (const StreamEvent& event : streamer.take(50000))
            picture.apply(event);
        for (std::int64_t x = -4; x <= 4; x += 2)
            EXPECT_EQ(picture.over({x, 0, -x}), 1) << "no gap meanwhile";
        std::this_thread::sleep_for(2ms);
    }
    settle(streamer, picture);
    EXPECT_GT(streamer.counts().shownAt[0], 3 * coarse);
}

TEST(StreamerLevels, WorkOnTheDrawingThreadAndOneThreadAStageToo)
{
    for (const char* shape : {"drawing", "per-stage"}) {
        fell::Setup setup = levelSetup(6, "skirts");
        setup.stream.shape = shape;
        setup.light.mode = "colour";
        setup.light.arrival = "later"; // levels are lit whole
        Streamer streamer(testTerrain(), setup);
        Picture picture;
        streamer.moveTo({0, 0, 0});
        settle(streamer, picture);
        EXPECT_EQ(streamer.counts().levelsWaiting, 0u) << shape;
        EXPECT_EQ(streamer.counts().relit, 0u) << shape;
    }
}

TEST(StreamerLevels, AChunkThatFailsIsShownByItsParent)
{
    const ChunkPos broken{1, 0, 1};
    Streamer streamer(testTerrain(), levelSetup(12), [broken](const ChunkJob& job) {
        if (job.kind == ChunkJob::Kind::Mesh && job.chunk == broken)
            throw std::runtime_error("made up");
    });
    Picture picture;
    streamer.moveTo({0, 0, 0});
    settle(streamer, picture);
    EXPECT_FALSE(picture.shown.contains(broken));
    EXPECT_EQ(picture.over(broken), 1);
    EXPECT_EQ(streamer.counts().failed, 1u);
}

TEST(Estimate, WithLevelsBytesGrowWithTheirNumber)
{
    StreamCounts counts;
    counts.resident = 4000;
    counts.voxelBytes = 10 << 20;
    counts.meshBytes = 20 << 20;
    const fell::Setup now = levelSetup(64);
    fell::Setup next = now;
    EXPECT_NEAR(static_cast<double>(expectedBytes(counts, now, now)), 30 << 20, 3 << 20);
    next.stream.distance = 512;
    const auto far = static_cast<double>(expectedBytes(counts, now, next));
    EXPECT_GT(far, 35 << 20);
    EXPECT_LT(far, 80 << 20) << "eight times as far is no eight times as much";
    next.lod.scheme = "off";
    next.stream.distance = 48;
    EXPECT_GT(static_cast<double>(expectedBytes(counts, now, next)), 4 * far);
}

} // namespace
} // namespace fell::levels_test
