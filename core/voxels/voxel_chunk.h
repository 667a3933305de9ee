// SPDX-License-Identifier: Apache-2.0
// One chunk's voxels.
#pragma once

#include <fell/grid/coords.h>
#include <fell/voxels/storage_formats.h>

#include <cassert>
#include <vector>

namespace fell::voxels {

/// A voxel that is to be another: its index in the chunk.
struct VoxelWrite {
    std::uint32_t voxel = 0;
    Material material = kOpen;
};

/// A cube of edge^3 voxels: all alike (one number, nothing else), a plain array, or held in another form.
///
/// Layout  index = (y * edge + z) * edge + x: rows run along x, layers lie flat.
class VoxelChunk {
public:
    /// All voxels alike. Asserts: isChunkEdge(edge).
    explicit VoxelChunk(int edge, Material all = kOpen);
    /// Takes edge^3 voxels; keeps one number if they are all alike.
    VoxelChunk(int edge, std::vector<Material> voxels);
    /// Takes them as they are held. Asserts: edge^3 of them.
    VoxelChunk(int edge, std::unique_ptr<const VoxelStorage> held);

    [[nodiscard]] int edge() const { return m_edge; }
    [[nodiscard]] bool isUniform() const { return m_voxels.empty() && !m_held; }
    [[nodiscard]] Material uniform() const { return m_all; } // meaningful while isUniform()
    /// The same voxels in `form`; a uniform chunk stays as it is.
    [[nodiscard]] VoxelChunk convertedTo(const StorageFormat& form) const;
    /// Copies voxels x, x + 1, ... of row (y, z).
    void readRow(int x, int y, int z, int count, Material* out) const;
    [[nodiscard]] std::vector<Material> voxels() const; // all of them, in order
    /// The same with other voxels in some places, in the same form. A chunk whose last
    /// odd voxel goes stays held. Cost: a copy; where `others` are many, the whole chunk is encoded again.
    [[nodiscard]] VoxelChunk with(std::span<const VoxelWrite> others, const StorageFormat& form) const;
    /// What the form "palette" holds, where it is held so; else null.
    [[nodiscard]] const PalettePlanes* planes() const { return m_held ? m_held->planes() : nullptr; }
    /// The plain array where it is one, else null.
    [[nodiscard]] const Material* plain() const { return m_voxels.empty() ? nullptr : m_voxels.data(); }
    [[nodiscard]] Material at(int x, int y, int z) const
    {
        assert(x >= 0 && y >= 0 && z >= 0 && x < m_edge && y < m_edge && z < m_edge);
        if (!m_voxels.empty())
            return m_voxels[static_cast<std::size_t>((y * m_edge + z) * m_edge + x)];
        return m_held ? m_held->at(x, y, z) : m_all;
    }
    [[nodiscard]] std::size_t bytes() const
    {
        return sizeof *this + m_voxels.capacity() * sizeof(Material) + (m_held ? m_held->bytes() : 0);
    }

private:
    int m_edge;
    Material m_all = kOpen;
    std::vector<Material> m_voxels; // the plain array
    std::shared_ptr<const VoxelStorage> m_held; // another form
};

/// 64 bits that two chunks share only if their voxels are alike (XXH3; not a proof against deliberate collisions).
/// A uniform chunk and an array of the same voxels give the same digest.
std::uint64_t digestOf(const VoxelChunk& chunk);

} // namespace fell::voxels
