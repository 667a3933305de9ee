// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/main_window.h"

#include "exchange/trace_events.h"
#include "input/text_file.h"
#include "models/text.h"
#include "stream/estimate.h"
#include "terrain/height_map.h"
#include "terrain/recipe.h"
#include "views/action_finder.h"
#include "views/banner.h"
#include "views/edit_panel.h"
#include "views/export_dialog.h"
#include "views/import_dialog.h"
#include "views/theme.h"

#include <QAbstractItemView>
#include <QAbstractSlider>
#include <QAbstractSpinBox>
#include <QActionGroup>
#include <QCloseEvent>
#include <QComboBox>
#include <QEventLoop>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMenuBar>
#include <QMessageBox>
#include <QPushButton>
#include <QRegularExpression>
#include <QToolButton>
#include <QVBoxLayout>

namespace fell {
namespace {

constexpr int kFiguresRefreshMs = 250;

} // namespace

MainWindow::MainWindow(std::shared_ptr<const Terrain> terrain, const Setup& setup, QWidget* parent)
    : QMainWindow(parent)
    , m_session(std::move(terrain), setup)
{
    setWindowTitle(tr("Fell — %1").arg(QString::fromStdString(m_session.terrain().recipe.name)));
    resize(1280, 800);
    setMinimumSize(1240, 640); // what the widest page needs
    auto* centre = new QWidget(this);
    auto* column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    m_banner = new Banner(centre);
    m_pages = new QStackedWidget(centre);
    m_pages->addWidget(buildFieldPage());
    m_transect = new TransectView(m_session, m_runner, m_ledger, m_pages);
    m_pages->addWidget(m_transect);
    m_recipe = new RecipeView(m_session, m_pages);
    m_pages->addWidget(m_recipe);
    m_blocks = new BlockBook(m_session, m_pages);
    m_pages->addWidget(m_blocks);
    column->addWidget(buildTopRow());
    column->addWidget(m_banner);
    column->addWidget(m_pages, 1);
    setCentralWidget(centre);

    connect(m_recipe, &RecipeView::trouble, m_banner, &Banner::trouble);
    connect(m_recipe, &RecipeView::note, m_banner, &Banner::note);
    connect(&m_recipe->editor(), &RecipeEditor::changed, this, &MainWindow::syncEditMenu);
    connect(m_pages, &QStackedWidget::currentChanged, this, &MainWindow::syncEditMenu);
    connect(&m_session, &WorldSession::restarted, this, [this] {
        if (m_pages->currentWidget() == m_recipe)
            m_recipe->follow();
        else if (m_pages->currentWidget() == m_blocks)
            m_blocks->follow();
    });
    connect(m_recipe, &RecipeView::worldWanted, this, [this](const std::shared_ptr<const Terrain>& wanted) {
        if (mayLeaveChanges())
            showWorld(wanted, nullptr);
    });
    connect(m_blocks, &BlockBook::trouble, m_banner, &Banner::trouble);
    connect(m_blocks, &BlockBook::note, m_banner, &Banner::note);
    connect(m_blocks, &BlockBook::worldWanted, this, &MainWindow::showWorld);
    connect(m_blocks, &BlockBook::lookWanted, &m_session, &WorldSession::showLook);
    connect(m_blocks, &BlockBook::kindsWanted, &m_session, &WorldSession::showKinds);
    connect(&m_blocks->editor(), &BlockEditor::changed, this, &MainWindow::syncEditMenu);
    connect(m_transect, &TransectView::trouble, m_banner, &Banner::trouble);
    connect(m_transect, &TransectView::note, m_banner, &Banner::note);
    connect(m_transect, &TransectView::aboutToWalk, this, [this] { m_session.setPaused(true); });
    connect(m_transect, &TransectView::walked, this, [this] { m_session.setPaused(m_pages->currentIndex() != 0); });
    connect(&m_session, &WorldSession::editedChanged, this, &MainWindow::updateSetupChip);
    connect(&m_session, &WorldSession::restarted, this, [this] { m_lastCounts = {}; });
    connect(&m_session, &WorldSession::setupRefused, m_banner, &Banner::trouble);
    m_session.mayChange = [this](const Setup& next) { return fits(next); };
    m_session.keeper.mayReplace = [this] { return mayLeaveChanges(); };
    connect(&m_importer, &BackgroundTask::broke, m_banner, &Banner::trouble);
    QCoreApplication::instance()->installEventFilter(this);
    watchKeeper();
    watchImporter();
    watchExporter();
    m_clock.start();
    m_timer.setInterval(kFiguresRefreshMs);
    connect(&m_timer, &QTimer::timeout, this, &MainWindow::refresh);
    m_timer.start();
    updateSetupChip();
    refresh();
    sayWhatBecameOfRecipe();
}

MainWindow::~MainWindow()
{
    m_runner.stop();
}

QAction* MainWindow::addTo(
    QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip, const std::function<void()>& run)
{
    QAction* action = menu->addAction(text);
    action->setShortcut(keys);
    action->setToolTip(tip);
    addAction(action); // so that its keys work wherever the focus is
    connect(action, &QAction::triggered, this, run);
    m_actions << action;
    return action;
}

void MainWindow::buildMenus()
{
    auto* bar = new QMenuBar(nullptr);
    QMenu* world = bar->addMenu(tr("&World"));
    world->setToolTipsVisible(true);
    addTo(world, tr("Open world or recipe…"), QKeySequence::Open,
        tr("A world file or a recipe; nothing changes if something is wrong with it."), [this] {
            const QString file = QFileDialog::getOpenFileName(this, tr("Open world or recipe"),
                QString::fromStdString(demoFolder().string()), tr("World or recipe (*.fell *.json)"));
            if (!file.isEmpty())
                openWorld(file);
        });
    addTo(world, tr("Save world"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
        tr("What was changed goes into the world's file; every 20 seconds it does so by itself."),
        [this] { saveWorld(); });
    addTo(world, tr("Save world as…"), {}, tr("A new file with the recipe and all that was changed."),
        [this] { askSaveWorld(); });
    addTo(world, tr("Bring in heights or a volume…"), {},
        tr("A height map (PNG) or a volume (NRRD) becomes a world file; what it will be is shown first."), [this] {
            const QString file
                = QFileDialog::getOpenFileName(this, tr("Bring in"), QString(), tr("Heights or volume (*.png *.nrrd)"));
            if (!file.isEmpty())
                bringIn(file);
        });
    m_stopImport = addTo(
        world, tr("Stop bringing in"), {}, tr("Nothing is left of what was begun."), [this] { m_importer.stop(); });
    m_stopImport->setEnabled(false);
    addTo(world, tr("Export a box…"), {},
        tr("The surface of a box of the world as glTF, PLY or OBJ; the box is shown in the field while you choose it."),
        [this] { exportBox(); });
    m_stopExport = addTo(world, tr("Stop exporting"), {}, tr("Nothing is written."), [this] { m_exporter.stop(); });
    m_stopExport->setEnabled(false);
    world->addSeparator();
    const std::pair<const char*, const char*> demos[]{{"corrowdale", "Corrowdale"}, {"gallery", "Lit gallery"},
        {"level", "Level ground"}, {"checker", "Checkerboard"}, {"dust", "Dust"}, {"solid", "One solid block"}};
    for (const auto& [name, title] : demos)
        addTo(world, tr("Demo: %1").arg(tr(title)), {}, tr("Opens this world with the setup in use."),
            [this, id = QString::fromLatin1(name)] { openWorld(id); })
            ->setObjectName(QStringLiteral("demo=%1").arg(QLatin1String(name)));
    world->addSeparator();
    addTo(world, tr("Back to the first view"), QKeySequence(Qt::Key_Home), tr("Puts the eye where the world begins."),
        [this] { m_session.eye = WorldSession::firstView(m_session.terrain()); });
    addTo(world, tr("Quit"), QKeySequence::Quit, {}, [this] { close(); });

    QMenu* setup = bar->addMenu(tr("&Setup"));
    m_undo = addTo(setup, tr("Undo change of setup"), QKeySequence::Undo,
        tr("While a tool is in the hand, or its bench is open, the last edit of the world."), [this] {
            if (m_pages->currentWidget() == m_recipe)
                m_recipe->undo();
            else if (m_pages->currentWidget() == m_blocks)
                m_blocks->editor().undo();
            else if (!worksOnWorld() || !m_session.undoEdit())
                m_session.edited().undo();
        });
    m_undo->setObjectName(QStringLiteral("undo"));
    m_redo = addTo(setup, tr("Redo change of setup"), QKeySequence::Redo, {}, [this] {
        if (m_pages->currentWidget() == m_recipe)
            m_recipe->redo();
        else if (m_pages->currentWidget() == m_blocks)
            m_blocks->editor().redo();
        else if (!worksOnWorld() || !m_session.redoEdit())
            m_session.edited().redo();
    });
    setup->addSeparator();
    addTo(setup, tr("Use setup: near"), {}, tr("Every stage's best method."),
        [this] { openSetup(QStringLiteral("near")); });
    addTo(setup, tr("Use setup: long-view"), {}, tr("Eight kilometres in every direction, in levels of detail."),
        [this] { openSetup(QStringLiteral("long-view")); });
    addTo(setup, tr("Use setup: plain"), {}, tr("Every stage's plainest method."),
        [this] { openSetup(QStringLiteral("plain")); });
    QAction* last
        = addTo(setup, tr("Use setup: last session's"), {}, tr("The setup that was in use when Fell was closed last."),
            [this] { openSetup(QString::fromStdString(lastSetupFile(false).string())); });
    last->setObjectName(QStringLiteral("lastSetup"));
    connect(
        setup, &QMenu::aboutToShow, last, [last] { last->setEnabled(std::filesystem::exists(lastSetupFile(false))); });
    addTo(setup, tr("Open setup…"), {}, {}, [this] {
        const QString file = QFileDialog::getOpenFileName(
            this, tr("Open setup"), QString::fromStdString((demoFolder() / "setups").string()), tr("Setup (*.json)"));
        if (!file.isEmpty())
            openSetup(file);
    });
    addTo(setup, tr("Save setup as…"), QKeySequence::Save, {}, [this] {
        const QString file = QFileDialog::getSaveFileName(this, tr("Save setup"),
            QString::fromStdString(m_session.edited().current().name) + QStringLiteral(".json"), tr("Setup (*.json)"));
        if (!file.isEmpty())
            saveSetup(file);
    });

    setup->addSeparator();
    QMenu* beside = setup->addMenu(tr("Compare with setup B"));
    beside->setObjectName(QStringLiteral("compareMenu"));
    addTo(beside, tr("B: plain"), {}, tr("Every stage's plainest method, beside the setup in use."),
        [this] { compareWith(QStringLiteral("plain")); });
    addTo(beside, tr("B: near"), {}, tr("Every stage's best method, beside the setup in use."),
        [this] { compareWith(QStringLiteral("near")); });
    addTo(beside, tr("B: a copy of A to change"), QKeySequence(Qt::CTRL | Qt::Key_B),
        tr("Change one thing and see what it does: click B's row on the rail."), [this] { compareWith(QString()); });
    addTo(beside, tr("B: from a file…"), {}, {}, [this] {
        const QString file = QFileDialog::getOpenFileName(
            this, tr("Setup B"), QString::fromStdString((demoFolder() / "setups").string()), tr("Setup (*.json)"));
        if (!file.isEmpty())
            compareWith(file);
    });
    QAction* lastB
        = addTo(beside, tr("B: last session's"), {}, tr("The setup B that was in use when Fell was closed last."),
            [this] { compareWith(QString::fromStdString(lastSetupFile(true).string())); });
    connect(beside, &QMenu::aboutToShow, lastB,
        [lastB] { lastB->setEnabled(std::filesystem::exists(lastSetupFile(true))); });
    addTo(beside, tr("No setup B"), {}, tr("Only the setup in use is drawn."), [this] { compareWith(std::nullopt); });

    buildEditMenu(bar->addMenu(tr("&Edit")));

    QMenu* view = bar->addMenu(tr("&View"));
    addTo(view, tr("Field"), QKeySequence(Qt::Key_F2), tr("Fly through the world."), [this] {
        showField();
        showPlan(false);
    });
    addTo(view, tr("Transect"), QKeySequence(Qt::Key_F3), tr("Measure against render distance."),
        [this] { showTransect(); });
    addTo(view, tr("Recipe"), QKeySequence(Qt::Key_F9), tr("The layers of the world, with a map and a section."),
        [this] { showRecipe(); });
    addTo(view, tr("Block book"), QKeySequence(Qt::Key_F10),
        tr("Every kind of block, how it looks and what it does to light."), [this] { showBlocks(); });
    addTo(view, tr("Plan"), QKeySequence(Qt::Key_F4), tr("The chunks from above and from the side, beside the field."),
        [this] { showPlan(!m_plan->isVisible()); })
        ->setObjectName(QStringLiteral("plan"));
    view->addSeparator();
    addTo(view, tr("Walk, or fly again"), QKeySequence(Qt::Key_F),
        tr("On one's feet: gravity, jumps with Space, swimming; never through a wall."), [this] {
            showField();
            m_session.walk(!m_session.isWalking());
        });
    addTo(view, tr("Wireframe on or off"), QKeySequence(Qt::Key_F5), tr("The triangles' edges on top."), [this] {
        m_session.look.wireframe = !m_session.look.wireframe;
        m_bench->openStage(m_bench->stage());
    });
    addTo(view, tr("Hold the culling here, or let go"), QKeySequence(Qt::Key_F6),
        tr("Culling stays as seen from here while the eye flies on."), [this] {
            std::optional<Eye>& frozen = m_session.look.frozen;
            frozen = frozen ? std::nullopt : std::optional(m_session.eye);
            m_bench->refreshLook();
        });
    addTo(view, tr("Ghosts of rejected chunks on or off"), QKeySequence(Qt::Key_F7),
        tr("Draws what was rejected, in the colour of the step that did."), [this] {
            m_session.look.ghosts = !m_session.look.ghosts;
            m_bench->refreshLook();
        });
    addTo(
        view, tr("Octree on or off"), QKeySequence(Qt::Key_F8), tr("The nodes of the world octree as lines."), [this] {
            m_session.look.octree = !m_session.look.octree;
            m_bench->refreshLook();
        });
    addTo(view, tr("Let go of the marked chunk"), QKeySequence(Qt::Key_Escape),
        tr("The setup's own lens again, and no box; with a tool in the hand, that is put away first."), [this] {
            ToolHand& editor = m_session.editor;
            if (editor.boxFrom())
                editor.dropBox();
            else if (editor.tool())
                editor.take(std::nullopt);
            else
                m_session.unmark();
        });
    const std::pair<QString, Paint> paints[]{{tr("Surface: textures"), Paint::Textures},
        {tr("Surface: normals"), Paint::Normals}, {tr("Surface: quads by size"), Paint::QuadSizes},
        {tr("Surface: levels of detail, and cracks"), Paint::Levels}};
    for (const auto& [title, paint] : paints)
        addTo(view, title, {}, tr("What the field shows of the surface."), [this, paint = paint] {
            m_session.look.paint = paint;
            m_bench->openStage(m_bench->stage());
        })->setObjectName(QStringLiteral("surface=%1").arg(static_cast<int>(paint)));
    const std::pair<QString, bool> lights[]{
        {tr("Surface: light of lamps"), false}, {tr("Surface: light of the sky"), true}};
    for (const auto& [title, sky] : lights)
        addTo(view, title, {}, tr("One channel in colours and, near the eye, in numbers."), [this, sky = sky] {
            m_session.look.paint = Paint::Light;
            m_session.look.channel = sky ? findLightMode(m_session.edited().current().light.mode)->lamps : 0;
            m_bench->openStage(QStringLiteral("light"));
            m_rail->select(m_bench->stage(), m_session.editsB());
        })->setObjectName(sky ? QStringLiteral("surface=sky") : QStringLiteral("surface=lamps"));
    view->addSeparator();
    struct Hour {
        const char* name;
        QString title;
        double degrees;
    };
    for (const auto& [name, title, degrees] :
        {Hour{"night", tr("Sun: night"), kLowestSun}, Hour{"dusk", tr("Sun: dusk"), -2}, Hour{"low", tr("Sun: low"), 8},
            Hour{"morning", tr("Sun: late morning"), kLateMorning}})
        addTo(view, title, {}, tr("How high the sun stands; the slider beside the field has every degree."),
            [this, degrees = degrees] {
                m_session.look.sunHeight = degrees;
                m_bench->syncSun();
            })
            ->setObjectName(QStringLiteral("sun=%1").arg(QLatin1String(name)));
    view->addSeparator();
    m_dark = addTo(view, tr("Dark theme (slate)"), QKeySequence(Qt::CTRL | Qt::Key_D), {},
        [this] { setDark(m_dark->isChecked()); });
    m_dark->setCheckable(true);
    addTo(view, tr("Find an action"), QKeySequence(Qt::CTRL | Qt::Key_K), {}, [this] { findAction(); });

    QMenu* measure = bar->addMenu(tr("&Measure"));
    addTo(measure, tr("Walk the transect"), QKeySequence(Qt::CTRL | Qt::Key_Return),
        tr("Measures what the sentence of the transect says."), [this] {
            showTransect();
            m_transect->walk();
        });
    addTo(
        measure, tr("Find the reach"), {}, tr("The farthest render distance of each setup within the budget."), [this] {
            showTransect();
            m_transect->findTheReach();
        });
    addTo(measure, tr("Ledger of all trials"), QKeySequence(Qt::CTRL | Qt::Key_L),
        tr("Find, compare, pin and carry what was measured."), [this] {
            showTransect();
            m_transect->showLedger(true);
        });
    addTo(measure, tr("Stop the walk"), {}, tr("Keeps what has been measured."), [this] { m_runner.stop(); });
    measure->addSeparator();
    m_record = addTo(measure, tr("Record a route"), QKeySequence(Qt::CTRL | Qt::Key_R),
        tr("Takes down where you fly, at your pace; the same keys end it."), [this] { recordRoute(); });
    m_record->setCheckable(true);
    addTo(measure, tr("Fly along the route"), QKeySequence(Qt::CTRL | Qt::Key_P),
        tr("The eye flies along the transect's route at its own speed until you press a key."), [this] {
            auto route = routeIn(m_session.terrain(), m_session.changes().get(), m_transect->sentence().route);
            if (!route) {
                m_banner->trouble(QString::fromStdString(sentence(route.problem())));
                return;
            }
            showField();
            m_session.flyAlong(route.take());
        });
    measure->addSeparator();
    addTo(measure, tr("Open result…"), {}, {}, [this] {
        showTransect();
        m_transect->askOpen();
    });
    addTo(measure, tr("Save result as CSV or JSON…"), {}, {}, [this] { m_transect->askSaveCsv(); });
    addTo(measure, tr("Save recording of all chunks…"), {},
        tr("The lives of all chunks as Trace Event JSON, which common trace viewers open."),
        [this] { emit m_plan->recordingWanted(); });
    addTo(measure, tr("Save plots as PNG or SVG…"), {}, {}, [this] { m_transect->askSavePlot(); });
    addTo(measure, tr("Save a report…"), {}, {}, [this] { m_transect->askSaveReport(); });

    QMenu* help = bar->addMenu(tr("&Help"));
    addTo(help, tr("Keys and mouse"), QKeySequence::HelpContents, {}, [this] {
        QMessageBox box(QMessageBox::NoIcon, tr("Keys and mouse"),
            tr("<table cellspacing='6'><tr><td>Drag</td><td>look round</td></tr><tr><td>W A S D, arrows</td><td>fly "
               "where you look</td></tr>"
               "<tr><td>E, Q</td><td>up, down</td></tr><tr><td>Wheel</td><td>faster, "
               "slower</td></tr><tr><td>Shift</td><td>four times as fast</td></tr>"
               "<tr><td>F</td><td>walk, or fly again; Space jumps</td></tr><tr><td>Home</td><td>back to the first "
               "view</td></tr><tr><td>F2, F3, F4, F9, F10</td><td>field, transect, "
               "plan, recipe, block book</td></tr><tr><td>Ctrl+R, Ctrl+P</td><td>record a route, fly along it</td></tr>"
               "<tr><td>X C V B G H N P T</td><td>tools: remove, place, box, ball, raise, lower, smooth, "
               "paint, blast</td></tr><tr><td>Click, Ctrl and drag</td><td>use the tool, go on using "
               "it</td></tr><tr><td>Right click</td><td>pick up the kind of block</td></tr><tr><td>1 to 9, [ "
               "]</td><td>kind of block, smaller and larger</td></tr><tr><td>Alt+Z</td><td>undo an "
               "edit</td></tr><tr><td>Ctrl+K</td><td>find any action by name</td></tr><tr><td>Ctrl+Z</td><td>undo a "
               "change of "
               "setup</td></tr></table>"),
            QMessageBox::Close, this);
        box.exec();
    });
    menuBar()->hide();
    setMenuWidget(nullptr);
    bar->setParent(this);
    bar->setObjectName(QStringLiteral("menus"));
}

void MainWindow::buildEditMenu(QMenu* menu)
{
    menu->setToolTipsVisible(true);
    m_undoEdit = addTo(menu, tr("Undo edit"), QKeySequence(Qt::ALT | Qt::Key_Z),
        tr("Takes back the last use of a tool, light included."), [this] { m_session.undoEdit(); });
    m_redoEdit = addTo(
        menu, tr("Redo edit"), QKeySequence(Qt::ALT | Qt::SHIFT | Qt::Key_Z), {}, [this] { m_session.redoEdit(); });
    menu->addSeparator();
    for (const Tool& tool : tools()) {
        const QString title = QString::fromUtf8(tool.title);
        addTo(
            menu, tr("Tool: %1").arg(title), keyOf(tool.kind), QString::fromUtf8(tool.note), [this, kind = tool.kind] {
                showField();
                m_session.editor.take(kind);
            });
    }
    addTo(menu, tr("Put the tool away"), {}, tr("The pointer only looks again; Esc does the same."),
        [this] { m_session.editor.take(std::nullopt); });
    connect(&m_session.editor, &ToolHand::taken, this, [this] {
        if (!m_session.editor.tool() || m_bench->stage() == QLatin1String("edit"))
            return;
        m_session.edit(false); // tools work on the field of setup A; B follows
        m_rail->select(QStringLiteral("edit"), false);
        m_bench->openStage(QStringLiteral("edit"));
        showPlan(false);
    });
    connect(&m_session.editor, &ToolHand::changed, this, &MainWindow::syncEditMenu);
    syncEditMenu();
}

void MainWindow::syncEditMenu()
{
    const ToolHand& editor = m_session.editor;
    const auto titled = [](const QString& verb, const QString& what) {
        return what.isEmpty() ? verb : QStringLiteral("%1: %2").arg(verb, what);
    };
    m_undoEdit->setText(titled(tr("Undo edit"), editor.undoTitle()));
    m_undoEdit->setEnabled(!editor.undoTitle().isEmpty());
    m_redoEdit->setText(titled(tr("Redo edit"), editor.redoTitle()));
    m_redoEdit->setEnabled(!editor.redoTitle().isEmpty());
    if (m_pages->currentWidget() == m_blocks) {
        m_undo->setEnabled(m_blocks->editor().canUndo());
        m_redo->setEnabled(m_blocks->editor().canRedo());
        return;
    }
    if (m_pages->currentWidget() == m_recipe) {
        m_undo->setEnabled(m_recipe->editor().canUndo());
        m_redo->setEnabled(m_recipe->editor().canRedo());
        return;
    }
    const bool onWorld = worksOnWorld();
    m_undo->setEnabled(m_session.edited().canUndo() || (onWorld && m_undoEdit->isEnabled()));
    m_redo->setEnabled(m_session.edited().canRedo() || (onWorld && m_redoEdit->isEnabled()));
}

/// Does Ctrl+Z mean what was built, rather than what was chosen?
bool MainWindow::worksOnWorld() const
{
    return m_session.editor.tool() || m_bench->stage() == QLatin1String("edit");
}

QWidget* MainWindow::buildTopRow()
{
    buildMenus();
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(10, 3, 10, 0);
    line->setSpacing(4);
    auto* name = new QLabel(QStringLiteral("<b>Fell</b>"), row);
    line->addWidget(name);
    auto* bar = findChild<QMenuBar*>(QStringLiteral("menus"));
    bar->setSizePolicy(QSizePolicy::Minimum, QSizePolicy::Preferred);
    line->addWidget(bar);
    line->addSpacing(18);
    const auto viewButton = [&](const QString& text, const QString& tip) {
        auto* button = new QToolButton(row);
        button->setText(text);
        button->setToolTip(tip);
        button->setCheckable(true);
        button->setAutoExclusive(true);
        button->setProperty("view", true);
        line->addWidget(button);
        return button;
    };
    m_fieldButton = viewButton(tr("Field"), tr("Fly through the world (F2)."));
    m_fieldButton->setObjectName(QStringLiteral("showField"));
    m_transectButton = viewButton(tr("Transect"), tr("Measure against render distance (F3)."));
    m_transectButton->setObjectName(QStringLiteral("showTransect"));
    m_planButton = viewButton(tr("Plan"), tr("The chunks from above and from the side, and the life of each (F4)."));
    m_planButton->setObjectName(QStringLiteral("showPlan"));
    m_recipeButton
        = viewButton(tr("Recipe"), tr("The layers that make this world, with a map and a section that follow (F9)."));
    m_recipeButton->setObjectName(QStringLiteral("showRecipe"));
    connect(m_recipeButton, &QToolButton::clicked, this, &MainWindow::showRecipe);
    m_blocksButton = viewButton(tr("Blocks"), tr("Every kind of block, how it looks and what it does to light (F10)."));
    m_blocksButton->setObjectName(QStringLiteral("showBlocks"));
    connect(m_blocksButton, &QToolButton::clicked, this, &MainWindow::showBlocks);
    m_fieldButton->setChecked(true);
    connect(m_planButton, &QToolButton::clicked, this, [this] { showPlan(true); });
    connect(m_fieldButton, &QToolButton::clicked, this, [this] {
        showField();
        showPlan(false);
    });
    connect(m_transectButton, &QToolButton::clicked, this, &MainWindow::showTransect);
    line->addStretch(1);
    m_setupChip = new QToolButton(row);
    m_setupChip->setProperty("setup", "A");
    m_setupChip->setPopupMode(QToolButton::InstantPopup);
    m_setupChip->setToolTip(tr("The setup in use: every choice of every stage. Click for another."));
    m_setupChip->setMenu(qobject_cast<QMenu*>(bar->actions().at(1)->menu()));
    line->addWidget(m_setupChip);
    m_setupChipB = new QToolButton(row);
    m_setupChipB->setProperty("setup", "B");
    m_setupChipB->setObjectName(QStringLiteral("setupB"));
    m_setupChipB->setPopupMode(QToolButton::InstantPopup);
    m_setupChipB->setToolTip(
        tr("A second setup on the same world, with a wipe between both. The two share the cores while they fill."));
    m_setupChipB->setMenu(bar->findChild<QMenu*>(QStringLiteral("compareMenu")));
    line->addWidget(m_setupChipB);
    auto* find = new QToolButton(row);
    find->setText(tr("Find an action   Ctrl+K"));
    connect(find, &QToolButton::clicked, this, &MainWindow::findAction);
    line->addWidget(find);
    return row;
}

QWidget* MainWindow::buildFieldPage()
{
    auto* page = new QWidget(this);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    m_rail = new StageRail(page);
    m_rail->show(m_figures.stages());
    column->addWidget(m_rail);
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    m_field = new FieldView(m_session, page);
    if (m_field->window()) {
        connect(m_field->window(), &FieldWindow::keysElsewhere, this, &MainWindow::runShortcut);
        connect(m_field->window(), &FieldWindow::warned, m_banner, &Banner::note);
    }
    m_bench = new StageBench(m_session, page);
    connect(m_bench, &StageBench::fullDetailWanted, this, &MainWindow::compareWithFullDetail);
    connect(m_bench, &StageBench::saveWanted, this, &MainWindow::saveWorld);
    middle->addWidget(m_field, 1);
    middle->addWidget(m_bench);
    m_plan = new PlanPanel(m_session, *m_field, page);
    m_plan->hide();
    middle->addWidget(m_plan);
    connect(m_plan, &PlanPanel::routeKept, this, [this] {
        const QString name = askRouteName(QString::fromStdString(m_session.routeEditor.route()->name));
        if (!name.isEmpty())
            keepEditedRoute(name);
    });
    connect(m_plan, &PlanPanel::recordingWanted, this, [this] {
        const QString file = QFileDialog::getSaveFileName(
            this, tr("Save recording"), QStringLiteral("lives.json"), tr("Trace Event JSON (*.json)"));
        if (!file.isEmpty())
            saveRecording(file);
    });
    column->addLayout(middle, 1);
    m_strip = new FrameStrip(page);
    column->addWidget(m_strip);
    m_rail->select(m_bench->stage());
    connect(m_rail, &StageRail::stageClicked, this, [this](const QString& id, bool b) {
        m_session.edit(b);
        m_rail->select(id, b);
        m_bench->openStage(id);
        showPlan(false);
    });
    return page;
}

void MainWindow::showField()
{
    m_pages->setCurrentIndex(0);
    (m_plan->isHidden() ? m_fieldButton : m_planButton)->setChecked(true);
    if (!m_runner.isRunning())
        m_session.setPaused(false);
    if (m_field->window())
        m_field->window()->requestActivate();
}

void MainWindow::showPlan(bool shown)
{
    if (shown)
        showField();
    m_plan->setVisible(shown);
    m_bench->setVisible(!shown);
    (shown ? m_planButton : m_pages->currentIndex() == 0 ? m_fieldButton : m_transectButton)->setChecked(true);
}

void MainWindow::saveRecording(const QString& file)
{
    if (!m_session.streamer())
        return;
    m_banner->note(tr("Writing the recording …"));
    // Copying the ring takes a fraction of a millisecond; making text of it half a second.
    m_writer = std::jthread([this, file, lives = m_session.streamer()->lives().all()] {
        const auto problem = writeFile(file.toStdString(), traceEvents(lives));
        QMetaObject::invokeMethod(this, [this, file, problem, events = lives.size()] {
            if (problem)
                m_banner->trouble(QString::fromStdString(sentence(*problem)));
            else
                m_banner->note(tr("Saved %1 events to %2").arg(countText(events), file));
        });
    });
}

void MainWindow::recordRoute()
{
    if (!m_session.recorder) {
        showField();
        m_session.recorder.emplace();
        m_record->setChecked(true);
        m_banner->note(tr("Recording a route: fly it, then press Ctrl+R again"));
        return;
    }
    // A name that is refused is asked for again; only Discard drops the recording.
    QString name = unusedRouteName();
    do {
        name = askRouteName(name.isEmpty() ? unusedRouteName() : name);
        if (name.isEmpty() && mayDiscardRecording()) {
            m_session.recorder.reset();
            m_record->setChecked(false);
            return;
        }
    } while (name.isEmpty() || !mayReplaceRoute(name) || !keepRoute(name));
    m_session.recorder.reset();
    m_record->setChecked(false);
}

/// "my-route", or the first of "my-route-2", "my-route-3" ... that no route has.
QString MainWindow::unusedRouteName()
{
    const QStringList taken = routeNames();
    QString name = tr("my-route");
    for (int i = 2; taken.contains(name); ++i)
        name = tr("my-route-%1").arg(i);
    return name;
}

/// A question with two answers; the second one is the default. `name`: of the dialog, for tests and style sheets.
bool MainWindow::confirms(
    const QString& name, const QString& title, const QString& text, const QString& yes, const QString& no)
{
    QMessageBox box(QMessageBox::NoIcon, title, title, QMessageBox::NoButton, this);
    box.setInformativeText(text);
    box.setObjectName(name);
    QAbstractButton* confirmed = box.addButton(yes, QMessageBox::DestructiveRole);
    confirmed->setObjectName(QStringLiteral("confirm"));
    QPushButton* declined = box.addButton(no, QMessageBox::RejectRole);
    declined->setObjectName(QStringLiteral("decline"));
    box.setDefaultButton(declined);
    box.exec();
    return box.clickedButton() == confirmed;
}

bool MainWindow::mayDiscardRecording()
{
    return confirms(QStringLiteral("discardRecordingQuestion"), tr("Discard the recording?"),
        tr("The route of %1 points that you have just flown is in no file.").arg(m_session.recorder->points()),
        tr("Discard"), tr("Name it…"));
}

bool MainWindow::mayReplaceRoute(const QString& name)
{
    std::error_code error;
    if (!isRouteName(name) || !std::filesystem::exists(routesFolder() / (name.toStdString() + ".json"), error))
        return true;
    return confirms(QStringLiteral("replaceRouteQuestion"), tr("Replace the route?"),
        tr("There is a route “%1” already.").arg(name), tr("Replace"), tr("Another name…"));
}

QString MainWindow::askRouteName(const QString& suggested)
{
    bool isNamed = false;
    const QString name = QInputDialog::getText(
        this, tr("Keep the route"), tr("Its name, for the list of routes:"), QLineEdit::Normal, suggested, &isNamed);
    return isNamed ? name.trimmed() : QString();
}

bool MainWindow::keepRoute(const QString& name)
{
    return keep(m_session.recorder->route(name.toStdString(), m_session.terrain()), name);
}

bool MainWindow::keepEditedRoute(const QString& name)
{
    Route route = *m_session.routeEditor.route();
    route.name = name.toStdString();
    route.title = route.name;
    return keep(route, name);
}

bool MainWindow::keep(const Outcome<Route>& route, const QString& name)
{
    if (!isRouteName(name)) {
        m_banner->trouble(
            tr("“%1” is no name for a route: 1 to 40 letters, digits, spaces, - and _ are wanted").arg(name));
        return false;
    }
    auto problem = route ? makeFolder(routesFolder()) : std::optional(route.problem());
    if (!problem)
        problem = writeFile(routesFolder() / (name.toStdString() + ".json"), toJson(route.value()));
    if (problem) {
        m_banner->trouble(QString::fromStdString(sentence(*problem)));
        return false;
    }
    m_session.noteRoute(name);
    m_transect->listRoutes(name);
    m_plan->listRoutes();
    m_banner->note(tr("Kept the route “%1”, %2 points: the next walk goes along it, Ctrl+P flies it")
                       .arg(name)
                       .arg(route.value().points.size()));
    return true;
}

void MainWindow::showTransect()
{
    m_pages->setCurrentIndex(1);
    m_transectButton->setChecked(true);
    m_ledger.list(m_ledger.search());
}

void MainWindow::showRecipe()
{
    m_pages->setCurrentWidget(m_recipe);
    m_recipeButton->setChecked(true);
    m_recipe->follow();
    syncEditMenu();
}

void MainWindow::showBlocks()
{
    m_pages->setCurrentWidget(m_blocks);
    m_blocksButton->setChecked(true);
    m_blocks->follow();
    syncEditMenu();
}

/// A world that was made of the recipe or the blocks that are changed, seen from where the eye is.
void MainWindow::showWorld(std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes)
{
    const Eye eye = m_session.eye;
    const QString file = m_session.keeper.fileName();
    m_session.open(std::move(terrain), std::move(changes));
    m_session.eye = eye;
    m_session.keeper.follow(m_session.changes());
    setWindowTitle(tr("Fell — %1").arg(QString::fromStdString(m_session.terrain().recipe.name)));
    m_banner->note(m_session.changes()->isEmpty() ? tr("The world is built again; F2 shows it")
            : file.isEmpty()
            ? tr("The world is built again, with your changes. It is in no file yet: save it with Ctrl+Shift+S")
            : tr("The world is built again, with your changes. It is in no file yet: save it with Ctrl+Shift+S. "
                 "%1 keeps the world as it was saved last")
                  .arg(QFileInfo(file).fileName()));
}

void MainWindow::setDark(bool dark)
{
    m_dark->setChecked(dark);
    applyTheme(*qobject_cast<QApplication*>(QCoreApplication::instance()), dark ? slate() : limewash());
    m_transect->refreshTheme();
    m_recipe->refreshTheme();
    m_blocks->refreshTheme();
    m_rail->update();
    m_strip->update();
}

void MainWindow::bringIn(const QString& file)
{
    if (m_importer.isRunning())
        return m_banner->trouble(tr("Something is being brought in already; World, Stop bringing in ends it"));
    if (!importKindOf(file.toStdString()))
        return m_banner->trouble(tr("%1 is neither a height map (.png) nor a volume (.nrrd)").arg(file));
    ImportDialog dialog(file, m_session.terrain().recipe, this);
    if (dialog.exec() != QDialog::Accepted)
        return;
    ImportSpec spec = dialog.spec();
    const QString out = QFileDialog::getSaveFileName(this, tr("The world's file"),
        QFileInfo(file).completeBaseName() + QStringLiteral(".fell"), tr("World (*.fell)"), nullptr,
        QFileDialog::DontConfirmOverwrite);
    if (out.isEmpty())
        return;
    spec.out = out.toStdString();
    m_importer.start(spec);
}

/// The block that is pointed at, else what the eye looks at in the middle of the picture, else where it is.
void MainWindow::exportBox()
{
    if (m_exporter.isRunning())
        return m_banner->trouble(tr("Something is being exported already; World, Stop exporting ends it"));
    constexpr double kAhead = 40; // voxels
    VoxelPos middle = moved(m_session.eye, forwardOf(m_session.eye) * kAhead).cell;
    if (m_session.editor.target)
        middle = m_session.editor.target->voxel;
    ExportDialog dialog(
        middle, m_session.terrain().recipe, QString::fromStdString(m_session.setup().mesh.mesher), this);
    const auto show = [this](const VoxelBox& box) { m_session.look.box = {box.low, box.high}; };
    show(dialog.box());
    connect(&dialog, &ExportDialog::boxChanged, this, show);
    constexpr QPoint kBesideTheBox{12, 176}; // the middle of the picture is where the box is
    dialog.move(mapToGlobal(kBesideTheBox));
    const int answer = dialog.exec();
    m_session.look.box.reset();
    if (answer != QDialog::Accepted)
        return;
    const std::filesystem::path out = dialog.file().toStdString();
    std::error_code error;
    if (std::filesystem::exists(out, error)
        && !confirms(QStringLiteral("replaceExportQuestion"), tr("Replace the file?"),
            tr("There is a file %1 already.").arg(dialog.file()), tr("Replace"), tr("Keep it")))
        return;
    std::vector<std::filesystem::path> read;
    if (m_session.keeper.hasFile())
        read.emplace_back(m_session.keeper.fileName().toStdString());
    if (auto problem = checkOutput(out, read))
        return m_banner->trouble(QString::fromStdString(sentence(*problem)));
    m_exporter.start({m_session.sharedTerrain(), m_session.changes()->copy(), m_session.setup(), dialog.box(),
        dialog.format(), out});
}

void MainWindow::watchExporter()
{
    connect(&m_exporter, &ExportRunner::changed, this, [this] { m_stopExport->setEnabled(m_exporter.isRunning()); });
    connect(&m_exporter, &ExportRunner::broke, m_banner, &Banner::trouble);
    connect(&m_exporter, &ExportRunner::progressed, this, [this](double share) {
        m_banner->note(tr("Exporting: %1 % (World, Stop exporting ends it)").arg(std::lround(share * 100)));
    });
    connect(&m_exporter, &ExportRunner::refused, m_banner, &Banner::trouble);
    connect(&m_exporter, &ExportRunner::written, m_banner, &Banner::note);
}

void MainWindow::watchImporter()
{
    connect(&m_importer, &ImportRunner::changed, this, [this] { m_stopImport->setEnabled(m_importer.isRunning()); });
    connect(&m_importer, &ImportRunner::progressed, this, [this](double share) {
        m_banner->note(tr("Bringing in: %1 % (World, Stop bringing in ends it)").arg(std::lround(share * 100)));
    });
    connect(&m_importer, &ImportRunner::refused, m_banner, &Banner::trouble);
    connect(&m_importer, &ImportRunner::made, this, [this](const QString& made) { openWorld(made); });
}

void MainWindow::saveWorld()
{
    if (m_session.keeper.hasFile())
        m_session.keeper.save();
    else
        askSaveWorld();
}

bool MainWindow::askSaveWorld()
{
    const QString file = QFileDialog::getSaveFileName(this, tr("Save world as"),
        QString::fromStdString(m_session.terrain().recipe.name).toLower().replace(QLatin1Char(' '), QLatin1Char('-'))
            + QStringLiteral(".fell"),
        tr("World (*.fell)"), nullptr, QFileDialog::DontConfirmOverwrite);
    if (!file.isEmpty())
        m_session.keeper.saveAs(file, headerOf(m_session.terrain(), m_session.setup().keep));
    return !file.isEmpty();
}

void MainWindow::watchKeeper()
{
    WorldKeeper& keeper = m_session.keeper;
    connect(&keeper, &WorldKeeper::trouble, m_banner, &Banner::trouble);
    connect(&keeper, &WorldKeeper::opened, this,
        [this](const auto&, const std::shared_ptr<WorldChanges>& changes, const std::vector<DamagedRow>& damaged,
            const QString& readOnly, const std::vector<WorldFile::Text>& documents) {
            const auto unread = m_session.take(documents);
            const bool isAllChanges
                = m_session.terrain().recipe.pattern && !m_session.changes()->isEmpty(); // as an imported volume is
            m_transect->listRoutes(isAllChanges ? QString::fromLatin1(kRoundChanges) : QString());
            m_plan->listRoutes();
            setWindowTitle(tr("Fell — %1").arg(QString::fromStdString(m_session.terrain().recipe.name)));
            if (unread)
                m_banner->trouble(QString::fromStdString(sentence(*unread)));
            if (!damaged.empty())
                askDrop(damaged);
            else if (!readOnly.isEmpty())
                m_banner->note(readOnly);
            else
                m_banner->note(tr("Opened: %1 changed voxels in %2 chunks")
                                   .arg(countText(changes->voxels()), countText(changes->chunks())));
        });
    connect(&keeper, &WorldKeeper::saved, this,
        [this](const QString& file) { m_banner->note(tr("Saved in %1").arg(file)); });
}

/// Damaged rows: what is lost, and whether it is to be made anew.
void MainWindow::askDrop(const std::vector<DamagedRow>& damaged)
{
    QMessageBox box(QMessageBox::NoIcon, tr("Part of the world is damaged"),
        tr("%1 of the file cannot be read: %2 (%3). Everything else is there.")
            .arg(damaged.size() == 1 ? tr("One row") : tr("%1 rows").arg(damaged.size()))
            .arg(QString::fromStdString(damaged.front().where), QString::fromStdString(damaged.front().why)),
        QMessageBox::NoButton, this);
    box.setObjectName(QStringLiteral("damageQuestion"));
    box.setInformativeText(
        tr("Made anew from the recipe, what was changed there is lost. Left alone, the file keeps the "
           "damaged rows for somebody who can mend them, and what is changed there cannot be saved."));
    const QAbstractButton* anew = box.addButton(tr("Make them anew"), QMessageBox::AcceptRole);
    box.setDefaultButton(box.addButton(tr("Leave the file alone"), QMessageBox::RejectRole));
    box.exec();
    if (box.clickedButton() == anew)
        m_session.keeper.dropDamaged(damaged);
}

/// Changes that are in no file: asks what to do. True if the window may close, or another world may come.
bool MainWindow::mayLeaveWorld()
{
    return mayLeaveChanges() && mayDiscardDocuments();
}

bool MainWindow::mayLeaveChanges()
{
    WorldKeeper& keeper = m_session.keeper;
    keeper.save();
    waitUntilSaved();
    if (keeper.unsaved() == 0)
        return true;
    QMessageBox box(QMessageBox::NoIcon, tr("Changes in no file"),
        tr("%1 voxels of this world were changed and are in no file.").arg(countText(m_session.changes()->voxels())),
        QMessageBox::NoButton, this);
    box.setObjectName(QStringLiteral("unsavedQuestion"));
    QAbstractButton* keep = box.addButton(tr("Save them…"), QMessageBox::AcceptRole);
    keep->setObjectName(QStringLiteral("save"));
    QAbstractButton* leave = box.addButton(tr("Discard them"), QMessageBox::DestructiveRole);
    leave->setObjectName(QStringLiteral("confirm"));
    QPushButton* stay = box.addButton(tr("Stay here"), QMessageBox::RejectRole);
    stay->setObjectName(QStringLiteral("decline"));
    box.setDefaultButton(stay);
    box.exec();
    if (box.clickedButton() == keep) {
        askSaveWorld();
        waitUntilSaved();
        return keeper.unsaved() == 0;
    }
    return box.clickedButton() == leave;
}

/// Only what is on the disk is saved: a save that fails gives its chunks back.
void MainWindow::waitUntilSaved()
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
bool MainWindow::mayDiscardDocuments()
{
    QStringList lost;
    if (m_recipe->editor().isChanged())
        lost << tr("changes of the recipe");
    if (m_blocks->editor().isChanged())
        lost << tr("changes of the block set");
    if (m_session.routeEditor.isChanged())
        lost << tr("changes of the route");
    if (m_session.recorder)
        lost << tr("the route that is being recorded");
    if (m_runner.isRunning())
        lost << tr("the running transect");
    if (m_importer.isRunning())
        lost << tr("the running import");
    if (lost.isEmpty())
        return true;
    return confirms(QStringLiteral("unsavedDocumentsQuestion"), tr("Discard what is not saved?"),
        tr("This would be lost: %1.").arg(lost.join(tr(", "))), tr("Discard"), tr("Stay here"));
}

/// Keys without Ctrl, e.g. B for a tool, belong to the field. On another page, or where a list or a number has the
/// focus, they go to what has the focus.
bool MainWindow::eventFilter(QObject* watched, QEvent* event)
{
    if (event->type() == QEvent::ShortcutOverride && QApplication::activeWindow() == this) {
        const auto* key = static_cast<QKeyEvent*>(event); // NOLINT(cppcoreguidelines-pro-type-static-cast-downcast)
        const bool isPlain = (key->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier)) == 0;
        const bool isTyped = (key->key() < Qt::Key_Escape && !key->text().isEmpty()) || key->key() == Qt::Key_Home;
        const QWidget* focus = QApplication::focusWidget();
        const bool isInput = qobject_cast<const QAbstractItemView*>(focus) || qobject_cast<const QComboBox*>(focus)
            || qobject_cast<const QAbstractSpinBox*>(focus) || qobject_cast<const QLineEdit*>(focus)
            || qobject_cast<const QAbstractSlider*>(focus);
        if (isPlain && isTyped && (isInput || (focus && m_pages->currentIndex() != 0))) {
            event->accept();
            return true;
        }
    }
    return QMainWindow::eventFilter(watched, event);
}

void MainWindow::closeEvent(QCloseEvent* event)
{
    if (!mayLeaveWorld())
        return event->ignore();
    keepSetups();
    QMainWindow::closeEvent(event);
}

/// For the next session: what was chosen in this one is in no file otherwise.
void MainWindow::keepSetups()
{
    const auto keep = [](const std::filesystem::path& file, const std::optional<Setup>& setup) {
        std::error_code error;
        if (!setup)
            std::filesystem::remove(file, error);
        else if (!makeFolder(file.parent_path()))
            (void)writeFile(file, toJson(*setup)); // closing goes on where it cannot be written
    };
    keep(lastSetupFile(false), m_session.setup());
    keep(lastSetupFile(true), m_session.hasB() ? std::optional(m_session.setupB()) : std::nullopt);
}

bool MainWindow::openWorld(const QString& world)
{
    if (!mayLeaveWorld())
        return false;
    if (isDatabase(world.toStdString())) {
        m_session.keeper.open(world);
        return true;
    }
    auto recipe = findWorld(world.toStdString(), demoFolder());
    if (!recipe) {
        m_banner->trouble(QString::fromStdString(sentence(recipe.problem())));
        return false;
    }
    m_session.open(makeTerrain(recipe.take()));
    m_session.keeper.follow(m_session.changes());
    m_banner->hide();
    sayWhatBecameOfRecipe();
    setWindowTitle(tr("Fell — %1").arg(QString::fromStdString(m_session.terrain().recipe.name)));
    return true;
}

void MainWindow::sayWhatBecameOfRecipe()
{
    const Recipe& recipe = m_session.terrain().recipe;
    QStringList said;
    for (const std::string& update : recipe.updates)
        said << QString::fromStdString(update);
    if (!said.isEmpty())
        said = {tr("The recipe is of an older version and was brought up to date here, not in its file: %1")
                    .arg(said.join(QStringLiteral("; ")))};
    if (const auto& warnings = recipe.blocks.warnings; !warnings.empty())
        said << tr("%1; a marked shape stands in for it").arg(QString::fromStdString(sentence(warnings[0])));
    if (!said.isEmpty())
        m_banner->note(said.join(QStringLiteral(". ")));
}

bool MainWindow::openSetup(const QString& nameOrFile)
{
    auto setup = findSetup(nameOrFile.toStdString(), demoFolder() / "setups");
    if (!setup) {
        m_banner->trouble(QString::fromStdString(sentence(setup.problem())));
        return false;
    }
    m_session.edited().change(setup.value());
    return true;
}

bool MainWindow::compareWith(const std::optional<QString>& nameOrFile)
{
    if (!nameOrFile) {
        m_session.compareWith(std::nullopt);
        return true;
    }
    Setup b = m_session.setup();
    if (nameOrFile->isEmpty()) {
        b.name += "-changed";
    } else {
        auto found = findSetup(nameOrFile->toStdString(), demoFolder() / "setups");
        if (!found) {
            m_banner->trouble(QString::fromStdString(sentence(found.problem())));
            return false;
        }
        b = found.take();
        if (!hasLevels(b.lod))
            b.stream.distance = std::min({b.stream.distance, m_session.setup().stream.distance, kFarthestPlain});
    }
    m_session.compareWith(b);
    m_figuresB = LiveFigures();
    m_lastCountsB = {};
    return true;
}

void MainWindow::compareWithFullDetail()
{
    constexpr double kFarthest = 512; // metres
    const Setup& a = m_session.setup();
    const auto most
        = std::max(4, static_cast<int>(kFarthest / (a.chunk.edge * m_session.terrain().recipe.voxelMetres)));
    if (a.stream.distance > most)
        m_session.setups().set("stream.distance", most);
    Setup b = m_session.setup();
    b.lod.scheme = "off";
    b.name = "full detail";
    m_session.compareWith(b);
    m_figuresB = LiveFigures();
    m_lastCountsB = {};
}

bool MainWindow::saveSetup(const QString& file)
{
    if (const auto problem = writeFile(file.toStdString(), toJson(m_session.edited().current()))) {
        m_banner->trouble(QString::fromStdString(sentence(*problem)));
        return false;
    }
    m_banner->note(tr("Saved %1").arg(file));
    return true;
}

bool MainWindow::fits(const Setup& next)
{
    const bool b = m_session.editsB();
    Streamer* streamer = b ? m_session.streamerB() : m_session.streamer();
    if (!streamer)
        return true;
    const Setup& now = m_session.edited().current();
    const std::uint64_t expected = expectedBytes(streamer->counts(), now, next),
                        allowed = static_cast<std::uint64_t>(next.stream.memory) << 20;
    // What does not fit already is not made worse by what needs no more.
    if (expected <= allowed || expected <= expectedBytes(streamer->counts(), now, now))
        return true;
    QMessageBox box(QMessageBox::NoIcon, tr("More than the memory allows"),
        tr("%1 chunks of edge %2 will take about %3 of voxels, light and meshes; this setup allows %4.")
            .arg(next.stream.distance)
            .arg(next.chunk.edge)
            .arg(bytesText(expected), bytesText(allowed)),
        QMessageBox::NoButton, this);
    box.setObjectName(QStringLiteral("memoryQuestion"));
    box.setInformativeText(tr("The nearest chunks that fit are made, the farthest ones go first."));
    QAbstractButton* change = box.addButton(tr("Change it all the same"), QMessageBox::AcceptRole);
    change->setObjectName(QStringLiteral("confirm"));
    QPushButton* leave = box.addButton(tr("Leave it"), QMessageBox::RejectRole);
    leave->setObjectName(QStringLiteral("decline"));
    box.setDefaultButton(leave);
    box.exec();
    return box.clickedButton() == change;
}

void MainWindow::updateSetupChip()
{
    m_setupChip->setText(tr("A  %1  ▾").arg(QString::fromStdString(m_session.setup().name)));
    m_setupChipB->setText(
        m_session.hasB() ? tr("B  %1  ▾").arg(QString::fromStdString(m_session.setupB().name)) : tr("+ Setup B  ▾"));
    syncEditMenu();
    if (m_rail)
        m_rail->select(m_bench->stage(), m_session.editsB());
}

void MainWindow::refresh()
{
    if (HeightMap::isCut() && !std::exchange(m_saidCut, true))
        m_banner->trouble(
            tr("A height map was made shorter by another program: the ground is flat where it is missing. "
               "Restore the file and open the world again"));
    LiveSample sample;
    const qint64 now = m_clock.elapsed();
    sample.seconds = static_cast<double>(now - m_lastRefresh) / 1000;
    m_lastRefresh = now;
    sample.before = m_lastCounts;
    sample.now = m_session.streamer() ? m_session.streamer()->counts() : m_lastCounts;
    m_lastCounts = sample.now;
    sample.setup = m_session.setup();
    sample.workers = m_session.workers();
    sample.edits = m_session.editor.figures();
    if (FieldWindow* window = m_field->window()) {
        sample.frames = window->takeFrames();
        sample.lastFrame = window->lastFrame();
    }
    LiveSample besides = sample;
    if (m_session.hasB()) {
        besides.before = m_lastCountsB;
        besides.now = m_session.streamerB() ? m_session.streamerB()->counts() : m_lastCountsB;
        if (besides.now.generated < besides.before.generated) // it has begun anew
            besides.before = {};
        m_lastCountsB = besides.now;
        besides.setup = m_session.setupB();
        if (FieldWindow* window = m_field->window()) {
            besides.frames = window->takeFrames(true);
            besides.lastFrame = window->lastFrame(true);
        }
        m_figuresB.update(besides);
    }
    // The strip shows whole frames: what B took stands with its stages.
    for (FrameRecord frame : sample.frames) {
        for (const FrameRecord& b : besides.frames)
            if (m_session.hasB() && b.number == frame.number) {
                frame.uploadMs += b.uploadMs;
                frame.cullMs += b.cullMs;
                frame.drawMs += b.drawMs;
            }
        m_history.add(frame);
    }
    if (const std::uint64_t failed = sample.now.failed; failed > std::exchange(m_failedSaid, failed))
        m_banner->trouble(tr("%1 chunks could not be made and were given up; the plan marks them, the others go on.")
                              .arg(countText(failed)));
    m_figures.update(sample);
    if (m_pages->currentIndex() != 0)
        return;
    m_rail->show(m_figures.stages(), m_session.hasB() ? m_figuresB.stages() : std::vector<StageFigure>());
    const LiveSample& shown = m_session.editsB() ? besides : sample;
    m_bench->show(shown.now, shown.lastFrame,
        m_field->window() ? m_field->window()->octree(m_session.editsB()) : OctreeFigures{});
    m_strip->show(m_history, sample.setup.draw.budget);
}

void MainWindow::runShortcut(const QKeySequence& keys)
{
    for (QAction* action : m_actions)
        if (action->isEnabled() && action->shortcut() == keys) {
            // After the key event: an action may open a dialog, and the field waits for the release.
            QMetaObject::invokeMethod(action, &QAction::trigger, Qt::QueuedConnection);
            return;
        }
}

void MainWindow::findAction()
{
    ActionFinder finder(m_actions, this);
    finder.exec();
}

} // namespace fell
