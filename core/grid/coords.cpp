// SPDX-License-Identifier: Apache-2.0
#include "grid/coords.h"

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell {

bool isChunkEdge(int edge)
{
    return std::find(kChunkEdges.begin(), kChunkEdges.end(), edge) != kChunkEdges.end();
}

ChunkPos chunkOf(VoxelPos voxel, int edge)
{
    assert(isChunkEdge(edge));
    const int bits = std::countr_zero(static_cast<unsigned>(edge)); // a shift rounds down for negative voxels too
    return {voxel.x >> bits, voxel.y >> bits, voxel.z >> bits};
}

VoxelPos originOf(ChunkPos chunk, int edge)
{
    assert(isChunkEdge(edge));
    return {chunk.x * edge, chunk.y * edge, chunk.z * edge};
}

std::uint64_t hashOf(ChunkPos chunk)
{
    const auto part = [](std::int64_t value) { return static_cast<std::uint64_t>(value); };
    return mix64(part(chunk.x) + mix64(part(chunk.y) + mix64(part(chunk.z))));
}

} // namespace fell
