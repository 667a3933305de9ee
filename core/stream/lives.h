// SPDX-License-Identifier: Apache-2.0
// What happened to which chunk, when, on which thread and at what cost.
#pragma once

#include <fell/grid/coords.h>

#include <array>
#include <atomic>
#include <chrono>
#include <memory>
#include <vector>

namespace fell::stream {

enum class LifeStep : std::uint8_t {
    Generating, // a thread has begun
    Generated, // cost: thread time
    Lit, // cost: thread time; part of meshing, or alone where light comes later
    Meshing,
    Meshed,
    Bare, // meshed without work: nothing of it can be seen
    Uploaded, // cost: time of the render thread
    Released, // its mesh has left GPU memory
    Retired, // its voxels are gone
    Evicted, // the same, since nearer chunks needed the memory
    Failed, // generating or meshing threw
    Edited, // its voxels were changed; cost: thread time
    Remeshed, // the new mesh of a chunk that an edit touched; cost: thread time
};
constexpr std::size_t kLifeStepCount = 13;
/// In words, e.g. "generated".
const char* wordOf(LifeStep step);

struct LifeEvent {
    std::uint64_t ns = 0; // since the recorder's start
    ChunkPos chunk;
    std::uint32_t costNs = 0;
    std::uint8_t thread = 0; // 0 is the render thread, workers count from 1
    LifeStep step = LifeStep::Generating;
    bool operator==(const LifeEvent&) const = default;
};

/// The last events of all chunks, in a ring. Any thread writes and reads at any time; none waits.
///
/// A class because a slot's sequence number guards its words: a reader drops what is being written, and a writer that
/// comes round to a slot whose last writer has not ended drops its own event and counts it.
/// Cost    note: about 60 ns, most of it the clock. all, of: one pass over the ring, 0.3 ms for 65,536 slots.
class LifeRecorder {
public:
    /// Asserts that `capacity` is a power of two.
    explicit LifeRecorder(std::size_t capacity = std::size_t{1} << 16);

    void note(ChunkPos chunk, LifeStep step, std::uint8_t thread, std::uint64_t costNs = 0) noexcept;

    /// What the ring still holds, oldest first.
    [[nodiscard]] std::vector<LifeEvent> all() const;
    [[nodiscard]] std::vector<LifeEvent> of(ChunkPos chunk) const;
    [[nodiscard]] std::uint64_t noted() const { return m_next; }
    [[nodiscard]] std::uint64_t lost() const { return m_lost; } // never written; those overwritten are not counted
    [[nodiscard]] std::uint64_t nowNs() const;

private:
    struct Slot {
        std::atomic<std::uint64_t> sequence{0}; // of event i: 2i + 1 while it is written, 2i + 2 after
        std::array<std::atomic<std::uint64_t>, 5> words{}; // ns, x, y, z, cost and thread and step
    };
    template <typename Keep> [[nodiscard]] std::vector<LifeEvent> gather(const Keep& keep) const;

    std::size_t m_capacity;
    std::unique_ptr<Slot[]> m_slots;
    std::atomic<std::uint64_t> m_next{0}, m_lost{0};
    std::chrono::steady_clock::time_point m_start = std::chrono::steady_clock::now();
};

} // namespace fell::stream
