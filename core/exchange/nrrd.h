// SPDX-License-Identifier: Apache-2.0
// A box of the world as arrays of numbers, for others to check.
#pragma once

#include <fell/exchange/surface.h>
#include <fell/light/light_rules.h>
#include <fell/save/changes.h>

#include <functional>
#include <string>

namespace fell::exchange {

/// Nearly raw raster data (Kindlmann, "Definition of NRRD file format", version 5), encoding raw, little-endian.
///
/// Shape   voxels: uint16, axes x, y, z, x fastest: material numbers, 0 open air.
///         light: uint8, axes channel, x, y, z, channel fastest: levels 0 to 15. What a channel is, and what every
///         material absorbs and emits, is in the header's key/value pairs.
/// Cost    generates the chunks of the box, for light also those around it and above it up to the sky.
/// `changes`: what was changed of the world, or null. `stop` is asked between chunks; the result is then not complete.
ExportFile voxelsToNrrd(const Terrain& terrain, const Generator& generator, const VoxelBox& box,
    const std::function<bool()>& stop = {}, const WorldChanges* changes = nullptr);
ExportFile lightToNrrd(const Terrain& terrain, const Generator& generator, const LightMode& mode, const VoxelBox& box,
    const std::function<bool()>& stop = {}, const WorldChanges* changes = nullptr);

} // namespace fell::exchange
