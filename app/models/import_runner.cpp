// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/import_runner.h>

namespace fell::app {

void ImportRunner::start(const ImportSpec& spec)
{
    BackgroundTask::start([this, spec](const std::stop_token& stop) -> Done {
        const auto result = importWorld(spec, [this, &stop](double share) {
            QMetaObject::invokeMethod(this, [this, share] { emit progressed(share); });
            return !stop.stop_requested();
        });
        return [this, result, file = QString::fromStdString(spec.out.string())] {
            if (result)
                emit made(file);
            else
                emit refused(QString::fromStdString(sentence(result.problem())));
        };
    });
}

} // namespace fell::app

#include "moc_import_runner.cpp"
