// SPDX-License-Identifier: GPL-3.0-or-later
// How a program that shows the window begins: its arguments, the world and the setup, the theme.
#pragma once

#include <functional>
#include <string>

namespace fell::app {

class MainWindow;

struct Program {
    std::string name, about;
    /// Not empty: the program writes into a folder, which this option names; it is made if it is not there.
    std::string folderOption, folderNote;
    bool remembers = false; // takes the window's preferences and keeps them
    /// Shows the window that has been made, until the program ends; returns the exit code.
    std::function<int(MainWindow& window, const std::string& folder)> run;
};

/// Parses the arguments, opens the window and runs the program. Errors are one sentence on standard error.
/// Returns the exit code: 0 done, 1 as `run` says, 2 wrong arguments or input, 3 the machine lacks a display, 4 the
/// folder cannot be written.
int start(int argc, char** argv, const Program& program);

} // namespace fell::app
