// SPDX-License-Identifier: Apache-2.0
#include <fell/save/world_parts.h>

#include <fell/input/json_reader.h>
#include <fell/input/temp_folder.h>
#include <fell/input/text_file.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <map>

namespace fell::save {

namespace fs = std::filesystem;

WorldFile::Parts::~Parts()
{
    if (draft.empty())
        return;
    std::error_code error;
    fs::remove(draft, error);
    fs::remove(fs::path(draft) += "-journal", error);
}

void WorldFile::Parts::readRow(SQLite::Statement& get, ReadRow& out) const
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

std::vector<ChunkPos> WorldFile::Parts::places() const
{
    std::vector<ChunkPos> out;
    SQLite::Statement list(base, "SELECT x, y, z FROM kept ORDER BY x, z, y");
    while (list.executeStep())
        out.push_back({list.getColumn(0).getInt64(), list.getColumn(1).getInt64(), list.getColumn(2).getInt64()});
    return out;
}

void WorldFile::Parts::write(SQLite::Statement& put, const Row& row)
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

std::optional<Problem> WorldFile::Parts::merge(
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

void WorldFile::Parts::readHeader()
{
    std::map<std::string, std::string> values;
    SQLite::Statement list(base, "SELECT key, value FROM header");
    while (list.executeStep())
        values[list.getColumn(0).getString()] = list.getColumn(1).getString();
    header = {values["name"], values["recipe"], values["blocks"], values["folder"],
        std::strtoull(values["seed"].c_str(), nullptr, 10), values["what"], values["group"]};
}

std::optional<Problem> WorldFile::Parts::storePacked(const StoredHeader& stored)
{
    writeHeader(stored.header);
    SQLite::Statement put(base, "INSERT OR REPLACE INTO header(key, value) VALUES('paths', 'relative')");
    put.exec();
    std::uint64_t all = 0;
    if (stored.files.size() > kMaxPackedFiles)
        return Problem{file.string(), "",
            "would carry " + std::to_string(stored.files.size()) + " files; " + std::to_string(kMaxPackedFiles)
                + " are allowed"};
    SQLite::Statement add(base, "INSERT INTO document(kind, name, json) VALUES('file', ?, ?)");
    for (const PackedFile& one : stored.files) {
        const auto bytes = readFile(one.from);
        if (!bytes)
            return bytes.problem();
        if (all += bytes.value().size(); all > kMaxPackedBytes)
            return Problem{file.string(), "", "would carry more than 1 GiB of pictures, models and heights"};
        const std::string squeezedBytes = compressed(bytes.value(), 3);
        add.reset();
        add.bind(1, one.name);
        add.bind(2, squeezedBytes.data(), static_cast<int>(squeezedBytes.size()));
        add.exec();
    }
    return std::nullopt;
}

std::optional<Problem> WorldFile::Parts::findFiles()
{
    SQLite::Statement paths(base, "SELECT value FROM header WHERE key = 'paths'");
    if (!paths.executeStep() || paths.getColumn(0).getString() != "relative")
        return std::nullopt; // from before: absolute, or next to the block set
    std::error_code error;
    const fs::path home = fs::absolute(file, error).parent_path().lexically_normal();
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
        const auto bytes
            = decompressed({static_cast<const char*>(content.getBlob()), static_cast<std::size_t>(content.getBytes())},
                kMaxPackedBytes - all);
        if (!bytes || ++count > kMaxPackedFiles)
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
        return stored.empty() ? fs::path() : home / stored;
    };
    const bool isPacked = header.folder.rfind("packed:", 0) == 0;
    header.folder = resolve(header.folder).lexically_normal().string();
    header.root = isPacked && folder ? unpacked : home;
    return resolveHeights(resolve, folder ? unpacked : home, home);
}

std::optional<Problem> WorldFile::Parts::resolveHeights(
    const std::function<fs::path(const std::string&)>& resolve, const fs::path& unpacked, const fs::path& home)
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
    if (!isIn(unpacked) && !isIn(home))
        return Problem{
            file.string(), "/height/map/file", "lies outside of the world's folder, which a world file may not name"};
    name = found.string();
    header.recipe = root.dump(2);
    return std::nullopt;
}

void WorldFile::Parts::writeHeader(const WorldHeader& of)
{
    SQLite::Statement put(base, "INSERT OR REPLACE INTO header(key, value) VALUES(?, ?)");
    const std::pair<const char*, std::string> values[]{{"name", of.name}, {"recipe", of.recipe}, {"blocks", of.blocks},
        {"folder", of.folder}, {"seed", std::to_string(of.seed)}, {"what", of.what}, {"group", of.group}};
    for (const auto& [key, value] : values) {
        put.reset();
        put.bind(1, key);
        put.bind(2, value);
        put.exec();
    }
}

} // namespace fell::save
