// SPDX-License-Identifier: Apache-2.0
// A world in a file: what it is made from, and what was changed of it. SQLite; docs/file-formats.md has the tables.
#pragma once

#include <fell/input/problem.h>
#include <fell/save/chunk_codec.h>
#include <fell/save/keep_choices.h>
#include <fell/terrain/recipe.h>

#include <filesystem>
#include <memory>

namespace fell::save {

/// What a world is made from.
struct WorldHeader {
    std::string name;
    std::string recipe, blocks; // JSON, as their files had it
    std::string folder; // where the block set's textures and models are
    std::uint64_t seed = 0;
    std::string what = "changed", group = "cube";
    /// Of a file that was opened: `folder` may be one that was unpacked, and goes with the last copy; `root` is what
    /// the block set's files must lie in, empty for files from before paths were relative. Not compared, not stored.
    std::shared_ptr<const void> unpacked{};
    std::filesystem::path root{};
    bool operator==(const WorldHeader& other) const
    {
        return name == other.name && recipe == other.recipe && blocks == other.blocks && folder == other.folder
            && seed == other.seed && what == other.what && group == other.group;
    }
};

/// The recipe and block set that a header holds, with its seed. Errors: as parseRecipe's.
Outcome<Recipe> recipeOf(const WorldHeader& header, const std::string& where);

/// As findWorld, and the recipe in a world file. Errors: as both.
Outcome<Recipe> findWorldOrFile(const std::string& world, const std::filesystem::path& demos);

/// A row that cannot be read: its chunks count as unchanged until they are written again.
struct DamagedRow {
    ChunkPos group; // its place among groups
    std::string where; // in words, e.g. "chunks 4, 0, -8 to 7, 3, -5"
    std::string why;
};

struct WorldContents {
    std::vector<StoredChunk> chunks;
    std::vector<DamagedRow> damaged;
};

struct WorldFigures {
    std::uint64_t bytes = 0; // of the file
    std::uint64_t rows = 0, rowBytes = 0;
    std::uint64_t chunks = 0, voxels = 0; // kept; voxels: changed ones
};

/// Called now and then; false stops the work, which then has changed nothing.
using ProgressFn = std::function<bool(std::uint64_t done, std::uint64_t all)>;

/// Changed voxels that load() takes by default: 2 GiB of memory.
constexpr std::uint64_t kMaxChangedVoxels = std::uint64_t{1} << 29;

/// How a file is opened: several may read it at once, or one may write it.
enum class WorldAccess { Read, Write };

/// A class because it owns the open file. One thread at a time.
///
/// Lock    An open-file-description lock (fcntl(2), F_OFD_SETLK) on a byte of the file itself: exclusive for Write,
/// shared
///         for Read, kept until the end. Unlike a POSIX lock it survives the closing of other descriptors of the file
///         in this process, e.g. by a file dialog that looks into it.
/// Trust   The file may come from anywhere. Only the three tables of docs/file-formats.md are accepted, without views
/// and
///         triggers. A row that holds a chunk outside its group, a chunk twice, or a block type that the world does not
///         have is damaged. Memory: at most 4 bytes per changed voxel, and no more voxels than `mostVoxels` of load().
class WorldFile {
public:
    /// A new file with nothing in it. Errors: an empty name, it is there already, cannot be made, the header's recipe
    /// is none.
    static Outcome<std::unique_ptr<WorldFile>> create(const std::filesystem::path& file, const WorldHeader& header);
    /// The same under the name `file` + ".part", for a world that takes time to write. publish() puts it in place;
    /// without it the destructor removes it. One that a killed process has left is written over.
    /// The textures and models of the block set go into the file, and so does a height map that does not lie in the
    /// file's folder or below, or with `pack` any; paths are stored relative to the file. Errors: these hold more than
    /// kMaxPackedBytes.
    static Outcome<std::unique_ptr<WorldFile>> createDraft(
        const std::filesystem::path& file, const WorldHeader& header, bool pack = false);
    /// Gives a draft its name, flushed to the disk. Errors: the name is taken meanwhile.
    std::optional<Problem> publish();
    /// Errors: no file, no world of Fell, open elsewhere, damaged beyond reading. A file of a newer version, and one
    /// that may not be written, is opened to be read: see whyReadOnly.
    static Outcome<std::unique_ptr<WorldFile>> open(
        const std::filesystem::path& file, WorldAccess access = WorldAccess::Write);
    ~WorldFile();
    WorldFile(const WorldFile&) = delete;
    WorldFile& operator=(const WorldFile&) = delete;

    [[nodiscard]] const WorldHeader& header() const;
    [[nodiscard]] const std::filesystem::path& file() const;
    /// Why nothing can be saved, as one sentence; empty where it can.
    [[nodiscard]] const std::string& whyReadOnly() const;

    /// Puts the chunks in, in place of what was there of them; one transaction. When it returns without a problem they
    /// are on the disk. Errors: read-only, no space, or a row to be added to is damaged; then nothing has changed.
    std::optional<Problem> save(std::span<const StoredChunk> chunks);
    /// Everything that can be read. Errors: stopped, or more than `mostVoxels` changed voxels.
    [[nodiscard]] Outcome<WorldContents> load(
        const ProgressFn& progress = {}, std::uint64_t maxVoxels = kMaxChangedVoxels) const;
    /// The rows that hold chunks of a box; upper bound outside.
    [[nodiscard]] Outcome<WorldContents> loadBox(ChunkPos low, ChunkPos high) const;
    /// Takes damaged rows out: their chunks are made from the recipe again.
    std::optional<Problem> drop(std::span<const DamagedRow> rows);

    /// What SQLite and every row's checksum say: empty where all is sound.
    [[nodiscard]] Outcome<std::vector<DamagedRow>> verify(const ProgressFn& progress = {}) const;
    /// Gives unused space back. With `made`, which makes a chunk's voxels from the recipe, voxels that are as it says
    /// are forgotten first. Returns the bytes that were saved.
    using MadeVoxels = std::function<std::vector<Material>(ChunkPos chunk)>;
    Outcome<std::uint64_t> compact(const MadeVoxels& made = {}, const ProgressFn& progress = {});
    [[nodiscard]] Outcome<WorldFigures> figures() const;

    /// The names and sizes of the files that are packed in it, unpacked.
    [[nodiscard]] Outcome<std::vector<std::pair<std::string, std::uint64_t>>> packed() const;
    /// Setups and routes that belong to the world, as JSON, by kind and name.
    std::optional<Problem> putText(const std::string& kind, const std::string& name, const std::string& json);
    struct Text {
        std::string kind, name, json;
    };
    [[nodiscard]] Outcome<std::vector<Text>> texts() const;

private:
    struct Parts;
    explicit WorldFile(std::unique_ptr<Parts> parts);
    std::unique_ptr<Parts> m_parts;
};

/// Is it a database file, whatever is in it? So that a recipe and a world can be told apart. False where there is none.
bool isDatabase(const std::filesystem::path& file);

/// What was changed, as chunks to save; and back. Whole chunks become all of their voxels, or with `made`, which makes
/// a chunk's voxels from the recipe, those that differ from it: 60 us a chunk in place of 128 KiB.
std::vector<StoredChunk> storedFromChanges(
    std::span<const std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> changes);
std::vector<std::pair<ChunkPos, KeptVoxels>> changesFrom(
    std::vector<StoredChunk> chunks, const WorldFile::MadeVoxels& made = {});

/// Chunks of level 0 that are resident, of any edge.
using ResidentVoxels = std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>>;
/// Chunks of edge kKeptEdge of which all voxels are among the residents, whole. Those that `wanted` says no to are left
/// out. Cost: where they have that edge themselves, none: they are shared; else 20 us a chunk.
std::vector<StoredChunk> storedFromResidents(
    const ResidentVoxels& residents, const std::function<bool(ChunkPos kept)>& wanted);

} // namespace fell::save
