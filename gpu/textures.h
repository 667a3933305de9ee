// SPDX-License-Identifier: Apache-2.0
// The pictures of block sides, as layers of one array. No OpenGL here.
#pragma once

#include <fell/blocks/block_set.h>

#include <array>
#include <climits>
#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace fell::gpu {

constexpr int kTextureEdge = 32; // pixels; smaller pictures of 16 are doubled

struct TextureLayers {
    std::vector<std::uint8_t> pixels; // red, green, blue, alpha; kTextureEdge^2 pixels a layer, top row first
    int count = 1; // layer 0 is white
    std::vector<std::array<int, 3>> layerOf; // by material: of its top, sides and bottom
    std::vector<Problem> warnings; // files that could not be read: the block's even colour replaces them
};

/// Pictures that were read before, by file. One whose size or time of change is another is read again.
struct ReadPictures {
    struct Picture {
        std::filesystem::file_time_type written;
        std::uintmax_t bytes = 0;
        std::vector<std::uint8_t> layer; // empty: see problem
        Problem problem;
    };
    std::map<std::string, Picture> pictures;
    std::uint64_t reads = 0; // of files, since the beginning
};

/// Reads each file of `blocks` once, and those of `known` not at all. A side without a texture, or with one that cannot
/// be read, becomes a layer of its colour. Errors per file: missing, no PNG, neither 16 x 16 nor 32 x 32. `most` layers
/// at most: what comes later shares the layer whose colour is nearest, and a warning says so.
TextureLayers loadTextures(const BlockSet& blocks, int max = INT_MAX, ReadPictures* known = nullptr);

} // namespace fell::gpu
