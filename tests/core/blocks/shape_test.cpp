// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/blocks/shape.h>

#include <gtest/gtest.h>

#include <bit>

#include <glm/geometric.hpp>

namespace fell::shape_test {
namespace {

Coverage on(const BlockShape& shape, Side side)
{
    return shape.covers[static_cast<std::size_t>(side)];
}

TEST(Coverage, OfAHalfBlockIsItsFloorAndTheLowerHalves)
{
    const BlockShape half = halfShape();
    EXPECT_EQ(on(half, Side::Down), kCoversAll);
    EXPECT_EQ(on(half, Side::Up), 0);
    // East and west: u is y, so the lower half are the squares at low u: numbers 0 and 2.
    EXPECT_EQ(on(half, Side::East), 0x0F0F);
    EXPECT_EQ(on(half, Side::West), 0x0F0F);
    // South and north: v is y: squares 0 and 1.
    EXPECT_EQ(on(half, Side::South), 0x00FF);
    EXPECT_EQ(on(half, Side::North), 0x00FF);
}

TEST(Coverage, OfASlopeIsItsBackItsFloorAndHalfOfEachFlank)
{
    const BlockShape slope = slopeShape();
    EXPECT_EQ(on(slope, Side::North), kCoversAll);
    EXPECT_EQ(on(slope, Side::Down), kCoversAll);
    EXPECT_EQ(on(slope, Side::South), 0);
    EXPECT_EQ(on(slope, Side::Up), 0);
    EXPECT_EQ(std::popcount(on(slope, Side::East)), 8) << "half of the sixteen triangles";
    EXPECT_EQ(on(slope, Side::East), on(slope, Side::West)) << "the same half, seen from both voxels";
}

TEST(Coverage, TurnsWithTheShape)
{
    // Clockwise from above, a back to the north turns to the east, the south, the west and home again.
    const Side backs[]{Side::North, Side::East, Side::South, Side::West, Side::North};
    for (int turn = 0; turn <= 4; ++turn)
        for (const Side side : {Side::North, Side::East, Side::South, Side::West})
            EXPECT_EQ(on(turned(slopeShape(), turn), side) == kCoversAll, side == backs[turn]) << turn;
}

TEST(Shape, TrianglesLookOutwards)
{
    for (const BlockShape& shape : {halfShape(), slopeShape(), standInShape()})
        for (const ShapeTriangle& triangle : shape.triangles) {
            // All three are convex around the middle of their floor's lower part.
            const glm::vec3 inside{0.5F, 0.25F, 0.5F}, out = triangle.corners[0] - inside;
            EXPECT_GT(glm::dot(out, triangle.normal), 0);
            const glm::vec3 round
                = glm::cross(triangle.corners[1] - triangle.corners[0], triangle.corners[2] - triangle.corners[0]);
            EXPECT_GT(glm::dot(round, triangle.normal), 0) << "counter-clockwise";
        }
}

TEST(Shape, CornersThatAgreeAreOneVertex)
{
    // A box: six sides of four corners each; a slope: three sides of four and two of three.
    for (const auto& [shape, vertices] : {std::pair{halfShape(), 24u}, {slopeShape(), 18u}}) {
        EXPECT_EQ(shape.vertices.size(), vertices);
        ASSERT_EQ(shape.indices.size(), shape.triangles.size() * 3);
        for (std::size_t i = 0; i < shape.indices.size(); ++i) {
            const std::uint32_t first = shape.vertices[shape.indices[i]];
            EXPECT_EQ(shape.triangles[first / 3].corners[first % 3], shape.triangles[i / 3].corners[i % 3]);
            EXPECT_EQ(shape.triangles[first / 3].normal, shape.triangles[i / 3].normal);
        }
    }
    // Two colours meet in no vertex; turning changes nothing.
    EXPECT_EQ(standInShape().vertices.size(), 6u * 2 * 5) << "the two triangles of a colour share the middle";
    EXPECT_EQ(turned(halfShape(), 1).vertices.size(), 24u);
}

} // namespace
} // namespace fell::shape_test
