// SPDX-License-Identifier: Apache-2.0
// The passes of a frame that can be left out to see what each costs.
#pragma once

#include <array>

namespace fell {

/// A set of them is the sum of their bits.
struct DrawPass {
    unsigned bit;
    const char* title; // solid: cubes' sides; shapes: shaped blocks; clear: see-through and liquid sides
};
inline constexpr unsigned kPassSky = 1, kPassSolid = 2, kPassShapes = 4, kPassClear = 8, kAllPasses = 15;
/// In the order in which they are drawn.
inline constexpr std::array<DrawPass, 4> kDrawPasses{
    {{kPassSky, "sky"}, {kPassSolid, "solid"}, {kPassShapes, "shapes"}, {kPassClear, "clear"}}};

} // namespace fell
