// SPDX-License-Identifier: GPL-3.0-or-later
// Makes a world of heights or a volume from elsewhere, in the background.
#pragma once

#include <fell/app/models/background_task.h>
#include <fell/exchange/world_import.h>

#include <QString>

#include <optional>

namespace fell::app {

class ImportRunner : public BackgroundTask {
    Q_OBJECT
public:
    using BackgroundTask::BackgroundTask;
    /// Ends in made or refused.
    void start(const ImportSpec& spec);

signals:
    void progressed(double share);
    void made(const QString& file);
    void refused(const QString& sentence);
};

} // namespace fell::app
