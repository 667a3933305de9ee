// SPDX-License-Identifier: Apache-2.0
// What an open world file is made of, and how its rows and its header are read and written. Private to keep/.
#pragma once

#include <fell/grid/all_processors.h>
#include <fell/save/world_database.h>
#include <fell/save/world_header.h>
#include <fell/save/world_rows.h>

#include <functional>

namespace fell::save {

constexpr std::size_t kTogether = 64; // rows: so that a large world is never in memory twice

/// An open world file: its database, its lock, and its rows one by one.
struct WorldFile::Parts {
    std::filesystem::path file;
    FileLock lock; // before the database: closed after it
    mutable SQLite::Database base;
    WorldHeader header;
    std::string whyReadOnly;
    std::filesystem::path draft; // the name that a draft has until it is published; else empty
    std::size_t types = 0; // block types of its recipe

    ~Parts();
    Parts(std::filesystem::path name, FileLock held, SQLite::Database opened, WorldHeader of)
        : file(std::move(name))
        , lock(std::move(held))
        , base(std::move(opened))
        , header(std::move(of))
    {
    }
    bool isOpenedToRead = false;
    /// Why nothing may be written now.
    [[nodiscard]] std::optional<Problem> refusal() const
    {
        if (whyReadOnly.empty() && !isOpenedToRead)
            return std::nullopt;
        return Problem{file.string(), "", whyReadOnly.empty() ? "was opened to be read" : whyReadOnly};
    }
    [[nodiscard]] RowRules rules() const { return {header.group, types}; }

    template <typename Work> auto guarded(const char* what, const Work& work) const -> decltype(work())
    {
        try {
            return work();
        } catch (const SQLite::Exception& error) {
            return Problem{file.string(), "", std::string(what) + ": " + inWords(error)};
        } catch (const std::bad_alloc&) {
            return Problem{file.string(), "", std::string(what) + ": there is not enough memory for it"};
        }
    }

    struct ReadRow {
        ChunkPos place;
        std::int64_t checksum = 0;
        std::string content, why;
        bool isRead = false;
        std::optional<std::vector<StoredChunk>> chunks;
    };

    /// One that SQLite itself cannot read has said why.
    void readRow(SQLite::Statement& get, ReadRow& out) const;

    /// Visits rows one by one. False if `visit` wants no more.
    template <typename Visit>
    bool eachRow(const std::vector<ChunkPos>& places, std::vector<DamagedRow>& damaged, const Visit& visit) const
    {
        SQLite::Statement get(base, kGet);
        for (std::size_t first = 0; first < places.size(); first += kTogether) {
            std::vector<ReadRow> rows(std::min(kTogether, places.size() - first));
            for (std::size_t i = 0; i < rows.size(); ++i) {
                rows[i].place = places[first + i];
                readRow(get, rows[i]);
            }
            const RowRules allowed = rules();
            onAllProcessors(rows.size(), [&rows, &allowed](std::size_t i) {
                ReadRow& row = rows[i];
                if (!row.why.empty())
                    return;
                RowChunks found = chunksOf(row.place, row.content, row.checksum, allowed);
                row.chunks = std::move(found.chunks);
                row.why = std::move(found.why);
                row.content = {};
            });
            for (ReadRow& row : rows) {
                if (!row.isRead)
                    continue;
                if (!row.chunks)
                    damaged.push_back({row.place, placeInWords(row.place, header.group), row.why});
                else if (!visit(row.place, *row.chunks))
                    return false;
            }
        }
        return true;
    }

    [[nodiscard]] std::vector<ChunkPos> places() const;

    static void write(SQLite::Statement& put, const Row& row);
    /// The row of a group as it will be.
    std::optional<Problem> merge(
        SQLite::Statement& get, ChunkPos group, const std::vector<const StoredChunk*>& newer, Merged& out) const;

    static constexpr const char* kGet = "SELECT checksum, content FROM kept WHERE x = ? AND y = ? AND z = ?";
    static constexpr const char* kPut
        = "INSERT OR REPLACE INTO kept(x, y, z, chunks, voxels, checksum, content) VALUES(?, ?, ?, ?, ?, ?, ?)";

    void readHeader();

    /// An older file is of this version once anything is written into it.
    void writeVersion() { base.exec("PRAGMA user_version = " + std::to_string(kWorldVersion)); }

    /// Writes the header as it is stored, and the files that go with it.
    std::optional<Problem> storePacked(const StoredHeader& stored);

    /// Where the header's relative paths lead, and the folder of the packed files.
    std::optional<Problem> findFiles();

    /// The height map of the recipe by its absolute name. Errors: it leads out of the world.
    std::optional<Problem> resolveHeights(const std::function<std::filesystem::path(const std::string&)>& resolve,
        const std::filesystem::path& unpacked, const std::filesystem::path& home);

    void writeHeader() { writeHeader(header); }
    void writeHeader(const WorldHeader& of);
};

} // namespace fell::save
