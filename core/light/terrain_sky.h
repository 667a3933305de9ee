// SPDX-License-Identifier: Apache-2.0
// Where the sky begins over generated ground.
#pragma once

#include "light/flood.h"
#include "terrain/generate.h"

#include <functional>

namespace fell {

/// Sees each chunk that was generated for the answer, from the top down; it may keep it.
using SeenChunk = std::function<void(ChunkPos chunk, VoxelChunk&& voxels, LightPasses&& passes)>;

/// A shaft that is deeper lets no sky in any more: so that a world without ground has an end.
constexpr std::int64_t kDeepestSky = 4096; // voxels

/// The sky's floor over chunk column (x, z) of generated terrain, as far down as `lowest`, a voxel's y: columns that
/// are still open there have a floor at or below it. Goes no deeper than kDeepestSky below the highest thing.
/// Cost: generates the chunks from the highest thing of the column down to where no column is open any more, in
/// Corrowdale two or three.
SkyFloor floorOfTerrain(const Terrain& terrain, const Generator& generator, const ColumnPatch& columns,
    const LightRules& rules, std::int64_t lowest, const SeenChunk& seen = {});

} // namespace fell
