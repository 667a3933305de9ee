// SPDX-License-Identifier: Apache-2.0
// Light the plain way: one queue of coordinates a channel, the chunk looked up for each voxel. What the fast way is
// held against, in audits, tests and benchmarks.
#pragma once

#include <fell/light/light_rules.h>
#include <fell/voxels/voxel_chunk.h>

#include <unordered_map>
#include <vector>

namespace fell::audit {

/// Everything beyond its chunks is dark, but for the sky over the highest of them.
class PlainLight {
public:
    PlainLight(LightRules rules, int edge);

    void put(ChunkPos chunk, std::vector<Material> voxels);
    /// All levels from nothing. Cost: about 100 ns a voxel, channel and look at a neighbour.
    void flood();
    /// Changes a voxel and no level: flood comes after.
    void set(VoxelPos at, Material material);
    /// Changes a voxel and mends the levels, as it is usually taught: what may have had its light through the voxel is
    /// put out, then relit from the levels around it. Asserts: the voxel is there, and flood has run.
    void edit(VoxelPos at, Material material);

    [[nodiscard]] int level(VoxelPos at, int channel) const;
    [[nodiscard]] Material material(VoxelPos at) const; // open air where nothing is

private:
    struct Chunk {
        std::vector<Material> voxels;
        std::array<std::vector<std::uint8_t>, kMaxLightChannels> levels;
    };
    struct Lit {
        VoxelPos at;
        int level;
    };
    struct Seat {
        Chunk* chunk = nullptr;
        std::size_t voxel = 0;
    };
    [[nodiscard]] Seat seat(VoxelPos at);
    [[nodiscard]] int own(VoxelPos at, int channel);
    [[nodiscard]] bool isUnderSky(VoxelPos at);
    void light(std::vector<Lit>& queue, int channel);
    void putOut(std::vector<Lit>& queue, std::vector<Lit>& again, int channel);

    LightRules m_rules;
    int m_edge;
    std::unordered_map<ChunkPos, Chunk, ChunkPosHash> m_chunks;
    std::int64_t m_top = INT64_MIN; // voxels: at and above it nothing is
};

} // namespace fell::audit
