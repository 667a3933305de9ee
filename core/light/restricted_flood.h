// SPDX-License-Identifier: Apache-2.0
// Floods a part of a region again: the voxels whose light may come from a few that have changed.
#pragma once

#include <fell/light/bit_flood.h>

#include <vector>

namespace fell::light {

/// A lamp in the region.
struct RegionLamp {
    int x = 0, y = 0, z = 0;
    Material material = kOpen;
};

/// Planes that a RestrictedFlood works with, used again and again.
struct RestrictedMemory {
    std::vector<std::uint64_t> inside, edge;
};

/// Light only passes where it can come from the given voxels at the given levels: what lies beyond cannot change if
/// only they do. It comes in from the levels next to those (readBorder), and only those are written (storeInside).
class RestrictedFlood {
public:
    /// Floods from the changed voxels in plain light, which is taken least, to find what lies inside.
    /// `lamps` are all that stand in the region, solid ones too; `tinted`: the chunks that have any tinted voxel.
    /// Errors  asserts that the region is narrower than 64 voxels. All but `changed` must outlive it.
    RestrictedFlood(BitFlood& flood, RestrictedMemory& memory, const FloodRegion& region,
        std::span<const RegionChunk> chunks, std::vector<LightSource> changed, std::span<const RegionLamp> lamps,
        std::span<const RegionChunk> tinted);

    /// Does light from the changed voxels come to a tinted one, or next to one?
    [[nodiscard]] bool touchesTinted() const { return m_touchesTinted; }
    /// Which voxels of row (y, z) are inside.
    [[nodiscard]] std::uint64_t insideAt(int y, int z) const
    {
        return m_memory.inside[static_cast<std::size_t>(m_flood.m_region.at(y, z))];
    }
    void setColour(LightColour colour);
    [[nodiscard]] LightColour colour() const { return m_colour; }

    /// Adds the chunk's levels next to the voxels that are inside. All chunks are read in the same order each time.
    void readBorder(const ChannelLevels& levels, int edge, RegionPlace place, FloodBorder& border) const;
    Flooded flood(FloodStart& start) { return m_flood.flood(start); }
    /// The levels that a flood found inside, written over the chunk's.
    void storeInside(const Flooded& found, ChannelLevels& levels, int edge, RegionPlace place) const;

private:
    void restrict();

    BitFlood& m_flood;
    RestrictedMemory& m_memory;
    std::span<const RegionChunk> m_chunks;
    LightColour m_colour = LightColour::Plain;
    bool m_touchesTinted = false;
};

} // namespace fell::light
