// SPDX-License-Identifier: Apache-2.0
// Where the sky begins over the columns of a world whose voxels change.
#pragma once

#include <fell/light/sky_height_map.h>

#include <functional>
#include <unordered_map>
#include <unordered_set>
#include <vector>

namespace fell::light {

/// Where the sky begins over chunk column (x, z), with all chunks of the world taken into account.
using SkyHeightMapOf = std::function<SkyHeightMap(std::int64_t x, std::int64_t z)>;

/// A class because floors are looked up once, and moved by edits from then on.
class SkyColumns {
public:
    SkyColumns(int edge, SkyHeightMapOf floorOf)
        : m_edge(edge)
        , m_floorOf(std::move(floorOf))
    {
    }

    /// The floor over a column of chunks, looked up the first time.
    [[nodiscard]] SkyHeightMap& at(std::int64_t chunkX, std::int64_t chunkZ);
    /// The same of a column that was looked up before, which is asserted.
    [[nodiscard]] const SkyHeightMap& known(std::int64_t chunkX, std::int64_t chunkZ) const
    {
        return m_floors.at({chunkX, 0, chunkZ});
    }
    /// Is everything from the voxel up open? `mayLookUp`: a column that was not looked up yet is; else it has no sky.
    [[nodiscard]] bool isUnderSky(VoxelPos voxel, bool mayLookUp);

    struct Move {
        std::int64_t before = 0, after = 0; // y of the lowest voxel under the sky, cut to what is there
        [[nodiscard]] bool any() const { return before != after; }
    };
    /// A voxel has become open, or is no longer. `isOpen(y)`: is the voxel of this column at y there and open?
    /// `isThere(y)`: is it there? True if the sky begins elsewhere from now on: then summarize(floor) is to be called.
    template <typename IsOpen, typename IsThere>
    bool move(VoxelPos voxel, bool nowOpen, const IsOpen& isOpen, const IsThere& isThere, Move& move);

    /// Columns of chunks whose floor an edit has moved, y is 0.
    [[nodiscard]] std::vector<ChunkPos> moved() const { return {m_moved.begin(), m_moved.end()}; }

private:
    int m_edge;
    SkyHeightMapOf m_floorOf;
    std::unordered_map<ChunkPos, SkyHeightMap, ChunkPosHash> m_floors; // y is 0
    std::unordered_set<ChunkPos, ChunkPosHash> m_moved;
};

template <typename IsOpen, typename IsThere>
bool SkyColumns::move(VoxelPos voxel, bool nowOpen, const IsOpen& isOpen, const IsThere& isThere, Move& move)
{
    const ChunkPos chunk = chunkOf(voxel, m_edge);
    const VoxelPos in = voxel - originOf(chunk, m_edge);
    std::int64_t& from = at(chunk.x, chunk.z).from[static_cast<std::size_t>(in.z * m_edge + in.x)];
    move = {from, from};
    std::int64_t bottom = voxel.y; // the lowest voxel that is there, as far as it matters
    if (!nowOpen && voxel.y >= from) {
        from = voxel.y + 1;
        while (isThere(bottom - 1) && bottom > move.before)
            --bottom;
    } else if (nowOpen && voxel.y + 1 == from) {
        while (isOpen(bottom - 1))
            --bottom;
        from = bottom;
    } else {
        return false;
    }
    m_moved.insert({chunk.x, 0, chunk.z});
    move = {std::max(move.before, bottom), std::max(from, bottom)};
    return true;
}

} // namespace fell::light
