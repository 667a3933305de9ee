// SPDX-License-Identifier: Apache-2.0
// What a result was measured on.
#pragma once

#include <cstdint>
#include <string>

namespace fell {

struct Machine {
    std::string processor; // as the kernel names it
    int cores = 0;
    std::string compiler, level; // what Fell was built with
    std::string commit; // of the source tree, or "unknown"
    std::string date; // ISO 8601, UTC
};

Machine thisMachine();

/// Bytes of this process that are in memory now (Linux: resident set).
std::uint64_t processBytes();

} // namespace fell
