// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/runs.h>

#include <cassert>
#include <iterator>

namespace fell::gpu {

std::optional<ElementRun> Runs::take(std::uint32_t count)
{
    assert(count > 0);
    for (auto free = m_free.begin(); free != m_free.end(); ++free) {
        if (free->second < count)
            continue;
        const ElementRun run{free->first, count};
        const std::uint32_t left = free->second - count;
        m_free.erase(free);
        if (left > 0)
            m_free.emplace(run.first + count, left);
        m_used += count;
        return run;
    }
    return std::nullopt;
}

void Runs::release(const ElementRun& run)
{
    if (run.count == 0)
        return;
    auto [at, isNew] = m_free.emplace(run.first, run.count);
    assert(isNew);
    m_used -= run.count;
    if (const auto next = std::next(at); next != m_free.end()) {
        assert(run.first + run.count <= next->first);
        if (run.first + run.count == next->first) {
            at->second += next->second;
            m_free.erase(next);
        }
    }
    if (at != m_free.begin()) {
        const auto before = std::prev(at);
        assert(before->first + before->second <= run.first);
        if (before->first + before->second == at->first) {
            before->second += at->second;
            m_free.erase(at);
        }
    }
}

void Runs::grow(std::uint32_t size)
{
    assert(size >= m_size);
    const ElementRun added{m_size, size - m_size};
    m_size = size;
    m_used += added.count; // which release takes off again
    release(added);
}

} // namespace fell::gpu
