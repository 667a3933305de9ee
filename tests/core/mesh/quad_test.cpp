// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/mesh/layouts.h>
#include <fell/mesh/quad.h>

#include <gtest/gtest.h>

#include <cstring>
#include <random>

namespace fell::quad_test {
namespace {

TEST(Quad, ComesBackAsItWasPacked)
{
    std::mt19937 dice(1);
    const auto below = [&dice](unsigned n) { return static_cast<int>(dice() % n); };
    for (int i = 0; i < 5000; ++i) {
        const QuadFields fields{below(64), below(64), below(64), 1 + below(64), 1 + below(64),
            static_cast<Side>(below(6)), static_cast<Material>(below(4096)), static_cast<std::uint8_t>(below(256))};
        EXPECT_EQ(unpackQuad(packQuad(fields)), fields);
    }
}

TEST(Quad, CornersSpanTheRectangleAndLookOutwards)
{
    for (const Side side : kSides) {
        const QuadFields quad{3, 4, 5, 2, 7, side, 1};
        const auto c = cornersOf(quad);
        int u[3], v[3], normal[3];
        for (int axis = 0; axis < 3; ++axis) {
            u[axis] = c[1][static_cast<std::size_t>(axis)] - c[0][static_cast<std::size_t>(axis)];
            v[axis] = c[3][static_cast<std::size_t>(axis)] - c[0][static_cast<std::size_t>(axis)];
        }
        for (int axis = 0; axis < 3; ++axis)
            normal[axis] = u[(axis + 1) % 3] * v[(axis + 2) % 3] - u[(axis + 2) % 3] * v[(axis + 1) % 3];
        const ChunkPos to = stepOf(side); // u x v of a counter-clockwise round looks outwards, as long as its area
        EXPECT_EQ(normal[0], 14 * to.x);
        EXPECT_EQ(normal[1], 14 * to.y);
        EXPECT_EQ(normal[2], 14 * to.z);
    }
}

TEST(Quad, ASideOfAVoxelLiesOnTheFaceThatItLooksFrom)
{
    for (const auto& corner : cornersOf({3, 4, 5, 1, 1, Side::Up, 1}))
        EXPECT_EQ(corner[1], 5);
    for (const auto& corner : cornersOf({3, 4, 5, 1, 1, Side::Down, 1}))
        EXPECT_EQ(corner[1], 4);
}

TEST(SurfaceDigest, DoesNotCareForOrderOrMerging)
{
    const Quad merged = packQuad({1, 2, 3, 2, 3, Side::East, 4}); // width along y, height along z
    std::vector<Quad> single;
    for (int y = 0; y < 2; ++y)
        for (int z = 2; z >= 0; --z)
            single.push_back(packQuad({1, 2 + y, 3 + z, 1, 1, Side::East, 4}));
    EXPECT_EQ(surfaceDigest(std::vector{merged}), surfaceDigest(single));
    EXPECT_EQ(areaOf(std::vector{merged}), areaOf(single));
    single.pop_back();
    EXPECT_NE(surfaceDigest(std::vector{merged}), surfaceDigest(single));
    EXPECT_NE(surfaceDigest(std::vector{merged}), surfaceDigest(std::vector{packQuad({1, 2, 3, 2, 3, Side::East, 5})}));
}

TEST(Quad, TheDiagonalJoinsTheBrighterCorners)
{
    // One dark corner: the diagonal must not end there, or its shade would spread over half of the quad.
    for (int dark = 0; dark < 4; ++dark) {
        const auto ambientOcclusion = static_cast<std::uint8_t>(1u << dark); // darkness 1 at that corner
        EXPECT_EQ(cornerDarkness(ambientOcclusion, dark), 1);
        EXPECT_EQ(flipDiagonal(ambientOcclusion), dark == 0 || dark == 2);
    }
    EXPECT_EQ(cornerDarkness(0x22, 1), 3);
    EXPECT_FALSE(flipDiagonal(0));
}

TEST(Quad, IsCutToSidesThatKeepItsShade)
{
    const auto sides = unitSides(std::vector{packQuad({5, 1, 2, 2, 3, Side::Up, 7, 0x31})}); // width along z
    ASSERT_EQ(sides.size(), 6u);
    EXPECT_EQ(unpackQuad(sides.back()), (QuadFields{7, 1, 3, 1, 1, Side::Up, 7, 0x31}));
}

TEST(Layouts, TakeTheBytesThatTheySay)
{
    EXPECT_EQ(findLayout("floats")->bytesPerQuad(), 192u);
    EXPECT_EQ(findLayout("corners")->bytesPerQuad(), 32u);
    EXPECT_EQ(findLayout("packed")->bytesPerQuad(), 8u);
    const std::vector<Quad> quads(5, packQuad({0, 0, 0, 1, 1, Side::Up, 1}));
    for (const VertexLayout& layout : vertexLayouts())
        EXPECT_EQ(encodeQuads(layout, quads).size(), 5 * layout.bytesPerQuad());
    EXPECT_EQ(findLayout("tiny"), nullptr);
}

TEST(Layouts, ARecordIsTheQuadItself)
{
    const std::vector<Quad> quads{packQuad({0, 63, 0, 64, 64, Side::Up, 4095, 255}), 17};
    const auto bytes = encodeQuads(*findLayout("packed"), quads);
    EXPECT_EQ(std::memcmp(bytes.data(), quads.data(), 16), 0);
}

TEST(Layouts, CornersHoldTheFarCornerOfTheLargestChunk)
{
    const auto bytes
        = encodeQuads(*findLayout("corners"), std::vector<Quad>{packQuad({0, 63, 0, 64, 64, Side::Up, 4095})});
    bool found = false;
    for (std::size_t corner = 0; corner < 4; ++corner) {
        std::uint32_t words[2];
        std::memcpy(words, bytes.data() + corner * 8, 8);
        found |= (words[0] & 127) == 64 && (words[0] >> 7 & 127) == 64 && (words[0] >> 14 & 127) == 64;
        EXPECT_EQ(words[0] >> 21 & 7, static_cast<std::uint32_t>(Side::Up));
        EXPECT_EQ(words[1], 4095u);
    }
    EXPECT_TRUE(found);
}

TEST(Layouts, FloatsAndCornersSayTheSame)
{
    for (const Side side : kSides)
        for (const int ambientOcclusion : {0, 1, 2, 0x31, 0x84}) {
            const QuadFields fields{1, 2, 3, 4, 5, side, 6, static_cast<std::uint8_t>(ambientOcclusion)};
            const std::vector<Quad> quads{packQuad(fields)};
            const auto floats = encodeQuads(*findLayout("floats"), quads),
                       corners = encodeQuads(*findLayout("corners"), quads);
            std::array<std::array<float, 3>, 4> places{};
            for (std::size_t i = 0; i < 6; ++i) {
                float vertex[8];
                std::memcpy(vertex, floats.data() + i * 32, 32);
                std::uint32_t word = 0;
                std::memcpy(&word, corners.data() + kQuadIndices[i] * 8, 4);
                EXPECT_EQ(vertex[0], static_cast<float>(word & 127));
                EXPECT_EQ(vertex[1], static_cast<float>(word >> 7 & 127));
                EXPECT_EQ(vertex[2], static_cast<float>(word >> 14 & 127));
                EXPECT_EQ(vertex[3 + axisOf(side)], static_cast<float>(signOf(side)));
                EXPECT_EQ(vertex[6], 6.0f);
                EXPECT_EQ(vertex[7], static_cast<float>(word >> 24 & 3));
                places[kQuadIndices[i]] = {vertex[0], vertex[1], vertex[2]};
            }
            // Going round as cornersOf does, from the diagonal's first corner on.
            const auto round = cornersOf(fields);
            const std::size_t first = flipDiagonal(fields.ambientOcclusion) ? 1 : 0;
            for (std::size_t i = 0; i < 4; ++i)
                for (std::size_t axis = 0; axis < 3; ++axis)
                    EXPECT_EQ(places[i][axis], static_cast<float>(round[(first + i) % 4][axis]))
                        << static_cast<int>(side) << " " << ambientOcclusion;
        }
}

} // namespace
} // namespace fell::quad_test
