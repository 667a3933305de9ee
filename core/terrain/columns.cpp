// SPDX-License-Identifier: Apache-2.0
// Columns are made over a patch with a margin, so that slopes and trees at its border see what lies beyond.
#include "terrain/columns.h"

#include "terrain/adits.h"
#include "terrain/landforms.h"

#include <algorithm>
#include <cmath>
#include <span>

namespace fell {
namespace {

/// A layer's noise brought to [0, 1].
double plainToOne(double value)
{
    return std::min(std::max(value * kNoiseToOne + 0.5, 0.0), 1.0);
}
double foldedToOne(double value) // most of its values lie in 0.55
{
    return std::min(std::max((value + kMeanFold) * 1.8, 0.0), 1.0);
}

constexpr std::size_t kTogether = 256; // columns that a step is done for before the next one

/// Raises at most kTogether values to a multiple of a quarter, with nothing but IEEE operations.
void raise(std::span<double> values, double exponent)
{
    const int quarters = static_cast<int>(exponent * 4);
    if (quarters == 4)
        return;
    double of[kTogether];
    std::copy(values.begin(), values.end(), of);
    if (quarters < 4)
        std::fill(values.begin(), values.end(), 1.0);
    for (int i = 1; i < quarters / 4; ++i)
        for (std::size_t v = 0; v < values.size(); ++v)
            values[v] *= of[v];
    if (quarters & 2)
        for (std::size_t v = 0; v < values.size(); ++v)
            values[v] *= std::sqrt(of[v]);
    if (quarters & 1)
        for (std::size_t v = 0; v < values.size(); ++v)
            values[v] *= std::sqrt(std::sqrt(of[v]));
}

/// The values of a layer's two noises in some columns; `second` is empty where it has one.
struct LayerNoise {
    std::span<const float> first, second;
};

/// Adds what a layer makes of its noise to the heights, in metres. A step at a time over all columns: each is a loop
/// without a branch that depends on a column.
void addLayer(const HeightLayer& layer, const HeightCurve& curve, const LayerNoise& noise, std::span<double> heights)
{
    double shares[kTogether];
    for (std::size_t at = 0; at < heights.size(); at += kTogether) {
        const std::size_t count = std::min(kTogether, heights.size() - at);
        const float* first = noise.first.data() + at;
        if (layer.kind == HeightLayer::Kind::Least)
            for (std::size_t i = 0; i < count; ++i)
                shares[i] = std::min(first[i], noise.second[at + i]);
        else if (layer.kind == HeightLayer::Kind::Greatest)
            for (std::size_t i = 0; i < count; ++i)
                shares[i] = std::max(first[i], noise.second[at + i]);
        else
            std::copy_n(first, count, shares);
        if (layer.isFolded())
            for (std::size_t i = 0; i < count; ++i)
                shares[i] = foldedToOne(shares[i]);
        else
            for (std::size_t i = 0; i < count; ++i)
                shares[i] = plainToOne(shares[i]);
        if (layer.kind == HeightLayer::Kind::Ridged)
            for (std::size_t i = 0; i < count; ++i)
                shares[i] = 1 - shares[i];
        raise({shares, count}, layer.exponent);
        if (!curve.isStraight())
            for (std::size_t i = 0; i < count; ++i)
                shares[i] = curve.at(shares[i]);
        for (std::size_t i = 0; i < count; ++i)
            heights[at + i] += layer.amplitude * shares[i];
    }
}

/// Metres: the middle of a voxel on one axis of the plan.
double middleOf(const Terrain& terrain, std::int64_t voxel)
{
    return (static_cast<double>(voxel) + 0.5) * terrain.recipe.voxelMetres;
}

/// Metres: the height of a column before any layer.
double heightBelowLayers(const Terrain& terrain, std::int64_t x, std::int64_t z)
{
    const auto& map = terrain.recipe.map;
    return terrain.recipe.base + (map ? map->heightAt(middleOf(terrain, x), middleOf(terrain, z)) : 0);
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
    Ground ground;
    ground.height = heightBelowLayers(terrain, x, z);
    for (std::size_t i = 0; i < terrain.heights.size(); ++i) {
        const HeightNoise& noise = terrain.heights[i];
        const VoxelPos at{x, 0, z};
        const float east = noise.warp == 0 ? 0 : noiseAt(noise.warpEast, at) * noise.warp,
                    south = noise.warp == 0 ? 0 : noiseAt(noise.warpSouth, at) * noise.warp;
        const float first = noiseBeside(noise.first, at, east, south),
                    second = noiseBeside(noise.second, at, east, south);
        addLayer(terrain.recipe.layers[i], noise.curve, {{&first, 1}, {&second, 1}}, {&ground.height, 1});
    }
    shapeGround(landformsNear(terrain.recipe.landforms, boxOf(terrain, x, z, 1)), middleOf(terrain, x),
        middleOf(terrain, z), ground);
    return ground;
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
    if (!terrain.overhangs || slope <= terrain.recipe.overhangs->slope[0])
        return 0;
    const auto& from = *terrain.recipe.overhangs;
    const double t
        = std::clamp((static_cast<double>(slope) - from.slope[0]) / (from.slope[1] - from.slope[0]), 0.0, 1.0);
    return static_cast<float>(from.amount * terrain.voxelsPerMetre * t * t * (3 - 2 * t));
}

/// Bit i: the slope allows stratum i.
std::uint32_t allowedBySlope(const Terrain& terrain, float slope)
{
    std::uint32_t bits = 0;
    for (std::size_t i = 0; i < terrain.strata.size(); ++i) {
        const StratumRule& rule = terrain.strata[i];
        bits |= static_cast<std::uint32_t>((slope >= rule.slopeLow) & (slope < rule.slopeHigh)) << i;
    }
    return bits;
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
    column.rules = allowedBySlope(terrain, slope) & patchBits;
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

/// The heights of a square before its landforms, metres.
std::vector<double> layersOfSquare(const Terrain& terrain, const Square& square, NoiseScratch& scratch)
{
    const SampleBox box{{square.x0, 0, square.z0}, square.size, 1, square.size};
    std::vector<double> heights(box.count(), terrain.recipe.base);
    if (terrain.recipe.map)
        for (int z = 0; z < square.size; ++z)
            for (int x = 0; x < square.size; ++x)
                heights[square.index(x, z)] = heightBelowLayers(terrain, square.x0 + x, square.z0 + z);
    std::vector<float> first(box.count()), second, east, south;
    const auto sample = [&](const Noise& noise, float warp, std::vector<float>& out) {
        if (warp == 0)
            return noiseBlock(noise, box, scratch, out);
        for (std::size_t i = 0; i < out.size(); ++i) { // what is moved lies in no rows: a sample at a time
            const auto x = static_cast<std::int64_t>(i) % square.size, z = static_cast<std::int64_t>(i) / square.size;
            out[i] = noiseBeside(noise, {square.x0 + x, 0, square.z0 + z}, east[i] * warp, south[i] * warp);
        }
    };
    for (std::size_t layer = 0; layer < terrain.heights.size(); ++layer) {
        const HeightNoise& noise = terrain.heights[layer];
        if (noise.warp != 0) {
            east.resize(box.count());
            south.resize(box.count());
            noiseBlock(noise.warpEast, box, scratch, east);
            noiseBlock(noise.warpSouth, box, scratch, south);
        }
        sample(noise.first, noise.warp, first);
        if (terrain.recipe.layers[layer].isOfTwo()) {
            second.resize(box.count());
            sample(noise.second, noise.warp, second);
        }
        addLayer(terrain.recipe.layers[layer], noise.curve, {first, second}, heights);
    }
    return heights;
}

std::vector<Ground> groundOfSquare(const Terrain& terrain, const Square& square, NoiseScratch& scratch)
{
    const std::vector<double> heights = layersOfSquare(terrain, square, scratch);
    std::vector<Ground> ground(heights.size());
    constexpr int kTile = 16; // columns on a side that few landforms are near to
    for (int z0 = 0; z0 < square.size; z0 += kTile)
        for (int x0 = 0; x0 < square.size; x0 += kTile) {
            const auto near
                = landformsNear(terrain.recipe.landforms, boxOf(terrain, square.x0 + x0, square.z0 + z0, kTile));
            for (int z = z0; z < std::min(z0 + kTile, square.size); ++z)
                for (int x = x0; x < std::min(x0 + kTile, square.size); ++x) {
                    const std::size_t i = square.index(x, z);
                    ground[i].height = heights[i];
                    shapeGround(near, middleOf(terrain, square.x0 + x), middleOf(terrain, square.z0 + z), ground[i]);
                }
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
        const float above = terrain.strata[rule].patchesAbove;
        for (std::size_t i = 0; i < one.size(); ++i)
            bits[i] &= ~(static_cast<std::uint32_t>(one[i] <= above) << rule);
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
