// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/nrrd.h>

#include <fell/stream/level_source.h>
#include <fell/stream/terrain_sky.h>

#include <algorithm>

namespace fell::exchange {
namespace {

constexpr int kEdge = 32; // of the chunks in which the box is made

struct Extent {
    ChunkPos low, high; // both inside
    VoxelPos size; // voxels of the box
};

Extent extentOf(const VoxelBox& box)
{
    return {chunkOf(box.low, kEdge), chunkOf(box.high - VoxelPos{1, 1, 1}, kEdge), box.high - box.low};
}

/// The voxels of a chunk that lie in the box: visit(index in the chunk, index in the box).
template <typename Visit> void eachVoxel(const VoxelBox& box, const Extent& extent, ChunkPos chunk, const Visit& visit)
{
    const VoxelPos origin = originOf(chunk, kEdge);
    const auto from = [](std::int64_t low, std::int64_t at) { return std::max<std::int64_t>(0, low - at); };
    const auto to = [](std::int64_t high, std::int64_t at) { return std::min<std::int64_t>(kEdge, high - at); };
    for (std::int64_t z = from(box.low.z, origin.z); z < to(box.high.z, origin.z); ++z)
        for (std::int64_t y = from(box.low.y, origin.y); y < to(box.high.y, origin.y); ++y)
            for (std::int64_t x = from(box.low.x, origin.x); x < to(box.high.x, origin.x); ++x) {
                const VoxelPos in = origin + VoxelPos{x, y, z} - box.low;
                visit(static_cast<std::size_t>((y * kEdge + z) * kEdge + x),
                    static_cast<std::size_t>((in.z * extent.size.y + in.y) * extent.size.x + in.x));
            }
}

std::size_t countOf(const Extent& extent)
{
    return static_cast<std::size_t>(extent.size.x * extent.size.y * extent.size.z);
}

std::string sizesOf(const Extent& extent)
{
    return std::to_string(extent.size.x) + " " + std::to_string(extent.size.y) + " " + std::to_string(extent.size.z);
}

std::string numbers(std::initializer_list<int> values)
{
    std::string out;
    for (const int value : values)
        out += (out.empty() ? "" : ",") + std::to_string(value);
    return out;
}

/// What every material is, for one who reads the numbers.
std::string materialsOf(const BlockSet& blocks)
{
    std::string out;
    for (std::size_t m = 0; m < blocks.kinds.size(); ++m) {
        const BlockKind& kind = blocks.kinds[m];
        const BlockLight& light = kind.light;
        out += "material " + std::to_string(m) + ":=" + kind.name + " opacity " + std::to_string(light.opacity)
            + " tint " + numbers({light.tint[0], light.tint[1], light.tint[2]}) + " gives "
            + numbers({light.emission[0], light.emission[1], light.emission[2]}) + "\n";
    }
    return out;
}

std::string originText(const VoxelBox& box)
{
    return "origin:=" + std::to_string(box.low.x) + " " + std::to_string(box.low.y) + " " + std::to_string(box.low.z)
        + "\n";
}

/// Chunks as the recipe makes them, and what was changed over that. The terrain outlives it.
LevelSource sourceOf(const Terrain& terrain, const Generator& generator, const WorldChanges* changes)
{
    constexpr std::size_t kMaxColumns = 4096;
    return {std::shared_ptr<const Terrain>(std::shared_ptr<void>(), &terrain), generator, kEdge, kMaxColumns, changes};
}

template <typename Visit>
bool eachChunk(ChunkPos low, ChunkPos high, const std::function<bool()>& stop, const Visit& visit)
{
    for (std::int64_t y = low.y; y <= high.y; ++y)
        for (std::int64_t z = low.z; z <= high.z; ++z)
            for (std::int64_t x = low.x; x <= high.x; ++x) {
                if (stop && stop())
                    return false;
                visit(ChunkPos{x, y, z});
            }
    return true;
}

/// "red,green,blue,sky": where lamps are coloured too, those of the sky say so.
std::string channelNames(const LightMode& mode)
{
    std::string names = mode.lamps == 1 ? "lamp," : mode.lamps == 3 ? "red,green,blue," : "";
    names += mode.sky == 1 ? "sky," : mode.sky == 3 ? "sky red,sky green,sky blue," : "";
    return names.substr(0, names.size() - 1);
}

/// The box's chunks and one ring around them as light sees them.
struct LitBlock {
    std::vector<Transmission> passes;
    std::vector<SkyHeightMap> floors;
    LightBlock block;
};

} // namespace

ExportFile voxelsToNrrd(const Terrain& terrain, const Generator& generator, const VoxelBox& box,
    const std::function<bool()>& stop, const WorldChanges* changes)
{
    const Extent extent = extentOf(box);
    ExportFile file;
    file.bytes = "NRRD0005\n# axes x, y, z; y is up; material numbers\ntype: uint16\ndimension: 3\nsizes: "
        + sizesOf(extent) + "\nlabels: \"x\" \"y\" \"z\"\nendian: little\nencoding: raw\n" + originText(box)
        + materialsOf(terrain.recipe.blocks) + "\n";
    const std::size_t header = file.bytes.size();
    file.bytes.resize(header + 2 * countOf(extent));
    LevelSource source = sourceOf(terrain, generator, changes);
    eachChunk(extent.low, extent.high, stop, [&](ChunkPos chunk) {
        const std::vector<Material> voxels = source.voxels(chunk).voxels();
        eachVoxel(box, extent, chunk, [&](std::size_t from, std::size_t to) {
            file.bytes[header + 2 * to] = static_cast<char>(voxels[from] & 0xFF);
            file.bytes[header + 2 * to + 1] = static_cast<char>(voxels[from] >> 8);
        });
    });
    file.count.bytes = file.bytes.size();
    return file;
}

ExportFile lightToNrrd(const Terrain& terrain, const Generator& generator, const LightMode& mode, const VoxelBox& box,
    const std::function<bool()>& stop, const WorldChanges* changes)
{
    const Extent extent = extentOf(box);
    const auto channels = static_cast<std::size_t>(mode.channels());
    ExportFile file;
    file.bytes = "NRRD0005\n# axes channel, x, y, z; y is up; levels 0 to 15\ntype: uint8\ndimension: 4\nsizes: "
        + std::to_string(channels) + " " + sizesOf(extent) + "\nlabels: \"channel\" \"x\" \"y\" \"z\"\nencoding: raw\n"
        + originText(box) + "channels:=" + channelNames(mode)
        + "\nrule:=a level is the highest of what the block gives, 15 under open sky (nothing but voxels of opacity "
          "and "
          "tint 0 from here up), and a neighbour's level less max(1, opacity + tint), at least 0; a single channel "
          "goes by "
          "the largest of gives and the least tint\n"
        + materialsOf(terrain.recipe.blocks) + "\n";
    const std::size_t header = file.bytes.size();
    file.bytes.resize(header + channels * countOf(extent));

    const LightRules rules = lightRulesOf(terrain.recipe.blocks, mode);
    LevelSource source = sourceOf(terrain, generator, changes);
    LitBlock lit;
    const ChunkPos ring{1, 1, 1}, low = extent.low - ring, high = extent.high + ring, size = high - low + ring;
    lit.block.rules = &rules;
    lit.block.edge = kEdge;
    lit.block.size = {static_cast<int>(size.x), static_cast<int>(size.y), static_cast<int>(size.z)};
    lit.block.y0 = originOf(low, kEdge).y;
    eachChunk({low.x, 0, low.z}, {high.x, 0, high.z}, stop, [&](ChunkPos column) {
        lit.floors.push_back(floorBelow(
            column, kEdge, source.top(column.x, column.z), [&source](ChunkPos chunk) { return source.voxels(chunk); },
            rules, lit.block.y0));
    });
    eachChunk(
        low, high, stop, [&](ChunkPos chunk) { lit.passes.push_back(transmissionOf(source.voxels(chunk), rules)); });
    if (stop && stop())
        return file;
    for (const Transmission& passes : lit.passes)
        lit.block.passes.push_back(&passes);
    for (const SkyHeightMap& floor : lit.floors)
        lit.block.floors.push_back(&floor);
    // Layer by layer of chunks, so that not all levels are held at once.
    FloodScratch scratch;
    const ChunkPos inner = extent.high - extent.low + ring;
    for (int y = 0; y < inner.y && !(stop && stop()); ++y) {
        const LightPart part{{1, 1 + y, 1}, {static_cast<int>(inner.x) + 1, 2 + y, static_cast<int>(inner.z) + 1}};
        const std::vector<ChunkLight> lights = floodBlock(lit.block, part, scratch);
        for (std::size_t i = 0; i < lights.size(); ++i) {
            const auto at = static_cast<std::int64_t>(i);
            eachVoxel(box, extent, extent.low + ChunkPos{at % inner.x, y, at / inner.x},
                [&](std::size_t from, std::size_t to) {
                    for (std::size_t c = 0; c < channels; ++c)
                        file.bytes[header + to * channels + c]
                            = static_cast<char>(lights[i].at(static_cast<int>(c), from));
                });
        }
    }
    file.count.bytes = file.bytes.size();
    return file;
}

} // namespace fell::exchange
