// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/statistics.h>

#include <algorithm>
#include <array>
#include <cassert>
#include <cmath>
#include <limits>
#include <numeric>
#include <random>

namespace fell::measure {
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

constexpr int kResamples = 1000;
constexpr std::uint64_t kSeed = 20260101; // the same samples give the same interval

/// The upper median of a resample with replacement. Only the engine's own numbers are used, none of the library's
/// distributions: those differ between standard libraries.
double medianOfResample(std::span<const double> samples, std::vector<double>& resample, std::mt19937_64& dice)
{
    resample.resize(samples.size());
    for (double& one : resample)
        one = samples[dice() % samples.size()];
    const auto middle = resample.begin() + static_cast<std::ptrdiff_t>(resample.size() / 2);
    std::nth_element(resample.begin(), middle, resample.end());
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
    Percentiles out{ofSorted(samples, 5), ofSorted(samples, 50), ofSorted(samples, 95), ofSorted(samples, 99),
        samples.empty() ? 0 : samples.back(), samples.size(), 0};
    constexpr double kFarOut = 3;
    const double lower = ofSorted(samples, 25), upper = ofSorted(samples, 75), reach = kFarOut * (upper - lower);
    out.outliers = static_cast<std::uint64_t>(std::count_if(
        samples.begin(), samples.end(), [&](double v) { return v < lower - reach || v > upper + reach; }));
    return out;
}

Interval intervalOverRounds(std::span<const double> rounds)
{
    if (rounds.size() < 2)
        return {};
    const Ratio of = ratioOverRounds(rounds); // the same mean and interval of logarithms
    return {of.low, of.high};
}

Ratio ratioOfMedians(std::span<const double> a, std::span<const double> b)
{
    std::vector<double> sortedA(a.begin(), a.end()), sortedB(b.begin(), b.end());
    std::sort(sortedA.begin(), sortedA.end());
    std::sort(sortedB.begin(), sortedB.end());
    const double below = ofSorted(sortedB, 50);
    if (a.empty() || b.empty() || below == 0)
        return {};
    std::mt19937_64 dice(kSeed); // NOLINT(cert-msc51-cpp)
    std::vector<double> ratios, resample;
    for (int i = 0; i < kResamples; ++i) {
        const double top = medianOfResample(sortedA, resample, dice);
        const double bottom = medianOfResample(sortedB, resample, dice);
        if (bottom > 0)
            ratios.push_back(top / bottom);
    }
    return {ofSorted(sortedA, 50) / below, percentile(ratios, 2.5), percentile(ratios, 97.5)};
}

double studentT95(int freedom)
{
    assert(freedom >= 1);
    constexpr std::array<double, 30> kTable{12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228,
        2.201, 2.179, 2.160, 2.145, 2.131, 2.120, 2.110, 2.101, 2.093, 2.086, 2.080, 2.074, 2.069, 2.064, 2.060, 2.056,
        2.052, 2.048, 2.045, 2.042};
    if (static_cast<std::size_t>(freedom) <= kTable.size())
        return kTable[static_cast<std::size_t>(freedom) - 1];
    constexpr double z = 1.959963985; // of the normal distribution
    const double n = freedom;
    return z + (z * z * z + z) / (4 * n) + (5 * std::pow(z, 5) + 16 * z * z * z + 3 * z) / (96 * n * n);
}

Ratio ratioOverRounds(std::span<const double> ratios)
{
    const auto n = static_cast<double>(ratios.size());
    if (ratios.empty() || !std::all_of(ratios.begin(), ratios.end(), [](double r) { return r > 0; }))
        return {};
    double mean = 0, squares = 0;
    for (const double ratio : ratios)
        mean += std::log(ratio) / n;
    if (ratios.size() == 1)
        return {ratios[0], 0, std::numeric_limits<double>::infinity()};
    for (const double ratio : ratios)
        squares += std::pow(std::log(ratio) - mean, 2);
    const double error = std::sqrt(squares / (n - 1) / n), reach = studentT95(static_cast<int>(n) - 1) * error;
    return {std::exp(mean), std::exp(mean - reach), std::exp(mean + reach)};
}

Ratio ratioOfUnpaired(std::span<const double> a, std::span<const double> b)
{
    struct Side {
        double mean = 0, error = 0, freedom = 0; // error: squared, of the mean
    };
    const auto sideOf = [](std::span<const double> rounds) {
        const auto n = static_cast<double>(rounds.size());
        Side side;
        for (const double round : rounds)
            side.mean += std::log(round) / n;
        for (const double round : rounds)
            side.error += std::pow(std::log(round) - side.mean, 2) / (n - 1) / n;
        side.freedom = n - 1;
        return side;
    };
    for (const auto& side : {a, b})
        if (side.size() < 2 || !std::all_of(side.begin(), side.end(), [](double r) { return r > 0; }))
            return {};
    const Side one = sideOf(a), other = sideOf(b);
    const double difference = one.mean - other.mean, error = one.error + other.error;
    if (error <= 0)
        return {std::exp(difference), std::exp(difference), std::exp(difference)};
    const double freedom
        = error * error / (one.error * one.error / one.freedom + other.error * other.error / other.freedom);
    const double reach = studentT95(std::max(1, static_cast<int>(freedom))) * std::sqrt(error);
    return {std::exp(difference), std::exp(difference - reach), std::exp(difference + reach)};
}

double Growth::at(double x) const
{
    return factor * std::pow(x, exponent);
}

Growth growthOf(std::span<const double> xs, std::span<const double> costs)
{
    assert(xs.size() == costs.size());
    std::vector<double> as, bs;
    for (std::size_t i = 0; i < xs.size(); ++i)
        if (xs[i] > 0 && costs[i] > 0) {
            as.push_back(std::log(xs[i]));
            bs.push_back(std::log(costs[i]));
        }
    if (as.size() < 3)
        return {};
    const auto n = static_cast<double>(as.size());
    const double meanA = std::accumulate(as.begin(), as.end(), 0.0) / n,
                 meanB = std::accumulate(bs.begin(), bs.end(), 0.0) / n;
    double aa = 0, ab = 0;
    for (std::size_t i = 0; i < as.size(); ++i) {
        aa += (as[i] - meanA) * (as[i] - meanA);
        ab += (as[i] - meanA) * (bs[i] - meanB);
    }
    if (aa <= 0)
        return {};
    const double slope = ab / aa;
    double off = 0;
    for (std::size_t i = 0; i < as.size(); ++i)
        off += std::pow(bs[i] - meanB - slope * (as[i] - meanA), 2);
    const double reach = studentT95(static_cast<int>(as.size()) - 2) * std::sqrt(off / (n - 2) / aa);
    return {slope, slope - reach, slope + reach, static_cast<int>(as.size()), std::exp(meanB - slope * meanA)};
}

bool isSteady(std::span<const double> runs)
{
    constexpr std::size_t kOf = 3;
    constexpr double kStillFaster = 0.95;
    if (runs.size() < 2 * kOf)
        return false;
    const auto last = runs.last(2 * kOf);
    return percentile(last.last(kOf), 50) >= kStillFaster * percentile(last.first(kOf), 50);
}

} // namespace fell::measure
