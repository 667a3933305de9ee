// SPDX-License-Identifier: Apache-2.0
// Columns are made over a patch with a margin, so that slopes and features at its border see what lies beyond.
#include <fell/terrain/columns.h>

#include <fell/terrain/landforms.h>

#include <algorithm>
#include <cmath>
#include <span>

namespace fell::terrain {
namespace {

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
/// without a branch that depends on a column, so that compilers make it wide.
void addLayer(const HeightLayer& layer, const HeightCurve& curve, const LayerNoise& noise, std::span<double> heights)
{
    double shares[kTogether];
    for (std::size_t at = 0; at < heights.size(); at += kTogether) {
        const std::size_t count = std::min(kTogether, heights.size() - at);
        layer.kind->shares(noise.first.data() + at, noise.second.data() + at, count, shares);
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
        const float first = noiseAtOffset(noise.first, at, east, south),
                    second = noiseAtOffset(noise.second, at, east, south);
        addLayer(terrain.recipe.layers[i], noise.curve, {{&first, 1}, {&second, 1}}, {&ground.height, 1});
    }
    shapeGround(landformsNear(terrain.recipe.landforms, boxOf(terrain, x, z, 1)), middleOf(terrain, x),
        middleOf(terrain, z), ground);
    return ground;
}

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

using FeatureSpan = std::span<const std::shared_ptr<const Feature>>;

/// What covers the ground, and walls.
FeatureSpan columnFeatures(const Terrain& terrain)
{
    const auto end = std::partition_point(terrain.features.begin(), terrain.features.end(),
        [](const auto& feature) { return feature->phase() <= Feature::Phase::Wall; });
    return {terrain.features.begin(), end};
}

void changeByFeatures(FeatureSpan features, const Terrain& terrain, ColumnSample& column, const Rise& rise,
    std::int64_t x, std::int64_t z)
{
    for (const auto& feature : features)
        feature->changeColumn(terrain, rise, x, z, column);
}

template <typename ColumnOf> void placeFeatures(const Terrain& terrain, ColumnPatch& patch, const ColumnOf& columnOf)
{
    // Features at the margin must be tested against excavations too.
    const int around = 2 * terrain.margin;
    PlacedFeatures dug;
    for (const auto& feature : terrain.features)
        if (feature->phase() == Feature::Phase::Dig)
            feature->place(terrain, {patch.x0 - around, patch.z0 - around, patch.edge + 2 * around, {}, {}}, dug);
    const PlacingSquare square{patch.x0, patch.z0, patch.edge, columnOf, dug};
    for (const auto& feature : terrain.features)
        if (feature->phase() == Feature::Phase::Stand)
            feature->place(terrain, square, patch.features);
    std::copy_if(dug.begin(), dug.end(), std::back_inserter(patch.features),
        [&patch](const auto& one) { return one->reaches(patch.x0, patch.z0, patch.edge); });
}

void summarise(const Terrain& terrain, ColumnPatch& patch)
{
    patch.lowest = *std::min_element(patch.height.begin(), patch.height.end());
    patch.highest = *std::max_element(patch.height.begin(), patch.height.end());
    patch.maxPush = *std::max_element(patch.push.begin(), patch.push.end());
    const auto standing = *std::max_element(patch.wallHeight.begin(), patch.wallHeight.end());
    // Noise of these gradients stays below 1.25; the ground is never pushed further than that.
    patch.top = static_cast<std::int64_t>(std::ceil(patch.highest + 1.25f * patch.maxPush)) + standing + 1;
    patch.top = std::max(patch.top, terrain.waterLevel);
    for (const auto& feature : patch.features)
        patch.top = std::max(patch.top, feature->high.y);
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

/// A square of columns on the plan, with room for the margin around a patch.
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
            out[i] = noiseAtOffset(noise, {square.x0 + x, 0, square.z0 + z}, east[i] * warp, south[i] * warp);
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
        if (terrain.recipe.layers[layer].kind->isOfTwo) {
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

    const FeatureSpan features = columnFeatures(terrain);
    std::vector<ColumnSample> columns(ground.size());
    for (int z = 1; z + 1 < wide.size; ++z)
        for (int x = 1; x + 1 < wide.size; ++x) {
            const std::size_t i = wide.index(x, z);
            const Rise rise = riseOf(heights[i], heights[i + 1], heights[i - 1], heights[wide.index(x, z + 1)],
                heights[wide.index(x, z - 1)]);
            columns[i] = completed(terrain, ground[i], rise, bits[i]);
            changeByFeatures(features, terrain, columns[i], rise, wide.x0 + x, wide.z0 + z);
        }
    ColumnPatch patch = emptyPatch(x0, z0, edge);
    for (int z = 0; z < edge; ++z)
        for (int x = 0; x < edge; ++x)
            put(patch, x, z, columns[wide.index(x + margin, z + margin)]);
    placeFeatures(terrain, patch, [&](std::int64_t x, std::int64_t z) {
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
    placeFeatures(terrain, patch, [&](std::int64_t x, std::int64_t z) {
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
    changeByFeatures(columnFeatures(terrain), terrain, column, rise, x, z);
    return column;
}

std::uint8_t wallVoxels(const Terrain& terrain, double metres)
{
    return static_cast<std::uint8_t>(std::clamp(std::lround(metres * terrain.voxelsPerMetre), 0L, 250L));
}

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

float groundHeight(const Terrain& terrain, std::int64_t x, std::int64_t z)
{
    return heightInVoxels(terrain, sampleGround(terrain, x, z));
}

} // namespace fell::terrain
