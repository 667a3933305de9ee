// SPDX-License-Identifier: Apache-2.0
// The table of forms. A new one is a file next to this one and a line here.
#include <fell/voxels/storage_formats.h>

#include <algorithm>
#include <array>

namespace fell::voxels {
namespace {

constexpr std::array<StorageFormat, 6> kForms{{
    {"array", "plain array", "2 bytes per voxel: the fastest to read and the largest.", holdArray},
    {"palette", "palette and bit planes",
        "A palette index of few bits per voxel: a fifth of the bytes. Rows are read nearly as fast.", holdPalette},
    {"runs", "runs in rows", "Runs of equal voxels: small where rows are even, edits move all that follows.", holdRuns},
    {"layers", "even or dense layers", "Layers of one material are one number: good for level worlds.", holdLayers},
    {"octree-wide", "octree, child indices", "36 bytes per node: fast to write, large, slow to read.", holdWideOctree},
    {"octree-narrow", "octree, mask and offset", "4 bytes per node: the smallest. An edit rebuilds it.",
        holdNarrowOctree},
}};

} // namespace

std::span<const StorageFormat> voxelForms()
{
    return kForms;
}

const StorageFormat* findForm(std::string_view id)
{
    const auto found = std::find_if(kForms.begin(), kForms.end(), [id](const StorageFormat& f) { return f.id == id; });
    return found == kForms.end() ? nullptr : &*found;
}

} // namespace fell::voxels
