// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/fly.h>

#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

#include <chrono>
#include <set>
#include <thread>

namespace fell::fly_test {
namespace {

FlySpec smallSpec()
{
    FlySpec spec;
    spec.terrain = test::testTerrain();
    spec.setup = test::unlitSetup();
    spec.setup.chunk.edge = 16;
    spec.setup.stream.distance = 2;
    spec.setup.cull.steps = {"octree", "facing"};
    spec.route = {"there", "There", {{{0, 20, 0}, 0, 0}, {{40, 20, 0}, 90, 0}}, 2};
    spec.frames = 6;
    spec.speed = 0;
    return spec;
}

/// Draws nothing, in a time that is told beforehand.
struct CountingHooks {
    std::set<ChunkPos> held;
    int drawn = 0, begun = 0;
    std::vector<double> ms{10};
    DrawHooks hooks()
    {
        DrawHooks out;
        out.driver = "counting";
        out.begin = [this](const Setup&, const Terrain&) { ++begun; };
        out.apply = [this](const StreamEvent& event) {
            if (event.kind == StreamEvent::Kind::Upload)
                held.insert(event.chunk);
            else if (event.kind == StreamEvent::Kind::Release)
                held.erase(event.chunk);
        };
        out.draw = [this](const Eye&, bool) {
            FrameCost cost;
            cost.ms = ms[static_cast<std::size_t>(drawn++) % ms.size()];
            cost.chunks = held.size();
            cost.triangles = 2 * held.size();
            cost.drawCalls = 3;
            cost.gpuBytes = 100 * held.size();
            cost.culled.resize(2);
            cost.culled[0] = {10, 7, 3, 1000};
            return cost;
        };
        return out;
    }
};

const auto kQuiet = [](double, const std::string&) {};

TEST(Fly, RefusesNumbersOutOfRange)
{
    const auto problemWith = [](const auto& change) {
        FlySpec spec = smallSpec();
        change(spec);
        const auto problem = checkFly(spec);
        return problem ? sentence(*problem) : std::string();
    };
    EXPECT_EQ(problemWith([](FlySpec&) {}), "");
    EXPECT_NE(problemWith([](FlySpec& s) { s.frames = 0; }).find("--frames"), std::string::npos);
    EXPECT_NE(problemWith([](FlySpec& s) { s.frames = 100001; }).find("1 to 100000"), std::string::npos);
    EXPECT_NE(problemWith([](FlySpec& s) { s.speed = -1; }).find("--speed"), std::string::npos);
    EXPECT_NE(problemWith([](FlySpec& s) { s.speed = NAN; }).find("--speed"), std::string::npos);
    EXPECT_NE(problemWith([](FlySpec& s) { s.straight = 86401; }).find("--straight"), std::string::npos);
}

TEST(Fly, DrawsEachFrameAndThenTheSamePlacesWithEverythingThere)
{
    CountingHooks graphics;
    const DrawHooks hooks = graphics.hooks();
    const FlyResult result = runFly(smallSpec(), &hooks, kQuiet, {});
    EXPECT_FALSE(result.stopped);
    EXPECT_EQ(graphics.begun, 1);
    EXPECT_EQ(graphics.drawn, 3 + 6 + 6) << "three to warm up, the frames, and the same once more";
    EXPECT_EQ(result.frames, 6);
    EXPECT_EQ(result.frameMs.count, 6u);
    EXPECT_EQ(result.referenceMs.count, 6u);
    EXPECT_EQ(result.referenceMs.p50, 10) << "the draw alone: everything is there";
    EXPECT_EQ(result.drawCalls, 3u);
    EXPECT_EQ(result.driver, "counting");
    EXPECT_EQ(result.drawnChunks, graphics.held.size());
    EXPECT_EQ(result.triangles, 2 * graphics.held.size());
    EXPECT_GT(result.uploaded, 0u);
    EXPECT_LE(result.uploaded, graphics.held.size()) << "those without a mesh are not counted";
    ASSERT_EQ(result.culled.size(), 2u);
    EXPECT_EQ(result.culled[0].rejected, 6u * 3) << "all frames together";
    EXPECT_GT(result.settleSeconds, 0);
    EXPECT_EQ(result.counts.failed, 0u);
}

TEST(Fly, AFrameOfMoreThanTwiceTheReferenceIsAHitch)
{
    CountingHooks graphics;
    DrawHooks hooks = graphics.hooks();
    hooks.draw = [&graphics, quick = hooks.draw](const Eye& eye, bool nearPlaneIsClear) {
        const int frame = graphics.drawn - 3; // after the three that warm up
        if (frame == 2 || frame == 5)
            std::this_thread::sleep_for(std::chrono::milliseconds(25)); // the reference is 10 ms
        return quick(eye, nearPlaneIsClear);
    };
    const FlyResult result = runFly(smallSpec(), &hooks, kQuiet, {});
    EXPECT_GE(result.hitches, 2u) << "more only where the machine was busy";
    EXPECT_LT(result.hitches, 6u);
    EXPECT_EQ(result.referenceHitchShare, 0);
}

TEST(Fly, VisitsTheSamePlacesHoweverLongAFrameTakes)
{
    const auto placesOf = [](std::chrono::milliseconds frame) {
        CountingHooks graphics;
        DrawHooks hooks = graphics.hooks();
        std::vector<std::int64_t> places;
        hooks.draw = [&, quick = hooks.draw](const Eye& eye, bool nearPlaneIsClear) {
            places.push_back(eye.cell.x);
            std::this_thread::sleep_for(frame);
            return quick(eye, nearPlaneIsClear);
        };
        FlySpec spec = smallSpec();
        spec.speed = 60;
        runFly(spec, &hooks, kQuiet, {});
        return places;
    };
    const auto quick = placesOf(std::chrono::milliseconds(0)), slow = placesOf(std::chrono::milliseconds(40));
    ASSERT_EQ(quick.size(), 15u);
    EXPECT_EQ(quick, slow);
    EXPECT_GE(quick[8] - quick[3], 3) << "it does fly: five metres of path after the three frames that warm up";
}

TEST(Fly, WithoutDrawingOnlyStreamingIsTimed)
{
    FlySpec spec = smallSpec();
    spec.frames = 3;
    const FlyResult result = runFly(spec, nullptr, kQuiet, {});
    EXPECT_EQ(result.driver, "");
    EXPECT_EQ(result.frameMs.count, 3u);
    EXPECT_EQ(result.referenceMs.count, 0u) << "nothing to compare a frame with";
    EXPECT_EQ(result.triangles, 0u);
    EXPECT_GT(result.counts.resident, 0u);
    EXPECT_GT(result.counts.meshed, 0u);
}

TEST(Fly, StraightOnItGoesAChunkFartherWheneverAllIsThere)
{
    FlySpec spec = smallSpec();
    spec.setup.stream.distance = 1;
    spec.straight = 0.3;
    CountingHooks graphics;
    const DrawHooks hooks = graphics.hooks();
    const FlyResult result = runFly(spec, &hooks, kQuiet, {});
    EXPECT_EQ(graphics.drawn, 0) << "straight flights draw nothing";
    EXPECT_GT(result.metresPerSecond, 0);
    ASSERT_EQ(result.bytes.size(), 2u);
    EXPECT_LE(result.bytes[0].seconds, result.bytes[1].seconds);
    EXPECT_GT(result.released, 0u) << "what lies behind is released";
}

TEST(Fly, StopsWithinAFrame)
{
    std::stop_source stop;
    FlySpec spec = smallSpec();
    spec.frames = 100000;
    const FlyResult result = runFly(
        spec, nullptr, [&stop](double, const std::string&) { stop.request_stop(); }, stop.get_token());
    EXPECT_TRUE(result.stopped);
    EXPECT_LT(result.frames, 10);
}

} // namespace
} // namespace fell::fly_test
