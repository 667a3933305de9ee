// SPDX-License-Identifier: Apache-2.0
#include <fell/light/sky_columns.h>

namespace fell::light {

SkyHeightMap& SkyColumns::at(std::int64_t chunkX, std::int64_t chunkZ)
{
    const ChunkPos column{chunkX, 0, chunkZ};
    const auto found = m_floors.find(column);
    return found == m_floors.end() ? m_floors.emplace(column, m_floorOf(chunkX, chunkZ)).first->second : found->second;
}

bool SkyColumns::isUnderSky(VoxelPos voxel, bool mayLookUp)
{
    const ChunkPos chunk = chunkOf(voxel, m_edge);
    if (!mayLookUp && !m_floors.contains({chunk.x, 0, chunk.z}))
        return false;
    const VoxelPos in = voxel - originOf(chunk, m_edge);
    return voxel.y >= at(chunk.x, chunk.z).from[static_cast<std::size_t>(in.z * m_edge + in.x)];
}

} // namespace fell::light
