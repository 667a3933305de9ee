// SPDX-License-Identifier: Apache-2.0
// The voxels around a part of the world that can light it: their sky, lamps and tints. Private to flood.cpp.
#pragma once

#include <fell/light/flood.h>

namespace fell::light {
namespace { // included by one source alone: what is local is inlined where it is called once

constexpr int kWidestPart = kWidestRegion - 2 * kLightRadius; // with its margins it fits a region
constexpr int kMargin = kLightRadius + 1;

/// The region around a part: its lowest voxel in the block, and its size.
struct Frame {
    std::array<int, 3> low{}, size{};
};

Frame frameOf(const LightBlock& block, const LightPart& part)
{
    Frame frame;
    for (std::size_t a = 0; a < 3; ++a) {
        const int low = std::max(0, part.low[a] * block.edge - kMargin);
        // Upward the region goes on beyond the block: there is the sky.
        const int end = a == 1 ? INT_MAX : block.size[a] * block.edge;
        const int high = std::min(end, part.high[a] * block.edge + kMargin);
        frame.low[a] = low;
        frame.size[a] = high - low;
    }
    return frame;
}

/// What lies in a frame, chunk by chunk: visit(passes, place of the chunk in the region).
template <typename Visit> void eachChunk(const LightBlock& block, const Frame& frame, const Visit& visit)
{
    const auto range = [&](std::size_t a) {
        return std::array<int, 2>{frame.low[a] / block.edge,
            std::min(block.size[a], (frame.low[a] + frame.size[a] - 1) / block.edge + 1) - 1};
    };
    const auto [x0, x1] = range(0);
    const auto [y0, y1] = range(1);
    const auto [z0, z1] = range(2);
    for (int y = y0; y <= y1; ++y)
        for (int z = z0; z <= z1; ++z)
            for (int x = x0; x <= x1; ++x) {
                const auto* passes
                    = block.passes[static_cast<std::size_t>((y * block.size[2] + z) * block.size[0] + x)];
                if (passes)
                    visit(*passes,
                        RegionPlace{x * block.edge - frame.low[0], y * block.edge - frame.low[1],
                            z * block.edge - frame.low[2]});
            }
}

/// Which of the region is under the open sky, as a whole or column by column.
struct SkyView {
    bool all = false, any = false;
};

SkyView viewSky(const LightBlock& block, const Frame& frame, BitPlane& bits)
{
    const std::int64_t low = block.y0 + frame.low[1], high = low + frame.size[1];
    const auto floorAt = [&](int x, int z) {
        return block.floors[static_cast<std::size_t>((z / block.edge) * block.size[0] + x / block.edge)];
    };
    SkyView view{true, false};
    for (int z = frame.low[2]; z < frame.low[2] + frame.size[2]; z = (z / block.edge + 1) * block.edge)
        for (int x = frame.low[0]; x < frame.low[0] + frame.size[0]; x = (x / block.edge + 1) * block.edge) {
            const SkyHeightMap* floor = floorAt(x, z);
            view.all &= floor && floor->highest <= low;
            view.any |= floor && floor->lowest < high;
        }
    if (view.all || !view.any)
        return view;
    const FloodRegion region = floodRegion(frame.size[0], frame.size[1], frame.size[2]);
    bits.reset(region);
    // Each column is one bit that begins at its floor; from layer to layer upward bits only come.
    for (int z = 0; z < frame.size[2]; ++z)
        for (int x = 0; x < frame.size[0]; ++x) {
            const int bx = frame.low[0] + x, bz = frame.low[2] + z;
            const SkyHeightMap* floor = floorAt(bx, bz);
            if (!floor)
                continue;
            const std::int64_t from
                = floor->from[static_cast<std::size_t>((bz % block.edge) * block.edge + bx % block.edge)];
            if (from < high) {
                const int y = static_cast<int>(std::max(from, low) - low);
                bits.data()[region.at(y, z) + x / 64] |= std::uint64_t{1} << (x % 64);
            }
        }
    for (int y = 1; y < frame.size[1]; ++y)
        for (std::ptrdiff_t i = region.at(y, 0); i < region.at(y, frame.size[2]); ++i)
            bits.data()[i] |= bits.data()[i - region.layer];
    return view;
}

/// A lamp in a frame; its place in voxels from the frame's lowest.
struct FrameLamp {
    int x = 0, y = 0, z = 0;
    Material material = kOpen;
    bool isByTint = false; // it may shine on a tinted voxel
};

std::vector<FrameLamp> lampsOf(const LightBlock& block, const Frame& frame)
{
    std::vector<FrameLamp> lamps;
    const int edge = block.edge;
    eachChunk(block, frame, [&](const Transmission& passes, RegionPlace place) {
        for (const LampVoxel& lamp : passes.lamps) {
            const int i = static_cast<int>(lamp.voxel);
            const FrameLamp at{place.x + i % edge, place.y + i / edge / edge, place.z + i / edge % edge, lamp.material};
            if (at.x >= 0 && at.y >= 0 && at.z >= 0 && at.x < frame.size[0] && at.y < frame.size[1]
                && at.z < frame.size[2])
                lamps.push_back(at);
        }
    });
    return lamps;
}

/// The lamps that give light in a channel.
void sourcesOf(
    std::span<const FrameLamp> lamps, const std::vector<std::uint8_t>& emission, std::vector<LightSource>& out)
{
    out.clear();
    for (const FrameLamp& lamp : lamps)
        if (emission[lamp.material] > 0)
            out.push_back({lamp.x, lamp.y, lamp.z, emission[lamp.material]});
}

std::vector<Material> kindsOf(std::span<const FrameLamp> lamps)
{
    std::vector<Material> kinds;
    for (const FrameLamp& lamp : lamps)
        if (std::find(kinds.begin(), kinds.end(), lamp.material) == kinds.end())
            kinds.push_back(lamp.material);
    return kinds;
}

/// A box in a frame, upper bound outside.
struct FrameBox {
    std::array<int, 3> low{}, high{};
};

/// The box of a chunk's tinted voxels.
FrameBox tintedBox(const RegionChunk& chunk)
{
    std::array<int, 3> low{INT_MAX, INT_MAX, INT_MAX}, high{};
    std::uint64_t columns = 0;
    withEdge(chunk.passes->edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z)
                if (const std::uint64_t row = rowOf<kEdge>(chunk.passes->tinted.data(), y, z)) {
                    columns |= row;
                    low = {0, std::min(low[1], y), std::min(low[2], z)};
                    high = {0, std::max(high[1], y + 1), std::max(high[2], z + 1)};
                }
    });
    if (columns == 0)
        return {};
    const RegionPlace& at = chunk.place;
    return {{at.x + std::countr_zero(columns), at.y + low[1], at.z + low[2]},
        {at.x + 64 - std::countl_zero(columns), at.y + high[1], at.z + high[2]}};
}

/// Is any tinted voxel of the chunk within the light's reach of a place in its frame, as if all were open?
bool isTintNear(const RegionChunk& chunk, const FrameBox& box, const FrameLamp& lamp)
{
    const auto beyond = [](int at, int low, int high) { return std::max({0, low - at, at - high + 1}); };
    if (beyond(lamp.x, box.low[0], box.high[0]) + beyond(lamp.y, box.low[1], box.high[1])
            + beyond(lamp.z, box.low[2], box.high[2])
        > kMaxLight)
        return false;
    return withEdge(chunk.passes->edge, [&](auto e) {
        constexpr int kEdge = decltype(e)::value;
        const int x = lamp.x - chunk.place.x;
        for (int y = box.low[1]; y < box.high[1]; ++y)
            for (int z = box.low[2]; z < box.high[2]; ++z) {
                const int left = kMaxLight - std::abs(y - lamp.y) - std::abs(z - lamp.z);
                if (left < 0)
                    continue;
                const int from = std::clamp(x - left, 0, kEdge), to = std::clamp(x + left + 1, 0, kEdge);
                const std::uint64_t row
                    = rowOf<kEdge>(chunk.passes->tinted.data(), y - chunk.place.y, z - chunk.place.z);
                if (from < to && (row >> from << (64 - (to - from))) != 0)
                    return true;
            }
        return false;
    });
}

/// Marks the lamps whose light may come to a tinted voxel, and puts them last. Returns how many are left before them.
std::size_t tintLast(std::vector<FrameLamp>& lamps, std::span<const RegionChunk> tinted)
{
    for (const RegionChunk& chunk : tinted) {
        const FrameBox box = tintedBox(chunk);
        for (FrameLamp& lamp : lamps)
            lamp.isByTint = lamp.isByTint || isTintNear(chunk, box, lamp);
    }
    const auto first
        = std::stable_partition(lamps.begin(), lamps.end(), [](const FrameLamp& lamp) { return !lamp.isByTint; });
    return static_cast<std::size_t>(first - lamps.begin());
}

/// By how much all these lamps are dimmer in one channel than in another, if they are by the same: then so is every
/// level that they give.
std::optional<int> dimmer(const std::vector<Material>& kinds, const LightRules& rules, int from, int to)
{
    std::optional<int> by;
    for (const Material kind : kinds) {
        const int here
            = rules.emission[static_cast<std::size_t>(from)][kind] - rules.emission[static_cast<std::size_t>(to)][kind];
        if (here < 0 || (by && *by != here))
            return std::nullopt;
        by = here;
    }
    return by;
}

/// Does no lamp give more of another colour than of the first?
bool isBrightest(const std::vector<Material>& kinds, const LightRules& rules)
{
    return std::all_of(kinds.begin(), kinds.end(), [&rules](Material kind) {
        for (int c = 1; c < rules.mode->lamps; ++c)
            if (rules.emission[static_cast<std::size_t>(c)][kind] > rules.emission[0][kind])
                return false;
        return true;
    });
}

} // namespace
} // namespace fell::light
