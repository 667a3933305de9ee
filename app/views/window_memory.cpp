// SPDX-License-Identifier: GPL-3.0-or-later
// What the window remembers between sessions, and its help.
#include <fell/app/models/text.h>
#include <fell/app/views/banner.h>
#include <fell/app/views/documents_dialog.h>
#include <fell/app/views/keys_dialog.h>
#include <fell/app/views/main_window.h>
#include <fell/app/views/theme.h>
#include <fell/measure/machine.h>
#include <fell/setup/stages.h>

#include <QAction>
#include <QFileInfo>
#include <QMenu>
#include <QMessageBox>
#include <QScreen>
#include <QWindow>

#include <algorithm>
#include <array>

namespace fell::app {
namespace {

/// Milliseconds that a frame may take: 60 frames a second on a GPU, 20 where the processor draws.
double budgetOf(const QString& driver)
{
    constexpr double kGpu = 16.6, kSoftware = 50;
    return driver.contains(QLatin1String("software")) ? kSoftware : kGpu;
}

} // namespace

QRect fittedTo(const QRect& free, const QRect& inner, const QMargins& frame)
{
    QRect outer = inner.marginsAdded(frame);
    outer.setSize(outer.size().boundedTo(free.size()));
    outer.moveTo(std::clamp(outer.left(), free.left(), free.right() - outer.width() + 1),
        std::clamp(outer.top(), free.top(), free.bottom() - outer.height() + 1));
    return outer.marginsRemoved(frame);
}

/// A window manager tells its frame a moment after the window is shown, and only then is it known whether all of it
/// fits.
void MainWindow::showEvent(QShowEvent* event)
{
    QMainWindow::showEvent(event);
    if (event->spontaneous())
        return;
    if (pageId() == QLatin1String("view.field"))
        m_field->setFocus(Qt::OtherFocusReason); // the keys fly at once
    constexpr std::array<int, 3> kLooks{100, 400, 1500}; // ms
    for (const int after : kLooks)
        QTimer::singleShot(after, this, [this] {
            if (isMaximized() || isFullScreen() || !windowHandle() || !screen())
                return;
            const QRect fitted = fittedTo(screen()->availableGeometry(), geometry(), windowHandle()->frameMargins());
            if (fitted != geometry())
                setGeometry(fitted);
        });
}

void MainWindow::restore(const Preferences& last)
{
    m_remembers = true;
    m_recent = last.recentWorlds;
    m_theme = last.theme;
    m_distances = last.distances;
    if (!last.geometry.isEmpty())
        restoreGeometry(last.geometry);
    for (auto at = last.keys.begin(); at != last.keys.end(); ++at) // first those that give keys away
        if (at.value().isEmpty())
            m_actions.setKeys(at.key(), {});
    for (auto at = last.keys.begin(); at != last.keys.end(); ++at)
        m_actions.setKeys(at.key(), at.value());
    const auto isLast = [&last](const Stage& stage) { return last.stage == QLatin1String(stage.id.c_str()); };
    if (std::any_of(stages().begin(), stages().end(), isLast)) {
        m_bench->openStage(last.stage);
        m_rail->select(last.stage);
    }
    const QStringList pages{"view.field", "view.transect", "plan", "view.recipe", "view.blocks"};
    if (pages.contains(last.page) && last.page != pageId())
        m_actions[last.page]->trigger();
}

QString MainWindow::pageId() const
{
    const QWidget* page = m_pages->currentWidget();
    return page == m_transect ? QStringLiteral("view.transect")
        : page == m_recipe    ? QStringLiteral("view.recipe")
        : page == m_blocks    ? QStringLiteral("view.blocks")
        : m_plan->isHidden()  ? QStringLiteral("view.field")
                              : QStringLiteral("plan");
}

Preferences MainWindow::preferences() const
{
    return {saveGeometry(), pageId(), m_bench->stage(), m_theme, m_recent, m_actions.changedKeys(), m_distances};
}

void MainWindow::noteRecent(const QString& world)
{
    m_recent = withRecent(m_recent, QFileInfo(world).absoluteFilePath());
}

void MainWindow::listRecent(QMenu* menu)
{
    menu->clear();
    for (int i = 0; i < m_recent.size(); ++i) {
        const QString& world = m_recent[i];
        QAction* action = menu->addAction(QFileInfo(world).fileName(), this, [this, world] { m_world.open(world); });
        action->setObjectName(QStringLiteral("recent=%1").arg(i));
        action->setToolTip(world);
    }
    if (m_recent.isEmpty())
        menu->addAction(tr("No world file yet"))->setEnabled(false);
    menu->setToolTipsVisible(true);
}

/// As far as the budget of the driver goes; a driver that was measured before is not measured again.
void MainWindow::fit()
{
    const FieldWindow* field = m_field->window();
    if (!m_fitsDistance || !field || field->driver().isEmpty())
        return;
    m_fitsDistance = false;
    if (!m_distances.contains(field->driver()))
        return findDistance();
    Setup fitted = m_session.setup();
    fitted.draw.budget = budgetOf(field->driver());
    fitted.stream.metres = m_distances[field->driver()];
    if (settleDistance(fitted, m_session.terrain().recipe.voxelMetres) || checkSetup(fitted))
        return; // found in a world of longer voxels
    const bool isFirst = m_session.eye == WorldSession::firstView(m_session.terrain(), m_session.setup());
    m_session.setups().change(fitted);
    if (isFirst)
        m_session.eye = WorldSession::firstView(m_session.terrain(), m_session.setup());
}

void MainWindow::findDistance()
{
    FieldWindow* field = m_field->window();
    if (!field || m_finder)
        return;
    m_finder.emplace(budgetOf(field->driver()));
    m_firstEye = m_session.eye;
    Setup first = m_session.setup();
    first.draw.budget = budgetOf(field->driver());
    first.stream.metres = m_finder->metres();
    m_session.setups().change(first);
    field->drawOn(true);
    m_banner->note(
        tr("Finding the render distance for frames of %1 ms on this driver …").arg(figureText(first.draw.budget)));
}

/// Frames that show all chunks of the distance count. A user who changes the setup ends the search.
void MainWindow::follow(const std::vector<FrameRecord>& frames)
{
    if (!m_finder)
        return;
    const FieldWindow* field = m_field->window();
    if (m_session.setup().stream.metres != m_finder->metres() || m_session.hasB())
        return endFinding();
    const Streamer* streamer = m_session.streamer();
    if (!streamer || !streamer->settled())
        return;
    for (const FrameRecord& frame : frames) {
        if (frame.meshesUploaded > 0 || !m_finder->addFrame(frame.totalMs()))
            continue;
        Setup next = m_session.setup();
        next.stream.metres = m_finder->metres();
        constexpr double kFarthestWithoutLevels = 512; // metres: chunks grow with the cube of the distance
        if (settleDistance(next, m_session.terrain().recipe.voxelMetres) || checkSetup(next)
            || (!hasLevels(next.lod) && next.stream.metres > kFarthestWithoutLevels)) {
            m_finder->end();
            next = m_session.setup();
            next.stream.metres = m_finder->metres();
        }
        m_session.setups().change(next);
        break; // the others show the distance before
    }
    if (const auto& found = m_finder->found()) {
        if (!found->isOver) // the machine may have been busy: measured again at the next start
            m_distances[field->driver()] = found->metres;
        if (m_session.eye == m_firstEye) // a smaller distance may need another first view
            m_session.eye = WorldSession::firstView(m_session.terrain(), m_session.setup());
        const QString figures = tr("%1 m: a frame takes %2 ms of %3 ms on this driver")
                                    .arg(figureText(found->metres), figureText(found->frameMs),
                                        figureText(m_session.setup().draw.budget));
        m_banner->note(found->isOver ? tr("Even %1. The stage that is marked on the rail costs most").arg(figures)
                                     : tr("Render distance %1. The slider goes farther").arg(figures));
        endFinding();
    }
}

void MainWindow::endFinding()
{
    m_finder.reset();
    if (FieldWindow* field = m_field->window())
        field->drawOn(false);
}

void MainWindow::showKeys()
{
    KeysDialog(m_actions, this).exec();
}

void MainWindow::showDocuments()
{
    const QDir folder(QString::fromStdString(documentsFolder().string()));
    if (!folder.exists(QStringLiteral("index.md")))
        return m_banner->trouble(tr("The documents are not at %1: install fell-doc").arg(folder.path()));
    if (auto* open = findChild<DocumentsDialog*>()) {
        open->raise();
        return open->activateWindow();
    }
    auto* dialog = new DocumentsDialog(folder, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->show(); // not modal: it is read during the work
}

void MainWindow::showAbout()
{
    const FieldWindow* field = m_field->window();
    QMessageBox box(
        QMessageBox::NoIcon, tr("About Fell"), QString::fromStdString(versionLine("Fell")), QMessageBox::Close, this);
    box.setObjectName(QStringLiteral("aboutBox"));
    box.setInformativeText(
        tr("A workbench for voxel terrain engines: exchange one method of the chunk pipeline and measure "
           "what it costs.\n\nDriver: %1\n\nThe window is under GPL-3.0-or-later, core, gpu and "
           "fell-cli are under Apache-2.0.")
            .arg(field ? field->driver() : m_field->trouble()));
    box.exec();
}

} // namespace fell::app
