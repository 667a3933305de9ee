// SPDX-License-Identifier: GPL-3.0-or-later
#include "models/world_keeper.h"

#include "models/text.h"

#include <QFileInfo>

namespace fell {

WorldHeader headerOf(const Terrain& terrain)
{
    const Recipe& recipe = terrain.recipe;
    return {
        recipe.name, recipe.text, recipe.blocks.text, recipe.blocks.folder.string(), recipe.seed, "changed", "cube"};
}

WorldKeeper::WorldKeeper(QObject* parent)
    : QObject(parent)
    , m_thread([this](const std::stop_token& stop) { work(stop); })
{
    m_autosave.setInterval(kAutosaveMs);
    connect(&m_autosave, &QTimer::timeout, this, [this] { save(false); });
    m_autosave.start();
}

WorldKeeper::~WorldKeeper()
{
    m_thread.request_stop();
    m_wake.notify_all();
    m_thread.join();
}

void WorldKeeper::follow(std::shared_ptr<WorldChanges> changes)
{
    m_changes = std::move(changes);
    m_name.clear();
    m_readOnly.clear();
    add([this] { m_file.reset(); });
    emit changed();
}

std::size_t WorldKeeper::unsaved() const
{
    return m_changes ? m_changes->unsaved() : 0;
}

QString WorldKeeper::state() const
{
    const QString name = QFileInfo(m_name).fileName();
    if (m_saving > 0)
        return tr("saving …");
    if (!hasFile())
        return unsaved() == 0 ? tr("nothing to save") : tr("in no file yet");
    if (!m_readOnly.isEmpty())
        return tr("%1 is only read").arg(name);
    return unsaved() == 0 ? tr("saved in %1").arg(name)
                          : tr("%1 of them not in %2 yet").arg(countText(unsaved()), name);
}

void WorldKeeper::saveAs(const QString& file, const WorldHeader& header)
{
    if (!m_changes)
        return;
    ++m_saving;
    const auto taken = m_changes->takeUnsaved(); // all that was changed goes in; what comes later is told apart
    const auto changes = m_changes;
    add([this, file, header, taken, changes] {
        auto made = WorldFile::create(file.toStdString(), header);
        std::optional<Problem> problem = made ? std::nullopt : std::optional(made.problem());
        if (made) {
            auto world = made.take();
            problem = world->save(keptOf(changes->all()));
            if (!problem)
                m_file = std::move(world);
        }
        std::vector<ChunkPos> back;
        for (const auto& [chunk, unused] : taken)
            back.push_back(chunk);
        post([this, file, problem, changes, back] {
            --m_saving;
            if (problem) {
                changes->giveBack(back);
                emit trouble(QString::fromStdString(sentence(*problem)));
            } else if (changes == m_changes) {
                m_name = file;
                m_readOnly.clear();
                emit saved(file);
            }
            emit changed();
        });
    });
    emit changed();
}

void WorldKeeper::save(bool isAsked)
{
    if (!m_changes || !hasFile() || !m_readOnly.isEmpty())
        return;
    auto taken = m_changes->takeUnsaved();
    if (!taken.empty())
        write(std::move(taken), isAsked);
}

void WorldKeeper::write(std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> chunks, bool isAsked)
{
    ++m_saving;
    add([this, chunks = std::move(chunks), changes = m_changes, name = m_name, isAsked] {
        const std::optional<Problem> problem = m_file
            ? m_file->save(keptOf(chunks))
            : std::optional(Problem{name.toStdString(), "", "is not open any more"});
        std::vector<ChunkPos> back;
        for (const auto& [chunk, unused] : chunks)
            back.push_back(chunk);
        post([this, problem, changes, back, name, isAsked] {
            --m_saving;
            if (problem) {
                changes->giveBack(back);
                emit trouble(QString::fromStdString(sentence(*problem)));
            } else if (isAsked) {
                emit saved(name);
            }
            emit changed();
        });
    });
    emit changed();
}

void WorldKeeper::open(const QString& file)
{
    add([this, file] {
        const auto refuse = [this](const Problem& problem) {
            post([this, problem] { emit trouble(QString::fromStdString(sentence(problem))); });
        };
        if (m_file && m_file->file() == std::filesystem::path(file.toStdString()))
            m_file.reset(); // its own lock is not somebody else's
        auto found = WorldFile::open(file.toStdString());
        if (!found)
            return refuse(found.problem());
        auto world = found.take();
        auto recipe = recipeOf(world->header(), file.toStdString());
        if (!recipe)
            return refuse(recipe.problem());
        auto contents = world->load();
        if (!contents)
            return refuse(contents.problem());
        WorldContents all = contents.take();
        auto changes = std::make_shared<WorldChanges>();
        changes->replaceAll(changesFrom(std::move(all.chunks)));
        auto terrain = makeTerrain(recipe.take());
        const QString readOnly = QString::fromStdString(world->whyReadOnly());
        post([this, file, terrain, changes, damaged = all.damaged, readOnly] {
            m_changes = changes;
            m_name = file;
            m_readOnly = readOnly;
            emit opened(terrain, changes, damaged, readOnly);
            emit changed();
        });
        m_file = std::move(world);
    });
}

void WorldKeeper::dropDamaged(std::vector<DamagedRow> rows)
{
    add([this, rows = std::move(rows)] {
        if (!m_file)
            return;
        if (const auto problem = m_file->drop(rows))
            post([this, problem] { emit trouble(QString::fromStdString(sentence(*problem))); });
    });
}

void WorldKeeper::add(Job job)
{
    const std::scoped_lock lock(m_mutex);
    m_jobs.push_back(std::move(job));
    m_wake.notify_all();
}

/// Ends once it is asked to and nothing is left to do: what was to be saved is saved.
void WorldKeeper::work(const std::stop_token& stop)
{
    for (;;) {
        Job job;
        {
            std::unique_lock lock(m_mutex);
            m_wake.wait(lock, stop, [this] { return !m_jobs.empty(); });
            if (m_jobs.empty())
                return;
            job = std::move(m_jobs.front());
            m_jobs.pop_front();
        }
        job();
    }
}

template <typename Call> void WorldKeeper::post(Call call)
{
    QMetaObject::invokeMethod(this, std::move(call), Qt::QueuedConnection);
}

} // namespace fell
