// SPDX-License-Identifier: Apache-2.0
// What a streamer counts: atomics that any thread adds to, and the plain numbers that are read of them.
#pragma once

#include <fell/lod/selection.h>

#include <array>
#include <atomic>
#include <cstdint>

namespace fell::stream {

class ResidentSet;

/// Counters since the start. Read at any time; each is exact, together they may be a moment apart.
struct StreamCounts {
    std::uint64_t generated = 0, lit = 0, meshed = 0, retired = 0; // chunks
    std::uint64_t known = 0; // of those generated: that had their voxels from before
    std::uint64_t relit = 0; // meshes that got their light without being meshed again
    std::uint64_t generateNs = 0, lightNs = 0, meshNs = 0, relightNs = 0, sightNs = 0; // thread time
    std::uint64_t resident = 0; // chunks with voxels or on their way to them
    std::uint64_t edits = 0; // asked for, and not yet ready
    std::uint64_t toGenerate = 0, toLight = 0, toMesh = 0, toUpload = 0; // queues; toLight: later, see LightChoices
    std::uint64_t voxelBytes = 0, lightBytes = 0, meshBytes = 0, pendingBytes = 0;
    std::uint64_t dropped = 0, evicted = 0; // pieces of work made void before they began; chunks that memory pushed out
    std::uint64_t failures = 0, failed = 0; // tries that threw; chunks given up
    std::uint64_t longestLockNs = 0; // that the render thread held
    std::uint64_t holds = 0, heldNs = 0; // how often and how long workers waited for a frame (Streamer::beginFrame)
    bool full = false; // held back by the setup's memory
    double fullAt = 0; // chunks: how far what is missing for want of memory begins
    bool settled = false; // everything within the distance is made and taken
    std::uint64_t levelsMissing = 0; // with levels: places of the coarsest level of which nothing is there
    std::uint64_t levelsWaiting = 0; // chunks that stand in for finer ones
    std::array<std::uint64_t, kMaxLevel + 1> shownAt{}; // chunks that are shown, by level
};

struct StreamStats {
    using Count = std::atomic<std::uint64_t>;
    Count generated{0}, lit{0}, relit{0}, meshed{0}, retired{0}, evicted{0}, failures{0}, failed{0}, dropped{0};
    Count generateNs{0}, lightNs{0}, meshNs{0}, relightNs{0}, sightNs{0};
    Count resident{0}, toGenerate{0}, toLight{0}, toMesh{0};
    Count voxelBytes{0}, lightBytes{0}, meshBytes{0};
    mutable Count longestLockNs{0}; // of the render thread
    Count holds{0}, heldNs{0};
    std::atomic<bool> full{false};
    std::atomic<double> fullAt{0};
    Count levelsMissing{0}, levelsWaiting{0};
    std::array<Count, kMaxLevel + 1> shownAt{};

    /// Sizes and queues as the resident set has them. The resident set's lock is held.
    void publish(const ResidentSet& chunks);
    /// All of these; what is under way (edits, uploads, settled) is left to the streamer.
    [[nodiscard]] StreamCounts counts() const;
};

} // namespace fell::stream
