// SPDX-License-Identifier: Apache-2.0
// The pictures of block sides, as layers of one array. No OpenGL here.
#pragma once

#include "blocks/block_set.h"

#include <array>
#include <climits>
#include <vector>

namespace fell {

constexpr int kTextureEdge = 32; // pixels; smaller pictures of 16 are doubled

struct TextureLayers {
    std::vector<std::uint8_t> pixels; // red, green, blue, alpha; kTextureEdge^2 pixels a layer, top row first
    int count = 1; // layer 0 is white
    std::vector<std::array<int, 3>> layerOf; // by material: of its top, sides and bottom
    std::vector<Problem> warnings; // files that could not be read: the block's even colour stands in
};

/// Reads each file of `blocks` once. A side without a texture, or with one that cannot be read, becomes a layer of its
/// colour. Errors per file: missing, no PNG, neither 16 x 16 nor 32 x 32.
/// `most` layers at most: what comes later shares the layer whose colour is nearest, and a warning says so.
TextureLayers loadTextures(const BlockSet& blocks, int most = INT_MAX);

} // namespace fell
