// SPDX-License-Identifier: GPL-3.0-or-later
// The panel next to the field: how far it reaches, and the methods and numbers of one stage.
#pragma once

#include <fell/app/models/keep_trial_runner.h>
#include <fell/app/models/light_trial_runner.h>
#include <fell/app/models/live_figures.h>
#include <fell/app/models/world_session.h>
#include <fell/app/views/cull_panel.h>

#include <QLabel>
#include <QSlider>
#include <QWidget>

#include <functional>

class QVBoxLayout;

class QScrollArea;

namespace fell::setup {
struct SetupField;
struct Stage;
} // namespace fell::setup

namespace fell::app {

class StageBench : public QWidget {
    Q_OBJECT
public:
    explicit StageBench(WorldSession& session, QWidget* parent = nullptr);

    void openStage(const QString& id);
    /// Moves the keyboard focus to the stage's chosen method, else to its first control.
    void takeFocus();
    /// A method was loaded.
    void followMethods() { syncStage(); }
    [[nodiscard]] QString stage() const { return m_stage; }
    [[nodiscard]] LightTrialRunner& lightTrial() { return m_trial; }
    [[nodiscard]] KeepTrialRunner& keepTrial() { return m_keepTrial; }
    /// What is resident now.
    void show(const StreamCounts& counts, const FrameReport& frame, const OctreeFigures& octree);
    [[nodiscard]] CullAuditor& cullAudit() { return m_auditor; }

signals:
    /// The same view at full detail should be shown next to setup A.
    void fullDetailWanted();
    /// A mesher of the user's is to be loaded.
    void methodWanted();
    /// What was changed is to go into a file.
    void saveWanted();

private:
    void buildReach(QVBoxLayout* column);
    void buildStage();
    [[nodiscard]] const Stage& stageShown() const;
    /// The ids of the stage's methods. Of a mesher that was loaded several times: the newest build and those in use.
    [[nodiscard]] std::vector<std::string> listedMethods(const Stage& stage) const;
    /// Shows what is now so in the controls that are there: none is rebuilt, so the one in use keeps the focus.
    void syncStage();
    /// Adds what a control of the stage does to show what is now so, and does it.
    void onSync(std::function<void()> sync);
    void addLevels(QVBoxLayout* box, QWidget* card);
    void addWork(QVBoxLayout* box, const Stage& stage, QWidget* card);
    void addMethods(QVBoxLayout* column, const Stage& stage);
    void addLoading(QVBoxLayout* column);
    void addLook(QVBoxLayout* column);
    void addModes(QVBoxLayout* column);
    void addWays(QVBoxLayout* column);
    [[nodiscard]] QString measuredOf(const std::string& mode) const;
    void addNumbers(QVBoxLayout* column, const Stage& stage);
    [[nodiscard]] QWidget* newNumber(const SetupField& field, QWidget* parent);
    [[nodiscard]] QString levelsText(const StreamCounts& counts) const;
    void syncReach();
    void syncSun(); // as the look has it

    WorldSession& m_session;
    QString m_stage = QStringLiteral("mesh");
    std::vector<std::string> m_listed; // methods of the stage that is shown
    QSlider *m_distance = nullptr, *m_sun = nullptr;
    QLabel *m_distanceText = nullptr, *m_resident = nullptr, *m_sunText = nullptr;
    std::vector<int> m_stops; // of the slider, chunks
    struct {
        StreamCounts counts;
        Setup setup;
    } m_settled; // when everything was last there
    QLabel* m_levels = nullptr; // while the stage Levels is shown
    QLabel* m_lightCosts = nullptr; // while the stage Light is shown
    QString m_lightCostsText;
    std::vector<std::function<void()>> m_syncs; // of the controls of the stage that is shown
    LightTrialRunner m_trial;
    KeepTrialRunner m_keepTrial;
    CullAuditor m_auditor;
    CullPanel* m_cull = nullptr; // while the stage Cull is shown
    class TrialPanel* m_passes = nullptr; // of the draw stage
    CullPanel::Tab m_cullTab = CullPanel::Tab::Steps; // when it was shown last
    QWidget* m_stageCard = nullptr;
    QVBoxLayout *m_column = nullptr, *m_stagePlace = nullptr;
    QScrollArea* m_scroll = nullptr; // around the stage
};

} // namespace fell::app
