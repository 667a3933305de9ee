// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/keep_audit.h>

#include <fell/measure/sample.h>
#include <fell/save/world_file.h>
#include <fell/stream/level_source.h>

#include <map>
#include <random>
#include <set>

namespace fell::audit {
namespace {

namespace fs = std::filesystem;
constexpr std::uint64_t kEach = 200; // changes before the file is opened again

/// One world file through several lives. A class because it owns the file, which is gone at the end.
class Life {
public:
    Life(const KeepAuditSpec& spec, const std::string& group, AuditRow& row, const std::stop_token& stop)
        : m_spec(spec)
        , m_stop(stop)
        , m_row(row)
        , m_group(group)
        , m_dice(spec.seed + row.cases)
        , m_file(spec.folder / ("audit-" + std::to_string(row.cases) + ".fell"))
    {
        const auto along = [this] { return static_cast<std::int64_t>(m_dice() % 4000) - 2000; };
        m_home = {along(), 0, along()};
        if (spec.changes && !spec.changes->isEmpty())
            m_home = middleOfInterest(*spec.terrain, spec.changes.get());
        else if (!spec.terrain->recipe.pattern)
            m_home.y = static_cast<std::int64_t>(groundHeight(*spec.terrain, m_home.x, m_home.z));
    }
    ~Life()
    {
        std::error_code error;
        for (const char* ending : {"", "-journal"})
            fs::remove(m_file.string() + ending, error);
    }
    Life(const Life&) = delete;
    Life& operator=(const Life&) = delete;

    void run()
    {
        const Recipe& recipe = m_spec.terrain->recipe;
        const auto made = WorldFile::create(m_file,
            {recipe.name, recipe.text, recipe.blocks.text, recipe.blocks.folder.string(), recipe.seed, "changed",
                m_group});
        if (!made)
            return differs(sentence(made.problem()));
        WorldChanges changes;
        if (m_spec.changes) {
            for (const auto& [chunk, voxels] : m_spec.changes->all())
                addKept(changes, chunk, *voxels);
            if (const auto problem = made.value()->save(storedFromChanges(changes.takeUnsaved())))
                return differs(sentence(*problem));
        }
        for (std::uint64_t done = 0; done < kEach && !m_stop.stop_requested();) {
            const std::uint64_t part = std::min<std::uint64_t>(1 + m_dice() % 60, kEach - done);
            changes.set(someChanges(part));
            done += part;
            if (const auto problem = made.value()->save(storedFromChanges(changes.takeUnsaved())))
                return differs(sentence(*problem));
            if (m_dice() % 4 == 0)
                if (const auto tidied = made.value()->compact([this](ChunkPos chunk) { return recipesOwn(chunk); });
                    !tidied)
                    return differs(sentence(tidied.problem()));
        }
        m_row.cases += kEach;
    }

    /// After the file was closed.
    void compare()
    {
        const auto opened = WorldFile::open(m_file);
        if (!opened)
            return differs(sentence(opened.problem()));
        auto contents = opened.value()->load();
        if (!contents)
            return differs(sentence(contents.problem()));
        WorldContents all = contents.take();
        if (!all.damaged.empty())
            return differs(all.damaged.front().where + " cannot be read: " + all.damaged.front().why);
        WorldChanges changes;
        changes.replaceAll(changesFrom(std::move(all.chunks)));
        for (const int edge : kChunkEdges) {
            LevelSource source(
                m_spec.terrain, m_spec.generator ? *m_spec.generator : *findGenerator("blocks"), edge, 64, &changes);
            std::set<ChunkPos> chunks;
            for (const auto& [at, unused] : m_changed)
                chunks.insert(chunkOf({at[0], at[1], at[2]}, edge));
            for (const ChunkPos chunk : chunks) {
                if (m_stop.stop_requested())
                    return;
                compareChunk(chunk, edge, source.voxels(chunk));
            }
        }
    }

private:
    using Place = std::array<std::int64_t, 3>;

    std::vector<Material> recipesOwn(ChunkPos chunk, int edge = kKeptEdge) const
    {
        return generateChunk(*findGenerator("samples"), *m_spec.terrain, chunk, edge).voxels();
    }

    /// What the world brings with it, near the place of the audit: a file of all of it is made for each case.
    void addKept(WorldChanges& changes, ChunkPos chunk, const KeptVoxels& voxels)
    {
        constexpr std::int64_t kNear = 3; // chunks
        const ChunkPos away = chunk - chunkOf(m_home, kKeptEdge);
        if (std::abs(away.x) > kNear || std::abs(away.y) > kNear || std::abs(away.z) > kNear)
            return;
        std::vector<VoxelChange> all;
        for (const KeptVoxel& one : voxels) {
            const int i = one.voxel;
            const VoxelPos at = originOf(chunk, kKeptEdge)
                + VoxelPos{i % kKeptEdge, i / kKeptEdge / kKeptEdge, i / kKeptEdge % kKeptEdge};
            all.push_back({at, kOpen, one.material});
            m_changed[{at.x, at.y, at.z}] = one.material;
        }
        changes.set(all);
    }

    std::vector<VoxelChange> someChanges(std::uint64_t count)
    {
        std::vector<VoxelChange> out;
        const auto kinds = m_spec.terrain->recipe.blocks.kinds.size();
        for (std::uint64_t i = 0; i < count; ++i) {
            const auto by = [this] { return static_cast<std::int64_t>(m_dice() % 48) - 24; };
            const VoxelPos at = m_home + VoxelPos{by(), by(), by()};
            const auto after = static_cast<Material>(m_dice() % 3 == 0 ? 0 : m_dice() % kinds);
            out.push_back({at, kOpen, after});
            m_changed[{at.x, at.y, at.z}] = after;
        }
        return out;
    }

    void compareChunk(ChunkPos chunk, int edge, const VoxelChunk& kept)
    {
        const std::vector<Material> own = recipesOwn(chunk, edge);
        const VoxelPos low = originOf(chunk, edge);
        for (int y = 0, i = 0; y < edge; ++y)
            for (int z = 0; z < edge; ++z)
                for (int x = 0; x < edge; ++x, ++i) {
                    const auto changed = m_changed.find({low.x + x, low.y + y, low.z + z});
                    const Material wanted
                        = changed != m_changed.end() ? changed->second : own[static_cast<std::size_t>(i)];
                    if (kept.at(x, y, z) != wanted)
                        return differs("voxel " + std::to_string(low.x + x) + ", " + std::to_string(low.y + y) + ", "
                            + std::to_string(low.z + z) + ", a row a " + m_group + ", is "
                            + std::to_string(kept.at(x, y, z)) + " in place of " + std::to_string(wanted));
                }
    }

    void differs(const std::string& why)
    {
        if (m_row.differences++ == 0)
            m_row.first = why;
        m_row.cases += m_row.cases == 0; // a file that cannot be made is a case too
    }

    const KeepAuditSpec& m_spec;
    const std::stop_token& m_stop;
    AuditRow& m_row;
    std::string m_group;
    std::mt19937_64 m_dice;
    fs::path m_file;
    VoxelPos m_home;
    std::map<Place, Material> m_changed;
};

} // namespace

AuditRow auditKeep(const KeepAuditSpec& spec, const std::stop_token& stop)
{
    AuditRow row;
    row.audit = "keep";
    const auto groups = keepGroups();
    for (std::size_t i = 0; row.cases < spec.cases && row.differences == 0; ++i) {
        if (stop.stop_requested()) {
            row.stopped = true;
            return row;
        }
        Life life(spec, groups[i % groups.size()].id, row, stop);
        life.run();
        if (!stop.stop_requested())
            life.compare();
        if (spec.progress)
            spec.progress(std::min(1.0, static_cast<double>(row.cases) / static_cast<double>(spec.cases)));
    }
    return row;
}

} // namespace fell::audit
