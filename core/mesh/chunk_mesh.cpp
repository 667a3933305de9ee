// SPDX-License-Identifier: Apache-2.0
#include "mesh/chunk_mesh.h"

#include <algorithm>
#include <cmath>

namespace fell {
namespace {

/// Where in the voxel that a quad record begins lies, as one number to sort by.
std::uint64_t voxelOf(Quad quad)
{
    return quad & 0x3FFFF;
}

ShapeVertex vertexOf(
    const ShapeTriangle& triangle, std::size_t corner, const std::array<int, 3>& voxel, Material material)
{
    ShapeVertex vertex;
    vertex.material = material;
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const auto i = static_cast<int>(axis);
        const float place = (triangle.corners[corner][i] + static_cast<float>(voxel[axis])) * kShapeUnit;
        vertex.place[axis] = static_cast<std::int16_t>(std::lround(place));
        vertex.normal[axis] = static_cast<std::int8_t>(std::lround(triangle.normal[i] * 127));
    }
    constexpr float kUpward = 0.5F; // above, a surface shows the top of its block
    vertex.part = triangle.colour ? 3 : triangle.normal.y > kUpward ? 0 : triangle.normal.y < -kUpward ? 2 : 1;
    if (triangle.colour)
        vertex.colour = {triangle.colour->r, triangle.colour->g, triangle.colour->b, 255};
    return vertex;
}

template <typename Visit> void forEachShape(const PaddedVoxels& voxels, const SideRules& rules, const Visit& visit)
{
    if (rules.solidCubes + 1u == rules.matter.size())
        return; // no other kind exists
    for (int y = 0; y < voxels.edge; ++y)
        for (int z = 0; z < voxels.edge; ++z) {
            const Material* row = voxels.voxels.data() + voxels.index(0, y, z);
            Material most = 0; // hardly any row holds one: this loop is a few wide instructions
            for (int x = 0; x < voxels.edge; ++x)
                most = std::max(most, row[x]);
            if (most <= rules.solidCubes)
                continue;
            for (int x = 0; x < voxels.edge; ++x)
                if (row[x] > rules.solidCubes && rules.shapes[row[x]])
                    visit(std::array<int, 3>{x, y, z}, row[x]);
        }
}

constexpr std::array<ModelMode, 2> kModelModes{{
    {"baked", "baked into the mesh", "Shaped blocks are part of their chunk's mesh: no draw of their own."},
    {"objects", "an object each", "One draw for each shaped block: there to show what that costs."},
}};

} // namespace

std::span<const ModelMode> modelModes()
{
    return kModelModes;
}

void bakeShapes(const PaddedVoxels& voxels, const SideRules& rules, std::vector<ShapeVertex>& out)
{
    forEachShape(voxels, rules, [&](const std::array<int, 3>& at, Material material) {
        const BlockShape& shape = *rules.shapes[material];
        std::array<bool, kSideCount> seen{};
        for (const Side side : kSides) {
            const auto s = static_cast<std::size_t>(side);
            const ChunkPos to = towards(side);
            const Material there = voxels.at(
                at[0] + static_cast<int>(to.x), at[1] + static_cast<int>(to.y), at[2] + static_cast<int>(to.z));
            // A foot too small to count as covering anything still lies on the side: whatever covers all hides it.
            const bool small = shape.covers[s] == 0 && rules.matter[there] == Matter::Solid
                && rules.covers[there][static_cast<std::size_t>(opposite(side))] != kCoversAll;
            seen[s] = small || isSideSeen(rules, material, there, side);
        }
        for (const ShapeTriangle& triangle : shape.triangles)
            if (!triangle.on || seen[static_cast<std::size_t>(*triangle.on)])
                for (std::size_t corner = 0; corner < 3; ++corner)
                    out.push_back(vertexOf(triangle, corner, at, material));
    });
}

std::vector<ShapeVertex> shapeVertices(const BlockShape& shape, Material material)
{
    std::vector<ShapeVertex> out;
    for (const ShapeTriangle& triangle : shape.triangles)
        for (std::size_t corner = 0; corner < 3; ++corner)
            out.push_back(vertexOf(triangle, corner, {0, 0, 0}, material));
    return out;
}

ChunkMesh buildChunkMesh(const PaddedVoxels& voxels, const ChunkMeshOptions& options)
{
    thread_local ChunkQuads quads;
    quads.clear();
    options.mesher->mesh(voxels, options.rules, quads);
    ChunkMesh mesh;
    if (options.byBlock) {
        auto sides = unitSides(quads.in(Matter::Solid));
        std::stable_sort(sides.begin(), sides.end(), [](Quad a, Quad b) { return voxelOf(a) < voxelOf(b); });
        quads.in(Matter::Solid).assign(sides.begin(), sides.end());
        for (std::uint32_t i = 0; i < sides.size(); ++i) {
            if (i == 0 || voxelOf(sides[i]) != voxelOf(sides[i - 1]))
                mesh.blocks.push_back({i, 0});
            ++mesh.blocks.back().count;
        }
    }
    mesh.vertices.resize(quads.count() * options.layout->bytesPerQuad());
    std::byte* to = mesh.vertices.data();
    for (std::size_t m = 0; m < kMatterCount; ++m) {
        options.layout->write(quads.of[m], to);
        to += quads.of[m].size() * options.layout->bytesPerQuad();
        mesh.quads[m] = static_cast<std::uint32_t>(quads.of[m].size());
    }
    for (const Matter matter : {Matter::SeeThrough, Matter::Liquid})
        mesh.clear.insert(mesh.clear.end(), quads.in(matter).begin(), quads.in(matter).end());
    if (options.bakeShapes)
        bakeShapes(voxels, *options.rules.sides, mesh.shapes);
    else
        forEachShape(voxels, *options.rules.sides, [&mesh](const std::array<int, 3>& at, Material material) {
            mesh.objects.push_back(
                {{static_cast<std::uint8_t>(at[0]), static_cast<std::uint8_t>(at[1]), static_cast<std::uint8_t>(at[2])},
                    material});
        });
    return mesh;
}

} // namespace fell
