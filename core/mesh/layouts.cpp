// SPDX-License-Identifier: Apache-2.0
#include "mesh/layouts.h"

#include <algorithm>
#include <cstring>

namespace fell {
namespace {

struct FloatVertex {
    float position[3], normal[3], material, shade;
};
static_assert(sizeof(FloatVertex) == 32);

struct PackedVertex {
    std::uint32_t place, material;
};
static_assert(sizeof(PackedVertex) == 8);

void writeFloats(std::span<const Quad> quads, std::byte* out)
{
    for (const Quad quad : quads) {
        const QuadFields fields = unpackQuad(quad);
        const auto corners = cornersOf(fields);
        FloatVertex vertex{{}, {}, static_cast<float>(fields.material), 1.0f};
        vertex.normal[axisOf(fields.side)] = static_cast<float>(signOf(fields.side));
        for (const unsigned corner : kQuadIndices) {
            for (std::size_t axis = 0; axis < 3; ++axis)
                vertex.position[axis] = static_cast<float>(corners[corner][axis]);
            std::memcpy(out, &vertex, sizeof vertex);
            out += sizeof vertex;
        }
    }
}

void writePacked(std::span<const Quad> quads, std::byte* out)
{
    for (const Quad quad : quads) {
        const QuadFields fields = unpackQuad(quad);
        for (const auto& corner : cornersOf(fields)) {
            const auto bits = [](int value) { return static_cast<std::uint32_t>(value); };
            const PackedVertex vertex{bits(corner[0]) | bits(corner[1]) << 7 | bits(corner[2]) << 14
                    | static_cast<std::uint32_t>(fields.side) << 21,
                fields.material};
            std::memcpy(out, &vertex, sizeof vertex);
            out += sizeof vertex;
        }
    }
}

constexpr std::array<VertexLayout, 2> kLayouts{{
    {"floats", "32-byte floats", "Six vertices of eight floats a quad, as beginners do it: 192 bytes.", 32, 6,
        writeFloats},
    {"packed", "packed, 8 bytes", "Four corners of whole numbers and one index buffer for all: 32 bytes a quad.", 8, 4,
        writePacked},
}};

} // namespace

std::span<const VertexLayout> vertexLayouts()
{
    return kLayouts;
}

const VertexLayout* findLayout(std::string_view id)
{
    const auto found
        = std::find_if(kLayouts.begin(), kLayouts.end(), [id](const VertexLayout& l) { return l.id == id; });
    return found == kLayouts.end() ? nullptr : &*found;
}

std::vector<std::byte> layOut(const VertexLayout& layout, std::span<const Quad> quads)
{
    std::vector<std::byte> bytes(quads.size() * layout.bytesPerQuad());
    layout.write(quads, bytes.data());
    return bytes;
}

} // namespace fell
