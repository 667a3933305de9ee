// SPDX-License-Identifier: GPL-3.0-or-later
// What lies under the pointer: the first voxel along the ray through a pixel.
#pragma once

#include <fell/cull/view.h>
#include <fell/stream/streamer.h>

#include <optional>
#include <unordered_set>

namespace fell::app {

struct Pointed {
    VoxelPos voxel; // of level 0: of a longer voxel its lowest
    ChunkPos chunk;
    Material material = kOpen; // open: there is no voxel, the chunk is needed and not loaded yet
    double voxels = 0; // away from the eye
    VoxelPos before; // the last one on the way to it
};

/// The direction through a point of the picture: x and y from -1 (left, bottom) to 1. Length 1.
glm::dvec3 directionThrough(const Eye& eye, const Lens& lens, double x, double y);

/// Walks the grid from the eye to the first voxel that is not open, or into the first chunk that is needed and has no
/// voxels yet, at most `farthest` voxels.
/// Cost    O(voxels crossed); asks the streamer once for each chunk.
/// Source  Amanatides and Woo, "A Fast Voxel Traversal Algorithm for Ray Tracing", Eurographics 1987.
std::optional<Pointed> pointedAt(
    const Streamer& streamer, const Eye& eye, glm::dvec3 direction, int edge, double farthest);

/// The chunks that are shown, to look them up by place.
using ShownChunks = std::unordered_set<ChunkPos, ChunkPosHash>;
ShownChunks shownOf(const LodCover& cover);

/// The same where chunks of several levels are shown: the first voxel of what is shown. A chunk whose voxels a worker
/// holds at the moment counts as open.
/// Cost    O(voxels crossed, each of its level's length), about 0.1 us each.
std::optional<Pointed> pointedAt(const Streamer& streamer, const ShownChunks& shown, const Eye& eye,
    glm::dvec3 direction, int edge, double farthest);

} // namespace fell::app
