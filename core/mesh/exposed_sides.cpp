// SPDX-License-Identifier: Apache-2.0
// Voxel by voxel: a side is drawn if the voxel it looks into is open.
#include "mesh/meshers.h"

namespace fell {

void meshExposedSides(const PaddedVoxels& voxels, std::vector<Quad>& out)
{
    const auto row = static_cast<std::ptrdiff_t>(voxels.stride()), layer = row * row;
    const std::array<std::ptrdiff_t, kSideCount> step{1, -1, layer, -layer, row, -row}; // in the order of kSides
    for (int y = 0; y < voxels.edge; ++y)
        for (int z = 0; z < voxels.edge; ++z) {
            const Material* here = voxels.voxels.data() + voxels.index(0, y, z);
            for (int x = 0; x < voxels.edge; ++x, ++here) {
                if (*here == kOpen)
                    continue;
                for (const Side side : kSides)
                    if (here[step[static_cast<std::size_t>(side)]] == kOpen)
                        out.push_back(packQuad({x, y, z, 1, 1, side, *here}));
            }
        }
}

} // namespace fell
