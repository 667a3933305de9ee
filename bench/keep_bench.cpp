// SPDX-License-Identifier: Apache-2.0
// The world file: what it keeps against what it could keep, and against raw voxels in the same database.
#include "in_turn.h"
#include <fell/demo/demo_folder.h>

#include <fell/grid/ball_offsets.h>
#include <fell/save/world_file.h>
#include <fell/stream/streamer.h>
#include <fell/terrain/generate.h>

#include <SQLiteCpp/SQLiteCpp.h>

#include <cstdlib>
#include <random>
#include <unistd.h>

namespace fell::bench {
namespace {

namespace fs = std::filesystem;

class Folder {
public:
    Folder()
        : path(fs::temp_directory_path() / ("fell-bench-" + std::to_string(::getpid())))
    {
        fs::create_directories(path);
    }
    ~Folder()
    {
        std::error_code error;
        fs::remove_all(path, error);
    }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
    fs::path path;
};

bool isQuick()
{
    return std::getenv("FELL_QUICK") != nullptr;
}

std::shared_ptr<const Terrain> corrowdale()
{
    return makeTerrain(findWorld("corrowdale", demoFolder()).take());
}

WorldHeader headerOf(const Terrain& terrain, const char* what, const char* group)
{
    const Recipe& recipe = terrain.recipe;
    return {recipe.name, recipe.text, recipe.blocks.text, recipe.blocks.folder.string(), recipe.seed, what, group};
}

/// All chunks of edge 32 around the middle of the ground, whole and held as palettes, as setups have it.
std::vector<StoredChunk> visited(const Terrain& terrain, int radius)
{
    const Generator& generator = *findGenerator("blocks");
    const ChunkPos middle = chunkOf({0, static_cast<std::int64_t>(groundHeight(terrain, 0, 0)), 0}, kKeptEdge);
    std::vector<StoredChunk> out;
    for (const ChunkPos offset : ballOffsets(radius))
        out.push_back({middle + offset, {},
            std::make_shared<const VoxelChunk>(
                generateChunk(generator, terrain, middle + offset, kKeptEdge).convertedTo(*findForm("palette")))});
    return out;
}

bool isSurface(const StoredChunk& chunk)
{
    return !chunk.whole->isUniform();
}

std::unique_ptr<WorldFile> fresh(const fs::path& file, const Terrain& terrain, const char* what, const char* group)
{
    fs::remove(file);
    return WorldFile::create(file, headerOf(terrain, what, group)).take();
}

/// Single blocks put on and taken from anywhere in the surface's chunks: hardly two near each other.
std::vector<VoxelChange> scatteredEdits(const std::vector<StoredChunk>& surface, std::size_t count)
{
    std::mt19937_64 dice(1);
    std::vector<VoxelChange> edits;
    while (edits.size() < count) {
        const StoredChunk& chunk = surface[dice() % surface.size()];
        const int i = static_cast<int>(dice() % (kKeptEdge * kKeptEdge * kKeptEdge)), x = i % kKeptEdge,
                  y = i / kKeptEdge / kKeptEdge, z = i / kKeptEdge % kKeptEdge;
        edits.push_back({originOf(chunk.chunk, kKeptEdge) + VoxelPos{x, y, z}, chunk.whole->at(x, y, z),
            static_cast<Material>(dice() % 8)});
    }
    return edits;
}

/// Twenty galleries of two blocks' height, that turn now and then, with a lamp now and then.
std::vector<VoxelChange> dugEdits(const std::vector<StoredChunk>& surface, std::size_t count)
{
    std::mt19937_64 dice(2);
    std::vector<VoxelChange> edits;
    constexpr std::size_t kGalleries = 20;
    while (edits.size() < count) {
        VoxelPos at = originOf(surface[dice() % surface.size()].chunk, kKeptEdge) + VoxelPos{16, 16, 16};
        int way = static_cast<int>(dice() % 4);
        for (std::size_t i = 0; i < count / kGalleries / 2; ++i) {
            edits.push_back({at, 1, dice() % 12 == 0 ? Material{5} : kOpen});
            edits.push_back({at + VoxelPos{0, 1, 0}, 1, kOpen});
            way = dice() % 10 == 0 ? static_cast<int>(dice() % 4) : way;
            at = at
                + VoxelPos{way == 0 ? 1
                        : way == 1  ? -1
                                    : 0,
                    dice() % 9 == 0 ? -1 : 0,
                    way == 2       ? 1
                        : way == 3 ? -1
                                   : 0};
        }
    }
    return edits;
}

/// "ratio" is the bytes that all chunks within the distance add to an empty file over those that 10,000 edits among
/// them add to one; "surface_bytes" a kept surface chunk's.
template <typename Edits> void allOverChanged(benchmark::State& state, const Edits& editsOf)
{
    const Folder folder;
    const auto terrain = corrowdale();
    const std::vector<StoredChunk> all = visited(*terrain, isQuick() ? 3 : 12);
    std::vector<StoredChunk> surface;
    std::copy_if(all.begin(), all.end(), std::back_inserter(surface), isSurface);
    WorldChanges changes;
    changes.set(editsOf(surface, isQuick() ? 500 : 10000));
    double whole = 0, changed = 0, surfaceBytes = 0;
    for (auto _ : state) {
        const auto visitedFile = fresh(folder.path / "all.fell", *terrain, "visited", "cube");
        const auto changedFile = fresh(folder.path / "changed.fell", *terrain, "changed", "cube");
        const double emptyVisited = static_cast<double>(visitedFile->figures().value().bytes),
                     emptyChanged = static_cast<double>(changedFile->figures().value().bytes);
        if (visitedFile->save(all) || changedFile->save(storedFromChanges(changes.all())))
            return state.SkipWithError("could not be saved");
        if (changesFrom(changedFile->load().take().chunks).size() != changes.chunks())
            return state.SkipWithError("what is read is not what was saved");
        whole = static_cast<double>(visitedFile->figures().value().bytes) - emptyVisited;
        changed = static_cast<double>(changedFile->figures().value().bytes) - emptyChanged;
        const auto surfaceFile = fresh(folder.path / "surface.fell", *terrain, "visited", "chunk");
        (void)surfaceFile->save(surface);
        surfaceBytes
            = static_cast<double>(surfaceFile->figures().value().rowBytes) / static_cast<double>(surface.size());
    }
    state.counters["ratio"] = whole / changed;
    state.counters["all_bytes"] = whole;
    state.counters["changed_bytes"] = changed;
    state.counters["surface_bytes"] = surfaceBytes;
    state.counters["surface_chunks"] = static_cast<double>(surface.size());
}
BENCHMARK_CAPTURE(allOverChanged, dug, dugEdits)->Name("keep/all_over_changed/dug")->Iterations(1)->UseRealTime();
BENCHMARK_CAPTURE(allOverChanged, scattered, scatteredEdits)
    ->Name("keep/all_over_changed/scattered")
    ->Iterations(1)
    ->UseRealTime();

using PlainChunks = std::vector<std::pair<ChunkPos, std::shared_ptr<const VoxelChunk>>>; // held as arrays

/// Raw 16-bit voxels, a row a chunk, in a database of the same settings: from chunks held as plain arrays and into
/// such, so that neither way has to change how its chunks are held.
class RawFile {
public:
    explicit RawFile(const fs::path& file)
        : m_base((fs::remove(file), file.string()), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE)
    {
        m_base.exec("PRAGMA locking_mode = EXCLUSIVE");
        m_base.exec("PRAGMA synchronous = FULL");
        m_base.exec("CREATE TABLE raw(x INTEGER, y INTEGER, z INTEGER, content BLOB, PRIMARY KEY(x, y, z))");
    }
    void save(const PlainChunks& chunks)
    {
        SQLite::Transaction all(m_base);
        SQLite::Statement put(m_base, "INSERT OR REPLACE INTO raw(x, y, z, content) VALUES(?, ?, ?, ?)");
        for (const auto& [chunk, voxels] : chunks) {
            put.reset();
            put.bind(1, chunk.x);
            put.bind(2, chunk.y);
            put.bind(3, chunk.z);
            put.bindNoCopy(4, voxels->plain(), kKeptEdge * kKeptEdge * kKeptEdge * static_cast<int>(sizeof(Material)));
            put.exec();
        }
        all.commit();
    }
    [[nodiscard]] PlainChunks load()
    {
        PlainChunks out;
        SQLite::Statement list(m_base, "SELECT x, y, z, content FROM raw");
        while (list.executeStep()) {
            const SQLite::Column content = list.getColumn(3);
            const auto* from = static_cast<const Material*>(content.getBlob());
            out.emplace_back(
                ChunkPos{list.getColumn(0).getInt64(), list.getColumn(1).getInt64(), list.getColumn(2).getInt64()},
                std::make_shared<const VoxelChunk>(kKeptEdge,
                    std::vector<Material>(
                        from, from + static_cast<std::size_t>(content.getBytes()) / sizeof(Material))));
        }
        return out;
    }

private:
    SQLite::Database m_base;
};

/// "ratio" is the time of saving the same surface chunks raw over saving them as Fell does, "load_ratio" that of
/// reading them back; "generate_over_load" regenerating them over reading them.
void rawOverKept(benchmark::State& state, const char* group)
{
    const Folder folder;
    const auto terrain = corrowdale();
    std::vector<StoredChunk> surface = visited(*terrain, isQuick() ? 3 : 9);
    std::erase_if(surface, [](const StoredChunk& chunk) { return !isSurface(chunk); });
    // A save ends with the disk's own wait, 20 ms here, whatever was written: so that it does not hide what a chunk
    // costs, the same ground is saved several times over, each time elsewhere.
    const std::size_t once = surface.size();
    for (std::int64_t copy = 1; copy < (isQuick() ? 2 : 5); ++copy)
        for (std::size_t i = 0; i < once; ++i) {
            StoredChunk chunk = surface[i];
            chunk.chunk.x += 1000 * copy;
            chunk.whole = std::make_shared<const VoxelChunk>(
                chunk.whole->convertedTo(*findForm("palette"))); // with separate memory
            surface.push_back(std::move(chunk));
        }
    PlainChunks plain;
    for (const StoredChunk& chunk : surface)
        plain.emplace_back(
            chunk.chunk, std::make_shared<const VoxelChunk>(chunk.whole->convertedTo(*findForm("array"))));
    const Generator& generator = *findGenerator("blocks");
    std::vector<double> rawSave, keptSave, rawLoad, keptLoad, made;
    for (auto _ : state) {
        RawFile raw(folder.path / "raw.db");
        const auto kept = fresh(folder.path / "kept.fell", *terrain, "visited", group);
        ::sync(); // what was removed and written before is not to be paid for by either
        rawSave.push_back(secondsFor([&] { raw.save(plain); }));
        ::sync();
        keptSave.push_back(secondsFor([&] { (void)kept->save(surface); }));
        PlainChunks one;
        std::vector<StoredChunk> two;
        rawLoad.push_back(secondsFor([&] { one = raw.load(); }));
        keptLoad.push_back(secondsFor([&] { two = kept->load().take().chunks; }));
        std::sort(one.begin(), one.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        std::sort(two.begin(), two.end(), [](const auto& a, const auto& b) { return a.chunk < b.chunk; });
        for (std::size_t i = 0; i < std::max(one.size(), two.size()); ++i)
            if (one.size() != two.size() || one[i].first != two[i].chunk
                || one[i].second->voxels() != two[i].whole->voxels())
                return state.SkipWithError("the two hold different voxels");
        made.push_back(secondsFor([&] {
            for (std::size_t i = 0; i < once; ++i)
                benchmark::DoNotOptimize(generateChunk(generator, *terrain, surface[i].chunk, kKeptEdge));
        }) * static_cast<double>(surface.size())
            / static_cast<double>(once));
    }
    const Ratio saving = ratioOfMedians(rawSave, keptSave), loading = ratioOfMedians(rawLoad, keptLoad);
    state.counters["ratio"] = saving.ratio;
    state.counters["load_ratio"] = loading.ratio;
    state.counters["generate_over_load"] = ratioOfMedians(made, keptLoad).ratio;
    state.counters["save_us_chunk"] = percentile(keptSave, 50) * 1e6 / static_cast<double>(surface.size());
    state.counters["load_us_chunk"] = percentile(keptLoad, 50) * 1e6 / static_cast<double>(surface.size());
    state.counters["raw_save_us_chunk"] = percentile(rawSave, 50) * 1e6 / static_cast<double>(surface.size());
    state.counters["chunks"] = static_cast<double>(surface.size());
}
BENCHMARK_CAPTURE(rawOverKept, chunk, "chunk")->Name("keep/raw_over_kept/chunk")->Iterations(5)->UseRealTime();
BENCHMARK_CAPTURE(rawOverKept, column, "column")->Name("keep/raw_over_kept/column")->Iterations(5)->UseRealTime();
BENCHMARK_CAPTURE(rawOverKept, cube, "cube")->Name("keep/raw_over_kept/cube")->Iterations(5)->UseRealTime();

} // namespace
} // namespace fell::bench
