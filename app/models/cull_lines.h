// SPDX-License-Identifier: GPL-3.0-or-later
// What culling works with, as lines in the field: the octree's nodes, the view that is held still, and one chunk.
#pragma once

#include <fell/gpu/renderer.h>

#include <span>

namespace fell::app {

/// Lines that are drawn at most; an octree with more of them shows its largest nodes and what is nearest.
constexpr std::size_t kMaxLines = 24000;

/// Adds the edges of the octree's cells: nodes and leaves that exist in whole lines, empty places dashed and paler.
/// Large ones first, then those near the eye's chunk, as many as kMaxLines allows.
/// Units  edge: voxels of a chunk. Returns how many cells were left out.
std::size_t addOctree(LineBatch& lines, std::vector<OctreeCell> cells, int edge, ChunkPos near);

/// Adds the edges of a view volume, cut off at `reach` voxels from the eye, and the cross of its far end.
void addView(LineBatch& lines, const Eye& eye, const Lens& lens, double reach);

/// Adds the edges of a box of voxels, over everything. Comes last, with addChunk.
void addBox(LineBatch& lines, VoxelPos low, VoxelPos high);

/// Adds a box around one chunk, a little larger than the chunk, over everything. Comes last.
void addChunk(LineBatch& lines, ChunkPos chunk, int edge);

} // namespace fell::app
