// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/job_queue.h>

#include <algorithm>
#include <utility>

namespace fell::stream {

void JobQueue::restart(ChunkPos origin)
{
    m_origin = origin;
    m_cursor = 0;
    m_waiting.clear();
    m_light.clear();
}

std::optional<ChunkPos> JobQueue::popGenerate()
{
    return m_cursor < m_order.size() ? std::optional(m_origin + m_order[m_cursor++]) : std::nullopt;
}

std::optional<ChunkPos> JobQueue::popMesh()
{
    if (m_mesh.empty())
        return std::nullopt;
    const ChunkPos chunk = m_mesh.top().chunk;
    m_mesh.pop();
    return chunk;
}

std::optional<std::int64_t> JobQueue::meshUrgency() const
{
    return m_mesh.empty() ? std::nullopt : std::optional(m_mesh.top().urgency);
}

std::vector<ChunkPos> JobQueue::meshOrder() const
{
    std::vector<ChunkPos> out;
    for (auto ready = m_mesh; !ready.empty(); ready.pop())
        out.push_back(ready.top().chunk);
    return out;
}

void JobQueue::clearMesh(const std::function<void(ChunkPos)>& visit)
{
    for (; !m_mesh.empty(); m_mesh.pop())
        visit(m_mesh.top().chunk);
}

void JobQueue::sortLight(const std::function<std::int64_t(ChunkPos)>& urgency)
{
    std::sort(m_light.begin(), m_light.end(), [&](ChunkPos a, ChunkPos b) { return urgency(a) < urgency(b); });
}

std::optional<ChunkPos> JobQueue::popLight()
{
    if (m_light.empty())
        return std::nullopt;
    const ChunkPos chunk = m_light.front();
    m_light.pop_front();
    return chunk;
}

std::vector<ChunkPos> JobQueue::takeWaiting()
{
    return std::exchange(m_waiting, {});
}

std::optional<JobQueue::Retry> JobQueue::popRetry(bool mayMesh, bool mayGenerate)
{
    if (m_retries.empty() || !(m_retries.front().kind == JobKind::Generate ? mayGenerate : mayMesh))
        return std::nullopt;
    const Retry retry = m_retries.front();
    m_retries.pop_front();
    return retry;
}

} // namespace fell::stream
