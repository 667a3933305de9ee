// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/features/larch.h>

#include <fell/terrain/columns.h>

#include <algorithm>
#include <cmath>

namespace fell::terrain {
namespace {

/// In tiers of two layers, each second one drawn in.
int crownRadius(const Tree& tree, int layer)
{
    if (tree.reach == 0) // on a level where its crown is a voxel wide
        return 0;
    const int bare = tree.height <= 2 ? 0 : std::max(tree.height < 6 ? 1 : 2, tree.height / 5);
    if (layer < bare)
        return 0;
    const int crown = tree.height - bare, above = layer - bare;
    const int radius = (tree.reach * (crown - above) + crown / 2) / crown;
    return std::max(layer + 1 == tree.height ? 0 : 1, radius - (above & 1));
}

template <typename Put> void eachTreeVoxel(const Tree& tree, const Put& put)
{
    for (int layer = 0; layer < tree.height; ++layer) {
        const int radius = crownRadius(tree, layer);
        for (int dz = -radius; dz <= radius; ++dz)
            for (int dx = -radius; dx <= radius; ++dx)
                if (dx * dx + dz * dz <= radius * radius + radius / 2)
                    put(tree.foot + VoxelPos{dx, layer, dz}, dx == 0 && dz == 0 && layer + 2 < tree.height);
    }
}

/// Ground that is covered as from afar: where trees that are too small to stand there would have put their crowns.
class Canopy final : public Feature {
public:
    Canopy(FeatureSite site, Material needles, double share)
        : m_site(std::move(site))
        , m_needles(needles)
        , m_share(share)
    {
    }
    [[nodiscard]] Phase phase() const override { return Phase::Cover; }
    void changeColumn(
        const Terrain& terrain, const Rise&, std::int64_t x, std::int64_t z, ColumnSample& column) const override
    {
        const std::uint64_t dice = mix64(m_site.seed + hashOf({x, terrain.level, z}));
        if (static_cast<double>(dice >> 11) * 0x1p-53 < m_share && column.cover == kOpen
            && canPlace(terrain, m_site, column, x, z))
            column.cover = m_needles;
    }
    [[nodiscard]] std::shared_ptr<const Feature> coarser(const Terrain&) const override { return nullptr; }

private:
    FeatureSite m_site;
    Material m_needles;
    double m_share; // of the ground that crowns cover
};

class Larch final : public StandingFeature {
public:
    Larch(const FeatureRule& rule, const FeatureSite& site, const RecipeUnits& units)
        : StandingFeature(site)
        , m_crownMetres(rule.own.number("crown"))
        , m_spacingMetres(rule.spacing)
        , m_trunk(rule.own.block("trunk"))
        , m_needles(rule.own.block("needles"))
    {
        const auto height = rule.own.pair("height");
        m_low = std::max(3, units.whole(height[0]));
        m_high = std::clamp(units.whole(height[1]), m_low, 200);
        m_reach = std::clamp(static_cast<int>(std::ceil(units.voxels(m_crownMetres))), 1, 16);
    }
    [[nodiscard]] int reach() const override { return m_reach; }
    void addSoft(std::vector<Material>& out) const override { out.push_back(m_needles); }

    /// Trees as long as the highest is a voxel high; then the share of the ground that their crowns cover.
    [[nodiscard]] std::shared_ptr<const Feature> coarser(const Terrain& coarse) const override
    {
        auto out = std::make_shared<Larch>(*this);
        if (m_site.patches)
            out->m_site.patches = coarserNoise(*m_site.patches, coarse.level, true);
        if (m_high < 1 << coarse.level) {
            constexpr double kPi = 3.14159265358979;
            const double crown
                = std::min(1.0, kPi * m_crownMetres * m_crownMetres / (m_spacingMetres * m_spacingMetres));
            return std::make_shared<Canopy>(out->m_site, m_needles, m_site.chance * crown);
        }
        // A crown of 2r + 1 voxels comes nearest to the recipe's.
        out->m_reach = static_cast<int>(std::lround(std::max(0.0, m_crownMetres / coarse.recipe.voxelMetres - 0.5)));
        return out;
    }

protected:
    [[nodiscard]] Tree at(const Terrain& terrain, VoxelPos foot, std::uint64_t dice) const override
    {
        const auto span = static_cast<std::uint64_t>(m_high - m_low + 1);
        const int height = m_low + static_cast<int>((dice >> 48) * span >> 16);
        const int half = 1 << terrain.level >> 1;
        return {foot, std::max(1, (height + half) >> terrain.level), m_reach, m_trunk, m_needles};
    }

private:
    double m_crownMetres, m_spacingMetres;
    Material m_trunk, m_needles;
    int m_low = 3, m_high = 3; // voxels of level 0
    int m_reach = 1; // voxels that the crown reaches next to its trunk
};

const RecipePart kPart = featurePart({"larch", "Larches", "trees whose crown is a cone of needles",
    {numberPair("height", "least height", "greatest height", "m", {3, 40}),
        number("crown", "crown", "m", {1, 8}, "its widest radius"), block("trunk", "trunk"),
        block("needles", "needles")}});

} // namespace

PlacedTree::PlacedTree(const Tree& of)
    : tree(of)
{
    const VoxelPos aside{tree.reach, 0, tree.reach};
    low = tree.foot - aside;
    high = tree.foot + aside + VoxelPos{1, tree.height, 1};
}

void PlacedTree::stamp(const Terrain& terrain, VoxelPos origin, int edge, std::span<Material> voxels) const
{
    if (high.y <= origin.y || low.y >= origin.y + edge)
        return;
    const auto isSoft = [&terrain](Material m) {
        return std::find(terrain.soft.begin(), terrain.soft.end(), m) != terrain.soft.end();
    };
    eachTreeVoxel(tree, [&](VoxelPos at, bool trunk) {
        const VoxelPos in = at - origin;
        if (in.x < 0 || in.y < 0 || in.z < 0 || in.x >= edge || in.y >= edge || in.z >= edge)
            return;
        Material& voxel = voxels[static_cast<std::size_t>((in.y * edge + in.z) * edge + in.x)];
        if (voxel == kOpen || (trunk && isSoft(voxel)))
            voxel = trunk ? tree.trunk : tree.needles;
    });
}

void StandingFeature::place(const Terrain& terrain, const PlacingSquare& square, PlacedFeatures& out) const
{
    const int reach = this->reach();
    const std::int64_t low = -reach, high = square.size - 1 + reach, spacing = m_site.spacing;
    // The first and the last cell of level 0 that may have something in these columns.
    const auto cell = [&](std::int64_t at) { return cellOf(at << terrain.level, spacing); };
    const auto within = [spacing](std::uint64_t bits) {
        return static_cast<std::int64_t>((bits & 0xFFFF) * static_cast<std::uint64_t>(spacing) >> 16);
    };
    /// A crown may hang over the roof of what is dug, not into its mouth.
    const auto isInTheWay = [&](VoxelPos foot) {
        return std::any_of(square.dug.begin(), square.dug.end(), [&](const auto& dug) {
            return dug->reaches(foot.x - reach, foot.z - reach, 2 * reach + 1) && foot.y <= dug->high.y + 1;
        });
    };
    for (std::int64_t cz = cell(square.z0 + low); cz <= cell(square.z0 + high + 1); ++cz)
        for (std::int64_t cx = cell(square.x0 + low); cx <= cell(square.x0 + high + 1); ++cx) {
            const std::uint64_t dice = diceOf(m_site, cx, cz);
            if (!hasAny(m_site, dice))
                continue;
            const std::int64_t x = (cx * spacing + within(dice >> 16)) >> terrain.level,
                               z = (cz * spacing + within(dice >> 32)) >> terrain.level;
            const std::int64_t dx = x - square.x0, dz = z - square.z0;
            if (dx < low || dx > high || dz < low || dz > high)
                continue;
            const ColumnSample& column = *square.column(x, z);
            if (!canPlace(terrain, m_site, column, x, z))
                continue;
            const VoxelPos foot{x, static_cast<std::int64_t>(std::ceil(column.height - 0.5f)), z};
            if (!isInTheWay(foot))
                out.push_back(std::make_shared<const PlacedTree>(at(terrain, foot, dice)));
        }
}

extern const FeatureKind kLarch;
const FeatureKind kLarch{&kPart, FeatureKind::Group::Standing,
    [](const FeatureRule& rule, const FeatureSite& site, const RecipeUnits& units) -> std::shared_ptr<const Feature> {
        return std::make_shared<Larch>(rule, site, units);
    },
    [](const auto&) -> std::string { return "larches"; }};

} // namespace fell::terrain
