// SPDX-License-Identifier: Apache-2.0
// Readers of a streamer never wait: while a worker holds its map they get nothing, and ask again.
#pragma once

#include <chrono>
#include <thread>

namespace fell::test {

/// What `ask` returns as soon as that is something; after ten seconds of nothing, that.
template <typename Ask> auto askedAgain(const Ask& ask)
{
    const auto end = std::chrono::steady_clock::now() + std::chrono::seconds(10);
    auto got = ask();
    while (!got && std::chrono::steady_clock::now() < end) {
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
        got = ask();
    }
    return got;
}

} // namespace fell::test
