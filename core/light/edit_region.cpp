// SPDX-License-Identifier: Apache-2.0
#include <fell/light/relight.h>

#include <algorithm>

namespace fell::light {

EditRegion::EditRegion(
    LightStore& store, const VoxelEdit& edit, std::span<const int> channels, std::vector<ChunkPos>& changed)
{
    const bool falls = edit.skyMovesBelow();
    int reach = falls ? kMaxLight : 1;
    for (const int c : channels)
        reach = std::max({reach, edit.was[static_cast<std::size_t>(c)].level, store.emission(edit.at, c),
            store.fromNeighbours(edit.at, c)});
    const std::int64_t lowest = falls ? std::min({edit.at.y, edit.sky.before, edit.sky.after}) : edit.at.y;
    low = {edit.at.x - reach, lowest - reach, edit.at.z - reach};
    const VoxelPos high{edit.at.x + reach, edit.at.y + reach, edit.at.z + reach};
    const ChunkPos from = chunkOf(low, store.edge()), to = chunkOf(high, store.edge());
    for (std::int64_t y = from.y; y <= to.y; ++y)
        for (std::int64_t z = from.z; z <= to.z; ++z)
            for (std::int64_t x = from.x; x <= to.x; ++x)
                if (LitChunk* chunk = store.at({x, y, z})) {
                    const VoxelPos in = originOf({x, y, z}, store.edge()) - low;
                    chunks.push_back(chunk);
                    near.push_back(
                        {&chunk->passes(), {static_cast<int>(in.x), static_cast<int>(in.y), static_cast<int>(in.z)}});
                    if (!chunk->passes().tinted.empty())
                        tinted.push_back(near.back());
                    if (const ChunkPos here{x, y, z}; std::find(changed.begin(), changed.end(), here) == changed.end())
                        changed.push_back(here);
                }
    const int width = 2 * reach + 1, height = static_cast<int>(high.y - low.y) + 1;
    for (const RegionChunk& one : near)
        for (const LampVoxel& lamp : one.passes->lamps) {
            const int i = static_cast<int>(lamp.voxel);
            const RegionLamp at{one.place.x + i % store.edge(), one.place.y + i / store.edge() / store.edge(),
                one.place.z + i / store.edge() % store.edge(), lamp.material};
            if (at.x >= 0 && at.y >= 0 && at.z >= 0 && at.x < width && at.y < height && at.z < width)
                lamps.push_back(at);
        }
    const auto in = [this](std::int64_t y) { return static_cast<int>(y - low.y); };
    region = floodRegion(width, height, width);
    sources.push_back({reach, in(edit.at.y), reach, reach});
    if (falls)
        for (std::int64_t y = std::min(edit.sky.before, edit.sky.after); y < edit.at.y; ++y)
            sources.push_back({reach, in(y), reach, kMaxLight});
}

} // namespace fell::light
