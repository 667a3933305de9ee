// SPDX-License-Identifier: Apache-2.0
// Pixels as PNG.
#pragma once

#include <fell/input/problem.h>

#include <cstdint>
#include <span>
#include <string>

namespace fell::gpu {

/// Red, green, blue, alpha bytes, top row first, as a PNG file's bytes. Asserts pixels.size() == width * height * 4.
std::string toPng(std::span<const std::uint8_t> pixels, int width, int height);

} // namespace fell::gpu
