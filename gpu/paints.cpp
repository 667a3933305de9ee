// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/paints.h>

#include <algorithm>
#include <array>

namespace fell::gpu {

std::span<const PaintMode> paintModes()
{
    static constexpr std::array<PaintMode, 8> kModes{{
        {Paint::Textures, "paint_textures.glsl"},
        {Paint::Normals, "paint_normals.glsl"},
        {Paint::QuadSizes, "paint_sizes.glsl"},
        {Paint::Levels, "paint_levels.glsl", true}, // what a crack shows
        {Paint::Contours, "paint_contours.glsl"},
        {Paint::Light, "paint_light.glsl"},
        {Paint::Numbers, "paint_numbers.glsl"},
        {Paint::ClearNumbers, "paint_clear_numbers.glsl"},
    }};
    return kModes;
}

const PaintMode& paintMode(Paint paint)
{
    const auto all = paintModes();
    return *std::find_if(all.begin(), all.end(), [paint](const PaintMode& mode) { return mode.paint == paint; });
}

} // namespace fell::gpu
