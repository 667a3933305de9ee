// SPDX-License-Identifier: Apache-2.0
// The mesher that beginners write first. It is kept plain on purpose: the others are measured against it.
#include <fell/mesh/meshers.h>

namespace fell::mesh {

void meshEverySide(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    for (int y = 0; y < voxels.edge; ++y)
        for (int z = 0; z < voxels.edge; ++z)
            for (int x = 0; x < voxels.edge; ++x) {
                const Material material = voxels.at(x, y, z);
                if (!rules.sides->isCube(material))
                    continue;
                for (const Side side : kSides) {
                    const std::uint8_t ambientOcclusion
                        = rules.ambientOcclusion ? cornerOcclusion(voxels, *rules.sides, x, y, z, side) : 0;
                    out.in(rules.sides->matter[material])
                        .push_back(packQuad({x, y, z, 1, 1, side, material, ambientOcclusion}));
                }
            }
}

} // namespace fell::mesh
