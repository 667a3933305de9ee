// SPDX-License-Identifier: Apache-2.0
// A lock that the window's and the render thread try, and how long they hold it.
#pragma once

#include <fell/namespaces.h>

#include <atomic>
#include <chrono>
#include <cstdint>
#include <mutex>

namespace fell::stream {

/// A class because it guards a mutex: it is given back when this is gone. Never waits: false where another
/// thread has it. Units: nanoseconds of the steady clock.
class TimedLock {
public:
    /// `longestNs` becomes the longest time that any of its locks was held.
    TimedLock(std::mutex& mutex, std::atomic<std::uint64_t>& longestNs)
        : m_lock(mutex, std::try_to_lock)
        , m_longestNs(longestNs)
        , m_start(std::chrono::steady_clock::now())
    {
    }
    ~TimedLock()
    {
        if (!m_lock)
            return;
        m_lock.unlock();
        const auto held = std::chrono::steady_clock::now() - m_start;
        const auto ns = static_cast<std::uint64_t>(std::chrono::duration_cast<std::chrono::nanoseconds>(held).count());
        std::uint64_t longest = m_longestNs;
        while (ns > longest && !m_longestNs.compare_exchange_weak(longest, ns)) { }
    }
    TimedLock(const TimedLock&) = delete;
    TimedLock& operator=(const TimedLock&) = delete;
    explicit operator bool() const { return m_lock.owns_lock(); }

private:
    std::unique_lock<std::mutex> m_lock;
    std::atomic<std::uint64_t>& m_longestNs;
    std::chrono::steady_clock::time_point m_start;
};

} // namespace fell::stream
