// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/export_mesh.h>

#include <algorithm>
#include <bit>
#include <cstring>

static_assert(
    std::endian::native == std::endian::little, "binary PLY and glTF are written as this machine holds numbers");

namespace fell::exchange {
namespace {

template <typename T> void append(std::string& out, const T& value)
{
    char bytes[sizeof value];
    std::memcpy(bytes, &value, sizeof value);
    out.append(bytes, sizeof bytes);
}

} // namespace

ExportFile toPly(const BoxSurface& surface, const Recipe& recipe)
{
    const std::vector<ExportPart> parts = exportParts(surface, recipe.blocks);
    ExportFile file;
    file.count = countOf(parts);
    std::string& out = file.bytes;
    out = "ply\nformat binary_little_endian 1.0\ncomment one box of " + recipe.name
        + ", in voxels from its lower corner, y up\n" + "element vertex " + std::to_string(file.count.vertices)
        + "\nproperty float x\nproperty float y\nproperty float z\nproperty float nx\nproperty float ny\nproperty "
          "float nz\n"
          "property uchar red\nproperty uchar green\nproperty uchar blue\nelement face "
        + std::to_string(file.count.triangles) + "\nproperty list uchar int vertex_indices\nend_header\n";
    for (const ExportPart& part : parts)
        for (const ExportVertex& vertex : part.vertices) {
            for (const glm::vec3& of : {vertex.place, vertex.normal})
                for (const float value : {of.x, of.y, of.z})
                    append(out, value);
            append(out, part.colour.r);
            append(out, part.colour.g);
            append(out, part.colour.b);
        }
    std::uint32_t first = 0; // vertex of the part
    for (const ExportPart& part : parts) {
        for (std::size_t i = 0; i < part.indices.size(); ++i) {
            if (i % 3 == 0)
                append(out, std::uint8_t{3});
            append(out, static_cast<std::int32_t>(first + part.indices[i]));
        }
        first += static_cast<std::uint32_t>(part.vertices.size());
    }
    file.count.bytes = out.size();
    if (std::any_of(parts.begin(), parts.end(), [](const ExportPart& part) { return !part.texture.empty(); }))
        file.leftOut.emplace_back("PLY carries no textures: vertices have the blocks' colours");
    if (std::any_of(parts.begin(), parts.end(), [](const ExportPart& part) { return part.opacity < 1; }))
        file.leftOut.emplace_back("PLY carries no opacity: water and glass are opaque in it");
    return file;
}

} // namespace fell::exchange
