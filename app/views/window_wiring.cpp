// SPDX-License-Identifier: GPL-3.0-or-later
// How the parts of the window hear of each other.
#include <fell/app/views/banner.h>
#include <fell/app/views/main_window.h>

#include <QAction>
#include <QStackedWidget>

namespace fell::app {

void MainWindow::watchPages()
{
    connect(m_recipe, &RecipeView::trouble, m_banner, &Banner::trouble);
    connect(m_recipe, &RecipeView::note, m_banner, &Banner::note);
    connect(&m_recipe->editor(), &RecipeEditor::changed, this, &MainWindow::syncUndo);
    connect(m_pages, &QStackedWidget::currentChanged, this, &MainWindow::syncUndo);
    connect(&m_session, &WorldSession::restarted, this, [this] {
        if (m_pages->currentWidget() == m_recipe)
            m_recipe->follow();
        else if (m_pages->currentWidget() == m_blocks)
            m_blocks->follow();
    });
    connect(m_recipe, &RecipeView::worldWanted, this, [this](const std::shared_ptr<const Terrain>& made) {
        if (m_world.mayLeaveChanges())
            m_world.show(made, nullptr);
    });
    connect(m_blocks, &BlockBook::trouble, m_banner, &Banner::trouble);
    connect(m_blocks, &BlockBook::note, m_banner, &Banner::note);
    connect(m_blocks, &BlockBook::worldWanted, &m_world, &WorldController::show);
    connect(m_blocks, &BlockBook::lookWanted, &m_session, &WorldSession::showLook);
    connect(m_blocks, &BlockBook::kindsWanted, &m_session, &WorldSession::showKinds);
    connect(&m_blocks->editor(), &BlockEditor::changed, this, &MainWindow::syncUndo);
    connect(m_transect, &TransectView::trouble, m_banner, &Banner::trouble);
    connect(m_transect, &TransectView::note, m_banner, &Banner::note);
    connect(
        m_transect, &TransectView::fieldWanted, this, [this](const Setup& setup, const std::optional<Route>& route) {
            m_session.edit(false);
            showField();
            showPlan(false);
            m_session.edited().change(setup); // one step to undo
            if (route)
                m_session.eye = eyeOn(*route, 0, m_session.terrain());
        });
    connect(m_transect, &TransectView::aboutToWalk, this, [this] { m_session.setPaused(true); });
    connect(m_transect, &TransectView::walked, this, [this] { m_session.setPaused(m_pages->currentIndex() != 0); });
}

void MainWindow::watchControllers()
{
    connect(&m_world, &WorldController::replaced, this, [this] {
        m_banner->hide();
        showTitle();
    });
    connect(&m_world, &WorldController::trouble, m_banner, &Banner::trouble);
    connect(&m_world, &WorldController::note, m_banner, &Banner::note);
    connect(&m_world, &WorldController::routesCame, this, [this](const QString& chosen) {
        m_transect->listRoutes(chosen);
        m_plan->listRoutes();
    });
    connect(&m_world, &WorldController::importing, m_actions["world.stop-import"], &QAction::setEnabled);
    connect(&m_world, &WorldController::exporting, m_actions["world.stop-export"], &QAction::setEnabled);
    const auto noteFile = [this] {
        if (m_session.keeper.hasFile())
            noteRecent(m_session.keeper.fileName());
    };
    connect(&m_session.keeper, &WorldKeeper::opened, this, noteFile);
    connect(&m_session.keeper, &WorldKeeper::saved, this, noteFile);
    m_world.alsoLost = [this] {
        QStringList lost;
        if (m_recipe->editor().isChanged())
            lost << tr("changes of the recipe");
        if (m_blocks->editor().isChanged())
            lost << tr("changes of the block set");
        if (m_runner.isRunning())
            lost << tr("the running transect");
        return lost;
    };
    connect(&m_setups, &SetupController::trouble, m_banner, &Banner::trouble);
    connect(&m_setups, &SetupController::note, m_banner, &Banner::note);
    const auto beginB = [this] {
        m_figuresB = LiveFigures();
        m_lastCountsB = {};
    };
    connect(&m_setups, &SetupController::besideChanged, this, beginB);
    connect(&m_methods, &MethodController::besideChanged, this, beginB);
    connect(&m_methods, &MethodController::trouble, m_banner, &Banner::trouble);
    connect(&m_methods, &MethodController::note, m_banner, &Banner::note);
    connect(&m_methods, &MethodController::listChanged, m_bench, &StageBench::followMethods);
    connect(&m_methods.loader(), &MethodLoader::busyChanged, this,
        [this] { m_actions["setup.cancel-check"]->setEnabled(!m_methods.loader().checking().isEmpty()); });
    connect(&m_routes, &RouteController::trouble, m_banner, &Banner::trouble);
    connect(&m_routes, &RouteController::note, m_banner, &Banner::note);
    connect(&m_routes, &RouteController::flies, this, &MainWindow::showField);
    connect(&m_routes, &RouteController::recording, this, [this](bool isRecording) {
        m_actions["measure.record"]->setChecked(isRecording);
        if (isRecording)
            showField();
    });
    connect(&m_routes, &RouteController::kept, this, [this](const QString& name) {
        m_transect->listRoutes(name);
        m_plan->listRoutes();
    });
}

void MainWindow::showTitle()
{
    setWindowTitle(tr("%1[*] — Fell").arg(QString::fromStdString(m_session.terrain().recipe.name)));
}

/// Tools work on the field of setup A; B follows.
void MainWindow::openToolBench()
{
    if (!m_session.editor.tool() || m_bench->stage() == QLatin1String("edit"))
        return;
    m_session.edit(false);
    m_rail->select(QStringLiteral("edit"), false);
    m_bench->openStage(QStringLiteral("edit"));
    showPlan(false);
}

void MainWindow::addDocuments()
{
    m_undo.add("world",
        {tr("world"), [this] { return !m_session.editor.undoTitle().isEmpty(); },
            [this] { return !m_session.editor.redoTitle().isEmpty(); }, [this] { m_session.undoEdit(); },
            [this] { m_session.redoEdit(); }});
    m_undo.add("setup",
        {tr("setup"), [this] { return m_session.edited().canUndo(); }, [this] { return m_session.edited().canRedo(); },
            [this] { m_session.edited().undo(); }, [this] { m_session.edited().redo(); }});
    RecipeEditor& recipe = m_recipe->editor();
    m_undo.add("recipe",
        {tr("recipe"), [&recipe] { return recipe.canUndo(); }, [&recipe] { return recipe.canRedo(); },
            [&recipe] { recipe.undo(); }, [&recipe] { recipe.redo(); }});
    BlockEditor& blocks = m_blocks->editor();
    m_undo.add("blocks",
        {tr("block set"), [&blocks] { return blocks.canUndo(); }, [&blocks] { return blocks.canRedo(); },
            [&blocks] { blocks.undo(); }, [&blocks] { blocks.redo(); }});
    RouteEditor& route = m_session.routeEditor;
    m_undo.add("route",
        {tr("route"), [&route] { return route.isChanged(); }, [&route] { return route.canRedo(); },
            [&route] { route.undo(); }, [&route] { route.redo(); }});
    connect(&route, &RouteEditor::changed, this, &MainWindow::syncUndo);
    connect(&m_undo, &UndoGroup::changed, this, &MainWindow::syncUndo);
}

void MainWindow::syncUndo()
{
    const ToolHand& editor = m_session.editor;
    const auto show = [this](const char* id, const QString& verb, const QString& what) {
        m_actions[id]->setText(what.isEmpty() ? verb : QStringLiteral("%1: %2").arg(verb, what));
        m_actions[id]->setEnabled(!what.isEmpty());
    };
    show("edit.undo", tr("Undo edit"), editor.undoTitle());
    show("edit.redo", tr("Redo edit"), editor.redoTitle());
    const QWidget* page = m_pages->currentWidget();
    // Where there is no edit of the world or the route, the last change of the setup.
    m_undo.setActive(page == m_blocks ? QStringList{"blocks"}
            : page == m_recipe        ? QStringList{"recipe"}
            : !m_plan->isHidden()     ? QStringList{"route", "setup"}
            : worksOnWorld()          ? QStringList{"world", "setup"}
                                      : QStringList{"setup"});
    const auto tell = [this](const char* id, const UndoDocument* document, const QString& verb) {
        m_actions[id]->setText(document ? verb.arg(document->title) : verb.arg(tr("setup")));
        m_actions[id]->setEnabled(document != nullptr);
    };
    tell("undo", m_undo.undoable(), tr("Undo change of %1"));
    tell("redo", m_undo.redoable(), tr("Redo change of %1"));
}

} // namespace fell::app
