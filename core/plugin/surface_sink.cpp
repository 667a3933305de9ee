// SPDX-License-Identifier: Apache-2.0
#include <fell/plugin/surface_sink.h>

#include <algorithm>
#include <cstring>

namespace fell::plugin {
namespace {

constexpr std::size_t kMaxVertices = 1U << 22U; // of a chunk: 64 MiB

std::string describe(Quad quad)
{
    const QuadFields q = unpackQuad(quad);
    return "x " + std::to_string(q.x) + ", y " + std::to_string(q.y) + ", z " + std::to_string(q.z) + ", width "
        + std::to_string(q.width) + ", height " + std::to_string(q.height) + ", side "
        + std::to_string(static_cast<int>(q.side)) + ", material " + std::to_string(q.material);
}

using Four [[gnu::vector_size(32)]] = std::uint64_t; // GCC and clang; passed between functions of this file only

/// Four quads; where there are fewer, the rest is the first again.
Four fourOf(std::span<const FellQuad> quads, std::size_t from)
{
    Four out = Four{} + quads[from];
    std::memcpy(&out, quads.data() + from, std::min<std::size_t>(4, quads.size() - from) * sizeof(FellQuad));
    return out;
}

bool isAnyBitSet(const Four& of)
{
    return (of[0] | of[1] | of[2] | of[3]) != 0;
}

/// Do all quads lie in the chunk and name one of the full solid cubes? All fields of four quads at once and no branch:
/// this is the cost of the interface. Cost  about 1 ns a quad.
struct Allowed {
    bool isInside = false, areSolidCubes = false;
};
Allowed allowedOf(std::span<const FellQuad> quads, int edge, Material solidCubes)
{
    // A byte for each axis of a side: how far width and height are shifted to the byte of the axis that they run along.
    // Sides 6 and 7 would have axis 3, which makes every quad too large.
    const Four alongWidth = Four{} + 0x00001008, alongHeight = Four{} + 0x00080010, noSide = Four{} + 0x80000000;
    constexpr std::uint64_t kSix = 63, kByte = 255, kHighest = 0x808080;
    // Added to a coordinate below 128, this sets its byte's highest bit where it is the edge or more.
    const std::uint64_t beyond = static_cast<std::uint64_t>(128 - edge) * 0x010101U;
    const Four last = Four{} + solidCubes;
    Four outside{}, other{};
    for (std::size_t i = 0; i < quads.size(); i += 4) {
        const Four q = fourOf(quads, i);
        const Four byteOfAxis = (q >> 31 & 3) * 8;
        const Four high = ((q & kSix) | (q & kSix << 6U) << 2 | (q & kSix << 12U) << 4)
            + ((q >> kWidthBit & kSix) << (alongWidth >> byteOfAxis & kByte))
            + ((q >> kHeightBit & kSix) << (alongHeight >> byteOfAxis & kByte));
        outside |= ((high + beyond) & kHighest) | (noSide >> byteOfAxis & 0x80) | q >> kInwardBit;
        const Four material = q >> kMaterialBit & (kMaxBlockKinds - 1);
        other |= (last - material) >> 63 | (material - 1) >> 63; // below 0 as a signed number
    }
    return {!isAnyBitSet(outside), !isAnyBitSet(other)};
}

} // namespace

SurfaceSink::SurfaceSink(int edge, const SideRules& sides, ChunkSurface& out)
    : FellSink{takeQuads, takeTriangles}
    , m_edge(edge)
    , m_sides(sides)
    , m_out(out)
{
}

int SurfaceSink::takeQuads(FellSink* sink, std::uint32_t opacityClass, const FellQuad* quads, std::size_t count)
{
    return static_cast<SurfaceSink*>(sink)->addQuads(opacityClass, {quads, count});
}

int SurfaceSink::takeTriangles(FellSink* sink, const FellVertex* vertices, std::size_t vertexCount,
    const std::uint32_t* indices, std::size_t indexCount)
{
    return static_cast<SurfaceSink*>(sink)->addTriangles({vertices, vertexCount}, {indices, indexCount});
}

int SurfaceSink::refuse(std::string what)
{
    if (m_refused.empty())
        m_refused = std::move(what);
    return 1;
}

int SurfaceSink::addQuads(std::uint32_t opacityClass, std::span<const FellQuad> from)
{
    if (!m_refused.empty())
        return 1;
    if (opacityClass >= kMatterCount)
        return refuse("emits quads of opacity class " + std::to_string(opacityClass) + ", 0 to 2 are allowed");
    const auto most = static_cast<std::size_t>(m_edge) * m_edge * m_edge * kSideCount; // a quad for every face
    if (from.size() > most - std::min(most, m_out.count()))
        return refuse("emits more quads than its voxels have faces");
    const auto isCube = [this](FellQuad quad) {
        const auto material = static_cast<Material>(quad >> kMaterialBit & (kMaxBlockKinds - 1));
        return material < m_sides.flags.size() && m_sides.isCube(material);
    };
    const Allowed allowed = allowedOf(from, m_edge, m_sides.solidCubes);
    if (!allowed.isInside || (!allowed.areSolidCubes && !std::all_of(from.begin(), from.end(), isCube)))
        return refuseOneOf(from);
    QuadList& list = m_out.of[opacityClass];
    const std::size_t before = list.size();
    list.resize(before + from.size());
    std::memcpy(list.data() + before, from.data(), from.size_bytes());
    return 0;
}

/// What is wrong with the first that is not allowed.
int SurfaceSink::refuseOneOf(std::span<const FellQuad> from)
{
    for (const FellQuad quad : from) {
        const QuadFields q = unpackQuad(quad);
        const bool isSide = static_cast<std::size_t>(q.side) < kSideCount;
        const int axis = isSide ? axisOf(q.side) : 0;
        std::array<int, 3> high{q.x, q.y, q.z};
        high[static_cast<std::size_t>((axis + 1) % 3)] += q.width - 1;
        high[static_cast<std::size_t>((axis + 2) % 3)] += q.height - 1;
        if (!isSide || *std::max_element(high.begin(), high.end()) >= m_edge || quad >> kInwardBit != 0)
            return refuse("emits a quad outside the chunk: " + describe(quad));
        if (q.material == kOpen || q.material >= m_sides.flags.size() || !m_sides.isCube(q.material))
            return refuse("emits a quad of a material that is no cube: " + describe(quad));
    }
    return refuse("emits a quad that is not allowed");
}

int SurfaceSink::addTriangles(std::span<const FellVertex> vertices, std::span<const std::uint32_t> indices)
{
    if (!m_refused.empty())
        return 1;
    TriangleList& list = m_out.triangles;
    if (indices.size() % 3 != 0)
        return refuse("emits " + std::to_string(indices.size()) + " indices, which are not three a triangle");
    if (vertices.size() > kMaxVertices - std::min(kMaxVertices, list.vertices.size()))
        return refuse("emits more than " + std::to_string(kMaxVertices) + " vertices");
    const int most = m_edge * static_cast<int>(kMeshUnit);
    const auto kinds = static_cast<Material>(m_sides.matter.size());
    for (std::size_t i = 0; i < vertices.size(); ++i) {
        const FellVertex& v = vertices[i];
        for (const std::int16_t place : v.position)
            if (place < 0 || place > most)
                return refuse("emits a vertex outside the chunk: vertex " + std::to_string(i) + " at "
                    + std::to_string(place) + "/256 voxel");
        if (v.material == kOpen || v.material >= kinds || m_sides.matter[v.material] != Matter::Solid)
            return refuse("emits a vertex of material " + std::to_string(v.material) + ", which is not opaque");
        if (v.occlusion > 3)
            return refuse("emits a vertex of occlusion " + std::to_string(v.occlusion) + ", 0 to 3 are allowed");
    }
    const auto before = static_cast<std::uint32_t>(list.vertices.size());
    for (const std::uint32_t index : indices)
        if (index >= vertices.size())
            return refuse(
                "emits index " + std::to_string(index) + " of " + std::to_string(vertices.size()) + " vertices");
    for (const FellVertex& v : vertices) {
        MeshVertex to;
        to.place = {v.position[0], v.position[1], v.position[2]};
        to.material = static_cast<std::uint16_t>(v.material & (kMaxBlockKinds - 1));
        to.normal = {v.normal[0], v.normal[1], v.normal[2]};
        constexpr float kLength = 127;
        to.part = static_cast<std::uint8_t>(partOf(static_cast<float>(v.normal[1]) / kLength) & 3);
        to.darkness = static_cast<std::uint8_t>(v.occlusion & 3);
        list.vertices.push_back(to);
    }
    for (const std::uint32_t index : indices)
        list.indices.push_back(before + index);
    return 0;
}

} // namespace fell::plugin
