// SPDX-License-Identifier: Apache-2.0
#include <fell/light/relight.h>

#include <algorithm>
#include <optional>

namespace fell::light {

void relightAdd(LightStore& store, const VoxelEdit& edit, std::span<const int> channels, RelightScratch& scratch,
    std::vector<ChunkPos>& changed)
{
    if (channels.empty())
        return;
    const EditRegion round(store, edit, channels, changed);
    std::optional<RegionFlood> flood;
    std::optional<Flooded> found; // what is held
    int held = 0; // level at the voxel of the flood that is held
    FloodStart start;
    const auto floodIn = [&](LightColour colour, int level) {
        if (flood)
            flood->setColour(colour);
        else
            flood.emplace(scratch.flood, round.region, round.near, colour);
        start.lamps = round.sources;
        start.lamps.front().level = level;
        if (level == 0)
            start.lamps.erase(start.lamps.begin());
        found = flood->flood(start);
        held = level;
    };
    const auto levelAfter = [&](int channel) {
        return std::max(store.emission(edit.at, channel), store.fromNeighbours(edit.at, channel));
    };
    // Plain takes least: where the brightest channel comes to no tinted voxel in it, no channel does in its colour.
    bool coloured = false;
    if (!round.tinted.empty() && store.rules().colourOf(channels.front()) != LightColour::Plain) {
        int brightest = 0;
        for (const int channel : channels)
            brightest = std::max(brightest, levelAfter(channel));
        floodIn(LightColour::Plain, brightest);
        coloured = found->touches(round.tinted);
    }
    for (const int channel : channels) {
        const auto c = static_cast<std::size_t>(channel);
        const LightColour colour = coloured ? store.rules().colourOf(channel) : LightColour::Plain;
        const int after = levelAfter(channel);
        const bool sameWay = found && flood->colour() == colour;
        if (sameWay && after < held && !store.rules().mode->isSky(channel)) { // the same light, dimmer
            found->dim(held - after);
            held = after;
        } else if (!sameWay || after != held) {
            floodIn(colour, after);
        }
        for (std::size_t i = 0; i < round.chunks.size(); ++i)
            found->raiseTo(round.chunks[i]->lightToChange().of[c], store.edge(), round.near[i].place);
    }
}

} // namespace fell::light
