// SPDX-License-Identifier: Apache-2.0
// What a chunk's columns of ground have in common with all chunks above and below: height, slope, materials, features.
#pragma once

#include <fell/terrain/terrain.h>

namespace fell::terrain {

/// The columns of ground of one chunk position on the plan. Arrays of edge^2, index = z * edge + x.
struct ColumnPatch {
    int edge = 0;
    std::int64_t x0 = 0, z0 = 0; // voxels: the lowest column
    std::vector<float> height; // voxels: where the ground is if nothing overhangs
    std::vector<float> push; // voxels that the density may move it; 0 on gentle ground
    std::vector<std::uint32_t> rules; // bit i: slope and patches allow stratum i here
    std::vector<Material> cover; // a landform's material on top
    std::vector<Material> wall; // on the ground
    std::vector<std::uint8_t> wallHeight; // voxels
    PlacedFeatures features; // all that may reach into these columns, in the order in which they are stamped
    float lowest = 0, highest = 0, maxPush = 0; // over all columns
    std::int64_t top = 0; // voxels at and above it are open air or nothing
    bool anyCover = false, anyWall = false;
};

/// One column, sampled alone.
struct ColumnSample {
    float height = 0, slope = 0, push = 0;
    std::uint32_t rules = 0;
    Material cover = kOpen, wall = kOpen;
    std::uint8_t wallHeight = 0;
};

/// The columns of the chunk whose lowest column is (x0, z0), noise a block at a time.
/// Cost: about 0.2 ms for edge 32 in Corrowdale; shared by all chunks of the column.
ColumnPatch columnsByBlocks(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int edge);

/// The same, to the bit, each column alone: the plain way.
ColumnPatch columnsBySamples(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int edge);

/// One column of the ground. Cost: five heights, about 1.5 us in Corrowdale.
ColumnSample columnAt(const Terrain& terrain, std::int64_t x, std::int64_t z);

/// How the ground lies around a column.
struct Rise {
    float slope = 0;
    float fall = 0; // to the lower neighbour on x and that on z, together: to the lowest of all eight, nearly
};

/// The material of flat ground in a column: the first rule that holds just below the surface.
Material surfaceMaterial(const Terrain& terrain, const ColumnSample& column);
/// A wall's height in voxels, at most 250.
std::uint8_t wallVoxels(const Terrain& terrain, double metres);

/// The height of the ground in voxels, without overhangs: for placing viewers and drawing maps.
float groundHeight(const Terrain& terrain, std::int64_t x, std::int64_t z);

} // namespace fell::terrain
