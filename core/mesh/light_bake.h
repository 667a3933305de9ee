// SPDX-License-Identifier: Apache-2.0
// Light into the mesh: a level at each corner of a quad, and quads cut to where the levels run evenly.
#pragma once

#include "light/padded_light.h"
#include "mesh/quad.h"

namespace fell {

/// Levels of all channels in 24 bits: channel c is bits 4c to 4c + 3.
using PackedLight = std::uint32_t;

/// Light at a quad's corners, numbered as in cornerDarkness.
struct QuadLight {
    std::array<PackedLight, 4> corners{};
    bool operator==(const QuadLight&) const = default;
};

/// A lit mesh's quads: light beside each.
struct LitQuads {
    QuadList quads;
    std::vector<QuadLight> lights;
    void clear()
    {
        quads.clear();
        lights.clear();
    }
};

struct LightSample {
    const char* id;
    const char* title;
    const char* note;
};
/// How sides read light: "corners" or "flat".
std::span<const LightSample> lightSamples();

/// How sides are lit.
struct SideLight {
    bool flat = false; // a level a side
    bool inside = false; // by the side's own voxel: glass shows the light that comes from either way
};

/// The level at one corner of a side of one voxel, voxel by voxel: the plain way, for tests and audits.
///
/// The side looks into the voxel beyond it. A corner has the mean of the voxels in that layer which touch it, rounded,
/// half a level up. Voxels that light does not enter are left out, and so is the one across where both beside it are
/// such: light does not come through the crack. The voxel beyond itself always counts.
/// Flat: the level of the voxel beyond. Inside: the same of the layer that the side's own voxel lies in.
int cornerLight(
    const PaddedLight& light, int channel, const std::array<int, 3>& voxel, Side side, int corner, SideLight how);

/// Appends to `out` the same surface as `quads`, cut so that over each quad every channel is a plane through its
/// corners' levels: then it looks as if each voxel's side had been lit by itself, wherever the diagonal runs. A side
/// of one voxel may be any. Rectangles grow along their width first.
///
/// Cost  where light is even, a copy; else the rows of levels that are needed are spelt out once, 60 ns each, and a
///       side takes about 10 ns.
void bakeLight(std::span<const Quad> quads, const PaddedLight& light, SideLight how, LitQuads& out);

/// The light of a shaped block: of its voxel, or the highest beside it where light does not enter.
PackedLight lightOfShape(const PaddedLight& light, int x, int y, int z);

/// How bright a corner counts when the diagonal is chosen; only their order matters.
constexpr int cornerBrightness(PackedLight light, int darkness)
{
    const PackedLight pairs = (light & 0x0F0F0F) + (light >> 4 & 0x0F0F0F);
    return static_cast<int>((pairs * 0x010101 >> 16 & 0xFF) + 1) * (6 - darkness);
}

/// As above, for a quad that is lit: the diagonal joins the brighter pair.
constexpr bool diagonalFromSecond(std::uint8_t shade, const QuadLight& light)
{
    const auto bright
        = [&](int c) { return cornerBrightness(light.corners[static_cast<std::size_t>(c)], cornerDarkness(shade, c)); };
    return bright(0) + bright(2) < bright(1) + bright(3);
}

} // namespace fell
