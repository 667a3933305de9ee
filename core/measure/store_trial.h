// SPDX-License-Identifier: Apache-2.0
// The same voxels held in each form: bytes, and what making, reading and changing costs.
#pragma once

#include <fell/measure/sample.h>
#include <fell/voxels/storage_formats.h>

#include <stop_token>
#include <string>
#include <vector>

namespace fell::measure {

/// `count` cubes of edge^3 voxels (16 to 256) that hold surface, in the order of VoxelChunk. Up to edge 64 they are
/// surfaceChunks; larger ones stand in a row at middleOfInterest, half of each below it. Fewer where the world has
/// fewer. `changes` may be null.
std::vector<std::vector<Material>> sampleCubes(const Terrain& terrain, const Generator& generator, int edge,
    std::size_t count, const std::stop_token& stop = {}, const WorldChanges* changes = nullptr);

struct StoreTrialRow {
    std::string form;
    double bytesPerChunk = 0;
    double buildNs = 0; // medians: making one chunk's form,
    double randomReadNs = 0; // reading one voxel somewhere,
    double rowReadNs = 0; // reading one row,
    double editNs = 0; // changing one voxel and changing it back, halved
    bool same = false; // every row read back what was given
};

struct StoreTrial {
    int edge = 0;
    std::size_t chunks = 0;
    std::vector<StoreTrialRow> rows;
    bool stopped = false;
};

/// Takes turns form by form for every cube.
StoreTrial runStoreTrial(const std::vector<std::vector<Material>>& cubes, int edge,
    const std::vector<const StorageFormat*>& forms, const std::stop_token& stop = {});

} // namespace fell::measure
