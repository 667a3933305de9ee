// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <fell/namespaces.h>

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

namespace fell::grid {

/// Calls work(0) to work(count - 1), each once, on as many threads as there are processors, this one among them, and
/// returns when all are done. Throws what one of them has thrown; the others have ended by then.
/// Cost: some 30 us for the threads, so it is for milliseconds of work.
template <typename Work> void onAllProcessors(std::size_t count, const Work& work)
{
    std::atomic<std::size_t> next{0};
    std::exception_ptr failure;
    std::mutex mutex;
    const auto some = [&] {
        try {
            for (std::size_t i = next++; i < count; i = next++)
                work(i);
        } catch (...) {
            const std::scoped_lock lock(mutex);
            failure = std::current_exception();
        }
    };
    {
        std::vector<std::jthread> helpers;
        for (std::size_t i = 1; i < std::min<std::size_t>(count, std::thread::hardware_concurrency()); ++i)
            helpers.emplace_back(some);
        some();
    }
    if (failure)
        std::rethrow_exception(failure);
}

} // namespace fell::grid
