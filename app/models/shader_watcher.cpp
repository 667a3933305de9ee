// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/shader_watcher.h>

#include <QDir>

namespace fell::app {
namespace {

constexpr int kWritingMs = 100; // editors write in steps

} // namespace

ShaderWatcher::ShaderWatcher(QString folder, QObject* parent)
    : QObject(parent)
    , m_folder(std::move(folder))
{
    if (m_folder.isEmpty())
        return;
    m_settle.setSingleShot(true);
    m_settle.setInterval(kWritingMs);
    connect(&m_settle, &QTimer::timeout, this, &ShaderWatcher::lookAgain);
    const auto wait = [this] { m_settle.start(); };
    connect(&m_watcher, &QFileSystemWatcher::fileChanged, this, wait);
    connect(&m_watcher, &QFileSystemWatcher::directoryChanged, this, wait);
    m_watcher.addPath(m_folder);
    m_seen = stampsNow();
}

/// Observes new files too: an editor may put a file in the place of another.
ShaderWatcher::Stamps ShaderWatcher::stampsNow()
{
    Stamps out;
    const QFileInfoList files = QDir(m_folder).entryInfoList({QStringLiteral("*.glsl")}, QDir::Files);
    for (const QFileInfo& file : files) {
        out[file.fileName()] = {file.lastModified(), file.size()};
        if (!m_watcher.files().contains(file.filePath()))
            m_watcher.addPath(file.filePath());
    }
    return out;
}

void ShaderWatcher::lookAgain()
{
    Stamps now = stampsNow();
    if (now == std::exchange(m_seen, std::move(now)))
        return;
    emit changed();
}

} // namespace fell::app

#include "moc_shader_watcher.cpp"
