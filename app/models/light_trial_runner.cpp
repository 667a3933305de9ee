// SPDX-License-Identifier: GPL-3.0-or-later
#include "models/light_trial_runner.h"

namespace fell {

LightTrialRunner::LightTrialRunner(QObject* parent)
    : QObject(parent)
{
}

LightTrialRunner::~LightTrialRunner()
{
    stop();
}

void LightTrialRunner::start(std::shared_ptr<const Terrain> terrain, int edge)
{
    if (m_running)
        return;
    m_running = true;
    emit changed();
    m_thread = std::jthread([this, terrain = std::move(terrain), edge](const std::stop_token& stop) {
        constexpr int kLamps = 60, kRepeat = 5;
        std::vector<const LightMode*> modes;
        for (const LightMode& mode : lightModes())
            if (mode.channels() > 0)
                modes.push_back(&mode);
        const LightRegion region = makeLightRegion(
            *terrain, *findGenerator("blocks"), {edge, {4, 4, 4}, kLamps, terrain->recipe.seed}, stop);
        auto trial = stop.stop_requested() ? LightTrial{.edge = edge, .rows = {}, .stopped = true}
                                           : runLightTrial(region, modes, kRepeat, stop);
        QMetaObject::invokeMethod(this, [this, trial = std::move(trial)] {
            m_running = false;
            if (!trial.stopped)
                m_result = trial;
            emit changed();
        });
    });
}

void LightTrialRunner::stop()
{
    m_thread.request_stop();
}

} // namespace fell
