// SPDX-License-Identifier: Apache-2.0
// What a mesher reads: a chunk with one layer of its neighbours around it, gathered into one block.
#pragma once

#include "blocks/side_rules.h"
#include "voxels/voxel_chunk.h"

#include <array>
#include <vector>

namespace fell {

/// A chunk and its 26 neighbours; index = (dy+1)*9 + (dz+1)*3 + (dx+1). None may be null, all have the same edge.
struct Neighbourhood {
    std::array<const VoxelChunk*, 27> chunks{};
    [[nodiscard]] const VoxelChunk& centre() const { return *chunks[13]; }
    [[nodiscard]] const VoxelChunk& beyond(Side side) const;
};

constexpr std::size_t neighbourIndex(ChunkPos offset)
{
    return static_cast<std::size_t>((offset.y + 1) * 9 + (offset.z + 1) * 3 + offset.x + 1);
}

/// The one view through which meshers read, whatever form the voxels are held in.
///
/// Layout  (edge + 2)^3 voxels, index = ((y+1) * (edge+2) + z+1) * (edge+2) + x+1 for x, y, z in [-1, edge].
struct PaddedVoxels {
    int edge = 0;
    std::vector<Material> voxels;

    [[nodiscard]] int stride() const { return edge + 2; }
    [[nodiscard]] std::size_t index(int x, int y, int z) const
    {
        return static_cast<std::size_t>(((y + 1) * stride() + z + 1) * stride() + x + 1);
    }
    [[nodiscard]] Material at(int x, int y, int z) const { return voxels[index(x, y, z)]; }
};

/// Fills `out` from the 27 chunks; reuses its memory. Cost: one copy of the chunk, about 1.3 passes over its voxels.
void gather(const Neighbourhood& from, PaddedVoxels& out);

/// True when the chunk and its six face neighbours are each of one material, so that no side of it can be seen.
bool isBuried(const Neighbourhood& from, const SideRules& rules);

} // namespace fell
