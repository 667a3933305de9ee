// SPDX-License-Identifier: Apache-2.0
// The table of meshers. A new one is a file next to this one and a line here.
#include <fell/mesh/meshers.h>

#include <algorithm>

namespace fell::mesh {
namespace {

constexpr std::array<Mesher, 5> kMeshers{{
    {"every", "every face", "Emits all six faces of every solid voxel: 12 triangles per voxel. The baseline.",
        meshEverySide, {.drawsHidden = true}},
    {"exposed", "exposed faces", "Emits one quad per exposed face. Reads the neighbours at chunk borders.",
        meshExposedBits, {}},
    {"greedy", "greedy, masks", "Merges equal faces into rectangles, with a mask per slice: the textbook method.",
        meshGreedyTaught, {.mergesFaces = true}},
    {"greedy-bits", "greedy, bits",
        "Merges equal faces into the same rectangles, from 64-bit rows of occupancy: a fraction of the time.",
        meshGreedyBits, {.mergesFaces = true}},
    {"bevelled", "bevelled blocks",
        "Exposed faces with edges towards air cut at 45 degrees. Emits triangles, which are not merged.", meshBevelled,
        {.makesTriangles = true, .takesSeams = false, .keepsCubes = false}},
}};

constexpr std::array<ShadeMode, 3> kShadeModes{{
    {"none", "none", "No ambient occlusion (AO): the largest rectangles."},
    {"corners", "AO at corners", "Quads store AO at their corners. Only faces of equal AO are merged."},
    {"rim", "AO ring per quad", "4 bytes per quad store the ring of voxels around it. Faces are merged as without AO."},
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
