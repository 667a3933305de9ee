// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/models/world_keeper.h>

#include <fell/app/models/text.h>
#include <fell/terrain/generate.h>

#include <QFileInfo>

namespace fell::app {

WorldHeader headerOf(const Terrain& terrain, const KeepChoices& choices)
{
    const Recipe& recipe = terrain.recipe;
    return {recipe.name, recipe.text, recipe.blocks.text, std::filesystem::absolute(recipe.blocks.folder).string(),
        recipe.seed, choices.what, choices.group};
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
std::optional<Problem> WorldKeeper::saveTo(OpenFile& file, const Changes& changes, const ResidentVoxels& visited)
{
    std::unordered_set<ChunkPos, ChunkPosHash> changed;
    for (const auto& [chunk, unused] : changes)
        changed.insert(chunk);
    std::vector<StoredChunk> all = storedFromResidents(
        visited, [&](ChunkPos kept) { return changed.count(kept) > 0 || file.whole.count(kept) == 0; });
    std::vector<ChunkPos> whole;
    for (const StoredChunk& one : all)
        whole.push_back(one.chunk);
    for (const ChunkPos chunk : whole)
        changed.erase(chunk); // its changes are among its voxels
    for (StoredChunk& one : storedFromChanges(changes))
        if (changed.count(one.chunk) > 0)
            all.push_back(std::move(one));
    if (all.empty())
        return std::nullopt;
    auto problem = file.world->save(all);
    if (!problem) {
        for (const ChunkPos chunk : changed)
            file.whole.erase(chunk);
        file.whole.insert(whole.begin(), whole.end());
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
    ++m_request;
    m_changes = std::move(changes);
    m_name.clear();
    m_readOnly.clear();
    m_keepsVisited = false;
    adopt(nullptr);
    emit changed();
}

/// The file that is open from now on. The old one is closed on the worker, after the jobs that belong to it.
void WorldKeeper::adopt(std::shared_ptr<OpenFile> file)
{
    std::swap(m_open, file);
    if (file)
        add([old = std::move(file)]() mutable { old.reset(); });
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

namespace {

std::vector<ChunkPos> chunksOf(const std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>>& changes)
{
    std::vector<ChunkPos> out;
    for (const auto& [chunk, unused] : changes)
        out.push_back(chunk);
    return out;
}

/// Work that may run out of memory, or meet an error that nothing foresaw: a sentence in place of the process's end.
template <typename Work> std::optional<Problem> attempted(const QString& file, const Work& work)
{
    try {
        return work();
    } catch (const std::bad_alloc&) {
        return Problem{file.toStdString(), "", "there is not enough memory for this world"};
    } catch (const std::exception& error) {
        return Problem{file.toStdString(), "", std::string("stopped by an unexpected error: ") + error.what()};
    }
}

} // namespace

void WorldKeeper::saveAs(const QString& file, const WorldHeader& header)
{
    if (!m_changes || m_isMoving)
        return;
    ++m_saving;
    m_isMoving = true;
    const auto taken = m_changes->takeUnsaved(); // all that was changed goes in; what comes later is told apart
    const auto changes = m_changes;
    const bool isVisited = header.what == "visited";
    add([this, file, header, taken, changes, isVisited, request = m_request, documents = allDocuments(),
            around = isVisited ? visited() : ResidentVoxels{}] {
        auto next = std::make_shared<OpenFile>();
        const auto problem = attempted(file, [&]() -> std::optional<Problem> {
            auto made = WorldFile::createDraft(file.toStdString(), header);
            if (!made)
                return made.problem();
            next->world = made.take();
            auto failed = saveTo(*next, changes->all(), around);
            if (!failed)
                failed = putAll(*next->world, documents);
            if (!failed)
                failed = next->world->publish();
            return failed;
        });
        if (problem)
            next->world.reset(); // removes what was begun
        post([this, file, problem, changes, back = chunksOf(taken), isVisited, request, next] {
            --m_saving;
            m_isMoving = false;
            if (problem) {
                changes->markUnsaved(back);
                emit trouble(QString::fromStdString(sentence(*problem)));
            } else if (changes == m_changes && request == m_request) {
                m_name = file;
                m_readOnly.clear();
                m_keepsVisited = isVisited;
                adopt(next);
                emit saved(file);
            }
            if (std::exchange(m_saveWhenMoved, false))
                save();
            emit changed();
        });
    });
    emit changed();
}

void WorldKeeper::save(bool isAsked)
{
    if (m_isMoving) { // what is changed now belongs into the file that is being made
        m_saveWhenMoved = m_saveWhenMoved || isAsked;
        return;
    }
    if (!m_changes || !m_open || !m_readOnly.isEmpty())
        return;
    auto taken = m_changes->takeUnsaved();
    if (!taken.empty() || m_keepsVisited || isAsked)
        write(std::move(taken), isAsked);
}

void WorldKeeper::write(Changes chunks, bool isAsked)
{
    ++m_saving;
    add([this, chunks = std::move(chunks), around = m_keepsVisited ? visited() : ResidentVoxels{}, changes = m_changes,
            open = m_open, name = m_name, isAsked,
            documents = isAsked ? allDocuments() : std::vector<WorldFile::Text>{}] {
        const auto problem = attempted(name, [&] {
            auto failed = saveTo(*open, chunks, around);
            return failed ? failed : putAll(*open->world, documents);
        });
        post([this, problem, changes, back = chunksOf(chunks), name, isAsked] {
            --m_saving;
            if (problem) {
                changes->markUnsaved(back);
                emit trouble(QString::fromStdString(sentence(*problem)));
            } else if (isAsked) {
                emit saved(name);
            }
            emit changed();
        });
    });
    emit changed();
}

/// A world as it was read, before it is shown.
struct WorldKeeper::ReadWorld {
    std::shared_ptr<OpenFile> open;
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<WorldChanges> changes;
    std::vector<DamagedRow> damaged;
    std::vector<WorldFile::Text> documents;
};

/// On the worker. `now`: the file that is open; if it is the same one, its handle goes on being used.
Outcome<WorldKeeper::ReadWorld> WorldKeeper::read(const QString& file, const std::shared_ptr<OpenFile>& now)
{
    const std::filesystem::path path = file.toStdString();
    ReadWorld out;
    out.open = std::make_shared<OpenFile>();
    std::error_code error;
    if (now && now->world && std::filesystem::equivalent(now->world->file(), path, error)) {
        out.open->world = now->world;
    } else {
        auto found = WorldFile::open(path);
        if (!found)
            return found.problem();
        out.open->world = found.take();
    }
    const WorldFile& world = *out.open->world;
    auto recipe = recipeOf(world.header(), file.toStdString());
    if (!recipe)
        return recipe.problem();
    auto contents = world.load();
    if (!contents)
        return contents.problem();
    WorldContents all = contents.take();
    for (const StoredChunk& one : all.chunks)
        if (one.whole)
            out.open->whole.insert(one.chunk);
    out.terrain = makeTerrain(recipe.take());
    out.changes = std::make_shared<WorldChanges>();
    out.changes->replaceAll(changesFrom(std::move(all.chunks), [&out](ChunkPos chunk) {
        return generateChunk(*findGenerator("blocks"), *out.terrain, chunk, kKeptEdge).voxels();
    }));
    out.damaged = std::move(all.damaged);
    if (auto texts = world.texts())
        out.documents = texts.take();
    return out;
}

void WorldKeeper::open(const QString& file)
{
    const std::size_t unsavedThen = unsaved();
    add([this, file, now = m_open, shown = m_changes, unsavedThen, request = ++m_request] {
        auto world = std::make_shared<ReadWorld>();
        const auto problem = attempted(file, [&]() -> std::optional<Problem> {
            auto found = read(file, now);
            if (!found)
                return found.problem();
            *world = found.take();
            return std::nullopt;
        });
        post([this, file, problem, world, shown, unsavedThen, request] {
            if (problem) {
                emit trouble(QString::fromStdString(sentence(*problem)));
                return;
            }
            // What the user has chosen meanwhile counts, and so do changes that the shown world got meanwhile.
            if (request != m_request || shown != m_changes || (unsaved() > unsavedThen && mayReplace && !mayReplace()))
                return;
            m_changes = world->changes;
            m_keepsVisited = world->open->world->header().what == "visited";
            m_name = file;
            m_readOnly = QString::fromStdString(world->open->world->whyReadOnly());
            adopt(world->open);
            emit opened(world->terrain, world->changes, world->damaged, m_readOnly, world->documents);
            emit changed();
        });
    });
}

void WorldKeeper::dropDamaged(std::vector<DamagedRow> rows)
{
    add([this, rows = std::move(rows), open = m_open, name = m_name] {
        if (!open)
            return;
        if (const auto problem = attempted(name, [&] { return open->world->drop(rows); }))
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

} // namespace fell::app

#include "moc_world_keeper.cpp"
