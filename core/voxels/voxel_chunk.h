// SPDX-License-Identifier: Apache-2.0
// One chunk's voxels.
#pragma once

#include "blocks/block_set.h"
#include "grid/coords.h"

#include <cassert>
#include <span>
#include <vector>

namespace fell {

/// A cube of edge^3 voxels: either all alike (one number, no array) or a plain array.
///
/// Layout  index = (y * edge + z) * edge + x: rows run along x, layers lie flat.
class VoxelChunk {
public:
    /// All voxels alike. Asserts: isChunkEdge(edge).
    explicit VoxelChunk(int edge, Material all = kOpen);
    /// Takes edge^3 voxels; keeps one number if they are all alike.
    VoxelChunk(int edge, std::vector<Material> voxels);

    [[nodiscard]] int edge() const { return m_edge; }
    [[nodiscard]] bool isUniform() const { return m_voxels.empty(); }
    [[nodiscard]] Material uniform() const { return m_all; } // meaningful while isUniform()
    [[nodiscard]] std::span<const Material> voxels() const { return m_voxels; } // empty while isUniform()
    [[nodiscard]] Material at(int x, int y, int z) const
    {
        assert(x >= 0 && y >= 0 && z >= 0 && x < m_edge && y < m_edge && z < m_edge);
        return isUniform() ? m_all : m_voxels[static_cast<std::size_t>((y * m_edge + z) * m_edge + x)];
    }
    [[nodiscard]] std::size_t bytes() const { return sizeof *this + m_voxels.capacity() * sizeof(Material); }

private:
    int m_edge;
    Material m_all = kOpen;
    std::vector<Material> m_voxels;
};

/// 64 bits that two chunks share only if their voxels are alike (XXH3; not a proof against somebody who tries).
/// A uniform chunk and an array of the same voxels give the same digest.
std::uint64_t digestOf(const VoxelChunk& chunk);

} // namespace fell
