// SPDX-License-Identifier: Apache-2.0
#include <fell/grid/coords.h>

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell::grid {

bool isChunkEdge(int edge)
{
    return std::find(kChunkEdges.begin(), kChunkEdges.end(), edge) != kChunkEdges.end();
}

ChunkPos chunkOf(VoxelPos voxel, int edge, int level)
{
    assert(isChunkEdge(edge));
    const int bits = std::countr_zero(static_cast<unsigned>(edge)) + level; // a shift rounds down for negatives too
    return {voxel.x >> bits, voxel.y >> bits, voxel.z >> bits, level};
}

VoxelPos originOf(ChunkPos chunk, int edge)
{
    assert(isChunkEdge(edge));
    return {chunk.x * edge, chunk.y * edge, chunk.z * edge};
}

VoxelPos lowestVoxelOf(ChunkPos chunk, int edge)
{
    assert(isChunkEdge(edge));
    const std::int64_t span = spanOf(chunk, edge);
    return {chunk.x * span, chunk.y * span, chunk.z * span};
}

std::uint64_t hashOf(ChunkPos chunk)
{
    const auto part = [](std::int64_t value) { return static_cast<std::uint64_t>(value); };
    constexpr std::uint64_t kLevels = 0xA24BAED4963EE407u; // level 0 adds nothing: worlds are made with this hash
    return mix64(part(chunk.x)
        + mix64(part(chunk.y) + mix64(part(chunk.z) + static_cast<std::uint64_t>(chunk.level) * kLevels)));
}

} // namespace fell::grid
