// SPDX-License-Identifier: Apache-2.0
// Adits: level galleries that are driven into a hillside, with lamps, props and rails that come out onto a platform.
#pragma once

#include <fell/terrain/feature.h>

#include <vector>

namespace fell::terrain {

/// One part of an adit. Voxels; the upper corner lies outside.
struct AditBox {
    enum class How : std::uint8_t { Fill, Hollow, Put } how = How::Hollow; // open air only; all of it; all of it
    VoxelPos low, high;
    Material material = kOpen;
    bool operator==(const AditBox&) const = default;
};

/// One adit, whole: its parts in the order in which they are put, and the box around all of them.
struct Adit {
    std::vector<AditBox> boxes;
    VoxelPos low, high;
    bool operator==(const Adit&) const = default;
};

class PlacedAdit final : public PlacedFeature {
public:
    explicit PlacedAdit(Adit of);
    void stamp(const Terrain& terrain, VoxelPos origin, int edge, std::span<Material> voxels) const override;
    Adit adit;
};

/// Those of all cells that touch the columns [x0, x0 + size) x [z0, z0 + size), in the order of rules and cells.
/// Cost    nothing for most cells; else some 100 heights of the ground the first time, 0.1 to 0.3 ms in Corrowdale.
PlacedFeatures aditsNear(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int size);

} // namespace fell::terrain
