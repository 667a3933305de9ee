// SPDX-License-Identifier: Apache-2.0
// The stage Mesh: from a chunk's voxels, with one layer of its neighbours', to quads.
#pragma once

#include "mesh/quad.h"
#include "voxels/neighbourhood.h"

#include <span>
#include <string>
#include <string_view>

namespace fell {

/// What a setup says about meshing.
struct MeshChoices {
    std::string mesher = "exposed";
    std::string layout = "packed";
    bool operator==(const MeshChoices&) const = default;
};

/// Appends to `out` the quads of `voxels`. Any thread; allocates only in `out`.
using MeshFunction = void (*)(const PaddedVoxels& voxels, std::vector<Quad>& out);

struct Mesher {
    const char* id;
    const char* title;
    const char* note; // one sentence for a tooltip
    MeshFunction mesh;
    bool skipsBuried; // writes nothing for a chunk that is solid with solid neighbours, so it need not be asked
};

/// All meshers, the plainest first.
std::span<const Mesher> meshers();
const Mesher* findMesher(std::string_view id);

/// Every side of every voxel that is not open: the plain beginning. 6 quads a solid voxel.
void meshEverySide(const PaddedVoxels& voxels, std::vector<Quad>& out);

/// Only sides that border an open voxel, one quad each, across chunk borders too, voxel by voxel: the plain way.
/// Shape  at most 3 * edge^3 quads. Cost: six looks at neighbours for each solid voxel.
void meshExposedSides(const PaddedVoxels& voxels, std::vector<Quad>& out);

/// The same sides in another order: a row of voxels is the bits of a word, and the sides of a direction are `a & ~b`.
/// Shape  as above. Cost: one pass over the voxels and about 5 ns a quad.
void meshExposedBits(const PaddedVoxels& voxels, std::vector<Quad>& out);

} // namespace fell
