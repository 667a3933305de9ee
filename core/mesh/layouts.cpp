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

/// The corners that a quad goes round from its first one: which of its two steps each adds (see cornersOf).
struct Round {
    int secondU, secondV; // the fourth corner adds what the second does not
};

Round roundOf(Side side)
{
    return signOf(side) > 0 ? Round{1, 0} : Round{0, 1};
}

void writeFloats(std::span<const Quad> quads, std::byte* out)
{
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
        const Round round = roundOf(q.side);
        FloatVertex vertex{{static_cast<float>(q.x), static_cast<float>(q.y), static_cast<float>(q.z)}, {},
            static_cast<float>(q.material), 1.0f};
        vertex.normal[a] = static_cast<float>(signOf(q.side));
        vertex.position[a] += signOf(q.side) > 0 ? 1.0f : 0.0f;
        std::array<FloatVertex, 4> corners{vertex, vertex, vertex, vertex};
        const auto width = static_cast<float>(q.width), height = static_cast<float>(q.height);
        corners[1].position[u] += static_cast<float>(round.secondU) * width;
        corners[1].position[v] += static_cast<float>(round.secondV) * height;
        corners[2].position[u] += width;
        corners[2].position[v] += height;
        corners[3].position[u] += static_cast<float>(round.secondV) * width;
        corners[3].position[v] += static_cast<float>(round.secondU) * height;
        for (const unsigned corner : kQuadIndices) {
            std::memcpy(out, &corners[corner], sizeof(FloatVertex));
            out += sizeof(FloatVertex);
        }
    }
}

/// One step along x, y and z in the first word of a packed vertex.
constexpr std::array<std::uint32_t, 3> kPackedStep{1, 1u << 7, 1u << 14};

void writePacked(std::span<const Quad> quads, std::byte* out)
{
    for (const Quad quad : quads) {
        const QuadFields q = unpackQuad(quad);
        const auto a = static_cast<std::size_t>(axisOf(q.side));
        const bool positive = signOf(q.side) > 0;
        const auto bits = [](int value) { return static_cast<std::uint32_t>(value); };
        // Corners differ by whole steps, so they are added in the packed word itself; see cornersOf for their order.
        const std::uint32_t u = kPackedStep[(a + 1) % 3] * bits(q.width), v = kPackedStep[(a + 2) % 3] * bits(q.height);
        const std::uint32_t base
            = (bits(q.x) | bits(q.y) << 7 | bits(q.z) << 14 | static_cast<std::uint32_t>(q.side) << 21)
            + (positive ? kPackedStep[a] : 0);
        const std::uint32_t m = q.material;
        const std::uint32_t words[8]{
            base, m, base + (positive ? u : v), m, base + u + v, m, base + (positive ? v : u), m};
        static_assert(sizeof words == 4 * sizeof(PackedVertex));
        std::memcpy(out, words, sizeof words);
        out += sizeof words;
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
