// SPDX-License-Identifier: Apache-2.0
// Blocks whose edges towards air are cut at 45 degrees.
//
// The solid is that of the cubes without the wedge along each cut edge. An edge of a solid cube is cut where the two
// voxels next to it and the one across it are open air, so whatever is cut lies before air alone, and no two air voxels
// are joined that were apart. A cut ends where the next cube along the edge is not cut: a cap closes it, also
// below the corner of a side whose own edges are not cut, where it has no thickness. Where all three edges of a corner
// are cut they meet in one point, half a cut inside.
#include <fell/mesh/meshers.h>

#include <algorithm>
#include <cmath>
#include <span>

namespace fell::mesh {
namespace {

constexpr int kUnit = static_cast<int>(kMeshUnit), kCut = kUnit / 8; // 1/256 voxel

using Step = std::array<int, 3>;
using Point = std::array<int, 3>; // 1/256 voxel from the chunk's lowest corner

Step stepOf(std::size_t axis, int sign)
{
    Step step{};
    step[axis] = sign;
    return step;
}

Step sum(const Step& a, const Step& b)
{
    return {a[0] + b[0], a[1] + b[1], a[2] + b[2]};
}

class Bevelling {
public:
    Bevelling(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
        : m_voxels(voxels)
        , m_sides(*rules.sides)
        , m_isShaded(rules.shadeTriangles)
        , m_out(out)
    {
    }

    /// One side of a cube: a quad where none of its edges is cut, else its middle and the cuts that it begins.
    void side(Quad quad)
    {
        const QuadFields q = unpackQuad(quad);
        m_voxel = {q.x, q.y, q.z};
        m_material = q.material;
        const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
        const int sign = signOf(q.side);
        const Step out = stepOf(a, sign);
        std::array<std::array<bool, 2>, 2> isCut{}; // by u or v, low or high
        for (const int s : {0, 1}) {
            isCut[0][static_cast<std::size_t>(s)] = cuts(m_voxel, out, stepOf(u, 2 * s - 1));
            isCut[1][static_cast<std::size_t>(s)] = cuts(m_voxel, out, stepOf(v, 2 * s - 1));
        }
        if (!isCut[0][0] && !isCut[0][1] && !isCut[1][0] && !isCut[1][1]) {
            m_out.in(Matter::Solid).push_back(quad);
            return;
        }
        middle(a, sign, isCut);
        for (const std::size_t along : {0U, 1U})
            for (const int s : {0, 1}) {
                const std::size_t other = along == 0 ? u : v;
                if (isCut[along][static_cast<std::size_t>(s)] && a < other) // the other side has it too
                    edge(a, sign, other, 2 * s - 1);
            }
    }

private:
    struct Corner {
        Point at{};
        int darkness = 0;
    };

    [[nodiscard]] Material at(const Step& voxel) const { return m_voxels.at(voxel[0], voxel[1], voxel[2]); }
    [[nodiscard]] bool isAir(const Step& voxel) const { return at(voxel) == kOpen; }

    /// Is the edge between two sides of a solid cube cut? All of it lies within one voxel of `voxel`.
    [[nodiscard]] bool cuts(const Step& voxel, const Step& one, const Step& two) const
    {
        return m_sides.isSolidCube(at(voxel)) && isAir(sum(voxel, one)) && isAir(sum(voxel, two))
            && isAir(sum(sum(voxel, one), two));
    }

    /// A place in the voxel: each coordinate is its side in that direction, less an inset.
    [[nodiscard]] Point place(const Step& directions, const Step& insets) const
    {
        Point out{};
        for (std::size_t axis = 0; axis < 3; ++axis)
            out[axis] = m_voxel[axis] * kUnit + (directions[axis] > 0 ? kUnit - insets[axis] : insets[axis]);
        return out;
    }

    /// How dark the corner of a side is that lies in these directions.
    [[nodiscard]] int darknessOf(std::size_t axis, const Step& directions) const
    {
        if (!m_isShaded)
            return 0;
        const std::size_t u = (axis + 1) % 3, v = (axis + 2) % 3;
        const Side side = sideOf(axis, directions[axis]);
        const std::uint8_t ambientOcclusion
            = cornerOcclusion(m_voxels, m_sides, m_voxel[0], m_voxel[1], m_voxel[2], side);
        const int corner = directions[v] > 0 ? (directions[u] > 0 ? 2 : 3) : (directions[u] > 0 ? 1 : 0);
        return cornerDarkness(ambientOcclusion, corner);
    }

    static Side sideOf(std::size_t axis, int sign) { return static_cast<Side>(2 * axis + (sign > 0 ? 0 : 1)); }

    /// Triangles in one plane that share corners, of which each triangle names three.
    void face(std::span<const Corner> corners, std::span<const std::array<std::uint8_t, 3>> triangles,
        const std::array<float, 3>& normal, Material material)
    {
        TriangleList& to = m_out.triangles;
        const auto first = static_cast<std::uint32_t>(to.vertices.size());
        for (const Corner& corner : corners) {
            MeshVertex& vertex = to.vertices.emplace_back();
            for (std::size_t axis = 0; axis < 3; ++axis) {
                vertex.place[axis] = static_cast<std::int16_t>(corner.at[axis]);
                vertex.normal[axis] = static_cast<std::int8_t>(std::lround(normal[axis] * 127));
            }
            vertex.material = material & 0xFFF; // below kMaxBlockKinds
            vertex.part = partOf(normal[1]);
            vertex.darkness = static_cast<std::uint8_t>(corner.darkness) & 3U;
        }
        for (const auto& [i, j, k] : triangles) {
            const bool isTurned = towards(corners[i].at, corners[j].at, corners[k].at, normal) < 0;
            for (const std::uint8_t corner : {i, isTurned ? k : j, isTurned ? j : k})
                to.indices.push_back(first + corner);
        }
    }

    /// Above 0: seen from where the normal looks to, the triangle goes counter-clockwise.
    static float towards(const Point& a, const Point& b, const Point& c, const std::array<float, 3>& normal)
    {
        float sum = 0;
        for (std::size_t i = 0; i < 3; ++i) {
            const std::size_t j = (i + 1) % 3, k = (i + 2) % 3;
            sum += static_cast<float>((b[j] - a[j]) * (c[k] - a[k]) - (b[k] - a[k]) * (c[j] - a[j])) * normal[i];
        }
        return sum;
    }

    /// What is left of a side: a rectangle.
    void middle(std::size_t a, int sign, const std::array<std::array<bool, 2>, 2>& isCut)
    {
        const std::size_t u = (a + 1) % 3, v = (a + 2) % 3;
        std::array<Corner, 4> corners;
        constexpr std::array<std::array<int, 2>, 4> kRound{{{0, 0}, {1, 0}, {1, 1}, {0, 1}}};
        for (std::size_t i = 0; i < 4; ++i) {
            const auto su = static_cast<std::size_t>(kRound[i][0]), sv = static_cast<std::size_t>(kRound[i][1]);
            Step directions{}, insets{};
            directions[a] = sign;
            directions[u] = 2 * kRound[i][0] - 1;
            directions[v] = 2 * kRound[i][1] - 1;
            insets[u] = isCut[0][su] ? kCut : 0;
            insets[v] = isCut[1][sv] ? kCut : 0;
            corners[i] = {place(directions, insets), darknessOf(a, directions)};
        }
        std::array<float, 3> normal{};
        normal[a] = static_cast<float>(sign);
        // As quads do: the diagonal joins the brighter pair.
        static constexpr std::array<std::array<std::uint8_t, 3>, 2> kFrom0{{{0, 1, 2}, {0, 2, 3}}},
            kFrom1{{{1, 2, 3}, {1, 3, 0}}};
        const bool isFrom1 = corners[0].darkness + corners[2].darkness > corners[1].darkness + corners[3].darkness;
        face(corners, isFrom1 ? kFrom1 : kFrom0, normal, m_material);
    }

    /// The cut along an edge, with what closes its ends.
    void edge(std::size_t a, int signA, std::size_t b, int signB)
    {
        const std::size_t k = 3 - a - b;
        std::array<float, 3> normal{};
        constexpr float kDiagonal = 0.70710678F;
        normal[a] = kDiagonal * static_cast<float>(signA);
        normal[b] = kDiagonal * static_cast<float>(signB);
        std::array<std::array<Corner, 2>, 2> lines; // on the side of a, on that of b; at the low and the high end
        std::array<Corner, 6> corners; // those four, and the points of cut corners
        std::size_t cornerCount = 4, triangleCount = 2;
        std::array<std::array<std::uint8_t, 3>, 4> triangles{{{0, 1, 3}, {0, 3, 2}}}; // of 2 * line + end
        for (const int e : {0, 1}) {
            const auto end = static_cast<std::size_t>(e);
            const Step along = stepOf(k, 2 * e - 1), one = stepOf(a, signA), two = stepOf(b, signB);
            const bool cutA = cuts(m_voxel, one, along), cutB = cuts(m_voxel, two, along);
            Step directions{}, onA{}, onB{};
            directions[a] = signA;
            directions[b] = signB;
            directions[k] = 2 * e - 1;
            onA[b] = kCut; // full along a, cut along b
            onA[k] = cutA ? kCut : 0;
            onB[a] = kCut;
            onB[k] = cutB ? kCut : 0;
            lines[0][end] = {place(directions, onA), darknessOf(a, directions)};
            lines[1][end] = {place(directions, onB), darknessOf(b, directions)};
            if (cutA && cutB) {
                corners[cornerCount] = {place(directions, {kCut / 2, kCut / 2, kCut / 2}),
                    std::max(lines[0][end].darkness, lines[1][end].darkness)};
                triangles[triangleCount++] = {static_cast<std::uint8_t>(end), static_cast<std::uint8_t>(2 + end),
                    static_cast<std::uint8_t>(cornerCount++)};
            } else if (!cutA && !cutB) {
                cap(along, one, two, directions, lines[0][end], lines[1][end]);
            }
        }
        std::copy(lines[0].begin(), lines[0].end(), corners.begin());
        std::copy(lines[1].begin(), lines[1].end(), corners.begin() + 2);
        face(std::span(corners).first(cornerCount), std::span(triangles).first(triangleCount), normal, m_material);
    }

    /// Where the next cube along the edge is not cut alike, its side shows in the cut.
    void cap(
        const Step& along, const Step& one, const Step& two, const Step& directions, const Corner& a, const Corner& b)
    {
        const Step next = sum(m_voxel, along);
        if (cuts(next, one, two))
            return;
        const std::array<float, 3> normal{
            static_cast<float>(-along[0]), static_cast<float>(-along[1]), static_cast<float>(-along[2])};
        const std::array<Corner, 3> corners{a, b, {place(directions, {}), std::max(a.darkness, b.darkness)}};
        static constexpr std::array<std::array<std::uint8_t, 3>, 1> kAll{{{0, 1, 2}}};
        face(corners, kAll, normal, m_sides.isSolidCube(at(next)) ? at(next) : m_material);
    }

    const PaddedVoxels& m_voxels;
    const SideRules& m_sides;
    bool m_isShaded;
    ChunkSurface& m_out;
    Step m_voxel{};
    Material m_material = kOpen;
};

} // namespace

void meshBevelled(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    ChunkSurface exposed;
    meshExposedBits(voxels, rules, exposed);
    Bevelling bevelling(voxels, rules, out);
    for (const Quad quad : exposed.in(Matter::Solid))
        bevelling.side(quad);
    for (const Matter matter : {Matter::SeeThrough, Matter::Liquid})
        out.in(matter).insert(out.in(matter).end(), exposed.in(matter).begin(), exposed.in(matter).end());
}

} // namespace fell::mesh
