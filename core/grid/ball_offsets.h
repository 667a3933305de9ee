// SPDX-License-Identifier: Apache-2.0
// Which chunks lie within a render distance, nearest first.
#pragma once

#include <fell/grid/coords.h>

#include <vector>

namespace fell::grid {

/// Offsets of all chunks whose centre is at most `radius` chunk edges from the centre of chunk (0,0,0).
///
/// Shape   sorted by distance, then x, y, z; element 0 is (0,0,0). About 4.19 * radius^3 elements.
/// Errors  Asserts 0 <= radius <= 128.
/// Cost    O(n log n); 17,077 offsets for radius 16 take about 2 ms. Keep the list.
std::vector<ChunkPos> ballOffsets(int radius);

/// `offsets` and all of their 26 neighbours, in the same order: what must be generated so that `offsets` can be meshed.
std::vector<ChunkPos> withNeighbours(const std::vector<ChunkPos>& offsets);

/// True when `offset` is in ballOffsets(radius).
constexpr bool withinBall(ChunkPos offset, int radius)
{
    return squaredLength(offset) <= static_cast<std::int64_t>(radius) * radius;
}

} // namespace fell::grid
