// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/keep_trial.h>

#include <fell/grid/ball_offsets.h>
#include <fell/measure/statistics.h>
#include <fell/measure/stopwatch.h>
#include <fell/terrain/generate.h>

#include <algorithm>
#include <random>

namespace fell::measure {
namespace {

namespace fs = std::filesystem;

struct Way {
    KeepTrialRow row;
    std::vector<double> save, load, near;
};

/// What a running world holds of a file's contents.
std::uint64_t heldBytes(const std::vector<std::pair<ChunkPos, KeptVoxels>>& kept)
{
    std::uint64_t bytes = 0;
    for (const auto& [chunk, voxels] : kept)
        bytes += voxels.size() * sizeof(KeptVoxel) + sizeof(voxels) + sizeof(chunk);
    return bytes;
}

class Trial {
public:
    Trial(const KeepTrialSpec& spec, const std::stop_token& stop)
        : m_spec(spec)
        , m_stop(stop)
        , m_file(spec.folder / "trial.fell")
    {
    }

    Outcome<KeepTrial> run()
    {
        m_out.makeMs = nsOf([&] { makeVisited(); }) / 1e6;
        if (m_stop.stop_requested())
            return stopped();
        takeChanges();
        for (const KeepMethod& what : keepModes())
            for (const KeepMethod& group : keepGroups())
                m_ways.push_back(
                    {.row = {.what = what.id, .group = group.id, .same = true}, .save = {}, .load = {}, .near = {}});
        for (int round = 0; round < m_spec.rounds; ++round)
            for (Way& way : m_ways) {
                if (m_stop.stop_requested())
                    return stopped();
                if (auto problem = measure(way))
                    return *problem;
            }
        for (Way& way : m_ways) {
            way.row.saveMs = percentile(way.save, 50);
            way.row.loadMs = percentile(way.load, 50);
            way.row.nearLoadMs = percentile(way.near, 50);
            m_out.rows.push_back(way.row);
        }
        return std::move(m_out);
    }

    ~Trial()
    {
        std::error_code error;
        for (const char* ending : {"", "-journal"})
            fs::remove(m_file.string() + ending, error);
    }
    Trial(const Trial&) = delete;
    Trial& operator=(const Trial&) = delete;

private:
    Outcome<KeepTrial> stopped()
    {
        m_out.stopped = true;
        return std::move(m_out);
    }

    std::vector<Material> made(ChunkPos chunk) const
    {
        return generateChunk(*findGenerator("blocks"), *m_spec.terrain, chunk, kKeptEdge).voxels();
    }

    /// As a setup would, unless it says otherwise.
    static std::shared_ptr<const VoxelChunk> held(std::vector<Material> voxels)
    {
        return std::make_shared<const VoxelChunk>(
            VoxelChunk(kKeptEdge, std::move(voxels)).convertedTo(*findForm("palette")));
    }

    void makeVisited()
    {
        for (const ChunkPos offset : ballOffsets(m_spec.radius)) {
            if (m_stop.stop_requested())
                return;
            m_visited.push_back({m_spec.middle + offset, {}, held(made(m_spec.middle + offset))});
        }
    }

    /// The world's changes, or some; then the visited chunks are as they were left.
    void takeChanges()
    {
        auto changes = m_spec.changes;
        if (!changes || changes->isEmpty()) {
            changes = std::make_shared<WorldChanges>();
            changes->set(someChanges());
        }
        m_changes = changes->all();
        for (StoredChunk& chunk : m_visited) {
            std::vector<Material> voxels = chunk.whole->voxels();
            if (changes->apply(chunk.chunk, kKeptEdge, voxels))
                chunk.whole = held(std::move(voxels));
        }
        m_out.visited = m_visited.size();
        m_out.changed = m_changes.size();
        m_out.voxels = changes->voxels();
    }

    std::vector<VoxelChange> someChanges() const
    {
        std::vector<std::pair<ChunkPos, std::vector<Material>>> surface;
        for (const StoredChunk& chunk : m_visited)
            if (std::vector<Material> voxels = chunk.whole->voxels(); std::any_of(
                    voxels.begin(), voxels.end(), [&](Material m) { return (m == kOpen) != (voxels[0] == kOpen); }))
                surface.emplace_back(chunk.chunk, std::move(voxels));
        std::mt19937_64 dice(m_spec.terrain->recipe.seed);
        std::vector<VoxelChange> out;
        for (int i = 0; i < m_spec.edits && !surface.empty(); ++i) {
            const auto& [chunk, voxels] = surface[dice() % surface.size()];
            const auto voxel = static_cast<int>(dice() % voxels.size());
            const Material before = voxels[static_cast<std::size_t>(voxel)];
            out.push_back({originOf(chunk, kKeptEdge)
                    + VoxelPos{voxel % kKeptEdge, voxel / kKeptEdge / kKeptEdge, voxel / kKeptEdge % kKeptEdge},
                before, before == kOpen ? Material{1} : kOpen});
        }
        return out;
    }

    /// What goes into the file: of what was visited all, and of what lies elsewhere the changes.
    std::vector<StoredChunk> contentsFor(const KeepTrialRow& row) const
    {
        std::vector<StoredChunk> out = storedFromChanges(m_changes);
        if (row.what != "visited")
            return out;
        std::erase_if(out, [this](const StoredChunk& chunk) {
            return squaredLength(chunk.chunk - m_spec.middle) <= m_spec.radius * m_spec.radius;
        });
        out.insert(out.end(), m_visited.begin(), m_visited.end());
        return out;
    }

    std::optional<Problem> measure(Way& way)
    {
        const Recipe& recipe = m_spec.terrain->recipe;
        std::error_code error;
        fs::remove(m_file, error);
        std::vector<StoredChunk> contents = contentsFor(way.row);
        {
            auto created = WorldFile::create(m_file,
                {recipe.name, recipe.text, recipe.blocks.text, recipe.blocks.folder.string(), recipe.seed, way.row.what,
                    way.row.group});
            if (!created)
                return created.problem();
            std::optional<Problem> problem;
            way.save.push_back(nsOf([&] { problem = created.value()->save(contents); }) / 1e6);
            if (problem)
                return problem;
        }
        auto opened = WorldFile::open(m_file);
        if (!opened)
            return opened.problem();
        const auto world = opened.take();
        const WorldFigures figures = world->figures().value();
        way.row.bytes = figures.bytes;
        way.row.rows = figures.rows;
        way.row.chunks = figures.chunks;
        WorldContents all, few;
        way.load.push_back(nsOf([&] { all = world->load().take(); }) / 1e6);
        way.near.push_back(nsOf([&] {
            few = world->loadBox(m_spec.middle, m_spec.middle + ChunkPos{2, 2, 2}).take();
        }) / 1e6);
        doNotOptimize(few);
        const auto before = [](const StoredChunk& a, const StoredChunk& b) { return a.chunk < b.chunk; };
        std::sort(contents.begin(), contents.end(), before);
        std::sort(all.chunks.begin(), all.chunks.end(), before);
        way.row.same &= std::equal(contents.begin(), contents.end(), all.chunks.begin(), all.chunks.end(),
            [](const StoredChunk& a, const StoredChunk& b) {
                return a.chunk == b.chunk && a.changed == b.changed && !a.whole == !b.whole
                    && (!a.whole || a.whole->voxels() == b.whole->voxels());
            });
        if (way.row.loadedBytes == 0)
            way.row.loadedBytes
                = heldBytes(changesFrom(std::move(all.chunks), [this](ChunkPos chunk) { return made(chunk); }));
        return std::nullopt;
    }

    const KeepTrialSpec& m_spec;
    std::stop_token m_stop;
    fs::path m_file;
    KeepTrial m_out;
    std::vector<Way> m_ways;
    std::vector<StoredChunk> m_visited; // whole
    std::vector<std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> m_changes;
};

} // namespace

Outcome<KeepTrial> runKeepTrial(const KeepTrialSpec& spec, const std::stop_token& stop)
{
    return Trial(spec, stop).run();
}

} // namespace fell::measure
