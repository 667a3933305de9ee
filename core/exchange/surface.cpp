// SPDX-License-Identifier: Apache-2.0
#include <fell/exchange/surface.h>

#include <fell/stream/chunk_builder.h>
#include <fell/stream/level_source.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>

namespace fell::exchange {
namespace {

/// Generates chunks when asked for, sharing columns, and keeps them for the neighbours still to come.
class ChunkSource {
public:
    ChunkSource(const Terrain& terrain, const Setup& setup, const WorldChanges* changes)
        : m_source(std::shared_ptr<const Terrain>(std::shared_ptr<void>(), &terrain),
            *findGenerator(setup.generate.method), setup.chunk.edge, kMaxColumns, changes)
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
    static constexpr std::size_t kMaxColumns = 4096;
    LevelSource m_source;
    std::map<ChunkPos, VoxelChunk> m_chunks;
};

/// The part of a quad that lies in the box, in voxels from its lower corner; nothing if none does.
std::optional<SurfaceQuad> cutAt(const VoxelBox& box, ChunkPos chunk, int edge, const QuadFields& q)
{
    const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
    const VoxelPos at = originOf(chunk, edge) + VoxelPos{q.x, q.y, q.z} - box.low, size = box.high - box.low;
    std::array<std::int64_t, 3> low{at.x, at.y, at.z}, high = low;
    const std::array<std::int64_t, 3> max{size.x, size.y, size.z};
    high[a] += 1;
    high[u] += q.width;
    high[v] += q.height;
    for (std::size_t axis = 0; axis < 3; ++axis) {
        low[axis] = std::max<std::int64_t>(low[axis], 0);
        high[axis] = std::min(high[axis], max[axis]);
        if (low[axis] >= high[axis])
            return std::nullopt;
    }
    return SurfaceQuad{
        {static_cast<std::int32_t>(low[0]), static_cast<std::int32_t>(low[1]), static_cast<std::int32_t>(low[2])},
        static_cast<std::int32_t>(high[u] - low[u]), static_cast<std::int32_t>(high[v] - low[v]), q.side, q.material};
}

/// The shaped blocks of a chunk that stand in the box.
void addShapes(const PaddedVoxels& voxels, const SideRules& rules, VoxelPos origin, BoxSurface& out)
{
    const int edge = voxels.edge;
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x) {
                const Material material = voxels.at(x, y, z);
                const VoxelPos at = origin + VoxelPos{x, y, z}, in = at - out.box.low;
                if (!rules.shapes[material] || in.x < 0 || in.y < 0 || in.z < 0 || at.x >= out.box.high.x
                    || at.y >= out.box.high.y || at.z >= out.box.high.z)
                    continue;
                const unsigned covered = coveredSides(voxels, rules, {x, y, z}, material);
                const glm::vec3 from{in.x, in.y, in.z};
                ++out.shapedBlocks;
                for (const ShapeTriangle& triangle : rules.shapes[material]->triangles)
                    if (!triangle.on || !(covered >> static_cast<unsigned>(*triangle.on) & 1u))
                        out.triangles.push_back(
                            {{from + triangle.corners[0], from + triangle.corners[1], from + triangle.corners[2]},
                                triangle.normal, material, triangle.colour});
            }
}

/// The triangles of a mesher whose voxels lie in the box: a triangle's middle lies on or in its voxel.
void addTriangles(const TriangleList& triangles, VoxelPos origin, BoxSurface& out)
{
    const VoxelPos to = origin - out.box.low;
    const glm::vec3 from{to.x, to.y, to.z};
    const VoxelPos size = out.box.high - out.box.low;
    for (std::size_t i = 0; i < triangles.count(); ++i) {
        std::array<glm::vec3, 3> corners;
        for (std::size_t c = 0; c < 3; ++c) {
            const auto& place = triangles.corner(i, c).place;
            corners[c] = from + glm::vec3{place[0], place[1], place[2]} / kMeshUnit;
        }
        const auto& n = triangles.corner(i, 0).normal;
        const glm::vec3 normal = glm::vec3{n[0], n[1], n[2]} / 127.0F;
        const glm::vec3 inside = (corners[0] + corners[1] + corners[2]) / 3.0F - normal * 0.01F;
        const bool isIn = inside.x >= 0 && inside.y >= 0 && inside.z >= 0 && inside.x < static_cast<float>(size.x)
            && inside.y < static_cast<float>(size.y) && inside.z < static_cast<float>(size.z);
        if (isIn)
            out.triangles.push_back(
                {corners, normal, static_cast<Material>(triangles.corner(i, 0).material), std::nullopt});
    }
}

void addChunk(ChunkSource& source, const BuildRules& rules, BuildScratch& scratch, ChunkPos chunk, BoxSurface& out)
{
    Neighbourhood around;
    for (std::int64_t i = 0; i < 27; ++i) {
        const ChunkPos offset{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1};
        around.chunks[neighbourIndex(offset)] = &source.at(chunk + offset);
    }
    // Without AO: faces are merged whatever lies next to them.
    const ChunkSurface& surface = buildSurface(around, *rules.meshing.mesher, {&rules.sides, false}, scratch);
    const VoxelPos origin = originOf(chunk, rules.edge);
    for (const Quad quad : surface.all())
        if (const auto part = cutAt(out.box, chunk, rules.edge, unpackQuad(quad)))
            out.quads.push_back(*part);
    addShapes(scratch.voxels, rules.sides, origin, out);
    addTriangles(surface.triangles, origin, out);
}

} // namespace

Outcome<VoxelBox> parseBox(const std::string& text)
{
    const Problem wrong{"--box " + text, "",
        "six whole numbers x0,y0,z0,x1,y1,z1 are expected, each of the last three above its partner"};
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

BoxSurface surfaceOf(const Terrain& terrain, const Setup& setup, const VoxelBox& box,
    const std::function<bool(double share)>& progress, const WorldChanges* changes)
{
    const int edge = setup.chunk.edge;
    const ChunkPos low = chunkOf(box.low, edge), high = chunkOf(box.high - VoxelPos{1, 1, 1}, edge);
    ChunkSource source(terrain, setup, changes);
    const BuildRules rules(terrain.recipe.blocks, setup);
    BuildScratch scratch;
    BoxSurface out{box, {}, {}, 0};
    for (std::int64_t x = low.x; x <= high.x; ++x) {
        source.forgetBelow(x - 1);
        for (std::int64_t z = low.z; z <= high.z; ++z) {
            const auto done = static_cast<double>((x - low.x) * (high.z - low.z + 1) + z - low.z),
                       all = static_cast<double>((high.x - low.x + 1) * (high.z - low.z + 1));
            for (std::int64_t y = low.y; y <= high.y; ++y) {
                if (progress && !progress(done / all))
                    return out;
                addChunk(source, rules, scratch, {x, y, z}, out);
            }
        }
    }
    return out;
}

std::optional<std::int64_t> groundAt(const Terrain& terrain, const VoxelBox& box, const WorldChanges* changes)
{
    const std::int64_t x = (box.low.x + box.high.x) / 2, z = (box.low.z + box.high.z) / 2;
    std::optional<std::int64_t> ground;
    if (terrain.recipe.pattern)
        ground = topOf(*terrain.recipe.pattern);
    else
        ground = static_cast<std::int64_t>(std::ceil(groundHeight(terrain, x, z)));
    if (terrain.recipe.pattern && !ground)
        return std::nullopt;
    const ChunkPos column = chunkOf({x, 0, z}, kKeptEdge);
    const auto built = changes ? changes->top(column.x, column.z, kKeptEdge, 0) : std::nullopt;
    return built ? std::max(ground.value_or(INT64_MIN), *built) : ground;
}

} // namespace fell::exchange
