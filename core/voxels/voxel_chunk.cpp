// SPDX-License-Identifier: Apache-2.0
#include <fell/voxels/voxel_chunk.h>

#include <algorithm>
#include <xxhash.h>

namespace fell::voxels {

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

VoxelChunk::VoxelChunk(int edge, std::unique_ptr<const VoxelStorage> held)
    : m_edge(edge)
    , m_held(std::move(held))
{
    assert(isChunkEdge(edge) && m_held);
}

VoxelChunk VoxelChunk::convertedTo(const StorageFormat& form) const
{
    VoxelChunk out(m_edge, m_all);
    if (isUniform())
        return out;
    const std::vector<Material> all = voxels();
    if (form.hold == holdArray)
        out.m_voxels = all; // the array is not converted
    else
        out.m_held = form.hold(m_edge, all);
    return out;
}

VoxelChunk VoxelChunk::with(std::span<const VoxelWrite> others, const StorageFormat& form) const
{
    constexpr std::size_t kMany = 64; // past it setting each costs more than encoding all of them again
    if (m_held && others.size() < kMany) {
        auto held = m_held->copy();
        for (const VoxelWrite& one : others) {
            const int i = static_cast<int>(one.voxel);
            held->set(i % m_edge, i / m_edge / m_edge, i / m_edge % m_edge, one.material);
        }
        VoxelChunk out(m_edge, m_all);
        out.m_held = std::move(held);
        return out;
    }
    std::vector<Material> all = voxels();
    for (const VoxelWrite& one : others)
        all[one.voxel] = one.material;
    return VoxelChunk(m_edge, std::move(all)).convertedTo(form);
}

void VoxelChunk::readRow(int x, int y, int z, int count, Material* out) const
{
    assert(x >= 0 && count >= 0 && x + count <= m_edge);
    if (!m_voxels.empty())
        std::copy_n(m_voxels.data() + (y * m_edge + z) * m_edge + x, count, out);
    else if (!m_held)
        std::fill_n(out, count, m_all);
    else if (count == m_edge)
        m_held->readRow(y, z, out);
    else
        for (int i = 0; i < count; ++i)
            out[i] = m_held->at(x + i, y, z);
}

std::vector<Material> VoxelChunk::voxels() const
{
    const auto edge = static_cast<std::size_t>(m_edge);
    if (!m_held)
        return m_voxels.empty() ? std::vector<Material>(edge * edge * edge, m_all) : m_voxels;
    std::vector<Material> out(edge * edge * edge);
    for (int y = 0; y < m_edge; ++y)
        for (int z = 0; z < m_edge; ++z)
            m_held->readRow(y, z, out.data() + (y * m_edge + z) * m_edge);
    return out;
}

std::uint64_t digestOf(const VoxelChunk& chunk)
{
    const std::vector<Material> voxels = chunk.voxels();
    return XXH3_64bits(voxels.data(), voxels.size() * sizeof(Material));
}

} // namespace fell::voxels
