// SPDX-License-Identifier: Apache-2.0
// Heights from a PNG picture (W3C, Portable Network Graphics, 2003), row by row, so that its size does not matter.
#pragma once

#include <fell/input/problem.h>

#include <filesystem>
#include <functional>
#include <optional>

namespace fell::exchange {

struct HeightPngInfo {
    int width = 0, height = 0; // pixels
    int bits = 0; // a sample: 8 or 16
};

/// Errors: no PNG, in colour, interlaced, larger than kLongestHeightMap either way.
Outcome<HeightPngInfo> heightPngInfo(const std::filesystem::path& file);

/// Writes the picture as a height map's file. `goOn` hears the share that is done and may stop it: then, as on every
/// error, there is no file. Cost: 10 MiB at most for the widest; about 40 ns a pixel.
std::optional<Problem> importHeightPng(const std::filesystem::path& file, const std::filesystem::path& out,
    const std::function<bool(double share)>& progress = {});

} // namespace fell::exchange
