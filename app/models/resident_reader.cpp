// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/resident_reader.h>

namespace fell::app {

void ResidentReader::begin(const Streamer* streamer, std::uint64_t epoch)
{
    if (epoch != m_epoch || m_known.size() > kMax)
        m_known.clear();
    m_streamer = streamer;
    m_epoch = epoch;
    m_last = {INT64_MIN, 0, 0};
    m_voxels = nullptr;
}

std::optional<Material> ResidentReader::read(VoxelPos at)
{
    if (!m_streamer)
        return std::nullopt;
    const int edge = m_streamer->edge();
    if (const ChunkPos chunk = chunkOf(at, edge); chunk != m_last) {
        m_last = chunk;
        std::shared_ptr<const VoxelChunk>& known = m_known[chunk];
        if (auto now = m_streamer->voxels(chunk))
            known = std::move(now);
        m_voxels = known.get();
    }
    if (!m_voxels)
        return std::nullopt;
    const VoxelPos in = at - originOf(m_last, edge);
    return m_voxels->at(static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z));
}

} // namespace fell::app
