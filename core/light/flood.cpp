// SPDX-License-Identifier: Apache-2.0
#include <fell/light/flood.h>

#include <fell/light/flood_frame.h>

#include <algorithm>
#include <bit>
#include <cassert>
#include <climits>
#include <cstdlib>
#include <optional>

namespace fell::light {
namespace {

/// Floods what lies in a frame, channel by channel. `Out` takes the levels: those of a flood, or that a
/// channel is alike everywhere, or like another one.
template <typename Out> class FrameFlood {
public:
    FrameFlood(const LightBlock& block, const Frame& frame, FloodScratch& scratch, Out& out)
        : m_block(block)
        , m_frame(frame)
        , m_scratch(scratch)
        , m_out(out)
    {
        m_sky = mode().sky > 0 ? viewSky(block, frame, scratch.sky) : SkyView{};
        eachChunk(block, frame, [&](const Transmission& passes, RegionPlace place) {
            m_chunks.push_back({&passes, place});
            if (!passes.tinted.empty())
                m_tinted.push_back({&passes, place});
            m_asPlain &= passes.asPlain;
        });
    }

    void lamps()
    {
        std::vector<FrameLamp> all = mode().lamps > 0 ? lampsOf(m_block, m_frame) : std::vector<FrameLamp>{};
        if constexpr (Out::kRaises) {
            const std::size_t plain = mode().lamps > 1 ? tintLast(all, m_tinted) : all.size();
            const auto lamps = std::span<const FrameLamp>(all);
            floodLamps(lamps.first(plain), false);
            if (plain < all.size())
                raiseByTint(lamps.subspan(plain));
        } else {
            floodLamps(all, true);
        }
    }

    void sky()
    {
        const int first = mode().lamps, end = mode().channels();
        if (m_sky.all || !m_sky.any) {
            for (int c = first; c < end; ++c)
                m_out.all(c, m_sky.all ? kMaxLight : 0);
            return;
        }
        m_start.lamps.clear();
        m_start.sky = &m_scratch.sky;
        const Flooded plainSky = floodIn(LightColour::Plain);
        const bool coloured = mode().sky > 1 && plainSky.touches(m_tinted);
        std::optional<int> plain; // the first channel that this flood is of
        for (int c = first; c < end; ++c) {
            if (coloured && !passesAsPlain(c))
                continue;
            if (plain)
                m_out.same(c, *plain);
            else
                m_out.found(c, plainSky);
            plain = plain.value_or(c);
        }
        for (int c = first; c < end && coloured; ++c)
            if (!passesAsPlain(c))
                m_out.found(c, floodIn(m_block.rules->colourOf(c)));
    }

private:
    [[nodiscard]] const LightMode& mode() const { return *m_block.rules->mode; }
    [[nodiscard]] bool passesAsPlain(int channel) const
    {
        return m_asPlain >> static_cast<unsigned>(m_block.rules->colourOf(channel)) & 1;
    }
    Flooded floodIn(LightColour colour)
    {
        if (m_flood)
            m_flood->setColour(colour);
        else
            m_flood.emplace(m_scratch.flood, floodRegion(m_frame.size[0], m_frame.size[1], m_frame.size[2]),
                std::span<const RegionChunk>(m_chunks), colour);
        return m_flood->flood(m_start);
    }
    /// All levels of lamps, from these alone. `mayBeTinted`: they may shine on tinted voxels.
    void floodLamps(std::span<const FrameLamp> lamps, bool mayBeTinted)
    {
        const LightRules& rules = *m_block.rules;
        const std::vector<Material> kinds = kindsOf(lamps);
        if (kinds.empty()) {
            for (int c = 0; c < mode().lamps; ++c)
                m_out.all(c, 0);
            return;
        }
        const auto flood = [&](int c, LightColour colour) {
            sourcesOf(lamps, rules.emission[static_cast<std::size_t>(c)], m_start.lamps);
            return floodIn(colour);
        };
        // Plain takes least. Where even that comes to no tinted voxel, colours do not matter.
        Flooded first = flood(0, LightColour::Plain);
        const bool coloured = mayBeTinted && mode().lamps > 1
            && (isBrightest(kinds, rules) ? first.touches(m_tinted) : !m_tinted.empty());
        // What passes as plain light does is the same flood, dimmer; then come those that need a separate one.
        int dimmed = 0; // levels by which the flood is dimmer than that of channel 0
        std::vector<int> others;
        for (int c = 0; c < mode().lamps; ++c) {
            const auto by = passesAsPlain(c) || !coloured ? dimmer(kinds, rules, 0, c) : std::nullopt;
            if (!by || *by < dimmed) {
                others.push_back(c);
                continue;
            }
            if (*by > dimmed)
                first.dim(*by - dimmed);
            dimmed = *by;
            m_out.found(c, first);
        }
        for (const int c : others)
            m_out.found(c, flood(c, coloured ? rules.colourOf(c) : LightColour::Plain));
    }

    /// Adds the light of lamps by tinted voxels, each colour flooded separately in a region around them.
    void raiseByTint(std::span<const FrameLamp> lamps)
    {
        Frame frame = m_frame;
        const FrameLamp& first = lamps.front();
        std::array<int, 3> low{first.x, first.y, first.z}, high = low;
        for (const FrameLamp& lamp : lamps) {
            const std::array<int, 3> at{lamp.x, lamp.y, lamp.z};
            for (std::size_t a = 0; a < 3; ++a) {
                low[a] = std::min(low[a], at[a]);
                high[a] = std::max(high[a], at[a]);
            }
        }
        for (std::size_t a = 0; a < 3; ++a) {
            low[a] = std::max(0, low[a] - kLightRadius);
            high[a] = std::min(m_frame.size[a], high[a] + kLightRadius + 1);
            frame.low[a] += low[a];
            frame.size[a] = high[a] - low[a];
        }
        std::vector<RegionChunk> chunks;
        eachChunk(m_block, frame, [&](const Transmission& passes, RegionPlace place) {
            chunks.push_back({&passes, place});
        });
        const auto colourOf
            = [this](int c) { return passesAsPlain(c) ? LightColour::Plain : m_block.rules->colourOf(c); };
        RegionFlood flood(
            m_scratch.byTint, floodRegion(frame.size[0], frame.size[1], frame.size[2]), chunks, colourOf(0));
        FloodStart start;
        for (int c = 0; c < mode().lamps; ++c) {
            flood.setColour(colourOf(c));
            sourcesOf(lamps, m_block.rules->emission[static_cast<std::size_t>(c)], start.lamps);
            for (LightSource& source : start.lamps) {
                source.x -= low[0];
                source.y -= low[1];
                source.z -= low[2];
            }
            m_out.raise(c, flood.flood(start), {low[0], low[1], low[2]});
        }
    }

    const LightBlock& m_block;
    const Frame& m_frame;
    FloodScratch& m_scratch;
    Out& m_out;
    SkyView m_sky;
    std::vector<RegionChunk> m_chunks, m_tinted;
    std::uint8_t m_asPlain = 0xF; // as in Transmission, for all of the frame
    std::optional<RegionFlood> m_flood; // once one is needed
    FloodStart m_start;
};

/// Levels of whole chunks.
class PartOut {
public:
    PartOut(const LightBlock& block, const LightPart& part, const Frame& frame, std::span<ChunkLight> out)
        : m_edge(block.edge)
        , m_channels(block.rules->mode->channels())
        , m_out(out)
    {
        for (int y = part.low[1]; y < part.high[1]; ++y)
            for (int z = part.low[2]; z < part.high[2]; ++z)
                for (int x = part.low[0]; x < part.high[0]; ++x)
                    m_places.push_back(
                        {x * block.edge - frame.low[0], y * block.edge - frame.low[1], z * block.edge - frame.low[2]});
        for (ChunkLight& light : out) {
            light = {};
            light.edge = m_edge;
            light.channels = m_channels;
        }
    }
    void found(int c, const Flooded& flooded)
    {
        for (std::size_t i = 0; i < m_out.size(); ++i) {
            ChannelLevels& levels = at(i, c);
            flooded.copyOut(levels, m_edge, m_places[i]);
            collapseIfUniform(levels, m_edge);
        }
    }
    static constexpr bool kRaises = true;
    /// Levels of a flood in another region where they are higher; that begins `from` in this one's.
    void raise(int c, const Flooded& flooded, RegionPlace from)
    {
        for (std::size_t i = 0; i < m_out.size(); ++i) {
            const RegionPlace& place = m_places[i];
            if (flooded.raiseTo(at(i, c), m_edge, {place.x - from.x, place.y - from.y, place.z - from.z}))
                collapseIfUniform(at(i, c), m_edge);
        }
    }
    void all(int c, int level)
    {
        for (std::size_t i = 0; i < m_out.size(); ++i)
            at(i, c).all = static_cast<std::uint8_t>(level);
    }
    void same(int c, int as)
    {
        for (std::size_t i = 0; i < m_out.size(); ++i)
            at(i, c) = at(i, as);
    }

private:
    [[nodiscard]] ChannelLevels& at(std::size_t i, int c) { return m_out[i].of[static_cast<std::size_t>(c)]; }
    int m_edge, m_channels;
    std::span<ChunkLight> m_out;
    std::vector<RegionPlace> m_places;
};

/// Levels of one chunk and the layer around it.
class PaddedOut {
public:
    PaddedOut(const LightBlock& block, PaddedLight& out)
        : m_out(out)
    {
        out.begin(block.edge, block.rules->mode->channels());
        copyPassable(block, out);
    }
    static constexpr bool kRaises = false; // one chunk: a flood a colour is as fast
    void found(int c, const Flooded& flooded)
    {
        flooded.copyBox(kMargin - 1, m_out.edge + 2, m_out.of[static_cast<std::size_t>(c)].digits);
        m_out.collapseIfUniform(c);
    }
    void all(int c, int level) { m_out.of[static_cast<std::size_t>(c)].all = level; }
    void same(int c, int as) { m_out.of[static_cast<std::size_t>(c)] = m_out.of[static_cast<std::size_t>(as)]; }

private:
    PaddedLight& m_out;
};

template <typename Out> void floodFrame(const LightBlock& block, const Frame& frame, FloodScratch& scratch, Out& out)
{
    FrameFlood<Out> flood(block, frame, scratch, out);
    flood.lamps();
    flood.sky();
}

} // namespace

void floodPart(const LightBlock& block, const LightPart& part, std::span<ChunkLight> out, FloodScratch& scratch)
{
    assert((part.high[0] - part.low[0]) * block.edge <= kWidestPart
        && (part.high[2] - part.low[2]) * block.edge <= kWidestPart);
    const Frame frame = frameOf(block, part);
    PartOut to(block, part, frame, out);
    floodFrame(block, frame, scratch, to);
}

void floodPadded(const LightBlock& block, PaddedLight& out, FloodScratch& scratch)
{
    assert(block.size == (std::array<int, 3>{3, 3, 3}));
    const int edge = block.edge, low = edge - kMargin, size = edge + 2 * kMargin;
    PaddedOut to(block, out);
    floodFrame(block, Frame{{low, low, low}, {size, size, size}}, scratch, to);
}

void skyOnly(const LightBlock& block, PaddedLight& out)
{
    assert(block.size == (std::array<int, 3>{3, 3, 3}));
    const int edge = block.edge;
    const LightMode& mode = *block.rules->mode;
    out.begin(edge, mode.channels());
    copyPassable(block, out);
    if (mode.sky == 0)
        return;
    PaddedLight::Channel& sky = out.of[static_cast<std::size_t>(mode.lamps)];
    sky.digits.assign(out.passable.size() * 4, 0);
    for (int z = -1; z <= edge; ++z)
        for (int x = -1; x <= edge; ++x) {
            const int bx = edge + x, bz = edge + z;
            const SkyHeightMap& floor = *block.floors[static_cast<std::size_t>(bz / edge * 3 + bx / edge)];
            // Clamped before it is subtracted: a column without sky begins at the greatest number there is.
            const std::int64_t low = block.y0 + edge,
                               from = std::clamp(floor.from[static_cast<std::size_t>(bz % edge * edge + bx % edge)],
                                   low - 1, low + edge + 1);
            const auto bit = static_cast<std::size_t>(x + 1);
            for (auto y = static_cast<int>(from - low); y <= edge; ++y)
                for (std::size_t k = 0; k < 4; ++k)
                    sky.digits[(out.row(y, z) * 4 + k) * out.words + bit / 64] |= std::uint64_t{1} << (bit % 64);
        }
    out.collapseIfUniform(mode.lamps);
    for (int c = mode.lamps + 1; c < mode.channels(); ++c)
        out.of[static_cast<std::size_t>(c)] = sky;
}

std::vector<ChunkLight> floodBlock(const LightBlock& block, const LightPart& part, FloodScratch& scratch)
{
    const auto cut = [&](std::size_t axis) { // as even as can be
        const int max = std::max(1, kWidestPart / block.edge), chunks = part.high[axis] - part.low[axis];
        const int count = (chunks + max - 1) / max;
        std::vector<std::array<int, 2>> pieces;
        for (int i = 0; i < count; ++i)
            pieces.push_back({part.low[axis] + chunks * i / count, part.low[axis] + chunks * (i + 1) / count});
        return pieces;
    };
    const std::array<int, 3> size{part.high[0] - part.low[0], part.high[1] - part.low[1], part.high[2] - part.low[2]};
    std::vector<ChunkLight> out(static_cast<std::size_t>(size[0]) * static_cast<std::size_t>(size[1] * size[2]));
    std::vector<ChunkLight> some;
    for (const auto& y : cut(1))
        for (const auto& z : cut(2))
            for (const auto& x : cut(0)) {
                some.resize(static_cast<std::size_t>((x[1] - x[0]) * (y[1] - y[0]) * (z[1] - z[0])));
                floodPart(block, {{x[0], y[0], z[0]}, {x[1], y[1], z[1]}}, some, scratch);
                std::size_t i = 0;
                for (int cy = y[0]; cy < y[1]; ++cy)
                    for (int cz = z[0]; cz < z[1]; ++cz)
                        for (int cx = x[0]; cx < x[1]; ++cx)
                            out[static_cast<std::size_t>(
                                ((cy - part.low[1]) * size[2] + cz - part.low[2]) * size[0] + cx - part.low[0])]
                                = std::move(some[i++]);
            }
    return out;
}

std::vector<ChunkLight> floodBlock(const LightBlock& block, FloodScratch& scratch)
{
    return floodBlock(block, {{0, 0, 0}, block.size}, scratch);
}

} // namespace fell::light
