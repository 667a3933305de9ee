// SPDX-License-Identifier: Apache-2.0
// How much two pictures of one view differ.
#pragma once

#include <fell/namespaces.h>

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>

namespace fell::measure {

/// Mean over pixels and colour channels of how far apart they are, 0 to 255. Both are red, green, blue and alpha bytes
/// of one size; alpha is not looked at. 0 where there are no pixels.
double differenceOf(std::span<const std::uint8_t> a, std::span<const std::uint8_t> b);

/// How much brighter one picture is than the other over some pixels: the difference of the means of red, green and
/// blue, with its sign, -255 to 255.
struct Brighter {
    std::size_t pixels = 0;
    double by = 0;
};

/// The same by level of detail, and along the lines where levels meet: a visible ring has a different mean
/// even where single pixels differ either way.
struct BrightnessByLevel {
    static constexpr std::size_t kLevels = 9;
    std::array<Brighter, kLevels> levels;
    Brighter borders; // pixels of which another level is within kNear pixels along the row or the column
};
constexpr int kNear = 2; // pixels

/// `levels`: of what is seen at each pixel, top row first; kNoLevel for the sky. Cost O(pixels).
constexpr std::int8_t kNoLevel = -1;
BrightnessByLevel brightnessByLevel(
    std::span<const std::uint8_t> a, std::span<const std::uint8_t> b, std::span<const std::int8_t> levels, int width);

} // namespace fell::measure
