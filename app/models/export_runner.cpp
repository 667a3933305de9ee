// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/export_runner.h>

#include <fell/app/models/text.h>
#include <fell/input/text_file.h>

#include <QFileInfo>

namespace fell::app {
namespace {

/// What was written, or why nothing was.
Outcome<QString> write(const ExportOrder& order, const BoxSurface& surface)
{
    if (surface.isEmpty()) {
        const auto ground = groundAt(*order.terrain, order.box, order.changes.get());
        return Problem{"the box", "",
            "holds no surface, so nothing was written"
                + (ground ? "; the ground at its middle is at y = " + std::to_string(*ground) : std::string())};
    }
    const std::filesystem::path materials = std::filesystem::path(order.out).replace_extension(".mtl");
    const ExportFile file = toMeshFile(order.format, surface, order.terrain->recipe, materials.filename().string());
    if (!file.materials.empty())
        if (auto problem = writeFile(materials, file.materials))
            return *problem;
    if (auto problem = writeFile(order.out, file.bytes))
        return *problem;
    QString said = ExportRunner::tr("Exported %1 triangles, %2, to %3")
                       .arg(countText(file.count.triangles), bytesText(file.count.bytes),
                           QFileInfo(QString::fromStdString(order.out.string())).fileName());
    for (const std::string& sentence : file.leftOut)
        said += QStringLiteral(". ") + QString::fromStdString(sentence);
    return said;
}

} // namespace

void ExportRunner::start(const ExportOrder& order)
{
    BackgroundTask::start([this, order](const std::stop_token& stop) -> Done {
        const BoxSurface surface = surfaceOf(
            *order.terrain, order.setup, order.box,
            [this, &stop](double share) {
                QMetaObject::invokeMethod(this, [this, share] { emit progressed(share); });
                return !stop.stop_requested();
            },
            order.changes.get());
        if (stop.stop_requested())
            return {};
        const auto said = write(order, surface);
        return [this, said] {
            if (said)
                emit written(said.value());
            else
                emit refused(QString::fromStdString(sentence(said.problem())));
        };
    });
}

} // namespace fell::app

#include "moc_export_runner.cpp"
