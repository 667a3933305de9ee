// SPDX-License-Identifier: Apache-2.0
#include <fell/terrain/recipe_map.h>

#include <fell/grid/all_processors.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>

namespace fell::terrain {
namespace {

constexpr int kBlock = 128; // columns that are worked out together
constexpr int kSectionEdge = 32; // of the chunks that a section goes through

constexpr std::array<MapLookChoice, 5> kLooks{{
    {MapLook::Relief, "relief", "Relief", "The materials, shaded by a light in the north-west."},
    {MapLook::Height, "height", "Height", "Dark is low, light is high."},
    {MapLook::Slope, "slope", "Slope", "Dark is level, light is a metre up a metre along or steeper."},
    {MapLook::Top, "material", "Material", "What lies on top, unshaded."},
    {MapLook::Cost, "cost", "Cost", "What a column took to work out: light is dearest."},
}};

/// The level whose voxels are as long as `metres`, or the next shorter one.
int levelFor(const Terrain& terrain, double metres)
{
    const double voxels = metres * terrain.voxelsPerMetre;
    return std::clamp(static_cast<int>(std::floor(std::log2(std::max(1.0, voxels)) + 1e-9)), 0, kMaxLevel);
}

/// Pixels next to each other on one axis whose voxels lie in one block, and those voxels in it.
struct Run {
    std::int64_t block; // its lowest voxel
    int first; // pixel
    std::vector<int> voxels; // one a pixel
};

std::vector<Run> runsOf(double middle, int pixels, double metresPerPixel, double voxelMetres)
{
    const double low = (middle - metresPerPixel * (pixels - 1) / 2) / voxelMetres, step = metresPerPixel / voxelMetres;
    std::vector<Run> runs;
    for (int pixel = 0; pixel < pixels; ++pixel) {
        const auto voxel = static_cast<std::int64_t>(std::floor(low + step * pixel));
        const std::int64_t block = (voxel >= 0 ? voxel : voxel - kBlock + 1) / kBlock * kBlock;
        if (runs.empty() || runs.back().block != block)
            runs.push_back({block, pixel, {}});
        runs.back().voxels.push_back(static_cast<int>(voxel - block));
    }
    return runs;
}

/// The columns of one block and what the pixels over them show.
void drawBlock(const Terrain& terrain, double voxelMetres, const Run& xs, const Run& zs, TerrainMap& map)
{
    const auto start = std::chrono::steady_clock::now();
    const ColumnPatch patch = columnsByBlocks(terrain, xs.block, zs.block, kBlock);
    const double ns = std::chrono::duration<double, std::nano>(std::chrono::steady_clock::now() - start).count();
    for (std::size_t row = 0; row < zs.voxels.size(); ++row) {
        std::size_t at = (static_cast<std::size_t>(zs.first) + row) * static_cast<std::size_t>(map.width)
            + static_cast<std::size_t>(xs.first);
        const int z = zs.voxels[row];
        for (const int x : xs.voxels) {
            map.heights[at] = patch.height[static_cast<std::size_t>(z * kBlock + x)] * static_cast<float>(voxelMetres);
            map.materials[at] = surfaceMaterial(terrain, patch, x, z);
            map.columnNs[at] = static_cast<float>(ns / (kBlock * kBlock));
            ++at;
        }
    }
}

/// The slopes of one row of pixels.
void slopesOfRow(TerrainMap& map, int y)
{
    const auto width = static_cast<std::size_t>(map.width);
    const auto rowAt = [&](int row) {
        return map.heights.data() + width * static_cast<std::size_t>(std::clamp(row, 0, map.height - 1));
    };
    const float *here = rowAt(y), *north = rowAt(y - 1), *south = rowAt(y + 1);
    const double apart = 2 * map.metresPerPixel;
    float* out = map.slopes.data() + width * static_cast<std::size_t>(y);
    for (std::size_t x = 0; x < width; ++x) {
        const double up = (here[std::min(x + 1, width - 1)] - here[x == 0 ? 0 : x - 1]) / apart,
                     across = (south[x] - north[x]) / apart;
        out[x] = static_cast<float>(std::sqrt(up * up + across * across));
    }
}

/// From dark blue over green to pale yellow, even in lightness.
std::array<std::uint8_t, 3> evenColour(double share)
{
    const double t = std::clamp(share, 0.0, 1.0);
    constexpr std::array<std::array<double, 3>, 5> kStops{
        {{34, 28, 74}, {42, 84, 122}, {56, 134, 116}, {140, 180, 92}, {240, 232, 160}}};
    const double at = t * (kStops.size() - 1);
    const auto i = std::min(static_cast<std::size_t>(at), kStops.size() - 2);
    std::array<std::uint8_t, 3> out{};
    for (std::size_t c = 0; c < 3; ++c)
        out[c] = static_cast<std::uint8_t>(
            std::lround(kStops[i][c] + (kStops[i + 1][c] - kStops[i][c]) * (at - static_cast<double>(i))));
    return out;
}

/// How much a slope is lit, 0 to 1, from the north-west at 45 degrees.
double shadeAt(const TerrainMap& map, int x, int y)
{
    const auto height = [&](int px, int py) {
        const auto cx = static_cast<std::size_t>(std::clamp(px, 0, map.width - 1)),
                   cy = static_cast<std::size_t>(std::clamp(py, 0, map.height - 1));
        return static_cast<double>(map.heights[cy * static_cast<std::size_t>(map.width) + cx]);
    };
    const double east = (height(x + 1, y) - height(x - 1, y)) / (2 * map.metresPerPixel),
                 south = (height(x, y + 1) - height(x, y - 1)) / (2 * map.metresPerPixel);
    constexpr double kAlong = 0.5, kUp = 0.70710678;
    return std::clamp((kUp + kAlong * east + kAlong * south) / std::sqrt(1 + east * east + south * south), 0.0, 1.0);
}

} // namespace

std::span<const MapLookChoice> mapLooks()
{
    return kLooks;
}

TerrainMap mapOf(const Terrain& terrain, const MapSpec& spec, const std::stop_token& stop)
{
    TerrainMap map{.width = spec.width,
        .height = spec.height,
        .metresPerPixel = spec.metresPerPixel,
        .heights = {},
        .slopes = {},
        .materials = {},
        .columnNs = {}};
    if (terrain.recipe.pattern)
        return {};
    const auto pixels = static_cast<std::size_t>(spec.width) * static_cast<std::size_t>(spec.height);
    map.heights.resize(pixels);
    map.slopes.resize(pixels);
    map.materials.resize(pixels);
    map.columnNs.resize(pixels);
    const int level = levelFor(terrain, spec.metresPerPixel);
    const auto whole = coarserTerrain(terrain, level);
    Terrain bare = *whole; // scatter is not sampled, so the margin that it needs is not either
    std::erase_if(bare.features, [](const auto& feature) { return feature->phase() >= Feature::Phase::Stand; });
    bare.margin = 1;
    const double voxelMetres = std::ldexp(1 / terrain.voxelsPerMetre, level);
    const auto xs = runsOf(spec.middle[0], spec.width, spec.metresPerPixel, voxelMetres),
               zs = runsOf(spec.middle[1], spec.height, spec.metresPerPixel, voxelMetres);
    onAllProcessors(xs.size() * zs.size(), [&](std::size_t i) {
        if (!stop.stop_requested())
            drawBlock(bare, voxelMetres, xs[i % xs.size()], zs[i / xs.size()], map);
    });
    const auto [min, max] = std::minmax_element(map.heights.begin(), map.heights.end());
    map.min = *min;
    map.max = *max;
    for (int y = 0; y < spec.height; ++y)
        slopesOfRow(map, y);
    return map;
}

std::vector<std::uint8_t> pictureOf(const TerrainMap& map, const BlockSet& blocks, MapLook look)
{
    std::vector<std::uint8_t> out;
    out.reserve(3 * map.heights.size());
    float costliest = 0;
    for (const float ns : map.columnNs)
        costliest = std::max(costliest, ns);
    const double range = std::max(1e-6, static_cast<double>(map.max) - map.min);
    for (int y = 0; y < map.height; ++y)
        for (int x = 0; x < map.width; ++x) {
            const auto at
                = static_cast<std::size_t>(y) * static_cast<std::size_t>(map.width) + static_cast<std::size_t>(x);
            std::array<std::uint8_t, 3> colour{};
            if (look == MapLook::Height) {
                colour = evenColour((map.heights[at] - map.min) / range);
            } else if (look == MapLook::Slope) {
                colour = evenColour(map.slopes[at]);
            } else if (look == MapLook::Cost) {
                colour = evenColour(costliest > 0 ? map.columnNs[at] / costliest : 0);
            } else {
                const BlockKind& kind = blocks.kinds[map.materials[at]];
                const double shade
                    = look == MapLook::Relief && kind.matter == Matter::Solid ? 0.35 + 0.92 * shadeAt(map, x, y) : 1.0;
                const auto lit
                    = [shade](std::uint8_t c) { return static_cast<std::uint8_t>(std::clamp(c * shade, 0.0, 255.0)); };
                colour = {lit(kind.top.r), lit(kind.top.g), lit(kind.top.b)};
            }
            out.insert(out.end(), colour.begin(), colour.end());
        }
    return out;
}

/// The lowest and the highest ground at every fourth column, in metres. `placeOf`: the voxel of a column.
template <typename PlaceOf>
static std::pair<double, double> groundRange(
    const Terrain& terrain, const Terrain& coarse, int columns, double voxelMetres, const PlaceOf& placeOf)
{
    double min = 1e18, max = -1e18;
    for (int c = 0; c < columns; c += 4) {
        const VoxelPos at = placeOf(c);
        const double ground
            = terrain.recipe.pattern ? 0 : static_cast<double>(groundHeight(coarse, at.x, at.z)) * voxelMetres;
        min = std::min(min, ground);
        max = std::max(max, ground);
    }
    return {min, max};
}

TerrainSection sectionOf(const Terrain& terrain, const SectionSpec& spec, const std::stop_token& stop)
{
    const double length = std::hypot(spec.to[0] - spec.from[0], spec.to[1] - spec.from[1]);
    TerrainSection out{.columns = spec.columns, .rows = spec.rows, .metresPerCell = length / spec.columns, .cells = {}};
    const int level = levelFor(terrain, out.metresPerCell);
    const auto coarse = coarserTerrain(terrain, level);
    const double voxelMetres = std::ldexp(1 / terrain.voxelsPerMetre, level);
    const auto placeOf = [&](int column) {
        const double t = (column + 0.5) / spec.columns;
        const auto voxel = [&](std::size_t axis) {
            return static_cast<std::int64_t>(
                std::floor((spec.from[axis] + (spec.to[axis] - spec.from[axis]) * t) / voxelMetres));
        };
        return VoxelPos{voxel(0), 0, voxel(1)};
    };
    const auto [min, max] = groundRange(terrain, *coarse, spec.columns, voxelMetres, placeOf);
    // The whole of the ground if it fits, with a quarter of the picture above the highest place at most.
    const double shown = spec.rows * out.metresPerCell;
    out.top = std::max(max + shown * 0.12, (min + max) / 2 + shown / 4);
    out.cells.resize(static_cast<std::size_t>(spec.columns) * static_cast<std::size_t>(spec.rows), kOpen);
    std::vector<std::int64_t> ys; // of each row
    for (int r = 0; r < spec.rows; ++r)
        ys.push_back(static_cast<std::int64_t>(std::floor((out.top - (r + 0.5) * out.metresPerCell) / voxelMetres)));
    std::map<std::pair<std::int64_t, std::int64_t>, std::vector<int>> columns; // by the chunk they lie in, on the plan
    for (int c = 0; c < spec.columns; ++c) {
        const ChunkPos chunk
            = chunkOf(placeOf(c), kSectionEdge); // voxels of the level: chunkOf counts those of level 0
        columns[{chunk.x, chunk.z}].push_back(c);
    }
    const std::vector groups(columns.begin(), columns.end());
    onAllProcessors(groups.size(), [&](std::size_t g) {
        const auto& [plan, members] = groups[g];
        if (stop.stop_requested())
            return;
        const ColumnPatch patch
            = columnsByBlocks(*coarse, plan.first * kSectionEdge, plan.second * kSectionEdge, kSectionEdge);
        for (std::size_t r = 0, next = 0; r < ys.size(); r = next) {
            ChunkPos chunk = chunkOf({plan.first * kSectionEdge, ys[r], plan.second * kSectionEdge}, kSectionEdge);
            const VoxelPos origin = originOf(chunk, kSectionEdge);
            chunk.level = level;
            for (next = r; next < ys.size() && ys[next] >= origin.y;)
                ++next;
            std::vector<VoxelPos> places;
            for (std::size_t row = r; row < next; ++row)
                for (const int c : members) {
                    const VoxelPos on = placeOf(c);
                    places.push_back(VoxelPos{on.x, ys[row], on.z} - origin);
                }
            const std::vector<Material> found = voxelsAt(*coarse, patch, chunk, places);
            auto from = found.begin();
            for (std::size_t row = r; row < next; ++row)
                for (const int c : members)
                    out.cells[row * static_cast<std::size_t>(spec.columns) + static_cast<std::size_t>(c)] = *from++;
        }
    });
    return out;
}

} // namespace fell::terrain
