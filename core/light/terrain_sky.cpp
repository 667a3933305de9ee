// SPDX-License-Identifier: Apache-2.0
#include "light/terrain_sky.h"

#include <algorithm>

namespace fell {

SkyFloor floorOfTerrain(const Terrain& terrain, const Generator& generator, const ColumnPatch& columns,
    const LightRules& rules, std::int64_t lowest, const SeenChunk& seen)
{
    const int edge = columns.edge;
    const auto& pattern = terrain.recipe.pattern;
    std::optional<std::int64_t> top = pattern ? topOf(*pattern) : columns.top;
    if (pattern && top) // it is told on level 0
        top = ((*top - 1) >> terrain.level) + 1;
    if (!top)
        return skyFloor(edge, INT64_MAX);
    ChunkPos chunk = chunkOf({columns.x0, *top - 1, columns.z0}, edge);
    SkyFloor floor = skyFloor(edge, originOf(chunk, edge).y + edge);
    lowest = std::max(lowest, *top - kDeepestSky);
    for (bool open = true; open && originOf(chunk, edge).y + edge > lowest; --chunk.y) {
        VoxelChunk voxels = generator.voxels(terrain, columns, chunk);
        LightPasses passes = passesOf(voxels, rules);
        open = extendDown(floor, passes, originOf(chunk, edge).y);
        if (seen)
            seen(chunk, std::move(voxels), std::move(passes));
    }
    return floor;
}

} // namespace fell
