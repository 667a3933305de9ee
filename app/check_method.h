// SPDX-License-Identifier: GPL-3.0-or-later
// fell-app --check-method FILE: what the window asks a separate process, since nothing of a library that was not
// checked may run in its own.
#pragma once

#include <string>

namespace fell::app {

/// Prints a row of fell-method-check, or {"problem": "..."}, as one line of JSON. The process must have one thread.
/// Returns the exit code: 0 it passed, 1 it did not, 2 it cannot be checked.
int checkMethodFile(const std::string& file);

} // namespace fell::app
