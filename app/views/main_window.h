// SPDX-License-Identifier: GPL-3.0-or-later
// The window: the stage rail, the field with its bench, the frame strip, and the transect.
#pragma once

#include <fell/app/models/distance_finder.h>
#include <fell/app/models/ledger_keeper.h>
#include <fell/app/models/preferences.h>
#include <fell/app/models/transect_runner.h>
#include <fell/app/models/undo_group.h>
#include <fell/app/models/world_session.h>
#include <fell/app/views/action_table.h>
#include <fell/app/views/block_book.h>
#include <fell/app/views/dialogs.h>
#include <fell/app/views/field_view.h>
#include <fell/app/views/frame_strip.h>
#include <fell/app/views/method_controller.h>
#include <fell/app/views/plan_panel.h>
#include <fell/app/views/recipe_view.h>
#include <fell/app/views/route_controller.h>
#include <fell/app/views/setup_controller.h>
#include <fell/app/views/stage_bench.h>
#include <fell/app/views/stage_rail.h>
#include <fell/app/views/transect_view.h>
#include <fell/app/views/world_controller.h>

#include <QMainWindow>
#include <QTimer>

#include <thread>

class QMenu;
class QMenuBar;
class QBoxLayout;
class QToolButton;

namespace fell::app {

class Banner;

/// The window without its frame, moved and at most shrunk so that all of it lies in the free area of the screen.
QRect fittedTo(const QRect& free, const QRect& inner, const QMargins& frame);

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
    /// Writes the lives of all chunks as Trace Event JSON, on a separate thread; the banner says when it is done.
    void saveRecording(const QString& file);
    void setDark(bool dark);
    /// Takes what the last session left, and keeps this one's when the window closes. Without this call nothing is
    /// remembered.
    void restore(const Preferences& last);
    [[nodiscard]] Preferences preferences() const;
    /// Sets the render distance and the budget for the driver that draws: as remembered, else as found by measuring.
    void fitDistance() { m_fitsDistance = true; }
    /// Finds the farthest distance within the budget, in the field; the banner says which.
    void findDistance();
    [[nodiscard]] bool isFindingDistance() const { return m_finder.has_value(); }
    [[nodiscard]] WorldController& world() { return m_world; }
    [[nodiscard]] SetupController& setups() { return m_setups; }
    [[nodiscard]] MethodController& methods() { return m_methods; }
    [[nodiscard]] RouteController& routes() { return m_routes; }
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
    void showEvent(QShowEvent* event) override;
    QMenuBar* buildMenus();
    [[nodiscard]] std::vector<ActionEntry> worldActions();
    [[nodiscard]] std::vector<ActionEntry> setupActions();
    [[nodiscard]] std::vector<ActionEntry> compareActions();
    [[nodiscard]] std::vector<ActionEntry> editActions();
    [[nodiscard]] std::vector<ActionEntry> viewActions();
    [[nodiscard]] std::vector<ActionEntry> lookActions();
    [[nodiscard]] std::vector<ActionEntry> surfaceActions();
    [[nodiscard]] std::vector<ActionEntry> sunActions();
    [[nodiscard]] std::vector<ActionEntry> measureActions();
    [[nodiscard]] std::vector<ActionEntry> helpActions();
    void showKeys();
    void showDocuments();
    void showAbout();
    void listRecent(QMenu* menu);
    void noteRecent(const QString& world);
    [[nodiscard]] QString pageId() const;
    QWidget* buildTopRow();
    void addPageButtons(QWidget* row, QBoxLayout* line);
    QWidget* buildFieldPage();
    void watchPages();
    void watchControllers();
    void showTitle();
    void openToolBench();
    void addDocuments();
    /// The documents of the page that is shown become the active ones, and the actions say what they would undo.
    void syncUndo();
    [[nodiscard]] bool worksOnWorld() const;
    void askSaveRecording();
    void refresh();
    void findAction();
    void updateSetupChip();

    WorldSession m_session;
    UndoGroup m_undo;
    WindowDialogs m_dialogs;
    WorldController m_world;
    SetupController m_setups;
    MethodController m_methods;
    RouteController m_routes;
    ActionTable m_actions;
    TransectRunner m_runner;
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
    void fit();
    void follow(const std::vector<FrameRecord>& frames);
    void endFinding();
    std::optional<DistanceFinder> m_finder;
    Eye m_firstEye; // where the search began
    QMap<QString, double> m_distances; // by driver, metres
    bool m_fitsDistance = false; // once the driver is known
    QStringList m_recent; // worlds, the newest first
    QString m_theme; // as the user chose it; empty: as the desktop
    bool m_remembers = false; // writes preferences when it closes
    bool m_saidCut = false; // a height map lost a part
};

} // namespace fell::app
