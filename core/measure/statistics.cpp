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

double medianOfResample(std::span<const double> from, std::mt19937_64& dice, std::vector<double>& room)
{
    room.resize(from.size());
    for (double& value : room)
        value = from[dice() % from.size()];
    const auto middle = room.begin() + static_cast<std::ptrdiff_t>(room.size() / 2);
    std::nth_element(room.begin(), middle, room.end());
    return *middle;
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
    constexpr std::size_t kMost
        = 4000; // samples that are resampled: beyond it the interval hardly changes, the time does
    const double below = percentile(b, 50);
    if (a.empty() || b.empty() || below == 0)
        return {};
    const auto thinned = [](std::span<const double> from) {
        std::vector<double> out;
        const std::size_t stride = std::max<std::size_t>(1, from.size() / kMost);
        for (std::size_t i = 0; i < from.size(); i += stride)
            out.push_back(from[i]);
        return out;
    };
    const auto fewA = thinned(a), fewB = thinned(b);
    std::mt19937_64 dice(20260101); // NOLINT(cert-msc51-cpp): the same samples give the same interval
    std::vector<double> ratios, room;
    for (int i = 0; i < kResamples; ++i) {
        const double top = medianOfResample(fewA, dice, room), bottom = medianOfResample(fewB, dice, room);
        if (bottom > 0)
            ratios.push_back(top / bottom);
    }
    return {percentile(a, 50) / below, percentile(ratios, 2.5), percentile(ratios, 97.5)};
}

} // namespace fell
