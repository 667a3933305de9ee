// SPDX-License-Identifier: Apache-2.0
// Light into the mesh: a level at each corner of a quad, and quads cut to where the levels run evenly; or whole quads,
// and the levels of every voxel's side in a list next to the mesh.
#pragma once

#include <fell/light/padded_light.h>
#include <fell/mesh/quad.h>

namespace fell::mesh {

/// Levels of all channels in 24 bits: channel c is bits 4c to 4c + 3.
using PackedLight = std::uint32_t;

/// Light at a quad's corners, numbered as in cornerDarkness.
struct QuadLight {
    std::array<PackedLight, 4> corners{};
    bool operator==(const QuadLight&) const = default;
};

/// A lit mesh's quads: light next to each.
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
/// How sides read light: "cells", "corners" or "flat".
std::span<const LightSample> lightSamples();

/// The light of quads over which it runs, for the fragments to read: cut quads cost a picture more than that.
///
/// Layout  cells of `wordsACell` words. A quad has a head, whose first word is the low word of its record (where it
///         begins, its size), then a cell for each of its voxels, rows along the width first. A cell has the levels
///         at its four corners, (0, 0), (1, 0), (0, 1), (1, 1) along width and height: of up to four channels 16 bits
///         each, two a word, low bits first; else 24 bits, one a word.
struct LightCells {
    std::vector<std::uint32_t> words;
    std::size_t wordsACell = 2; // 2 or 4
    [[nodiscard]] static std::size_t wordsFor(int channels) { return channels > 4 ? 4 : 2; }
    [[nodiscard]] PackedLight at(
        std::uint32_t cell, int corner) const; // of a cell from the list's begin; 0 to 3 as above
    void begin(int channels)
    {
        words.clear();
        wordsACell = wordsFor(channels);
    }
};
/// In place of the levels at a quad's corners: its head's number in the list of cells.
constexpr PackedLight kInCells = 1u << 24;

/// How sides are lit.
struct SideLight {
    bool flat = false; // a level a side
    bool inside = false; // by the side's own voxel: glass shows the light that comes from either way
};

/// The level at one corner of a side of one voxel, voxel by voxel: the plain way, for tests and audits.
///
/// The side looks into the voxel beyond it. A corner has the mean of the voxels in that layer which touch it, rounded,
/// half a level up. Voxels that light does not enter are left out, and so is the one across where both next to it are
/// such: light does not come through the crack. The voxel beyond itself always counts.
/// Flat: the level of the voxel beyond. Inside: the same of the layer that the side's own voxel lies in.
int cornerLight(
    const PaddedLight& light, int channel, const std::array<int, 3>& voxel, Side side, int corner, SideLight how);

/// Appends to `out` the same surface as `quads`, cut so that over each quad every channel is a plane through its
/// corners' levels: then it looks as if each voxel's face had been lit alone, wherever the diagonal runs. A side
/// of one voxel may be any. Rectangles grow along their width first.
///
/// With `cells` no quad is cut: one over which light runs keeps its place, appends its cells and has kInCells and the
/// number of its head in place of each corner's levels.
///
/// Cost  where light is even, a copy; else the rows of levels that are needed are spelt out once, 60 ns each, and a
///       side takes about 10 ns.
void bakeLight(
    std::span<const Quad> quads, const PaddedLight& light, SideLight how, LitQuads& out, LightCells* cells = nullptr);

/// The same for a chunk's quads a few at a time. One a thread at once: they share the memory that rows are spelt in.
class LightBaker {
public:
    explicit LightBaker(const PaddedLight& light);
    void bake(std::span<const Quad> quads, SideLight how, LitQuads& out, LightCells* cells = nullptr);

private:
    const PaddedLight& m_light;
    bool m_isEven;
};

/// The light of a shaped block: of its voxel, or the highest next to it where light does not enter.
PackedLight lightOfShape(const PaddedLight& light, int x, int y, int z);

/// How bright a corner counts when the diagonal is chosen; only their order matters.
constexpr int cornerBrightness(PackedLight light, int darkness)
{
    const PackedLight pairs = (light & 0x0F0F0F) + (light >> 4 & 0x0F0F0F);
    return static_cast<int>((pairs * 0x010101 >> 16 & 0xFF) + 1) * (6 - darkness);
}

/// As above, for a quad that is lit: the diagonal joins the brighter pair.
constexpr bool flipDiagonal(std::uint8_t ambientOcclusion, const QuadLight& light)
{
    const auto bright = [&](int c) {
        return cornerBrightness(light.corners[static_cast<std::size_t>(c)], cornerDarkness(ambientOcclusion, c));
    };
    return bright(0) + bright(2) < bright(1) + bright(3);
}

} // namespace fell::mesh
