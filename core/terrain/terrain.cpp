// SPDX-License-Identifier: Apache-2.0
#include "terrain/terrain.h"

#include <algorithm>
#include <atomic>
#include <cassert>
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

    [[nodiscard]] HeightNoise height(const HeightLayer& from) const
    {
        HeightNoise out{noise(from.noise), {}, {}, {}, 0, {}};
        out.first.folded = from.isFolded();
        if (from.kind == HeightLayer::Kind::Worn) { // of 1 metre up a metre along
            const double slope = voxels(from.amplitude) * kNoiseToOne;
            out.first.wear = static_cast<float>(from.wear * slope * slope);
        }
        if (from.isOfTwo())
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

    [[nodiscard]] ScatterRule scatter(const Scatter& from, std::uint64_t salt) const
    {
        ScatterRule rule{from, std::max<std::int64_t>(2, std::llround(voxels(from.spacing))), 0, 0, 0, std::nullopt,
            mix64(m_recipe.seed ^ (0x7EE5 + salt))};
        rule.heightLow = std::max(3, static_cast<int>(std::lround(voxels(from.height[0]))));
        rule.heightHigh = std::clamp(static_cast<int>(std::lround(voxels(from.height[1]))), rule.heightLow, 200);
        rule.reach = from.kind != Scatter::Kind::Larch
            ? 0
            : std::clamp(static_cast<int>(std::ceil(voxels(from.crown))), 1, 16);
        if (from.patches)
            rule.patches = noise(from.patches->noise);
        return rule;
    }

    [[nodiscard]] ContourRule contourWall(const Scatter& from, std::uint64_t salt) const
    {
        return {scatter(from, salt), static_cast<float>(voxels(from.spacing)), std::max(1, whole(16))};
    }

    [[nodiscard]] AditRule adit(const Scatter& from, std::uint64_t salt) const
    {
        return {scatter(from, salt), std::max(0, (whole(from.width) - 1) / 2), std::max(1, whole(from.height[0])),
            std::max(4, whole(from.length[0])), std::max(4, whole(from.length[1])), std::max(2, whole(4)), whole(14),
            whole(9), std::max(2, whole(6)), 2 * std::max(2, whole(6))};
    }

private:
    [[nodiscard]] int whole(double metres) const { return static_cast<int>(std::lround(voxels(metres))); }

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
    constexpr std::int64_t kLeast = 2 * 65536; // two voxels
    if (rule.every >= kLeast)
        return;
    rule.banded = false;
    if (!isMost)
        rule.depthLow = rule.depthHigh = kInfinity; // nowhere
}

/// Of landforms that are narrow or low, those that a voxel of so many metres can still show; no narrower than that.
std::vector<Landform> visibleLandforms(const std::vector<Landform>& forms, double metres)
{
    std::vector<Landform> out;
    for (Landform form : forms) {
        const bool isWall = form.kind == Landform::Kind::Wall;
        if (isWall || form.kind == Landform::Kind::Track) {
            constexpr double kLeast = 0.6; // of a voxel
            if ((isWall ? form.height : form.width) < kLeast * metres)
                continue;
            form.width = std::max(form.width, metres);
        }
        out.push_back(form);
    }
    return out;
}

/// Walls no lower than most of a voxel; each stands where its height above the ground does.
void coarsenWalls(Terrain& terrain, const std::vector<ContourRule>& rules)
{
    constexpr double kLeast = 0.6; // of a voxel
    terrain.contourWalls.clear();
    for (ContourRule rule : rules) {
        if (rule.scatter.recipe.height[0] < kLeast * terrain.recipe.voxelMetres)
            continue;
        if (rule.scatter.patches)
            rule.scatter.patches = coarserNoise(*rule.scatter.patches, terrain.level, true);
        rule.every = std::ldexp(rule.every, -terrain.level);
        rule.cell = std::max(1, rule.cell >> terrain.level);
        terrain.contourWalls.push_back(std::move(rule));
    }
}

/// Trees as long as the highest is a voxel high; then the share of the ground that their crowns cover.
void coarsen(Terrain& terrain, const std::vector<ScatterRule>& rules)
{
    const int level = terrain.level;
    const double metres = terrain.recipe.voxelMetres;
    terrain.scatter.clear();
    terrain.margin = 1;
    for (ScatterRule rule : rules) {
        if (rule.recipe.kind == Scatter::Kind::Block) // smaller than half a voxel
            continue;
        if (rule.patches)
            rule.patches = coarserNoise(*rule.patches, level, true);
        if (rule.heightHigh < 1 << level) {
            constexpr double kPi = 3.14159265358979;
            const Scatter& from = rule.recipe;
            const double crown = std::min(1.0, kPi * from.crown * from.crown / (from.spacing * from.spacing));
            terrain.canopies.push_back({from.chance * crown, std::move(rule)});
            continue;
        }
        // A crown of 2r + 1 voxels comes nearest to the recipe's.
        rule.reach = static_cast<int>(std::lround(std::max(0.0, rule.recipe.crown / metres - 0.5)));
        terrain.margin = std::max(terrain.margin, rule.reach + 1);
        terrain.scatter.push_back(std::move(rule));
    }
}

} // namespace

std::shared_ptr<const Terrain> coarserTerrain(const Terrain& terrain, int level)
{
    assert(terrain.level == 0 && level >= 0 && level <= kMostLevel);
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
    coarsen(*out, terrain.scatter);
    coarsenWalls(*out, terrain.contourWalls);
    out->adits.clear();
    out->deepest = deepestOf(*out);
    if (terrain.recipe.waterLevel)
        out->waterLevel = std::llround(*terrain.recipe.waterLevel * out->voxelsPerMetre);
    return out;
}

std::shared_ptr<const Terrain> makeTerrain(Recipe recipe, std::optional<std::uint64_t> seed)
{
    static std::atomic<std::uint64_t> next{1};
    auto terrain = std::make_shared<Terrain>();
    terrain->serial = next++;
    recipe.seed = seed.value_or(recipe.seed);
    terrain->recipe = std::move(recipe);
    const Recipe& from = terrain->recipe;
    const Maker make(from);
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
    std::uint64_t trees = 0, others = 1000; // what is added of one does not move the others
    for (const auto& one : from.scatter) {
        if (one.kind == Scatter::Kind::ContourWall)
            terrain->contourWalls.push_back(make.contourWall(one, others++));
        else if (one.kind == Scatter::Kind::Adit)
            terrain->adits.push_back(make.adit(one, others++));
        else
            terrain->scatter.push_back(make.scatter(one, trees++));
    }
    for (const ScatterRule& rule : terrain->scatter)
        terrain->margin = std::max(terrain->margin, rule.reach + 1);
    terrain->deepest = deepestOf(*terrain);
    if (from.waterLevel)
        terrain->waterLevel = std::llround(make.voxels(*from.waterLevel));
    return terrain;
}

} // namespace fell
