// SPDX-License-Identifier: Apache-2.0
// The curve of a layer against values worked out by hand, and against what a curve must never do.
#include "support/all_names.h"
#include <fell/terrain/curve.h>

#include <gtest/gtest.h>

#include <algorithm>
#include <random>

namespace fell::curve_test {
namespace {

TEST(Curve, WithoutPointsChangesNothing)
{
    const HeightCurve curve;
    EXPECT_TRUE(curve.isStraight());
    for (const double x : {0.0, 0.3, 1.0})
        EXPECT_EQ(curve.at(x), x);
}

TEST(Curve, TwoPointsAreALineAndLevelBeyondThem)
{
    const HeightCurve curve(std::vector<CurvePoint>{{0.2, 0.1}, {0.6, 0.9}});
    EXPECT_EQ(curve.at(0), 0.1);
    EXPECT_EQ(curve.at(1), 0.9);
    EXPECT_DOUBLE_EQ(curve.at(0.4), 0.5);
    EXPECT_DOUBLE_EQ(curve.at(0.3), 0.3);
}

TEST(Curve, GoesThroughItsPointsWithTheSlopesOfThePaper)
{
    // Rises of 1 and 3 over equal widths: the slope between them is their harmonic mean, 6 / (3/1 + 3/3) = 1.5.
    const HeightCurve curve(std::vector<CurvePoint>{{0, 0}, {0.25, 0.25}, {0.5, 1}});
    EXPECT_DOUBLE_EQ(curve.at(0.25), 0.25);
    EXPECT_DOUBLE_EQ(curve.at(0.5), 1);
    // In the middle of a piece the cubic is the mean of its ends and an eighth of its width times the slopes'
    // difference.
    EXPECT_NEAR(curve.at(0.125), 0.125 + 0.25 / 8 * (1 - 1.5), 1e-15);
    EXPECT_NEAR(curve.at(0.375), 0.625 + 0.25 / 8 * (1.5 - 3), 1e-15);
}

TEST(Curve, IsLevelAtASummitAndOnALedge)
{
    const HeightCurve summit(std::vector<CurvePoint>{{0, 0}, {0.5, 0.8}, {1, 0}});
    EXPECT_LT(summit.at(0.49), 0.8);
    EXPECT_LT(summit.at(0.51), 0.8);
    const HeightCurve ledge(std::vector<CurvePoint>{{0, 0}, {0.3, 0.4}, {0.7, 0.4}, {1, 1}});
    for (double x = 0.3; x <= 0.7; x += 0.01)
        EXPECT_NEAR(ledge.at(x), 0.4, 1e-15);
}

TEST(Curve, NeverLeavesWhatLiesBetweenTwoPoints)
{
    std::mt19937 random(11);
    std::uniform_real_distribution<double> any(0, 1);
    for (int round = 0; round < 200; ++round) {
        std::vector<CurvePoint> points;
        for (double x = 0.02 * any(random); x <= 1 && points.size() < kMaxCurvePoints; x += 0.01 + 0.3 * any(random))
            points.push_back({x, any(random)});
        if (points.size() < 2)
            continue;
        const HeightCurve curve(points);
        for (std::size_t i = 0; i + 1 < points.size(); ++i) {
            const double low = std::min(points[i][1], points[i + 1][1]),
                         high = std::max(points[i][1], points[i + 1][1]);
            double before = points[i][1];
            for (int step = 0; step <= 20; ++step) {
                const double y = curve.at(points[i][0] + (points[i + 1][0] - points[i][0]) * step / 20);
                EXPECT_GE(y, low - 1e-12);
                EXPECT_LE(y, high + 1e-12);
                EXPECT_TRUE(points[i + 1][1] < points[i][1] || y >= before - 1e-12);
                before = y;
            }
        }
    }
}

} // namespace
} // namespace fell::curve_test
