// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/document_history.h>

namespace fell::app {

void DocumentHistory::begin(Document document)
{
    m_states = {std::move(document)};
    m_at = m_kept = 0;
    m_thing.clear();
}

void DocumentHistory::add(const Document& next, const QString& thing)
{
    constexpr qint64 kOneStepMs = 1000;
    constexpr std::size_t kMaxStates = 200;
    const bool isSameStep = !thing.isEmpty() && thing == m_thing && m_at > 0 && m_at != m_kept && m_changed.isValid()
        && m_changed.elapsed() < kOneStepMs;
    m_states.resize(m_at + 1);
    if (m_kept != SIZE_MAX && m_kept > m_at)
        m_kept = SIZE_MAX; // what was kept cannot be reached any more
    if (isSameStep)
        m_states.back() = next;
    else
        m_states.push_back(next);
    if (m_states.size() > kMaxStates) {
        m_states.erase(m_states.begin());
        m_kept = m_kept == 0 || m_kept == SIZE_MAX ? SIZE_MAX : m_kept - 1;
    }
    m_at = m_states.size() - 1;
    m_thing = thing;
    m_changed.start();
}

void DocumentHistory::undo()
{
    if (canUndo())
        --m_at;
    m_thing.clear();
}

void DocumentHistory::redo()
{
    if (canRedo())
        ++m_at;
    m_thing.clear();
}

} // namespace fell::app
