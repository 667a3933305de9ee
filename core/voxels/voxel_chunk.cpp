// SPDX-License-Identifier: Apache-2.0
#include "voxels/voxel_chunk.h"

#include <algorithm>
#include <xxhash.h>

namespace fell {

VoxelChunk::VoxelChunk(int edge, Material all)
    : m_edge(edge)
    , m_all(all)
{
    assert(isChunkEdge(edge));
}

VoxelChunk::VoxelChunk(int edge, std::vector<Material> voxels)
    : m_edge(edge)
    , m_voxels(std::move(voxels))
{
    assert(isChunkEdge(edge));
    assert(m_voxels.size() == static_cast<std::size_t>(edge) * edge * edge);
    m_all = m_voxels.front();
    const bool alike = std::all_of(m_voxels.begin(), m_voxels.end(), [&](Material m) { return m == m_all; });
    if (alike)
        std::vector<Material>().swap(m_voxels); // assigning {} would keep the memory
}

std::uint64_t digestOf(const VoxelChunk& chunk)
{
    if (!chunk.isUniform())
        return XXH3_64bits(chunk.voxels().data(), chunk.voxels().size_bytes());
    const auto edge = static_cast<std::size_t>(chunk.edge());
    const std::vector<Material> voxels(edge * edge * edge, chunk.uniform());
    return XXH3_64bits(voxels.data(), voxels.size() * sizeof(Material));
}

} // namespace fell
