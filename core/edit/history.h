// SPDX-License-Identifier: Apache-2.0
// Undo and redo of what was changed in a world: one entry for each use of a tool, however many voxels it changed.
#pragma once

#include <fell/save/changes.h>

#include <deque>
#include <string>

namespace fell::edit {

struct EditEntry {
    std::string title; // what was done, e.g. "remove a ball"
    std::vector<VoxelChange> changes;
};

/// The changes that take an entry back, in the opposite order.
std::vector<VoxelChange> inverse(std::span<const VoxelChange> changes);

/// A class because what can be undone and what can be redone must not overlap. One thread.
class EditHistory {
public:
    /// `most`: bytes of entries; the oldest are forgotten beyond it.
    explicit EditHistory(std::size_t max = std::size_t{256} << 20);

    /// What was done; what could be redone is gone.
    void add(EditEntry entry);
    /// Null where there is nothing. The entry goes over to the other side.
    const EditEntry* undo();
    const EditEntry* redo();
    [[nodiscard]] const EditEntry* nextUndo() const { return m_done.empty() ? nullptr : &m_done.back(); }
    [[nodiscard]] const EditEntry* nextRedo() const { return m_undone.empty() ? nullptr : &m_undone.back(); }
    void clear();
    [[nodiscard]] std::size_t bytes() const { return m_bytes; }
    [[nodiscard]] std::size_t size() const { return m_done.size(); }

private:
    std::deque<EditEntry> m_done, m_undone; // newest last
    std::size_t m_max, m_bytes = 0;
};

} // namespace fell::edit
