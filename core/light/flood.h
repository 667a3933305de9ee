// SPDX-License-Identifier: Apache-2.0
// Light of whole chunks from the voxels round them: a function from values to values, so the order in which chunks came
// cannot matter.
#pragma once

#include "light/padded_light.h"

#include <cstdint>
#include <span>

namespace fell {

/// Where the sky begins over the columns of one chunk position on the plan: y of the lowest voxel from which up
/// everything is open, in voxels of the world. INT64_MIN where nothing is in the way, INT64_MAX where no sky is.
struct SkyFloor {
    std::vector<std::int64_t> from; // edge^2, index = z * edge + x
    std::int64_t lowest = INT64_MIN, highest = INT64_MIN;
};

/// The same floor for all columns.
SkyFloor skyFloor(int edge, std::int64_t all);
/// Sets lowest and highest from the columns.
void summarize(SkyFloor& floor);
/// Lowers what `floor` says by a chunk that stands lower than all that it was made from: columns whose floor is the
/// chunk's upper face go on into it. `y0` is the chunk's lowest voxel. Start with the chunk's upper face everywhere,
/// then go down. Cost: O(edge^2) and the open voxels gone through. True if a column goes on below this chunk.
bool extendDown(SkyFloor& floor, const LightPasses& chunk, std::int64_t y0);

/// A block of chunks as light sees it.
struct LightBlock {
    const LightRules* rules = nullptr;
    int edge = 0;
    std::array<int, 3> size{}; // chunks on x, y, z
    std::vector<const LightPasses*> passes; // index (y * size z + z) * size x + x; null: not there, dark
    std::vector<const SkyFloor*> floors; // index z * size x + x; null: no sky
    std::int64_t y0 = 0; // of the lowest voxels
};

/// Part of a block, chunks; upper bound outside.
struct LightPart {
    std::array<int, 3> low{}, high{};
};

/// Light of the chunks of `part`, from all that lies within kLightReach of them in the block.
///
/// Shape   out: one a chunk of the part, in the order of passes.
/// Limit   a part is at most 96 voxels wide in x and z.
/// Cost    for edge 32 in three colours and sky, 3 x 3 x 3 chunks at once: about 40 us a chunk where lamps stand close,
///         next to nothing for chunks wholly under the sky or in the rock.
void floodPart(const LightBlock& block, const LightPart& part, std::span<ChunkLight> out);

/// The same for a part of any size, cut into such parts.
std::vector<ChunkLight> floodBlock(const LightBlock& block, const LightPart& part);
/// Light of the middle one of 3 x 3 x 3 chunks and of the layer round it: what its mesh needs, and nothing from farther
/// away than these chunks. Cost: as a chunk of floodPart by itself, about twice that among nine.
void floodPadded(const LightBlock& block, PaddedLight& out);
/// The same without flooding: full sky light under the open sky, nothing elsewhere.
void skyOnly(const LightBlock& block, PaddedLight& out);
/// Light of all chunks of the block. Beyond the block it is dark, but for the sky above it.
std::vector<ChunkLight> floodBlock(const LightBlock& block);

} // namespace fell
