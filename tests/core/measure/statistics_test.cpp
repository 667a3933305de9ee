// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/measure/statistics.h>

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>
#include <set>

namespace fell::statistics_test {
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
    EXPECT_EQ(all.max, 100);
    EXPECT_NEAR(all.p95, 95, 1e-9);
}

TEST(IntervalOverRounds, CoversTheTruthNineteenTimesOfTwentyHoweverFewRoundsThereAre)
{
    // Rounds that lie 5 % apart around 7 ms, as medians of a noisy machine do. 4,000 runs: 95 % has deviation 0.34 %.
    for (const int rounds : {2, 3, 6, 24}) {
        std::mt19937_64 dice(static_cast<std::uint64_t>(rounds));
        std::lognormal_distribution<double> around(std::log(7), 0.05);
        int covered = 0;
        constexpr int kRuns = 4000;
        for (int run = 0; run < kRuns; ++run) {
            std::vector<double> medians;
            for (int i = 0; i < rounds; ++i)
                medians.push_back(around(dice));
            const Interval found = intervalOverRounds(medians);
            covered += found.low <= 7 && 7 <= found.high;
        }
        EXPECT_NEAR(covered / double(kRuns), 0.95, 4 * 0.0034) << rounds << " rounds";
    }
}

TEST(IntervalOverRounds, IsUnknownWhereThereIsNoBasis)
{
    EXPECT_FALSE(intervalOverRounds({}).isKnown());
    EXPECT_FALSE(intervalOverRounds(std::vector<double>{7}).isKnown());
    EXPECT_FALSE(intervalOverRounds(std::vector<double>{7, 0}).isKnown());
    EXPECT_TRUE(intervalOverRounds(std::vector<double>{7, 8}).isKnown());
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

TEST(RatioOfMedians, HasTheIntervalOfThePlainBootstrapWithTheEnginesOwnNumbers)
{
    const std::vector<double> a{9, 12, 10, 14, 11}, b{4, 6, 5};
    std::mt19937_64 dice(
        20260101); // its numbers are the same in every standard library; those of distributions are not
    const auto medianOf = [&dice](const std::vector<double>& of) {
        std::multiset<double> drawn;
        for (std::size_t i = 0; i < of.size(); ++i)
            drawn.insert(of[dice() % of.size()]);
        return *std::next(drawn.begin(), static_cast<std::ptrdiff_t>(of.size() / 2));
    };
    std::vector<double> sortedA = a, sortedB = b, ratios;
    std::sort(sortedA.begin(), sortedA.end());
    std::sort(sortedB.begin(), sortedB.end());
    for (int i = 0; i < 1000; ++i) {
        const double top = medianOf(sortedA);
        ratios.push_back(top / medianOf(sortedB));
    }
    std::sort(ratios.begin(), ratios.end());
    const Ratio ratio = ratioOfMedians(a, b);
    EXPECT_DOUBLE_EQ(ratio.ratio, 11.0 / 5);
    EXPECT_DOUBLE_EQ(ratio.low, ratios[24] + (ratios[25] - ratios[24]) * 0.975);
    EXPECT_DOUBLE_EQ(ratio.high, ratios[974] + (ratios[975] - ratios[974]) * 0.025);
}

TEST(RatioOfMedians, IsNothingWithoutSamples)
{
    EXPECT_EQ(ratioOfMedians({}, std::vector<double>{1}).ratio, 0);
    EXPECT_EQ(ratioOfMedians(std::vector<double>{1}, {}).ratio, 0);
    EXPECT_EQ(ratioOfMedians(std::vector<double>{1}, std::vector<double>{0}).ratio, 0);
}

/// The share of Student's distribution between -t and t, by Simpson's rule on its density.
double shareWithin(double t, int freedom)
{
    const double n = freedom, front = std::tgamma((n + 1) / 2) / (std::sqrt(n * M_PI) * std::tgamma(n / 2));
    const auto density = [&](double x) { return front * std::pow(1 + x * x / n, -(n + 1) / 2); };
    constexpr int kSteps = 20000;
    double sum = density(0) + density(t);
    for (int i = 1; i < kSteps; ++i)
        sum += density(t * i / kSteps) * (i % 2 == 1 ? 4 : 2);
    return 2 * sum * t / kSteps / 3;
}

TEST(StudentT, LeavesFivePercentOutside)
{
    for (const int freedom : {1, 2, 3, 7, 19, 30, 31, 45, 80, 150})
        EXPECT_NEAR(shareWithin(studentT95(freedom), freedom), 0.95, 3e-5) << freedom;
    EXPECT_NEAR(studentT95(1), std::tan(M_PI * 0.475), 1e-3) << "a Cauchy distribution";
    EXPECT_NEAR(studentT95(60), 2.0003, 2e-4) << "published";
    EXPECT_NEAR(studentT95(120), 1.9799, 2e-4) << "published";
}

TEST(RatioOverRounds, IsTheGeometricMeanWithStudentsInterval)
{
    // By hand: logs of 0.5 and 2 are -ln 2 and ln 2; mean 0, deviation ln 2 * sqrt 2, error ln 2; t(1) = 12.706.
    const Ratio two = ratioOverRounds(std::vector<double>{0.5, 2});
    EXPECT_NEAR(two.ratio, 1, 1e-12);
    EXPECT_NEAR(std::log(two.high), 12.706 * std::log(2), 1e-9);
    EXPECT_NEAR(two.low * two.high, 1, 1e-9);
    const Ratio same = ratioOverRounds(std::vector<double>{1.2, 1.2, 1.2});
    EXPECT_NEAR(same.low, 1.2, 1e-12);
    EXPECT_NEAR(same.high, 1.2, 1e-12);
    EXPECT_EQ(ratioOverRounds(std::vector<double>{3}).low, 0);
    EXPECT_TRUE(std::isinf(ratioOverRounds(std::vector<double>{3}).high));
    EXPECT_EQ(ratioOverRounds({}).ratio, 0);
    EXPECT_EQ(ratioOverRounds(std::vector<double>{1, 0}).ratio, 0);
}

/// A machine whose clock wanders from leg to leg by 2 %, frames that differ by 10 % from each other: rounds of A and B
/// in turn, B slower by `slower`.
Ratio simulated(std::mt19937_64& dice, double slower, int rounds)
{
    std::normal_distribution<double> clock(0, 0.02), frame(0, 0.1);
    std::vector<double> ratios;
    for (int round = 0; round < rounds; ++round) {
        const double a = std::exp(clock(dice)), b = std::exp(clock(dice)) * slower;
        std::vector<double> each;
        for (int i = 0; i < 24; ++i)
            each.push_back(b * std::exp(frame(dice)) / (a * std::exp(frame(dice))));
        ratios.push_back(percentile(each, 50));
    }
    return ratioOverRounds(ratios);
}

TEST(RatioOverRounds, OfASetupWithItselfHoldsOneNineteenTimesOfTwenty)
{
    std::mt19937_64 dice(11);
    constexpr int kTrials = 2000;
    int holds = 0;
    for (int trial = 0; trial < kTrials; ++trial) {
        const Ratio ratio = simulated(dice, 1, 4);
        holds += ratio.low <= 1 && ratio.high >= 1;
    }
    // 95 % of 2,000 is 1,900 with a deviation of 9.7: three of them.
    EXPECT_GT(holds, 1900 - 30);
    EXPECT_LT(holds, 1900 + 30) << "and is no wider than it has to be";
}

TEST(RatioOverRounds, FindsASlowdownOfFivePercentNineteenTimesOfTwenty)
{
    std::mt19937_64 dice(12);
    int found = 0;
    for (int trial = 0; trial < 400; ++trial)
        found += simulated(dice, 1.05, 16).low > 1;
    EXPECT_GE(found, 380);
}

/// By hand, on logarithms: a has mean 1, variance 1 over three (error 1/3); b has mean 0, variance 4 over four (error
/// 1). The error together is 4/3; the degrees of freedom (4/3)^2 / ((1/9) / 2 + 1 / 3) = 4.57, rounded down 4.
TEST(RatioOfUnpaired, IsWelchsIntervalOnLogarithms)
{
    const auto powers = [](std::vector<double> logs) {
        for (double& one : logs)
            one = std::exp(one);
        return logs;
    };
    const double s = std::sqrt(3.0);
    const Ratio ratio = ratioOfUnpaired(powers({0, 1, 2}), powers({-s, -s, s, s}));
    EXPECT_NEAR(std::log(ratio.ratio), 1, 1e-12);
    EXPECT_NEAR(std::log(ratio.high), 1 + 2.776 * std::sqrt(4.0 / 3), 1e-9);
    EXPECT_NEAR(std::log(ratio.low), 1 - 2.776 * std::sqrt(4.0 / 3), 1e-9);
    EXPECT_EQ(ratioOfUnpaired(std::vector<double>{1}, std::vector<double>{1, 2}).ratio, 0);
    EXPECT_EQ(ratioOfUnpaired(std::vector<double>{1, 0}, std::vector<double>{1, 2}).ratio, 0);
    EXPECT_NEAR(ratioOfUnpaired(std::vector<double>{3, 3}, std::vector<double>{2, 2}).high, 1.5, 1e-12);
}

/// What a gate shows of rounds that were not taken in turn, simulated: rounds of both sides drift apart by chance.
TEST(RatioOfUnpaired, CoversTheTruthHoweverFewRoundsEitherSideHas)
{
    std::mt19937_64 dice(13);
    constexpr int kTrials = 2000;
    for (const auto& [ofA, ofB] : {std::pair{2, 2}, {3, 6}, {6, 3}, {12, 12}})
        for (const double spread : {0.01, 0.1}) {
            std::normal_distribution<double> round(0, spread), wider(0, 2 * spread);
            int holds = 0;
            for (int trial = 0; trial < kTrials; ++trial) {
                std::vector<double> a, b;
                for (int i = 0; i < ofA; ++i)
                    a.push_back(1.3 * std::exp(round(dice)));
                for (int i = 0; i < ofB; ++i)
                    b.push_back(std::exp(wider(dice)));
                const Ratio ratio = ratioOfUnpaired(a, b);
                holds += ratio.low <= 1.3 && ratio.high >= 1.3;
            }
            // Degrees of freedom are rounded down, so it may be wider than it has to be, and never narrower.
            EXPECT_GT(holds, 1900 - 30) << ofA << " and " << ofB << " rounds, spread " << spread;
        }
}

TEST(Growth, ItsIntervalCoversTheTrueExponent)
{
    std::mt19937_64 dice(14);
    constexpr int kTrials = 1000;
    for (const int points : {3, 5, 9}) {
        std::normal_distribution<double> noise(0, 0.05);
        int holds = 0;
        for (int trial = 0; trial < kTrials; ++trial) {
            std::vector<double> xs, ys;
            for (int i = 1; i <= points; ++i) {
                xs.push_back(i * 2);
                ys.push_back(3 * std::pow(i * 2, 1.7) * std::exp(noise(dice)));
            }
            const Growth growth = growthOf(xs, ys);
            holds += growth.low <= 1.7 && growth.high >= 1.7;
        }
        // 95 % of 1,000 is 950 with a deviation of 6.9: three of them.
        EXPECT_NEAR(holds, 950, 21) << points << " points";
    }
}

TEST(IntervalOverRounds, IsThatOfAPublishedTable)
{
    // Student's t for 95 %, two-sided: 12.706, 4.303, 2.571, 2.201 with 1, 2, 5 and 11 degrees of freedom.
    for (const auto& [rounds, t] : {std::pair{2, 12.706}, {3, 4.303}, {6, 2.571}, {12, 2.201}}) {
        std::vector<double> logs;
        for (int i = 0; i < rounds; ++i)
            logs.push_back(i % 2 == 0 ? 0.1 : -0.1);
        double mean = 0, squares = 0;
        for (const double one : logs)
            mean += one / rounds;
        for (const double one : logs)
            squares += (one - mean) * (one - mean);
        const double error = std::sqrt(squares / (rounds - 1) / rounds);
        std::vector<double> values;
        for (const double one : logs)
            values.push_back(50 * std::exp(one));
        const Interval found = intervalOverRounds(values);
        EXPECT_NEAR(std::log(found.low / 50), mean - t * error, 0.002 * t * error + 1e-9) << rounds;
        EXPECT_NEAR(std::log(found.high / 50), mean + t * error, 0.002 * t * error + 1e-9) << rounds;
    }
}

TEST(Growth, IsTheExponentOfAPowerLaw)
{
    std::vector<double> xs, square, bent;
    for (const double x : {2.0, 3.0, 5.0, 8.0, 13.0}) {
        xs.push_back(x);
        square.push_back(7 * x * x);
        bent.push_back(7 + x * x);
    }
    const Growth exact = growthOf(xs, square);
    EXPECT_NEAR(exact.exponent, 2, 1e-12);
    EXPECT_NEAR(exact.high - exact.low, 0, 1e-9);
    EXPECT_EQ(exact.points, 5);
    const Growth curve = growthOf(xs, bent);
    EXPECT_LT(curve.exponent, 2);
    EXPECT_GT(curve.high - curve.low, 0.3) << "a bend is no power law";
    EXPECT_EQ(growthOf(std::vector<double>{1, 2}, std::vector<double>{1, 4}).points, 0);
    EXPECT_EQ(growthOf(std::vector<double>{2, 2, 2}, std::vector<double>{1, 4, 9}).points, 0);
    EXPECT_EQ(growthOf(std::vector<double>{1, 2, 3, 4}, std::vector<double>{0, 2, 3, 4}).points, 3) << "no log of 0";
}

/// A published example: Anscombe's first data set ("Graphs in Statistical Analysis", 1973) has slope 0.500 with a
/// standard error of 0.118; its exponentials have that as their exponent. t(9) = 2.262.
TEST(Growth, HasTheIntervalOfAPublishedRegression)
{
    const double x[]{10, 8, 13, 9, 11, 14, 6, 4, 12, 7, 5},
        y[]{8.04, 6.95, 7.58, 8.81, 8.33, 9.96, 7.24, 4.26, 10.84, 4.82, 5.68};
    std::vector<double> xs, ys;
    for (int i = 0; i < 11; ++i) {
        xs.push_back(std::exp(x[i]));
        ys.push_back(std::exp(y[i]));
    }
    const Growth growth = growthOf(xs, ys);
    EXPECT_NEAR(growth.exponent, 0.500, 5e-4);
    EXPECT_NEAR((growth.high - growth.low) / 2 / 2.262, 0.118, 5e-4);
}

TEST(Outliers, AreCountedByTukeysFarFences)
{
    // Quartiles of 1 ... 9 are 3 and 7, the fences -9 and 19.
    std::vector<double> samples{1, 2, 3, 4, 5, 6, 7, 8, 9};
    EXPECT_EQ(percentilesOf(samples).outliers, 0u);
    samples = {1, 2, 3, 4, 5, 6, 7, 8, 1000};
    EXPECT_EQ(percentilesOf(samples).outliers, 1u);
    EXPECT_EQ(percentilesOf(samples).max, 1000) << "kept";
    EXPECT_EQ(percentilesOf({}).outliers, 0u);
}

TEST(Steady, WhenRunsTakeNoLessAnyMore)
{
    EXPECT_FALSE(isSteady(std::vector<double>{1, 1, 1, 1, 1})) << "too few to tell";
    EXPECT_TRUE(isSteady(std::vector<double>{1, 1, 1, 1, 1, 1}));
    EXPECT_FALSE(isSteady(std::vector<double>{50, 20, 12, 11, 10, 10})) << "12 to 20 before, 10 now";
    EXPECT_TRUE(isSteady(std::vector<double>{50, 20, 12, 11, 10, 10, 10, 10.1, 9.9}));
    EXPECT_TRUE(isSteady(std::vector<double>{1, 1, 1, 2, 1, 9})) << "slower is no warm-up";
}

} // namespace
} // namespace fell::statistics_test
