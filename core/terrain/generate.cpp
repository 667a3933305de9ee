// SPDX-License-Identifier: Apache-2.0
// Two generators: a voxel at a time, and a block of noise and a row of voxels at a time. What a voxel is made of is
// decided in the same order in both: density, caves, strata, cover, water, walls, features.
#include <fell/terrain/generate.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace fell::terrain {
namespace {

constexpr float kNoiseBound = 1.25f; // noise of these gradients stays below it

/// The lowest and highest y, relative to the chunk, for which `low <= ground - y` can be and so on.
struct Layers {
    int from = 0, to = 0; // [from, to) of the chunk's layers
    [[nodiscard]] bool any() const { return from < to; }
    [[nodiscard]] bool holds(int y) const { return y >= from && y < to; }
};

Layers layersBetween(double low, double high, std::int64_t y0, int edge)
{
    const double a = std::floor(low) - static_cast<double>(y0), b = std::ceil(high) - static_cast<double>(y0);
    return {static_cast<int>(std::clamp(a, 0.0, static_cast<double>(edge))),
        static_cast<int>(std::clamp(b, 0.0, static_cast<double>(edge)))};
}

struct CaveLimits {
    float depthLow = 0, depthHigh = 0, squared = 0;
};

CaveLimits caveLimits(const Terrain& terrain)
{
    if (!terrain.recipe.caves)
        return {};
    const Caves& caves = *terrain.recipe.caves;
    const auto voxels = [&](double metres) { return static_cast<float>(metres * terrain.voxelsPerMetre); };
    return {voxels(caves.depth[0]), voxels(caves.depth[1]), static_cast<float>(caves.width * caves.width)};
}

bool inBand(const StratumRule& rule, VoxelPos at)
{
    // Wraps around beyond 2^47 voxels, where the bands start again: unsigned, so that this is defined.
    const auto unsignedOf = [](std::int64_t value) { return static_cast<std::uint64_t>(value); };
    const auto phase = static_cast<std::int64_t>(unsignedOf(at.y) * 65536U + unsignedOf(at.x) * unsignedOf(rule.dipX)
        + unsignedOf(at.z) * unsignedOf(rule.dipZ));
    const std::int64_t rest = phase % rule.every;
    return (rest < 0 ? rest + rule.every : rest) < rule.thickness;
}

bool altitudeAllows(const StratumRule& rule, std::int64_t y)
{
    const auto at = static_cast<double>(y);
    return at >= rule.altitudeLow && at < rule.altitudeHigh;
}

// ---- patterns -------------------------------------------------------------------------------------------------

Material patternAt(const Pattern& pattern, std::uint64_t seed, VoxelPos at)
{
    switch (pattern.kind) {
    case Pattern::Kind::Level:
        return at.y < 0 ? pattern.material : kOpen;
    case Pattern::Kind::Checker:
        return ((at.x + at.y + at.z) & 1) ? kOpen : pattern.material;
    case Pattern::Kind::Dust: {
        const std::uint64_t dice = mix64(seed + hashOf({at.x, at.y, at.z}));
        return static_cast<double>(dice >> 11) * 0x1p-53 < pattern.fill ? pattern.material : kOpen;
    }
    case Pattern::Kind::Solid:
        return pattern.material;
    case Pattern::Kind::Built: // box by box: buildChunk
        break;
    }
    return kOpen;
}

std::int64_t within(std::int64_t at, int every)
{
    return (at % every + every) % every;
}

/// Where a voxel of a level has its middle among those of level 0, on one axis.
std::int64_t middleOf(std::int64_t voxel, int level)
{
    return (voxel << level) + (1 << level >> 1);
}

VoxelChunk buildChunk(const Pattern& pattern, int level, VoxelPos origin, int edge)
{
    const auto e = static_cast<std::size_t>(edge);
    std::vector<Material> voxels(e * e * e, kOpen);
    // Where each row of the chunk lies in the part that is repeated.
    std::vector<std::int64_t> xs(e), ys(e), zs(e);
    for (std::size_t i = 0; i < e; ++i) {
        const auto at = static_cast<std::int64_t>(i);
        xs[i] = within(middleOf(origin.x + at, level), pattern.every[0]);
        ys[i] = middleOf(origin.y + at, level);
        zs[i] = within(middleOf(origin.z + at, level), pattern.every[1]);
        if (ys[i] < pattern.top)
            std::fill_n(voxels.begin() + static_cast<std::ptrdiff_t>(i * e * e), e * e, pattern.material);
    }
    for (const Pattern::Box& box : pattern.boxes)
        for (std::size_t y = 0; y < e; ++y)
            for (std::size_t z = 0; z < e && ys[y] >= box.low[1] && ys[y] < box.high[1]; ++z)
                for (std::size_t x = 0; x < e && zs[z] >= box.low[2] && zs[z] < box.high[2]; ++x)
                    if (xs[x] >= box.low[0] && xs[x] < box.high[0])
                        voxels[(y * e + z) * e + x] = box.material;
    return VoxelChunk(edge, std::move(voxels));
}

VoxelChunk patternChunk(const Terrain& terrain, VoxelPos origin, int edge)
{
    const Pattern& pattern = *terrain.recipe.pattern;
    if (pattern.kind == Pattern::Kind::Solid)
        return VoxelChunk(edge, pattern.material);
    if (pattern.kind == Pattern::Kind::Built)
        return buildChunk(pattern, terrain.level, origin, edge);
    const auto at = [&terrain](std::int64_t voxel) { return middleOf(voxel, terrain.level); };
    std::vector<Material> voxels;
    voxels.reserve(static_cast<std::size_t>(edge) * edge * edge);
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                voxels.push_back(
                    patternAt(pattern, terrain.recipe.seed, {at(origin.x + x), at(origin.y + y), at(origin.z + z)}));
    return VoxelChunk(edge, std::move(voxels));
}

/// What is placed and what is dug, in the patch's order.
void stampFeatures(const Terrain& terrain, const ColumnPatch& patch, VoxelPos origin, std::vector<Material>& voxels)
{
    for (const auto& feature : patch.features)
        feature->stamp(terrain, origin, patch.edge, voxels);
}

// ---- a voxel at a time ----------------------------------------------------------------------------------------

struct Column {
    float height, push;
    std::uint32_t rules;
    Material cover, wall;
    int wallHeight;
};

Column columnOf(const ColumnPatch& patch, int x, int z)
{
    const auto i = static_cast<std::size_t>(z * patch.edge + x);
    return {patch.height[i], patch.push[i], patch.rules[i], patch.cover[i], patch.wall[i], patch.wallHeight[i]};
}

/// Does the wall of `column` cover height yc above its ground?
bool inWall(const Column& column, float yc)
{
    const float base = std::floor(column.height);
    return column.wall != kOpen && yc < base + 1.0f + static_cast<float>(column.wallHeight);
}

Material groundMaterial(const Terrain& terrain, const Column& column, float depth, VoxelPos at)
{
    if (column.cover != kOpen && depth < 1.0f)
        return column.cover;
    for (std::size_t i = 0; i < terrain.strata.size(); ++i) {
        const StratumRule& rule = terrain.strata[i];
        if ((column.rules >> i & 1) && depth >= rule.depthLow && depth < rule.depthHigh && altitudeAllows(rule, at.y)
            && (!rule.banded || inBand(rule, at)))
            return rule.material;
    }
    return terrain.strata.back().material;
}

Material sampleVoxel(const Terrain& terrain, const CaveLimits& caves, const Column& column, VoxelPos at)
{
    const float yc = static_cast<float>(at.y) + 0.5f;
    const float depth = column.height - yc;
    float density = depth;
    if (column.push != 0 && std::abs(depth) <= kNoiseBound * column.push)
        density = depth + column.push * noiseAt(*terrain.overhangs, at);
    if (!(density > 0)) {
        if (at.y < terrain.waterLevel)
            return terrain.recipe.water;
        return depth <= 0 && inWall(column, yc) ? column.wall : kOpen;
    }
    if (terrain.caveA && depth > caves.depthLow && depth < caves.depthHigh) {
        const float a = noiseAt(*terrain.caveA, at), b = noiseAt(*terrain.caveB, at);
        if (a * a + b * b < caves.squared)
            return kOpen;
    }
    return groundMaterial(terrain, column, depth, at);
}

VoxelChunk voxelsBySamples(const Terrain& terrain, const ColumnPatch& patch, ChunkPos chunk)
{
    const int edge = patch.edge;
    const VoxelPos origin = originOf(chunk, edge);
    if (terrain.recipe.pattern)
        return patternChunk(terrain, origin, edge);
    const CaveLimits caves = caveLimits(terrain);
    std::vector<Material> voxels;
    voxels.reserve(static_cast<std::size_t>(edge) * edge * edge);
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                voxels.push_back(sampleVoxel(terrain, caves, columnOf(patch, x, z), origin + VoxelPos{x, y, z}));
    stampFeatures(terrain, patch, origin, voxels);
    return VoxelChunk(edge, std::move(voxels));
}

// ---- a block at a time ----------------------------------------------------------------------------------------

constexpr int kWidest = 64; // the largest chunk edge: rows live on the stack

/// Noise over those layers of a chunk that need it.
struct NoiseLayers {
    Layers layers;
    std::vector<float> values;
    [[nodiscard]] const float* row(int y, int z, int edge) const
    {
        return values.data() + static_cast<std::size_t>((y - layers.from) * edge + z) * static_cast<std::size_t>(edge);
    }
    void sample(const Noise& noise, VoxelPos origin, int edge, NoiseScratch& scratch)
    {
        const SampleBox box{origin + VoxelPos{0, layers.from, 0}, edge, layers.to - layers.from, edge};
        values.resize(box.count());
        noiseBlock(noise, box, scratch, values);
    }
};

/// Memory of one thread's generator.
struct BlockScratch {
    NoiseScratch noise;
    NoiseLayers overhangs, caveA, caveB;
};

/// Paints the strata of one row over `out`, last rule first, so that the first that holds is what stays.
void paintStrata(
    const Terrain& terrain, const float* depth, const std::uint32_t* rules, VoxelPos at, int edge, std::int32_t* out)
{
    float min = depth[0], max = depth[0];
    for (int x = 1; x < edge; ++x) {
        min = std::min(min, depth[x]);
        max = std::max(max, depth[x]);
    }
    const std::int32_t fallback = terrain.strata.back().material;
    std::fill_n(out, edge, fallback);
    for (std::size_t i = terrain.strata.size(); i-- > 0;) {
        const StratumRule& rule = terrain.strata[i];
        if (!altitudeAllows(rule, at.y) || max < rule.depthLow || min >= rule.depthHigh)
            continue;
        std::int32_t allowed[kWidest];
        const auto bit = static_cast<int>(i);
        for (int x = 0; x < edge; ++x)
            allowed[x] = static_cast<std::int32_t>(rules[x] >> bit & 1) & (depth[x] >= rule.depthLow)
                & (depth[x] < rule.depthHigh);
        if (rule.banded)
            for (int x = 0; x < edge; ++x)
                if (allowed[x])
                    allowed[x] = inBand(rule, at + VoxelPos{x, 0, 0});
        const std::int32_t material = rule.material;
        for (int x = 0; x < edge; ++x)
            out[x] = allowed[x] ? material : out[x];
    }
}

/// Walls stand in few columns of few chunks, so they are put in afterwards, a voxel at a time.
void putWalls(const ColumnPatch& patch, VoxelPos origin, std::int64_t waterLevel, std::vector<Material>& voxels)
{
    const int edge = patch.edge;
    for (int z = 0; z < edge; ++z)
        for (int x = 0; x < edge; ++x) {
            const Column column = columnOf(patch, x, z);
            if (column.wall == kOpen)
                continue;
            // A wall ends at the ground below it; what is air below its top is wall, not caves.
            for (int y = 0; y < edge; ++y) {
                const float yc = static_cast<float>(origin.y + y) + 0.5f;
                const bool open = column.height - yc <= 0;
                Material& voxel = voxels[static_cast<std::size_t>((y * edge + z) * edge + x)];
                if (open && voxel == kOpen && origin.y + y >= waterLevel && inWall(column, yc))
                    voxel = column.wall;
            }
        }
}

/// One row of voxels along x. Long because it is the order of the decisions, one loop each, that matters.
void generateRow(const Terrain& terrain, const CaveLimits& caves, const ColumnPatch& patch, const BlockScratch& scratch,
    VoxelPos origin, int y, int z, Material* out)
{
    const int edge = patch.edge;
    const auto first = static_cast<std::size_t>(z * edge);
    const float* height = patch.height.data() + first;
    const float* push = patch.push.data() + first;
    const VoxelPos at = origin + VoxelPos{0, y, z};
    const float yc = static_cast<float>(at.y) + 0.5f;

    float depth[kWidest];
    std::int32_t solid[kWidest], material[kWidest];
    for (int x = 0; x < edge; ++x) {
        depth[x] = height[x] - yc;
        solid[x] = depth[x] > 0;
    }
    if (scratch.overhangs.layers.holds(y)) {
        const float* noise = scratch.overhangs.row(y, z, edge);
        for (int x = 0; x < edge; ++x) {
            const float density
                = std::abs(depth[x]) <= kNoiseBound * push[x] ? depth[x] + push[x] * noise[x] : depth[x];
            solid[x] = density > 0;
        }
    }
    std::int32_t any = 0;
    for (int x = 0; x < edge; ++x)
        any |= solid[x];
    const std::int32_t open = at.y < terrain.waterLevel ? terrain.recipe.water : kOpen;
    if (!any) {
        std::fill_n(out, edge, static_cast<Material>(open));
        return;
    }
    paintStrata(terrain, depth, patch.rules.data() + first, at, edge, material);
    if (patch.anyCover)
        for (int x = 0; x < edge; ++x) {
            const Material cover = patch.cover[first + static_cast<std::size_t>(x)];
            material[x] = cover != kOpen && depth[x] < 1.0f ? cover : material[x];
        }
    if (scratch.caveA.layers.holds(y)) {
        const float *a = scratch.caveA.row(y, z, edge), *b = scratch.caveB.row(y, z, edge);
        for (int x = 0; x < edge; ++x) {
            const bool hollow
                = depth[x] > caves.depthLow && depth[x] < caves.depthHigh && a[x] * a[x] + b[x] * b[x] < caves.squared;
            material[x] = hollow ? kOpen : material[x];
        }
    }
    for (int x = 0; x < edge; ++x)
        out[x] = static_cast<Material>(solid[x] ? material[x] : open);
}

VoxelChunk voxelsByBlocks(const Terrain& terrain, const ColumnPatch& patch, ChunkPos chunk)
{
    thread_local BlockScratch scratch;
    const int edge = patch.edge;
    const VoxelPos origin = originOf(chunk, edge);
    if (terrain.recipe.pattern)
        return patternChunk(terrain, origin, edge);
    if (origin.y >= patch.top)
        return VoxelChunk(edge, kOpen);
    const double pushed = kNoiseBound * patch.maxPush;
    const bool hasFeature = std::any_of(patch.features.begin(), patch.features.end(),
        [&](const auto& one) { return one->low.y < origin.y + edge && one->high.y > origin.y; });
    if (!hasFeature
        && static_cast<double>(origin.y + edge) < patch.lowest - std::max<double>(terrain.deepest, pushed) - 1)
        return VoxelChunk(edge, terrain.strata.back().material);

    const CaveLimits caves = caveLimits(terrain);
    scratch.overhangs.layers = patch.maxPush > 0
        ? layersBetween(patch.lowest - pushed - 1, patch.highest + pushed + 1, origin.y, edge)
        : Layers{};
    if (scratch.overhangs.layers.any())
        scratch.overhangs.sample(*terrain.overhangs, origin, edge, scratch.noise);
    const Layers hollow = terrain.caveA
        ? layersBetween(patch.lowest - caves.depthHigh - 1, patch.highest - caves.depthLow + 1, origin.y, edge)
        : Layers{};
    scratch.caveA.layers = scratch.caveB.layers = hollow;
    if (hollow.any()) {
        scratch.caveA.sample(*terrain.caveA, origin, edge, scratch.noise);
        scratch.caveB.sample(*terrain.caveB, origin, edge, scratch.noise);
    }
    std::vector<Material> voxels(static_cast<std::size_t>(edge) * edge * edge);
    Material* out = voxels.data();
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z, out += edge)
            generateRow(terrain, caves, patch, scratch, origin, y, z, out);
    if (patch.anyWall)
        putWalls(patch, origin, terrain.waterLevel, voxels);
    stampFeatures(terrain, patch, origin, voxels);
    return VoxelChunk(edge, std::move(voxels));
}

constexpr std::array<Generator, 2> kGenerators{{
    {"samples", "by voxels", "Evaluates the noise per voxel: the reference for the other method.", columnsBySamples,
        voxelsBySamples},
    {"blocks", "by blocks",
        "Hashes each lattice point once a chunk and runs along rows; the same voxels in a fraction of the time.",
        columnsByBlocks, voxelsByBlocks},
}};

} // namespace

std::span<const Generator> generators()
{
    return kGenerators;
}

const Generator* findGenerator(std::string_view id)
{
    const auto found
        = std::find_if(kGenerators.begin(), kGenerators.end(), [id](const Generator& g) { return g.id == id; });
    return found == kGenerators.end() ? nullptr : &*found;
}

Material surfaceMaterial(const Terrain& terrain, const ColumnPatch& columns, int x, int z)
{
    const Column column = columnOf(columns, x, z);
    const auto y = static_cast<std::int64_t>(std::ceil(column.height - 0.5F)) - 1; // its middle lies below the ground
    if (y + 1 < terrain.waterLevel)
        return terrain.recipe.water;
    if (column.wall != kOpen)
        return column.wall;
    const float depth = column.height - (static_cast<float>(y) + 0.5F);
    return groundMaterial(terrain, column, depth, {columns.x0 + x, y, columns.z0 + z});
}

std::vector<Material> voxelsAt(
    const Terrain& terrain, const ColumnPatch& columns, ChunkPos chunk, std::span<const VoxelPos> places)
{
    const int edge = columns.edge;
    const VoxelPos origin = originOf(chunk, edge);
    std::vector<Material> out;
    out.reserve(places.size());
    if (terrain.recipe.pattern) {
        const VoxelChunk all = patternChunk(terrain, origin, edge);
        for (const VoxelPos& at : places)
            out.push_back(all.at(static_cast<int>(at.x), static_cast<int>(at.y), static_cast<int>(at.z)));
        return out;
    }
    // Scatter is written into a whole chunk, of which only these places are valid.
    std::vector<Material> voxels(static_cast<std::size_t>(edge) * edge * edge, kOpen);
    const CaveLimits caves = caveLimits(terrain);
    const auto indexOf
        = [edge](const VoxelPos& at) { return static_cast<std::size_t>((at.y * edge + at.z) * edge + at.x); };
    for (const VoxelPos& at : places)
        voxels[indexOf(at)] = sampleVoxel(
            terrain, caves, columnOf(columns, static_cast<int>(at.x), static_cast<int>(at.z)), origin + at);
    stampFeatures(terrain, columns, origin, voxels);
    for (const VoxelPos& at : places)
        out.push_back(voxels[indexOf(at)]);
    return out;
}

VoxelChunk generateChunk(const Generator& generator, const Terrain& terrain, ChunkPos chunk, int edge)
{
    const VoxelPos origin = originOf(chunk, edge);
    return generator.voxels(terrain, generator.columns(terrain, origin.x, origin.z, edge), chunk);
}

} // namespace fell::terrain
