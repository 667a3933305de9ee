// SPDX-License-Identifier: Apache-2.0
// Where the sky begins over generated ground.
#pragma once

#include <fell/light/sky_height_map.h>
#include <fell/terrain/generate.h>

#include <functional>

namespace fell::stream {

/// Sees each chunk that was generated for the answer, from the top down; it may keep it.
using SeenChunk = std::function<void(ChunkPos chunk, VoxelChunk&& voxels, Transmission&& passes)>;

/// A shaft that is deeper lets no sky in any more: so that a world without ground has an end.
constexpr std::int64_t kDeepestSky = 4096; // voxels

/// Voxels at and above it are open over these columns, of the terrain's level; none if nothing is anywhere.
std::optional<std::int64_t> topOfTerrain(const Terrain& terrain, const ColumnPatch& columns);

/// Makes a chunk's voxels.
using MakeVoxels = std::function<VoxelChunk(ChunkPos chunk)>;

/// The sky's floor over one column of chunks (y is not looked at) of which everything at and above `top` is open, as
/// far down as `lowest`, a voxel's y: columns that are still open there have a floor at or below it. Goes no deeper
/// than kDeepestSky below the top.
/// Cost: makes the chunks from the top down to where no column is open any more, in Corrowdale two or three.
SkyHeightMap floorBelow(ChunkPos column, int edge, std::optional<std::int64_t> top, const MakeVoxels& make,
    const LightRules& rules, std::int64_t lowest, const SeenChunk& seen = {});
/// The same of generated terrain.
SkyHeightMap floorOfTerrain(const Terrain& terrain, const Generator& generator, const ColumnPatch& columns,
    const LightRules& rules, std::int64_t lowest, const SeenChunk& seen = {});

} // namespace fell::stream
