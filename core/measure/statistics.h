// SPDX-License-Identifier: Apache-2.0
// Percentiles, and the interval of a ratio.
#pragma once

#include <fell/namespaces.h>

#include <cstdint>
#include <span>
#include <vector>

namespace fell::measure {

/// The value below which `percent` of `samples` lie, interpolated between neighbours in order.
/// Errors  no sample gives 0. Asserts 0 <= percent <= 100.
/// Source  Hyndman and Fan, "Sample Quantiles in Statistical Packages", 1996, definition 7.
double percentile(std::span<const double> samples, double percent);

struct Percentiles {
    double p5 = 0, p50 = 0, p95 = 0, p99 = 0, max = 0;
    std::uint64_t count = 0;
    std::uint64_t outliers = 0; // kept in all the others: farther than three times the middle half's width beyond it
};
/// Source  outliers: "far out" of Tukey, "Exploratory Data Analysis", 1977, with the quartiles as above.
Percentiles percentilesOf(std::vector<double> samples);

/// Where a cost may lie.
struct Interval {
    double low = 0, high = 0;
    [[nodiscard]] bool isKnown() const { return high > 0; }
};
/// The 95 % interval of the geometric mean of a figure that each round gave, e.g. its median. Single frames or meshes
/// of a round are no basis for it: neighbours resemble each other, and few samples do not reach a high percentile.
/// Errors  fewer than two rounds, or one that is not above 0, gives an unknown interval.
/// Source  Student's t on logarithms; see studentT95.
Interval intervalOverRounds(std::span<const double> rounds);

/// A ratio of medians with its 95 % interval.
struct Ratio {
    double ratio = 0, low = 0, high = 0;
};

/// median(a) / median(b); the interval from 1,000 resamples with replacement of both, by a fixed seed.
/// Errors  an empty side, or a median of 0 in b, gives zeros.
/// Cost    1,000 n of both.
/// Source  Efron, "Bootstrap Methods: Another Look at the Jackknife", 1979 (percentile interval).
Ratio ratioOfMedians(std::span<const double> a, std::span<const double> b);

/// The ratio that several rounds agree on: their geometric mean, and its 95 % interval from how far the rounds lie
/// apart. What changes between rounds, the machine's clock first of all, is in it; a resample of all frames together
/// would take frames of one round for independent and promise too much.
/// Errors  no round gives zeros, and so does a ratio that is not above 0; one round gives 0 to infinity.
/// Source  "Student", "The Probable Error of a Mean", Biometrika 6, 1908, on logarithms.
Ratio ratioOverRounds(std::span<const double> ratios);

/// How rounds of one kind compare with rounds of another that were not taken in turn with them: the ratio of the
/// geometric means, a / b, and its 95 % interval. Errors  fewer than two rounds on a side, or one that is not above 0,
/// gives zeros. Source  Welch, "The Generalization of Student's Problem when Several Different Population Variances are
/// Involved",
///         Biometrika 34, 1947, on logarithms; the degrees of freedom rounded down.
Ratio ratioOfUnpaired(std::span<const double> a, std::span<const double> b);

/// Student's t that 2.5 % lie above, for this number of degrees of freedom; for 1 to 30 from the published tables,
/// beyond by the expansion of Fisher and Cornish, "The Percentile Points of Distributions Having Known Cumulants",
/// 1960.
double studentT95(int freedom);

/// How a cost grows: the exponent e of cost ~ x^e, the slope of a straight line through the logarithms, with its 95 %
/// interval. 2 is the square of x, 3 its cube.
struct Growth {
    double exponent = 0, low = 0, high = 0;
    int points = 0; // 0: nothing can be said
    double factor = 0; // the fitted cost at x = 1
    /// The fitted cost; beyond the points it is a guess that says how they would go on.
    [[nodiscard]] double at(double x) const;
};
/// By least squares; the interval from how far the points lie off the line, so a curve that bends has a wide one.
/// Points that are not above 0 are left out. Fewer than three points, or all at one x, give points = 0.
/// Source  the textbook interval of a regression's slope: standard error times studentT95(points - 2).
Growth growthOf(std::span<const double> xs, std::span<const double> costs);

/// Are repeated runs of one thing settled? When at least six are there and the median of the last three is no more than
/// a twentieth below that of the three before: what comes first (cold caches, drivers that compile) is over.
bool isSteady(std::span<const double> runs);

} // namespace fell::measure
