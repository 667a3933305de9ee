// SPDX-License-Identifier: Apache-2.0
// Percentiles, and the interval of a ratio.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace fell {

/// The value below which `percent` of `samples` lie, interpolated between neighbours in order.
/// Errors  no sample gives 0. Asserts 0 <= percent <= 100.
/// Source  Hyndman and Fan, "Sample Quantiles in Statistical Packages", 1996, definition 7.
double percentile(std::span<const double> samples, double percent);

struct Percentiles {
    double p5 = 0, p50 = 0, p95 = 0, p99 = 0, most = 0;
    std::uint64_t count = 0;
};
Percentiles percentilesOf(std::vector<double> samples);

/// A ratio of medians with its 95 % interval.
struct Ratio {
    double ratio = 0, low = 0, high = 0;
};

/// median(a) / median(b); the interval from 1,000 resamples with replacement of both, by a fixed seed.
/// Errors  an empty side, or a median of 0 in b, gives zeros.
/// Cost    n log n of both.
/// Source  Efron, "Bootstrap Methods: Another Look at the Jackknife", 1979 (percentile interval; section 3 has the
///         distribution of a resample's median).
Ratio ratioOfMedians(std::span<const double> a, std::span<const double> b);

} // namespace fell
