// SPDX-License-Identifier: Apache-2.0
// What every mesher writes: rectangles on voxel sides, one 64-bit record each.
#pragma once

#include <fell/blocks/block_set.h>
#include <fell/grid/coords.h>

#include <array>
#include <cassert>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace fell::mesh {

/// A rectangle of `width` x `height` voxel sides that look towards `side`, lowest corner voxel (x, y, z) in its chunk.
/// With a the axis of `side`, width runs along axis (a+1)%3 and height along (a+2)%3.
struct QuadFields {
    int x = 0, y = 0, z = 0; // voxels in the chunk, 0 to 63
    int width = 1, height = 1; // voxels, 1 to 64
    Side side = Side::East;
    Material material = kOpen; // below kMaxBlockKinds
    std::uint8_t ambientOcclusion = 0; // of the four corners; see cornerDarkness
    /// It lies at the far side of its voxel and looks into it: a seam's, of which the chunk beyond is the front.
    bool facesInward = false;
    /// A word next to the quad says how it is shaded (mesh/ring_occlusion.h): its corners carry their numbers in place
    /// of their darkness.
    bool hasRing = false;
    bool operator==(const QuadFields&) const = default;
};

/// Layout, low bits first: x:6 y:6 z:6 width-1:6 height-1:6 side:3 material:12 shade:8 into:1 numbered:1 unused:9.
using Quad = std::uint64_t;
constexpr int kWidthBit = 18, kHeightBit = 24, kMaterialBit = 33, kOcclusionBit = 45, kInwardBit = 53,
              kRingBit = 54; // where the fields begin

constexpr Quad packQuad(const QuadFields& q)
{
    assert(q.width >= 1 && q.width <= 64 && q.height >= 1 && q.height <= 64 && q.material < kMaxBlockKinds);
    return static_cast<Quad>(q.x) | static_cast<Quad>(q.y) << 6 | static_cast<Quad>(q.z) << 12
        | static_cast<Quad>(q.width - 1) << kWidthBit | static_cast<Quad>(q.height - 1) << kHeightBit
        | static_cast<Quad>(q.side) << 30 | static_cast<Quad>(q.material) << kMaterialBit
        | static_cast<Quad>(q.ambientOcclusion) << kOcclusionBit | static_cast<Quad>(q.facesInward) << kInwardBit
        | static_cast<Quad>(q.hasRing) << kRingBit;
}

constexpr QuadFields unpackQuad(Quad quad)
{
    const auto bits = [quad](int from, int count) { return static_cast<int>(quad >> from & ((1u << count) - 1)); };
    return {bits(0, 6), bits(6, 6), bits(12, 6), bits(18, 6) + 1, bits(24, 6) + 1, static_cast<Side>(bits(30, 3)),
        static_cast<Material>(bits(kMaterialBit, 12)), static_cast<std::uint8_t>(bits(kOcclusionBit, 8)),
        bits(kInwardBit, 1) != 0, bits(kRingBit, 1) != 0};
}

/// Where the quad lies along the axis of its side, in voxels from the chunk's origin.
constexpr int planeOf(const QuadFields& q)
{
    const int low = axisOf(q.side) == 0 ? q.x : axisOf(q.side) == 1 ? q.y : q.z;
    return low + ((signOf(q.side) > 0) != q.facesInward ? 1 : 0);
}

/// How dark a corner of a shaded side is: 0 open to 3 in the crook of two blocks. Corners 0 to 3 are at (low u, low v),
/// (high u, low v), (high u, high v), (low u, high v) with u along the width and v along the height.
///
/// Layout  bit c is the low bit of corner c, bit 4 + c its high bit.
/// All sides of a merged quad have the same shade, and it is even along every direction in which the quad was merged:
/// two neighbours that are both seen share the darkness of their common corners, so equal sides are even ones.
constexpr int cornerDarkness(std::uint8_t ambientOcclusion, int corner)
{
    return (ambientOcclusion >> corner & 1) | (ambientOcclusion >> (corner + 4) & 1) << 1;
}

/// Does the diagonal of the quad's two triangles run from corner 1 to corner 3? It joins the brighter pair, so that
/// shade runs around a dark corner and not across it. Alike for every quad of the same shade: it never flips within
/// one.
constexpr bool flipDiagonal(std::uint8_t ambientOcclusion)
{
    return cornerDarkness(ambientOcclusion, 0) + cornerDarkness(ambientOcclusion, 2)
        > cornerDarkness(ambientOcclusion, 1) + cornerDarkness(ambientOcclusion, 3);
}

/// Leaves new elements as they are, so that room for the worst case costs nothing until it is written.
template <typename T> struct UninitialisedAllocator : std::allocator<T> {
    template <typename U> struct rebind {
        using other = UninitialisedAllocator<U>;
    };
    template <typename U> void construct(U* at) noexcept { ::new (static_cast<void*>(at)) U; }
    template <typename U, typename... Args> void construct(U* at, Args&&... args)
    {
        ::new (static_cast<void*>(at)) U(std::forward<Args>(args)...);
    }
};
using QuadList = std::vector<Quad, UninitialisedAllocator<Quad>>;

/// The four corners in voxels from the chunk's origin, counter-clockwise seen from where the side looks to.
std::array<std::array<int, 3>, 4> cornersOf(const QuadFields& quad);

/// How many voxel sides the quads cover.
std::uint64_t areaOf(std::span<const Quad> quads);

/// Cuts every quad into sides of one voxel, each with the quad's material and shade.
std::vector<Quad> unitSides(std::span<const Quad> quads);

/// A digest of the surface that does not depend on order: each unit side with its place, direction, material and shade
/// counts once for every quad that covers it. Two meshers agree on a surface only if their digests do. Cost: O(area).
std::uint64_t surfaceDigest(std::span<const Quad> quads);

} // namespace fell::mesh
