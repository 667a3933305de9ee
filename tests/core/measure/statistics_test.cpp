// SPDX-License-Identifier: Apache-2.0
#include "measure/statistics.h"

#include <gtest/gtest.h>

#include <random>

namespace fell {
namespace {

TEST(Percentile, InterpolatesBetweenNeighbours)
{
    const std::vector<double> samples{40, 10, 20, 30}; // in any order
    EXPECT_EQ(percentile(samples, 0), 10);
    EXPECT_EQ(percentile(samples, 100), 40);
    EXPECT_EQ(percentile(samples, 50), 25); // between the second and third of four
    EXPECT_NEAR(percentile(samples, 95), 38.5, 1e-12); // place 2.85 of 3
    EXPECT_EQ(percentile({}, 50), 0);
}

TEST(Percentile, OfZeroToAHundredIsThePercentItself)
{
    std::vector<double> samples;
    for (int i = 0; i <= 100; ++i)
        samples.push_back(i);
    for (const double p : {5.0, 50.0, 95.0, 99.0})
        EXPECT_NEAR(percentile(samples, p), p, 1e-9);
    const Percentiles all = percentilesOf(samples);
    EXPECT_EQ(all.count, 101u);
    EXPECT_EQ(all.most, 100);
    EXPECT_NEAR(all.p95, 95, 1e-9);
}

TEST(RatioOfMedians, FindsAKnownRatioWithinItsInterval)
{
    std::mt19937_64 dice(6);
    std::normal_distribution<double> around(10, 1);
    std::vector<double> a, b;
    for (int i = 0; i < 400; ++i) {
        a.push_back(around(dice) * 3);
        b.push_back(around(dice));
    }
    const Ratio ratio = ratioOfMedians(a, b);
    EXPECT_LT(ratio.low, 3);
    EXPECT_GT(ratio.high, 3);
    // The median of n normal samples has deviation 1.2533 s / sqrt(n): here 0.63 % a side, 0.89 % of the ratio.
    EXPECT_NEAR(ratio.ratio, 3, 3 * 0.0089 * 3);
    EXPECT_LT(ratio.high - ratio.low, 3 * 0.0089 * 6);
}

TEST(RatioOfMedians, CoversTheTruthAboutNineteenTimesOfTwenty)
{
    std::mt19937_64 dice(7);
    std::exponential_distribution<double> slow(1);
    int covered = 0;
    for (int trial = 0; trial < 200; ++trial) {
        std::vector<double> a, b;
        for (int i = 0; i < 60; ++i) {
            a.push_back(slow(dice));
            b.push_back(slow(dice));
        }
        const Ratio ratio = ratioOfMedians(a, b);
        covered += ratio.low <= 1 && ratio.high >= 1;
    }
    EXPECT_GT(covered, 176); // a percentile bootstrap of 60 samples covers 93 to 97 %; 88 % is six deviations off
}

TEST(RatioOfMedians, IsNothingWithoutSamples)
{
    EXPECT_EQ(ratioOfMedians({}, std::vector<double>{1}).ratio, 0);
    EXPECT_EQ(ratioOfMedians(std::vector<double>{1}, {}).ratio, 0);
    EXPECT_EQ(ratioOfMedians(std::vector<double>{1}, std::vector<double>{0}).ratio, 0);
}

} // namespace
} // namespace fell
