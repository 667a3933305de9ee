// SPDX-License-Identifier: Apache-2.0
// What the parts of a streamer work on: the resident chunks, where their voxels and sky come from, how they are built.
#pragma once

#include <fell/stream/chunk_builder.h>
#include <fell/stream/level_source.h>
#include <fell/stream/lives.h>
#include <fell/stream/resident_set.h>
#include <fell/stream/sky_cache.h>
#include <fell/stream/stream_events.h>
#include <fell/stream/stream_stats.h>

#include <atomic>
#include <memory>
#include <mutex>
#include <vector>

namespace fell::stream {

/// What chunks of one level of detail are made from.
struct LevelChunks {
    LevelSource source;
    SkyCache sky;
    template <typename... From>
    LevelChunks(const LightRules& rules, const StorageFormat& form, std::size_t max, From&&... from)
        : source(std::forward<From>(from)...)
        , sky(source, rules, form, max)
    {
    }
};

/// `chunks` is guarded by `chunksMutex`; the render thread only tries that lock. Everything else is constant while
/// chunks are made, or thread-safe.
struct StreamWorld {
    StreamWorld(std::shared_ptr<const Terrain> ground, const Setup& setup, std::shared_ptr<WorldChanges> edits,
        std::shared_ptr<KnownVoxels> knownVoxels);

    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<WorldChanges> changes; // never null
    std::shared_ptr<KnownVoxels> known; // may be null
    BuildRules rules;
    std::vector<std::unique_ptr<LevelChunks>> levels; // by level; one without levels of detail

    mutable std::mutex chunksMutex;
    ResidentSet chunks;
    int running = 0; // jobs; guarded by chunksMutex
    std::string firstError; // what the first job that threw said; guarded by chunksMutex

    LifeRecorder lives;
    StreamStats stats;
    EventMailbox events;
    std::atomic<std::uint64_t> idleVersion{0}; // of the request that is fulfilled; 0: there is work again

    [[nodiscard]] LevelChunks& levelOf(int level) const { return *levels[static_cast<std::size_t>(level)]; }
    [[nodiscard]] bool hasSky() const { return rules.light.mode->sky > 0; }
    /// Where light may pass in voxels of the rules' block set; null without light.
    [[nodiscard]] std::shared_ptr<const Transmission> passesIn(const VoxelChunk& voxels) const;
    /// In the setup's form.
    [[nodiscard]] std::shared_ptr<const VoxelChunk> stored(const VoxelChunk& voxels) const;
    /// The input that a job's chunk is built from. The job must outlive it.
    [[nodiscard]] BuildInput inputOf(const ChunkJob& job) const;
    /// Counts what was built of a chunk, and notes in its life that it was lit.
    void count(ChunkPos chunk, const BuiltChunk& built, std::uint8_t thread);
};

/// What the resident set keeps of it.
MeshResult resultOf(const BuiltChunk& built);
/// An event that hands on what was built of a chunk.
StreamEvent uploadOf(ChunkPos chunk, BuiltChunk&& built);

} // namespace fell::stream
