// SPDX-License-Identifier: Apache-2.0
#include <fell/light/light_path.h>
#include <fell/light/relight.h>

#include <algorithm>

namespace fell::light {

bool isRaised(LightStore& store, const VoxelEdit& edit, int channel)
{
    const VoxelEdit::Before& was = edit.was[static_cast<std::size_t>(channel)];
    return store.attenuation(edit.at, channel) <= was.attenuation && store.emission(edit.at, channel) >= was.emission
        && (!store.rules().mode->isSky(channel) || edit.sky.after <= edit.sky.before);
}

bool relightLocal(LightStore& store, const VoxelEdit& edit, int channel)
{
    if (store.rules().mode->isSky(channel) && edit.skyMovesBelow())
        return false;
    const int before = edit.was[static_cast<std::size_t>(channel)].level;
    const int after = std::max(store.emission(edit.at, channel), store.fromNeighbours(edit.at, channel));
    for (const Side side : kSides) {
        const VoxelPos at = neighbour(edit.at, side);
        const int has = store.level(at, channel), attenuation = store.attenuation(at, channel);
        if (after - attenuation > has)
            return false; // brighter than it was
        if (after >= before || has == 0 || has != before - attenuation || store.emission(at, channel) >= has)
            continue;
        // It may have its light from the edited voxel alone.
        const auto supports = [&](Side other) {
            const VoxelPos from = neighbour(at, other);
            return from != edit.at && store.level(from, channel) - attenuation >= has;
        };
        if (std::none_of(kSides.begin(), kSides.end(), supports))
            return false;
    }
    if (after != before) {
        const LightStore::Place place = store.placeOf(edit.at);
        store.at(place.chunk)->lightToChange().set(channel, place.voxel, after);
    }
    return true;
}

} // namespace fell::light
