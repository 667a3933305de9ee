// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/method_loader.h>

#include <fell/plugin/loaded_mesher.h>

#include <QCoreApplication>
#include <QFileInfo>

#include <nlohmann/json.hpp>

namespace fell::app {
namespace {

constexpr int kLongestMs = 120000; // of a check, which limits each of its steps too
constexpr int kSettleMs = 100; // a linker writes in parts

} // namespace

QString checkerProgram()
{
    const QString here = QCoreApplication::applicationDirPath();
    for (const QString& file : {here + QStringLiteral("/fell-app"), here + QStringLiteral("/../fell-app")})
        if (QFileInfo(file).isExecutable())
            return file;
    return QCoreApplication::applicationFilePath();
}

MethodLoader::MethodLoader(QString checker, QObject* parent)
    : BackgroundTask(parent)
    , m_checker(std::move(checker))
{
    m_settle.setSingleShot(true);
    m_settle.setInterval(kSettleMs);
    connect(&m_settle, &QTimer::timeout, this, &MethodLoader::lookAgain);
    const auto wait = [this] { m_settle.start(); };
    connect(&m_watcher, &QFileSystemWatcher::fileChanged, this, wait);
    connect(&m_watcher, &QFileSystemWatcher::directoryChanged, this, wait);
    m_limit.setSingleShot(true);
    m_limit.setInterval(kLongestMs);
    connect(&m_limit, &QTimer::timeout, this, [this] {
        const QString file = m_checking;
        end();
        refuse(file, tr("%1 was not checked within 2 minutes; it is not loaded").arg(file));
    });
    // Nothing of the library runs in this process before it passed.
    m_check.setStandardErrorFile(QProcess::nullDevice());
    connect(&m_check, &QProcess::finished, this, &MethodLoader::readCheck);
    connect(&m_check, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error != QProcess::FailedToStart)
            return; // it finishes, too
        const QString file = m_checking;
        end();
        refuse(file, tr("%1 cannot be checked: %2 does not start").arg(file, m_checker));
    });
    connect(this, &BackgroundTask::changed, this, &MethodLoader::next);
}

MethodLoader::~MethodLoader()
{
    m_check.disconnect(this);
    m_check.kill();
    m_check.waitForFinished(1000);
}

MethodLoader::Stamp MethodLoader::stampOf(const QString& file)
{
    const QFileInfo info(file);
    return info.exists() ? Stamp{info.size(), info.lastModified()} : Stamp();
}

void MethodLoader::load(const QString& file)
{
    const QString path = QFileInfo(file).absoluteFilePath();
    m_asked.insert(path);
    wait(path);
}

void MethodLoader::wait(const QString& path)
{
    if (!m_waiting.contains(path))
        m_waiting << path;
    next();
}

void MethodLoader::cancel()
{
    m_waiting.clear();
    m_asked.clear();
    stop();
    if (m_check.state() != QProcess::NotRunning)
        end();
}

void MethodLoader::next()
{
    if (isRunning() || !m_checking.isEmpty() || m_check.state() != QProcess::NotRunning || m_waiting.isEmpty())
        return;
    m_checking = m_waiting.takeFirst();
    m_seen[m_checking] = stampOf(m_checking); // before it is read: what is written later is another
    emit busyChanged();
    m_limit.start();
    m_check.start(m_checker, {QStringLiteral("--check-method"), m_checking});
}

/// Nothing is checked any more; a process that still runs is ended, and what it said is not read.
void MethodLoader::end()
{
    m_limit.stop();
    m_checking.clear();
    if (m_check.state() != QProcess::NotRunning)
        m_check.kill();
    emit busyChanged();
}

void MethodLoader::refuse(const QString& file, const QString& sentence)
{
    m_asked.remove(file);
    emit refused(sentence);
    next();
}

/// The check has ended.
void MethodLoader::readCheck()
{
    const auto said
        = nlohmann::json::parse(m_check.readAllStandardOutput().toStdString(), nullptr, /*allow_exceptions=*/false);
    if (m_checking.isEmpty()) // cancelled
        return next();
    const QString file = m_checking;
    const auto textOf = [](const nlohmann::json& value) { return QString::fromStdString(value.get<std::string>()); };
    if (said.is_object() && said.contains("passed") && said["fault"].is_null())
        return loadChecked(said["hash"].get<std::string>());
    end();
    if (said.is_object() && said.contains("problem"))
        refuse(file, textOf(said["problem"]));
    else if (said.is_object() && said.contains("fault"))
        refuse(
            file, tr("%1: %2 %3; it is not loaded").arg(file, textOf(said["name"]), textOf(said["fault"]["sentence"])));
    else
        refuse(file, tr("%1 cannot be checked: the process that checks it ended without a result").arg(file));
}

void MethodLoader::loadChecked(const std::string& hash)
{
    m_limit.stop();
    start([this, file = m_checking, hash](const std::stop_token& stop) -> Done {
        auto made = loadMesher(file.toStdString(), hash);
        return [this, file, made = std::move(made), isCancelled = stop.stop_requested()] {
            end();
            if (isCancelled)
                return;
            if (!made) {
                m_asked.remove(file);
                emit refused(QString::fromStdString(sentence(made.problem())));
                return;
            }
            const QString id = QString::fromStdString(made.value()->id), before = m_ids.value(file);
            m_ids[file] = id;
            m_watcher.addPaths({file, QFileInfo(file).path()});
            if (m_asked.remove(file))
                emit loaded(id, {});
            else if (id != before)
                emit loaded(id, before);
        };
    });
}

/// A file is loaded again once it is as it was a moment ago, and not what was loaded.
void MethodLoader::lookAgain()
{
    for (auto at = m_ids.cbegin(); at != m_ids.cend(); ++at) {
        const QString& file = at.key();
        const Stamp now = stampOf(file);
        if (now == Stamp() || now == m_seen.value(file))
            continue;
        m_watcher.addPath(file); // one that took the place of the watched one
        if (now != std::exchange(m_last[file], now))
            m_settle.start();
        else
            wait(file);
    }
}

} // namespace fell::app

#include "moc_method_loader.cpp"
