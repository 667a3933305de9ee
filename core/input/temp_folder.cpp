// SPDX-License-Identifier: Apache-2.0
#include <fell/input/temp_folder.h>

#include <algorithm>
#include <chrono>
#include <fcntl.h>
#include <mutex>
#include <set>
#include <string>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace fell::input {
namespace {

namespace fs = std::filesystem;
constexpr const char* kPrefix = "fell-temp-";

struct Folders {
    std::mutex mutex;
    std::set<fs::path> made;
    pid_t sweptBy = 0;
};

Folders& folders()
{
    static auto* const all = new Folders; // never destroyed: a thread may end the process while others still run
    return *all;
}

/// A lock on the folder that the system drops with the process; -1 where another process holds it.
int lockOf(const fs::path& folder)
{
    const int lock = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_NOFOLLOW | O_CLOEXEC);
    if (lock < 0 || ::flock(lock, LOCK_EX | LOCK_NB) == 0)
        return lock;
    ::close(lock);
    return -1;
}

/// Removes what killed processes of this user left. A folder younger than a minute may not be locked yet.
void sweep(const fs::path& parent)
{
    constexpr int kMax = 500;
    constexpr auto kYoung = std::chrono::minutes(1);
    std::error_code error;
    int removed = 0;
    for (fs::directory_iterator entry(parent, fs::directory_options::skip_permission_denied, error), end;
         !error && entry != end && removed < kMax; entry.increment(error)) {
        if (entry->path().filename().string().rfind(kPrefix, 0) != 0)
            continue;
        struct stat what { };
        std::error_code unread;
        const auto written = fs::last_write_time(entry->path(), unread);
        if (::lstat(entry->path().c_str(), &what) != 0 || !S_ISDIR(what.st_mode) || what.st_uid != ::getuid() || unread
            || fs::file_time_type::clock::now() - written < kYoung)
            continue;
        const int lock = lockOf(entry->path());
        if (lock < 0)
            continue;
        fs::remove_all(entry->path(), unread);
        ::close(lock);
        ++removed;
    }
}

} // namespace

Outcome<std::shared_ptr<const TempFolder>> TempFolder::make(const fs::path& parent)
{
    const std::scoped_lock guard(folders().mutex);
    if (folders().sweptBy != ::getpid())
        sweep(parent);
    folders().sweptBy = ::getpid();
    std::string name = (parent / (std::string(kPrefix) + "XXXXXX")).string();
    if (!::mkdtemp(name.data()))
        return Problem{
            parent.string(), "", "no folder for temporary files can be made there: choose another with TMPDIR"};
    folders().made.insert(name);
    return std::shared_ptr<const TempFolder>(new TempFolder(name, lockOf(name)));
}

TempFolder::TempFolder(fs::path path, int lock)
    : m_path(std::move(path))
    , m_lock(lock)
{
}

TempFolder::~TempFolder()
{
    const std::scoped_lock guard(folders().mutex);
    folders().made.erase(m_path);
    std::error_code error;
    fs::remove_all(m_path, error);
    if (m_lock >= 0)
        ::close(m_lock);
}

void removeTempFolders()
{
    const std::scoped_lock guard(folders().mutex);
    std::error_code error;
    for (const fs::path& one : folders().made)
        fs::remove_all(one, error);
}

} // namespace fell::input
