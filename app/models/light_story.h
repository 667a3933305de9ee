// SPDX-License-Identifier: GPL-3.0-or-later
// What is said of the light of a voxel, and the way that it came.
#pragma once

#include <fell/stream/light_view.h>

#include <QString>

namespace fell::app {

struct LightStory {
    QString levels; // "red lamps 12 · sky 15"
    QString source; // "from lantern-post at 3, 4, 5, 9 voxels away"; empty where it is dark
    std::vector<VoxelPos> path; // from the voxel to its source
};

/// The light of `at` in every channel, and the way of one of them: `wanted`, or without it the brightest lamp channel,
/// else the sky. Nothing where no light is known.
std::optional<LightStory> lightStoryOf(
    LightView& view, const LightMode& mode, const BlockSet& blocks, VoxelPos at, std::optional<int> wanted);

} // namespace fell::app
