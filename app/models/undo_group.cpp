// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/undo_group.h>

#include <cassert>
#include <utility>

namespace fell::app {

void UndoGroup::add(const QString& id, UndoDocument document)
{
    m_documents[id] = std::move(document);
}

void UndoGroup::setActive(const QStringList& ids)
{
    for ([[maybe_unused]] const QString& id : ids)
        assert(m_documents.contains(id));
    if (ids == m_active)
        return;
    m_active = ids;
    emit changed();
}

const UndoDocument* UndoGroup::undoable() const
{
    for (const QString& id : m_active)
        if (const UndoDocument& document = m_documents.at(id); document.canUndo())
            return &document;
    return nullptr;
}

const UndoDocument* UndoGroup::redoable() const
{
    for (const QString& id : m_active)
        if (const UndoDocument& document = m_documents.at(id); document.canRedo())
            return &document;
    return nullptr;
}

void UndoGroup::undo()
{
    if (const UndoDocument* document = undoable()) {
        document->undo();
        emit changed();
    }
}

void UndoGroup::redo()
{
    if (const UndoDocument* document = redoable()) {
        document->redo();
        emit changed();
    }
}

} // namespace fell::app

#include "moc_undo_group.cpp"
