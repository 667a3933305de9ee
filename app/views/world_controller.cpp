// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/world_controller.h>

#include <fell/app/models/text.h>
#include <fell/app/views/dialogs.h>
#include <fell/input/text_file.h>
#include <fell/terrain/recipe.h>

#include <QEventLoop>
#include <QFileInfo>

#include <cmath>

namespace fell::app {

template <typename Runner>
void WorldController::watch(Runner& runner, void (WorldController::*running)(bool), const QString& progress)
{
    connect(&runner, &Runner::changed, this, [this, &runner, running] { emit(this->*running)(runner.isRunning()); });
    connect(&runner, &Runner::broke, this, &WorldController::trouble);
    connect(&runner, &Runner::refused, this, &WorldController::trouble);
    connect(&runner, &Runner::progressed, this,
        [this, progress](double share) { emit note(progress.arg(std::lround(share * 100))); });
}

WorldController::WorldController(WorldSession& session, Dialogs& dialogs)
    : m_session(session)
    , m_dialogs(dialogs)
{
    m_session.keeper.mayReplace = [this] { return mayLeaveChanges(); };
    watchKeeper();
    watch(m_importer, &WorldController::importing, tr("Bringing in: %1 % (World, Stop bringing in ends it)"));
    connect(&m_importer, &ImportRunner::made, this, &WorldController::open);
    watch(m_exporter, &WorldController::exporting, tr("Exporting: %1 % (World, Stop exporting ends it)"));
    connect(&m_exporter, &ExportRunner::written, this, &WorldController::note);
}

bool WorldController::open(const QString& world)
{
    if (!mayLeave())
        return false;
    if (isDatabase(world.toStdString())) {
        m_session.keeper.open(world);
        return true;
    }
    auto recipe = findWorld(world.toStdString(), demoFolder());
    if (!recipe) {
        emit trouble(QString::fromStdString(sentence(recipe.problem())));
        return false;
    }
    m_session.open(makeTerrain(recipe.take()));
    m_session.keeper.follow(m_session.changes());
    emit replaced();
    sayWhatBecameOfRecipe();
    return true;
}

void WorldController::askOpen()
{
    const QString file = m_dialogs.openFile(tr("Open world or recipe"), QString::fromStdString(demoFolder().string()),
        tr("World or recipe (*.fell *.json)"));
    if (!file.isEmpty())
        open(file);
}

void WorldController::sayWhatBecameOfRecipe()
{
    const Recipe& recipe = m_session.terrain().recipe;
    QStringList said;
    for (const std::string& update : recipe.updates)
        said << QString::fromStdString(update);
    if (!said.isEmpty())
        said = {tr("The recipe is of an older version and was brought up to date here, not in its file: %1")
                    .arg(said.join(QStringLiteral("; ")))};
    if (const auto& warnings = recipe.blocks.warnings; !warnings.empty())
        said << tr("%1; a marked shape replaces it").arg(QString::fromStdString(sentence(warnings[0])));
    if (!said.isEmpty())
        emit note(said.join(QStringLiteral(". ")));
}

void WorldController::show(std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes)
{
    const Eye eye = m_session.eye;
    const QString file = m_session.keeper.fileName();
    m_session.open(std::move(terrain), std::move(changes));
    m_session.eye = eye;
    m_session.keeper.follow(m_session.changes());
    emit replaced();
    emit note(m_session.changes()->isEmpty() ? tr("The world is built again; Ctrl+1 shows it")
            : file.isEmpty()
            ? tr("The world is built again, with your changes. It is in no file yet: save it with Ctrl+Shift+S")
            : tr("The world is built again, with your changes. It is in no file yet: save it with Ctrl+Shift+S. "
                 "%1 keeps the world as it was saved last")
                  .arg(QFileInfo(file).fileName()));
}

void WorldController::save()
{
    if (m_session.keeper.hasFile())
        m_session.keeper.save();
    else
        askSaveAs();
}

bool WorldController::askSaveAs()
{
    const QString file = m_dialogs.saveFile(tr("Save world as"),
        QString::fromStdString(m_session.terrain().recipe.name).toLower().replace(QLatin1Char(' '), QLatin1Char('-'))
            + QStringLiteral(".fell"),
        tr("World (*.fell)"), false);
    if (!file.isEmpty())
        m_session.keeper.saveAs(file, headerOf(m_session.terrain(), m_session.setup().keep));
    return !file.isEmpty();
}

void WorldController::watchKeeper()
{
    connect(&m_session.keeper, &WorldKeeper::trouble, this, &WorldController::trouble);
    connect(&m_session.keeper, &WorldKeeper::opened, this,
        [this](const auto&, const std::shared_ptr<WorldChanges>& changes, const std::vector<DamagedRow>& damaged,
            const QString& readOnly,
            const std::vector<WorldFile::Text>& documents) { takeOpened(changes, damaged, readOnly, documents); });
    connect(&m_session.keeper, &WorldKeeper::saved, this,
        [this](const QString& file) { emit note(tr("Saved in %1").arg(file)); });
}

void WorldController::takeOpened(const std::shared_ptr<WorldChanges>& changes, const std::vector<DamagedRow>& damaged,
    const QString& readOnly, const std::vector<WorldFile::Text>& documents)
{
    const auto unread = m_session.take(documents);
    const bool isAllChanges
        = m_session.terrain().recipe.pattern && !m_session.changes()->isEmpty(); // an imported volume
    emit routesCame(isAllChanges ? QString::fromLatin1(kRoundChanges) : QString());
    emit replaced();
    if (unread)
        emit trouble(QString::fromStdString(sentence(*unread)));
    if (!damaged.empty())
        askDrop(damaged);
    else if (!readOnly.isEmpty())
        emit note(readOnly);
    else
        emit note(tr("Opened: %1 changed voxels in %2 chunks")
                      .arg(countText(changes->voxels()), countText(changes->chunks())));
}

/// Damaged rows: what is lost, and whether it is generated again.
void WorldController::askDrop(const std::vector<DamagedRow>& damaged)
{
    const auto answer = m_dialogs.choose({QStringLiteral("damageQuestion"), tr("Part of the world is damaged"),
        tr("%1 of the file cannot be read: %2 (%3). Everything else is there.")
            .arg(damaged.size() == 1 ? tr("One row") : tr("%1 rows").arg(damaged.size()))
            .arg(QString::fromStdString(damaged.front().where), QString::fromStdString(damaged.front().why)),
        tr("If the rows are replaced by what the recipe generates, the changes there are lost. If the file is left "
           "alone, it keeps the damaged rows for repair, and new changes there cannot be saved."),
        {{QStringLiteral("confirm"), tr("Replace them"), Question::Role::Accept},
            {QStringLiteral("decline"), tr("Leave the file alone"), Question::Role::Reject}}});
    if (answer == 0)
        m_session.keeper.dropDamaged(damaged);
}

bool WorldController::mayLeave()
{
    return mayLeaveChanges() && mayDiscardDocuments();
}

bool WorldController::mayLeaveChanges()
{
    WorldKeeper& keeper = m_session.keeper;
    keeper.save();
    waitUntilSaved();
    if (keeper.unsaved() == 0)
        return true;
    const auto answer = m_dialogs.choose({QStringLiteral("unsavedQuestion"), tr("Changes in no file"),
        tr("%1 voxels of this world were changed and are in no file.").arg(countText(m_session.changes()->voxels())),
        {},
        {{QStringLiteral("save"), tr("Save them…"), Question::Role::Accept},
            {QStringLiteral("confirm"), tr("Discard them"), Question::Role::Destroy},
            {QStringLiteral("decline"), tr("Stay here"), Question::Role::Reject}}});
    if (answer == 0) {
        askSaveAs();
        waitUntilSaved();
        return keeper.unsaved() == 0;
    }
    return answer == 1;
}

/// Only what is on the disk is saved: a save that fails gives its chunks back.
void WorldController::waitUntilSaved()
{
    WorldKeeper& keeper = m_session.keeper;
    if (!keeper.isSaving())
        return;
    QEventLoop untilSaved;
    connect(&keeper, &WorldKeeper::changed, &untilSaved, [&] {
        if (!keeper.isSaving())
            untilSaved.quit();
    });
    untilSaved.exec(QEventLoop::ExcludeUserInputEvents);
}

/// Documents that were changed and work that is under way would end with the world: asks. True if they may go.
bool WorldController::mayDiscardDocuments()
{
    QStringList lost = alsoLost ? alsoLost() : QStringList();
    if (m_session.routeEditor.isChanged())
        lost << tr("changes of the route");
    if (m_session.recorder)
        lost << tr("the route that is being recorded");
    if (m_importer.isRunning())
        lost << tr("the running import");
    if (lost.isEmpty())
        return true;
    return m_dialogs.confirms(QStringLiteral("unsavedDocumentsQuestion"), tr("Discard what is not saved?"),
        tr("This would be lost: %1.").arg(lost.join(tr(", "))), tr("Discard"), tr("Stay here"));
}

void WorldController::bringIn(const QString& file)
{
    if (m_importer.isRunning())
        return emit trouble(tr("Something is being brought in already; World, Stop bringing in ends it"));
    if (!importKindOf(file.toStdString()))
        return emit trouble(
            tr("%1 is neither a height map (.png), a volume (.nrrd) nor chunks (.chunks, fell-chunks.json)").arg(file));
    auto spec = m_dialogs.importOf(file, m_session.terrain().recipe);
    if (!spec)
        return;
    const QString out = m_dialogs.saveFile(tr("The world's file"),
        QFileInfo(file).completeBaseName() + QStringLiteral(".fell"), tr("World (*.fell)"), false);
    if (out.isEmpty())
        return;
    spec->out = out.toStdString();
    m_importer.start(*spec);
}

void WorldController::askBringIn()
{
    const QString file = m_dialogs.openFile(
        tr("Import"), {}, tr("Heights, volume or chunks (*.png *.nrrd *.chunks fell-chunks.json)"));
    if (!file.isEmpty())
        bringIn(file);
}

void WorldController::exportBox()
{
    if (m_exporter.isRunning())
        return emit trouble(tr("Something is being exported already; World, Stop exporting ends it"));
    constexpr double kAhead = 40; // voxels
    VoxelPos middle = moved(m_session.eye, forwardOf(m_session.eye) * kAhead).cell;
    if (m_session.editor.target)
        middle = m_session.editor.target->voxel;
    const auto choice = m_dialogs.exportOf(middle, m_session.terrain().recipe,
        QString::fromStdString(m_session.setup().mesh.mesher), [this](const VoxelBox& box) {
            m_session.look.change([&box](FieldLook& look) { look.box = {box.low, box.high}; });
        });
    m_session.look.change([](FieldLook& look) { look.box.reset(); });
    if (!choice)
        return;
    const std::filesystem::path out = choice->file.toStdString();
    std::error_code error;
    if (std::filesystem::exists(out, error)
        && !m_dialogs.confirms(QStringLiteral("replaceExportQuestion"), tr("Replace the file?"),
            tr("There is a file %1 already.").arg(choice->file), tr("Replace"), tr("Keep it")))
        return;
    std::vector<std::filesystem::path> read;
    if (m_session.keeper.hasFile())
        read.emplace_back(m_session.keeper.fileName().toStdString());
    if (auto problem = checkOutput(out, read))
        return emit trouble(QString::fromStdString(sentence(*problem)));
    m_exporter.start(
        {m_session.sharedTerrain(), m_session.changes()->copy(), m_session.setup(), choice->box, choice->format, out});
}

} // namespace fell::app

#include "moc_world_controller.cpp"
