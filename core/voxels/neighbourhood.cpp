// SPDX-License-Identifier: Apache-2.0
#include "voxels/neighbourhood.h"

#include <algorithm>

namespace fell {
namespace {

struct AxisPart {
    int neighbour, local;
};

/// Which of three chunks in a row holds padded coordinate `p` of [0, edge + 2), and where in it.
AxisPart partOf(int p, int edge)
{
    return p == 0 ? AxisPart{0, edge - 1} : p == edge + 1 ? AxisPart{2, 0} : AxisPart{1, p - 1};
}

} // namespace

const VoxelChunk& Neighbourhood::beyond(Side side) const
{
    return *chunks[neighbourIndex(towards(side))];
}

void gather(const Neighbourhood& from, PaddedVoxels& out)
{
    const int edge = from.centre().edge(), stride = edge + 2;
    out.edge = edge;
    out.voxels.resize(static_cast<std::size_t>(stride) * stride * stride);
    Material* to = out.voxels.data();
    for (int py = 0; py < stride; ++py)
        for (int pz = 0; pz < stride; ++pz, to += stride) {
            const AxisPart y = partOf(py, edge), z = partOf(pz, edge);
            const auto* row = &from.chunks[static_cast<std::size_t>(y.neighbour * 9 + z.neighbour * 3)];
            to[0] = row[0]->at(edge - 1, y.local, z.local);
            row[1]->readRow(0, y.local, z.local, edge, to + 1);
            to[edge + 1] = row[2]->at(0, y.local, z.local);
        }
}

bool isBuried(const Neighbourhood& from, const SideRules& rules)
{
    const VoxelChunk& centre = from.centre();
    return centre.isUniform() && rules.isCube(centre.uniform())
        && std::all_of(kSides.begin(), kSides.end(), [&](Side side) {
               const VoxelChunk& there = from.beyond(side);
               return there.isUniform() && !isSideSeen(rules, centre.uniform(), there.uniform(), side);
           });
}

} // namespace fell
