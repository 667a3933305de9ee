// SPDX-License-Identifier: GPL-3.0-or-later
// The bench of the stage Cull: the steps in their order with what each does in this frame, what each saves, and the
// audit with the views in which something was lost.
#pragma once

#include <fell/app/models/cull_auditor.h>
#include <fell/app/models/world_session.h>

#include <QLabel>
#include <QWidget>

#include <map>

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

signals:
    void tabChosen(fell::app::CullPanel::Tab tab);

private:
    void addSteps(QVBoxLayout* column);
    void addStep(QVBoxLayout* column, const CullStep& step, int place, int count);
    void addAudit(QVBoxLayout* column);
    void listLost(const CullAuditResult& result, QVBoxLayout* column);
    void addLook(QVBoxLayout* column);
    void setSteps(const std::vector<std::string>& steps);
    [[nodiscard]] std::vector<std::string> steps() const { return m_session.edited().current().cull.steps; }
    void jumpTo(const LostChunk& lost);

    WorldSession& m_session;
    CullAuditor& m_auditor;
    std::map<std::string, QLabel*> m_counts;
    QLabel* m_octree = nullptr;
    class TrialPanel* m_savings = nullptr;
};

/// The trial's table as rich text; empty without rows.
QString savingsTable(const std::vector<CullTrialRow>& rows);
/// One line of the list of lost chunks.
QString lostText(const LostChunk& lost);

} // namespace fell::app
