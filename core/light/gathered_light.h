// SPDX-License-Identifier: Apache-2.0
// The light of a chunk's neighbourhood, copied again and again while the chunk is edited: only changes are read.
#pragma once

#include <fell/light/padded_light.h>
#include <fell/voxels/neighbourhood.h>

namespace fell::light {

/// 3 x 3 x 3 chunks as light sees them, and their levels. Middle and neighbours in the order of Neighbourhood.
struct LightAround {
    SharedAround<Transmission> passes;
    SharedAround<ChunkLight> levels;
};

struct GatheredLight {
    PaddedLight light;
    SourceSnapshot<Transmission> passes;
    SourceSnapshot<ChunkLight> levels;
    std::array<int, kMaxLightChannels> unevenAt{}; // the layer that showed a channel to be uneven the last time
    std::array<bool, kMaxLightChannels> hasDigits{}; // of a channel that is even: they hold all the same

    /// Other code has written `light`: its contents differ from those chunks.
    void invalidate()
    {
        passes = {};
        levels = {};
        hasDigits.fill(false);
    }
};

/// As gatherLight; reads only chunks that are others than the last time. None may be null, and none is changed in
/// place.
/// Returns the box of the voxels whose levels differ since, or whether light enters them, from -1 to the edge; nothing
/// where all are new.
/// Cost: some 5 us where light has changed in the middle chunk, edge 32; a copy as of gatherLight for a channel that
/// was alike in all 27.
std::optional<ChunkBox> updatePaddedLight(
    const LightRules& rules, int edge, const LightAround& from, GatheredLight& to);

} // namespace fell::light
