// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/reach.h>

#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

namespace fell::reach_test {
namespace {

/// Frames that take what `cost` says of the distance; how often each distance was begun.
struct Costed {
    std::function<double(int distance, int begun)> cost;
    std::map<int, int> begun;
    int distance = 0;

    DrawHooks hooks()
    {
        DrawHooks out;
        out.driver = "counting";
        out.begin = [this](const fell::Setup& setup, const Terrain&) { ++begun[distance = setup.stream.distance]; };
        out.apply = [](const StreamEvent&) {};
        out.choose = [](const CullChoices&) { FAIL() << "no step is tried"; };
        out.draw = [this](const Eye&, bool) {
            FrameCost frame;
            frame.ms = cost(distance, begun[distance]);
            return frame;
        };
        return out;
    }
};

ReachSpec specWith(double budget, int farthest = 12)
{
    ReachSpec spec;
    spec.setup = test::unlitSetup();
    spec.terrain = test::testTerrain();
    spec.setup.name = "small";
    spec.setup.chunk.edge = 16;
    spec.setup.draw.budget = budget;
    spec.route.title = "there";
    spec.route.points = {{{0, 20, 0}, 0, 0}, {{20, 20, 0}, 90, 0}};
    spec.frames = 2;
    spec.farthest = farthest;
    return spec;
}

TEST(Reach, IsTheFarthestDistanceWithinTheBudgetAndMeasuredTwice)
{
    for (const int reach : {1, 2, 3, 4, 6, 7}) { // farther ones are looked for below; streaming them takes long
        Costed graphics{[](int distance, int) { return 2.0 * distance; }, {}};
        const DrawHooks hooks = graphics.hooks();
        const ReachResult result = findReach(specWith(2 * reach + 0.5), hooks, {}, {});
        ASSERT_EQ(result.distance, reach);
        EXPECT_FALSE(result.isBeyond);
        EXPECT_EQ(graphics.begun[reach], 2);
        EXPECT_EQ(graphics.begun[reach + 1], 1) << "and the next is known to be over";
        EXPECT_LE(result.steps.size(), 9u) << "doubling and halving: at most 2 log2 of 12, and once more";
        EXPECT_TRUE(result.steps.back().isConfirming);
        if (result.growth.points > 0) {
            EXPECT_NEAR(result.growth.exponent, 1, 1e-9);
            EXPECT_NEAR(result.growth.at(30), 60, 1e-6) << "going on like that";
        }
    }
}

TEST(Reach, IsMeasuredTwiceWhereTheConfirmationGoesDownAChunk)
{
    // 12 chunks are within the budget the first time only, as on a machine that was quiet just then.
    Costed graphics{[](int distance, int begun) { return distance == 12 && begun > 1 ? 100.0 : 1.0 * distance; }, {}};
    const DrawHooks hooks = graphics.hooks();
    const ReachResult result = findReach(specWith(12.5), hooks, {}, {});
    EXPECT_EQ(result.distance, 11);
    EXPECT_EQ(graphics.begun[11], 2);
}

TEST(Reach, EmptyFramesNearTheEyeTellNothingOfWhatLiesBeyond)
{
    // High over the ground: up to 2 chunks of 16 voxels there is only sky, whose first frames are slow.
    Costed graphics{[](int distance, int) { return distance <= 2 ? 100.0 : 1.0 * distance; }, {}};
    const DrawHooks hooks = graphics.hooks();
    ReachSpec spec = specWith(50, 8);
    spec.route.points = {{{0, 110, 0}, 0, -60}, {{20, 110, 0}, 90, -60}};
    const ReachResult result = findReach(spec, hooks, {}, {});
    EXPECT_EQ(result.distance, 8);
    EXPECT_FALSE(result.isEmpty);
    spec.route.points = {{{0, 1000, 0}, 0, 0}, {{20, 1000, 0}, 90, 0}};
    const ReachResult none = findReach(spec, hooks, {}, {});
    EXPECT_TRUE(none.isEmpty);
    EXPECT_FALSE(none.distance && *none.distance < 8) << "a slow sky is no broken budget";
}

TEST(Reach, SaysWhereThereIsNoneAndWhereItLiesBeyond)
{
    Costed graphics{[](int distance, int) { return 10.0 * distance; }, {}};
    const DrawHooks hooks = graphics.hooks();
    const ReachResult none = findReach(specWith(5), hooks, {}, {});
    EXPECT_EQ(none.distance, std::nullopt);
    EXPECT_EQ(none.steps.size(), 1u);
    EXPECT_NE(findingsOf(none)[0].find("does not reach one chunk"), std::string::npos);
    const ReachResult all = findReach(specWith(1000, 6), hooks, {}, {});
    EXPECT_EQ(all.distance, 6);
    EXPECT_TRUE(all.isBeyond);
    EXPECT_NE(findingsOf(all)[0].find("at least 6 chunks"), std::string::npos);
    EXPECT_EQ(toJson(all)["value"], 6);
    EXPECT_TRUE(toJson(none)["value"].is_null());
}

TEST(Reach, GoesDownWhereTheSecondLookDoesNotHold)
{
    // At 5 the first look was lucky.
    Costed graphics{[](int distance, int begun) { return distance == 5 && begun > 1 ? 99.0 : 2.0 * distance; }, {}};
    const DrawHooks hooks = graphics.hooks();
    const ReachResult result = findReach(specWith(10.5), hooks, {}, {});
    EXPECT_EQ(result.distance, 4);
    EXPECT_FALSE(result.steps[result.steps.size() - 2].isWithin);
}

TEST(Reach, CanBeStopped)
{
    Costed graphics{[](int distance, int) { return 1.0 * distance; }, {}};
    const DrawHooks hooks = graphics.hooks();
    std::stop_source source;
    const ReachResult result = findReach(
        specWith(100), hooks,
        [&](const ReachResult& soFar, const std::string&) {
            if (soFar.steps.size() == 2)
                source.request_stop();
        },
        source.get_token());
    EXPECT_TRUE(result.stopped);
    EXPECT_EQ(result.distance, std::nullopt);
    EXPECT_EQ(result.steps.size(), 2u);
}

} // namespace
} // namespace fell::reach_test
