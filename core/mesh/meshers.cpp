// SPDX-License-Identifier: Apache-2.0
// The table of meshers. A new one is a file beside this one and a line here.
#include "mesh/meshers.h"

#include <algorithm>

namespace fell {
namespace {

constexpr std::array<Mesher, 2> kMeshers{{
    {"every", "every side", "Draws all six sides of every solid voxel, seen or not: where everybody begins.",
        meshEverySide, false},
    {"exposed", "exposed sides",
        "Draws the sides that border an open voxel, looking into the neighbours at chunk borders.", meshExposedBits,
        true},
}};

} // namespace

std::span<const Mesher> meshers()
{
    return kMeshers;
}

const Mesher* findMesher(std::string_view id)
{
    const auto found = std::find_if(kMeshers.begin(), kMeshers.end(), [id](const Mesher& m) { return m.id == id; });
    return found == kMeshers.end() ? nullptr : &*found;
}

} // namespace fell
