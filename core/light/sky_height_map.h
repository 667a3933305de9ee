// SPDX-License-Identifier: Apache-2.0
// Where the open sky begins over each column of voxels.
#pragma once

#include <fell/light/transmission.h>

#include <cstdint>
#include <vector>

namespace fell::light {

/// Where the sky begins over the columns of one chunk position on the plan: y of the lowest voxel from which up
/// everything is open, in voxels of the world. INT64_MIN where nothing is in the way, INT64_MAX where no sky is.
struct SkyHeightMap {
    std::vector<std::int64_t> from; // edge^2, index = z * edge + x
    std::int64_t lowest = INT64_MIN, highest = INT64_MIN;
};

/// The same floor for all columns.
SkyHeightMap skyFloor(int edge, std::int64_t all);
/// Sets lowest and highest from the columns.
void summarize(SkyHeightMap& floor);
/// Lowers `floor` by a chunk that is lower than all that it was made from: columns whose floor is the
/// chunk's upper face go on into it. `y0` is the chunk's lowest voxel. Start with the chunk's upper face everywhere,
/// then go down. Cost: O(edge^2) and the open voxels gone through. True if a column goes on below this chunk.
bool carveThrough(SkyHeightMap& floor, const Transmission& chunk, std::int64_t y0);

} // namespace fell::light
