// SPDX-License-Identifier: Apache-2.0
#include "terrain/terrain.h"

#include <algorithm>
#include <cmath>

namespace fell {
namespace {

constexpr float kInfinity = std::numeric_limits<float>::infinity();

/// Turns metres into voxels and recipes into noises with their tables.
class Maker {
public:
    explicit Maker(const Recipe& recipe)
        : m_recipe(recipe)
        , m_perMetre(1.0 / recipe.voxelMetres)
    {
    }

    [[nodiscard]] double voxels(double metres) const { return metres * m_perMetre; }

    [[nodiscard]] Noise noise(const NoiseRecipe& from, std::uint64_t salt = 0) const
    {
        NoiseSpec spec;
        spec.featureSize = std::clamp(voxels(from.feature), 2.0, 1e6);
        spec.octaves = from.octaves;
        spec.lacunarity = from.lacunarity;
        spec.gain = from.gain;
        spec.seed = mix64(m_recipe.seed + from.salt + salt);
        return makeNoise(spec);
    }

    [[nodiscard]] StratumRule stratum(const Stratum& from) const
    {
        StratumRule rule{};
        rule.material = from.material;
        rule.depthLow = from.depth[0] == 0 ? -kInfinity : static_cast<float>(voxels(from.depth[0]));
        rule.depthHigh = static_cast<float>(voxels(from.depth[1]));
        rule.slopeLow = static_cast<float>(from.slope[0]);
        rule.slopeHigh = static_cast<float>(from.slope[1]);
        rule.altitudeLow = voxels(from.altitude[0]);
        rule.altitudeHigh = voxels(from.altitude[1]);
        if (from.patches) {
            rule.patches = noise(from.patches->noise);
            rule.patchesAbove = static_cast<float>(from.patches->above);
        }
        if (from.bands) {
            const auto fixed = [](double value) { return std::llround(value * 65536); };
            rule.banded = true;
            rule.every = fixed(voxels(from.bands->every));
            rule.thickness = fixed(voxels(from.bands->thickness));
            rule.dipX = fixed(from.bands->dip[0]);
            rule.dipZ = fixed(from.bands->dip[1]);
        }
        return rule;
    }

    [[nodiscard]] ScatterRule scatter(const Scatter& from, std::uint64_t salt) const
    {
        ScatterRule rule{from, std::max<std::int64_t>(2, std::llround(voxels(from.spacing))), 0, 0, 0, std::nullopt,
            mix64(m_recipe.seed ^ (0x7EE5 + salt))};
        rule.heightLow = std::max(3, static_cast<int>(std::lround(voxels(from.height[0]))));
        rule.heightHigh = std::clamp(static_cast<int>(std::lround(voxels(from.height[1]))), rule.heightLow, 200);
        rule.reach = from.block != kOpen ? 0 : std::clamp(static_cast<int>(std::ceil(voxels(from.crown))), 1, 16);
        if (from.patches)
            rule.patches = noise(from.patches->noise);
        return rule;
    }

private:
    const Recipe& m_recipe;
    double m_perMetre;
};

/// Below this depth a chunk needs no per-voxel work, unless the last rule is banded or limited.
float deepestOf(const Terrain& terrain)
{
    if (terrain.strata.empty())
        return kInfinity;
    const auto& last = terrain.strata.back();
    const bool everywhere = !last.banded && !last.patches && last.depthHigh == kInfinity && last.slopeHigh == kInfinity
        && last.slopeLow == 0 && std::isinf(last.altitudeLow) && std::isinf(last.altitudeHigh);
    float deepest = everywhere ? std::max(0.0f, last.depthLow) : kInfinity;
    for (std::size_t i = 0; i + 1 < terrain.strata.size(); ++i)
        deepest = std::max(deepest, terrain.strata[i].depthHigh);
    if (terrain.recipe.caves)
        deepest = std::max(deepest, static_cast<float>(terrain.recipe.caves->depth[1] * terrain.voxelsPerMetre));
    return deepest;
}

} // namespace

std::shared_ptr<const Terrain> makeTerrain(Recipe recipe, std::optional<std::uint64_t> seed)
{
    auto terrain = std::make_shared<Terrain>();
    recipe.seed = seed.value_or(recipe.seed);
    terrain->recipe = std::move(recipe);
    const Recipe& from = terrain->recipe;
    const Maker make(from);
    terrain->voxelsPerMetre = make.voxels(1);
    for (const auto& layer : from.layers)
        terrain->heights.push_back({make.noise(layer.noise),
            layer.kind == HeightLayer::Kind::Ridges ? make.noise(layer.noise, 0xB) : Noise{}});
    if (from.overhangs)
        terrain->overhangs = make.noise(from.overhangs->noise);
    if (from.caves) {
        terrain->caveA = make.noise(from.caves->noise);
        terrain->caveB = make.noise(from.caves->noise, 0xC);
    }
    for (const auto& rule : from.strata)
        terrain->strata.push_back(make.stratum(rule));
    for (const auto& trees : from.scatter) {
        terrain->scatter.push_back(make.scatter(trees, terrain->scatter.size()));
        terrain->margin = std::max(terrain->margin, terrain->scatter.back().reach + 1);
    }
    terrain->deepest = deepestOf(*terrain);
    if (from.waterLevel)
        terrain->waterLevel = std::llround(make.voxels(*from.waterLevel));
    return terrain;
}

} // namespace fell
