// SPDX-License-Identifier: Apache-2.0
// Light of whole chunks from the voxels around them: a function from values to values, so the order in which chunks
// came cannot matter.
#pragma once

#include <fell/light/bit_flood.h>
#include <fell/light/padded_light.h>
#include <fell/light/sky_height_map.h>

#include <cstdint>
#include <span>

namespace fell::light {

/// Memory that one thread floods whole chunks with. What it holds between two calls means nothing.
struct FloodScratch {
    BitFlood flood, byTint; // of a frame; of the lamps in it whose light comes to tinted voxels
    BitPlane sky;
};

/// A block of chunks as light sees it.
struct LightBlock {
    const LightRules* rules = nullptr;
    int edge = 0;
    std::array<int, 3> size{}; // chunks on x, y, z
    std::vector<const Transmission*> passes; // index (y * size z + z) * size x + x; null: not there, dark
    std::vector<const SkyHeightMap*> floors; // index z * size x + x; null: no sky
    std::int64_t y0 = 0; // of the lowest voxels
};

/// Part of a block, chunks; upper bound outside.
struct LightPart {
    std::array<int, 3> low{}, high{};
};

/// Light of the chunks of `part`, from all that lies within kLightRadius of them in the block.
///
/// Shape   out: one a chunk of the part, in the order of passes.
/// Limit   a part is at most 96 voxels wide in x and z.
/// Cost    for edge 32 in three colours and sky, 3 x 3 x 3 chunks at once: about 40 us a chunk where lamps stand close,
///         next to nothing for chunks wholly under the sky or in the rock.
void floodPart(const LightBlock& block, const LightPart& part, std::span<ChunkLight> out, FloodScratch& scratch);

/// The same for a part of any size, cut into such parts.
std::vector<ChunkLight> floodBlock(const LightBlock& block, const LightPart& part, FloodScratch& scratch);
/// Light of the middle one of 3 x 3 x 3 chunks and of the layer around it: what its mesh needs, and nothing from
/// farther away than these chunks. Cost: as a chunk of floodPart alone, about twice that among nine.
void floodPadded(const LightBlock& block, PaddedLight& out, FloodScratch& scratch);
/// The same without flooding: full sky light under the open sky, nothing elsewhere.
void skyOnly(const LightBlock& block, PaddedLight& out);
/// Light of all chunks of the block. Beyond the block it is dark, but for the sky above it.
std::vector<ChunkLight> floodBlock(const LightBlock& block, FloodScratch& scratch);

} // namespace fell::light
