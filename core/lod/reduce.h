// SPDX-License-Identifier: Apache-2.0
// A coarser chunk made from the eight finer ones that it covers: for places where the world was changed, which no
// recipe knows of.
#pragma once

#include <fell/blocks/side_rules.h>
#include <fell/voxels/voxel_chunk.h>

#include <array>

namespace fell::lod {

/// The chunk of the next level. `parts` in the order of childOf, all of one edge; `above`: the four that lie on top of
/// the upper ones (x lowest bit, then z), or null where they are unknown: air then.
///
/// Each voxel represents eight. It is
///   solid  where at least half of the eight are, or where one of its four columns is solid throughout: ground stays
///          within half a voxel of its surface, and a wall or a ridge that is one voxel thin is not averaged away;
///   made of what is seen of it: the material that most of the eight show to what is open above them, else next to
///          them; where none is seen, the most frequent. Ties go to the lower number.
///   Elsewhere it is liquid or see-through where any of the eight is, by the same majority, and else open.
/// Cost  O(edge^3), about 20 ns a voxel of the result.
VoxelChunk reduced(const std::array<const VoxelChunk*, 8>& parts, const std::array<const VoxelChunk*, 4>& above,
    const SideRules& rules);

} // namespace fell::lod
