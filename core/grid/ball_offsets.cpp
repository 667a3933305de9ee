// SPDX-License-Identifier: Apache-2.0
#include <fell/grid/ball_offsets.h>

#include <algorithm>
#include <cassert>
#include <unordered_set>

namespace fell::grid {
namespace {

void sortNearestFirst(std::vector<ChunkPos>& offsets)
{
    std::sort(offsets.begin(), offsets.end(), [](ChunkPos a, ChunkPos b) {
        const auto da = squaredLength(a), db = squaredLength(b);
        return da != db ? da < db : a < b;
    });
}

} // namespace

std::vector<ChunkPos> ballOffsets(int radius)
{
    assert(radius >= 0 && radius <= 128);
    std::vector<ChunkPos> offsets;
    for (std::int64_t y = -radius; y <= radius; ++y)
        for (std::int64_t z = -radius; z <= radius; ++z)
            for (std::int64_t x = -radius; x <= radius; ++x)
                if (withinBall({x, y, z}, radius))
                    offsets.push_back({x, y, z});
    sortNearestFirst(offsets);
    return offsets;
}

std::vector<ChunkPos> withNeighbours(const std::vector<ChunkPos>& offsets)
{
    std::unordered_set<ChunkPos, ChunkPosHash> seen;
    for (const ChunkPos offset : offsets)
        for (std::int64_t i = 0; i < 27; ++i)
            seen.insert(offset + ChunkPos{i % 3 - 1, i / 3 % 3 - 1, i / 9 - 1});
    std::vector<ChunkPos> all(seen.begin(), seen.end());
    sortNearestFirst(all);
    return all;
}

} // namespace fell::grid
