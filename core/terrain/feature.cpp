// SPDX-License-Identifier: Apache-2.0
// The table of features. A new one is a file of terrain/features/ and a line here.
#include <fell/terrain/feature.h>

#include <fell/terrain/columns.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace fell::terrain {

extern const FeatureKind kLarch, kSingleBlock, kContourWall, kAdit;

std::span<const FeatureKind* const> featureKinds()
{
    static constexpr std::array kKinds{&kLarch, &kSingleBlock, &kContourWall, &kAdit};
    return kKinds;
}

int RecipeUnits::whole(double metres) const
{
    return static_cast<int>(std::lround(voxels(metres)));
}

Noise RecipeUnits::noise(const NoiseRecipe& from, std::uint64_t salt) const
{
    NoiseSpec spec;
    spec.featureSize = std::clamp(voxels(from.feature), 2.0, 1e6);
    spec.octaves = from.octaves;
    spec.lacunarity = from.lacunarity;
    spec.gain = from.gain;
    spec.seed = mix64(m_recipe.seed + from.salt + salt);
    return makeNoise(spec);
}

FeatureSite siteOf(const FeatureRule& rule, const RecipeUnits& units, std::uint64_t salt)
{
    FeatureSite site{std::max<std::int64_t>(2, std::llround(units.voxels(rule.spacing))), rule.chance, rule.altitude,
        rule.slope, rule.ground, std::nullopt, 0, mix64(units.seed() ^ (0x7EE5 + salt))};
    if (rule.patches) {
        site.patches = units.noise(rule.patches->noise);
        site.patchesAbove = static_cast<float>(rule.patches->above);
    }
    return site;
}

std::uint64_t diceOf(const FeatureSite& site, std::int64_t cellX, std::int64_t cellZ)
{
    return mix64(
        site.seed + mix64(static_cast<std::uint64_t>(cellX)) * 3 + mix64(static_cast<std::uint64_t>(cellZ)) * 5);
}

bool canPlace(
    const Terrain& terrain, const FeatureSite& site, const ColumnSample& column, std::int64_t x, std::int64_t z)
{
    if (column.push != 0 || column.wall != kOpen || column.slope > site.slope)
        return false;
    const double altitude = column.height * terrain.recipe.voxelMetres;
    if (altitude < site.altitude[0] || altitude > site.altitude[1]
        || static_cast<std::int64_t>(std::ceil(column.height - 0.5f)) <= terrain.waterLevel)
        return false;
    if (site.patches && noiseAt(*site.patches, {x, 0, z}) <= site.patchesAbove)
        return false;
    const Material ground = surfaceMaterial(terrain, column);
    return std::find(site.ground.begin(), site.ground.end(), ground) != site.ground.end();
}

void Feature::changeColumn(const Terrain&, const Rise&, std::int64_t, std::int64_t, ColumnSample&) const { }
void Feature::place(const Terrain&, const PlacingSquare&, PlacedFeatures&) const { }
void Feature::addSoft(std::vector<Material>&) const { }

} // namespace fell::terrain
