// SPDX-License-Identifier: GPL-3.0-or-later
// Runs a transect on a separate thread with a separate drawing context, so that the window stays alive.
#pragma once

#include <fell/measure/reach.h>
#include <fell/measure/results.h>

#include <QObject>
#include <QString>

#include <memory>
#include <mutex>
#include <thread>

namespace fell::app {

/// The sentence that a transect is said in, before it is checked.
struct TransectSentence {
    std::string vary = "stream.distance";
    QString values = QStringLiteral("2, 3, 4, 5, 6");
    std::string second; // empty: nothing else varies
    QString secondValues;
    double budget = 16.6; // ms a frame
    std::string route = "beck-to-summit", setupA = "near", setupB; // names; B empty for none
    int rounds = 3, frames = 12;
    ChurnLoad churn; // while the route is gone along
    int width = 960, height = 600; // pixels
};

/// The world that is measured.
struct MeasuredWorld {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<const WorldChanges> changes; // its edits; null if there are none. Read only from here on
};

/// What is wrong with a sentence, or the spec that it means. `current` names the setup of the field under its
/// name; the route kRoundChanges is the one around the world's changes.
Outcome<TransectSpec> specFrom(const TransectSentence& sentence, const MeasuredWorld& world, const Setup& current);

/// What of a sentence a reach needs: route, setups, frames and budget. Distances need not be said.
Outcome<std::vector<ReachSpec>> reachSpecsFrom(
    const TransectSentence& sentence, const MeasuredWorld& world, const Setup& current);

class TransectRunner : public QObject {
    Q_OBJECT
public:
    explicit TransectRunner(QObject* parent = nullptr);
    ~TransectRunner() override;

    /// Asserts that none is running. Ends with a quick audit of what was measured.
    void start(TransectSpec spec, int width, int height);
    /// Finds the reach of each setup in turn, by doubling and halving. Asserts that nothing is running.
    void startReach(std::vector<ReachSpec> specs, int width, int height);
    void stop();
    [[nodiscard]] bool isRunning() const { return m_running; }
    /// The last result, complete or so far.
    [[nodiscard]] const TransectResult& result() const { return m_result; }
    /// Shows a result from elsewhere, e.g. from a file.
    void show(TransectResult result);
    /// Judges the rows by another budget.
    void setBudget(double ms);

signals:
    void progressed(double share, const QString& doing, double secondsLeft);
    void resultChanged();
    void measured(); // a run has ended: its result is new, and of this window
    void reachFound(const QStringList& findings);
    /// `trouble` is empty if all went well.
    void finished(const QString& trouble);

private:
    void work(const TransectSpec& spec, int width, int height, const std::stop_token& stop);
    void workReach(const std::vector<ReachSpec>& specs, int width, int height, const std::stop_token& stop);

    TransectResult m_result;
    bool m_running = false;
    std::jthread m_thread;
};

} // namespace fell::app
