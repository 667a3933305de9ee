// SPDX-License-Identifier: Apache-2.0
// A chunk with its neighbours' layers, voxel by voxel.
#pragma once

#include "support/all_names.h"

#include <fell/voxels/neighbourhood.h>

#include <functional>

namespace fell::test {

constexpr Material kSolidCubes = 4;

inline PaddedVoxels paddedOf(int edge, const std::function<Material(int, int, int)>& at)
{
    PaddedVoxels out;
    out.edge = edge;
    out.voxels.assign(static_cast<std::size_t>((edge + 2) * (edge + 2) * (edge + 2)), 1);
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                out.voxels[out.index(x, y, z)] = at(x, y, z);
    return out;
}

} // namespace fell::test
