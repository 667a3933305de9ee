// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/terrain.h>

#include <algorithm>
#include <array>
#include <cassert>
#include <cmath>

namespace fell::terrain {
namespace {

constexpr float kInfinity = std::numeric_limits<float>::infinity();

/// Makes what a recipe says ready, in voxels.
class Maker {
public:
    explicit Maker(const RecipeUnits& units)
        : m_units(units)
    {
    }
    [[nodiscard]] double voxels(double metres) const { return m_units.voxels(metres); }
    [[nodiscard]] Noise noise(const NoiseRecipe& from, std::uint64_t salt = 0) const
    {
        return m_units.noise(from, salt);
    }

    [[nodiscard]] HeightNoise height(const HeightLayer& from) const
    {
        HeightNoise out{noise(from.noise), {}, {}, {}, 0, {}};
        out.first.folded = from.kind->isFolded;
        if (from.kind->isWorn) { // of 1 metre up a metre along
            const double slope = voxels(from.amplitude) * kNoiseToOne;
            out.first.wear = static_cast<float>(from.wear * slope * slope);
        }
        if (from.kind->isOfTwo)
            out.second = noise(from.noise, 0xB);
        if (from.warp && from.warp->amount > 0) {
            out.warp = static_cast<float>(voxels(from.warp->amount));
            out.warpEast = noise(from.warp->noise);
            out.warpSouth = noise(from.warp->noise, 0xD);
        }
        if (!from.curve.empty())
            out.curve = HeightCurve(from.curve);
        return out;
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

private:
    const RecipeUnits& m_units;
};

/// In the order of their phases, and what follows from them.
void setFeatures(Terrain& terrain, std::vector<std::shared_ptr<const Feature>> features)
{
    std::stable_sort(
        features.begin(), features.end(), [](const auto& a, const auto& b) { return a->phase() < b->phase(); });
    terrain.margin = 1;
    terrain.soft.clear();
    for (const auto& feature : features) {
        terrain.margin = std::max(terrain.margin, feature->reach() + 1);
        feature->addSoft(terrain.soft);
    }
    terrain.features = std::move(features);
}

std::vector<std::shared_ptr<const Feature>> featuresOf(const Recipe& recipe, const RecipeUnits& units)
{
    std::vector<std::shared_ptr<const Feature>> out;
    std::array<std::uint64_t, 2> salts{0, 1000}; // of each group: what is added of one does not move the other
    for (const FeatureRule& rule : recipe.features) {
        std::uint64_t& salt = salts[static_cast<std::size_t>(rule.kind->group)];
        out.push_back(rule.kind->make(rule, siteOf(rule, units, salt++), units));
    }
    return out;
}

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

/// What a rule makes of its bands where a voxel is as long as most of one: all of it, or nothing.
void coarsen(StratumRule& rule, int level)
{
    rule.altitudeLow = std::ldexp(rule.altitudeLow, -level);
    rule.altitudeHigh = std::ldexp(rule.altitudeHigh, -level);
    if (rule.patches)
        rule.patches = coarserNoise(*rule.patches, level, true);
    if (!rule.banded)
        return;
    const bool isMost = 2 * rule.thickness >= rule.every;
    rule.every >>= level;
    rule.thickness >>= level;
    constexpr std::int64_t kMin = 2 * 65536; // two voxels
    if (rule.every >= kMin)
        return;
    rule.banded = false;
    if (!isMost)
        rule.depthLow = rule.depthHigh = kInfinity; // nowhere
}

/// Of landforms that are narrow or low, those that a voxel of this length in metres can still show; no narrower than
/// that.
std::vector<Landform> visibleLandforms(const std::vector<Landform>& forms, double metres)
{
    std::vector<Landform> out;
    for (Landform form : forms) {
        const bool isWall = form.kind == Landform::Kind::Wall;
        if (isWall || form.kind == Landform::Kind::Track) {
            constexpr double kMin = 0.6; // of a voxel
            if ((isWall ? form.height : form.width) < kMin * metres)
                continue;
            form.width = std::max(form.width, metres);
        }
        out.push_back(form);
    }
    return out;
}

} // namespace

std::shared_ptr<const Terrain> coarserTerrain(const Terrain& terrain, int level)
{
    assert(terrain.level == 0 && level >= 0 && level <= kMaxLevel);
    auto out = std::make_shared<Terrain>(terrain);
    if (level == 0)
        return out;
    out->level = level;
    out->recipe.voxelMetres = std::ldexp(terrain.recipe.voxelMetres, level);
    out->voxelsPerMetre = std::ldexp(terrain.voxelsPerMetre, -level);
    out->recipe.landforms = visibleLandforms(terrain.recipe.landforms, out->recipe.voxelMetres);
    for (HeightNoise& noise : out->heights) {
        for (Noise* one : {&noise.first, &noise.second, &noise.warpEast, &noise.warpSouth})
            *one = coarserNoise(*one, level, true);
        noise.warp = std::ldexp(noise.warp, -level);
    }
    if (out->overhangs)
        out->overhangs = coarserNoise(*out->overhangs, level, false);
    if (out->overhangs && out->overhangs->octaves.empty())
        out->overhangs.reset();
    if (out->caveA) {
        out->caveA = coarserNoise(*out->caveA, level, false);
        out->caveB = coarserNoise(*out->caveB, level, false);
        // Two noises are near zero together: the tunnels are some width * feature wide.
        const Caves& caves = *terrain.recipe.caves;
        if (out->caveA->octaves.empty() || caves.width * caves.noise.feature < out->recipe.voxelMetres) {
            out->recipe.caves.reset();
            out->caveA.reset();
            out->caveB.reset();
        }
    }
    for (StratumRule& rule : out->strata)
        coarsen(rule, level);
    std::vector<std::shared_ptr<const Feature>> features;
    for (const auto& feature : terrain.features)
        if (auto coarse = feature->coarser(*out))
            features.push_back(std::move(coarse));
    setFeatures(*out, std::move(features));
    out->deepest = deepestOf(*out);
    if (terrain.recipe.waterLevel)
        out->waterLevel = std::llround(*terrain.recipe.waterLevel * out->voxelsPerMetre);
    return out;
}

std::shared_ptr<const Terrain> makeTerrain(Recipe recipe, std::optional<std::uint64_t> seed)
{
    auto terrain = std::make_shared<Terrain>();
    recipe.seed = seed.value_or(recipe.seed);
    terrain->recipe = std::move(recipe);
    const Recipe& from = terrain->recipe;
    const RecipeUnits units(from);
    const Maker make(units);
    terrain->voxelsPerMetre = make.voxels(1);
    for (const auto& layer : from.layers)
        terrain->heights.push_back(make.height(layer));
    if (from.overhangs)
        terrain->overhangs = make.noise(from.overhangs->noise);
    if (from.caves) {
        terrain->caveA = make.noise(from.caves->noise);
        terrain->caveB = make.noise(from.caves->noise, 0xC);
    }
    for (const auto& rule : from.strata)
        terrain->strata.push_back(make.stratum(rule));
    setFeatures(*terrain, featuresOf(from, units));
    terrain->deepest = deepestOf(*terrain);
    if (from.waterLevel)
        terrain->waterLevel = std::llround(make.voxels(*from.waterLevel));
    return terrain;
}

} // namespace fell::terrain
