// SPDX-License-Identifier: Apache-2.0
#include "keep/world_file.h"

#include "assets/block_set_file.h"
#include "grid/all_processors.h"
#include "input/json_reader.h"
#include "input/temp_folder.h"
#include "input/text_file.h"
#include "keep/world_pack.h"
#include "voxels/palette.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <nlohmann/json.hpp>
#include <xxhash.h>

#include <algorithm>
#include <array>
#include <fcntl.h>
#include <fstream>
#include <map>
#include <set>
#include <sys/stat.h>
#include <unistd.h>
#include <unordered_map>

namespace fell {
namespace {

namespace fs = std::filesystem;

constexpr int kApplication = 0x46656C57; // "FelW"
constexpr int kVersion = 2; // 1 had whole chunks of another kind, which are read still
// Levels of zstd. Of whole chunks higher ones take three times as long for a tenth of the bytes; changes are few.
constexpr int kLevel = 1, kChangesLevel = 9;
constexpr int kTableBits = 10; // of whole chunks: finds as much as the usual table and stays in the nearest cache
constexpr int kChangesPage = 1024; // bytes a page of a world of changes, whose rows are short
constexpr std::size_t kLargestChunk = std::size_t{1} << 19; // bytes, uncompressed: 32^3 voxels of as many block types
constexpr std::size_t kMostInColumn = 4096; // chunks
constexpr std::int64_t kFarthest = std::int64_t{1} << 57; // chunks from the origin; their voxels fit 64 bits
constexpr std::int64_t kCubeShift = 2; // a cube is 4 chunks long

constexpr const char* kTables = R"(
CREATE TABLE header(key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE kept(x INTEGER NOT NULL, y INTEGER NOT NULL, z INTEGER NOT NULL, chunks INTEGER NOT NULL,
  voxels INTEGER NOT NULL, checksum INTEGER NOT NULL, content BLOB NOT NULL, PRIMARY KEY(x, y, z));
CREATE TABLE document(kind TEXT NOT NULL, name TEXT NOT NULL, json TEXT NOT NULL, PRIMARY KEY(kind, name)) WITHOUT ROWID;
)";

ChunkPos groupOf(ChunkPos chunk, const std::string& group)
{
    if (group == "chunk")
        return {chunk.x, chunk.y, chunk.z};
    if (group == "column")
        return {chunk.x, 0, chunk.z};
    return {chunk.x >> kCubeShift, chunk.y >> kCubeShift, chunk.z >> kCubeShift};
}

std::string placeInWords(ChunkPos group, const std::string& how)
{
    const auto text = [](std::int64_t x, std::int64_t y, std::int64_t z) {
        return std::to_string(x) + ", " + std::to_string(y) + ", " + std::to_string(z);
    };
    if (how == "chunk")
        return "chunk " + text(group.x, group.y, group.z);
    if (how == "column")
        return "the column of chunks at " + std::to_string(group.x) + ", " + std::to_string(group.z);
    constexpr std::int64_t kLong = std::int64_t{1} << kCubeShift;
    return "chunks " + text(group.x * kLong, group.y * kLong, group.z * kLong) + " to "
        + text(group.x * kLong + kLong - 1, group.y * kLong + kLong - 1, group.z * kLong + kLong - 1);
}

std::int64_t checksumOf(std::string_view bytes)
{
    return static_cast<std::int64_t>(XXH3_64bits(bytes.data(), bytes.size()));
}

/// A row of the table `kept`.
struct Row {
    ChunkPos group;
    std::size_t chunks = 0;
    std::uint64_t voxels = 0; // changed ones
    std::int64_t checksum = 0;
    std::string content;
};

Row rowOf(ChunkPos group, std::span<const StoredChunk* const> chunks)
{
    Row row{group, chunks.size(), 0, 0, {}};
    std::string bytes;
    bool hasWhole = false;
    for (const StoredChunk* chunk : chunks) {
        appendChunk(*chunk, bytes);
        row.voxels += chunk->changed.size();
        hasWhole |= chunk->whole != nullptr;
    }
    row.content = hasWhole ? squeezed(bytes, kLevel, kTableBits) : squeezed(bytes, kChangesLevel);
    row.checksum = checksumOf(row.content);
    return row;
}

/// What goes into a row: chunks that were there, and newer ones in their place.
struct Merged {
    ChunkPos group;
    std::vector<StoredChunk> there;
    std::vector<const StoredChunk*> chunks; // in order
};

constexpr std::size_t kTogether = 64; // rows: so that a large world is never in memory twice

bool isNear(std::int64_t chunk)
{
    return chunk > -kFarthest && chunk < kFarthest;
}

std::size_t mostChunksOf(const std::string& group)
{
    return group == "chunk" ? 1 : group == "column" ? kMostInColumn : std::size_t{1} << (3 * kCubeShift);
}

/// Is every block type of the chunk one that the world has?
bool hasOnlyTypesBelow(const StoredChunk& chunk, std::size_t types)
{
    const auto isKnown = [types](Material material) { return material < types; };
    if (!chunk.whole)
        return std::all_of(
            chunk.changed.begin(), chunk.changed.end(), [&](const KeptVoxel& one) { return isKnown(one.material); });
    if (chunk.whole->isUniform())
        return isKnown(chunk.whole->uniform());
    if (const PalettePlanes* held = chunk.whole->planes())
        return std::all_of(held->kinds.begin(), held->kinds.end(), isKnown);
    const std::vector<Material> voxels = chunk.whole->voxels();
    return std::all_of(voxels.begin(), voxels.end(), isKnown);
}

/// What a row may hold.
struct RowRules {
    std::string group;
    std::size_t types = 0; // block types of the world, air included
};

/// All chunks of a row; or why there are none.
struct RowChunks {
    std::optional<std::vector<StoredChunk>> chunks;
    std::string why;
};

RowChunks chunksOf(ChunkPos place, std::string_view content, std::int64_t checksum, const RowRules& rules)
{
    if (checksumOf(content) != checksum)
        return {std::nullopt, "its checksum is another"};
    const std::size_t most = mostChunksOf(rules.group);
    const auto bytes = unsqueezed(content, most * kLargestChunk);
    if (!bytes)
        return {std::nullopt, "it cannot be decompressed"};
    std::vector<StoredChunk> chunks;
    std::set<ChunkPos> seen;
    for (std::string_view left = *bytes; !left.empty();) {
        auto chunk = takeChunk(left);
        if (!chunk)
            return {std::nullopt, "a chunk in it cannot be read"};
        const ChunkPos at = chunk->chunk;
        if (!isNear(at.x) || !isNear(at.y) || !isNear(at.z) || groupOf(at, rules.group) != place)
            return {std::nullopt, "it holds a chunk of another place"};
        if (!seen.insert(at).second || seen.size() > most)
            return {std::nullopt, "it holds more chunks than there are at its place"};
        if (!hasOnlyTypesBelow(*chunk, rules.types))
            return {std::nullopt, "it names a block type that this world does not have"};
        chunks.push_back(*std::move(chunk));
    }
    return {std::move(chunks), {}};
}

/// How many block types a block set has, air included, without reading its models; 0 where it is none, which recipeOf
/// tells.
std::size_t typesIn(const std::string& blocks)
{
    const auto parsed = parseJson(blocks, "");
    if (!parsed || !parsed.value().is_object() || !parsed.value().contains("blocks"))
        return 0;
    std::size_t types = 1;
    for (const auto& block : parsed.value()["blocks"])
        types += block.is_object() && block.contains("turns") && block["turns"] == true ? 4 : 1;
    return types;
}

/// A descriptor that holds the lock of a world file.
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
    ~FileLock()
    {
        if (m_file >= 0)
            ::close(m_file);
    }
    [[nodiscard]] bool isOpen() const { return m_file >= 0; }
    [[nodiscard]] int file() const { return m_file; }

    enum class Taken { Yes, No, NoLocksHere };
    [[nodiscard]] Taken take(WorldAccess access) const
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

private:
    int m_file = -1;
};

std::string withoutSpaces(std::string text)
{
    std::erase_if(text, [](unsigned char c) { return std::isspace(c) != 0; });
    return text;
}

/// Are its tables those of Fell and nothing else? A view or a trigger could run for ever, or write.
bool hasOnlyOurTables(SQLite::Database& base)
{
    std::string_view left = kTables;
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

/// What every connection needs that reads a file from anywhere.
void makeCareful(SQLite::Database& base)
{
    base.exec("PRAGMA trusted_schema = OFF");
    base.exec("PRAGMA cell_size_check = ON");
    base.exec("PRAGMA synchronous = FULL");
    base.setBusyTimeout(2000);
}

/// SQLite takes ":memory:" and "file:..." for something else than a file of that name.
std::string plainName(const fs::path& file)
{
    return fs::absolute(file).string();
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

} // namespace

Outcome<Recipe> recipeOf(const WorldHeader& header, const std::string& where)
{
    auto recipe = parseRecipe(header.recipe, where, [&](const std::string& name) {
        return parseBlockSet(header.blocks, where + ", " + name, header.folder, header.root);
    });
    if (!recipe)
        return recipe.problem();
    Recipe out = recipe.take();
    out.blocks.unpacked = header.unpacked;
    out.seed = header.seed;
    return out;
}

Outcome<Recipe> findWorldOrFile(const std::string& world, const fs::path& demos)
{
    if (!isDatabase(world))
        return findWorld(world, demos);
    const auto file = WorldFile::open(world, WorldAccess::Read);
    return file ? recipeOf(file.value()->header(), world) : Outcome<Recipe>(file.problem());
}

namespace {

bool hasMapFile(const nlohmann::ordered_json& recipe)
{
    return recipe.is_object() && recipe.contains("height") && recipe["height"].is_object()
        && recipe["height"].contains("map") && recipe["height"]["map"].is_object()
        && recipe["height"]["map"].contains("file") && recipe["height"]["map"]["file"].is_string();
}

/// A header as the file has it: with paths relative to it, and what is packed.
struct StoredHeader {
    WorldHeader header;
    std::vector<PackedFile> files;
};

StoredHeader storedFor(const fs::path& file, const WorldHeader& header, const Recipe& recipe, bool pack)
{
    StoredHeader out{header, {}};
    std::error_code error;
    const fs::path beside = fs::absolute(file, error).parent_path().lexically_normal();
    PackList blocks = blockFilesOf(recipe.blocks);
    out.files = std::move(blocks.files);
    for (PackedFile& one : out.files)
        one.name = "blocks/" + one.name;
    const fs::path folder = fs::absolute(header.folder, error).lexically_normal().lexically_relative(beside);
    if (!out.files.empty())
        out.header.folder = "packed:blocks" + (blocks.folder.empty() ? "" : "/" + blocks.folder);
    else // nothing to read there; one that lies elsewhere is of no use to whoever gets the file
        out.header.folder
            = header.folder.empty() || folder.empty() || *folder.begin() == ".." ? "" : folder.generic_string();
    auto document = parseOrderedJson(header.recipe, file.string());
    if (!document)
        return out;
    auto root = document.take();
    if (!hasMapFile(root))
        return out;
    auto& name = root["height"]["map"]["file"];
    const fs::path heights
        = fs::absolute(fs::path(header.folder) / name.get<std::string>(), error).lexically_normal(); // or absolute
    const fs::path relative = heights.lexically_relative(beside);
    const bool isBeside = !relative.empty() && *relative.begin() != "..";
    if (isBeside && !pack) {
        name = relative.generic_string();
    } else if (fs::is_regular_file(heights, error)) {
        out.files.push_back({"heights/" + heights.filename().string(), heights});
        name = "packed:" + out.files.back().name;
    }
    out.header.recipe = root.dump(2);
    return out;
}

} // namespace

struct WorldFile::Parts {
    fs::path file;
    FileLock lock; // before the database: closed after it
    mutable SQLite::Database base;
    WorldHeader header;
    std::string whyReadOnly;
    fs::path draft; // the name that a draft has until it is published; else empty
    std::size_t types = 0; // block types of its recipe

    ~Parts()
    {
        if (draft.empty())
            return;
        std::error_code error;
        fs::remove(draft, error);
        fs::remove(fs::path(draft) += "-journal", error);
    }
    Parts(fs::path name, FileLock held, SQLite::Database opened, WorldHeader of)
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
    void readRow(SQLite::Statement& get, ReadRow& out) const
    {
        try {
            get.reset();
            get.bind(1, out.place.x);
            get.bind(2, out.place.y);
            get.bind(3, out.place.z);
            if (!get.executeStep())
                return;
            const SQLite::Column content = get.getColumn(1);
            if (content.getBytes() > 0)
                out.content.assign(
                    static_cast<const char*>(content.getBlob()), static_cast<std::size_t>(content.getBytes()));
            out.checksum = get.getColumn(0).getInt64();
        } catch (const SQLite::Exception& error) {
            out.why = error.what();
            out.content.clear();
        }
        out.isRead = true;
    }

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

    [[nodiscard]] std::vector<ChunkPos> places() const
    {
        std::vector<ChunkPos> out;
        SQLite::Statement list(base, "SELECT x, y, z FROM kept ORDER BY x, z, y");
        while (list.executeStep())
            out.push_back({list.getColumn(0).getInt64(), list.getColumn(1).getInt64(), list.getColumn(2).getInt64()});
        return out;
    }

    static void write(SQLite::Statement& put, const Row& row)
    {
        put.reset();
        put.bind(1, row.group.x);
        put.bind(2, row.group.y);
        put.bind(3, row.group.z);
        put.bind(4, static_cast<std::int64_t>(row.chunks));
        put.bind(5, static_cast<std::int64_t>(row.voxels));
        put.bind(6, row.checksum);
        put.bindNoCopy(7, row.content.data(), static_cast<int>(row.content.size()));
        put.exec();
    }
    /// The row of a group as it will be.
    std::optional<Problem> merge(
        SQLite::Statement& get, ChunkPos group, const std::vector<const StoredChunk*>& newer, Merged& out) const
    {
        out.group = group;
        ReadRow old;
        old.place = group;
        if (header.group != "chunk")
            readRow(get, old);
        if (old.isRead) {
            auto chunks = chunksOf(group, old.content, old.checksum, rules()).chunks;
            if (!chunks) // what may still be mended by hand is not written over
                return Problem{file.string(), "",
                    "could not be saved: " + placeInWords(group, header.group) + " are damaged there; drop them first"};
            out.there = *std::move(chunks);
        }
        for (const StoredChunk& one : out.there)
            out.chunks.push_back(&one);
        out.chunks.insert(out.chunks.end(), newer.begin(), newer.end());
        const auto last = [&out](auto first) { // of several for one chunk the newest stays
            return std::unique(first, out.chunks.rend(), [](auto* a, auto* b) { return a->chunk == b->chunk; });
        };
        std::stable_sort(out.chunks.begin(), out.chunks.end(), [](auto* a, auto* b) { return a->chunk < b->chunk; });
        out.chunks.erase(out.chunks.begin(), last(out.chunks.rbegin()).base());
        return std::nullopt;
    }

    static constexpr const char* kGet = "SELECT checksum, content FROM kept WHERE x = ? AND y = ? AND z = ?";
    static constexpr const char* kPut
        = "INSERT OR REPLACE INTO kept(x, y, z, chunks, voxels, checksum, content) VALUES(?, ?, ?, ?, ?, ?, ?)";

    void readHeader()
    {
        std::map<std::string, std::string> values;
        SQLite::Statement list(base, "SELECT key, value FROM header");
        while (list.executeStep())
            values[list.getColumn(0).getString()] = list.getColumn(1).getString();
        header = {values["name"], values["recipe"], values["blocks"], values["folder"],
            std::strtoull(values["seed"].c_str(), nullptr, 10), values["what"], values["group"]};
    }

    /// An older file is of this version once anything is written into it.
    void writeVersion() { base.exec("PRAGMA user_version = " + std::to_string(kVersion)); }

    /// Writes the header as it is stored, and the files that go with it.
    std::optional<Problem> storePacked(const StoredHeader& stored)
    {
        writeHeader(stored.header);
        SQLite::Statement put(base, "INSERT OR REPLACE INTO header(key, value) VALUES('paths', 'relative')");
        put.exec();
        std::uint64_t all = 0;
        if (stored.files.size() > kMostPackedFiles)
            return Problem{file.string(), "",
                "would carry " + std::to_string(stored.files.size()) + " files; " + std::to_string(kMostPackedFiles)
                    + " are allowed"};
        SQLite::Statement add(base, "INSERT INTO document(kind, name, json) VALUES('file', ?, ?)");
        for (const PackedFile& one : stored.files) {
            const auto bytes = readFile(one.from);
            if (!bytes)
                return bytes.problem();
            if (all += bytes.value().size(); all > kMostPackedBytes)
                return Problem{file.string(), "", "would carry more than 1 GiB of pictures, models and heights"};
            const std::string squeezedBytes = squeezed(bytes.value(), 3);
            add.reset();
            add.bind(1, one.name);
            add.bind(2, squeezedBytes.data(), static_cast<int>(squeezedBytes.size()));
            add.exec();
        }
        return std::nullopt;
    }

    /// Where the header's relative paths lead, and the folder of the packed files.
    std::optional<Problem> findFiles()
    {
        SQLite::Statement paths(base, "SELECT value FROM header WHERE key = 'paths'");
        if (!paths.executeStep() || paths.getColumn(0).getString() != "relative")
            return std::nullopt; // from before: absolute, or beside the block set
        std::error_code error;
        const fs::path beside = fs::absolute(file, error).parent_path().lexically_normal();
        fs::path unpacked;
        SQLite::Statement list(base, "SELECT name, json FROM document WHERE kind = 'file' ORDER BY name LIMIT 4097");
        std::uint64_t all = 0;
        std::size_t count = 0;
        std::shared_ptr<const TempFolder> folder;
        while (list.executeStep()) {
            if (!folder) {
                auto made = TempFolder::make();
                if (!made)
                    return made.problem();
                folder = made.take();
                unpacked = folder->path();
            }
            const SQLite::Column content = list.getColumn(1);
            const auto bytes = unsqueezed(
                {static_cast<const char*>(content.getBlob()), static_cast<std::size_t>(content.getBytes())},
                kMostPackedBytes - all);
            if (!bytes || ++count > kMostPackedFiles)
                return Problem{file.string(), "", "holds packed files that are damaged, or more than Fell reads"};
            all += bytes->size();
            if (auto problem = putPacked(folder->path(), list.getColumn(0).getString(), *bytes))
                return Problem{file.string(), "", problem->where + " " + problem->what};
        }
        header.unpacked = folder;
        const auto resolve = [&](const std::string& stored) -> fs::path {
            constexpr std::string_view kPacked = "packed:";
            if (stored.rfind(kPacked, 0) == 0)
                return folder ? unpacked / stored.substr(kPacked.size()) : fs::path();
            return stored.empty() ? fs::path() : beside / stored;
        };
        const bool isPacked = header.folder.rfind("packed:", 0) == 0;
        header.folder = resolve(header.folder).lexically_normal().string();
        header.root = isPacked && folder ? unpacked : beside;
        return resolveHeights(resolve, folder ? unpacked : beside, beside);
    }

    /// The height map of the recipe by its absolute name. Errors: it leads out of the world.
    std::optional<Problem> resolveHeights(
        const std::function<fs::path(const std::string&)>& resolve, const fs::path& unpacked, const fs::path& beside)
    {
        auto recipe = parseOrderedJson(header.recipe, file.string());
        if (!recipe)
            return std::nullopt; // recipeOf tells
        auto root = recipe.take();
        if (!hasMapFile(root))
            return std::nullopt;
        auto& name = root["height"]["map"]["file"];
        const fs::path found = resolve(name.get<std::string>()).lexically_normal();
        const auto isIn = [&found](const fs::path& folder) {
            const fs::path relative = found.lexically_relative(folder);
            return !relative.empty() && *relative.begin() != "..";
        };
        if (!isIn(unpacked) && !isIn(beside))
            return Problem{file.string(), "/height/map/file",
                "lies outside of the world's folder, which a world file may not name"};
        name = found.string();
        header.recipe = root.dump(2);
        return std::nullopt;
    }

    void writeHeader() { writeHeader(header); }
    void writeHeader(const WorldHeader& of)
    {
        SQLite::Statement put(base, "INSERT OR REPLACE INTO header(key, value) VALUES(?, ?)");
        const std::pair<const char*, std::string> values[]{{"name", of.name}, {"recipe", of.recipe},
            {"blocks", of.blocks}, {"folder", of.folder}, {"seed", std::to_string(of.seed)}, {"what", of.what},
            {"group", of.group}};
        for (const auto& [key, value] : values) {
            put.reset();
            put.bind(1, key);
            put.bind(2, value);
            put.exec();
        }
    }
};

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
        return Problem{file.string(), "", "is there already: another name is wanted, or no such file"};
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
        base.exec(kTables);
        if (auto problem = parts->storePacked(storedFor(file, header, recipe.value(), pack))) {
            fs::remove(part, error);
            return *problem;
        }
        base.exec("PRAGMA application_id = " + std::to_string(kApplication));
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
                    why == EEXIST || errno == EEXIST ? "is there already: another name is wanted, or no such file"
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
        return Problem{file.string(), "", "is no file: the name of a world file is wanted"};
    const fs::path folder = file.has_parent_path() ? file.parent_path() : fs::path(".");
    // The folder too: SQLite writes its journal beside the file.
    const bool isWritable = ::access(file.c_str(), W_OK) == 0 && ::access(folder.c_str(), W_OK) == 0;
    const bool writes = access == WorldAccess::Write && isWritable;
    FileLock lock(::open(file.c_str(), (writes ? O_RDWR : O_RDONLY) | O_CLOEXEC));
    if (!lock.isOpen())
        return Problem{file.string(), "", "cannot be read: " + std::string(std::strerror(errno))}; // NOLINT
    if (!isDatabase(file))
        return Problem{file.string(), "", "is no world of Fell: a file that begins as a database is wanted"};
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
        if (application != kApplication)
            return Problem{file.string(), "", "is a database of something else, no world of Fell"};
        if (version > kVersion)
            parts->whyReadOnly = "this world was written by a newer Fell (its version is " + std::to_string(version)
                + ", this one writes " + std::to_string(kVersion) + "): it can be looked at, and is not changed";
        else if (!isWritable)
            parts->whyReadOnly = "this file may not be written: save the world under another name to keep changes";
        else if (taken == FileLock::Taken::NoLocksHere)
            parts->whyReadOnly
                = "the file system of this file has no locks, so another Fell could write it at the same "
                  "time: save the world on another disk to keep changes";
        parts->isOpenedToRead = access == WorldAccess::Read;
        if (!hasOnlyOurTables(base))
            return Problem{file.string(), "", "is no world of Fell: its tables are others than a world's"};
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

Outcome<WorldContents> WorldFile::load(const KeepGoing& goOn, std::uint64_t mostVoxels) const
{
    return m_parts->guarded("could not be read", [&]() -> Outcome<WorldContents> {
        WorldContents out;
        SQLite::Transaction snapshot(m_parts->base); // one look at the file, and its lock taken once
        const auto places = m_parts->places();
        std::uint64_t done = 0, voxels = 0;
        const bool isAll = m_parts->eachRow(places, out.damaged, [&](ChunkPos, std::vector<StoredChunk>& chunks) {
            for (const StoredChunk& chunk : chunks)
                voxels += chunk.changed.size();
            if (voxels > mostVoxels)
                return false;
            std::move(chunks.begin(), chunks.end(), std::back_inserter(out.chunks));
            return !goOn || goOn(++done, places.size());
        });
        if (voxels > mostVoxels)
            return Problem{m_parts->file.string(), "",
                "has more than " + std::to_string(mostVoxels) + " changed voxels, which is more than Fell reads"};
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

Outcome<std::vector<DamagedRow>> WorldFile::verify(const KeepGoing& goOn) const
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
            [&](ChunkPos, const std::vector<StoredChunk>&) { return !goOn || goOn(++done, places.size()); });
        if (!isAll)
            return Problem{m_parts->file.string(), "", "checking was stopped"};
        return damaged;
    });
}

Outcome<std::uint64_t> WorldFile::compact(const MadeVoxels& made, const KeepGoing& goOn)
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
                return !goOn || goOn(++done, places.size());
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

std::vector<StoredChunk> keptOf(std::span<const std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> changes)
{
    std::vector<StoredChunk> out;
    out.reserve(changes.size());
    for (const auto& [chunk, voxels] : changes)
        out.push_back({chunk, *voxels, nullptr});
    return out;
}

std::vector<std::pair<ChunkPos, KeptVoxels>> changesFrom(
    std::vector<StoredChunk> chunks, const WorldFile::MadeVoxels& made)
{
    std::vector<std::pair<ChunkPos, KeptVoxels>> out;
    out.reserve(chunks.size());
    for (StoredChunk& chunk : chunks) {
        KeptVoxels voxels = std::move(chunk.changed);
        const std::vector<Material> usual = chunk.whole && made ? made(chunk.chunk) : std::vector<Material>{},
                                    whole = chunk.whole ? chunk.whole->voxels() : std::vector<Material>{};
        for (std::size_t i = 0; i < whole.size(); ++i)
            if (usual.empty() || usual[i] != whole[i])
                voxels.push_back({static_cast<std::uint16_t>(i), whole[i]});
        if (!voxels.empty())
            out.emplace_back(chunk.chunk, std::move(voxels));
    }
    return out;
}

std::vector<StoredChunk> wholeOf(const ResidentVoxels& residents, const std::function<bool(ChunkPos kept)>& wanted)
{
    struct Parts {
        std::vector<Material> voxels;
        int pieces = 0; // that are still to come
    };
    std::unordered_map<ChunkPos, Parts, ChunkPosHash> found;
    std::vector<StoredChunk> out;
    for (const auto& [chunk, voxels] : residents) {
        const int edge = voxels->edge(), step = std::min(edge, kKeptEdge), across = kKeptEdge / step;
        if (edge == kKeptEdge) {
            if (wanted(chunk))
                out.push_back({chunk, {}, voxels});
            continue;
        }
        // Piece by piece: a larger chunk has several whole ones, a smaller one is a part of one.
        for (int y = 0; y < edge; y += step)
            for (int z = 0; z < edge; z += step)
                for (int x = 0; x < edge; x += step) {
                    const VoxelPos low = originOf(chunk, edge) + VoxelPos{x, y, z};
                    const ChunkPos kept = chunkOf(low, kKeptEdge);
                    if (!wanted(kept))
                        continue;
                    auto [at, isNew] = found.try_emplace(kept);
                    Parts& parts = at->second;
                    if (isNew) {
                        parts.voxels.resize(static_cast<std::size_t>(kKeptEdge) * kKeptEdge * kKeptEdge);
                        parts.pieces = across * across * across;
                    }
                    const VoxelPos in = low - originOf(kept, kKeptEdge);
                    for (int v = 0; v < step; ++v)
                        for (int w = 0; w < step; ++w)
                            voxels->readRow(x, y + v, z + w, step,
                                parts.voxels.data() + ((in.y + v) * kKeptEdge + in.z + w) * kKeptEdge + in.x);
                    if (--parts.pieces == 0) {
                        out.push_back(
                            {kept, {}, std::make_shared<const VoxelChunk>(kKeptEdge, std::move(parts.voxels))});
                        found.erase(at);
                    }
                }
    }
    return out;
}

} // namespace fell
