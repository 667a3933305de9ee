// SPDX-License-Identifier: Apache-2.0
// The table of meshers. A new one is a file beside this one and a line here.
#include <fell/mesh/meshers.h>

#include <algorithm>

namespace fell::mesh {
namespace {

constexpr std::array<Mesher, 5> kMeshers{{
    {"every", "every side", "Draws all six sides of every voxel that is not open, seen or not: where everybody begins.",
        meshEverySide, {.drawsHidden = true}},
    {"exposed", "exposed sides",
        "Draws the sides that can be seen, one quad each, looking into the neighbours at chunk borders.",
        meshExposedBits, {}},
    {"greedy", "greedy, as taught",
        "Merges equal sides to rectangles with a mask for each slice, the way it is usually taught.", meshGreedyTaught,
        {.mergesFaces = true}},
    {"greedy-bits", "greedy on bits",
        "The same rectangles from 64-bit rows of occupancy: the fastest here, and the fewest triangles.",
        meshGreedyBits, {.mergesFaces = true}},
    {"bevelled", "bevelled blocks",
        "Exposed sides with their edges towards air cut at 45 degrees: triangles, which no rectangle can merge.",
        meshBevelled, {.makesTriangles = true, .takesSeams = false, .keepsCubes = false}},
}};

constexpr std::array<ShadeMode, 3> kShadeModes{{
    {"none", "none", "Every side is lit evenly: the largest rectangles."},
    {"corners", "baked corners",
        "Corners beside solid blocks are darker, baked into the quads: only sides of equal shade are merged."},
    {"rim", "a word beside each quad",
        "Sides are merged as if unshaded; 4 bytes beside each quad say which voxels round it darken its corners."},
}};

} // namespace

std::span<const Mesher> meshers()
{
    return kMeshers;
}

int widestApron()
{
    return std::max_element(kMeshers.begin(), kMeshers.end(), [](const Mesher& a, const Mesher& b) {
        return a.traits.apron < b.traits.apron;
    })->traits.apron;
}

void meshSurface(const Mesher& mesher, const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    if (voxels.apron > mesher.traits.apron)
        mesher.mesh(narrowed(voxels, mesher.traits.apron), rules, out);
    else
        mesher.mesh(voxels, rules, out);
}

std::span<const ShadeMode> shadeModes()
{
    return kShadeModes;
}

const Mesher* findMesher(std::string_view id)
{
    const auto found = std::find_if(kMeshers.begin(), kMeshers.end(), [id](const Mesher& m) { return m.id == id; });
    return found == kMeshers.end() ? nullptr : &*found;
}

} // namespace fell::mesh
