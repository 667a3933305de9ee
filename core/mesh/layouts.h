// SPDX-License-Identifier: Apache-2.0
// From quads to the bytes that the GPU reads. Other layouts are added in the table of layouts.cpp.
#pragma once

#include <fell/mesh/light_bake.h>

#include <cstddef>
#include <span>
#include <string_view>
#include <vector>

namespace fell::mesh {

struct VertexLayout {
    const char* id;
    const char* title;
    const char* note;
    int bytesPerVertex; // for a record: of the whole quad
    int litBytesPerVertex; // the same with light
    int verticesPerQuad; // 6 plain; 4 with the shared index buffer; 1 for a record that the vertex shader expands
    /// Writes quads.size() * bytesPerQuad(lit) bytes to `out`. `lights` stand next to the quads; empty: not lit.
    void (*write)(std::span<const Quad> quads, std::span<const QuadLight> lights, std::byte* out);

    [[nodiscard]] constexpr std::size_t stride(bool lit) const // bytes from one vertex to the next
    {
        return static_cast<std::size_t>(lit ? litBytesPerVertex : bytesPerVertex);
    }
    [[nodiscard]] constexpr std::size_t bytesPerQuad(bool lit = false) const
    {
        return stride(lit) * static_cast<std::size_t>(verticesPerQuad);
    }
};

/// All layouts; another one is a line in the table and a branch in gpu/shaders/terrain.vert.glsl:
///   floats   32 bytes a vertex, six vertices a quad: position 3, normal 3, material 1, darkness 1, as 32-bit floats.
///            Lit: material + 4096 * light channels 0 to 2, and darkness + 4 * light channels 3 to 5: whole numbers
///            that a float holds.
///   corners  8 bytes a vertex, four vertices a quad and one index buffer for all chunks:
///            word 0, low bits first: x:7 y:7 z:7 side:3 darkness:2 light 20 to 23:4 unused:2;
///            word 1: material:12 light 0 to 19:20.
///   packed   8 bytes a quad: the record of mesh/quad.h, low word first. Lit 20: three words follow that hold the light
///            of the four corners, 24 bits each, without gaps.
/// The corners begin with the one from which the diagonal runs (flipDiagonal), then go round counter-clockwise.
std::span<const VertexLayout> vertexLayouts();
const VertexLayout* findLayout(std::string_view id);

/// The vertices of `quads` in `layout`.
std::vector<std::byte> encodeQuads(
    const VertexLayout& layout, std::span<const Quad> quads, std::span<const QuadLight> lights = {});

/// The indices of one quad's two triangles among its four corners.
constexpr std::array<unsigned, 6> kQuadIndices{0, 1, 2, 0, 2, 3};

} // namespace fell::mesh
