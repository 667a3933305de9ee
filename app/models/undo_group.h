// SPDX-License-Identifier: GPL-3.0-or-later
// The histories of all documents, and whose Ctrl+Z it is now.
#pragma once

#include <fell/namespaces.h>

#include <QObject>
#include <QString>
#include <QStringList>

#include <functional>
#include <map>

namespace fell::app {

/// The history of one document.
struct UndoDocument {
    QString title; // "setup", as in "Undo change of setup"
    std::function<bool()> canUndo, canRedo;
    std::function<void()> undo, redo;
};

/// A class because documents, and which of them are active, belong together.
class UndoGroup : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;

    /// What the functions use must outlive the group. A document of the same id is replaced.
    void add(const QString& id, UndoDocument document);
    /// The documents that are worked on now: the first that has something to undo is undone. Asserts that each is
    /// known.
    void setActive(const QStringList& ids);
    [[nodiscard]] const QStringList& active() const { return m_active; }

    /// The document that undo() would change; null where there is nothing to undo.
    [[nodiscard]] const UndoDocument* undoable() const;
    [[nodiscard]] const UndoDocument* redoable() const;
    /// Does nothing where there is nothing to undo.
    void undo();
    void redo();
    /// To be called after a change that did not come through this group.
    void note() { emit changed(); }

signals:
    void changed(); // also after undo, redo and setActive

private:
    std::map<QString, UndoDocument> m_documents;
    QStringList m_active;
};

} // namespace fell::app
