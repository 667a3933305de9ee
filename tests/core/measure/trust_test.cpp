// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/trust.h>

#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

namespace fell::trust_test {
namespace {

TEST(Trust, CountsIntervalsThatHoldOneAndThoseAbove)
{
    TrustResult result;
    result.same = {{1.01, 0.99, 1.03}, {1.04, 1.01, 1.07}, {0.95, 0.9, 0.99}, {1, 1, 1}};
    result.slower = {{1.05, 1.03, 1.07}, {1.05, 0.99, 1.1}, {0.9, 0.8, 0.95}};
    EXPECT_EQ(result.holdOne(), 2);
    result.allowed = 0.02;
    EXPECT_EQ(result.found(), 1) << "nor is what is shown to be faster";
}

TEST(Trust, PowerCountsWhatAGateWouldHaveSaidOfEachGroupOfRounds)
{
    std::vector<double> steady, noisy;
    for (int i = 0; i < 24; ++i) {
        steady.push_back(1.05 + (i % 2 == 0 ? 0.002 : -0.002));
        noisy.push_back(i % 2 == 0 ? 1.3 : 0.85);
    }
    const auto rows = powerOf(steady, 0.05, 0.02);
    ASSERT_EQ(rows.size(), 3u) << "3, 6 and 12 rounds: of 24 there would be one group";
    EXPECT_EQ(rows[0].trials, 8);
    EXPECT_EQ(rows[2].trials, 2);
    for (const PowerRow& row : rows) {
        EXPECT_EQ(row.saidSlower, row.trials);
        EXPECT_EQ(row.saidWithin, 0);
    }
    EXPECT_EQ(powerOf(steady, 0.05, 0.1)[0].saidWithin, 8) << "5 % is within 10 %";
    const auto unsure = powerOf(noisy, 0.05, 0.02);
    EXPECT_EQ(unsure[0].saidSlower + unsure[0].saidWithin, 0);
    EXPECT_TRUE(powerOf(std::vector<double>(5, 1.0), 0, 0.02).empty());
}

TEST(Trust, StepsAreTheLargerOverTheSmaller)
{
    const std::vector<double> steps = stepsBetween(std::vector<double>{100, 125, 100, 100});
    ASSERT_EQ(steps.size(), 3u);
    EXPECT_DOUBLE_EQ(steps[0], 0.25);
    EXPECT_DOUBLE_EQ(steps[1], 0.25);
    EXPECT_DOUBLE_EQ(steps[2], 0);
    EXPECT_TRUE(stepsBetween(std::vector<double>{1}).empty());
}

TrustSpec smallSpec()
{
    TrustSpec spec;
    spec.setup = test::unlitSetup();
    spec.terrain = test::demoTerrain("corrowdale");
    spec.setup.stream.distance = 3;
    spec.route = {"here", "Here", {{{0, 0, 0}, 0, 0}, {{20, 0, 0}, 0, 0}}, 2};
    spec.trials = 1;
    spec.rounds = 4;
    spec.frames = 1;
    spec.slower = 1;
    return spec;
}

TEST(Trust, ASetupOfHalfTheSpeedIsFoundAndNoTrialIsLost)
{
    const TrustResult result = runTrust(smallSpec(), [](const TransectProgress&) {}, {});
    ASSERT_EQ(result.same.size(), 1u);
    ASSERT_EQ(result.slower.size(), 1u);
    EXPECT_EQ(result.mediansInReferences.size(), 3u) << "against itself, slowed, and slowed by 10 %";
    EXPECT_EQ(result.found(), 1);
    EXPECT_NEAR(result.slower[0].ratio, 2, 0.5) << "each chunk takes as long again";
    EXPECT_NEAR(result.same[0].ratio, 1, 0.4);
}

TEST(Trust, AStoppedOneSaysSoAndKeepsWhatThereIs)
{
    std::stop_source stop;
    TrustSpec spec = smallSpec();
    spec.trials = 50;
    const TrustResult result = runTrust(
        spec,
        [&](const TransectProgress& at) {
            if (at.share > 0.02)
                stop.request_stop();
        },
        stop.get_token());
    EXPECT_TRUE(result.stopped);
    EXPECT_LT(result.slower.size(), 5u);
}

TEST(Trust, NumbersOutOfRangeAreSaid)
{
    TrustSpec spec = smallSpec();
    EXPECT_FALSE(checkTrust(spec));
    spec.slower = 0;
    EXPECT_EQ(checkTrust(spec)->what, "1 to 100 percent are allowed");
    spec.slower = 0.05;
    spec.rounds = 1;
    EXPECT_TRUE(checkTrust(spec));
    spec.rounds = 6;
    spec.trials = 201;
    EXPECT_TRUE(checkTrust(spec));
}

} // namespace
} // namespace fell::trust_test
