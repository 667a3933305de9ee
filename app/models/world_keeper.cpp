// SPDX-License-Identifier: GPL-3.0-or-later
#include "models/world_keeper.h"

#include "models/text.h"
#include "terrain/generate.h"

#include <QFileInfo>

namespace fell {

WorldHeader headerOf(const Terrain& terrain, const KeepChoices& choices)
{
    const Recipe& recipe = terrain.recipe;
    return {recipe.name, recipe.text, recipe.blocks.text, recipe.blocks.folder.string(), recipe.seed, choices.what,
        choices.group};
}

namespace {

std::optional<Problem> putAll(WorldFile& file, const std::vector<WorldFile::Text>& documents)
{
    for (const WorldFile::Text& one : documents)
        if (auto problem = file.putText(one.kind, one.name, one.json))
            return problem;
    return std::nullopt;
}

} // namespace

WorldKeeper::WorldKeeper(QObject* parent)
    : QObject(parent)
    , m_thread([this](const std::stop_token& stop) { work(stop); })
{
    connect(&m_autosave, &QTimer::timeout, this, [this] { save(false); });
    choose({});
}

void WorldKeeper::choose(const KeepChoices& choices)
{
    if (m_autosave.isActive() && choices == m_choices)
        return;
    m_choices = choices;
    m_autosave.stop();
    if (choices.autosave > 0)
        m_autosave.start(choices.autosave * 1000);
}

/// On the window's thread: a worker that keeps the books is waited for, but not for long.
ResidentVoxels WorldKeeper::visited() const
{
    constexpr int kTries = 20;
    for (int i = 0; residents && i < kTries; ++i) {
        if (auto all = residents())
            return std::move(*all);
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    return {};
}

std::vector<WorldFile::Text> WorldKeeper::allDocuments() const
{
    return documents ? documents() : std::vector<WorldFile::Text>{};
}

/// On the worker: what was changed, and of what was visited that which the file does not hold whole yet.
std::optional<Problem> WorldKeeper::saveTo(WorldFile& file, const Changes& changes, const ResidentVoxels& visited)
{
    std::unordered_set<ChunkPos, ChunkPosHash> changed;
    for (const auto& [chunk, unused] : changes)
        changed.insert(chunk);
    std::vector<StoredChunk> all
        = wholeOf(visited, [&](ChunkPos kept) { return changed.count(kept) > 0 || m_whole.count(kept) == 0; });
    std::vector<ChunkPos> whole;
    for (const StoredChunk& one : all)
        whole.push_back(one.chunk);
    for (const ChunkPos chunk : whole)
        changed.erase(chunk); // its changes are among its voxels
    for (StoredChunk& one : keptOf(changes))
        if (changed.count(one.chunk) > 0)
            all.push_back(std::move(one));
    if (all.empty())
        return std::nullopt;
    auto problem = file.save(all);
    if (!problem) {
        for (const ChunkPos chunk : changed)
            m_whole.erase(chunk);
        m_whole.insert(whole.begin(), whole.end());
    }
    return problem;
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
    m_keepsVisited = false;
    add([this] {
        m_file.reset();
        m_whole.clear();
    });
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
    const bool isVisited = header.what == "visited";
    add([this, file, header, taken, changes, isVisited, documents = allDocuments(),
            around = isVisited ? visited() : ResidentVoxels{}] {
        auto made = WorldFile::create(file.toStdString(), header);
        std::optional<Problem> problem = made ? std::nullopt : std::optional(made.problem());
        if (made) {
            auto world = made.take();
            m_whole.clear();
            problem = saveTo(*world, changes->all(), around);
            if (!problem)
                problem = putAll(*world, documents);
            if (!problem)
                m_file = std::move(world);
        }
        std::vector<ChunkPos> back;
        for (const auto& [chunk, unused] : taken)
            back.push_back(chunk);
        post([this, file, problem, changes, back, isVisited] {
            --m_saving;
            if (problem) {
                changes->giveBack(back);
                emit trouble(QString::fromStdString(sentence(*problem)));
            } else if (changes == m_changes) {
                m_name = file;
                m_readOnly.clear();
                m_keepsVisited = isVisited;
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
    if (!taken.empty() || m_keepsVisited || isAsked)
        write(std::move(taken), isAsked);
}

void WorldKeeper::write(Changes chunks, bool isAsked)
{
    ++m_saving;
    add([this, chunks = std::move(chunks), around = m_keepsVisited ? visited() : ResidentVoxels{}, changes = m_changes,
            name = m_name, isAsked, documents = isAsked ? allDocuments() : std::vector<WorldFile::Text>{}] {
        std::optional<Problem> problem = m_file
            ? saveTo(*m_file, chunks, around)
            : std::optional(Problem{name.toStdString(), "", "is not open any more"});
        if (!problem)
            problem = putAll(*m_file, documents);
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
        auto terrain = makeTerrain(recipe.take());
        m_whole.clear();
        for (const StoredChunk& one : all.chunks)
            if (one.whole)
                m_whole.insert(one.chunk);
        changes->replaceAll(changesFrom(std::move(all.chunks), [&terrain](ChunkPos chunk) {
            return generateChunk(*findGenerator("blocks"), *terrain, chunk, kKeptEdge).voxels();
        }));
        const bool isVisited = world->header().what == "visited";
        auto texts = world->texts();
        std::vector<WorldFile::Text> kept = texts ? texts.take() : std::vector<WorldFile::Text>{};
        const QString readOnly = QString::fromStdString(world->whyReadOnly());
        post([this, file, terrain, changes, damaged = all.damaged, readOnly, isVisited, kept] {
            m_changes = changes;
            m_keepsVisited = isVisited;
            m_name = file;
            m_readOnly = readOnly;
            emit opened(terrain, changes, damaged, readOnly, kept);
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
