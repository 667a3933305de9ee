// SPDX-License-Identifier: Apache-2.0
// Where things are: voxels and chunks of an unbounded world, and the six sides of a cube. y is up.
#pragma once

#include <array>
#include <compare>
#include <cstddef>
#include <cstdint>

namespace fell {

/// A voxel of the world. Unit: voxels. Any 64-bit value that leaves room for a render distance.
struct VoxelPos {
    std::int64_t x = 0, y = 0, z = 0;
    auto operator<=>(const VoxelPos&) const = default;
};

/// A chunk of the world. Unit: chunks; chunk (i,j,k) of edge E spans voxels [i*E, i*E+E) on each axis.
struct ChunkPos {
    std::int64_t x = 0, y = 0, z = 0;
    auto operator<=>(const ChunkPos&) const = default;
};

constexpr ChunkPos operator+(ChunkPos a, ChunkPos b)
{
    return {a.x + b.x, a.y + b.y, a.z + b.z};
}
constexpr ChunkPos operator-(ChunkPos a, ChunkPos b)
{
    return {a.x - b.x, a.y - b.y, a.z - b.z};
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
    constexpr std::int64_t kMost = std::int64_t{1} << 27;
    const auto squared = [](std::int64_t v) {
        const std::int64_t within = v > kMost ? kMost : v < -kMost ? kMost : v;
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
constexpr ChunkPos towards(Side side)
{
    return {axisOf(side) == 0 ? signOf(side) : 0, axisOf(side) == 1 ? signOf(side) : 0,
        axisOf(side) == 2 ? signOf(side) : 0};
}

/// Chunk edges that Fell works with, in voxels.
constexpr std::array<int, 3> kChunkEdges{16, 32, 64};
bool isChunkEdge(int edge);

/// The chunk that holds a voxel, and the lowest voxel of a chunk. Asserts: isChunkEdge(edge).
ChunkPos chunkOf(VoxelPos voxel, int edge);
VoxelPos originOf(ChunkPos chunk, int edge);

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

} // namespace fell
