// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/setup_history.h>

#include <nlohmann/json.hpp>

#include <algorithm>

namespace fell::app {

SetupHistory::SetupHistory(Setup first, QObject* parent)
    : QObject(parent)
    , m_states{std::move(first)}
{
}

void SetupHistory::inWorldOf(double voxelMetres)
{
    m_voxelMetres = voxelMetres;
    change(current());
}

void SetupHistory::change(const Setup& asked)
{
    Setup next = asked;
    if (settleDistance(next, m_voxelMetres)) // farther than what can be held
        next.stream.distance = hasLevels(next.lod) ? kFarthestWithLevels : kFarthestPlain;
    if (next == current())
        return;
    if (const auto problem = checkSetup(next)) {
        emit doesNotGoTogether(QString::fromStdString(sentence(*problem)));
        emit refused();
        return;
    }
    if (mayChange && !mayChange(next)) {
        emit refused();
        return;
    }
    const Setup before = current();
    const auto* path = findField("stream.distance");
    // Dragging the distance is one step to undo, not forty.
    Setup same = before;
    path->write(same, path->read(next));
    const bool onlyDistance = same == next && m_at > 0 && m_at + 1 == m_states.size();
    Setup earlier = onlyDistance ? m_states[m_at - 1] : before;
    path->write(earlier, path->read(next));
    if (onlyDistance && earlier == next) {
        m_states[m_at] = next;
    } else {
        m_states.resize(m_at + 1);
        m_states.push_back(next);
        ++m_at;
    }
    emit changed(current(), before);
}

bool SetupHistory::set(const std::string& path, const nlohmann::json& value)
{
    const SetupField* field = findField(path);
    Setup next = current();
    if (!field || writeField(*field, next, value))
        return false;
    // Without levels of detail nothing so far away could be held.
    if (!hasLevels(next.lod))
        next.stream.distance = std::min(next.stream.distance, kFarthestPlain);
    change(next);
    return true;
}

void SetupHistory::moveTo(std::size_t at)
{
    const Setup before = current();
    m_at = at;
    emit changed(current(), before);
}

void SetupHistory::undo()
{
    if (canUndo())
        moveTo(m_at - 1);
}

void SetupHistory::redo()
{
    if (canRedo())
        moveTo(m_at + 1);
}

} // namespace fell::app

#include "moc_setup_history.cpp"
