// SPDX-License-Identifier: Apache-2.0
// A chunk as light sees it: bits that say where light passes and at what loss, and its lamps.
#pragma once

#include <fell/light/light_rules.h>
#include <fell/voxels/voxel_chunk.h>

#include <cstring>

namespace fell::light {

/// One bit a voxel of a chunk, in the order of VoxelChunk; a row is edge / 8 bytes. edge^3 / 64 words, or none.
using BitVolume = std::vector<std::uint64_t>;

/// Where row (y, z) lies.
template <int kEdge> const std::byte* bytesOf(const std::uint64_t* volume, int y, int z)
{
    return reinterpret_cast<const std::byte*>(volume) + (y * kEdge + z) * (kEdge / 8);
}
template <int kEdge> std::byte* bytesOf(std::uint64_t* volume, int y, int z)
{
    return reinterpret_cast<std::byte*>(volume) + (y * kEdge + z) * (kEdge / 8);
}
/// The bits of row (y, z), x in bit x. Asserts nothing: the innermost loops use it.
template <int kEdge> std::uint64_t rowOf(const std::uint64_t* volume, int y, int z)
{
    std::uint64_t bits = 0;
    std::memcpy(&bits, bytesOf<kEdge>(volume, y, z), kEdge / 8);
    return bits;
}
template <int kEdge> void setRow(std::uint64_t* volume, int y, int z, std::uint64_t bits)
{
    std::memcpy(bytesOf<kEdge>(volume, y, z), &bits, kEdge / 8);
}

/// Calls visit(std::integral_constant<int, edge>) for the chunk edge, so that loops over rows know it.
template <typename Visit> decltype(auto) withEdge(int edge, const Visit& visit)
{
    switch (edge) {
    case 16:
        return visit(std::integral_constant<int, 16>{});
    case 32:
        return visit(std::integral_constant<int, 32>{});
    default:
        return visit(std::integral_constant<int, 64>{});
    }
}

inline bool bitAt(const BitVolume& volume, std::size_t voxel)
{
    return volume[voxel / 64] >> (voxel % 64) & 1;
}
inline void setBit(BitVolume& volume, std::size_t voxel, bool value)
{
    const std::uint64_t bit = std::uint64_t{1} << (voxel % 64);
    volume[voxel / 64] = value ? volume[voxel / 64] | bit : volume[voxel / 64] & ~bit;
}

/// Voxels that take more than one level and less than all.
struct AbsorbingVoxels {
    int attenuation = 2; // levels, 2 to 14
    BitVolume where;
};

struct LampVoxel {
    std::uint32_t voxel = 0; // index in the chunk
    Material material = kOpen;
    bool operator==(const LampVoxel&) const = default;
};

struct Transmission {
    enum class Kind : std::uint8_t { Open, Dark, Mixed };
    struct Colour {
        BitVolume transparent; // takes one level
        std::vector<AbsorbingVoxels> absorbing;
    };
    int edge = 0;
    Kind kind = Kind::Open; // Open: all voxels open air; Dark: no light passes and none is given
    std::vector<Colour> colours; // Mixed: one for all colours, or four if a tinted voxel is among them
    std::uint8_t asPlain = 0xF; // bit of a LightColour: surely passes as plain light does, here
    BitVolume open; // Mixed: sky falls through
    BitVolume tinted; // takes more of one colour than of another; empty where no voxel does
    std::vector<LampVoxel> lamps; // by voxel

    [[nodiscard]] const Colour& of(LightColour colour) const
    {
        return colours[colours.size() == 1 ? 0 : static_cast<std::size_t>(colour)];
    }
    [[nodiscard]] bool isOpenAt(std::size_t voxel) const
    {
        return kind == Kind::Mixed ? bitAt(open, voxel) : kind == Kind::Open;
    }
    [[nodiscard]] std::size_t bytes() const;
};

/// Cost: one pass over the voxels, about 10 us for edge 32; nothing for a chunk that is all alike.
Transmission transmissionOf(const VoxelChunk& chunk, const LightRules& rules);

/// One voxel is another block from now on. Cost: O(lamps of the chunk).
void setVoxel(Transmission& passes, std::size_t voxel, Material material, const LightRules& rules);

/// Levels that the voxel takes, 1 to 15. Cost: a few bits looked up.
int takenAt(const Transmission& passes, std::size_t voxel, LightColour colour);

} // namespace fell::light
