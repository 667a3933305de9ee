// SPDX-License-Identifier: Apache-2.0
#include <fell/mesh/layouts.h>

#include <algorithm>
#include <cstring>

namespace fell::mesh {
namespace {

struct FloatVertex {
    float position[3], normal[3], material, darkness;
};
static_assert(sizeof(FloatVertex) == 32);

struct CornerVertex {
    std::uint32_t place, material;
};
static_assert(sizeof(CornerVertex) == 8);

/// The four corners as they are written: numbers as in cornerDarkness, counter-clockwise, the diagonal's first.
std::array<int, 4> cornerOrder(Side side, bool second)
{
    const bool positive = signOf(side) > 0;
    if (positive)
        return second ? std::array<int, 4>{1, 2, 3, 0} : std::array<int, 4>{0, 1, 2, 3};
    return second ? std::array<int, 4>{3, 2, 1, 0} : std::array<int, 4>{0, 3, 2, 1};
}

/// Does the diagonal begin at the second corner?
bool isSecond(std::uint8_t ambientOcclusion, const QuadLight* light)
{
    return light ? flipDiagonal(ambientOcclusion, *light) : flipDiagonal(ambientOcclusion);
}

/// What a corner's two bits of shade hold.
int shadeBits(const QuadFields& q, int corner)
{
    return q.hasRing ? corner : cornerDarkness(q.ambientOcclusion, corner);
}

PackedLight lightAt(const QuadLight* light, int corner)
{
    return light ? light->corners[static_cast<std::size_t>(corner)] : 0;
}

/// Calls write(fields, light or null) for each quad.
template <typename Write>
void eachQuad(std::span<const Quad> quads, std::span<const QuadLight> lights, const Write& write)
{
    for (std::size_t i = 0; i < quads.size(); ++i)
        write(unpackQuad(quads[i]), lights.empty() ? nullptr : &lights[i]);
}

constexpr bool isAtHighU(int corner)
{
    return corner == 1 || corner == 2;
}
constexpr bool isAtHighV(int corner)
{
    return corner >= 2;
}

void writeFloats(std::span<const Quad> quads, std::span<const QuadLight> lights, std::byte* out)
{
    eachQuad(quads, lights, [&out](const QuadFields& q, const QuadLight* light) {
        const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
        FloatVertex vertex{{static_cast<float>(q.x), static_cast<float>(q.y), static_cast<float>(q.z)}, {},
            static_cast<float>(q.material), 0};
        vertex.normal[a] = static_cast<float>(signOf(q.side));
        vertex.position[a] = static_cast<float>(planeOf(q));
        std::array<FloatVertex, 4> corners{vertex, vertex, vertex, vertex};
        const std::array<int, 4> round = cornerOrder(q.side, isSecond(q.ambientOcclusion, light));
        for (std::size_t i = 0; i < 4; ++i) {
            const PackedLight at = lightAt(light, round[i]);
            corners[i].position[u] += isAtHighU(round[i]) ? static_cast<float>(q.width) : 0.0f;
            corners[i].position[v] += isAtHighV(round[i]) ? static_cast<float>(q.height) : 0.0f;
            corners[i].material += static_cast<float>((at & 0xFFF) << 12);
            corners[i].darkness = static_cast<float>(static_cast<unsigned>(shadeBits(q, round[i])) | at >> 12 << 2);
        }
        for (const unsigned corner : kQuadIndices) {
            std::memcpy(out, &corners[corner], sizeof(FloatVertex));
            out += sizeof(FloatVertex);
        }
    });
}

/// One step along x, y and z in the first word of a corner.
constexpr std::array<std::uint32_t, 3> kCornerStep{1, 1u << 7, 1u << 14};

/// Quads of which no corner differs from another, as most are, need no thought about the diagonal.
bool isPlain(const QuadFields& q, const QuadLight* light)
{
    if (q.ambientOcclusion != 0)
        return false;
    if (!light)
        return true;
    const auto& c = light->corners;
    return ((c[0] ^ c[1]) | (c[1] ^ c[2]) | (c[2] ^ c[3])) == 0;
}

void writeCorners(std::span<const Quad> quads, std::span<const QuadLight> lights, std::byte* out)
{
    eachQuad(quads, lights, [&out](const QuadFields& q, const QuadLight* light) {
        const auto a = static_cast<std::size_t>(axisOf(q.side));
        const bool positive = signOf(q.side) > 0;
        const auto bits = [](int value) { return static_cast<std::uint32_t>(value); };
        // Corners differ by whole steps, so they are added in the packed word itself.
        const std::uint32_t u = kCornerStep[(a + 1) % 3] * bits(q.width), v = kCornerStep[(a + 2) % 3] * bits(q.height);
        const std::uint32_t base
            = (bits(q.x) | bits(q.y) << 7 | bits(q.z) << 14 | static_cast<std::uint32_t>(q.side) << 21)
            + (positive != q.facesInward ? kCornerStep[a] : 0);
        CornerVertex corners[4];
        if (isPlain(q, light)) {
            const PackedLight at = lightAt(light, 0);
            const std::uint32_t first = base | at >> 20 << 26, number = q.hasRing ? 1u << 24 : 0,
                                second = (first + u) | number, fourth = (first + v) | 3 * number,
                                look = q.material | at << 12;
            corners[0] = {first, look};
            corners[1] = {positive ? second : fourth, look};
            corners[2] = {(first + u + v) | 2 * number, look};
            corners[3] = {positive ? fourth : second, look};
        } else {
            const std::array<std::uint32_t, 4> places{base, base + u, base + u + v, base + v};
            const std::array<int, 4> round = cornerOrder(q.side, isSecond(q.ambientOcclusion, light));
            for (std::size_t i = 0; i < 4; ++i) {
                const PackedLight at = lightAt(light, round[i]);
                corners[i]
                    = {places[static_cast<std::size_t>(round[i])] | bits(shadeBits(q, round[i])) << 24 | at >> 20 << 26,
                        q.material | at << 12};
            }
        }
        std::memcpy(out, corners, sizeof corners);
        out += sizeof corners;
    });
}

void writeRecords(std::span<const Quad> quads, std::span<const QuadLight> lights, std::byte* out)
{
    static_assert(sizeof(Quad) == 8);
    for (std::size_t i = 0; i < lights.size(); ++i) {
        const auto& [a, b, c, d] = lights[i].corners;
        const std::uint32_t words[5]{static_cast<std::uint32_t>(quads[i]), static_cast<std::uint32_t>(quads[i] >> 32),
            a | b << 24, b >> 8 | c << 16, c >> 16 | d << 8};
        std::memcpy(out, words, sizeof words);
        out += sizeof words;
    }
    if (lights.empty() && !quads.empty())
        std::memcpy(out, quads.data(), quads.size_bytes());
}

constexpr std::array<VertexLayout, 3> kLayouts{{
    {"floats", "32-byte floats", "Six vertices of eight floats a quad, as beginners do it: 192 bytes.", 32, 32, 6,
        writeFloats},
    {"corners", "8-byte corners", "Four corners of whole numbers and one index buffer for all: 32 bytes a quad.", 8, 8,
        4, writeCorners},
    {"packed", "one 8-byte record", "One record a quad, expanded in the vertex shader: 8 bytes a quad, 20 with light.",
        8, 20, 1, writeRecords},
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

std::vector<std::byte> encodeQuads(
    const VertexLayout& layout, std::span<const Quad> quads, std::span<const QuadLight> lights)
{
    std::vector<std::byte> bytes(quads.size() * layout.bytesPerQuad(!lights.empty()));
    layout.write(quads, lights, bytes.data());
    return bytes;
}

} // namespace fell::mesh
