// SPDX-License-Identifier: Apache-2.0
// In which order chunks are generated, meshed and lit. Holds places only: whether a piece of work is still to be done
// is for the resident set to say.
#pragma once

#include <fell/grid/coords.h>

#include <cstdint>
#include <deque>
#include <functional>
#include <optional>
#include <queue>
#include <utility>
#include <vector>

namespace fell::stream {

enum class JobKind : std::uint8_t { Generate, Mesh, Light };

/// A class because its counts and cursors must agree. Not thread-safe: its owner locks.
class JobQueue {
public:
    /// A try that threw is repeated after this many other jobs.
    static constexpr std::uint64_t kJobsBetweenTries = 16;
    struct Retry {
        JobKind kind;
        ChunkPos chunk;
        std::uint64_t after; // this many jobs have been given
    };

    /// The order in which places are generated, most urgent first, as offsets from an origin. restart() must follow.
    void setOrder(std::vector<ChunkPos> offsets) { m_order = std::move(offsets); }
    [[nodiscard]] std::vector<ChunkPos>& order() { return m_order; }
    /// Clears everything and moves to another origin. What waits to be lit or for coarser voxels is forgotten: it is to
    /// be offered again.
    void restart(ChunkPos origin);
    std::optional<ChunkPos> popGenerate();
    [[nodiscard]] std::size_t toGenerate() const { return m_order.size() - m_cursor; }
    /// Of those to generate, 0 is the next.
    [[nodiscard]] ChunkPos generateAt(std::size_t i) const { return m_origin + m_order[m_cursor + i]; }

    /// Lower numbers are more urgent.
    void offerMesh(std::int64_t urgency, ChunkPos chunk) { m_mesh.push({urgency, chunk}); }
    std::optional<ChunkPos> popMesh();
    [[nodiscard]] std::size_t toMesh() const { return m_mesh.size(); }
    [[nodiscard]] std::optional<std::int64_t> meshUrgency() const;
    /// All that is offered, most urgent first. Cost: a copy.
    [[nodiscard]] std::vector<ChunkPos> meshOrder() const;
    /// Takes out all that is offered, most urgent first.
    void clearMesh(const std::function<void(ChunkPos)>& visit);

    void offerLight(ChunkPos chunk) { m_light.push_back(chunk); }
    void sortLight(const std::function<std::int64_t(ChunkPos)>& urgency);
    std::optional<ChunkPos> popLight();
    [[nodiscard]] std::size_t toLight() const { return m_light.size(); }

    /// Ready but for coarser voxels: offered again when a chunk has been generated.
    void waitForCoarser(ChunkPos chunk) { m_waiting.push_back(chunk); }
    [[nodiscard]] std::vector<ChunkPos> takeWaiting();

    void retry(JobKind kind, ChunkPos chunk) { m_retries.push_back({kind, chunk, m_given + kJobsBetweenTries}); }
    /// The oldest retry, if its kind may be done now.
    std::optional<Retry> popRetry(bool mayMesh, bool mayGenerate);
    [[nodiscard]] bool hasDueRetry() const { return !m_retries.empty() && m_given >= m_retries.front().after; }
    [[nodiscard]] std::size_t retries() const { return m_retries.size(); }

    /// A job was given.
    void count() { ++m_given; }

private:
    struct Ready {
        std::int64_t urgency;
        ChunkPos chunk;
        bool operator<(const Ready& other) const { return urgency > other.urgency; } // the most urgent on top
    };
    std::vector<ChunkPos> m_order; // offsets
    ChunkPos m_origin;
    std::size_t m_cursor = 0; // everything in m_order before it has been given
    std::priority_queue<Ready> m_mesh;
    std::deque<ChunkPos> m_light; // meshed first, nearest first; some may have gone since
    std::vector<ChunkPos> m_waiting;
    std::deque<Retry> m_retries;
    std::uint64_t m_given = 0;
};

} // namespace fell::stream
