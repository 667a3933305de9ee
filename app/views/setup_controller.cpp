// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/setup_controller.h>

#include <fell/app/models/text.h>
#include <fell/app/views/dialogs.h>
#include <fell/input/text_file.h>
#include <fell/stream/estimate.h>

namespace fell::app {

SetupController::SetupController(WorldSession& session, Dialogs& dialogs)
    : m_session(session)
    , m_dialogs(dialogs)
{
    m_session.mayChange = [this](const Setup& next) { return fits(next); };
}

bool SetupController::open(const QString& nameOrFile)
{
    auto setup = findSetup(nameOrFile.toStdString(), demoFolder() / "setups");
    if (!setup) {
        emit trouble(QString::fromStdString(sentence(setup.problem())));
        return false;
    }
    m_session.edited().change(setup.value());
    return true;
}

QString SetupController::askFile(const QString& title)
{
    return m_dialogs.openFile(title, QString::fromStdString((demoFolder() / "setups").string()), tr("Setup (*.json)"));
}

void SetupController::askOpen()
{
    const QString file = askFile(tr("Open setup"));
    if (!file.isEmpty())
        open(file);
}

bool SetupController::save(const QString& file)
{
    if (const auto problem = writeFile(file.toStdString(), toJson(m_session.edited().current()))) {
        emit trouble(QString::fromStdString(sentence(*problem)));
        return false;
    }
    emit note(tr("Saved %1").arg(file));
    return true;
}

void SetupController::askSave()
{
    const QString file = m_dialogs.saveFile(tr("Save setup"),
        QString::fromStdString(m_session.edited().current().name) + QStringLiteral(".json"), tr("Setup (*.json)"));
    if (!file.isEmpty())
        save(file);
}

bool SetupController::compareWith(const std::optional<QString>& nameOrFile)
{
    if (!nameOrFile) {
        m_session.compareWith(std::nullopt);
        return true;
    }
    Setup b = m_session.setup();
    if (nameOrFile->isEmpty()) {
        b.name += "-changed";
    } else {
        auto found = findSetup(nameOrFile->toStdString(), demoFolder() / "setups");
        if (!found) {
            emit trouble(QString::fromStdString(sentence(found.problem())));
            return false;
        }
        b = found.take();
        if (!hasLevels(b.lod))
            b.stream.distance = std::min({b.stream.distance, m_session.setup().stream.distance, kFarthestPlain});
    }
    m_session.compareWith(b);
    emit besideChanged();
    return true;
}

void SetupController::askCompare()
{
    const QString file = askFile(tr("Setup B"));
    if (!file.isEmpty())
        compareWith(file);
}

void SetupController::compareWithFullDetail()
{
    constexpr double kFarthest = 512; // metres
    const Setup& a = m_session.setup();
    const auto max = std::max(4, static_cast<int>(kFarthest / (a.chunk.edge * m_session.terrain().recipe.voxelMetres)));
    if (a.stream.distance > max)
        m_session.setups().set("stream.distance", max);
    Setup b = m_session.setup();
    b.lod.scheme = "off";
    b.name = "full detail";
    m_session.compareWith(b);
    emit besideChanged();
}

void SetupController::keepForNextSession() const
{
    const auto keep = [](const std::filesystem::path& file, const std::optional<Setup>& setup) {
        std::error_code error;
        if (!setup)
            std::filesystem::remove(file, error);
        else if (!makeFolder(file.parent_path()))
            (void)writeFile(file, toJson(*setup)); // closing goes on where it cannot be written
    };
    keep(lastSetupFile(false), m_session.setup());
    keep(lastSetupFile(true), m_session.hasB() ? std::optional(m_session.setupB()) : std::nullopt);
}

/// Asks where the memory that the setup allows is too little.
bool SetupController::fits(const Setup& next)
{
    const bool b = m_session.editsB();
    Streamer* streamer = b ? m_session.streamerB() : m_session.streamer();
    if (!streamer)
        return true;
    const Setup& now = m_session.edited().current();
    const std::uint64_t expected = expectedBytes(streamer->counts(), now, next),
                        allowed = static_cast<std::uint64_t>(next.stream.memory) << 20;
    // What does not fit already is not made worse by what needs no more.
    if (expected <= allowed || expected <= expectedBytes(streamer->counts(), now, now))
        return true;
    return m_dialogs.choose({QStringLiteral("memoryQuestion"), tr("More than the memory allows"),
               tr("%1 chunks of edge %2 will take about %3 of voxels, light and meshes; this setup allows %4.")
                   .arg(next.stream.distance)
                   .arg(next.chunk.edge)
                   .arg(bytesText(expected), bytesText(allowed)),
               tr("The nearest chunks that fit are made, the farthest ones go first."),
               {{QStringLiteral("confirm"), tr("Change it all the same"), Question::Role::Accept},
                   {QStringLiteral("decline"), tr("Leave it"), Question::Role::Reject}}})
        == 0;
}

} // namespace fell::app

#include "moc_setup_controller.cpp"
