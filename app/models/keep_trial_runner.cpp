// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/keep_trial_runner.h>

#include <fell/input/temp_folder.h>

namespace fell::app {

void KeepTrialRunner::start(
    std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes, ChunkPos middle)
{
    BackgroundTask::start([this, terrain, changes, middle](const std::stop_token& stop) -> Done {
        KeepTrialSpec spec;
        spec.terrain = terrain;
        spec.changes = changes;
        spec.middle = middle;
        const auto folder = TempFolder::make();
        if (folder)
            spec.folder = folder.value()->path();
        const Outcome<KeepTrial> trial = folder ? runKeepTrial(spec, stop) : Outcome<KeepTrial>(folder.problem());
        return [this, trial] {
            m_trouble = trial ? QString() : QString::fromStdString(sentence(trial.problem()));
            if (trial && !trial.value().stopped)
                m_result = trial.value();
        };
    });
}

} // namespace fell::app

#include "moc_keep_trial_runner.cpp"
