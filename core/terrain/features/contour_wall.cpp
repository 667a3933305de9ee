// SPDX-License-Identifier: Apache-2.0
// Walls along contour lines.
#include <fell/terrain/columns.h>
#include <fell/terrain/feature.h>

#include <algorithm>
#include <cmath>

namespace fell::terrain {
namespace {

/// Where the ground has come up to a multiple of the spacing and a neighbour has not, one at a corner too: so the wall
/// is one column wide and goes on side by side. In stretches that stand, or have fallen.
class ContourWall final : public Feature {
public:
    ContourWall(const FeatureRule& rule, const FeatureSite& site, const RecipeUnits& units)
        : m_site(site)
        , m_material(rule.own.block("material"))
        , m_metres(rule.own.number("height"))
        , m_every(static_cast<float>(units.voxels(rule.spacing)))
        , m_cell(std::max(1, units.whole(16)))
    {
    }
    [[nodiscard]] Phase phase() const override { return Phase::Wall; }

    void changeColumn(
        const Terrain& terrain, const Rise& rise, std::int64_t x, std::int64_t z, ColumnSample& column) const override
    {
        const float over = column.height - std::floor(column.height / m_every) * m_every;
        if (over >= rise.fall)
            return;
        const std::uint64_t dice = mix64(m_site.seed + hashOf({cellOf(x, m_cell), 0, cellOf(z, m_cell)}));
        if (!hasAny(m_site, dice) || !canPlace(terrain, m_site, column, x, z)) // nor where there is a wall already
            return;
        column.wall = m_material;
        column.wallHeight = wallVoxels(terrain, m_metres);
    }

    /// No lower than most of a voxel; each is placed at its height above the ground.
    [[nodiscard]] std::shared_ptr<const Feature> coarser(const Terrain& coarse) const override
    {
        constexpr double kMin = 0.6; // of a voxel
        if (m_metres < kMin * coarse.recipe.voxelMetres)
            return nullptr;
        auto out = std::make_shared<ContourWall>(*this);
        if (m_site.patches)
            out->m_site.patches = coarserNoise(*m_site.patches, coarse.level, true);
        out->m_every = std::ldexp(m_every, -coarse.level);
        out->m_cell = std::max(1, m_cell >> coarse.level);
        return out;
    }

private:
    FeatureSite m_site;
    Material m_material;
    double m_metres; // its height
    float m_every; // voxels of altitude
    int m_cell; // voxels on the plan that stand or do not
};

const RecipePart kPart = featurePart(
    {"contour-wall", "Walls along contours", "stand where the ground has come up to a multiple of the spacing",
        {number("height", "height", "m", {0.5, 20}), block("material", "material")},
        {{"Walls along contours",
            R"({"kind": "contour-wall", "note": "walls along the contours", "spacing": 12, "chance": 0.8, "slope": 0.7, "ground": ["MATERIAL"], "height": 1, "material": "MATERIAL"})"}}},
    number("spacing", "metres up to the next", "m", {2, 500}, "metres of altitude"),
    number("chance", "chance", "", {0, 1}, "of each 16 m to stand"));

} // namespace

extern const FeatureKind kContourWall;
const FeatureKind kContourWall{&kPart, FeatureKind::Group::Other,
    [](const FeatureRule& rule, const FeatureSite& site, const RecipeUnits& units) -> std::shared_ptr<const Feature> {
        return std::make_shared<ContourWall>(rule, site, units);
    },
    [](const auto& text) { return text("material") + " along contours"; }};

} // namespace fell::terrain
