// SPDX-License-Identifier: Apache-2.0
// Larches: a cone of needles around a trunk. Single blocks stand the same way, as a tip without a trunk.
#pragma once

#include <fell/terrain/feature.h>

namespace fell::terrain {

/// One tree, whole. Voxels.
struct Tree {
    VoxelPos foot; // the lowest voxel of its trunk
    int height = 0; // voxels of trunk and tip
    int reach = 0; // the widest radius of the crown
    Material trunk = kOpen, needles = kOpen;
    bool operator==(const Tree&) const = default;
};

class PlacedTree final : public PlacedFeature {
public:
    explicit PlacedTree(const Tree& tree);
    /// Needles fill open air only and a trunk replaces needles, so that the order of trees does not matter.
    void stamp(const Terrain& terrain, VoxelPos origin, int edge, std::span<Material> voxels) const override;
    Tree tree;
};

/// At most one thing in each cell of a site's grid, on the grid of level 0 on every level: so it keeps its place.
class StandingFeature : public Feature {
public:
    explicit StandingFeature(FeatureSite site)
        : m_site(std::move(site))
    {
    }
    [[nodiscard]] Phase phase() const override { return Phase::Stand; }
    void place(const Terrain& terrain, const PlacingSquare& square, PlacedFeatures& out) const override;

protected:
    /// The larch whose foot is there.
    [[nodiscard]] virtual Tree at(const Terrain& terrain, VoxelPos foot, std::uint64_t dice) const = 0;
    FeatureSite m_site;
};

} // namespace fell::terrain
