// SPDX-License-Identifier: Apache-2.0
#include <fell/audit/light_audit.h>

#include <fell/audit/plain_light.h>
#include <fell/light/light_world.h>

#include <algorithm>
#include <random>

namespace fell::audit {
namespace {

/// The set's blocks and some that are hard for light: lamps in and outside of solid blocks, glass of all tints.
BlockSet hardBlocks(BlockSet blocks)
{
    const auto add = [&blocks](const char* name, BlockLight light) {
        BlockKind kind;
        kind.name = name;
        kind.matter = Matter::SeeThrough;
        kind.light = light;
        blocks.kinds.push_back(kind);
    };
    add("audit-lamp", {15, {}, {15, 12, 6}});
    add("audit-dim-lamp", {1, {}, {0, 3, 9}});
    add("audit-red-glass", {0, {0, 6, 14}, {}});
    add("audit-blue-glass", {1, {9, 4, 0}, {}});
    add("audit-fog", {5, {}, {}});
    add("audit-glow", {2, {1, 0, 3}, {7, 7, 7}});
    return blocks;
}

struct Trial {
    int edge = 16, chunks = 3; // a side
    const LightMode* mode = nullptr;
    int kind = 0; // of world
    [[nodiscard]] int side() const { return edge * chunks; }
};

class Dice {
public:
    explicit Dice(std::uint64_t seed)
        : m_dice(seed)
    {
    }
    std::uint64_t below(std::uint64_t n) { return m_dice() % n; }
    bool chance(double share) { return static_cast<double>(m_dice() >> 11) * 0x1p-53 < share; }
    std::mt19937_64& engine() { return m_dice; }

private:
    std::mt19937_64 m_dice;
};

/// The block type at a voxel of a hard world of this kind.
Material materialAt(int kind, VoxelPos at, int side, std::size_t kinds, Dice& dice)
{
    const auto any = [&] { return static_cast<Material>(1 + dice.below(kinds - 1)); };
    const auto glass = [&] { return static_cast<Material>(kinds - 1 - dice.below(4)); };
    switch (kind % 6) {
    case 0: // dust
        return dice.chance(0.3) ? any() : kOpen;
    case 1: // a checkerboard with holes
        return ((at.x + at.y + at.z) & 1) && !dice.chance(0.2) ? Material{1} : kOpen;
    case 2: // caves
        return dice.chance(0.62) ? Material{1} : dice.chance(0.02) ? any() : kOpen;
    case 3: // halls under glass roofs
        return at.y % 9 == 8 ? (dice.chance(0.7) ? glass() : Material{1}) : dice.chance(0.01) ? any() : kOpen;
    case 4: // flooded with something dear
        return at.y < side / 2 ? (dice.chance(0.1) ? any() : static_cast<Material>(kinds - 2)) : kOpen;
    default: // open ground with pillars
        return at.y < side / 3 || (at.x % 7 == 0 && at.z % 5 == 0 && at.y < side - 4) ? Material{1} : kOpen;
    }
}

using Chunks = std::vector<std::pair<ChunkPos, VoxelChunk>>;

Chunks makeWorld(const Trial& trial, std::size_t kinds, Dice& dice)
{
    Chunks chunks;
    const int edge = trial.edge;
    for (int cy = 0; cy < trial.chunks; ++cy)
        for (int cz = 0; cz < trial.chunks; ++cz)
            for (int cx = 0; cx < trial.chunks; ++cx) {
                std::vector<Material> voxels;
                for (int y = 0; y < edge; ++y)
                    for (int z = 0; z < edge; ++z)
                        for (int x = 0; x < edge; ++x)
                            voxels.push_back(materialAt(
                                trial.kind, {cx * edge + x, cy * edge + y, cz * edge + z}, trial.side(), kinds, dice));
                chunks.push_back({{cx, cy, cz}, VoxelChunk(edge, std::move(voxels))});
            }
    return chunks;
}

/// Where the sky begins, from all chunks of the world.
SkyHeightMapOf floorsOf(const Chunks& chunks, const LightRules& rules, const Trial& trial)
{
    auto floors = std::make_shared<std::vector<SkyHeightMap>>();
    for (int z = 0; z < trial.chunks; ++z)
        for (int x = 0; x < trial.chunks; ++x) {
            SkyHeightMap floor = skyFloor(trial.edge, trial.side());
            for (int y = trial.chunks - 1; y >= 0; --y)
                (void)carveThrough(floor,
                    transmissionOf(
                        chunks[static_cast<std::size_t>((y * trial.chunks + z) * trial.chunks + x)].second, rules),
                    std::int64_t{y} * trial.edge);
            floors->push_back(std::move(floor));
        }
    return [floors, trial](std::int64_t x, std::int64_t z) {
        const bool inside = x >= 0 && z >= 0 && x < trial.chunks && z < trial.chunks;
        return inside ? (*floors)[static_cast<std::size_t>(z * trial.chunks + x)] : skyFloor(trial.edge, INT64_MAX);
    };
}

std::string told(VoxelPos at)
{
    return std::to_string(at.x) + ", " + std::to_string(at.y) + ", " + std::to_string(at.z);
}

/// The first voxel whose level is not that of a flood from nothing.
std::string firstDifference(LightWorld& live, const PlainLight& plain, const Trial& trial)
{
    const int side = trial.side();
    for (int c = 0; c < trial.mode->channels(); ++c)
        for (int y = 0; y < side; ++y)
            for (int z = 0; z < side; ++z)
                for (int x = 0; x < side; ++x) {
                    const VoxelPos at{x, y, z};
                    if (const int is = live.level(at, c), should = plain.level(at, c); is != should)
                        return "voxel " + told(at) + " has level " + std::to_string(is) + " in channel "
                            + std::to_string(c) + ", the plain way gives " + std::to_string(should);
                }
    return {};
}

class LightAudit {
public:
    LightAudit(const LightAuditSpec& spec, const std::stop_token& stop)
        : m_spec(spec)
        , m_blocks(hardBlocks(spec.blocks))
        , m_stop(stop)
    {
        m_row.audit = "light";
    }

    AuditRow run()
    {
        constexpr int kSide = 3, kEdge = 16;
        constexpr std::uint64_t kEditsOfTheWorld = 5; // in each mode, next to the cases that were asked for
        for (const LightMode& mode : lightModes())
            if (mode.channels() > 0 && !m_spec.chunks.empty() && !m_row.stopped) {
                Dice dice(mix64(m_spec.seed));
                Chunks chunks;
                for (int i = 0; i < kSide * kSide * kSide; ++i)
                    chunks.push_back({{i % kSide, i / kSide / kSide, i / kSide % kSide},
                        m_spec.chunks[static_cast<std::size_t>(i)]});
                m_maxEdits = m_edits + kEditsOfTheWorld;
                audit({kEdge, kSide, &mode, 0}, std::string(mode.id) + ", the world itself", chunks, dice);
            }
        m_edits = 0;
        m_maxEdits = m_spec.cases;
        for (std::uint64_t world = 0; m_edits < m_spec.cases && !m_row.stopped; ++world) {
            Dice dice(mix64(m_spec.seed + world));
            const bool large = world % 8 == 7;
            const Trial trial{large ? 32 : 16, large ? 2 : 3, &lightModes()[1 + world % (lightModes().size() - 1)],
                static_cast<int>(world)};
            audit(trial, std::string(trial.mode->id) + ", world " + std::to_string(trial.kind),
                makeWorld(trial, m_blocks.kinds.size(), dice), dice);
        }
        return m_row;
    }

private:
    void count(const std::string& difference, const std::string& when)
    {
        ++m_row.cases;
        if (difference.empty())
            return;
        ++m_row.differences;
        if (m_row.first.empty())
            m_row.first = when + ": " + difference;
    }

    void audit(const Trial& trial, const std::string& name, const Chunks& chunks, Dice& dice)
    {
        const LightRules rules = lightRulesOf(m_blocks, *trial.mode);
        const auto floors = floorsOf(chunks, rules, trial);
        LightWorld live(rules, trial.edge, floors, LightWorld::Publish::Immediately);
        std::vector<std::pair<ChunkPos, const VoxelChunk*>> all;
        for (const auto& [chunk, voxels] : chunks)
            all.push_back({chunk, &voxels});
        live.putAll(all);
        const std::uint64_t digest = live.digest();
        for (int order = 0; order < m_spec.orders; ++order) {
            if (m_stop.stop_requested()) {
                m_row.stopped = true;
                return;
            }
            std::shuffle(all.begin(), all.end(), dice.engine());
            LightWorld other(rules, trial.edge, floors, LightWorld::Publish::Immediately);
            for (const auto& [chunk, voxels] : all)
                other.put(chunk, *voxels);
            count(
                other.digest() == digest ? "" : "the digest is another one", name + ", order " + std::to_string(order));
        }
        PlainLight plain(rules, trial.edge);
        for (const auto& [chunk, voxels] : chunks)
            plain.put(chunk, voxels.voxels());
        plain.flood();
        count(firstDifference(live, plain, trial), name + ", before any edit");
        edit(trial, name, live, plain, dice);
    }

    /// Edits keep to a few places, so that lamps and roofs come and go where light is.
    void edit(const Trial& trial, const std::string& name, LightWorld& live, PlainLight& plain, Dice& dice)
    {
        const auto side = static_cast<std::uint64_t>(trial.side());
        std::vector<VoxelPos> places;
        for (int i = 0; i < 12; ++i)
            places.push_back({static_cast<std::int64_t>(dice.below(side)), static_cast<std::int64_t>(dice.below(side)),
                static_cast<std::int64_t>(dice.below(side))});
        for (std::uint64_t i = 0; i < m_spec.editsAWorld && m_edits < m_maxEdits; ++i, ++m_edits) {
            if (m_stop.stop_requested()) {
                m_row.stopped = true;
                return;
            }
            VoxelPos at = places[dice.below(places.size())];
            if (dice.chance(0.3))
                at.y = static_cast<std::int64_t>(dice.below(side));
            const auto kinds = m_blocks.kinds.size();
            const Material to = dice.chance(0.4) ? kOpen
                : dice.chance(0.5)               ? static_cast<Material>(kinds - 1 - dice.below(6))
                                                 : static_cast<Material>(1 + dice.below(kinds - 1));
            live.edit(at, to);
            plain.set(at, to);
            plain.flood();
            count(firstDifference(live, plain, trial),
                name + ", edit " + std::to_string(i) + " (" + m_blocks.kinds[to].name + " at " + told(at) + ")");
            if (m_spec.progress)
                m_spec.progress(static_cast<double>(m_edits) / static_cast<double>(m_spec.cases));
        }
    }

    const LightAuditSpec& m_spec;
    BlockSet m_blocks;
    const std::stop_token& m_stop;
    AuditRow m_row;
    std::uint64_t m_edits = 0, m_maxEdits = 0;
};

} // namespace

AuditRow auditLight(const LightAuditSpec& spec, const std::stop_token& stop)
{
    return LightAudit(spec, stop).run();
}

} // namespace fell::audit
