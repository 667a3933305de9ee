// SPDX-License-Identifier: Apache-2.0
// What surfaces can show in place of their textures: each is a file of gpu/shaders and a line of the table.
#pragma once

#include <fell/gpu/renderer.h>

#include <span>

namespace fell::gpu {

struct PaintMode {
    Paint paint;
    const char* file; // included in place of paint_textures.glsl
    bool isTwoSided = false; // sides seen from behind are drawn too
};
std::span<const PaintMode> paintModes();
const PaintMode& paintMode(Paint paint);

} // namespace fell::gpu
