// SPDX-License-Identifier: Apache-2.0
// The stage Generate: from a terrain and a place to voxels.
#pragma once

#include <fell/terrain/columns.h>
#include <fell/voxels/voxel_chunk.h>

#include <span>
#include <string_view>

namespace fell::terrain {

/// One way of generating. Both ways give the same voxels, to the last one.
struct Generator {
    const char* id;
    const char* title;
    const char* note; // one sentence for a tooltip
    ColumnPatch (*columns)(const Terrain&, std::int64_t x0, std::int64_t z0, int edge);
    /// The voxels of `chunk`; `columns` is what the function above gave for it. Any thread; O(edge^3).
    VoxelChunk (*voxels)(const Terrain&, const ColumnPatch& columns, ChunkPos chunk);
};

/// All generators; the plain one first.
std::span<const Generator> generators();
const Generator* findGenerator(std::string_view id);

/// What one sees of a column from above: water, or the topmost voxel of the ground where nothing overhangs.
/// Asserts that the terrain is no pattern.
Material surfaceMaterial(const Terrain& terrain, const ColumnPatch& columns, int x, int z);

/// Some voxels of `chunk`, by their places in it: for who wants few. `columns` as above.
/// Cost: up to 1 us each where caves and overhangs can be, 20 ns elsewhere; 10 us more a chunk.
std::vector<Material> voxelsAt(
    const Terrain& terrain, const ColumnPatch& columns, ChunkPos chunk, std::span<const VoxelPos> places);

/// Columns and voxels in one call, for those who want one chunk.
VoxelChunk generateChunk(const Generator& generator, const Terrain& terrain, ChunkPos chunk, int edge);

} // namespace fell::terrain
