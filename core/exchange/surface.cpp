// SPDX-License-Identifier: Apache-2.0
#include "exchange/surface.h"

#include "stream/level_source.h"

#include <algorithm>
#include <charconv>
#include <map>

namespace fell {
namespace {

/// Generates chunks when asked for, sharing columns, and keeps them for the neighbours still to come.
class ChunkSource {
public:
    ChunkSource(const Terrain& terrain, const Setup& setup, const WorldChanges* changes)
        : m_source(std::shared_ptr<const Terrain>(std::shared_ptr<void>(), &terrain),
            *findGenerator(setup.generate.method), setup.chunk.edge, kMostColumns, changes)
    {
    }

    const VoxelChunk& at(ChunkPos chunk)
    {
        if (const auto found = m_chunks.find(chunk); found != m_chunks.end())
            return found->second;
        return m_chunks.emplace(chunk, m_source.voxels(chunk)).first->second;
    }

    /// Forgets what no chunk with this x or a higher one can need any more.
    void forgetBelow(std::int64_t x)
    {
        std::erase_if(m_chunks, [x](const auto& entry) { return entry.first.x < x; });
    }

private:
    static constexpr std::size_t kMostColumns = 4096;
    LevelSource m_source;
    std::map<ChunkPos, VoxelChunk> m_chunks;
};

void addChunk(ChunkSource& source, const SideRules& rules, ChunkPos chunk, int edge, const VoxelBox& box,
    std::vector<SurfaceSide>& out)
{
    Neighbourhood around;
    for (std::int64_t i = 0; i < 27; ++i) {
        const ChunkPos offset{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1};
        around.chunks[neighbourIndex(offset)] = &source.at(chunk + offset);
    }
    PaddedVoxels padded;
    gather(around, padded);
    ChunkQuads quads;
    meshExposedSides(padded, {&rules, false}, quads); // merged quads could not be cut at the box
    for (const Quad quad : quads.all()) {
        const QuadFields q = unpackQuad(quad);
        const VoxelPos at = originOf(chunk, edge) + VoxelPos{q.x, q.y, q.z};
        const VoxelPos in = at - box.low;
        if (in.x >= 0 && in.y >= 0 && in.z >= 0 && at.x < box.high.x && at.y < box.high.y && at.z < box.high.z)
            out.push_back(
                {{static_cast<std::int32_t>(in.x), static_cast<std::int32_t>(in.y), static_cast<std::int32_t>(in.z)},
                    q.side, q.material});
    }
}

} // namespace

Outcome<VoxelBox> parseBox(const std::string& text)
{
    const Problem wrong{"--box " + text, "",
        "six whole numbers x0,y0,z0,x1,y1,z1 are wanted, each of the last three above its partner"};
    std::array<std::int64_t, 6> n{};
    const char *at = text.data(), *end = at + text.size();
    for (std::size_t i = 0; i < 6; ++i) {
        const auto read = std::from_chars(at, end, n[i]);
        if (read.ec != std::errc{} || (i < 5 ? read.ptr == end || *read.ptr != ',' : read.ptr != end))
            return wrong;
        at = read.ptr + (i < 5);
    }
    constexpr std::int64_t kFarthest = std::int64_t{1} << 50;
    std::int64_t volume = 1;
    for (std::size_t i = 0; i < 3; ++i) {
        if (n[i + 3] <= n[i])
            return wrong;
        if (n[i] < -kFarthest || n[i] > kFarthest || n[i + 3] > kFarthest || n[i + 3] - n[i] > kLongestExport)
            return Problem{
                "--box " + text, "", "at most 1024 voxels along an axis, at most 2^50 from the origin, are allowed"};
        volume *= n[i + 3] - n[i];
    }
    if (volume > kLargestExport)
        return Problem{"--box " + text, "", "at most 134217728 voxels (512 cubed) are allowed"};
    return VoxelBox{{n[0], n[1], n[2]}, {n[3], n[4], n[5]}};
}

std::vector<SurfaceSide> surfaceOf(const Terrain& terrain, const Setup& setup, const VoxelBox& box,
    const std::function<bool()>& stop, const WorldChanges* changes)
{
    const int edge = setup.chunk.edge;
    const ChunkPos low = chunkOf(box.low, edge), high = chunkOf(box.high - VoxelPos{1, 1, 1}, edge);
    ChunkSource source(terrain, setup, changes);
    const SideRules rules = sideRulesOf(terrain.recipe.blocks);
    std::vector<SurfaceSide> out;
    for (std::int64_t x = low.x; x <= high.x; ++x) {
        source.forgetBelow(x - 1);
        for (std::int64_t z = low.z; z <= high.z; ++z)
            for (std::int64_t y = low.y; y <= high.y; ++y) {
                if (stop && stop())
                    return out;
                addChunk(source, rules, {x, y, z}, edge, box, out);
            }
    }
    return out;
}

std::array<std::array<int, 3>, 4> cornersOf(const SurfaceSide& side)
{
    return cornersOf(QuadFields{side.voxel[0], side.voxel[1], side.voxel[2], 1, 1, side.side, side.material});
}

} // namespace fell
