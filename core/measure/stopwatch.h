// SPDX-License-Identifier: Apache-2.0
// Timing one piece of work, for the trials.
#pragma once

#include <chrono>

namespace fell {

/// Wall nanoseconds that `work` takes.
template <typename Work> double nsOf(const Work& work)
{
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double, std::nano>(std::chrono::steady_clock::now() - start).count();
}

/// Does the compiler think that somebody reads this? Then it will not leave the work out.
template <typename T> void keep(const T& value)
{
    asm volatile("" : : "r"(&value) : "memory");
}

} // namespace fell
