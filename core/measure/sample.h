// SPDX-License-Identifier: Apache-2.0
// Which chunks of a world are measured: those that hold surface, near the place that the world is about.
#pragma once

#include <fell/measure/route.h>
#include <fell/save/changes.h>
#include <fell/terrain/generate.h>
#include <fell/voxels/neighbourhood.h>

#include <stop_token>

namespace fell::measure {

/// The voxels that samples are taken round: on the ground over the origin; where something was changed, in the changed
/// chunk that is nearest to the middle of all changed ones. `changes` may be null.
VoxelPos middleOfInterest(const Terrain& terrain, const WorldChanges* changes);

/// `count` chunks that hold some surface, gathered with their neighbours, the columns nearest to middleOfInterest first
/// and in each the layers nearest to it first where something was changed, else upward. Deterministic. Fewer where the
/// world has fewer within 64 chunks; of a pattern without any surface, chunks below its level 0.
/// Cost: about 27 chunks generated for each one.
std::vector<PaddedVoxels> surfaceChunks(const Terrain& terrain, const Generator& generator, int edge, std::size_t count,
    const std::stop_token& stop = {}, const WorldChanges* changes = nullptr);

/// A camera path round everything that was changed, looking at its middle; nothing where nothing was changed. For
/// worlds that are all changes, such as imported volumes: a demo's route would pass them by.
std::optional<Route> routeRoundChanges(const Terrain& terrain, const WorldChanges& changes);

} // namespace fell::measure
