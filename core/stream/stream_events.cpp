// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/stream_events.h>

#include <fell/stream/timed_lock.h>

#include <iterator>
#include <utility>

namespace fell::stream {

void EventMailbox::send(StreamEvent event)
{
    m_pendingBytes += event.mesh.mesh.bytes();
    ++m_pending;
    const std::scoped_lock lock(m_mutex);
    m_events.push_back(std::move(event));
}

void EventMailbox::sendAll(std::vector<StreamEvent> events)
{
    if (events.empty())
        return;
    for (const StreamEvent& event : events)
        m_pendingBytes += event.mesh.mesh.bytes();
    m_pending += events.size();
    const std::scoped_lock lock(m_mutex);
    std::move(events.begin(), events.end(), std::back_inserter(m_events));
}

void EventMailbox::collect(std::deque<StreamEvent>& to, std::atomic<std::uint64_t>& longestLockNs)
{
    std::vector<StreamEvent> events;
    {
        const TimedLock lock(m_mutex, longestLockNs);
        if (lock)
            events.swap(m_events);
    }
    std::move(events.begin(), events.end(), std::back_inserter(to));
}

std::size_t EventMailbox::taken(std::size_t bytes)
{
    --m_pending;
    return m_pendingBytes.fetch_sub(bytes);
}

} // namespace fell::stream
