// SPDX-License-Identifier: Apache-2.0
// Everything that the GPU needs of one chunk: quads laid out, shaped blocks baked or listed.
#pragma once

#include <fell/mesh/mesh_format.h>
#include <fell/mesh/meshers.h>

#include <cstddef>

namespace fell::mesh {

/// A shaped block that is drawn as a separate object.
struct ShapeObject {
    std::array<std::uint8_t, 3> voxel{}; // in the chunk
    Material material = kOpen;
    PackedLight light = 0;
};

/// The sides of one voxel, next to each other among the solid quads.
struct BlockRange {
    std::uint32_t first = 0, count = 0; // quads
};

/// Quads that lie in the chunk's six borders, drawn only where chunks of another level lie beyond them: core/lod makes
/// them.
struct SeamQuads {
    std::array<std::vector<Quad>, kSideCount> quads;
    std::array<std::vector<QuadLight>, kSideCount> lights; // next to the quads
    [[nodiscard]] std::size_t count() const
    {
        std::size_t sum = 0;
        for (const auto& list : quads)
            sum += list.size();
        return sum;
    }
    void clear()
    {
        for (std::size_t side = 0; side < kSideCount; ++side) {
            quads[side].clear();
            lights[side].clear();
        }
    }
};

/// Options of what is made.
struct ChunkMeshOptions {
    const Mesher* mesher = nullptr;
    MeshFormat format;
    MeshRules rules; // shade: where the format's occlusion is at corners
    bool bakeShapes = true; // into `shapes`; else they are listed in `objects`
    bool flatLight = false; // where there is light: a level a side
};

struct ChunkMesh {
    std::array<std::uint32_t, kMatterCount> quads{}; // how many of each matter, in this order in `vertices`
    /// How many of the solid ones look each way: they lie side by side, in the order of Side; first all those whose
    /// four corners have the same light, or have none, then those over which it runs: with `cells`, these have the
    /// number of their head in place of a corner's light. All 0 where `blocks` are listed, whose quads lie voxel by
    /// voxel.
    std::array<std::uint32_t, kSideCount> sides{}, varyingLight{};
    /// How many of each border's seam follow them, in the order of Side. They count among the solid ones of `quads`.
    std::array<std::uint32_t, kSideCount> seams{};
    std::vector<std::byte> vertices; // quads in the layout
    std::vector<OcclusionRing> rims; // next to the quads; empty where shade is baked into them, or there is none
    LightCells cells; // of graded solid quads; empty where their corners have their light
    TriangleList shapes; // of shaped blocks, and what the mesher made
    std::vector<ShapeObject> objects;
    std::vector<BlockRange> blocks;
    bool lit = false; // `vertices` have light
    std::vector<Quad> clear; // see-through and liquid quads again, for sorting by distance

    [[nodiscard]] std::uint32_t quadCount() const { return quads[0] + quads[1] + quads[2]; }
    [[nodiscard]] bool isEmpty() const { return quadCount() == 0 && shapes.isEmpty() && objects.empty(); }
    [[nodiscard]] std::size_t bytes() const
    {
        return vertices.size() + rims.size() * sizeof(OcclusionRing) + cells.words.size() * sizeof cells.words[0]
            + shapes.bytes();
    }
};

/// The sides of a shaped block's voxel that its neighbours cover, a bit each: triangles that lie on them are not seen.
unsigned coveredSides(
    const PaddedVoxels& voxels, const SideRules& rules, const std::array<int, 3>& at, Material material);

/// Appends the triangles of all shaped blocks of the chunk; sides that their neighbours cover are left out.
void bakeShapes(
    const PaddedVoxels& voxels, const SideRules& rules, TriangleList& out, const PaddedLight* light = nullptr);

/// The triangles of one shape from its voxel's lowest corner, without those that lie on covered sides (a bit a side).
/// Cost    O(triangles).
TriangleList shapeTriangles(const BlockShape& shape, Material material, unsigned covered = 0);

/// Meshes a chunk whole, lit where light is given. Any thread.
ChunkMesh buildChunkMesh(
    const PaddedVoxels& voxels, const ChunkMeshOptions& options, const PaddedLight* light = nullptr);

/// The two halves of buildChunkMesh, for what changes light and no voxel: the quads of the first are kept, and the
/// second makes a mesh of them without meshing again.
void meshQuads(const PaddedVoxels& voxels, const ChunkMeshOptions& options, ChunkSurface& out);
ChunkMesh encodeMesh(const PaddedVoxels& voxels, const ChunkSurface& quads, const ChunkMeshOptions& options,
    const PaddedLight* light = nullptr, const SeamQuads* seams = nullptr);

struct ModelMode {
    const char* id;
    const char* title;
    const char* note;
};
/// How shaped blocks are drawn: "baked" into the chunk's mesh, or "objects".
std::span<const ModelMode> modelModes();

} // namespace fell::mesh
