// SPDX-License-Identifier: Apache-2.0
// The surface of a box as vertices that triangles share: what all mesh formats are written from.
#pragma once

#include <fell/exchange/surface.h>

namespace fell::exchange {

struct ExportVertex {
    glm::vec3 place{}; // voxels from the box's lower corner
    glm::vec3 normal{0, 1, 0};
    std::array<float, 2> uv{}; // a texture is one voxel long and repeats; v points down, as in glTF
    bool operator==(const ExportVertex&) const = default;
};

/// What has one look: a block's top, sides or bottom, or a colour that a model brought with it.
struct ExportPart {
    Material material = kOpen;
    int part = 1; // 0 top, 1 side, 2 bottom, 3 its own colour
    Rgb colour;
    std::string name; // "turf top"
    std::string texture; // a file in the block set's folder; empty for an even colour
    float opacity = 1;
    std::vector<ExportVertex> vertices; // each once
    std::vector<std::uint32_t> indices; // three make a triangle
};

/// Ordered by material, part and colour.
std::vector<ExportPart> exportParts(const BoxSurface& surface, const BlockSet& blocks);
ExportCount countOf(const std::vector<ExportPart>& parts);

/// Where a texture lies on a side, from outside: u to the right, v down.
std::array<float, 2> textureAt(glm::vec3 place, Side side);

} // namespace fell::exchange
