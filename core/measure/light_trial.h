// SPDX-License-Identifier: Apache-2.0
// The same region flooded in each light mode, and single voxels changed in it.
#pragma once

#include <fell/light/light_world.h>
#include <fell/measure/sample.h>
#include <fell/measure/statistics.h>

#include <stop_token>
#include <string>
#include <vector>

namespace fell::measure {

/// A box of chunks with lamps in it. Beyond it nothing is; over it is the sky.
struct LightRegion {
    int edge = 32;
    ChunkPos low; // the lowest chunk
    std::array<int, 3> size{}; // chunks on x, y, z
    BlockSet blocks; // the world's, and a lamp if it had none
    Material lamp = kOpen, solid = kOpen;
    std::vector<VoxelChunk> chunks; // index (y * size z + z) * size x + x; plain arrays
    std::vector<VoxelPos> lamps;
    std::vector<VoxelPos> spare; // air voxels on the ground without a lamp, for edits
    [[nodiscard]] std::uint64_t voxels() const
    {
        return chunks.size() * static_cast<std::uint64_t>(edge) * static_cast<std::uint64_t>(edge * edge);
    }
};

struct LightRegionSpec {
    int edge = 32; // voxels
    std::array<int, 3> size{8, 4, 8}; // chunks
    int lamps = 500;
    std::uint64_t seed = 1;
};

/// The chunks round middleOfInterest, half of them above it. `changes` may be null. Lamps stand on the ground, in the
/// open and in caves, at random; fewer where there are fewer places. Deterministic.
LightRegion makeLightRegion(const Terrain& terrain, const Generator& generator, const LightRegionSpec& spec,
    const std::stop_token& stop = {}, const WorldChanges* changes = nullptr);

/// An open voxel next to each lamp that has one, at most 64.
std::vector<VoxelPos> besideLamps(const LightRegion& region);

/// Light of the whole region from its voxels, one thread: what the flood's time is of.
std::vector<ChunkLight> lightOfRegion(const LightRegion& region, const LightRules& rules, FloodScratch& scratch);
/// The region as a world to edit, with all levels known.
LightWorld worldOfRegion(const LightRegion& region, const LightRules& rules);
std::uint64_t digestOf(const std::vector<ChunkLight>& lights);

struct LightTrialRow {
    std::string mode;
    std::uint64_t voxels = 0, lamps = 0;
    Percentiles floodMs;
    double updatesPerS = 0; // levels above 0 that a flood sets, a second
    double bytesPerVoxel = 0;
    double lampOnUs = 0, lampOffUs = 0, blockPlacedUs = 0, blockRemovedUs = 0; // medians
    std::uint64_t digest = 0;
};

struct LightTrial {
    int edge = 32;
    std::vector<LightTrialRow> rows;
    bool stopped = false;
};

/// Floods with every mode `repeat` times, taking turns; then places and removes lamps and blocks next to them.
LightTrial runLightTrial(const LightRegion& region, const std::vector<const LightMode*>& modes, int repeat,
    const std::stop_token& stop = {});

} // namespace fell::measure
