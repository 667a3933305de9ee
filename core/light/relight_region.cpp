// SPDX-License-Identifier: Apache-2.0
#include <fell/light/relight.h>

#include <algorithm>
#include <bit>
#include <optional>
#include <utility>

namespace fell::light {
namespace {

/// The voxels inside that lie under the open sky.
void fillSky(LightStore& store, const EditRegion& round, const RestrictedFlood& flood, BitPlane& sky)
{
    const FloodRegion& region = round.region;
    sky.reset(region);
    for (int y = 0; y < region.y; ++y)
        for (int z = 0; z < region.z; ++z)
            for (std::uint64_t inside = flood.insideAt(y, z); inside != 0; inside &= inside - 1) {
                const int x = std::countr_zero(inside);
                if (store.isUnderSky(round.low + VoxelPos{x, y, z}))
                    sky.data()[region.at(y, z)] |= std::uint64_t{1} << x;
            }
}

} // namespace

/// Long: one flood a channel, between two passes over the same region.
void relightRegion(LightStore& store, const VoxelEdit& edit, std::span<const int> channels, RelightScratch& scratch,
    std::vector<ChunkPos>& changed)
{
    if (channels.empty())
        return;
    const EditRegion round(store, edit, channels, changed);
    RestrictedFlood flood(
        scratch.flood, scratch.restricted, round.region, round.near, round.sources, round.lamps, round.tinted);
    const bool coloured = flood.touchesTinted();
    FloodStart start;
    FloodBorder border, brighter; // of this channel, and of the last flood
    start.border = &border;
    std::vector<RegionLamp> inside;
    for (const RegionLamp& lamp : round.lamps)
        if ((flood.insideAt(lamp.y, lamp.z) >> lamp.x & 1) != 0)
            inside.push_back(lamp);
    // Where a channel's lamps and the levels around the region are the last flood's, dimmer, so is all that they give.
    int flooded = -1; // that channel; none yet
    std::optional<Flooded> found;
    int dimmed = 0; // levels by which what was found is dimmer than that flood
    const auto dimmer = [&](std::size_t c) -> std::optional<int> {
        std::optional<int> by;
        for (const RegionLamp& lamp : inside)
            if (const int from = store.rules().emission[static_cast<std::size_t>(flooded)][lamp.material],
                to = store.rules().emission[c][lamp.material];
                to > 0)
                by = from - to;
        by = by ? by : border.offsetFrom(brighter);
        const bool isEach = by && std::all_of(inside.begin(), inside.end(), [&](const RegionLamp& lamp) {
            return store.rules().emission[c][lamp.material]
                == std::max(0, store.rules().emission[static_cast<std::size_t>(flooded)][lamp.material] - *by);
        });
        return isEach && *by >= dimmed && border.isOffsetBy(*by, brighter) ? by : std::nullopt;
    };
    const auto write = [&](std::size_t c) {
        for (std::size_t i = 0; i < round.chunks.size(); ++i)
            if (round.chunks[i]->light())
                flood.storeInside(*found, round.chunks[i]->lightToChange().of[c], store.edge(), round.near[i].place);
    };
    for (const int channel : channels) {
        const auto c = static_cast<std::size_t>(channel);
        const LightColour colour = coloured ? store.rules().colourOf(channel) : LightColour::Plain;
        if (flood.colour() != colour) {
            flood.setColour(colour);
            flooded = -1;
        }
        border.clear();
        for (std::size_t i = 0; i < round.chunks.size(); ++i)
            if (const ChunkLight* light = round.chunks[i]->light())
                flood.readBorder(light->of[c], store.edge(), round.near[i].place, border);
        start.lamps.clear();
        const bool isSky = store.rules().mode->isSky(channel);
        start.sky = isSky ? &scratch.sky : nullptr;
        if (const auto by = flooded >= 0 && !isSky ? dimmer(c) : std::nullopt) {
            if (*by > dimmed)
                found->dim(*by - dimmed);
            dimmed = *by;
            write(c);
            continue;
        }
        if (isSky) {
            fillSky(store, round, flood, scratch.sky);
        } else {
            for (const RegionLamp& lamp : inside)
                if (const int level = store.rules().emission[c][lamp.material]; level > 0)
                    start.lamps.push_back({lamp.x, lamp.y, lamp.z, level});
        }
        found = flood.flood(start);
        flooded = isSky ? -1 : channel;
        dimmed = 0;
        std::swap(border, brighter);
        write(c);
    }
}

} // namespace fell::light
