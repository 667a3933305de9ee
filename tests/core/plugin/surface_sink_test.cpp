// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/plugin/surface_sink.h>

#include <algorithm>
#include <gtest/gtest.h>

namespace fell::surface_sink_test {
namespace {

/// A sink of a chunk of edge 16 with five materials, as a method's code sees it.
struct Tried {
    SideRules rules = sideRulesOf(test::testBlocks());
    ChunkSurface out;
    SurfaceSink sink{16, rules, out};

    int quads(std::vector<FellQuad> some, std::uint32_t opacityClass = FELL_SOLID)
    {
        return sink.quads(&sink, opacityClass, some.data(), some.size());
    }
    int triangles(std::vector<FellVertex> vertices, std::vector<std::uint32_t> indices)
    {
        return sink.triangles(&sink, vertices.data(), vertices.size(), indices.data(), indices.size());
    }
};

TEST(SurfaceSink, TheHeadersQuadIsFellsQuad)
{
    const QuadFields q{
        .x = 3, .y = 14, .z = 15, .width = 9, .height = 2, .side = Side::Down, .material = 5, .ambientOcclusion = 0xA5};
    EXPECT_EQ(fell_quad(3, 14, 15, 9, 2, FELL_DOWN, 5, 0xA5), packQuad(q));
}

TEST(SurfaceSink, WhatFitsIsKept)
{
    Tried tried;
    // Of an upward face width runs along z and height along x: 16 by 16 from one corner to the other.
    EXPECT_EQ(
        tried.quads({fell_quad(0, 15, 0, 16, 16, FELL_UP, 1, 0), fell_quad(15, 0, 0, 16, 1, FELL_EAST, 5, 0)}), 0);
    EXPECT_EQ(tried.triangles({{{0, 0, 0}, 1, {0, 127, 0}, 0}, {{4096, 0, 0}, 1, {0, 127, 0}, 3},
                                  {{0, 0, 4096}, 1, {0, 127, 0}, 0}},
                  {0, 2, 1}),
        0);
    EXPECT_EQ(tried.triangles(
                  {{{0, 256, 0}, 2, {127, 0, 0}, 0}, {{0, 0, 0}, 2, {127, 0, 0}, 0}, {{0, 0, 256}, 2, {127, 0, 0}, 0}},
                  {0, 1, 2}),
        0);
    EXPECT_EQ(tried.out.count(), 2u);
    EXPECT_EQ(tried.out.triangles.indices, (std::vector<std::uint32_t>{0, 2, 1, 3, 4, 5})) << "counted on";
    EXPECT_EQ(tried.out.triangles.vertices[1].darkness, 3);
    EXPECT_EQ(tried.out.triangles.vertices[0].part, 0) << "it faces up";
    EXPECT_EQ(tried.out.triangles.vertices[3].part, 1) << "it faces sideways";
    EXPECT_TRUE(tried.sink.refused().empty());
}

TEST(SurfaceSink, WhatLiesOutsideTheChunkIsRefusedAndNothingAfterIt)
{
    const FellQuad good = fell_quad(0, 0, 0, 1, 1, FELL_UP, 1, 0);
    const std::pair<FellQuad, const char*> kCases[]{
        {fell_quad(16, 0, 0, 1, 1, FELL_UP, 1, 0), "outside the chunk: x 16"},
        {fell_quad(0, 0, 1, 16, 1, FELL_UP, 1, 0), "outside the chunk: x 0, y 0, z 1, width 16"},
        {fell_quad(1, 0, 0, 1, 16, FELL_UP, 1, 0), "outside the chunk"},
        {fell_quad(0, 0, 0, 1, 1, 6, 1, 0), "outside the chunk"},
        {good | FellQuad{1} << 53, "outside the chunk"}, // bits that are no field
        {good | FellQuad{1} << 63, "outside the chunk"},
        {fell_quad(0, 0, 0, 1, 1, FELL_UP, 0, 0), "a material that is no cube"},
        {fell_quad(0, 0, 0, 1, 1, FELL_UP, 6, 0), "a material that is no cube"}};
    for (const auto& [quad, part] : kCases) {
        Tried tried;
        EXPECT_NE(tried.quads({good, quad}), 0);
        EXPECT_NE(tried.sink.refused().find(part), std::string::npos) << tried.sink.refused();
        EXPECT_NE(tried.quads({good}), 0) << "it was told to return";
        EXPECT_EQ(tried.out.count(), 0u);
    }
    Tried tried;
    EXPECT_NE(tried.quads({good}, 3), 0);
    EXPECT_NE(tried.sink.refused().find("opacity class 3"), std::string::npos);
}

// The fast check takes all fields at once: each quad of a chunk of edge 16 near the allowed against the plain rule.
TEST(SurfaceSink, ExactlyTheQuadsWithinTheChunkAreTaken)
{
    for (int side = 0; side < 8; ++side)
        for (const int at : {0, 1, 15, 16, 63})
            for (const int place : {0, 1, 2}) // on which axis
                for (const int width : {1, 2, 15, 16, 17, 64})
                    for (const int height : {1, 2, 16, 64}) {
                        std::array<int, 3> low{};
                        low[static_cast<std::size_t>(place)] = at;
                        std::array<int, 3> high = low;
                        high[static_cast<std::size_t>((side / 2 + 1) % 3)] += width - 1;
                        high[static_cast<std::size_t>((side / 2 + 2) % 3)] += height - 1;
                        const bool fits = side < 6 && *std::max_element(high.begin(), high.end()) < 16;
                        Tried tried;
                        EXPECT_EQ(
                            tried.quads({fell_quad(low[0], low[1], low[2], width, height, side, 1, 0)}) == 0, fits)
                            << side << " " << low[0] << " " << low[1] << " " << low[2] << " " << width << " " << height;
                    }
}

TEST(SurfaceSink, NoMoreQuadsThanFacesAreTaken)
{
    Tried tried;
    const std::vector<FellQuad> all(16UL * 16 * 16 * 6, fell_quad(0, 0, 0, 1, 1, FELL_UP, 1, 0));
    EXPECT_EQ(tried.quads(all), 0);
    EXPECT_NE(tried.quads({all[0]}), 0);
    EXPECT_EQ(tried.sink.refused(), "emits more quads than its voxels have faces");
}

TEST(SurfaceSink, TrianglesOfUnknownVerticesAndMaterialsAreRefused)
{
    const FellVertex good{{0, 0, 0}, 1, {0, 127, 0}, 0};
    FellVertex far = good, low = good, dark = good, air = good, unknown = good;
    far.position[2] = 4097;
    low.position[0] = -1;
    dark.occlusion = 4;
    air.material = 0;
    unknown.material = 6;
    const std::pair<FellVertex, const char*> kCases[]{{far, "outside the chunk: vertex 1 at 4097/256"},
        {low, "outside the chunk"}, {dark, "occlusion 4"}, {air, "material 0"}, {unknown, "material 6"}};
    for (const auto& [vertex, part] : kCases) {
        Tried tried;
        EXPECT_NE(tried.triangles({good, vertex, good}, {0, 1, 2}), 0);
        EXPECT_NE(tried.sink.refused().find(part), std::string::npos) << tried.sink.refused();
        EXPECT_TRUE(tried.out.triangles.isEmpty());
    }
    for (const std::vector<std::uint32_t>& indices :
        {std::vector<std::uint32_t>{0, 1, 3}, {0, 1}, {0, 1, 0xFFFFFFFF}}) {
        Tried tried;
        EXPECT_NE(tried.triangles({good, good, good}, indices), 0);
        EXPECT_TRUE(tried.out.triangles.isEmpty());
        EXPECT_TRUE(tried.out.triangles.vertices.empty());
    }
}

} // namespace
} // namespace fell::surface_sink_test
