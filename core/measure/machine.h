// SPDX-License-Identifier: Apache-2.0
// What a result was measured on.
#pragma once

#include <fell/namespaces.h>

#include <cstdint>
#include <string>

namespace fell::measure {

struct Machine {
    std::string processor; // as the kernel names it
    int cores = 0;
    std::string compiler, level; // what Fell was built with
    std::string commit; // of the source tree, or "unknown"
    std::string date; // ISO 8601, UTC
};

Machine thisMachine();

/// How unevenly the machine runs just now: the same work of about half a millisecond 60 times, (p95 - p5) / p50. A
/// quiet machine has 0.01 to 0.03. Takes 30 ms.
double machineNoise();

/// Bytes of this process that are in memory now (Linux: resident set).
std::uint64_t processBytes();

/// The commit that was built, 12 digits, with "+changes" where its files were changed; "unknown" outside git.
std::string buildCommit();

/// One line for --version: the program, its version, commit, compiler and instruction set.
std::string versionLine(const std::string& program);

} // namespace fell::measure
