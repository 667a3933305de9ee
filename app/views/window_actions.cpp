// SPDX-License-Identifier: GPL-3.0-or-later
// The actions of the window, a table a menu.
#include <fell/app/views/edit_panel.h>
#include <fell/app/views/main_window.h>
#include <fell/app/views/theme.h>

#include <QAction>
#include <QMenu>
#include <QMenuBar>
#include <QStackedWidget>

namespace fell::app {

QMenuBar* MainWindow::buildMenus()
{
    auto* bar = new QMenuBar(nullptr);
    const auto menu = [this, bar](const QString& title, const std::vector<ActionEntry>& entries) {
        QMenu* made = bar->addMenu(title);
        made->setToolTipsVisible(true);
        m_actions.addTo(made, entries);
        return made;
    };
    QMenu* world = menu(tr("&World"), worldActions());
    auto* recent = new QMenu(tr("Recent worlds"), world);
    recent->setObjectName(QStringLiteral("recentMenu"));
    world->insertMenu(m_actions["world.save"], recent);
    connect(recent, &QMenu::aboutToShow, this, [this, recent] { listRecent(recent); });
    QMenu* setup = menu(tr("&Setup"), setupActions());
    QMenu* compare = setup->addMenu(tr("Compare with setup B"));
    compare->setObjectName(QStringLiteral("compareMenu"));
    m_actions.addTo(compare, compareActions());
    const auto enableWhereThereIs = [](QMenu* shown, QAction* last, bool b) {
        connect(shown, &QMenu::aboutToShow, last,
            [last, b] { last->setEnabled(std::filesystem::exists(lastSetupFile(b))); });
    };
    enableWhereThereIs(setup, m_actions["lastSetup"], false);
    enableWhereThereIs(compare, m_actions["setup.b-last"], true);
    menu(tr("&Edit"), editActions());
    menu(tr("&View"), viewActions());
    menu(tr("&Measure"), measureActions());
    menu(tr("&Help"), helpActions());
    m_actions["world.stop-import"]->setEnabled(false);
    m_actions["setup.cancel-check"]->setEnabled(false);
    m_actions["world.stop-export"]->setEnabled(false);
    bar->setObjectName(QStringLiteral("menus"));
    return bar;
}

std::vector<ActionEntry> MainWindow::worldActions()
{
    std::vector<ActionEntry> out{
        {"world.open", tr("Open world or recipe…"), QKeySequence::Open, tr("Opens a world file or a recipe."),
            [this] { m_world.askOpen(); }},
        {"world.save", tr("Save world"), QKeySequence::Save,
            tr("Saves all edits to the world file. Autosave does this every 20 seconds."), [this] { m_world.save(); }},
        {"world.save-as", tr("Save world as…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
            tr("Saves the recipe and all edits to a new file."), [this] { m_world.askSaveAs(); }},
        {"world.import", tr("Import…"), {},
            tr("Imports a height map (PNG) or a voxel volume (NRRD) as a world file, after a preview."),
            [this] { m_world.askBringIn(); }},
        {"world.stop-import", tr("Cancel import"), {}, tr("Stops the import and deletes its output."),
            [this] { m_world.importer().stop(); }},
        {"world.export", tr("Export…"), {},
            tr("The surface of a box of the world as glTF, PLY or OBJ; the field shows the box while you choose it."),
            [this] { m_world.exportBox(); }},
        {"world.stop-export", tr("Cancel export"), {}, tr("Stops the export. No file is written."),
            [this] { m_world.exporter().stop(); }},
        {},
    };
    const std::pair<const char*, QString> demos[]{{"corrowdale", tr("Corrowdale")}, {"gallery", tr("Lit gallery")},
        {"level", tr("Level ground")}, {"checker", tr("Checkerboard")}, {"dust", tr("Dust")},
        {"solid", tr("One solid block")}};
    for (const auto& [name, title] : demos)
        out.push_back({QStringLiteral("demo=%1").arg(QLatin1String(name)), tr("Demo: %1").arg(title), {},
            tr("Opens this world with the setup in use."),
            [this, id = QString::fromLatin1(name)] { m_world.open(id); }});
    out.push_back({});
    out.push_back({"world.first-view", tr("Reset camera"), QKeySequence(Qt::Key_Home),
        tr("Moves the camera to the first view of the world."),
        [this] { m_session.eye = WorldSession::firstView(m_session.terrain(), m_session.setup()); }});
    out.push_back({"world.quit", tr("Quit"), QKeySequence::Quit, {}, [this] { close(); }});
    return out;
}

std::vector<ActionEntry> MainWindow::setupActions()
{
    return {
        {"undo", tr("Undo change of setup"), QKeySequence::Undo,
            tr("Undoes a change of the visible document: recipe, block set, route, else setup. With a tool "
               "selected, or the Edit bench open, the last edit of the world."),
            [this] {
                syncUndo(); // the bench may be another since
                m_undo.undo();
            }},
        {"redo", tr("Redo change of setup"), QKeySequence::Redo, {},
            [this] {
                syncUndo();
                m_undo.redo();
            }},
        {},
        {"setup.valley", tr("Use setup: valley"), {}, tr("The whole valley in levels of detail."),
            [this] { m_setups.open(QStringLiteral("valley")); }},
        {"setup.near", tr("Use setup: near"), {}, tr("The best method of every stage."),
            [this] { m_setups.open(QStringLiteral("near")); }},
        {"setup.long-view", tr("Use setup: long-view"), {},
            tr("Eight kilometres in every direction, in levels of detail."),
            [this] { m_setups.open(QStringLiteral("long-view")); }},
        {"setup.plain", tr("Use setup: plain"), {}, tr("The simplest method of every stage."),
            [this] { m_setups.open(QStringLiteral("plain")); }},
        {"lastSetup", tr("Use setup: last session's"), {}, tr("The setup that was in use when Fell was closed last."),
            [this] { m_setups.openLast(); }},
        {"setup.open", tr("Open setup…"), {}, {}, [this] { m_setups.askOpen(); }},
        {"setup.save", tr("Save setup as…"), {}, tr("Saves every setting of the setup in use to a file."),
            [this] { m_setups.askSave(); }},
        {},
        {"setup.load-method", tr("Load method…"), {},
            tr("Adds a mesher from a shared library. It is checked in a separate process first, and loaded again when "
               "its file changes."),
            [this] { m_methods.askLoad(); }},
        {"setup.cancel-check", tr("Cancel check of method"), {}, tr("Stops the check. The method is not loaded."),
            [this] { m_methods.loader().cancel(); }},
        {"setup.keep-old-build", tr("Compare new builds with old"), {},
            tr("When a loaded method is built again, setup A keeps the old build and B takes the new one."),
            [this] { m_methods.keepOldBuilds(m_actions["setup.keep-old-build"]->isChecked()); }, true},
        {},
    };
}

std::vector<ActionEntry> MainWindow::compareActions()
{
    return {
        {"setup.b-plain", tr("B: plain"), {}, tr("The simplest method of every stage, next to the setup in use."),
            [this] { m_setups.compareWith(QStringLiteral("plain")); }},
        {"setup.b-near", tr("B: near"), {}, tr("The best method of every stage, next to the setup in use."),
            [this] { m_setups.compareWith(QStringLiteral("near")); }},
        {"setup.b-copy", tr("B: a copy of A to change"), QKeySequence(Qt::CTRL | Qt::Key_B),
            tr("Change one thing and see what it does: click B's row on the rail."),
            [this] { m_setups.compareWith(QString()); }},
        {"setup.b-open", tr("B: from a file…"), {}, {}, [this] { m_setups.askCompare(); }},
        {"setup.b-last", tr("B: last session's"), {}, tr("The setup B that was in use when Fell was closed last."),
            [this] { m_setups.compareWithLast(); }},
        {"setup.b-none", tr("No setup B"), {}, tr("Only the setup in use is drawn."),
            [this] { m_setups.compareWith(std::nullopt); }},
    };
}

std::vector<ActionEntry> MainWindow::editActions()
{
    std::vector<ActionEntry> out{
        {"edit.undo", tr("Undo edit"), QKeySequence(Qt::ALT | Qt::Key_Z),
            tr("Takes back the last use of a tool, light included."), [this] { m_session.undoEdit(); }},
        {"edit.redo", tr("Redo edit"), QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_Z), {},
            [this] { m_session.redoEdit(); }},
        {},
    };
    for (const Tool& tool : tools())
        out.push_back(
            {QStringLiteral("tool=%1").arg(QLatin1String(tool.id)), tr("Tool: %1").arg(QString::fromUtf8(tool.title)),
                keyOf(tool.kind), QString::fromUtf8(tool.note), [this, kind = tool.kind] {
                    showField();
                    m_session.editor.take(kind);
                }});
    out.push_back({"edit.put-away", tr("Deselect tool"), {},
        tr("The mouse only looks around again. Esc does the same."), [this] { m_session.editor.take(std::nullopt); }});
    return out;
}

std::vector<ActionEntry> MainWindow::viewActions()
{
    std::vector<ActionEntry> out{
        {"view.field", tr("Field"), QKeySequence(Qt::CTRL | Qt::Key_1), tr("Fly through the world."),
            [this] {
                showField();
                showPlan(false);
            }},
        {"view.transect", tr("Transect"), QKeySequence(Qt::CTRL | Qt::Key_2), tr("Measure against render distance."),
            [this] { showTransect(); }},
        {"view.recipe", tr("Recipe"), QKeySequence(Qt::CTRL | Qt::Key_4),
            tr("The layers of the world, with a map and a section."), [this] { showRecipe(); }},
        {"view.blocks", tr("Block types"), QKeySequence(Qt::CTRL | Qt::Key_5),
            tr("All block types: their look and their light."), [this] { showBlocks(); }},
        {"plan", tr("Plan"), QKeySequence(Qt::CTRL | Qt::Key_3),
            tr("The chunks from above and from the side, next to the field."),
            [this] { showPlan(!m_plan->isVisible()); }},
        {"view.bench", tr("Go to the bench"), QKeySequence(Qt::CTRL | Qt::Key_E),
            tr("Moves the keyboard focus to the methods of the stage. Ctrl+1 moves it back to the field."),
            [this] {
                if (m_pages->currentIndex() != 0)
                    showField();
                showPlan(false);
                m_bench->takeFocus();
            }},
        {},
    };
    for (auto&& entries : {lookActions(), surfaceActions(), sunActions()})
        out.insert(out.end(), entries.begin(), entries.end());
    out.push_back({"view.dark", tr("Dark theme (slate)"), QKeySequence(Qt::CTRL | Qt::Key_D), {},
        [this] {
            setDark(m_actions["view.dark"]->isChecked());
            m_theme = currentTheme().name;
        },
        true});
    out.push_back(
        {"view.find", tr("Find an action"), QKeySequence(Qt::CTRL | Qt::Key_K), {}, [this] { findAction(); }});
    return out;
}

std::vector<ActionEntry> MainWindow::lookActions()
{
    const auto toggles = [this](bool FieldLook::*part) {
        return [this, part] { m_session.look.change([part](FieldLook& look) { look.*part = !(look.*part); }); };
    };
    return {
        {"view.walk", tr("Walk"), QKeySequence(Qt::Key_F),
            tr("Switches between walking and flying. On foot there is gravity; Space jumps."),
            [this] {
                showField();
                m_session.walk(!m_session.isWalking());
            }},
        {"view.wireframe", tr("Wireframe"), QKeySequence(Qt::Key_F5), tr("Shows the edges of the triangles."),
            toggles(&FieldLook::wireframe)},
        {"view.freeze", tr("Freeze culling"), QKeySequence(Qt::Key_F6),
            tr("Culling stays as at this camera position while the camera flies on. Again: unfreeze."),
            [this] {
                m_session.look.change([this](FieldLook& look) {
                    look.frozen = look.frozen ? std::nullopt : std::optional(m_session.eye);
                });
            }},
        {"view.ghosts", tr("Show culled chunks"), QKeySequence(Qt::Key_F7),
            tr("Draws culled chunks in the colour of the step that rejected them."), toggles(&FieldLook::ghosts)},
        {"view.octree", tr("Octree"), QKeySequence(Qt::Key_F8), tr("Draws the nodes of the world octree as lines."),
            toggles(&FieldLook::octree)},
        {"view.reset", tr("Reset view"), {},
            tr("Shows textures by daylight again: no wireframe, no culled chunks, no octree; culling follows the "
               "camera."),
            [this] { m_session.look.set({}); }},
        {"view.unmark", tr("Clear selection"), QKeySequence(Qt::Key_Escape),
            tr("Deselects the tool, else clears the marked chunk and restores the field of view."),
            [this] {
                ToolHand& editor = m_session.editor;
                if (editor.boxFrom())
                    editor.dropBox();
                else if (editor.tool())
                    editor.take(std::nullopt);
                else
                    m_session.unmark();
            }},
    };
}

std::vector<ActionEntry> MainWindow::surfaceActions()
{
    std::vector<ActionEntry> out;
    const std::pair<QString, Paint> paints[]{{tr("Surface: textures"), Paint::Textures},
        {tr("Surface: normals"), Paint::Normals}, {tr("Surface: quads by size"), Paint::QuadSizes},
        {tr("Surface: levels of detail, and cracks"), Paint::Levels}, {tr("Surface: contour lines"), Paint::Contours}};
    for (const auto& [title, paint] : paints)
        out.push_back({QStringLiteral("surface=%1").arg(static_cast<int>(paint)), title, {},
            tr("What the field shows of the surface."),
            [this, paint = paint] { m_session.look.change([paint](FieldLook& look) { look.paint = paint; }); }});
    for (const bool sky : {false, true})
        out.push_back({sky ? QStringLiteral("surface=sky") : QStringLiteral("surface=lamps"),
            sky ? tr("Surface: light of the sky") : tr("Surface: light of lamps"), {},
            tr("One channel in colours and, near the camera, as bars."), [this, sky] {
                m_session.look.change([this, sky](FieldLook& look) {
                    look.paint = Paint::Light;
                    look.channel = sky ? findLightMode(m_session.edited().current().light.mode)->lamps : 0;
                });
                m_bench->openStage(QStringLiteral("light"));
                m_rail->select(m_bench->stage(), m_session.editsB());
            }});
    out.push_back({});
    return out;
}

std::vector<ActionEntry> MainWindow::sunActions()
{
    struct Hour {
        const char* name;
        QString title;
        double degrees;
    };
    std::vector<ActionEntry> out;
    for (const auto& [name, title, degrees] :
        {Hour{"night", tr("Sun: night"), kLowestSun}, Hour{"dusk", tr("Sun: dusk"), -2}, Hour{"low", tr("Sun: low"), 8},
            Hour{"morning", tr("Sun: late morning"), kLateMorning}})
        out.push_back({QStringLiteral("sun=%1").arg(QLatin1String(name)), title, {},
            tr("Height of the sun. The slider next to the field has every degree."), [this, degrees = degrees] {
                m_session.look.change([degrees](FieldLook& look) { look.sunHeight = degrees; });
            }});
    out.push_back({});
    return out;
}

std::vector<ActionEntry> MainWindow::measureActions()
{
    return {
        {"measure.walk", tr("Run transect"), QKeySequence(Qt::CTRL | Qt::Key_Return),
            tr("Runs the measurement that the transect page describes."),
            [this] {
                showTransect();
                m_transect->walk();
            }},
        {"measure.reach", tr("Find reach"), {},
            tr("Finds the largest render distance of each setup within the budget."),
            [this] {
                showTransect();
                m_transect->findTheReach();
            }},
        {"measure.distance", tr("Find render distance"), {},
            tr("Measures frames here at one distance after another, and takes the farthest within the budget. It is "
               "remembered for this driver."),
            [this] {
                showField();
                findDistance();
            }},
        {"measure.ledger", tr("Show ledger"), QKeySequence(Qt::CTRL | Qt::Key_L),
            tr("Finds, compares, pins and exports saved runs."),
            [this] {
                showTransect();
                m_transect->showLedger(true);
            }},
        {"measure.stop", tr("Stop transect"), {}, tr("Stops the measurement and keeps its results."),
            [this] { m_runner.stop(); }},
        {},
        {"measure.record", tr("Record route"), QKeySequence(Qt::CTRL | Qt::Key_R),
            tr("Records the camera's path at its speed. The same keys stop."), [this] { m_routes.record(); }, true},
        {"measure.fly", tr("Fly route"), QKeySequence(Qt::CTRL | Qt::Key_P),
            tr("The camera flies along the transect's route until you press a key."),
            [this] { m_routes.fly(m_transect->sentence().route); }},
        {},
        {"measure.open", tr("Open result…"), {}, {},
            [this] {
                showTransect();
                m_transect->askOpen();
            }},
        {"measure.save", tr("Save result…"), {}, {}, [this] { m_transect->askSaveCsv(); }},
        {"measure.recording", tr("Save recording…"), {},
            tr("Saves the events of all chunks as Trace Event JSON, for trace viewers."),
            [this] { askSaveRecording(); }},
        {"measure.plots", tr("Save plots…"), {}, {}, [this] { m_transect->askSavePlot(); }},
        {"measure.report", tr("Save report…"), {}, {}, [this] { m_transect->askSaveReport(); }},
    };
}

std::vector<ActionEntry> MainWindow::helpActions()
{
    return {{"help.documents", tr("Documents"), QKeySequence::HelpContents,
                tr("The tutorial, how-tos and the reference."), [this] { showDocuments(); }},
        {"help.keys", tr("Keys and mouse…"), {}, tr("All actions with their keys, which can be changed there."),
            [this] { showKeys(); }},
        {}, {"help.about", tr("About Fell"), {}, tr("Version, licences and the driver that draws."), [this] {
                 showAbout();
             }}};
}

} // namespace fell::app
