// SPDX-License-Identifier: Apache-2.0
// The way of light back to where it starts.
#pragma once

#include <fell/grid/coords.h>

#include <algorithm>
#include <vector>

namespace fell::light {

/// A voxel on the way of light, nearest to its source last.
struct LightStep {
    VoxelPos at;
    int level = 0;
};

inline VoxelPos neighbour(VoxelPos at, Side side)
{
    const ChunkPos to = stepOf(side);
    return at + VoxelPos{to.x, to.y, to.z};
}

/// From a voxel to the lamp, or to the column under the open sky, that its level comes from; empty where it is dark.
/// `level`, `own` (what starts there) and `taken` are functions of a VoxelPos. Where levels are missing on the way, it
/// ends there.
template <typename Level, typename Own, typename Taken>
std::vector<LightStep> traceLight(VoxelPos at, const Level& level, const Own& own, const Taken& taken)
{
    std::vector<LightStep> path;
    for (int has = level(at); has > 0; has = level(at)) {
        path.push_back({at, has});
        if (own(at) >= has)
            break;
        const int attenuation = taken(at);
        const auto next = std::find_if(
            kSides.begin(), kSides.end(), [&](Side side) { return level(neighbour(at, side)) - attenuation >= has; });
        if (next == kSides.end())
            break;
        at = neighbour(at, *next);
    }
    return path;
}

} // namespace fell::light
