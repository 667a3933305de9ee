// SPDX-License-Identifier: Apache-2.0
// The steps from a chunk's quads to its mesh. Private to mesh/.
#pragma once

#include <fell/mesh/chunk_mesh.h>

namespace fell::mesh {

constexpr std::array<Matter, kMatterCount> kMatters{Matter::Solid, Matter::SeeThrough, Matter::Liquid};

/// Quads of one matter as they are drawn, with the light and the rim of each next to them, or none.
struct SurfaceView {
    std::span<const Quad> quads;
    std::span<const QuadLight> lights;
    std::span<const OcclusionRing> rims;
};
struct Surface {
    LitQuads lit;
    std::vector<OcclusionRing> rims;
    [[nodiscard]] SurfaceView view() const { return {lit.quads, lit.lights, rims}; }
    void clear()
    {
        lit.clear();
        rims.clear();
    }
};
using Surfaces = std::array<const Surface*, kMatterCount>;

/// Is the light of solid quads a list next to the mesh?
bool hasCells(const ChunkMeshOptions& options, const PaddedLight* light);

/// Shades and lights the quads of one matter; `cells` is where their light goes, or null. `out` is cleared first.
/// Cost    O(quads); bench/bake_bench.cpp measures it over an unlit mesh.
void finishSurface(const PaddedVoxels& voxels, std::span<const Quad> quads, Matter matter,
    const ChunkMeshOptions& options, const PaddedLight* light, LightCells* cells, Surface& out);

/// A mesh without its cells and shapes. `seams` may be null.
/// Cost    a copy of the quads in the format's layout.
ChunkMesh assembleMesh(const ChunkMeshOptions& options, bool isLit, const Surfaces& surfaces, const SeamQuads* seams);

/// Shaped blocks, baked or listed.
void addShapes(const PaddedVoxels& voxels, const ChunkMeshOptions& options, const PaddedLight* light, ChunkMesh& mesh);

/// Calls visit(place in the chunk, material) for every shaped block, x fastest, then z, then y.
/// Cost    a look at each row of the chunk; nothing where the block set has no shaped blocks.
template <typename Visit> void forEachShape(const PaddedVoxels& voxels, const SideRules& rules, const Visit& visit)
{
    if (rules.solidCubes + 1u == rules.matter.size())
        return; // no other kind exists
    for (int y = 0; y < voxels.edge; ++y)
        for (int z = 0; z < voxels.edge; ++z) {
            const Material* row = voxels.voxels.data() + voxels.index(0, y, z);
            Material max = 0; // hardly any row holds one: this loop is a few wide instructions
            for (int x = 0; x < voxels.edge; ++x)
                max = std::max(max, row[x]);
            if (max <= rules.solidCubes)
                continue;
            for (int x = 0; x < voxels.edge; ++x)
                if (row[x] > rules.solidCubes && rules.shapes[row[x]])
                    visit(std::array<int, 3>{x, y, z}, row[x]);
        }
}

} // namespace fell::mesh
