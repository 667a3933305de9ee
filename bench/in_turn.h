// SPDX-License-Identifier: Apache-2.0
// Two ways of the same work, taken in turn, so that a drift of the machine hits both.
#pragma once

#include <fell/measure/statistics.h>

#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <utility>
#include <vector>

namespace fell::bench {

/// How long a benchmark of few, long pieces of work runs: as short as can be where it is only to be seen that it does.
inline double atLeast(double seconds)
{
    return std::getenv("FELL_QUICK") ? 0.01 : seconds; // NOLINT(concurrency-mt-unsafe): before any thread
}

template <typename Work> double secondsFor(const Work& work)
{
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// Runs `plain(i)` and `fast(i)` for i = 0 ... items-1 in turn, over and over; the counter "ratio" is the ratio of the
/// medians, plain / fast, with its 95 % interval next to it. Both sides must have been compared before.
template <typename Plain, typename Fast>
void compareInTurn(benchmark::State& state, std::size_t items, const Plain& plain, const Fast& fast)
{
    for (std::size_t i = 0; i < std::min<std::size_t>(items, 30); ++i) { // warm-up: memory is there, caches are warm
        plain(i);
        fast(i);
    }
    std::vector<double> plainTimes, fastTimes;
    for (auto _ : state)
        for (std::size_t i = 0; i < items; ++i) {
            plainTimes.push_back(secondsFor([&] { plain(i); }));
            fastTimes.push_back(secondsFor([&] { fast(i); }));
        }
    const Ratio ratio = ratioOfMedians(plainTimes, fastTimes);
    state.counters["ratio"] = ratio.ratio;
    state.counters["low"] = ratio.low;
    state.counters["high"] = ratio.high;
    state.counters["plain_us"] = percentile(plainTimes, 50) * 1e6;
    state.counters["fast_us"] = percentile(fastTimes, 50) * 1e6;
}

/// The same for work of a second or so, of which a run has only a few: both sides follow each other closely, so each
/// pair gives a separate ratio, whatever the machine's clock does from pair to pair, and every other pair is turned
/// round. "ratio" is the median of the pairs' ratios.
template <typename Plain, typename Fast>
void compareInPairs(benchmark::State& state, const Plain& plain, const Fast& fast)
{
    std::vector<double> ratios, plainTimes, fastTimes;
    bool turned = false;
    for (auto _ : state) {
        double first = turned ? secondsFor(fast) : secondsFor(plain);
        double second = turned ? secondsFor(plain) : secondsFor(fast);
        if (turned)
            std::swap(first, second);
        turned = !turned;
        plainTimes.push_back(first);
        fastTimes.push_back(second);
        ratios.push_back(first / second);
    }
    const Ratio ratio = ratioOfMedians(ratios, std::vector<double>{1.0});
    state.counters["ratio"] = ratio.ratio;
    state.counters["low"] = ratio.low;
    state.counters["high"] = ratio.high;
    state.counters["plain_us"] = percentile(plainTimes, 50) * 1e6;
    state.counters["fast_us"] = percentile(fastTimes, 50) * 1e6;
}

} // namespace fell::bench
