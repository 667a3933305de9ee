// SPDX-License-Identifier: Apache-2.0
// Columns are made over a patch with a margin, so that slopes and trees at its border see what lies beyond.
#include "terrain/columns.h"

#include "terrain/adits.h"
#include "terrain/landforms.h"

#include <algorithm>
#include <cmath>

namespace fell {
namespace {

/// A layer's noise brought to [0, 1].
double broughtToOne(const HeightLayer& layer, double value)
{
    if (!layer.isFolded())
        return std::clamp(value * kNoiseToOne + 0.5, 0.0, 1.0);
    const double folded = std::clamp((value + kMeanFold) * 1.8, 0.0, 1.0); // and folded noise 0.55
    return layer.kind == HeightLayer::Kind::Ridged ? 1 - folded : folded;
}

/// Raises a value to a multiple of a quarter, with nothing but IEEE operations.
double raised(double value, double exponent)
{
    double out = 1;
    const int quarters = static_cast<int>(exponent * 4);
    for (int i = 0; i < quarters / 4; ++i)
        out *= value;
    if (quarters & 2)
        out *= std::sqrt(value);
    if (quarters & 1)
        out *= std::sqrt(std::sqrt(value));
    return out;
}

/// The values of all height noises in one column, as `heightOf` wants them.
struct LayerValues {
    float first, second;
    [[nodiscard]] float of(const HeightLayer& layer) const
    {
        return layer.kind == HeightLayer::Kind::Least   ? std::min(first, second)
            : layer.kind == HeightLayer::Kind::Greatest ? std::max(first, second)
                                                        : first;
    }
};

Ground groundOf(const Terrain& terrain, const std::vector<const Landform*>& forms, const LayerValues* values,
    std::int64_t x, std::int64_t z)
{
    Ground ground;
    const double metres = terrain.recipe.voxelMetres;
    const double atX = (static_cast<double>(x) + 0.5) * metres, atZ = (static_cast<double>(z) + 0.5) * metres;
    ground.height = terrain.recipe.base + (terrain.recipe.map ? terrain.recipe.map->heightAt(atX, atZ) : 0);
    for (std::size_t i = 0; i < terrain.recipe.layers.size(); ++i) {
        const HeightLayer& layer = terrain.recipe.layers[i];
        const double share = raised(broughtToOne(layer, values[i].of(layer)), layer.exponent);
        ground.height += layer.amplitude * terrain.heights[i].curve.at(share);
    }
    shapeGround(forms, atX, atZ, ground);
    return ground;
}

PlanBox boxOf(const Terrain& terrain, std::int64_t x, std::int64_t z, int count)
{
    const double metres = terrain.recipe.voxelMetres;
    return {static_cast<double>(x) * metres, static_cast<double>(z) * metres, static_cast<double>(x + count) * metres,
        static_cast<double>(z + count) * metres};
}

float heightInVoxels(const Terrain& terrain, const Ground& ground)
{
    return static_cast<float>(ground.height * terrain.voxelsPerMetre);
}

Ground sampleGround(const Terrain& terrain, std::int64_t x, std::int64_t z)
{
    LayerValues values[16]{}; // recipes have at most 16 layers
    for (std::size_t i = 0; i < terrain.heights.size(); ++i) {
        const HeightNoise& noise = terrain.heights[i];
        const VoxelPos at{x, 0, z};
        const float east = noise.warp == 0 ? 0 : noiseAt(noise.warpEast, at) * noise.warp,
                    south = noise.warp == 0 ? 0 : noiseAt(noise.warpSouth, at) * noise.warp;
        values[i] = {noiseBeside(noise.first, at, east, south), noiseBeside(noise.second, at, east, south)};
    }
    const auto forms = landformsNear(terrain.recipe.landforms, boxOf(terrain, x, z, 1));
    return groundOf(terrain, forms, values, x, z);
}

/// How the ground lies round a column.
struct Rise {
    float slope = 0;
    float fall = 0; // to the lower neighbour on x and that on z, together: to the lowest of all eight, nearly
};
Rise riseOf(float here, float east, float west, float south, float north)
{
    const float dx = (east - west) * 0.5f, dz = (south - north) * 0.5f;
    return {std::sqrt(dx * dx + dz * dz),
        std::max(0.0f, here - std::min(east, west)) + std::max(0.0f, here - std::min(south, north))};
}

float pushOf(const Terrain& terrain, float slope)
{
    if (!terrain.overhangs)
        return 0;
    const auto& from = *terrain.recipe.overhangs;
    const double t
        = std::clamp((static_cast<double>(slope) - from.slope[0]) / (from.slope[1] - from.slope[0]), 0.0, 1.0);
    return static_cast<float>(from.amount * terrain.voxelsPerMetre * t * t * (3 - 2 * t));
}

bool allowedBySlope(const StratumRule& rule, float slope)
{
    return slope >= rule.slopeLow && slope < rule.slopeHigh;
}

std::uint8_t wallVoxels(const Terrain& terrain, double metres)
{
    return static_cast<std::uint8_t>(std::clamp(std::lround(metres * terrain.voxelsPerMetre), 0L, 250L));
}

/// Completes a column once its ground and slope are known.
ColumnSample completed(const Terrain& terrain, const Ground& ground, const Rise& rise, std::uint32_t patchBits)
{
    ColumnSample column;
    const float slope = rise.slope;
    column.height = heightInVoxels(terrain, ground);
    column.slope = slope;
    column.push = pushOf(terrain, slope);
    for (std::size_t i = 0; i < terrain.strata.size(); ++i)
        if (allowedBySlope(terrain.strata[i], slope))
            column.rules |= 1u << i;
    column.rules &= patchBits;
    column.cover = ground.cover;
    column.wall = ground.wall;
    column.wallHeight = wallVoxels(terrain, ground.wallHeight);
    return column;
}

std::uint32_t patchBitsAt(const Terrain& terrain, std::int64_t x, std::int64_t z)
{
    std::uint32_t bits = ~0u;
    for (std::size_t i = 0; i < terrain.strata.size(); ++i)
        if (terrain.strata[i].patches
            && noiseAt(*terrain.strata[i].patches, {x, 0, z}) <= terrain.strata[i].patchesAbove)
            bits &= ~(1u << i);
    return bits;
}

/// The material of flat ground in a column: the first rule that holds just below the surface.
Material surfaceMaterial(const Terrain& terrain, const ColumnSample& column)
{
    if (column.cover != kOpen)
        return column.cover;
    const double altitude = column.height;
    for (std::size_t i = 0; i < terrain.strata.size(); ++i) {
        const StratumRule& rule = terrain.strata[i];
        if ((column.rules >> i & 1) && rule.depthLow <= 0.5f && rule.depthHigh > 0.5f && altitude >= rule.altitudeLow
            && altitude < rule.altitudeHigh)
            return rule.material;
    }
    return kOpen;
}

std::int64_t floorDiv(std::int64_t a, std::int64_t b)
{
    return a / b - ((a % b != 0 && (a % b < 0) != (b < 0)) ? 1 : 0);
}

/// The tree of one cell of the scatter's grid, wherever the question comes from. The grid is that of level 0 on every
/// level, so a tree keeps its place.
template <typename ColumnOf>
std::optional<Tree> treeOfCell(
    const Terrain& terrain, const ScatterRule& rule, std::int64_t cx, std::int64_t cz, const ColumnOf& columnOf)
{
    const std::uint64_t dice
        = mix64(rule.seed + mix64(static_cast<std::uint64_t>(cx)) * 3 + mix64(static_cast<std::uint64_t>(cz)) * 5);
    if (static_cast<double>(dice & 0xFFFF) >= rule.recipe.chance * 65536)
        return std::nullopt;
    const auto spacing = static_cast<std::uint64_t>(rule.spacing);
    const auto within
        = [spacing](std::uint64_t bits) { return static_cast<std::int64_t>((bits & 0xFFFF) * spacing >> 16); };
    const std::int64_t x = (cx * rule.spacing + within(dice >> 16)) >> terrain.level,
                       z = (cz * rule.spacing + within(dice >> 32)) >> terrain.level;
    const ColumnSample* column = columnOf(x, z);
    if (!column || !mayStand(terrain, rule, *column, x, z))
        return std::nullopt;
    const auto foot = static_cast<std::int64_t>(std::ceil(column->height - 0.5f));
    if (rule.recipe.kind == Scatter::Kind::Block) { // a tip without a trunk
        const auto turn = (dice >> 48) * static_cast<std::uint64_t>(rule.recipe.turns) >> 16;
        return Tree{{x, foot, z}, 1, 0, kOpen, static_cast<Material>(rule.recipe.block + turn)};
    }
    const auto span = static_cast<std::uint64_t>(rule.heightHigh - rule.heightLow + 1);
    const int height = rule.heightLow + static_cast<int>((dice >> 48) * span >> 16);
    const int half = 1 << terrain.level >> 1;
    return Tree{{x, foot, z}, std::max(1, (height + half) >> terrain.level), rule.reach, rule.recipe.trunk,
        rule.recipe.needles};
}

/// On levels whose voxels are larger than trees: what a column looks like from afar.
void coverByCanopies(const Terrain& terrain, ColumnSample& column, std::int64_t x, std::int64_t z)
{
    for (const CanopyRule& rule : terrain.canopies) {
        const std::uint64_t dice = mix64(rule.scatter.seed + hashOf({x, terrain.level, z}));
        if (static_cast<double>(dice >> 11) * 0x1p-53 < rule.share && column.cover == kOpen
            && mayStand(terrain, rule.scatter, column, x, z))
            column.cover = rule.scatter.recipe.needles;
    }
}

/// Where the ground has come up to a multiple of the spacing and a neighbour has not, one at a corner too: so the wall
/// is one column wide and goes on side by side. In stretches that stand, or have fallen.
void wallAlongContour(const Terrain& terrain, ColumnSample& column, const Rise& rise, std::int64_t x, std::int64_t z)
{
    for (const ContourRule& rule : terrain.contourWalls) {
        const float over = column.height - std::floor(column.height / rule.every) * rule.every;
        if (over >= rise.fall)
            continue;
        const std::uint64_t dice
            = mix64(rule.scatter.seed + hashOf({floorDiv(x, rule.cell), 0, floorDiv(z, rule.cell)}));
        if (static_cast<double>(dice & 0xFFFF) >= rule.scatter.recipe.chance * 65536
            || !mayStand(terrain, rule.scatter, column, x, z))
            continue;
        column.wall = rule.scatter.recipe.material;
        column.wallHeight = wallVoxels(terrain, rule.scatter.recipe.height[0]);
        return;
    }
}

/// Does an adit leave no room for a tree of that reach? Its crown may hang over the roof of one, not into its mouth.
bool isDug(const std::vector<std::shared_ptr<const Adit>>& adits, VoxelPos foot, int reach)
{
    return std::any_of(adits.begin(), adits.end(), [&](const auto& adit) {
        return adit->reaches(foot.x - reach, foot.z - reach, 2 * reach + 1) && foot.y <= adit->high.y + 1;
    });
}

template <typename ColumnOf> void plantTrees(const Terrain& terrain, ColumnPatch& patch, const ColumnOf& columnOf)
{
    // Of a tree at the margin too it must be known whether an adit is in its way.
    const auto adits = aditsNear(
        terrain, patch.x0 - 2 * terrain.margin, patch.z0 - 2 * terrain.margin, patch.edge + 4 * terrain.margin);
    std::copy_if(adits.begin(), adits.end(), std::back_inserter(patch.adits),
        [&patch](const auto& adit) { return adit->reaches(patch.x0, patch.z0, patch.edge); });
    for (const auto& rule : terrain.scatter) {
        const std::int64_t low = -rule.reach, high = patch.edge - 1 + rule.reach;
        // The first and the last cell of level 0 that may have a tree in these columns.
        const auto cellOf = [&](std::int64_t at) { return floorDiv(at << terrain.level, rule.spacing); };
        for (std::int64_t cz = cellOf(patch.z0 + low); cz <= cellOf(patch.z0 + high + 1); ++cz)
            for (std::int64_t cx = cellOf(patch.x0 + low); cx <= cellOf(patch.x0 + high + 1); ++cx) {
                const auto inReach = [&](std::int64_t x, std::int64_t z) -> const ColumnSample* {
                    const std::int64_t dx = x - patch.x0, dz = z - patch.z0;
                    return dx >= low && dx <= high && dz >= low && dz <= high ? columnOf(x, z) : nullptr;
                };
                if (auto tree = treeOfCell(terrain, rule, cx, cz, inReach);
                    tree && !isDug(adits, tree->foot, rule.reach))
                    patch.trees.push_back(*tree);
            }
    }
}

void summarise(const Terrain& terrain, ColumnPatch& patch)
{
    patch.lowest = *std::min_element(patch.height.begin(), patch.height.end());
    patch.highest = *std::max_element(patch.height.begin(), patch.height.end());
    patch.mostPush = *std::max_element(patch.push.begin(), patch.push.end());
    const auto standing = *std::max_element(patch.wallHeight.begin(), patch.wallHeight.end());
    // Noise of these gradients stays below 1.25; the ground is never pushed further than that.
    patch.top = static_cast<std::int64_t>(std::ceil(patch.highest + 1.25f * patch.mostPush)) + standing + 1;
    patch.top = std::max(patch.top, terrain.waterLevel);
    for (const Tree& tree : patch.trees)
        patch.top = std::max(patch.top, tree.foot.y + tree.height);
    for (const auto& adit : patch.adits)
        patch.top = std::max(patch.top, adit->high.y);
    const auto anything = [](Material m) { return m != kOpen; };
    patch.anyCover = std::any_of(patch.cover.begin(), patch.cover.end(), anything);
    patch.anyWall = std::any_of(patch.wall.begin(), patch.wall.end(), anything);
}

ColumnPatch emptyPatch(std::int64_t x0, std::int64_t z0, int edge)
{
    ColumnPatch patch;
    patch.edge = edge;
    patch.x0 = x0;
    patch.z0 = z0;
    const auto count = static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge);
    patch.height.resize(count);
    patch.push.resize(count);
    patch.rules.resize(count);
    patch.cover.resize(count);
    patch.wall.resize(count);
    patch.wallHeight.resize(count);
    return patch;
}

void put(ColumnPatch& patch, int x, int z, const ColumnSample& column)
{
    const auto at = static_cast<std::size_t>(z * patch.edge + x);
    patch.height[at] = column.height;
    patch.push[at] = column.push;
    patch.rules[at] = column.rules;
    patch.cover[at] = column.cover;
    patch.wall[at] = column.wall;
    patch.wallHeight[at] = column.wallHeight;
}

/// A square of columns on the plan, with room for the margin round a patch.
struct Square {
    std::int64_t x0, z0;
    int size;
    [[nodiscard]] std::size_t index(int x, int z) const { return static_cast<std::size_t>(z * size + x); }
};

std::vector<Ground> groundOfSquare(const Terrain& terrain, const Square& square, NoiseScratch& scratch)
{
    const SampleBox box{{square.x0, 0, square.z0}, square.size, 1, square.size};
    const std::size_t layers = terrain.heights.size();
    std::vector<float> one(box.count());
    std::vector<LayerValues> values(box.count() * layers);
    std::vector<float> east, south;
    const auto sample = [&](const Noise& noise, float warp, std::size_t layer, float LayerValues::*part) {
        if (warp == 0)
            noiseBlock(noise, box, scratch, one);
        else // what is moved lies in no rows: a sample at a time
            for (std::size_t i = 0; i < one.size(); ++i) {
                const auto x = static_cast<std::int64_t>(i) % square.size,
                           z = static_cast<std::int64_t>(i) / square.size;
                one[i] = noiseBeside(noise, {square.x0 + x, 0, square.z0 + z}, east[i] * warp, south[i] * warp);
            }
        for (std::size_t i = 0; i < one.size(); ++i)
            values[i * layers + layer].*part = one[i];
    };
    for (std::size_t layer = 0; layer < layers; ++layer) {
        const HeightNoise& noise = terrain.heights[layer];
        if (noise.warp != 0) {
            east.resize(box.count());
            south.resize(box.count());
            noiseBlock(noise.warpEast, box, scratch, east);
            noiseBlock(noise.warpSouth, box, scratch, south);
        }
        sample(noise.first, noise.warp, layer, &LayerValues::first);
        if (!noise.second.octaves.empty())
            sample(noise.second, noise.warp, layer, &LayerValues::second);
    }
    const auto forms = landformsNear(terrain.recipe.landforms, boxOf(terrain, square.x0, square.z0, square.size));
    std::vector<Ground> ground(box.count());
    for (int z = 0; z < square.size; ++z)
        for (int x = 0; x < square.size; ++x) {
            const std::size_t i = square.index(x, z);
            ground[i] = groundOf(terrain, forms, values.data() + i * layers, square.x0 + x, square.z0 + z);
        }
    return ground;
}

std::vector<std::uint32_t> patchBitsOfSquare(const Terrain& terrain, const Square& square, NoiseScratch& scratch)
{
    const SampleBox box{{square.x0, 0, square.z0}, square.size, 1, square.size};
    std::vector<std::uint32_t> bits(box.count(), ~0u);
    std::vector<float> one(box.count());
    for (std::size_t rule = 0; rule < terrain.strata.size(); ++rule) {
        if (!terrain.strata[rule].patches)
            continue;
        noiseBlock(*terrain.strata[rule].patches, box, scratch, one);
        for (std::size_t i = 0; i < one.size(); ++i)
            if (one[i] <= terrain.strata[rule].patchesAbove)
                bits[i] &= ~(1u << rule);
    }
    return bits;
}

} // namespace

ColumnPatch columnsByBlocks(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int edge)
{
    thread_local NoiseScratch scratch;
    const int margin = terrain.margin + 1; // one more for the slopes of the margin itself
    const Square wide{x0 - margin, z0 - margin, edge + 2 * margin};
    const auto ground = groundOfSquare(terrain, wide, scratch);
    const auto bits = patchBitsOfSquare(terrain, wide, scratch);
    std::vector<float> heights(ground.size());
    for (std::size_t i = 0; i < ground.size(); ++i)
        heights[i] = heightInVoxels(terrain, ground[i]);

    std::vector<ColumnSample> columns(ground.size());
    for (int z = 1; z + 1 < wide.size; ++z)
        for (int x = 1; x + 1 < wide.size; ++x) {
            const std::size_t i = wide.index(x, z);
            const Rise rise = riseOf(heights[i], heights[i + 1], heights[i - 1], heights[wide.index(x, z + 1)],
                heights[wide.index(x, z - 1)]);
            columns[i] = completed(terrain, ground[i], rise, bits[i]);
            coverByCanopies(terrain, columns[i], wide.x0 + x, wide.z0 + z);
            wallAlongContour(terrain, columns[i], rise, wide.x0 + x, wide.z0 + z);
        }
    ColumnPatch patch = emptyPatch(x0, z0, edge);
    for (int z = 0; z < edge; ++z)
        for (int x = 0; x < edge; ++x)
            put(patch, x, z, columns[wide.index(x + margin, z + margin)]);
    plantTrees(terrain, patch, [&](std::int64_t x, std::int64_t z) {
        return &columns[wide.index(static_cast<int>(x - wide.x0), static_cast<int>(z - wide.z0))];
    });
    summarise(terrain, patch);
    return patch;
}

ColumnPatch columnsBySamples(const Terrain& terrain, std::int64_t x0, std::int64_t z0, int edge)
{
    ColumnPatch patch = emptyPatch(x0, z0, edge);
    for (int z = 0; z < edge; ++z)
        for (int x = 0; x < edge; ++x)
            put(patch, x, z, columnAt(terrain, x0 + x, z0 + z));
    ColumnSample one;
    plantTrees(terrain, patch, [&](std::int64_t x, std::int64_t z) {
        one = columnAt(terrain, x, z);
        return &one;
    });
    summarise(terrain, patch);
    return patch;
}

ColumnSample columnAt(const Terrain& terrain, std::int64_t x, std::int64_t z)
{
    const auto height = [&](std::int64_t dx, std::int64_t dz) { return groundHeight(terrain, x + dx, z + dz); };
    const Ground ground = sampleGround(terrain, x, z);
    const Rise rise = riseOf(heightInVoxels(terrain, ground), height(1, 0), height(-1, 0), height(0, 1), height(0, -1));
    ColumnSample column = completed(terrain, ground, rise, patchBitsAt(terrain, x, z));
    coverByCanopies(terrain, column, x, z);
    wallAlongContour(terrain, column, rise, x, z);
    return column;
}

bool mayStand(
    const Terrain& terrain, const ScatterRule& rule, const ColumnSample& column, std::int64_t x, std::int64_t z)
{
    if (column.push != 0 || column.wall != kOpen || column.slope > rule.recipe.slope)
        return false;
    const double altitude = column.height * terrain.recipe.voxelMetres;
    if (altitude < rule.recipe.altitude[0] || altitude > rule.recipe.altitude[1]
        || static_cast<std::int64_t>(std::ceil(column.height - 0.5f)) <= terrain.waterLevel)
        return false;
    if (rule.patches && noiseAt(*rule.patches, {x, 0, z}) <= static_cast<float>(rule.recipe.patches->above))
        return false;
    const Material ground = surfaceMaterial(terrain, column);
    return std::find(rule.recipe.ground.begin(), rule.recipe.ground.end(), ground) != rule.recipe.ground.end();
}

float groundHeight(const Terrain& terrain, std::int64_t x, std::int64_t z)
{
    return heightInVoxels(terrain, sampleGround(terrain, x, z));
}

} // namespace fell
