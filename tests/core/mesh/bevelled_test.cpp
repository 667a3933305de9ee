// SPDX-License-Identifier: Apache-2.0
#include <fell/mesh/chunk_mesh.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

namespace fell::bevelled_test {
namespace {

constexpr int kEdge = 16;
constexpr double kCut = 1.0 / 8;

const SideRules& rules()
{
    static const SideRules kRules = sideRulesOf(test::testBlocks());
    return kRules;
}

/// A chunk alone in open air.
PaddedVoxels padded(const std::vector<Material>& voxels)
{
    const VoxelChunk open(kEdge, kOpen), chunk(kEdge, voxels);
    Neighbourhood around;
    around.chunks.fill(&open);
    around.chunks[13] = &chunk;
    PaddedVoxels out;
    gather(around, out);
    return out;
}

ChunkSurface surfaceOf(const PaddedVoxels& voxels)
{
    ChunkSurface out;
    findMesher("bevelled")->mesh(voxels, {&rules(), false}, out);
    return out;
}

/// The solid by its definition, point by point: in a cube, and in none of its wedges.
bool isInside(const PaddedVoxels& voxels, const std::array<double, 3>& point)
{
    std::array<int, 3> voxel{};
    for (std::size_t axis = 0; axis < 3; ++axis)
        voxel[axis] = static_cast<int>(std::floor(point[axis]));
    const auto isAir = [&](std::array<int, 3> at) { return voxels.at(at[0], at[1], at[2]) == kOpen; };
    if (isAir(voxel))
        return false;
    for (std::size_t a = 0; a < 3; ++a)
        for (std::size_t b = a + 1; b < 3; ++b)
            for (const int sa : {-1, 1})
                for (const int sb : {-1, 1}) {
                    auto one = voxel, two = voxel, across = voxel;
                    one[a] += sa;
                    two[b] += sb;
                    across[a] += sa;
                    across[b] += sb;
                    if (!isAir(one) || !isAir(two) || !isAir(across))
                        continue;
                    const auto fromSide = [&](std::size_t axis, int sign) {
                        const double within = point[axis] - voxel[axis];
                        return sign > 0 ? 1 - within : within;
                    };
                    if (fromSide(a, sa) + fromSide(b, sb) < kCut)
                        return false;
                }
    return true;
}

/// How often the surface is crossed from the point on along +x.
int crossings(const ChunkSurface& surface, const std::array<double, 3>& from)
{
    int count = 0;
    for (const Quad quad : surface.all()) {
        const QuadFields q = unpackQuad(quad);
        count += axisOf(q.side) == 0 && planeOf(q) > from[0] && from[1] > q.y && from[1] < q.y + q.width
            && from[2] > q.z && from[2] < q.z + q.height;
    }
    for (std::size_t i = 0; i < surface.triangles.count(); ++i) {
        std::array<std::array<double, 3>, 3> p{};
        for (std::size_t c = 0; c < 3; ++c)
            for (std::size_t axis = 0; axis < 3; ++axis)
                p[c][axis] = surface.triangles.corner(i, c).place[axis] / double(kMeshUnit);
        const auto area = [](const auto& a, const auto& b, const auto& c) {
            return (b[1] - a[1]) * (c[2] - a[2]) - (b[2] - a[2]) * (c[1] - a[1]);
        };
        const double whole = area(p[0], p[1], p[2]);
        if (whole == 0)
            continue;
        const double u = area(from, p[1], p[2]) / whole, v = area(p[0], from, p[2]) / whole, w = 1 - u - v;
        count += u > 0 && v > 0 && w > 0 && u * p[0][0] + v * p[1][0] + w * p[2][0] > from[0];
    }
    return count;
}

TEST(Bevelled, ACubeHasSixSmallerSidesTwelveCutEdgesAndEightCorners)
{
    std::vector<Material> voxels(kEdge * kEdge * kEdge, kOpen);
    voxels[(8 * kEdge + 8) * kEdge + 8] = 1;
    const ChunkSurface surface = surfaceOf(padded(voxels));
    EXPECT_EQ(surface.count(), 0u);
    // Two triangles a side and an edge, and at each corner three that meet in a point.
    EXPECT_EQ(surface.triangles.count(), 6u * 2 + 12u * 2 + 8u * 3);
    // A side has four vertices and an edge six: two lines, and the points at its ends.
    EXPECT_EQ(surface.triangles.vertices.size(), 6u * 4 + 12u * 6);
}

TEST(Bevelled, WhatHasNoEdgeTowardsAirStaysQuads)
{
    const VoxelChunk ground(kEdge, Material{1}), open(kEdge, kOpen);
    Neighbourhood around;
    for (std::size_t i = 0; i < 27; ++i)
        around.chunks[i] = i < 18 ? &ground : &open; // the chunks below and at the same height are ground
    PaddedVoxels voxels;
    gather(around, voxels);
    const ChunkSurface surface = surfaceOf(voxels);
    EXPECT_EQ(surface.count(), std::size_t{kEdge} * kEdge);
    EXPECT_TRUE(surface.triangles.isEmpty());
}

/// Against the solid's definition, at points that no plane of the surface holds.
TEST(Bevelled, BoundsTheCubesWithoutTheirCutEdges)
{
    std::mt19937_64 dice(11);
    for (int world = 0; world < 12; ++world) {
        std::vector<Material> voxels(kEdge * kEdge * kEdge, kOpen);
        for (int y = 5; y < 11; ++y)
            for (int z = 5; z < 11; ++z)
                for (int x = 5; x < 11; ++x)
                    if (static_cast<int>(dice() % 12) <= world)
                        voxels[static_cast<std::size_t>((y * kEdge + z) * kEdge + x)]
                            = static_cast<Material>(1 + dice() % 2);
        const PaddedVoxels all = padded(voxels);
        const ChunkSurface surface = surfaceOf(all);
        std::uniform_real_distribution<double> anywhere(4.5, 11.5);
        int wrong = 0, inside = 0;
        for (int i = 0; i < 400; ++i) {
            const std::array<double, 3> point{anywhere(dice), anywhere(dice), anywhere(dice)};
            const bool is = isInside(all, point);
            wrong += (crossings(surface, point) % 2 == 1) != is;
            inside += is;
        }
        EXPECT_EQ(wrong, 0) << "world " << world;
        EXPECT_GT(inside, 0);
    }
}

TEST(Bevelled, NormalsLookOutOfTheSolid)
{
    std::mt19937_64 dice(5);
    std::vector<Material> voxels(kEdge * kEdge * kEdge, kOpen);
    for (int y = 5; y < 11; ++y)
        for (int z = 5; z < 11; ++z)
            for (int x = 5; x < 11; ++x)
                voxels[static_cast<std::size_t>((y * kEdge + z) * kEdge + x)] = static_cast<Material>(dice() % 2);
    const PaddedVoxels all = padded(voxels);
    const ChunkSurface surface = surfaceOf(all);
    ASSERT_GT(surface.triangles.count(), 100u);
    std::size_t walls = 0;
    for (std::size_t i = 0; i < surface.triangles.count(); ++i) {
        std::array<double, 3> before{}, behind{};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            double middle = 0;
            for (std::size_t c = 0; c < 3; ++c)
                middle += surface.triangles.corner(i, c).place[axis] / double(kMeshUnit) / 3;
            const double normal = surface.triangles.corner(i, 0).normal[axis] / 127.0;
            before[axis] = middle + 0.004 * normal;
            behind[axis] = middle - 0.004 * normal;
        }
        EXPECT_FALSE(isInside(all, before)) << i;
        // Under the corner of a side whose own two edges are not cut, a cap is a wall without thickness.
        const auto& normal = surface.triangles.corner(i, 0).normal;
        walls += !isInside(all, behind);
        EXPECT_TRUE(isInside(all, behind) || std::any_of(normal.begin(), normal.end(), [](int n) {
            return std::abs(n) == 127;
        })) << i;
    }
    EXPECT_LT(walls, surface.triangles.count() / 20);
}

TEST(Bevelled, TrianglesAreLitAndLieBesideTheShapesOfTheMesh)
{
    std::vector<Material> voxels(kEdge * kEdge * kEdge, kOpen);
    voxels[(8 * kEdge + 8) * kEdge + 8] = 1;
    const PaddedVoxels all = padded(voxels);
    PaddedLight light;
    light.begin(kEdge, 4);
    std::fill(light.passable.begin(), light.passable.end(), ~std::uint64_t{0});
    for (std::size_t c = 0; c < 4; ++c)
        light.of[c].all = static_cast<int>(3 + c);
    const ChunkMeshOptions options{
        findMesher("bevelled"), {findLayout("corners"), {3, 1}, OcclusionForm::Rings}, {&rules(), false, true}};
    const ChunkMesh mesh = buildChunkMesh(all, options, &light);
    EXPECT_EQ(mesh.shapes.count(), 6u * 2 + 12 * 2 + 8 * 3);
    for (const MeshVertex& vertex : mesh.shapes.vertices) {
        EXPECT_EQ(vertex.light(), 0x6543u);
        EXPECT_EQ(vertex.darkness, 0) << "it has no neighbours";
    }
}

TEST(LightAt, IsTheMeanOfTheVoxelsBeforeTheSurface)
{
    PaddedLight light;
    light.begin(kEdge, 1);
    const std::size_t rows = (kEdge + 2) * (kEdge + 2);
    std::fill(light.passable.begin(), light.passable.end(), ~std::uint64_t{0});
    light.of[0].all.reset();
    light.of[0].digits.assign(rows * 4, 0);
    const auto set = [&light](int x, int y, int z, unsigned level) {
        for (std::size_t k = 0; k < 4; ++k)
            if (level >> k & 1)
                light.of[0].digits[light.row(y, z) * 4 + k] |= std::uint64_t{1} << (x + 1);
    };
    set(4, 5, 6, 12);
    set(5, 5, 6, 4);
    EXPECT_EQ(lightAt(light, {4.5F, 5, 6.5F}, {0, 1, 0}), 12u) << "the middle of the voxel before it";
    EXPECT_EQ(lightAt(light, {5, 5, 6.5F}, {0, 1, 0}), 8u) << "half way between both";
    light.passable[light.row(5, 6)] &= ~(std::uint64_t{1} << 6); // voxel 5
    EXPECT_EQ(lightAt(light, {5, 5, 6.5F}, {0, 1, 0}), 12u) << "what light does not enter does not count";
}

} // namespace
} // namespace fell::bevelled_test
