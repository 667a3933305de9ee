// SPDX-License-Identifier: Apache-2.0
// SQLite as world files use it: their tables, what is refused, and the lock between processes. Private to keep/.
#pragma once

#include <fell/save/world_file.h>

#include <SQLiteCpp/SQLiteCpp.h>

#include <string>
#include <utility>

namespace fell::save {

constexpr int kWorldApplication = 0x46656C57; // "FelW"
constexpr int kWorldVersion = 2; // 1 had whole chunks of another kind, which are read still
extern const char* const kWorldTables;

/// A descriptor that holds the lock of a world file. A class because it closes it.
class FileLock {
public:
    FileLock() = default;
    explicit FileLock(int file)
        : m_file(file)
    {
    }
    FileLock(FileLock&& other) noexcept
        : m_file(std::exchange(other.m_file, -1))
    {
    }
    FileLock& operator=(FileLock&& other) noexcept
    {
        std::swap(m_file, other.m_file);
        return *this;
    }
    ~FileLock();
    [[nodiscard]] bool isOpen() const { return m_file >= 0; }
    [[nodiscard]] int file() const { return m_file; }

    enum class Taken { Yes, No, NoLocksHere };
    [[nodiscard]] Taken take(WorldAccess access) const;

private:
    int m_file = -1;
};

/// Are its tables those of Fell and nothing else? A view or a trigger could run for ever, or write.
bool hasOnlyOurTables(SQLite::Database& base);
/// What every connection needs that reads a file from anywhere.
void makeCareful(SQLite::Database& base);
/// SQLite takes ":memory:" and "file:..." for something else than a file of that name.
std::string plainName(const std::filesystem::path& file);
bool isLocked(const SQLite::Exception& error);
std::string inWords(const SQLite::Exception& error);

} // namespace fell::save
