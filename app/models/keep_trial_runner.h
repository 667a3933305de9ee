// SPDX-License-Identifier: GPL-3.0-or-later
// Measures every way of keeping the world in use, in the background.
#pragma once

#include <fell/app/models/background_task.h>
#include <fell/measure/keep_trial.h>

#include <QString>

#include <memory>
#include <optional>

namespace fell::app {

class KeepTrialRunner : public BackgroundTask {
    Q_OBJECT
public:
    using BackgroundTask::BackgroundTask;

    /// Keeps the chunks round `middle` with all changes in temporary files; about a second.
    void start(std::shared_ptr<const Terrain> terrain, std::shared_ptr<WorldChanges> changes, ChunkPos middle);
    /// The last one; nothing before the first has ended.
    [[nodiscard]] const std::optional<KeepTrial>& result() const { return m_result; }
    [[nodiscard]] const QString& trouble() const { return m_trouble; }

private:
    std::optional<KeepTrial> m_result;
    QString m_trouble;
};

} // namespace fell::app
