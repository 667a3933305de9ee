// SPDX-License-Identifier: Apache-2.0
// Timing one piece of work, for the trials.
#pragma once

#include <fell/namespaces.h>

#include <chrono>

namespace fell::measure {

/// Wall nanoseconds that `work` takes.
template <typename Work> double nsOf(const Work& work)
{
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double, std::nano>(std::chrono::steady_clock::now() - start).count();
}

/// Wall seconds since `start`.
inline double secondsSince(std::chrono::steady_clock::time_point start)
{
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// Makes `value` observable, so that the compiler cannot remove the work that produced it.
template <typename T> void doNotOptimize(const T& value)
{
    asm volatile("" : : "r"(&value) : "memory");
}

} // namespace fell::measure
