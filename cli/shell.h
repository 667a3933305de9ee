// SPDX-License-Identifier: Apache-2.0
// A command line of the user's, run by the shell.
#pragma once

#include <fell/input/problem.h>

#include <stop_token>
#include <string>

namespace fell::cli {

struct ShellResult {
    int code = 0; // its exit code; 128 + signal where a signal ended it, as shells have it
    std::string out, err;
    bool stopped = false;
};

constexpr std::size_t kMaxShellOutput = std::size_t{64} << 20U; // bytes of standard output that are kept

/// Runs `command` with /bin/sh in a process group, waits, and gives what it wrote. When it is asked to stop, the group
/// is ended. Errors  the shell cannot be started; more than kMaxShellOutput is written.
Outcome<ShellResult> runShell(const std::string& command, const std::stop_token& stop);

} // namespace fell::cli
