// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/main_window.h>

#include <fell/app/models/text.h>
#include <fell/app/views/action_finder.h>
#include <fell/app/views/banner.h>
#include <fell/app/views/theme.h>
#include <fell/exchange/trace_events.h>
#include <fell/input/text_file.h>
#include <fell/terrain/height_map.h>

#include <QAbstractItemView>
#include <QAbstractSlider>
#include <QAbstractSpinBox>
#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMenuBar>
#include <QToolButton>
#include <QVBoxLayout>

namespace fell::app {
namespace {

constexpr int kFiguresRefreshMs = 250;

} // namespace

MainWindow::MainWindow(std::shared_ptr<const Terrain> terrain, const Setup& setup, QWidget* parent)
    : QMainWindow(parent)
    , m_session(std::move(terrain), setup)
    , m_dialogs(this)
    , m_world(m_session, m_dialogs)
    , m_setups(m_session, m_dialogs)
    , m_methods(m_session, m_dialogs)
    , m_routes(m_session, m_dialogs)
    , m_actions(this)
{
    resize(1280, 800);
    setMinimumSize(1240, 640); // what the widest page needs
    auto* centre = new QWidget(this);
    auto* column = new QVBoxLayout(centre);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    m_banner = new Banner(centre);
    m_pages = new QStackedWidget(centre);
    m_pages->setObjectName(QStringLiteral("pages"));
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

    addDocuments();
    watchPages();
    watchControllers();
    connect(&m_session, &WorldSession::editedChanged, this, &MainWindow::updateSetupChip);
    connect(&m_session, &WorldSession::restarted, this, [this] { m_lastCounts = {}; });
    connect(&m_session, &WorldSession::setupRefused, m_banner, &Banner::trouble);
    connect(&m_session.editor, &ToolHand::changed, this, &MainWindow::syncUndo);
    connect(&m_session.editor, &ToolHand::taken, this, &MainWindow::openToolBench);
    QCoreApplication::instance()->installEventFilter(this);
    m_clock.start();
    m_timer.setInterval(kFiguresRefreshMs);
    connect(&m_timer, &QTimer::timeout, this, &MainWindow::refresh);
    m_timer.start();
    showTitle();
    updateSetupChip();
    refresh();
    m_world.sayWhatBecameOfRecipe();
}

MainWindow::~MainWindow()
{
    m_runner.stop();
}

/// Does Ctrl+Z mean what was built, rather than what was chosen?
bool MainWindow::worksOnWorld() const
{
    return m_session.editor.tool() || m_bench->stage() == QLatin1String("edit");
}

void MainWindow::addPageButtons(QWidget* row, QBoxLayout* line)
{
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
    m_fieldButton = viewButton(tr("Field"), tr("Fly through the world (Ctrl+1)."));
    m_fieldButton->setObjectName(QStringLiteral("showField"));
    m_transectButton = viewButton(tr("Transect"), tr("Measure against render distance (Ctrl+2)."));
    m_transectButton->setObjectName(QStringLiteral("showTransect"));
    m_planButton
        = viewButton(tr("Plan"), tr("The chunks from above and from the side, and the life of each (Ctrl+3)."));
    m_planButton->setObjectName(QStringLiteral("showPlan"));
    m_recipeButton = viewButton(tr("Recipe"), tr("The layers of this world, with a map and a section (Ctrl+4)."));
    m_recipeButton->setObjectName(QStringLiteral("showRecipe"));
    connect(m_recipeButton, &QToolButton::clicked, this, &MainWindow::showRecipe);
    m_blocksButton = viewButton(tr("Blocks"), tr("All block types: their look and their light (Ctrl+5)."));
    m_blocksButton->setObjectName(QStringLiteral("showBlocks"));
    connect(m_blocksButton, &QToolButton::clicked, this, &MainWindow::showBlocks);
    m_fieldButton->setChecked(true);
    connect(m_planButton, &QToolButton::clicked, this, [this] { showPlan(true); });
    connect(m_fieldButton, &QToolButton::clicked, this, [this] {
        showField();
        showPlan(false);
    });
    connect(m_transectButton, &QToolButton::clicked, this, &MainWindow::showTransect);
}

QWidget* MainWindow::buildTopRow()
{
    QMenuBar* bar = buildMenus();
    menuBar()->hide();
    setMenuWidget(nullptr);
    bar->setParent(this);
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(10, 3, 10, 0);
    line->setSpacing(4);
    auto* name = new QLabel(QStringLiteral("<b>Fell</b>"), row);
    line->addWidget(name);
    bar->setSizePolicy(QSizePolicy::Minimum, QSizePolicy::Preferred);
    line->addWidget(bar);
    line->addSpacing(18);
    addPageButtons(row, line);
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
        connect(m_field->window(), &FieldWindow::keysElsewhere, &m_actions, &ActionTable::run);
        connect(m_field->window(), &FieldWindow::warned, m_banner, &Banner::note);
        connect(m_field->window(), &FieldWindow::shadersRefused, m_banner, &Banner::trouble);
        connect(m_field->window(), &FieldWindow::shadersLoaded, m_banner,
            [this] { m_banner->note(tr("The changed shaders are in use")); });
    }
    m_bench = new StageBench(m_session, page);
    connect(m_bench, &StageBench::methodWanted, &m_methods, &MethodController::askLoad);
    connect(m_bench, &StageBench::fullDetailWanted, &m_setups, &SetupController::compareWithFullDetail);
    connect(m_bench, &StageBench::saveWanted, &m_world, &WorldController::save);
    middle->addWidget(m_field, 1);
    middle->addWidget(m_bench);
    m_plan = new PlanPanel(m_session, *m_field, page);
    m_plan->hide();
    middle->addWidget(m_plan);
    connect(m_plan, &PlanPanel::routeKept, &m_routes, &RouteController::askKeepEdited);
    connect(m_plan, &PlanPanel::recordingWanted, this, &MainWindow::askSaveRecording);
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
    syncUndo();
}

void MainWindow::askSaveRecording()
{
    const QString file
        = m_dialogs.saveFile(tr("Save recording"), QStringLiteral("lives.json"), tr("Trace Event JSON (*.json)"), true);
    if (!file.isEmpty())
        saveRecording(file);
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
    syncUndo();
}

void MainWindow::showBlocks()
{
    m_pages->setCurrentWidget(m_blocks);
    m_blocksButton->setChecked(true);
    m_blocks->follow();
    syncUndo();
}

void MainWindow::setDark(bool dark)
{
    m_actions["view.dark"]->setChecked(dark);
    applyTheme(*qobject_cast<QApplication*>(QCoreApplication::instance()), dark ? slate() : limewash());
    m_transect->refreshTheme();
    m_recipe->refreshTheme();
    m_blocks->refreshTheme();
    m_rail->update();
    m_strip->update();
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
    if (!m_world.mayLeave())
        return event->ignore();
    m_setups.keepForNextSession();
    if (m_remembers)
        (void)writePreferences(preferences()); // closing goes on where it cannot be written
    QMainWindow::closeEvent(event);
}

void MainWindow::updateSetupChip()
{
    m_setupChip->setText(tr("A  %1  ▾").arg(QString::fromStdString(m_session.setup().name)));
    m_setupChipB->setText(
        m_session.hasB() ? tr("B  %1  ▾").arg(QString::fromStdString(m_session.setupB().name)) : tr("+ Setup B  ▾"));
    syncUndo();
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
        if (besides.now.generated < besides.before.generated) // it has started again
            besides.before = {};
        m_lastCountsB = besides.now;
        besides.setup = m_session.setupB();
        if (FieldWindow* window = m_field->window()) {
            besides.frames = window->takeFrames(true);
            besides.lastFrame = window->lastFrame(true);
        }
        m_figuresB.update(besides);
    }
    // The strip shows whole frames: the cost of B is shown with its stages.
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
    fit();
    follow(sample.frames);
    setWindowModified(
        m_session.keeper.unsaved() > 0 || m_recipe->editor().isChanged() || m_blocks->editor().isChanged());
    if (m_pages->currentIndex() != 0)
        return;
    m_rail->show(m_figures.stages(), m_session.hasB() ? m_figuresB.stages() : std::vector<StageFigure>());
    const LiveSample& shown = m_session.editsB() ? besides : sample;
    m_bench->show(shown.now, shown.lastFrame,
        m_field->window() ? m_field->window()->octree(m_session.editsB()) : OctreeFigures{});
    m_strip->show(m_history, sample.setup.draw.budget);
}

void MainWindow::findAction()
{
    ActionFinder finder(m_actions.all(), this);
    finder.exec();
}

} // namespace fell::app

#include "moc_main_window.cpp"
