// SPDX-License-Identifier: GPL-3.0-or-later
// What the stage rail shows: each stage's cost in the last moment, its queue, and which one is the bottleneck.
#pragma once

#include <fell/app/models/frame_history.h>
#include <fell/app/models/tool_hand.h>
#include <fell/gpu/renderer.h>

#include <QString>
#include <QStringList>

#include <array>
#include <deque>
#include <optional>
#include <vector>

namespace fell::app {

struct StageFigure {
    QString id, title, method; // method: titles of the setup's choice
    QString number, unit; // the cost: "47.1", "µs/chunk"
    QString detail; // queue and rate: "queue 48 · 1.9 k/s"
    std::deque<double> curve; // the number's last values, oldest first
    double share = 0; // of the frame budget or of the worker threads, 0 to 1 and beyond
    bool isBottleneck = false;
    bool idle = false; // nothing to do in the last moment: the number is the last that was measured
};

/// What was counted between two looks.
struct LiveSample {
    double seconds = 0;
    StreamCounts now, before;
    std::vector<FrameRecord> frames;
    FrameReport lastFrame;
    Setup setup;
    unsigned workers = 1;
    EditFigures edits;
};

/// The rail's figures, kept up to date. One for each stage of stages(), in their order.
class LiveFigures {
public:
    LiveFigures();
    void update(const LiveSample& sample);
    [[nodiscard]] const std::vector<StageFigure>& stages() const { return m_stages; }
    static constexpr std::size_t kCurve = 40; // values

private:
    StageFigure& stage(const char* id);
    void workerStage(
        const char* id, std::uint64_t chunks, std::uint64_t ns, std::uint64_t queue, const LiveSample& sample);
    void frameStage(const char* id, double ms, const LiveSample& sample);
    void markHoldingBack(const LiveSample& sample);

    void editStage(const EditFigures& edits);

    std::vector<StageFigure> m_stages;
};

/// The titles of the methods that `setup` chose for `stageId`, e.g. "distance, frustum planes".
QString methodTitles(const Setup& setup, const std::string& stageId);

} // namespace fell::app
