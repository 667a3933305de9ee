// SPDX-License-Identifier: GPL-3.0-or-later
// Writes the surface of one box of the world to a file, in the background.
#pragma once

#include <fell/app/models/background_task.h>
#include <fell/exchange/surface.h>

#include <QString>

#include <filesystem>
#include <memory>

namespace fell::app {

struct ExportOrder {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<const WorldChanges> changes; // read only from here on; may be null
    Setup setup; // whose mesher is used
    VoxelBox box;
    std::string format; // of meshFileFormats()
    std::filesystem::path out;
};

class ExportRunner : public BackgroundTask {
    Q_OBJECT
public:
    using BackgroundTask::BackgroundTask;
    /// Ends in written or refused; where it was stopped, in neither, and nothing is written.
    void start(const ExportOrder& order);

signals:
    void progressed(double share);
    void written(const QString& sentence); // with what the format could not carry
    void refused(const QString& sentence);
};

} // namespace fell::app
