// SPDX-License-Identifier: GPL-3.0-or-later
// Measures all light modes on the world in use, in the background.
#pragma once

#include <fell/app/models/background_task.h>
#include <fell/measure/light_trial.h>

#include <memory>
#include <optional>

namespace fell::app {

class LightTrialRunner : public BackgroundTask {
    Q_OBJECT
public:
    using BackgroundTask::BackgroundTask;

    /// Floods 4 x 4 x 4 chunks where the world has its ground or its changes, with some lamps, in every mode in turn;
    /// two seconds or so.
    void start(std::shared_ptr<const Terrain> terrain, std::shared_ptr<const WorldChanges> changes, int edge);
    /// The last one; nothing before the first has ended.
    [[nodiscard]] const std::optional<LightTrial>& result() const { return m_result; }

private:
    std::optional<LightTrial> m_result;
};

} // namespace fell::app
