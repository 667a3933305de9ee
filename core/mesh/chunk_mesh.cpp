// SPDX-License-Identifier: Apache-2.0
#include <fell/mesh/chunk_mesh.h>

#include <fell/mesh/surfaces.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <optional>

namespace fell::mesh {
namespace {

/// Where in the voxel that a quad record begins lies, as one number to sort by.
std::uint64_t voxelOf(Quad quad)
{
    return quad & 0x3FFFF;
}

/// In voxel 0, 0, 0.
MeshVertex vertexOf(const ShapeTriangle& triangle, std::size_t corner, Material material)
{
    MeshVertex vertex;
    vertex.material = material & 0xFFF; // below kMaxBlockKinds
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const auto i = static_cast<int>(axis);
        const float place = triangle.corners[corner][i] * kMeshUnit;
        // Halves go up, below 0 too: so a shape is the same in every voxel, and may be moved as whole numbers.
        vertex.place[axis] = static_cast<std::int16_t>(std::floor(place + 0.5F));
        vertex.normal[axis] = static_cast<std::int8_t>(std::lround(triangle.normal[i] * 127));
    }
    vertex.part = triangle.colour ? 3 : partOf(triangle.normal.y);
    if (triangle.colour)
        vertex.colour = static_cast<std::uint16_t>(
            triangle.colour->r >> 3 << 11 | triangle.colour->g >> 2 << 5 | triangle.colour->b >> 3);
    return vertex;
}

Side sideOf(Quad quad)
{
    return static_cast<Side>(quad >> 30 & 7);
}

/// Brings the quads of each direction together, so that those turned away can be left out of a draw. Meshers that work
/// direction by direction have them so.
void sortBySide(QuadList& quads)
{
    const auto before = [](Quad a, Quad b) { return sideOf(a) < sideOf(b); };
    if (!std::is_sorted(quads.begin(), quads.end(), before))
        std::stable_sort(quads.begin(), quads.end(), before);
}

/// Quads over which light runs come last, so that the others can be drawn without interpolating it. Counts both by
/// direction; each keeps its order.
SurfaceView gradedLast(const SurfaceView& from, Surface& to, ChunkMesh& mesh)
{
    const auto isGraded = [&from](std::size_t i) {
        const auto& at = from.lights[i].corners;
        return (at[0] & kInCells) != 0 || at[0] != at[1] || at[1] != at[2] || at[2] != at[3];
    };
    std::size_t gradedCount = 0;
    for (std::size_t i = 0; i < from.quads.size(); ++i) {
        const bool varyingLight = !from.lights.empty() && isGraded(i);
        ++(varyingLight ? mesh.varyingLight : mesh.sides)[static_cast<std::size_t>(sideOf(from.quads[i]))];
        gradedCount += varyingLight;
    }
    if (gradedCount == 0)
        return from;
    to.lit.quads.resize(from.quads.size());
    to.lit.lights.resize(from.quads.size());
    to.rims.resize(from.rims.size());
    std::array<std::size_t, 2> next{0, from.quads.size() - gradedCount};
    for (std::size_t i = 0; i < from.quads.size(); ++i) {
        const std::size_t at = next[isGraded(i)]++;
        to.lit.quads[at] = from.quads[i];
        to.lit.lights[at] = from.lights[i];
        for (PackedLight& corner : to.lit.lights[at].corners)
            corner &= ~kInCells; // where it lies says so now
        if (!from.rims.empty())
            to.rims[at] = from.rims[i];
    }
    return to.view();
}

constexpr std::array<ModelMode, 2> kModelModes{{
    {"baked", "baked into the mesh", "Shaped blocks are part of their chunk's mesh, without extra draw calls."},
    {"objects", "object per block", "One draw call per shaped block. Shows the cost of draw calls."},
}};

} // namespace

std::span<const ModelMode> modelModes()
{
    return kModelModes;
}

unsigned coveredSides(
    const PaddedVoxels& voxels, const SideRules& rules, const std::array<int, 3>& at, Material material)
{
    const BlockShape& shape = *rules.shapes[material];
    unsigned covered = 0;
    for (const Side side : kSides) {
        const auto s = static_cast<std::size_t>(side);
        const ChunkPos to = stepOf(side);
        const Material there
            = voxels.at(at[0] + static_cast<int>(to.x), at[1] + static_cast<int>(to.y), at[2] + static_cast<int>(to.z));
        // A foot too small to count as covering anything still lies on the side: whatever covers all hides it.
        const bool small = shape.covers[s] == 0 && rules.matter[there] == Matter::Solid
            && rules.covers[there][static_cast<std::size_t>(opposite(side))] != kCoversAll;
        covered |= static_cast<unsigned>(!small && !isSideSeen(rules, material, there, side)) << s;
    }
    return covered;
}

void bakeShapes(const PaddedVoxels& voxels, const SideRules& rules, TriangleList& out, const PaddedLight* light)
{
    // The kinds of this chunk with the sides that are covered, each in voxel 0, 0, 0 and dark: a row of lantern posts
    // is one post, moved and lit. Both add to a vertex' eight 16-bit words, without a carry: light's bits are 0 so far,
    // and places never leave theirs.
    using Words = std::array<std::uint16_t, sizeof(MeshVertex) / 2>;
    struct Kind {
        Material material = kOpen;
        unsigned covered = 0; // of the sides that triangles lie on
        std::vector<Words> vertices;
        std::vector<std::uint32_t> indices;
    };
    std::vector<Kind> kinds;
    const auto kindOf = [&](Material material, unsigned covered) -> const Kind& {
        for (const Kind& kind : kinds)
            if (kind.material == material && kind.covered == covered)
                return kind;
        Kind& kind = kinds.emplace_back();
        kind.material = material;
        kind.covered = covered;
        TriangleList seen = shapeTriangles(*rules.shapes[material], material, covered);
        for (const MeshVertex& vertex : seen.vertices)
            kind.vertices.push_back(std::bit_cast<Words>(vertex));
        kind.indices = std::move(seen.indices);
        return kind;
    };
    forEachShape(voxels, rules, [&](const std::array<int, 3>& at, Material material) {
        const Kind& kind = kindOf(material, coveredSides(voxels, rules, at, material));
        MeshVertex difference;
        for (std::size_t axis = 0; axis < 3; ++axis)
            difference.place[axis] = static_cast<std::int16_t>(at[axis] * static_cast<int>(kMeshUnit));
        if (light)
            difference.setLight(lightOfShape(*light, at[0], at[1], at[2]));
        const auto more = std::bit_cast<Words>(difference);
        const std::size_t first = out.vertices.size(), firstIndex = out.indices.size();
        out.vertices.resize(first + kind.vertices.size());
        MeshVertex* to = out.vertices.data() + first;
        for (Words words : kind.vertices) {
            for (std::size_t w = 0; w < words.size(); ++w)
                words[w] = static_cast<std::uint16_t>(words[w] + more[w]);
            *to++ = std::bit_cast<MeshVertex>(words);
        }
        out.indices.resize(firstIndex + kind.indices.size());
        std::uint32_t* index = out.indices.data() + firstIndex;
        for (const std::uint32_t i : kind.indices)
            *index++ = static_cast<std::uint32_t>(first) + i;
    });
}

TriangleList shapeTriangles(const BlockShape& shape, Material material, unsigned covered)
{
    constexpr std::uint32_t kUnused = UINT32_MAX;
    TriangleList out;
    std::vector<std::uint32_t> placeOf(shape.vertices.size(), kUnused);
    for (std::size_t t = 0; t < shape.triangles.size(); ++t) {
        const std::optional<Side>& on = shape.triangles[t].on;
        if (on && (covered >> static_cast<unsigned>(*on) & 1u) != 0)
            continue;
        for (std::size_t i = t * 3; i < t * 3 + 3; ++i) {
            std::uint32_t& place = placeOf[shape.indices[i]];
            if (place == kUnused) {
                place = static_cast<std::uint32_t>(out.vertices.size());
                const std::uint32_t corner = shape.vertices[shape.indices[i]];
                out.vertices.push_back(vertexOf(shape.triangles[corner / 3], corner % 3, material));
            }
            out.indices.push_back(place);
        }
    }
    return out;
}

void meshQuads(const PaddedVoxels& voxels, const ChunkMeshOptions& options, ChunkSurface& out)
{
    out.clear();
    options.mesher->mesh(voxels, options.rules, out);
    if (!options.format.byBlock) {
        sortBySide(out.in(Matter::Solid));
        return;
    }
    auto sides = unitSides(out.in(Matter::Solid));
    std::stable_sort(sides.begin(), sides.end(), [](Quad a, Quad b) { return voxelOf(a) < voxelOf(b); });
    out.in(Matter::Solid).assign(sides.begin(), sides.end());
}

void finishSurface(const PaddedVoxels& voxels, std::span<const Quad> quads, Matter matter,
    const ChunkMeshOptions& options, const PaddedLight* light, LightCells* cells, Surface& out)
{
    thread_local LitQuads between; // the one step and the other
    between.clear();
    out.clear();
    const SideLight how{options.flatLight, matter == Matter::SeeThrough};
    if (!light && !options.format.hasRings()) {
        out.lit.quads.assign(quads.begin(), quads.end());
    } else if (!options.format.hasRings()) {
        bakeLight(quads, *light, how, out.lit, cells);
    } else if (!light) {
        addOcclusionRings(voxels, *options.rules.sides, quads, {}, out.lit, out.rims);
    } else if (cells) {
        addOcclusionRings(voxels, *options.rules.sides, quads, {}, between, out.rims);
        bakeLight(between.quads, *light, how, out.lit, cells);
    } else {
        bakeLight(quads, *light, how, between, nullptr);
        addOcclusionRings(voxels, *options.rules.sides, between.quads, between.lights, out.lit, out.rims);
    }
}

ChunkMesh assembleMesh(const ChunkMeshOptions& options, bool isLit, const Surfaces& surfaces, const SeamQuads* seams)
{
    constexpr auto kSolid = static_cast<std::size_t>(Matter::Solid);
    thread_local Surface sorted;
    ChunkMesh mesh;
    mesh.lit = isLit;
    std::array<SurfaceView, kMatterCount> lists;
    for (std::size_t m = 0; m < kMatterCount; ++m) {
        lists[m] = surfaces[m]->view();
        mesh.quads[m] = static_cast<std::uint32_t>(lists[m].quads.size());
    }
    if (!options.format.byBlock)
        lists[kSolid] = gradedLast(lists[kSolid], sorted, mesh);
    if (seams)
        mesh.quads[0] += static_cast<std::uint32_t>(seams->count());
    const std::size_t quadBytes = options.format.layout->bytesPerQuad(mesh.lit);
    mesh.vertices.resize(mesh.quadCount() * quadBytes);
    std::byte* to = mesh.vertices.data();
    const auto write = [&](std::span<const Quad> list, std::span<const QuadLight> lights) {
        options.format.layout->write(list, mesh.lit ? lights : std::span<const QuadLight>(), to);
        to += list.size() * quadBytes;
    };
    for (std::size_t m = 0; m < kMatterCount; ++m) {
        write(lists[m].quads, lists[m].lights);
        mesh.rims.insert(mesh.rims.end(), lists[m].rims.begin(), lists[m].rims.end());
        if (m != kSolid || !seams)
            continue;
        for (std::size_t side = 0; side < kSideCount; ++side) {
            mesh.seams[side] = static_cast<std::uint32_t>(seams->quads[side].size());
            write(seams->quads[side], seams->lights[side]);
        }
        if (options.format.hasRings())
            mesh.rims.resize(mesh.rims.size() + seams->count(), 0);
    }
    if (options.format.byBlock) { // a side of one voxel is never cut
        const auto sides = lists[kSolid].quads;
        for (std::uint32_t i = 0; i < sides.size(); ++i) {
            if (i == 0 || voxelOf(sides[i]) != voxelOf(sides[i - 1]))
                mesh.blocks.push_back({i, 0});
            ++mesh.blocks.back().count;
        }
    }
    for (const Matter matter : {Matter::SeeThrough, Matter::Liquid}) {
        const auto list = lists[static_cast<std::size_t>(matter)].quads;
        mesh.clear.insert(mesh.clear.end(), list.begin(), list.end());
    }
    return mesh;
}

void addShapes(const PaddedVoxels& voxels, const ChunkMeshOptions& options, const PaddedLight* light, ChunkMesh& mesh)
{
    if (options.bakeShapes) {
        thread_local TriangleList shapes; // so that a mesh takes memory once
        shapes.clear();
        bakeShapes(voxels, *options.rules.sides, shapes, light);
        mesh.shapes = shapes;
    } else
        forEachShape(voxels, *options.rules.sides, [&](const std::array<int, 3>& at, Material material) {
            mesh.objects.push_back(
                {{static_cast<std::uint8_t>(at[0]), static_cast<std::uint8_t>(at[1]), static_cast<std::uint8_t>(at[2])},
                    material, light ? lightOfShape(*light, at[0], at[1], at[2]) : 0});
        });
}

namespace {

/// The triangles of a mesher, with their light.
void addTriangles(const TriangleList& triangles, const PaddedLight* light, ChunkMesh& mesh)
{
    const std::size_t first = mesh.shapes.vertices.size();
    mesh.shapes.add(triangles);
    for (std::size_t i = first; light && i < mesh.shapes.vertices.size(); ++i) {
        MeshVertex& vertex = mesh.shapes.vertices[i];
        std::array<float, 3> point{}, normal{};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            point[axis] = static_cast<float>(vertex.place[axis]) / kMeshUnit;
            normal[axis] = static_cast<float>(vertex.normal[axis]) / 127;
        }
        vertex.setLight(lightAt(*light, point, normal));
    }
}

} // namespace

bool hasCells(const ChunkMeshOptions& options, const PaddedLight* light)
{
    return light && options.format.wantsCells && !options.format.byBlock;
}

ChunkMesh encodeMesh(const PaddedVoxels& voxels, const ChunkSurface& quads, const ChunkMeshOptions& options,
    const PaddedLight* light, const SeamQuads* seams)
{
    thread_local std::array<Surface, kMatterCount> made;
    LightCells cells;
    if (hasCells(options, light))
        cells.begin(light->channels);
    for (const Matter matter : kMatters)
        finishSurface(voxels, quads.in(matter), matter, options, light,
            hasCells(options, light) && matter == Matter::Solid ? &cells : nullptr,
            made[static_cast<std::size_t>(matter)]);
    ChunkMesh mesh = assembleMesh(options, light != nullptr, {&made[0], &made[1], &made[2]}, seams);
    mesh.cells = std::move(cells);
    addShapes(voxels, options, light, mesh);
    addTriangles(quads.triangles, light, mesh);
    return mesh;
}

ChunkMesh buildChunkMesh(const PaddedVoxels& voxels, const ChunkMeshOptions& options, const PaddedLight* light)
{
    thread_local ChunkSurface quads;
    meshQuads(voxels, options, quads);
    return encodeMesh(voxels, quads, options, light);
}

} // namespace fell::mesh
