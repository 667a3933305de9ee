// SPDX-License-Identifier: Apache-2.0
// What every mesher writes: rectangles on voxel sides, one 64-bit record each.
#pragma once

#include "blocks/block_set.h"
#include "grid/coords.h"

#include <array>
#include <cassert>
#include <cstdint>
#include <vector>

namespace fell {

/// A rectangle of `width` x `height` voxel sides that look towards `side`, lowest corner voxel (x, y, z) in its chunk.
/// With a the axis of `side`, width runs along axis (a+1)%3 and height along (a+2)%3.
struct QuadFields {
    int x = 0, y = 0, z = 0; // voxels in the chunk, 0 to 63
    int width = 1, height = 1; // voxels, 1 to 64
    Side side = Side::East;
    Material material = kOpen; // below kMostBlockKinds
    bool operator==(const QuadFields&) const = default;
};

/// Layout, low bits first: x:6 y:6 z:6 width-1:6 height-1:6 side:3 material:12 unused:19.
using Quad = std::uint64_t;
constexpr int kMaterialBit = 33; // where the material begins

constexpr Quad packQuad(const QuadFields& q)
{
    assert(q.width >= 1 && q.width <= 64 && q.height >= 1 && q.height <= 64 && q.material < kMostBlockKinds);
    return static_cast<Quad>(q.x) | static_cast<Quad>(q.y) << 6 | static_cast<Quad>(q.z) << 12
        | static_cast<Quad>(q.width - 1) << 18 | static_cast<Quad>(q.height - 1) << 24 | static_cast<Quad>(q.side) << 30
        | static_cast<Quad>(q.material) << kMaterialBit;
}

constexpr QuadFields unpackQuad(Quad quad)
{
    const auto bits = [quad](int from, int count) { return static_cast<int>(quad >> from & ((1u << count) - 1)); };
    return {bits(0, 6), bits(6, 6), bits(12, 6), bits(18, 6) + 1, bits(24, 6) + 1, static_cast<Side>(bits(30, 3)),
        static_cast<Material>(bits(kMaterialBit, 12))};
}

/// The four corners in voxels from the chunk's origin, counter-clockwise seen from where the side looks to.
std::array<std::array<int, 3>, 4> cornersOf(const QuadFields& quad);

/// How many voxel sides the quads cover.
std::uint64_t areaOf(const std::vector<Quad>& quads);

/// A digest of the surface that does not depend on order: each unit side with its place, direction and material counts
/// once for every quad that covers it. Two meshers agree on a surface only if their digests do. Cost: O(area).
std::uint64_t surfaceDigest(const std::vector<Quad>& quads);

} // namespace fell
