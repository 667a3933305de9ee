// SPDX-License-Identifier: GPL-3.0-or-later
// The states of a document while it is changed, for undo and redo.
#pragma once

#include <fell/namespaces.h>

#include <QElapsedTimer>
#include <QString>

#include <nlohmann/json.hpp>

#include <vector>

namespace fell::app {

class DocumentHistory {
public:
    using Document = nlohmann::ordered_json;

    void begin(Document document);
    [[nodiscard]] const Document& current() const { return m_states[m_at]; }
    /// Changes of the same thing within a second, e.g. one slider's, are one step.
    void add(const Document& next, const QString& thing);
    [[nodiscard]] bool canUndo() const { return m_at > 0; }
    [[nodiscard]] bool canRedo() const { return m_at + 1 < m_states.size(); }
    void undo();
    void redo();
    /// It is kept somewhere as it is now.
    void keep() { m_kept = m_at; }
    [[nodiscard]] bool isChanged() const { return m_at != m_kept; } // since it was begun or kept

private:
    std::vector<Document> m_states{Document::object()};
    std::size_t m_at = 0, m_kept = 0;
    QString m_thing; // that was changed last
    QElapsedTimer m_changed;
};

} // namespace fell::app
