// SPDX-License-Identifier: Apache-2.0
// The stage Mesh: from a chunk's voxels and its neighbours' next to it to a surface of quads and triangles.
#pragma once

#include <fell/blocks/side_rules.h>
#include <fell/mesh/chunk_surface.h>
#include <fell/voxels/neighbourhood.h>

#include <span>
#include <string>
#include <string_view>

namespace fell::mesh {

/// What a setup says about meshing.
struct MeshChoices {
    std::string mesher = "greedy-bits";
    std::string layout = "corners";
    std::string ambientOcclusion = "rim";
    std::string models = "baked";
    bool operator==(const MeshChoices&) const = default;
};

/// What a mesher is told next to the voxels.
struct MeshRules {
    const SideRules* sides = nullptr; // of the block set that the voxels' materials are from
    bool ambientOcclusion = false; // darken corners of quads by the full solid cubes next to them; see cornerOcclusion
    bool shadeTriangles = false; // the same of triangles, which no word next to them can darken
};

/// Appends to `out` the surface of all cubes in `voxels`, which have the apron that its traits ask for. Blocks of other
/// shapes are left to bakeShapes. Any thread; allocates only in `out`.
using MeshFunction = void (*)(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out);

/// What a mesher makes and takes. checkSetup refuses choices that do not go together; audits and trials ask here what
/// to expect.
struct MesherTraits {
    bool makesQuads = true, makesTriangles = false;
    bool mergesFaces = false; // a quad may be larger than one side
    /// Draws sides between solid cubes too, so a chunk among solid ones must be asked; others draw nothing there.
    bool drawsHidden = false;
    int apron = kMinApron; // layers of voxels beyond the chunk that it reads; kMinApron to kMaxApron
    bool takesOcclusion = true; // mesh.shade other than none
    bool takesSeams = true; // its border can be closed where levels of detail meet
    bool keepsCubes = true; // fills whole cubes, so that what is behind one is hidden: for the cull step "hidden"
};

/// A mesher that was loaded from outside (plugin/loaded_mesher.h). Any thread.
class OutsideMesher {
public:
    virtual ~OutsideMesher() = default;
    /// As MeshFunction. Throws std::runtime_error with one sentence where the mesher fails.
    virtual void mesh(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out) const = 0;
};

/// Calls a function of Fell's own or a mesher from outside.
class MeshCall {
public:
    constexpr MeshCall(MeshFunction own) // NOLINT(google-explicit-constructor): the table names functions
        : m_own(own)
    {
    }
    explicit constexpr MeshCall(const OutsideMesher& outside)
        : m_outside(&outside)
    {
    }
    void operator()(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out) const
    {
        if (m_outside)
            m_outside->mesh(voxels, rules, out);
        else
            m_own(voxels, rules, out);
    }

private:
    MeshFunction m_own = nullptr;
    const OutsideMesher* m_outside = nullptr;
};

struct Mesher {
    const char* id;
    const char* title;
    const char* note; // one sentence for a tooltip
    MeshCall mesh;
    MesherTraits traits;
};

/// All meshers, the plainest first; those from outside last, in the order in which they were added.
std::span<const Mesher> meshers();
/// The mesher of this id. Of one from outside, "name@hash", the name alone is enough while no other has it; so is the
/// name with another hash: a setup that was saved with one build is measured with the one that is loaded.
const Mesher* findMesher(std::string_view id);

constexpr std::size_t kMaxOutsideMeshers = 1000; // builds: one that is changed and loaded all day
/// Adds a mesher from outside for as long as the process lives. What it points to must live as long.
/// Errors  Null where kMaxOutsideMeshers are there. Asserts that no other has its id.
/// Threads  Any; the table may be read meanwhile.
const Mesher* addMesher(const Mesher& mesher);

/// The widest apron that one of the table's meshers asks for: chunks that are meshed in all ways are gathered with it.
int widestApron();
/// Meshes voxels that have the mesher's apron or a wider one, which costs a copy.
void meshSurface(const Mesher& mesher, const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out);

struct ShadeMode {
    const char* id;
    const char* title;
    const char* note;
};
/// Shade: "none"; "corners", darkness baked into the quads; "rim", in a word next to each (mesh/ring_occlusion.h).
std::span<const ShadeMode> shadeModes();

/// Every side of every cube that is not open: the plain beginning. 6 quads a voxel.
void meshEverySide(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out);

/// Only sides that can be seen (isSideSeen), one quad each, across chunk borders too, voxel by voxel: the plain way.
/// Shape  at most 6 * edge^3 quads. Cost: six looks at neighbours for each voxel.
void meshExposedSides(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out);

/// The same sides in another order: a row of voxels is the bits of a word, and the sides of a direction are `a & ~b`.
/// Shape  as above. Cost: one pass over the voxels and about 5 ns a quad.
void meshExposedBits(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out);

/// The sides that can be seen, merged to rectangles of equal material and shade, a mask for each slice and direction:
/// the way it is usually taught. Cells are visited row by row; a rectangle grows along its row first, then over rows.
/// Rows run along x (y and z sides) or z (x sides).
/// Source  common practice since about 2012; no paper.
void meshGreedyTaught(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out);

/// The very same quads from bits: a row of cells is a word, and so is "may join its neighbour along the row" and "over
/// rows"; a rectangle's width is a count of trailing ones, its height a count of rows that hold its mask.
/// Cost  about four passes over the voxels and 5 to 10 ns a quad.
void meshGreedyBits(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out);

/// The sides that can be seen, edges towards air cut at 45 degrees, an eighth of a voxel wide: triangles where a side
/// or an edge is cut, unit quads elsewhere. What lies behind a cube shows past its cut edges.
/// Cost  about 200 ns for each side with a cut edge.
void meshBevelled(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out);

/// How dark the four corners of a side are, looked up voxel by voxel: the plain way, for tests and the plain meshers.
/// A corner counts the full solid cubes among the three voxels next to it in the layer that the side looks into; two
/// that meet at the corner close it off (3).
std::uint8_t cornerOcclusion(const PaddedVoxels& voxels, const SideRules& rules, int x, int y, int z, Side side);

} // namespace fell::mesh
