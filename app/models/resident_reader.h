// SPDX-License-Identifier: GPL-3.0-or-later
// Reads single voxels of a streamed world on the render thread, frame after frame.
#pragma once

#include <fell/stream/streamer.h>

#include <unordered_map>

namespace fell::app {

/// A class because it remembers chunks: while a worker keeps the books, the chunk's last known voxels are used, so
/// that the body does not fall through the ground for a frame.
class ResidentReader {
public:
    /// A new frame: chunks are asked for again. `epoch` tells one streamer from the next.
    void begin(const Streamer* streamer, std::uint64_t epoch);
    /// Nothing where the chunk is not there, and never was.
    [[nodiscard]] std::optional<Material> read(VoxelPos at);
    [[nodiscard]] ReadVoxel reader()
    {
        return [this](VoxelPos at) { return read(at); };
    }

private:
    static constexpr std::size_t kMax = 256; // chunks

    const Streamer* m_streamer = nullptr;
    std::uint64_t m_epoch = 0;
    std::unordered_map<ChunkPos, std::shared_ptr<const VoxelChunk>, ChunkPosHash> m_known;
    ChunkPos m_last{INT64_MIN, 0, 0};
    const VoxelChunk* m_voxels = nullptr; // of m_last
};

} // namespace fell::app
