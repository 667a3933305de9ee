// SPDX-License-Identifier: Apache-2.0
// The form "palette" as a world's file reads and writes it: without a plain array in between.
#pragma once

#include <fell/voxels/storage_formats.h>

namespace fell::voxels {

/// The materials that occur, and each voxel's number among them as bit planes.
///
/// Layout  voxels in groups of 32 (of 16 where rows are that short), in order. Of each group a word for each bit of a
///         number: those of plane b of group g begin at byte (g * bits + b) * group / 8, lowest x in the lowest bit.
struct PalettePlanes {
    std::vector<Material> kinds; // by number; some may no longer occur
    unsigned bits = 0; // a number: bit_width(kinds - 1)
    std::vector<std::uint8_t> planes;
};

/// The bits of a number below `kinds`.
unsigned paletteBits(std::size_t kinds);
/// Kinds in the order in which they come. Cost: of edge 32, 15 to 90 us: a row that is as the one before costs little.
PalettePlanes planesOf(int edge, std::span<const Material> voxels);

/// Asserts: edge^3 numbers, each below `kinds`.
std::unique_ptr<VoxelStorage> holdPlanes(int edge, PalettePlanes planes);
/// Is each number below the number of kinds, and are there as many as the edge asks for? For planes that come from
/// elsewhere. Cost: an operation a word.
bool areSound(int edge, const PalettePlanes& planes);

} // namespace fell::voxels
