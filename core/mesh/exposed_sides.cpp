// SPDX-License-Identifier: Apache-2.0
// The sides that can be seen, voxel by voxel. Kept plain: the audits and tests hold the others against it.
#include <fell/mesh/meshers.h>

namespace fell::mesh {

void meshExposedSides(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    const SideRules& sides = *rules.sides;
    const auto row = static_cast<std::ptrdiff_t>(voxels.stride()), layer = row * row;
    const std::array<std::ptrdiff_t, kSideCount> step{1, -1, layer, -layer, row, -row}; // in the order of kSides
    for (int y = 0; y < voxels.edge; ++y)
        for (int z = 0; z < voxels.edge; ++z) {
            const Material* here = voxels.voxels.data() + voxels.index(0, y, z);
            for (int x = 0; x < voxels.edge; ++x, ++here) {
                if (!sides.isCube(*here))
                    continue;
                for (const Side side : kSides) {
                    const Material there = here[step[static_cast<std::size_t>(side)]];
                    if (sides.isPlainSolid(there) || !isSideSeen(sides, *here, there, side))
                        continue;
                    const std::uint8_t ambientOcclusion
                        = rules.ambientOcclusion ? cornerOcclusion(voxels, sides, x, y, z, side) : 0;
                    out.in(sides.matter[*here]).push_back(packQuad({x, y, z, 1, 1, side, *here, ambientOcclusion}));
                }
            }
        }
}

} // namespace fell::mesh
