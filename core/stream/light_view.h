// SPDX-License-Identifier: Apache-2.0
// Levels of single voxels of a streamed world, for probes and overlays.
#pragma once

#include <fell/light/light_path.h>
#include <fell/stream/streamer.h>

namespace fell::stream {

/// The levels of a box of voxels in one channel; index (y * size z + z) * size x + x, 255 where it is unknown.
struct LightVolume {
    VoxelPos low;
    std::array<int, 3> size{}; // voxels on x, y, z
    std::vector<std::uint8_t> levels;
    bool isWhole = true; // every level is known
};

/// A class because it holds on to the chunks that it was asked for, so that each is asked of the streamer once. For the
/// render thread, for one look: what changes later it does not see.
/// Cost: up to 0.1 ms for a chunk without light values yet, one look-up for a voxel after that.
class LightView {
public:
    LightView(const Streamer& streamer, int edge);

    /// Nothing where it is not known, now or ever.
    [[nodiscard]] std::optional<int> level(VoxelPos at, int channel);
    /// What the voxel is, where its chunk is there.
    [[nodiscard]] std::optional<Material> material(VoxelPos at);
    /// Back to the lamp or the sky. Empty where it is dark or not known.
    [[nodiscard]] std::vector<LightStep> path(VoxelPos from, int channel);
    [[nodiscard]] LightVolume volume(VoxelPos low, const std::array<int, 3>& size, int channel);

private:
    struct Held {
        std::shared_ptr<const VoxelChunk> voxels;
        std::shared_ptr<const ChunkLight> light;
        std::shared_ptr<const SkyHeightMap> floor;
    };
    const Held& held(ChunkPos chunk);
    [[nodiscard]] std::size_t indexOf(VoxelPos at, ChunkPos chunk) const;

    const Streamer& m_streamer;
    int m_edge;
    std::unordered_map<ChunkPos, Held, ChunkPosHash> m_held;
};

} // namespace fell::stream
