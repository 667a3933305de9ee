// SPDX-License-Identifier: Apache-2.0
// What every mesher writes: a chunk's surface as quads on voxel sides and as triangles of any direction.
#pragma once

#include <fell/mesh/light_bake.h>
#include <fell/mesh/quad.h>

#include <array>
#include <cstdint>
#include <vector>

namespace fell::mesh {

/// A vertex of a chunk's triangles.
struct MeshVertex {
    std::array<std::int16_t, 3> place{}; // 1/kMeshUnit voxel from the chunk's lowest corner
    std::uint16_t material : 12 = kOpen;
    std::uint16_t lightTop : 4 = 0; // light, bits 20 to 23
    std::array<std::int8_t, 3> normal{}; // 1/127
    std::uint8_t part : 2 = 0; // 0 top, 1 side, 2 bottom look of the material; 3: `colour` is its own
    std::uint8_t darkness : 2 = 0; // ambient occlusion, 0 open to 3, as cornerDarkness
    std::uint8_t lightMiddle : 4 = 0; // light, bits 16 to 19
    std::uint16_t colour = 0; // sRGB, blue in the low 5 bits, green in 6, red in 5
    std::uint16_t lightLow = 0; // light, bits 0 to 15

    void setLight(PackedLight light)
    {
        lightLow = static_cast<std::uint16_t>(light & 0xFFFF);
        lightMiddle = static_cast<std::uint8_t>(light >> 16 & 15);
        lightTop = static_cast<std::uint16_t>(light >> 20 & 15);
    }
    [[nodiscard]] PackedLight light() const
    {
        return lightLow | static_cast<PackedLight>(lightMiddle) << 16 | static_cast<PackedLight>(lightTop) << 20;
    }
};
static_assert(sizeof(MeshVertex) == 16);
constexpr float kMeshUnit = 256; // of a voxel

/// The look that a surface of this normal shows of its material: the top above, the bottom below, else the side.
constexpr std::uint8_t partOf(float up)
{
    constexpr float kUpward = 0.5F;
    return up > kUpward ? 0 : up < -kUpward ? 2 : 1;
}

/// Triangles that share vertices.
struct TriangleList {
    std::vector<MeshVertex> vertices;
    std::vector<std::uint32_t> indices; // of vertices, three a triangle, counter-clockwise seen from outside

    [[nodiscard]] std::size_t count() const { return indices.size() / 3; } // triangles
    [[nodiscard]] bool isEmpty() const { return indices.empty(); }
    [[nodiscard]] std::size_t bytes() const
    {
        return vertices.size() * sizeof(MeshVertex) + indices.size() * sizeof(std::uint32_t);
    }
    [[nodiscard]] const MeshVertex& corner(std::size_t triangle, std::size_t corner) const
    {
        return vertices[indices[triangle * 3 + corner]];
    }
    void clear()
    {
        vertices.clear();
        indices.clear();
    }
    /// Appends another list.
    void add(const TriangleList& other);
};

/// A list of quads for each matter, and triangles of solid matter, whose light is not known yet.
struct ChunkSurface {
    std::array<QuadList, kMatterCount> of;
    TriangleList triangles;

    [[nodiscard]] QuadList& in(Matter matter) { return of[static_cast<std::size_t>(matter)]; }
    [[nodiscard]] const QuadList& in(Matter matter) const { return of[static_cast<std::size_t>(matter)]; }
    [[nodiscard]] std::size_t count() const { return of[0].size() + of[1].size() + of[2].size(); } // quads
    [[nodiscard]] bool isEmpty() const { return count() == 0 && triangles.isEmpty(); }
    [[nodiscard]] std::size_t bytes() const { return count() * sizeof(Quad) + triangles.bytes(); }
    void clear()
    {
        for (auto& list : of)
            list.clear();
        triangles.clear();
    }
    /// All quads, one list after the other.
    [[nodiscard]] std::vector<Quad> all() const;
};

/// The light at a place of a surface: the mean of the eight voxels around the point half a voxel before it, weighted by
/// how near they are; those that light does not enter do not count.
/// Units   voxels from the chunk's lowest corner, within it; the normal has length 1.
/// Cost    about 100 ns a channel.
PackedLight lightAt(const PaddedLight& light, const std::array<float, 3>& point, const std::array<float, 3>& normal);

} // namespace fell::mesh
