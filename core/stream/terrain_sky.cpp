// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/terrain_sky.h>

#include <algorithm>

namespace fell::stream {

std::optional<std::int64_t> topOfTerrain(const Terrain& terrain, const ColumnPatch& columns)
{
    const auto& pattern = terrain.recipe.pattern;
    std::optional<std::int64_t> top = pattern ? topOf(*pattern) : columns.top;
    if (pattern && top) // it is told on level 0
        top = ((*top - 1) >> terrain.level) + 1;
    return top;
}

SkyHeightMap floorBelow(ChunkPos column, int edge, std::optional<std::int64_t> top, const MakeVoxels& make,
    const LightRules& rules, std::int64_t lowest, const SeenChunk& seen)
{
    if (!top)
        return skyFloor(edge, INT64_MAX);
    ChunkPos chunk{column.x, chunkOf({0, *top - 1, 0}, edge).y, column.z, column.level};
    SkyHeightMap floor = skyFloor(edge, originOf(chunk, edge).y + edge);
    lowest = std::max(lowest, *top - kDeepestSky);
    for (bool open = true; open && originOf(chunk, edge).y + edge > lowest; --chunk.y) {
        VoxelChunk voxels = make(chunk);
        Transmission passes = transmissionOf(voxels, rules);
        open = carveThrough(floor, passes, originOf(chunk, edge).y);
        if (seen)
            seen(chunk, std::move(voxels), std::move(passes));
    }
    return floor;
}

SkyHeightMap floorOfTerrain(const Terrain& terrain, const Generator& generator, const ColumnPatch& columns,
    const LightRules& rules, std::int64_t lowest, const SeenChunk& seen)
{
    return floorBelow(
        chunkOf({columns.x0, 0, columns.z0}, columns.edge), columns.edge, topOfTerrain(terrain, columns),
        [&](ChunkPos chunk) { return generator.voxels(terrain, columns, chunk); }, rules, lowest, seen);
}

} // namespace fell::stream
