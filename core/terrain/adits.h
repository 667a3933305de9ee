// SPDX-License-Identifier: Apache-2.0
// Adits: level galleries that are driven into a hillside, with lamps, props and rails that come out onto a platform.
#pragma once

#include "terrain/columns.h"

namespace fell {

/// The adit of one cell of the rule's grid, wherever the question comes from; all of it lies within its cell, so two
/// never meet. It goes level from its mouth towards the steepest of four sides, as far as there is rock over it; where
/// there is not enough, there is none. Only on level 0: asserted.
/// Cost    nothing for most cells; else some 100 heights of the ground, 0.1 to 0.3 ms in Corrowdale.
std::optional<Adit> aditOfCell(const Terrain& terrain, const AditRule& rule, std::int64_t cellX, std::int64_t cellZ);

/// Those of all cells that touch the columns [x0, x0 + size) x [z0, z0 + size), in the order of rules and cells.
/// Cost    each thread remembers some hundred cells: 0.1 us for one that it has met.
std::vector<std::shared_ptr<const Adit>> aditsNear(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int size);

/// Has the part of a chunk that lies in the adits what they are made of. `voxels`: edge^3, x fastest, then z.
void stampAdits(
    std::span<const std::shared_ptr<const Adit>> adits, VoxelPos origin, int edge, std::span<Material> voxels);

} // namespace fell
