// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/lives.h>

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell::stream {

const char* wordOf(LifeStep step)
{
    constexpr std::array<const char*, kLifeStepCount> kWords{"generating", "generated", "lit", "meshing", "meshed",
        "nothing to see", "uploaded", "mesh released", "retired", "evicted", "failed", "edited", "meshed again"};
    return kWords.at(static_cast<std::size_t>(step));
}

LifeRecorder::LifeRecorder(std::size_t capacity)
    : m_capacity(capacity)
    , m_slots(std::make_unique<Slot[]>(capacity))
{
    assert(std::has_single_bit(capacity));
}

std::uint64_t LifeRecorder::nowNs() const
{
    return static_cast<std::uint64_t>(
        std::chrono::duration_cast<std::chrono::nanoseconds>(std::chrono::steady_clock::now() - m_start).count());
}

void LifeRecorder::note(ChunkPos chunk, LifeStep step, std::uint8_t thread, std::uint64_t costNs) noexcept
{
    const std::uint64_t event = m_next.fetch_add(1, std::memory_order_relaxed);
    Slot& slot = m_slots[event & (m_capacity - 1)];
    // Any event of an older round may be written over, since one that was lost leaves the slot at the round before it.
    // An odd sequence is being written; a later one belongs to a newer event.
    std::uint64_t before = slot.sequence.load(std::memory_order_acquire);
    if ((before & 1) != 0 || before > 2 * event
        || !slot.sequence.compare_exchange_strong(before, 2 * event + 1, std::memory_order_acq_rel)) {
        m_lost.fetch_add(1, std::memory_order_relaxed);
        return;
    }
    const std::uint64_t cost = std::min<std::uint64_t>(costNs, 0xFFFFFFFF);
    const std::array<std::uint64_t, 5> words{nowNs(), static_cast<std::uint64_t>(chunk.x),
        static_cast<std::uint64_t>(chunk.y), static_cast<std::uint64_t>(chunk.z),
        cost | std::uint64_t{thread} << 32 | static_cast<std::uint64_t>(step) << 40};
    for (std::size_t i = 0; i < words.size(); ++i) // release: a reader that sees a word sees the sequence before it
        slot.words[i].store(words[i], std::memory_order_release);
    slot.sequence.store(2 * event + 2, std::memory_order_release);
}

template <typename Keep> std::vector<LifeEvent> LifeRecorder::gather(const Keep& keep) const
{
    std::vector<LifeEvent> out;
    const std::uint64_t end = m_next.load(std::memory_order_acquire);
    for (std::uint64_t event = end > m_capacity ? end - m_capacity : 0; event < end; ++event) {
        const Slot& slot = m_slots[event & (m_capacity - 1)];
        if (slot.sequence.load(std::memory_order_acquire) != 2 * event + 2)
            continue;
        std::array<std::uint64_t, 5> words{};
        for (std::size_t i = 0; i < words.size(); ++i)
            words[i] = slot.words[i].load(std::memory_order_acquire);
        if (slot.sequence.load(std::memory_order_acquire) != 2 * event + 2)
            continue;
        const LifeEvent read{words[0],
            {static_cast<std::int64_t>(words[1]), static_cast<std::int64_t>(words[2]),
                static_cast<std::int64_t>(words[3])},
            static_cast<std::uint32_t>(words[4]), static_cast<std::uint8_t>(words[4] >> 32),
            static_cast<LifeStep>(words[4] >> 40)};
        if (keep(read))
            out.push_back(read);
    }
    std::stable_sort(out.begin(), out.end(), [](const LifeEvent& a, const LifeEvent& b) { return a.ns < b.ns; });
    return out;
}

std::vector<LifeEvent> LifeRecorder::all() const
{
    return gather([](const LifeEvent&) { return true; });
}

std::vector<LifeEvent> LifeRecorder::of(ChunkPos chunk) const
{
    return gather([chunk](const LifeEvent& event) { return event.chunk == chunk; });
}

} // namespace fell::stream
