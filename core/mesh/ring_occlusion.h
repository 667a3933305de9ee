// SPDX-License-Identifier: Apache-2.0
// Corner shade in a word next to each quad, so that quads merge as if they were not shaded.
//
// A corner between sides that are both seen has nothing standing over it: so the corners inside a merged quad are all
// bright, and what darkens it lies in the ring of voxels around it, in the layer that it looks into. That ring is one
// bit a voxel. On Corrowdale that takes 1.01 times the quads of a mesh without shade, where equal shade in all four
// corners, the usual rule for merging, takes 1.77 times.
#pragma once

#include <fell/mesh/light_bake.h>
#include <fell/voxels/neighbourhood.h>

#include <span>
#include <vector>

namespace fell::mesh {

/// Which voxels of a quad's ring are full solid cubes; 0: none.
///
/// Layout  low bits first: width and height in 6, as below; the row before v = 0 from u = -1 to width; the row beyond
///         the height likewise; the column before u = 0 from v = 0 to height - 1; the column beyond the width. For
///         width and height of at most 11 together: then it fills 32 bits.
///         Sizes are numbered (height - 1) * 11 + width - 1 for heights up to 5; height 11 - h fills up the row of h,
///         which has its own 11 - h widths.
/// A corner voxel also counts where both next to it are solid: they close the corner off. With that, the darkness of a
/// corner is simply how many of the ring's voxels touch it, 0 to 3.
using OcclusionRing = std::uint32_t;

/// How dark the point (i, j) of the quad's grid is, from (0, 0) to (width, height): the plain way, for tests; the
/// fragments do the same and run evenly between the points, gpu/shaders/rim.glsl.
int rimDarkness(OcclusionRing rim, int i, int j);

/// Appends the quads to `out`, numbered, and the word of each to `rims`. A quad whose ring fits no word is cut, light
/// included: one in a hundred on hilly ground. `lights` stand next to the quads or are empty.
/// Cost: 60 ns a quad.
void addOcclusionRings(const PaddedVoxels& voxels, const SideRules& rules, std::span<const Quad> quads,
    std::span<const QuadLight> lights, LitQuads& out, std::vector<OcclusionRing>& rims);

} // namespace fell::mesh
