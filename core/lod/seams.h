// SPDX-License-Identifier: Apache-2.0
// What closes the gaps between chunks of different levels: sides that lie in a chunk's six borders.
#pragma once

#include <fell/light/light_rules.h>
#include <fell/light/padded_light.h>
#include <fell/mesh/chunk_mesh.h>
#include <fell/voxels/neighbourhood.h>

#include <array>

namespace fell::lod {

/// How the sides of seams are lit. They were hidden when light was flooded, so they take the level of the nearest open
/// voxel above them, or the whole sky.
struct SeamLight {
    const PaddedLight* light = nullptr; // null: not lit
    const LightMode* mode = nullptr;
};

/// Voxels of a rim that hang down below the last open one: deeper steps between two levels are not closed.
constexpr int kSkirtDepth = 12;

/// Skirts: of each border the sides of solid voxels that its own level hides, where open air lies no more than
/// kSkirtDepth voxels above them. Both chunks that meet hang theirs.
/// Cost  about 2 us a border that has a surface.
/// Source  T. Ulrich, "Rendering Massive Terrains Using Chunked Level of Detail Control", SIGGRAPH 2002 course notes;
///         there for height fields.
void hangSkirts(const PaddedVoxels& voxels, const SideRules& rules, const SeamLight& light, SeamQuads& out);

/// The coarser voxels that a chunk may meet: of its parent, and beyond the three borders that it shares with its
/// parent, in the order of the axes. Null where there is none.
struct CoarserAround {
    const VoxelChunk* parent = nullptr;
    std::array<const VoxelChunk*, 3> beyond{};
};
/// The border along an axis that a chunk shares with its parent: the other one lies within it.
constexpr Side outerSide(ChunkPos chunk, int axis)
{
    const std::int64_t at = axis == 0 ? chunk.x : axis == 1 ? chunk.y : chunk.z;
    return static_cast<Side>(axis * 2 + (at & 1 ? 0 : 1));
}

/// Stitches: in each border to coarser voxels, the sides where one of both is solid and the other open, whichever it
/// is, but for those that the chunks have in their own meshes. All are drawn by the finer chunk, so the coarser one
/// need not know how finely it is met. Cost  about 5 us a border that has a surface.
void stitch(ChunkPos chunk, const PaddedVoxels& voxels, const CoarserAround& coarser, const SideRules& rules,
    const SeamLight& light, SeamQuads& out);

} // namespace fell::lod
