// SPDX-License-Identifier: GPL-3.0-or-later
// The window: the stage rail, the field with its bench, the frame strip, and the transect.
#pragma once

#include "models/export_runner.h"
#include "models/import_runner.h"
#include "models/ledger_keeper.h"
#include "models/transect_runner.h"
#include "models/world_session.h"
#include "views/block_book.h"
#include "views/field_view.h"
#include "views/frame_strip.h"
#include "views/plan_panel.h"
#include "views/recipe_view.h"
#include "views/stage_bench.h"
#include "views/stage_rail.h"
#include "views/transect_view.h"

#include <QMainWindow>
#include <QTimer>

#include <thread>

class QActionGroup;
class QToolButton;

namespace fell {

class Banner;

class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    MainWindow(std::shared_ptr<const Terrain> terrain, const Setup& setup, QWidget* parent = nullptr);
    ~MainWindow() override;

    void showField();
    void showTransect();
    void showRecipe();
    void showBlocks();
    /// The plan in the place of the bench, or the bench again.
    void showPlan(bool shown);
    /// Writes the lives of all chunks as Trace Event JSON, on a thread of its own; the banner says when it is done.
    void saveRecording(const QString& file);
    void setDark(bool dark);
    /// Begins to take down where the eye flies, or ends and asks for a name.
    void recordRoute();
    /// Writes what was recorded under a name among the user's routes, and chooses it for the next walk.
    bool keepRoute(const QString& name);
    /// The same with the route as the plan shows it.
    bool keepEditedRoute(const QString& name);
    /// Opens a recipe file or a demo by name; says what is wrong with it otherwise, and changes nothing.
    bool openWorld(const QString& world);
    /// Asks what a height map or a volume is to become, and makes a world of it.
    void bringIn(const QString& file);
    [[nodiscard]] ImportRunner& importer() { return m_importer; }
    [[nodiscard]] ExportRunner& exporter() { return m_exporter; }
    /// Asks for a box and a file, and writes the box's surface.
    void exportBox();
    /// Into the world's file, or asks for one.
    void saveWorld();
    bool openSetup(const QString& nameOrFile);
    bool saveSetup(const QString& file);
    /// Draws a second setup beside the first: a name or file, "" for a copy of A to change, nothing to end it.
    bool compareWith(const std::optional<QString>& nameOrFile);
    /// Setup B is A without levels of detail, both as far as full detail is held in a moment.
    void compareWithFullDetail();

    [[nodiscard]] WorldSession& session() { return m_session; }
    [[nodiscard]] FieldView& field() { return *m_field; }
    [[nodiscard]] TransectView& transect() { return *m_transect; }
    [[nodiscard]] RecipeView& recipe() { return *m_recipe; }
    [[nodiscard]] BlockBook& blocks() { return *m_blocks; }
    [[nodiscard]] TransectRunner& runner() { return m_runner; }
    [[nodiscard]] LedgerKeeper& ledger() { return m_ledger; }
    [[nodiscard]] StageRail& rail() { return *m_rail; }
    [[nodiscard]] StageBench& bench() { return *m_bench; }
    [[nodiscard]] FrameStrip& strip() { return *m_strip; }
    [[nodiscard]] PlanPanel& plan() { return *m_plan; }
    [[nodiscard]] Banner& banner() { return *m_banner; }
    [[nodiscard]] const LiveFigures& figures() const { return m_figures; }

private:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void closeEvent(QCloseEvent* event) override;
    void watchKeeper();
    void watchImporter();
    void watchExporter();
    bool askSaveWorld();
    void askDrop(const std::vector<DamagedRow>& damaged);
    bool mayLeaveWorld();
    bool mayLeaveChanges();
    void waitUntilSaved();
    bool mayDiscardDocuments();
    void keepSetups();
    bool m_saidCut = false; // a height map lost a part
    [[nodiscard]] static QString unusedRouteName();
    bool confirms(
        const QString& name, const QString& title, const QString& text, const QString& yes, const QString& no);
    bool mayDiscardRecording();
    bool mayReplaceRoute(const QString& name);
    void sayWhatBecameOfRecipe(); // of an older one, or one whose models are missing
    void buildMenus();
    void buildEditMenu(QMenu* menu);
    void syncEditMenu();
    void showWorld(std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes);
    [[nodiscard]] bool worksOnWorld() const;
    QWidget* buildTopRow();
    QWidget* buildFieldPage();
    bool keep(const Outcome<Route>& route, const QString& name);
    [[nodiscard]] QString askRouteName(const QString& suggested);
    void refresh();
    void findAction();
    void runShortcut(const QKeySequence& keys);
    void updateSetupChip();
    bool fits(const Setup& next);
    QAction* addTo(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
        const std::function<void()>& run);

    WorldSession m_session;
    TransectRunner m_runner;
    ImportRunner m_importer;
    ExportRunner m_exporter;
    LedgerKeeper m_ledger{homeLedger()};
    LiveFigures m_figures, m_figuresB;
    FrameHistory m_history;
    StreamCounts m_lastCounts, m_lastCountsB;
    qint64 m_lastRefresh = 0;
    std::uint64_t m_failedSaid = 0; // chunks given up that the banner has told of
    QElapsedTimer m_clock;
    QTimer m_timer;

    QStackedWidget* m_pages = nullptr;
    StageRail* m_rail = nullptr;
    FieldView* m_field = nullptr;
    StageBench* m_bench = nullptr;
    FrameStrip* m_strip = nullptr;
    PlanPanel* m_plan = nullptr;
    std::jthread m_writer;
    TransectView* m_transect = nullptr;
    RecipeView* m_recipe = nullptr;
    BlockBook* m_blocks = nullptr;
    Banner* m_banner = nullptr;
    QToolButton *m_fieldButton = nullptr, *m_transectButton = nullptr, *m_planButton = nullptr,
                *m_recipeButton = nullptr, *m_blocksButton = nullptr, *m_setupChip = nullptr, *m_setupChipB = nullptr;
    QAction *m_undo = nullptr, *m_redo = nullptr, *m_undoEdit = nullptr, *m_redoEdit = nullptr, *m_dark = nullptr,
            *m_stopImport = nullptr, *m_stopExport = nullptr, *m_record = nullptr;
    QList<QAction*> m_actions;
};

} // namespace fell
