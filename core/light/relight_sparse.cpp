// SPDX-License-Identifier: Apache-2.0
// The relighting of most edits: few voxels change, found one by one.
//
// Going down level by level: a voxel loses its level if it had it from one that has lost its own, and no other
// neighbour that keeps its own gives it the same; those above are settled by then. Then what was lost is lit again from
// the levels around it, brightest first. Both touch what changes and its neighbours, nothing else.
#include <fell/light/relight.h>

#include <algorithm>
#include <array>
#include <optional>

namespace fell::light {
namespace {

constexpr int kReach = kMaxLight; // voxels from the edited one, to each side and up
constexpr int kDown = 47; // and down: the sky may fall farther than a lamp shines
constexpr int kAcross = 2 * kReach + 1, kHigh = kReach + kDown + 1;
constexpr std::size_t kMaxVoxels = 256; // that are looked at more closely; a flooded region is faster then

/// Chunks of the smallest edge that the edited one's neighbourhood reaches into, on each side.
constexpr int chunksIn(int voxels)
{
    return (voxels + kChunkEdges.front() - 1) / kChunkEdges.front();
}
constexpr int kChunksAside = chunksIn(kReach), kChunksDown = chunksIn(kDown), kChunksAcross = 2 * kChunksAside + 1;
constexpr int kChunksHigh = kChunksDown + 1 + chunksIn(kReach);

/// Voxels from the edited one.
struct Offset {
    int x = 0, y = 0, z = 0;
    [[nodiscard]] std::size_t index() const
    {
        return static_cast<std::size_t>(((y + kDown) * kAcross + z + kReach) * kAcross + x + kReach);
    }
};

constexpr std::array<Offset, kSideCount> kSteps{{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}}};

Offset operator+(Offset a, Offset b)
{
    return {a.x + b.x, a.y + b.y, a.z + b.z};
}

} // namespace

struct SparseNotes::Parts {
    /// `round` says which entries are of this edit.
    struct Voxel {
        std::uint32_t round = 0;
        std::uint8_t level = 0; // now
        std::uint8_t attenuation = 0;
        bool isLost = false, isAsked = false;
    };
    std::uint32_t round = 0;
    std::vector<Voxel> voxels{std::size_t{kAcross} * kAcross * kHigh};
    std::array<std::vector<Offset>, kMaxLight + 1> waiting; // by level
    std::vector<Offset> changed;
};

SparseNotes::SparseNotes() = default;
SparseNotes::SparseNotes(SparseNotes&&) noexcept = default;
SparseNotes& SparseNotes::operator=(SparseNotes&&) noexcept = default;
SparseNotes::~SparseNotes() = default;

SparseNotes::Parts& SparseNotes::parts()
{
    if (!m_parts)
        m_parts = std::make_unique<Parts>();
    return *m_parts;
}

namespace {

using Notes = SparseNotes::Parts;

/// One channel's change.
class SparseRelight {
public:
    SparseRelight(LightStore& store, const VoxelEdit& edit, int channel, Notes& notes)
        : m_store(store)
        , m_edit(edit)
        , m_channel(channel)
        , m_isSky(store.rules().mode->isSky(channel))
        , m_colour(store.rules().colourOf(channel))
        , m_chunk(chunkOf(edit.at, store.edge()))
        , m_within(edit.at - originOf(m_chunk, store.edge()))
        , m_notes(notes)
    {
        if (++m_notes.round == 0) { // after 4 billion: old entries would look new
            m_notes.voxels.assign(m_notes.voxels.size(), {});
            m_notes.round = 1;
        }
        m_notes.changed.clear();
        for (auto& list : m_notes.waiting)
            list.clear();
    }

    /// False if too much changes: then nothing was written.
    bool change(bool onlyRaised)
    {
        std::vector<Offset> own{{}}; // voxels whose own emission or opacity changes
        if (m_isSky && m_edit.skyMovesBelow()) {
            const std::int64_t from = std::min(m_edit.sky.before, m_edit.sky.after);
            if (m_edit.at.y - from > kDown - kReach)
                return false;
            for (std::int64_t y = m_edit.at.y - 1; y >= from; --y)
                own.push_back({0, static_cast<int>(y - m_edit.at.y), 0});
        }
        if (!onlyRaised && !lose(own))
            return false;
        for (const Offset at : onlyRaised ? own : m_notes.changed)
            wait(at);
        if (!light())
            return false;
        write();
        return true;
    }

    [[nodiscard]] const std::vector<ChunkPos>& chunks() const { return m_written; }

private:
    struct Found {
        LitChunk* cell = nullptr;
        ChunkPos chunk;
        std::size_t row = 0, x = 0;
    };
    [[nodiscard]] Found find(Offset at)
    {
        const int edge = m_store.edge();
        int in[3]{static_cast<int>(m_within.x) + at.x, static_cast<int>(m_within.y) + at.y,
            static_cast<int>(m_within.z) + at.z};
        std::int64_t step[3]{};
        for (int a = 0; a < 3; ++a) {
            for (; in[a] < 0; in[a] += edge)
                --step[a];
            for (; in[a] >= edge; in[a] -= edge)
                ++step[a];
        }
        const ChunkPos chunk{m_chunk.x + step[0], m_chunk.y + step[1], m_chunk.z + step[2]};
        auto& known = m_cells[static_cast<std::size_t>(
            ((step[1] + kChunksDown) * kChunksAcross + step[2] + kChunksAside) * kChunksAcross + step[0]
            + kChunksAside)];
        if (!known)
            known = m_store.at(chunk);
        return {*known, chunk, static_cast<std::size_t>(in[1] * edge + in[2]), static_cast<std::size_t>(in[0])};
    }
    [[nodiscard]] VoxelPos placeOf(Offset at) const { return m_edit.at + VoxelPos{at.x, at.y, at.z}; }

    /// The level as it is now.
    Notes::Voxel& level(Offset at)
    {
        Notes::Voxel& voxel = m_notes.voxels[at.index()];
        if (voxel.round == m_notes.round)
            return voxel;
        voxel = {m_notes.round, 0, kMaxLight, false, false}; // what has no light values is not lit here
        const Found found = find(at);
        if (!found.cell)
            voxel.level = static_cast<std::uint8_t>(m_store.level(placeOf(at), m_channel));
        if (!found.cell || !found.cell->light())
            return voxel;
        const ChannelLevels& levels = found.cell->light()->of[static_cast<std::size_t>(m_channel)];
        voxel.level = levels.all;
        if (!levels.bits.empty()) {
            const auto edge = static_cast<std::size_t>(m_store.edge());
            std::size_t bit = found.row * 4 * edge + found.x;
            unsigned level = 0;
            for (unsigned k = 0; k < 4; ++k, bit += edge)
                level |= static_cast<unsigned>(levels.bits[bit / 64] >> (bit % 64) & 1) << k;
            voxel.level = static_cast<std::uint8_t>(level);
        }
        voxel.attenuation = static_cast<std::uint8_t>(
            takenAt(found.cell->passes(), found.row * static_cast<std::size_t>(m_store.edge()) + found.x, m_colour));
        return voxel;
    }
    int own(Offset at) { return m_store.emission(placeOf(at), m_channel); }

    /// Finds what loses its level, and puts it out.
    bool lose(const std::vector<Offset>& from)
    {
        auto& waiting = m_notes.waiting;
        for (const Offset at : from) {
            Notes::Voxel& voxel = level(at);
            voxel.isAsked = true;
            waiting[voxel.level].push_back(at);
        }
        for (int level = kMaxLight; level >= 0; --level)
            for (std::size_t i = 0; i < waiting[static_cast<std::size_t>(level)].size(); ++i) {
                const Offset at = waiting[static_cast<std::size_t>(level)][i];
                const bool isEdited = at.x == 0 && at.y == 0 && at.z == 0;
                if (!isEdited && isSupported(at, level))
                    continue;
                Notes::Voxel& voxel = m_notes.voxels[at.index()];
                voxel.isLost = true;
                m_notes.changed.push_back(at);
                if (m_notes.changed.size() > kMaxVoxels)
                    return false;
                for (const Offset step : kSteps) {
                    const Offset next = at + step;
                    Notes::Voxel& other = this->level(next);
                    if (other.isAsked || other.level == 0 || other.level != level - other.attenuation)
                        continue;
                    other.isAsked = true;
                    waiting[other.level].push_back(next);
                }
            }
        for (auto& list : waiting)
            list.clear();
        for (const Offset at : m_notes.changed)
            m_notes.voxels[at.index()].level = 0;
        return true;
    }
    bool isSupported(Offset at, int has)
    {
        const int needs = has + level(at).attenuation;
        for (const Offset step : kSteps) {
            const Notes::Voxel& from = level(at + step);
            if (!from.isLost && from.level >= needs)
                return true;
        }
        return own(at) >= has;
    }

    /// Computes a voxel's level from its own emission and from its neighbours, and lets it go on from there.
    void wait(Offset at)
    {
        int max = 0;
        for (const Offset step : kSteps)
            max = std::max(max, static_cast<int>(level(at + step).level));
        raise(at, std::max(own(at), max - level(at).attenuation));
    }
    void raise(Offset at, int to)
    {
        Notes::Voxel& voxel = level(at);
        if (to <= voxel.level)
            return;
        if (!voxel.isLost) {
            voxel.isLost = true; // noted as changed
            m_notes.changed.push_back(at);
        }
        voxel.level = static_cast<std::uint8_t>(to);
        m_notes.waiting[voxel.level].push_back(at);
    }
    bool light()
    {
        for (int level = kMaxLight; level > 0; --level) {
            auto& list = m_notes.waiting[static_cast<std::size_t>(level)];
            for (std::size_t i = 0; i < list.size(); ++i) {
                const Offset at = list[i];
                if (this->level(at).level != level)
                    continue; // brighter meanwhile
                for (const Offset step : kSteps) {
                    const Offset next = at + step;
                    const Notes::Voxel& other = this->level(next);
                    if (other.level + other.attenuation < level)
                        raise(next, level - other.attenuation);
                }
                if (m_notes.changed.size() > kMaxVoxels)
                    return false;
            }
        }
        return true;
    }

    void write()
    {
        for (const Offset at : m_notes.changed) {
            const Found found = find(at);
            if (!found.cell || !found.cell->light())
                continue;
            const std::size_t voxel = found.row * static_cast<std::size_t>(m_store.edge()) + found.x;
            const int now = level(at).level;
            if (found.cell->light()->at(m_channel, voxel) == now)
                continue;
            found.cell->lightToChange().set(m_channel, voxel, now);
            if (std::find(m_written.begin(), m_written.end(), found.chunk) == m_written.end())
                m_written.push_back(found.chunk);
        }
    }

    LightStore& m_store;
    const VoxelEdit& m_edit;
    int m_channel;
    bool m_isSky;
    LightColour m_colour;
    ChunkPos m_chunk;
    VoxelPos m_within;
    Notes& m_notes;
    // Chunks around the edited one that were asked for.
    std::array<std::optional<LitChunk*>, std::size_t{kChunksAcross} * kChunksAcross * kChunksHigh> m_cells;
    std::vector<ChunkPos> m_written;
};

} // namespace

bool relightSparse(
    LightStore& store, const VoxelEdit& edit, int channel, SparseNotes& notes, std::vector<ChunkPos>& changed)
{
    // A lamp lights more than it is worth to count.
    if (!store.rules().mode->isSky(channel)
        && (edit.was[static_cast<std::size_t>(channel)].emission > 0 || store.emission(edit.at, channel) > 0))
        return false;
    SparseRelight relight(store, edit, channel, notes.parts());
    if (!relight.change(isRaised(store, edit, channel)))
        return false;
    for (const ChunkPos chunk : relight.chunks())
        if (std::find(changed.begin(), changed.end(), chunk) == changed.end())
            changed.push_back(chunk);
    return true;
}

} // namespace fell::light
