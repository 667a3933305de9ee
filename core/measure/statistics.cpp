// SPDX-License-Identifier: Apache-2.0
#include "measure/statistics.h"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <random>

namespace fell {
namespace {

double ofSorted(std::span<const double> sorted, double percent)
{
    if (sorted.empty())
        return 0;
    const double at = percent / 100 * static_cast<double>(sorted.size() - 1);
    const auto low = static_cast<std::size_t>(at);
    const std::size_t high = std::min(low + 1, sorted.size() - 1);
    return sorted[low] + (at - static_cast<double>(low)) * (sorted[high] - sorted[low]);
}

/// The median of a resample with replacement. It is the sample at the place of the median of as many uniform numbers,
/// which is a beta variate: so all samples count, and none has to be drawn.
double medianOfResample(std::span<const double> sorted, std::mt19937_64& dice)
{
    const auto size = static_cast<double>(sorted.size());
    const double middle = std::floor(size / 2) + 1; // of 1 ... size
    std::gamma_distribution<double> below(middle, 1), above(size + 1 - middle, 1);
    const double first = below(dice), second = above(dice);
    const auto at = static_cast<std::size_t>(first / (first + second) * size);
    return sorted[std::min(at, sorted.size() - 1)];
}

} // namespace

double percentile(std::span<const double> samples, double percent)
{
    assert(percent >= 0 && percent <= 100);
    std::vector<double> sorted(samples.begin(), samples.end());
    std::sort(sorted.begin(), sorted.end());
    return ofSorted(sorted, percent);
}

Percentiles percentilesOf(std::vector<double> samples)
{
    std::sort(samples.begin(), samples.end());
    return {ofSorted(samples, 5), ofSorted(samples, 50), ofSorted(samples, 95), ofSorted(samples, 99),
        samples.empty() ? 0 : samples.back(), samples.size()};
}

Ratio ratioOfMedians(std::span<const double> a, std::span<const double> b)
{
    constexpr int kResamples = 1000;
    std::vector<double> sortedA(a.begin(), a.end()), sortedB(b.begin(), b.end());
    std::sort(sortedA.begin(), sortedA.end());
    std::sort(sortedB.begin(), sortedB.end());
    const double below = ofSorted(sortedB, 50);
    if (a.empty() || b.empty() || below == 0)
        return {};
    std::mt19937_64 dice(20260101); // NOLINT(cert-msc51-cpp): the same samples give the same interval
    std::vector<double> ratios;
    for (int i = 0; i < kResamples; ++i) {
        const double top = medianOfResample(sortedA, dice), bottom = medianOfResample(sortedB, dice);
        if (bottom > 0)
            ratios.push_back(top / bottom);
    }
    return {ofSorted(sortedA, 50) / below, percentile(ratios, 2.5), percentile(ratios, 97.5)};
}

} // namespace fell
