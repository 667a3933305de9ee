// SPDX-License-Identifier: GPL-3.0-or-later
// Measures all light modes on the world in use, beside the window.
#pragma once

#include "measure/light_trial.h"

#include <QObject>

#include <memory>
#include <optional>
#include <thread>

namespace fell {

class LightTrialRunner : public QObject {
    Q_OBJECT
public:
    explicit LightTrialRunner(QObject* parent = nullptr);
    ~LightTrialRunner() override;

    /// Floods 4 x 4 x 4 chunks round the world's origin with some lamps, in every mode in turn; two seconds or so.
    void start(std::shared_ptr<const Terrain> terrain, int edge);
    void stop();
    [[nodiscard]] bool isRunning() const { return m_running; }
    /// The last one; nothing before the first has ended.
    [[nodiscard]] const std::optional<LightTrial>& result() const { return m_result; }

signals:
    void changed(); // it has begun, ended or been stopped

private:
    std::optional<LightTrial> m_result;
    bool m_running = false;
    std::jthread m_thread; // last: ends first
};

} // namespace fell
