// SPDX-License-Identifier: Apache-2.0
// The reference chunk: a fixed piece of work that tells how fast the machine is just now.
#pragma once

#include <fell/stream/streamer.h>

#include <array>
#include <mutex>
#include <thread>
#include <unordered_map>

namespace fell::measure {

/// Meshes the reference chunk once, as a streamer does: rolling ground of three kinds in a chunk of edge 16, gathered
/// from its 27 chunks, by greedy-bits into corners, with rims; the same bytes on every machine and for every setup.
/// Gives thread nanoseconds, some 50,000. Any thread.
double meshReferenceChunk();

/// Takes the reference's time next to every few chunks that a streamer meshes, on the thread that meshes them. A clock
/// that falls, or a neighbour on the machine, makes both slower: what a chunk takes in references hardly changes.
/// A class because workers add to one list. All members: any thread.
class ReferenceTimer {
public:
    /// For a streamer, which must end before this does.
    [[nodiscard]] Streamer::BeforeJob hook();
    /// What the reference took on the thread that meshed the chunk last, shortly before that: the median of three.
    [[nodiscard]] double referenceNsNear(ChunkPos chunk) const;

private:
    static constexpr unsigned kEach = 4; // meshed chunks of a thread: a hundredth of what a chunk costs on its way
    struct Worker {
        unsigned jobs = 0;
        std::array<double, 3> last{};
    };
    mutable std::mutex m_mutex;
    std::unordered_map<std::thread::id, Worker> m_workers;
    std::unordered_map<ChunkPos, double, ChunkPosHash> m_beside;
};

} // namespace fell::measure
