// SPDX-License-Identifier: Apache-2.0
#include <fell/save/world_file.h>

#include <fell/input/text_file.h>
#include <fell/save/world_parts.h>

#include <algorithm>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <map>
#include <sys/stat.h>
#include <unistd.h>

namespace fell::save {
namespace {

namespace fs = std::filesystem;

constexpr int kChangesPage = 1024; // bytes a page of a world of changes, whose rows are short

} // namespace

WorldFile::WorldFile(std::unique_ptr<Parts> parts)
    : m_parts(std::move(parts))
{
}

WorldFile::~WorldFile() = default;

const WorldHeader& WorldFile::header() const
{
    return m_parts->header;
}

const fs::path& WorldFile::file() const
{
    return m_parts->file;
}

const std::string& WorldFile::whyReadOnly() const
{
    return m_parts->whyReadOnly;
}

Outcome<std::unique_ptr<WorldFile>> WorldFile::create(const fs::path& file, const WorldHeader& header)
{
    auto draft = createDraft(file, header);
    if (!draft)
        return draft;
    auto made = draft.take();
    if (const auto problem = made->publish())
        return *problem;
    return made;
}

Outcome<std::unique_ptr<WorldFile>> WorldFile::createDraft(const fs::path& file, const WorldHeader& header, bool pack)
{
    std::error_code error;
    if (file.empty())
        return Problem{"", "", "the name of the world file is empty: give a file name"};
    if (fs::exists(fs::symlink_status(file, error)))
        return Problem{file.string(), "", "is there already: another name is expected, or no such file"};
    const auto recipe = recipeOf(header, file.string());
    if (!recipe)
        return recipe.problem();
    const fs::path part = fs::path(file) += ".part";
    FileLock lock(::open(part.c_str(), O_RDWR | O_CREAT | O_NOFOLLOW | O_CLOEXEC, 0666));
    if (!lock.isOpen())
        return Problem{file.string(), "", "cannot be made: " + std::string(std::strerror(errno))}; // NOLINT
    if (lock.take(WorldAccess::Write) == FileLock::Taken::No)
        return Problem{file.string(), "", "is being written by another window or command of Fell: wait for it to end"};
    if (::ftruncate(lock.file(), 0) != 0)
        return Problem{file.string(), "", "cannot be made: " + std::string(std::strerror(errno))}; // NOLINT
    fs::remove(fs::path(part) += "-journal", error);
    try {
        auto parts = std::make_unique<Parts>(
            file, std::move(lock), SQLite::Database(plainName(part), SQLite::OPEN_READWRITE), header);
        parts->draft = part;
        parts->types = recipe.value().blocks.kinds.size();
        SQLite::Database& base = parts->base;
        makeCareful(base);
        if (header.what == "changed")
            base.exec("PRAGMA page_size = " + std::to_string(kChangesPage));
        SQLite::Transaction all(base, SQLite::TransactionBehavior::EXCLUSIVE);
        base.exec(kWorldTables);
        if (auto problem = parts->storePacked(storedFor(file, header, recipe.value(), pack))) {
            fs::remove(part, error);
            return *problem;
        }
        base.exec("PRAGMA application_id = " + std::to_string(kWorldApplication));
        parts->writeVersion();
        all.commit();
        return std::unique_ptr<WorldFile>(new WorldFile(std::move(parts)));
    } catch (const SQLite::Exception& problem) {
        fs::remove(part, error); // nothing half-written is left
        return Problem{file.string(), "", "cannot be made: " + inWords(problem)};
    }
}

std::optional<Problem> WorldFile::publish()
{
    Parts& parts = *m_parts;
    if (parts.draft.empty())
        return std::nullopt;
    return parts.guarded("could not be put in place", [&]() -> std::optional<Problem> {
        // Closed while it is renamed: SQLite finds its journal by the name. The lock goes on all the while.
        parts.base = SQLite::Database(":memory:", SQLite::OPEN_READWRITE);
        ::fsync(parts.lock.file());
        if (::renameat2(AT_FDCWD, parts.draft.c_str(), AT_FDCWD, parts.file.c_str(), RENAME_NOREPLACE) != 0) {
            const int why = errno;
            // File systems without RENAME_NOREPLACE: a second name fails just as well where the first is taken.
            if (why != EINVAL || ::link(parts.draft.c_str(), parts.file.c_str()) != 0)
                return Problem{parts.file.string(), "",
                    why == EEXIST || errno == EEXIST ? "is there already: another name is expected, or no such file"
                                                     : "cannot be put in place: " + std::string(std::strerror(why))};
            ::unlink(parts.draft.c_str());
        }
        parts.draft.clear();
        syncFolder(parts.file.has_parent_path() ? parts.file.parent_path() : fs::path("."));
        parts.base = SQLite::Database(plainName(parts.file), SQLite::OPEN_READWRITE);
        makeCareful(parts.base);
        return std::nullopt;
    });
}

Outcome<std::unique_ptr<WorldFile>> WorldFile::open(const fs::path& file, WorldAccess access)
{
    std::error_code error;
    const fs::file_status status = fs::status(file, error);
    if (!fs::exists(status))
        return Problem{file.string(), "", "there is no such file"};
    if (!fs::is_regular_file(status))
        return Problem{file.string(), "", "is no file: the name of a world file is expected"};
    const fs::path folder = file.has_parent_path() ? file.parent_path() : fs::path(".");
    // The folder too: SQLite writes its journal next to the file.
    const bool isWritable = ::access(file.c_str(), W_OK) == 0 && ::access(folder.c_str(), W_OK) == 0;
    const bool writes = access == WorldAccess::Write && isWritable;
    FileLock lock(::open(file.c_str(), (writes ? O_RDWR : O_RDONLY) | O_CLOEXEC));
    if (!lock.isOpen())
        return Problem{file.string(), "", "cannot be read: " + std::string(std::strerror(errno))}; // NOLINT
    if (!isDatabase(file))
        return Problem{file.string(), "", "is no world of Fell: a file that begins as a database is expected"};
    const FileLock::Taken taken = lock.take(writes ? WorldAccess::Write : WorldAccess::Read);
    if (taken == FileLock::Taken::No)
        return Problem{file.string(), "", "is open in another window or command of Fell: close it there first"};
    try {
        // To be read it is opened for writing all the same where that is allowed: what a killed process left half done
        // is taken back then.
        auto parts = std::make_unique<Parts>(file, std::move(lock),
            SQLite::Database(plainName(file), isWritable ? SQLite::OPEN_READWRITE : SQLite::OPEN_READONLY),
            WorldHeader{});
        SQLite::Database& base = parts->base;
        makeCareful(base);
        const int application = base.execAndGet("PRAGMA application_id").getInt(),
                  version = base.execAndGet("PRAGMA user_version").getInt();
        if (application != kWorldApplication)
            return Problem{file.string(), "", "is a database of something else, no world of Fell: choose another file"};
        if (version > kWorldVersion)
            parts->whyReadOnly = "this world was written by a newer Fell (its version is " + std::to_string(version)
                + ", this one writes " + std::to_string(kWorldVersion) + "): it can be looked at, and is not changed";
        else if (!isWritable)
            parts->whyReadOnly = "this file may not be written: save the world under another name to keep changes";
        else if (taken == FileLock::Taken::NoLocksHere)
            parts->whyReadOnly
                = "the file system of this file has no locks, so another Fell could write it at the same "
                  "time: save the world on another disk to keep changes";
        parts->isOpenedToRead = access == WorldAccess::Read;
        if (!hasOnlyOurTables(base))
            return Problem{
                file.string(), "", "is no world of Fell, its tables are others than a world's: choose another file"};
        parts->readHeader();
        if (auto problem = parts->findFiles())
            return *problem;
        parts->types = typesIn(parts->header.blocks);
        return std::unique_ptr<WorldFile>(new WorldFile(std::move(parts)));
    } catch (const SQLite::Exception& problem) {
        if (isLocked(problem))
            return Problem{file.string(), "", "is open in another program: close it there first"};
        return Problem{file.string(), "", "cannot be read as a world: " + inWords(problem)};
    }
}

std::optional<Problem> WorldFile::save(std::span<const StoredChunk> chunks)
{
    Parts& parts = *m_parts;
    if (auto problem = parts.refusal())
        return *problem;
    return parts.guarded("could not be saved", [&]() -> std::optional<Problem> {
        std::map<ChunkPos, std::vector<const StoredChunk*>> groups;
        for (const StoredChunk& chunk : chunks)
            groups[groupOf(chunk.chunk, parts.header.group)].push_back(&chunk);
        SQLite::Transaction all(parts.base, SQLite::TransactionBehavior::IMMEDIATE);
        parts.writeVersion();
        SQLite::Statement get(parts.base, Parts::kGet), put(parts.base, Parts::kPut);
        for (auto at = groups.begin(); at != groups.end();) {
            std::vector<Merged> some;
            for (; at != groups.end() && some.size() < kTogether; ++at) {
                Merged& one = some.emplace_back();
                if (auto problem = parts.merge(get, at->first, at->second, one))
                    return problem;
            }
            std::vector<Row> rows(some.size());
            onAllProcessors(some.size(), [&](std::size_t i) { rows[i] = rowOf(some[i].group, some[i].chunks); });
            for (const Row& row : rows)
                Parts::write(put, row);
        }
        all.commit();
        return std::nullopt;
    });
}

Outcome<WorldContents> WorldFile::load(const ProgressFn& progress, std::uint64_t maxVoxels) const
{
    return m_parts->guarded("could not be read", [&]() -> Outcome<WorldContents> {
        WorldContents out;
        SQLite::Transaction snapshot(m_parts->base); // one look at the file, and its lock taken once
        const auto places = m_parts->places();
        std::uint64_t done = 0, voxels = 0;
        const bool isAll = m_parts->eachRow(places, out.damaged, [&](ChunkPos, std::vector<StoredChunk>& chunks) {
            for (const StoredChunk& chunk : chunks)
                voxels += chunk.changed.size();
            if (voxels > maxVoxels)
                return false;
            std::move(chunks.begin(), chunks.end(), std::back_inserter(out.chunks));
            return !progress || progress(++done, places.size());
        });
        if (voxels > maxVoxels)
            return Problem{m_parts->file.string(), "",
                "has more than " + std::to_string(maxVoxels) + " changed voxels, which is more than Fell reads"};
        if (!isAll)
            return Problem{m_parts->file.string(), "", "reading was stopped"};
        return out;
    });
}

Outcome<WorldContents> WorldFile::loadBox(ChunkPos low, ChunkPos high) const
{
    return m_parts->guarded("could not be read", [&]() -> Outcome<WorldContents> {
        const std::string& how = m_parts->header.group;
        const ChunkPos from = groupOf(low, how), to = groupOf(high - ChunkPos{1, 1, 1}, how);
        SQLite::Statement list(m_parts->base,
            "SELECT x, y, z FROM kept WHERE x BETWEEN ? AND ? AND y BETWEEN ? AND ? AND z BETWEEN ? AND ?");
        int at = 0;
        for (const std::int64_t bound : {from.x, to.x, from.y, to.y, from.z, to.z})
            list.bind(++at, bound);
        std::vector<ChunkPos> places;
        while (list.executeStep())
            places.push_back(
                {list.getColumn(0).getInt64(), list.getColumn(1).getInt64(), list.getColumn(2).getInt64()});
        WorldContents out;
        m_parts->eachRow(places, out.damaged, [&](ChunkPos, std::vector<StoredChunk>& chunks) {
            for (StoredChunk& one : chunks)
                if (const ChunkPos c = one.chunk;
                    c.x >= low.x && c.y >= low.y && c.z >= low.z && c.x < high.x && c.y < high.y && c.z < high.z)
                    out.chunks.push_back(std::move(one));
            return true;
        });
        return out;
    });
}

std::optional<Problem> WorldFile::drop(std::span<const DamagedRow> rows)
{
    if (auto problem = m_parts->refusal())
        return *problem;
    return m_parts->guarded("could not be changed", [&]() -> std::optional<Problem> {
        SQLite::Transaction all(m_parts->base, SQLite::TransactionBehavior::IMMEDIATE);
        SQLite::Statement drop(m_parts->base, "DELETE FROM kept WHERE x = ? AND y = ? AND z = ?");
        for (const DamagedRow& row : rows) {
            drop.reset();
            drop.bind(1, row.group.x);
            drop.bind(2, row.group.y);
            drop.bind(3, row.group.z);
            drop.exec();
        }
        all.commit();
        return std::nullopt;
    });
}

Outcome<std::vector<DamagedRow>> WorldFile::verify(const ProgressFn& progress) const
{
    return m_parts->guarded("could not be checked", [&]() -> Outcome<std::vector<DamagedRow>> {
        std::vector<DamagedRow> damaged;
        SQLite::Statement check(m_parts->base, "PRAGMA integrity_check(20)");
        while (check.executeStep())
            if (const std::string said = check.getColumn(0).getString(); said != "ok")
                damaged.push_back({{}, "the database itself", said});
        const auto places = m_parts->places();
        std::uint64_t done = 0;
        const bool isAll = m_parts->eachRow(places, damaged,
            [&](ChunkPos, const std::vector<StoredChunk>&) { return !progress || progress(++done, places.size()); });
        if (!isAll)
            return Problem{m_parts->file.string(), "", "checking was stopped"};
        return damaged;
    });
}

Outcome<std::uint64_t> WorldFile::compact(const MadeVoxels& made, const ProgressFn& progress)
{
    Parts& parts = *m_parts;
    if (auto problem = parts.refusal())
        return *problem;
    return parts.guarded("could not be made smaller", [&]() -> Outcome<std::uint64_t> {
        std::error_code error;
        const std::uint64_t before = fs::file_size(parts.file, error);
        if (made) {
            SQLite::Transaction all(parts.base, SQLite::TransactionBehavior::IMMEDIATE);
            parts.writeVersion();
            SQLite::Statement put(parts.base, Parts::kPut);
            SQLite::Statement drop(parts.base, "DELETE FROM kept WHERE x = ? AND y = ? AND z = ?");
            std::vector<DamagedRow> damaged; // stay as they are
            std::uint64_t done = 0;
            const auto places = parts.places();
            const bool isAll = parts.eachRow(places, damaged, [&](ChunkPos place, std::vector<StoredChunk>& chunks) {
                bool isOther = false;
                for (StoredChunk& chunk : chunks)
                    if (!chunk.whole) {
                        const std::vector<Material> voxels = made(chunk.chunk);
                        isOther |= std::erase_if(chunk.changed, [&](const KeptVoxel& one) {
                            return voxels[one.voxel] == one.material;
                        }) > 0;
                    }
                isOther |= std::erase_if(chunks, [](const StoredChunk& chunk) {
                    return !chunk.whole && chunk.changed.empty();
                }) > 0;
                if (isOther && chunks.empty()) {
                    drop.reset();
                    drop.bind(1, place.x);
                    drop.bind(2, place.y);
                    drop.bind(3, place.z);
                    drop.exec();
                } else if (isOther) {
                    std::vector<const StoredChunk*> left;
                    for (const StoredChunk& chunk : chunks)
                        left.push_back(&chunk);
                    Parts::write(put, rowOf(place, left));
                }
                return !progress || progress(++done, places.size());
            });
            if (!isAll)
                return Problem{parts.file.string(), "", "was not made smaller: it was stopped"};
            all.commit();
        }
        parts.base.exec("VACUUM");
        const std::uint64_t after = fs::file_size(parts.file, error);
        return before > after ? before - after : 0;
    });
}

Outcome<WorldFigures> WorldFile::figures() const
{
    return m_parts->guarded("could not be read", [&]() -> Outcome<WorldFigures> {
        WorldFigures out;
        std::error_code error;
        out.bytes = fs::file_size(m_parts->file, error);
        SQLite::Statement sum(m_parts->base,
            "SELECT count(*), coalesce(sum(length(content)), 0), coalesce(sum(chunks), 0), coalesce(sum(voxels), 0) "
            "FROM "
            "kept");
        sum.executeStep();
        out.rows = static_cast<std::uint64_t>(sum.getColumn(0).getInt64());
        out.rowBytes = static_cast<std::uint64_t>(sum.getColumn(1).getInt64());
        out.chunks = static_cast<std::uint64_t>(sum.getColumn(2).getInt64());
        out.voxels = static_cast<std::uint64_t>(sum.getColumn(3).getInt64());
        return out;
    });
}

std::optional<Problem> WorldFile::putText(const std::string& kind, const std::string& name, const std::string& json)
{
    if (auto problem = m_parts->refusal())
        return *problem;
    return m_parts->guarded("could not be saved", [&]() -> std::optional<Problem> {
        SQLite::Statement put(m_parts->base, "INSERT OR REPLACE INTO document(kind, name, json) VALUES(?, ?, ?)");
        put.bind(1, kind);
        put.bind(2, name);
        put.bind(3, json);
        put.exec();
        return std::nullopt;
    });
}

Outcome<std::vector<WorldFile::Text>> WorldFile::texts() const
{
    return m_parts->guarded("could not be read", [&]() -> Outcome<std::vector<Text>> {
        std::vector<Text> out;
        SQLite::Statement list(
            m_parts->base, "SELECT kind, name, json FROM document WHERE kind <> 'file' ORDER BY kind, name");
        while (list.executeStep())
            out.push_back(
                {list.getColumn(0).getString(), list.getColumn(1).getString(), list.getColumn(2).getString()});
        return out;
    });
}

Outcome<std::vector<std::pair<std::string, std::uint64_t>>> WorldFile::packed() const
{
    return m_parts->guarded("could not be read", [&]() -> Outcome<std::vector<std::pair<std::string, std::uint64_t>>> {
        std::vector<std::pair<std::string, std::uint64_t>> out;
        SQLite::Statement list(
            m_parts->base, "SELECT name, length(json) FROM document WHERE kind = 'file' ORDER BY name");
        while (list.executeStep())
            out.emplace_back(list.getColumn(0).getString(), static_cast<std::uint64_t>(list.getColumn(1).getInt64()));
        return out;
    });
}

bool isDatabase(const fs::path& file)
{
    std::error_code error;
    if (!fs::is_regular_file(file, error)) // a pipe would wait for its writer
        return false;
    constexpr std::string_view kBegins = "SQLite format 3";
    std::ifstream in(file, std::ios::binary);
    std::string head(kBegins.size(), '\0');
    in.read(head.data(), static_cast<std::streamsize>(head.size()));
    return in.gcount() == static_cast<std::streamsize>(head.size()) && head == kBegins;
}

} // namespace fell::save
