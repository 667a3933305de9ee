// SPDX-License-Identifier: GPL-3.0-or-later
// Portal, saving, importing and exporting worlds, and what is asked before one is left.
#pragma once

#include <fell/app/models/export_runner.h>
#include <fell/app/models/import_runner.h>
#include <fell/app/models/world_session.h>

#include <QObject>

namespace fell::app {

class Dialogs;

class WorldController : public QObject {
    Q_OBJECT
public:
    /// Both must outlive it.
    WorldController(WorldSession& session, Dialogs& dialogs);

    /// Opens a world file, a recipe file or a demo by name. False with a sentence where something is wrong with it or
    /// the user stays; nothing changes then. A world file is there once its reading has ended.
    bool open(const QString& world);
    void askOpen();
    /// A world that was made of the recipe or the blocks that are changed, seen from where the eye is.
    void show(std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes);
    /// Into the world's file, or asks for one.
    void save();
    bool askSaveAs();
    /// Asks what a height map or a volume is to become, and makes a world of it.
    void bringIn(const QString& file);
    void askBringIn();
    /// Asks for a box and a file, and writes the box's surface. The box begins around the block that is pointed at,
    /// else around what the eye looks at.
    void exportBox();
    /// Asks about changes that are in no file. True if the window may close, or another world may come.
    bool mayLeave();
    bool mayLeaveChanges();
    /// Tells of a recipe of an older version, and of one whose models are missing.
    void sayWhatBecameOfRecipe();

    [[nodiscard]] ImportRunner& importer() { return m_importer; }
    [[nodiscard]] ExportRunner& exporter() { return m_exporter; }
    /// Documents and work of others that would end with the world, each in a few words.
    std::function<QStringList()> alsoLost;

signals:
    void trouble(const QString& sentence);
    void note(const QString& sentence);
    /// Another world is shown, or this one from a changed recipe.
    void replaced();
    /// A world file brought its routes; `chosen` is the one to walk, empty for that in use.
    void routesCame(const QString& chosen);
    void importing(bool isRunning);
    void exporting(bool isRunning);

private:
    void watchKeeper();
    /// Tells of a task's end and failures, and of its progress in percent, the %1 of the text.
    template <typename Runner>
    void watch(Runner& runner, void (WorldController::*running)(bool), const QString& progress);
    void takeOpened(const std::shared_ptr<WorldChanges>& changes, const std::vector<DamagedRow>& damaged,
        const QString& readOnly, const std::vector<WorldFile::Text>& documents);
    void askDrop(const std::vector<DamagedRow>& damaged);
    void waitUntilSaved();
    bool mayDiscardDocuments();

    WorldSession& m_session;
    Dialogs& m_dialogs;
    ImportRunner m_importer;
    ExportRunner m_exporter;
};

} // namespace fell::app
