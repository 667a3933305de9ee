// SPDX-License-Identifier: GPL-3.0-or-later
// The bench of the stage Cull: the steps in their order with what each does in this frame, what each saves, and the
// audit with the views in which something was lost.
#pragma once

#include <fell/app/models/cull_auditor.h>
#include <fell/app/models/row_list.h>
#include <fell/app/models/world_session.h>

#include <QLabel>
#include <QWidget>

#include <array>
#include <vector>

class QCheckBox;
class QListView;
class QPushButton;
class QToolButton;
class QVBoxLayout;

namespace fell::app {

class CullPanel : public QWidget {
    Q_OBJECT
public:
    enum class Tab { Steps, Options, Savings, Audit };
    /// `addNumbers` adds the stage's other choices to a column.
    CullPanel(WorldSession& session, CullAuditor& auditor, Tab tab, const std::function<void(QVBoxLayout*)>& addNumbers,
        QWidget* parent = nullptr);

    /// What the last frame's steps did.
    void show(const FrameReport& frame, const OctreeFigures& octree);
    /// After another setup, or a trial or an audit that began, ended or found something.
    void sync();

signals:
    void tabChosen(fell::app::CullPanel::Tab tab);

private:
    /// The line of one step; it moves in the list as the step does in the order.
    struct StepLine {
        const CullStep* step = nullptr;
        QWidget* line = nullptr;
        QCheckBox* box = nullptr;
        QToolButton *earlier = nullptr, *later = nullptr;
        QLabel* counts = nullptr;
    };
    QWidget* buildSteps();
    void addStep(const CullStep& step, QWidget* page);
    QWidget* buildAudit();
    void syncSteps();
    void syncAudit();
    void listLost(const CullAuditResult& result);
    void showTab(Tab tab);
    void addLook(QVBoxLayout* column);
    void setSteps(const std::vector<std::string>& steps);
    [[nodiscard]] std::vector<std::string> steps() const { return m_session.edited().current().cull.steps; }
    void jumpTo(const LostChunk& lost);

    WorldSession& m_session;
    CullAuditor& m_auditor;
    RowList m_lost; // keys: places in the result
    std::vector<StepLine> m_lines;
    QVBoxLayout* m_stepColumn = nullptr;
    std::array<QWidget*, 4> m_pages{}; // by tab
    QLabel *m_octree = nullptr, *m_auditState = nullptr;
    QPushButton* m_check = nullptr;
    QListView* m_lostList = nullptr;
    class TrialPanel* m_savings = nullptr;
};

/// The trial's table as rich text; empty without rows.
QString savingsTable(const std::vector<CullTrialRow>& rows);
/// One line of the list of lost chunks.
QString lostText(const LostChunk& lost);

} // namespace fell::app
