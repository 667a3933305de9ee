// SPDX-License-Identifier: Apache-2.0
#include <fell/save/world_database.h>

#include <cerrno>
#include <fcntl.h>
#include <set>
#include <string_view>
#include <sys/stat.h>
#include <unistd.h>

namespace fell::save {

const char* const kWorldTables = R"(
CREATE TABLE header(key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE kept(x INTEGER NOT NULL, y INTEGER NOT NULL, z INTEGER NOT NULL, chunks INTEGER NOT NULL,
  voxels INTEGER NOT NULL, checksum INTEGER NOT NULL, content BLOB NOT NULL, PRIMARY KEY(x, y, z));
CREATE TABLE document(kind TEXT NOT NULL, name TEXT NOT NULL, json TEXT NOT NULL, PRIMARY KEY(kind, name)) WITHOUT ROWID;
)";

FileLock::~FileLock()
{
    if (m_file >= 0)
        ::close(m_file);
}

FileLock::Taken FileLock::take(WorldAccess access) const
{
    constexpr off_t kByte = off_t{1} << 61; // SQLite's own locks are near 2^30
    struct flock lock { };
    lock.l_type = access == WorldAccess::Write ? F_WRLCK : F_RDLCK;
    lock.l_whence = SEEK_SET;
    lock.l_start = kByte;
    lock.l_len = 1;
    if (::fcntl(m_file, F_OFD_SETLK, &lock) == 0)
        return Taken::Yes;
    return errno == EAGAIN || errno == EACCES ? Taken::No : Taken::NoLocksHere;
}

namespace {

std::string withoutSpaces(std::string text)
{
    std::erase_if(text, [](unsigned char c) { return std::isspace(c) != 0; });
    return text;
}

} // namespace

bool hasOnlyOurTables(SQLite::Database& base)
{
    std::string_view left = kWorldTables;
    std::set<std::string> ours;
    for (std::size_t end = left.find(';'); end != std::string_view::npos; end = left.find(';')) {
        ours.insert(withoutSpaces(std::string(left.substr(0, end))));
        left.remove_prefix(end + 1);
    }
    std::size_t found = 0;
    SQLite::Statement list(base, "SELECT type, name, sql FROM sqlite_master LIMIT 16");
    while (list.executeStep()) {
        if (list.getColumn(0).getString() == "index" && list.getColumn(1).getString().starts_with("sqlite_autoindex_"))
            continue;
        if (list.getColumn(0).getString() != "table" || ours.count(withoutSpaces(list.getColumn(2).getString())) == 0)
            return false;
        ++found;
    }
    return found == ours.size();
}

void makeCareful(SQLite::Database& base)
{
    base.exec("PRAGMA trusted_schema = OFF");
    base.exec("PRAGMA cell_size_check = ON");
    base.exec("PRAGMA synchronous = FULL");
    base.setBusyTimeout(2000);
}

std::string plainName(const std::filesystem::path& file)
{
    return std::filesystem::absolute(file).string();
}

bool isLocked(const SQLite::Exception& error)
{
    return (error.getErrorCode() & 0xFF) == 5 || (error.getErrorCode() & 0xFF) == 6; // SQLITE_BUSY, SQLITE_LOCKED
}

std::string inWords(const SQLite::Exception& error)
{
    switch (error.getErrorCode() & 0xFF) {
    case 13: // SQLITE_FULL
        return "there is no space left for it; what was changed stays in memory and can be saved elsewhere";
    case 8: // SQLITE_READONLY
        return "it may not be written; what was changed stays in memory and can be saved elsewhere";
    case 10: // SQLITE_IOERR
        return std::string("the disk refused it (") + error.what()
            + "); what was changed stays in memory and can be saved elsewhere";
    default:
        return error.what();
    }
}

} // namespace fell::save
