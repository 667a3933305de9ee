// SPDX-License-Identifier: Apache-2.0
#include <fell/edit/history.h>

#include <utility>

namespace fell::edit {
namespace {

std::size_t bytesOf(const EditEntry& entry)
{
    return sizeof entry + entry.title.capacity() + entry.changes.capacity() * sizeof(VoxelChange);
}

} // namespace

std::vector<VoxelChange> inverse(std::span<const VoxelChange> changes)
{
    std::vector<VoxelChange> out;
    out.reserve(changes.size());
    for (auto one = changes.rbegin(); one != changes.rend(); ++one)
        out.push_back({one->at, one->after, one->before});
    return out;
}

EditHistory::EditHistory(std::size_t max)
    : m_max(max)
{
}

void EditHistory::add(EditEntry entry)
{
    for (const EditEntry& gone : m_undone)
        m_bytes -= bytesOf(gone);
    m_undone.clear();
    m_done.push_back(std::move(entry));
    m_bytes += bytesOf(m_done.back());
    while (m_bytes > m_max && m_done.size() > 1) {
        m_bytes -= bytesOf(m_done.front());
        m_done.pop_front();
    }
}

const EditEntry* EditHistory::undo()
{
    if (m_done.empty())
        return nullptr;
    m_undone.push_back(std::move(m_done.back()));
    m_done.pop_back();
    return &m_undone.back();
}

const EditEntry* EditHistory::redo()
{
    if (m_undone.empty())
        return nullptr;
    m_done.push_back(std::move(m_undone.back()));
    m_undone.pop_back();
    return &m_done.back();
}

void EditHistory::clear()
{
    m_done.clear();
    m_undone.clear();
    m_bytes = 0;
}

} // namespace fell::edit
