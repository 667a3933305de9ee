// SPDX-License-Identifier: GPL-3.0-or-later
// The arguments of a program that shows the window.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace fell::app {

struct Program;

struct Arguments {
    std::string world = "corrowdale", setup, theme, folder = "out"; // no setup, no theme: the program chooses
    std::vector<std::string> set;
    std::vector<std::string> methods; // shared libraries to load
    std::string shaders, writeShaders; // folders
    std::string checkMethod; // one to check in place of a window
    std::optional<std::uint64_t> seed;
};

/// Fills `arguments`. Where the program ends now, since it was asked for help or version or the arguments are wrong:
/// its exit code, and the text is printed.
std::optional<int> parse(int argc, char** argv, const Program& program, Arguments& arguments);

} // namespace fell::app
