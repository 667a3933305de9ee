// SPDX-License-Identifier: Apache-2.0
// What one use of a tool changes: from the voxels that are there to the voxels that should be.
#pragma once

#include <fell/blocks/side_rules.h>
#include <fell/save/changes.h>

#include <span>
#include <string_view>

namespace fell::edit {

enum class ToolKind : std::uint8_t { Place, Remove, Box, Ball, Raise, Lower, Smooth, Paint, Blast };

struct Tool {
    ToolKind kind;
    const char* id;
    const char* title; // e.g. "place a block"
    const char* note; // one sentence for a tooltip
    bool takesRadius, takesMaterial;
};
std::span<const Tool> tools();
const Tool* findTool(std::string_view id);
const Tool& toolOf(ToolKind kind);

constexpr int kLargestRadius = 32; // voxels
constexpr int kLargestBox = 96; // voxels along an edge

struct ToolUse {
    ToolKind kind = ToolKind::Remove;
    VoxelPos at; // the voxel that was pointed at; Place: the one beyond its side
    VoxelPos to; // Box: the opposite corner, inside too
    int radius = 4; // voxels
    Material material = kOpen; // what is placed; open air digs a box or a ball
    std::uint64_t seed = 1; // Blast: of its ragged edge
};

/// What the use changes. `before` is what was read.
///   Place   the voxel, where it is open air or liquid
///   Remove  the voxel
///   Box     all voxels from `at` to `to`
///   Ball    all voxels whose middle is at most radius + 1/2 from the middle of `at`
///   Raise   columns within the radius grow by a smooth hill, radius / 3 high, of what lies on top of each
///   Lower   the same the other way, down to open air
///   Smooth  columns within the radius move towards the mean height of those around them
///   Paint   voxels of a ball that show a side to open air
///   Blast   a ball whose surface varies by up to a third of its radius, from the seed
/// Unknown voxels are left out. Asserts 0 <= radius <= kLargestRadius.
/// Cost    O(radius^3), Raise and Smooth O(radius^3) reads at most; a radius of 12 takes 0.1 to 0.3 ms.
std::vector<VoxelChange> changesOf(const ToolUse& use, const ReadVoxel& read, const SideRules& rules);

/// A voxel that a blast throws, for the picture.
struct DebrisPiece {
    VoxelPos from;
    Material material = kOpen;
    std::array<float, 3> velocity{}; // voxels a second
};
/// Some of what was removed round `at`, the outermost first, at most `most`; thrown outward and up as the seed says.
std::vector<DebrisPiece> debrisOf(
    std::span<const VoxelChange> removed, VoxelPos at, std::uint64_t seed, std::size_t max);

} // namespace fell::edit
