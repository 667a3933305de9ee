// SPDX-License-Identifier: Apache-2.0
#include "exchange/surface.h"
#include "mesh/layouts.h"

#include <bit>
#include <cstring>

static_assert(
    std::endian::native == std::endian::little, "binary PLY and glTF are written as this machine holds numbers");

namespace fell {
namespace {

template <typename T> void append(std::string& out, const T& value)
{
    char bytes[sizeof value];
    std::memcpy(bytes, &value, sizeof value);
    out.append(bytes, sizeof bytes);
}

} // namespace

ExportFile toPly(const std::vector<SurfaceSide>& surface, const Recipe& recipe)
{
    ExportFile file;
    file.count = {0, surface.size() * 4, surface.size() * 2};
    std::string& out = file.bytes;
    out = "ply\nformat binary_little_endian 1.0\ncomment one box of " + recipe.name
        + ", in voxels from its lower corner, y up\n" + "element vertex " + std::to_string(file.count.vertices)
        + "\nproperty float x\nproperty float y\nproperty float z\nproperty float nx\nproperty float ny\nproperty "
          "float nz\n"
          "property uchar red\nproperty uchar green\nproperty uchar blue\nelement face "
        + std::to_string(file.count.triangles) + "\nproperty list uchar int vertex_indices\nend_header\n";
    for (const SurfaceSide& side : surface) {
        const Rgb colour = lookOf(recipe.blocks.kinds[side.material], side.side);
        const ChunkPos normal = towards(side.side);
        for (const auto& corner : cornersOf(side)) {
            for (const int value : corner)
                append(out, static_cast<float>(value));
            for (const std::int64_t value : {normal.x, normal.y, normal.z})
                append(out, static_cast<float>(value));
            append(out, colour.r);
            append(out, colour.g);
            append(out, colour.b);
        }
    }
    for (std::size_t quad = 0; quad < surface.size(); ++quad)
        for (std::size_t i = 0; i < 6; ++i) {
            if (i % 3 == 0)
                append(out, std::uint8_t{3});
            append(out, static_cast<std::int32_t>(quad * 4 + kQuadIndices[i]));
        }
    file.count.bytes = out.size();
    return file;
}

} // namespace fell
