// SPDX-License-Identifier: Apache-2.0
#include "mesh/chunk_mesh.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>

namespace fell {
namespace {

/// Where in the voxel that a quad record begins lies, as one number to sort by.
std::uint64_t voxelOf(Quad quad)
{
    return quad & 0x3FFFF;
}

/// In voxel 0, 0, 0.
ShapeVertex vertexOf(const ShapeTriangle& triangle, std::size_t corner, Material material)
{
    ShapeVertex vertex;
    vertex.material = material & 0xFFF; // below kMostBlockKinds
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const auto i = static_cast<int>(axis);
        const float place = triangle.corners[corner][i] * kShapeUnit;
        // Halves go up, below 0 too: so a shape is the same in every voxel, and may be moved as whole numbers.
        vertex.place[axis] = static_cast<std::int16_t>(std::floor(place + 0.5F));
        vertex.normal[axis] = static_cast<std::int8_t>(std::lround(triangle.normal[i] * 127));
    }
    constexpr float kUpward = 0.5F; // above, a surface shows the top of its block
    vertex.part = triangle.colour ? 3 : triangle.normal.y > kUpward ? 0 : triangle.normal.y < -kUpward ? 2 : 1;
    if (triangle.colour)
        vertex.colour = static_cast<std::uint16_t>(
            triangle.colour->r >> 3 << 11 | triangle.colour->g >> 2 << 5 | triangle.colour->b >> 3);
    return vertex;
}

Side sideOf(Quad quad)
{
    return static_cast<Side>(quad >> 30 & 7);
}

/// Brings the quads of each direction together, so that those turned away can be left out of a draw. Meshers that work
/// direction by direction have them so.
void sortBySide(QuadList& quads)
{
    const auto before = [](Quad a, Quad b) { return sideOf(a) < sideOf(b); };
    if (!std::is_sorted(quads.begin(), quads.end(), before))
        std::stable_sort(quads.begin(), quads.end(), before);
}

/// Quads of one matter, with the light and the rim of each beside them, or none.
struct SurfaceView {
    std::span<const Quad> quads;
    std::span<const QuadLight> lights;
    std::span<const Rim> rims;
};
struct Surface {
    LitQuads lit;
    std::vector<Rim> rims;
    [[nodiscard]] SurfaceView view() const { return {lit.quads, lit.lights, rims}; }
    void clear()
    {
        lit.clear();
        rims.clear();
    }
};

/// Quads over which light runs come last, so that the others can be drawn without interpolating it. Counts both by
/// direction; each keeps its order.
SurfaceView gradedLast(const SurfaceView& from, Surface& to, ChunkMesh& mesh)
{
    const auto isGraded = [&from](std::size_t i) {
        const auto& at = from.lights[i].corners;
        return (at[0] & kInCells) != 0 || at[0] != at[1] || at[1] != at[2] || at[2] != at[3];
    };
    std::size_t gradedCount = 0;
    for (std::size_t i = 0; i < from.quads.size(); ++i) {
        const bool graded = !from.lights.empty() && isGraded(i);
        ++(graded ? mesh.graded : mesh.sides)[static_cast<std::size_t>(sideOf(from.quads[i]))];
        gradedCount += graded;
    }
    if (gradedCount == 0)
        return from;
    to.lit.quads.resize(from.quads.size());
    to.lit.lights.resize(from.quads.size());
    to.rims.resize(from.rims.size());
    std::array<std::size_t, 2> next{0, from.quads.size() - gradedCount};
    for (std::size_t i = 0; i < from.quads.size(); ++i) {
        const std::size_t at = next[isGraded(i)]++;
        to.lit.quads[at] = from.quads[i];
        to.lit.lights[at] = from.lights[i];
        for (PackedLight& corner : to.lit.lights[at].corners)
            corner &= ~kInCells; // where it lies says so now
        if (!from.rims.empty())
            to.rims[at] = from.rims[i];
    }
    return to.view();
}

template <typename Visit> void forEachShape(const PaddedVoxels& voxels, const SideRules& rules, const Visit& visit)
{
    if (rules.solidCubes + 1u == rules.matter.size())
        return; // no other kind exists
    for (int y = 0; y < voxels.edge; ++y)
        for (int z = 0; z < voxels.edge; ++z) {
            const Material* row = voxels.voxels.data() + voxels.index(0, y, z);
            Material most = 0; // hardly any row holds one: this loop is a few wide instructions
            for (int x = 0; x < voxels.edge; ++x)
                most = std::max(most, row[x]);
            if (most <= rules.solidCubes)
                continue;
            for (int x = 0; x < voxels.edge; ++x)
                if (row[x] > rules.solidCubes && rules.shapes[row[x]])
                    visit(std::array<int, 3>{x, y, z}, row[x]);
        }
}

constexpr std::array<ModelMode, 2> kModelModes{{
    {"baked", "baked into the mesh", "Shaped blocks are part of their chunk's mesh: no draw of their own."},
    {"objects", "an object each", "One draw for each shaped block: there to show what that costs."},
}};

} // namespace

std::span<const ModelMode> modelModes()
{
    return kModelModes;
}

void bakeShapes(
    const PaddedVoxels& voxels, const SideRules& rules, std::vector<ShapeVertex>& out, const PaddedLight* light)
{
    // The kinds of this chunk, each in voxel 0, 0, 0 and dark: a wood of lamp posts is one post, moved and lit. Both
    // add to a vertex' eight 16-bit words, without a carry: light's bits are 0 so far, and places never leave theirs.
    using Words = std::array<std::uint16_t, sizeof(ShapeVertex) / 2>;
    struct Kind {
        Material material = kOpen;
        std::vector<Words> vertices;
        std::vector<std::uint8_t> sides; // of its triangles: the side that each lies on, as a bit, or 0
    };
    std::vector<Kind> kinds;
    const auto kindOf = [&](Material material) -> const Kind& {
        for (const Kind& kind : kinds)
            if (kind.material == material)
                return kind;
        Kind& kind = kinds.emplace_back();
        kind.material = material;
        const BlockShape& shape = *rules.shapes[material];
        for (const ShapeVertex& vertex : shapeVertices(shape, material))
            kind.vertices.push_back(std::bit_cast<Words>(vertex));
        for (const ShapeTriangle& triangle : shape.triangles)
            kind.sides.push_back(
                static_cast<std::uint8_t>(triangle.on ? 1u << static_cast<unsigned>(*triangle.on) : 0u));
        return kind;
    };
    forEachShape(voxels, rules, [&](const std::array<int, 3>& at, Material material) {
        const BlockShape& shape = *rules.shapes[material];
        const Kind& kind = kindOf(material);
        unsigned covered = 0; // sides, a bit each
        for (const Side side : kSides) {
            const auto s = static_cast<std::size_t>(side);
            const ChunkPos to = towards(side);
            const Material there = voxels.at(
                at[0] + static_cast<int>(to.x), at[1] + static_cast<int>(to.y), at[2] + static_cast<int>(to.z));
            // A foot too small to count as covering anything still lies on the side: whatever covers all hides it.
            const bool small = shape.covers[s] == 0 && rules.matter[there] == Matter::Solid
                && rules.covers[there][static_cast<std::size_t>(opposite(side))] != kCoversAll;
            covered |= static_cast<unsigned>(!small && !isSideSeen(rules, material, there, side)) << s;
        }
        ShapeVertex difference;
        for (std::size_t axis = 0; axis < 3; ++axis)
            difference.place[axis] = static_cast<std::int16_t>(at[axis] * static_cast<int>(kShapeUnit));
        if (light)
            difference.setLight(lightOfShape(*light, at[0], at[1], at[2]));
        const auto more = std::bit_cast<Words>(difference);
        const std::size_t first = out.size();
        out.resize(first + kind.vertices.size());
        ShapeVertex* to = out.data() + first;
        for (std::size_t triangle = 0; triangle < kind.sides.size(); ++triangle) {
            if ((kind.sides[triangle] & covered) != 0)
                continue;
            for (std::size_t i = triangle * 3; i < triangle * 3 + 3; ++i) {
                Words words = kind.vertices[i];
                for (std::size_t w = 0; w < words.size(); ++w)
                    words[w] = static_cast<std::uint16_t>(words[w] + more[w]);
                *to++ = std::bit_cast<ShapeVertex>(words);
            }
        }
        out.resize(static_cast<std::size_t>(to - out.data()));
    });
}

std::vector<ShapeVertex> shapeVertices(const BlockShape& shape, Material material)
{
    std::vector<ShapeVertex> out;
    for (const ShapeTriangle& triangle : shape.triangles)
        for (std::size_t corner = 0; corner < 3; ++corner)
            out.push_back(vertexOf(triangle, corner, material));
    return out;
}

void meshQuads(const PaddedVoxels& voxels, const ChunkMeshOptions& options, ChunkQuads& out)
{
    out.clear();
    options.mesher->mesh(voxels, options.rules, out);
    if (!options.byBlock) {
        sortBySide(out.in(Matter::Solid));
        return;
    }
    auto sides = unitSides(out.in(Matter::Solid));
    std::stable_sort(sides.begin(), sides.end(), [](Quad a, Quad b) { return voxelOf(a) < voxelOf(b); });
    out.in(Matter::Solid).assign(sides.begin(), sides.end());
}

namespace {

/// The box of the voxels that are other kinds than before, one round the chunk included; nothing of another edge.
std::optional<ChunkBox> differenceOf(const PaddedVoxels& before, const PaddedVoxels& now)
{
    if (before.edge != now.edge)
        return std::nullopt;
    ChunkBox box{{now.edge, now.edge, now.edge}, {-1, -1, -1}, 0};
    const auto isAlike = [&](std::size_t first, std::size_t count) {
        return std::memcmp(before.voxels.data() + first, now.voxels.data() + first, count * sizeof(Material)) == 0;
    };
    const auto across = static_cast<std::size_t>(now.stride());
    for (int y = -1; y <= now.edge; ++y)
        for (int z = isAlike(now.index(-1, y, -1), across * across) ? now.edge + 1 : -1; z <= now.edge; ++z)
            for (int x = isAlike(now.index(-1, y, z), across) ? now.edge + 1 : -1; x <= now.edge; ++x) {
                if (before.at(x, y, z) == now.at(x, y, z))
                    continue;
                const std::array<int, 3> at{x, y, z};
                for (std::size_t axis = 0; axis < 3; ++axis) {
                    box.low[axis] = std::min(box.low[axis], at[axis]);
                    box.high[axis] = std::max(box.high[axis], at[axis] + 1);
                }
                ++box.voxels;
            }
    return box;
}

/// `before`: of the same chunk, to be taken over from; its quads and what was baked of them are then those of now.
/// `differs`: the voxels that are others since; nothing where none of it holds.
ChunkMesh layOut(const PaddedVoxels& voxels, const ChunkQuads& quads, const ChunkMeshOptions& options,
    const PaddedLight* light, const SeamQuads* seams, MeshedBefore* before, const std::optional<ChunkBox>& differs)
{
    constexpr auto kSolid = static_cast<std::size_t>(Matter::Solid);
    thread_local std::array<Surface, kMatterCount> baked, rimmed;
    thread_local Surface sorted;
    ChunkMesh mesh;
    mesh.lit = light != nullptr;
    const bool hasCells = light && options.lightCells && !options.byBlock;
    if (hasCells)
        mesh.cells.begin(light->channels);
    std::array<SurfaceView, kMatterCount> lists;
    for (std::size_t m = 0; m < kMatterCount; ++m) {
        lists[m].quads = quads.of[m];
        LightCells* cells = hasCells && m == kSolid ? &mesh.cells : nullptr;
        const auto bake = [&] {
            baked[m].clear();
            bakeLight(lists[m].quads, *light, {options.flatLight, m == static_cast<std::size_t>(Matter::SeeThrough)},
                baked[m].lit, cells, before && cells ? &before->baked : nullptr);
            lists[m] = {baked[m].lit.quads, baked[m].lit.lights, lists[m].rims};
        };
        // A rim may cut a quad, and so may light: but not with cells, which must be those of the quads that are drawn.
        if (light && !cells)
            bake();
        if (options.rims) {
            rimmed[m].clear();
            std::optional<RimsBefore> known;
            if (before && differs && cells && before->rims.size() == before->baked.lit.quads.size())
                known = {before->baked.lit.quads, before->rims, *differs};
            addRims(voxels, *options.rules.sides, lists[m].quads, lists[m].lights, rimmed[m].lit, rimmed[m].rims,
                known ? &*known : nullptr);
            lists[m] = rimmed[m].view();
        }
        if (light && cells)
            bake();
        if (before && cells) {
            before->baked.lit = baked[m].lit;
            before->baked.cells = *cells;
            before->rims.assign(lists[m].rims.begin(), lists[m].rims.end());
        }
        mesh.quads[m] = static_cast<std::uint32_t>(lists[m].quads.size());
    }
    if (!options.byBlock)
        lists[kSolid] = gradedLast(lists[kSolid], sorted, mesh);
    if (seams)
        mesh.quads[0] += static_cast<std::uint32_t>(seams->count());
    const std::size_t quadBytes = options.layout->bytesPerQuad(mesh.lit);
    mesh.vertices.resize(mesh.quadCount() * quadBytes);
    std::byte* to = mesh.vertices.data();
    const auto write = [&](std::span<const Quad> list, std::span<const QuadLight> lights) {
        options.layout->write(list, mesh.lit ? lights : std::span<const QuadLight>(), to);
        to += list.size() * quadBytes;
    };
    for (std::size_t m = 0; m < kMatterCount; ++m) {
        write(lists[m].quads, lists[m].lights);
        mesh.rims.insert(mesh.rims.end(), lists[m].rims.begin(), lists[m].rims.end());
        if (m != kSolid || !seams)
            continue;
        for (std::size_t side = 0; side < kSideCount; ++side) {
            mesh.seams[side] = static_cast<std::uint32_t>(seams->quads[side].size());
            write(seams->quads[side], seams->lights[side]);
        }
        if (options.rims)
            mesh.rims.resize(mesh.rims.size() + seams->count(), 0);
    }
    if (options.byBlock) { // a side of one voxel is never cut
        const auto sides = lists[kSolid].quads;
        for (std::uint32_t i = 0; i < sides.size(); ++i) {
            if (i == 0 || voxelOf(sides[i]) != voxelOf(sides[i - 1]))
                mesh.blocks.push_back({i, 0});
            ++mesh.blocks.back().count;
        }
    }
    for (const Matter matter : {Matter::SeeThrough, Matter::Liquid}) {
        const auto list = lists[static_cast<std::size_t>(matter)].quads;
        mesh.clear.insert(mesh.clear.end(), list.begin(), list.end());
    }
    if (options.bakeShapes) {
        thread_local std::vector<ShapeVertex> shapes; // so that a mesh takes memory once
        shapes.clear();
        bakeShapes(voxels, *options.rules.sides, shapes, light);
        mesh.shapes.assign(shapes.begin(), shapes.end());
    } else
        forEachShape(voxels, *options.rules.sides, [&](const std::array<int, 3>& at, Material material) {
            mesh.objects.push_back(
                {{static_cast<std::uint8_t>(at[0]), static_cast<std::uint8_t>(at[1]), static_cast<std::uint8_t>(at[2])},
                    material, light ? lightOfShape(*light, at[0], at[1], at[2]) : 0});
        });
    return mesh;
}

} // namespace

ChunkMesh layOutMesh(const PaddedVoxels& voxels, const ChunkQuads& quads, const ChunkMeshOptions& options,
    const PaddedLight* light, const SeamQuads* seams)
{
    return layOut(voxels, quads, options, light, seams, nullptr, std::nullopt);
}

ChunkMesh buildChunkMesh(const PaddedVoxels& voxels, const ChunkMeshOptions& options, const PaddedLight* light)
{
    thread_local ChunkQuads quads;
    meshQuads(voxels, options, quads);
    return layOutMesh(voxels, quads, options, light);
}

ChunkMesh meshAgain(PaddedVoxels& voxels, const ChunkMeshOptions& options, PaddedLight* light, const SeamQuads* seams,
    MeshedBefore& before)
{
    const auto differs = differenceOf(before.voxels, voxels);
    if (!differs || !differs->isEmpty())
        meshQuads(voxels, options, before.quads);
    ChunkMesh mesh = layOut(voxels, before.quads, options, light, seams, &before, differs);
    std::swap(before.voxels, voxels);
    if (light)
        std::swap(before.baked.light, *light);
    return mesh;
}

} // namespace fell
