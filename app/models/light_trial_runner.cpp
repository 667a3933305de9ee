// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/light_trial_runner.h>

namespace fell::app {

void LightTrialRunner::start(
    std::shared_ptr<const Terrain> terrain, std::shared_ptr<const WorldChanges> changes, int edge)
{
    BackgroundTask::start(
        [this, terrain = std::move(terrain), changes = std::move(changes), edge](const std::stop_token& stop) -> Done {
            constexpr int kLamps = 60, kRepeat = 5;
            std::vector<const LightMode*> modes;
            for (const LightMode& mode : lightModes())
                if (mode.channels() > 0)
                    modes.push_back(&mode);
            const LightRegion region = makeLightRegion(*terrain, *findGenerator("blocks"),
                {edge, {4, 4, 4}, kLamps, terrain->recipe.seed}, stop, changes.get());
            auto trial = stop.stop_requested() ? LightTrial{.edge = edge, .rows = {}, .stopped = true}
                                               : runLightTrial(region, modes, kRepeat, stop);
            return [this, trial = std::move(trial)] {
                if (!trial.stopped)
                    m_result = trial;
            };
        });
}

} // namespace fell::app

#include "moc_light_trial_runner.cpp"
