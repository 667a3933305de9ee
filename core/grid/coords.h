// SPDX-License-Identifier: Apache-2.0
// Where things are: voxels and chunks of an unbounded world, and the six sides of a cube. y is up.
#pragma once

#include <fell/namespaces.h>

#include <array>
#include <compare>
#include <cstddef>
#include <cstdint>

namespace fell::grid {

/// A voxel of the world. Unit: voxels. Any 64-bit value that leaves room for a render distance.
struct VoxelPos {
    std::int64_t x = 0, y = 0, z = 0;
    auto operator<=>(const VoxelPos&) const = default;
};

/// A chunk of the world at a level of detail. Unit: chunks of that level; chunk (i,j,k) of edge E spans the level's
/// voxels [i*E, i*E+E) on each axis, and a voxel of level n is as long as 2^n of level 0.
struct ChunkPos {
    std::int64_t x = 0, y = 0, z = 0;
    int level = 0; // 0 to kMaxLevel
    auto operator<=>(const ChunkPos&) const = default;
};
constexpr int kMaxLevel = 8;

/// Sums and differences are those of places on one level: a difference has level 0.
constexpr ChunkPos operator+(ChunkPos a, ChunkPos b)
{
    return {a.x + b.x, a.y + b.y, a.z + b.z, a.level + b.level};
}
constexpr ChunkPos operator-(ChunkPos a, ChunkPos b)
{
    return {a.x - b.x, a.y - b.y, a.z - b.z, a.level - b.level};
}
/// The chunk of the next level that holds this one, and one of the eight that it holds (x lowest bit, then y, z).
constexpr ChunkPos parentOf(ChunkPos chunk)
{
    return {chunk.x >> 1, chunk.y >> 1, chunk.z >> 1, chunk.level + 1};
}
constexpr ChunkPos childOf(ChunkPos chunk, unsigned which)
{
    return {chunk.x * 2 + (which & 1), chunk.y * 2 + (which >> 1 & 1), chunk.z * 2 + (which >> 2 & 1), chunk.level - 1};
}
constexpr VoxelPos operator+(VoxelPos a, VoxelPos b)
{
    return {a.x + b.x, a.y + b.y, a.z + b.z};
}
constexpr VoxelPos operator-(VoxelPos a, VoxelPos b)
{
    return {a.x - b.x, a.y - b.y, a.z - b.z};
}

/// Squared length in chunks. Exact while every component stays below 2^27; farther ones count as that, so that a jump
/// across the whole world does not overflow.
constexpr std::int64_t squaredLength(ChunkPos d)
{
    constexpr std::int64_t kMax = std::int64_t{1} << 27;
    const auto squared = [](std::int64_t v) {
        const std::int64_t within = v > kMax ? kMax : v < -kMax ? kMax : v;
        return within * within;
    };
    return squared(d.x) + squared(d.y) + squared(d.z);
}

/// The directions that a side of a voxel can look. Opposite sides differ in the lowest bit.
enum class Side : std::uint8_t { East, West, Up, Down, South, North }; // +x -x +y -y +z -z
constexpr std::size_t kSideCount = 6;
constexpr std::array<Side, kSideCount> kSides{Side::East, Side::West, Side::Up, Side::Down, Side::South, Side::North};

constexpr int axisOf(Side side)
{
    return static_cast<int>(side) >> 1;
} // 0 x, 1 y, 2 z
constexpr int signOf(Side side)
{
    return (static_cast<int>(side) & 1) ? -1 : 1;
}
constexpr Side opposite(Side side)
{
    return static_cast<Side>(static_cast<int>(side) ^ 1);
}
constexpr ChunkPos stepOf(Side side)
{
    return {axisOf(side) == 0 ? signOf(side) : 0, axisOf(side) == 1 ? signOf(side) : 0,
        axisOf(side) == 2 ? signOf(side) : 0};
}

/// Chunk edges that Fell works with, in voxels.
constexpr std::array<int, 3> kChunkEdges{16, 32, 64};
bool isChunkEdge(int edge);

/// The chunk of a level that holds a voxel of level 0. Asserts: isChunkEdge(edge).
ChunkPos chunkOf(VoxelPos voxel, int edge, int level = 0);
/// The lowest voxel of a chunk, among the voxels of its level and among those of level 0.
VoxelPos originOf(ChunkPos chunk, int edge);
VoxelPos lowestVoxelOf(ChunkPos chunk, int edge);
/// The length of a chunk, in voxels of level 0.
constexpr int spanOf(ChunkPos chunk, int edge)
{
    return edge << chunk.level;
}

/// Spreads a chunk position over 64 bits, for hash tables.
std::uint64_t hashOf(ChunkPos chunk);

struct ChunkPosHash {
    std::size_t operator()(ChunkPos chunk) const { return hashOf(chunk); }
};

/// Mixes 64 bits so that every input bit changes about half of the output bits.
/// Source  Steele, Lea and Flood, "Fast Splittable Pseudorandom Number Generators", OOPSLA 2014 (the finaliser).
constexpr std::uint64_t mix64(std::uint64_t value)
{
    value += 0x9E3779B97F4A7C15u;
    value = (value ^ (value >> 30)) * 0xBF58476D1CE4E5B9u;
    value = (value ^ (value >> 27)) * 0x94D049BB133111EBu;
    return value ^ (value >> 31);
}

} // namespace fell::grid
