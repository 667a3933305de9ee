// SPDX-License-Identifier: Apache-2.0
// The surface of one box of the world, ready for an open format.
#pragma once

#include <fell/save/changes.h>
#include <fell/setup/setup.h>
#include <fell/terrain/generate.h>

#include <glm/vec3.hpp>

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace fell::exchange {

/// A box of voxels, upper bound outside.
struct VoxelBox {
    VoxelPos low, high;
};

constexpr std::int64_t kLongestExport = 1024; // voxels along an axis
constexpr std::int64_t kLargestExport = 512LL * 512 * 512; // voxels in all

/// "x0,y0,z0,x1,y1,z1". Errors: not six whole numbers, a bound not above its partner, larger than the two limits.
Outcome<VoxelBox> parseBox(const std::string& text);

/// A rectangle of sides of one material that look the same way, in voxels from the box's lower corner.
struct SurfaceQuad {
    std::array<std::int32_t, 3> voxel{}; // the lowest
    std::int32_t width = 1, height = 1; // voxels, along the axes of QuadFields
    Side side = Side::Up;
    Material material = kOpen;
};

/// A triangle of a shaped block.
struct SurfaceTriangle {
    std::array<glm::vec3, 3> corners{}; // voxels from the box's lower corner, counter-clockwise from outside
    glm::vec3 normal{0, 1, 0};
    Material material = kOpen;
    std::optional<Rgb> colour; // its own; else that of the block's part which it shows
};

struct BoxSurface {
    VoxelBox box;
    std::vector<SurfaceQuad> quads;
    std::vector<SurfaceTriangle> triangles;
    std::uint64_t shapedBlocks = 0;
    [[nodiscard]] bool isEmpty() const { return quads.empty() && triangles.empty(); }
};

/// The surface of the voxels in `box` as the setup's mesher makes it, cut at the box, and the shaped blocks that stand
/// in it; what hides a side may lie outside of it. Ordered by chunk.
/// Cost: generates the chunks that the box touches and their neighbours. `goOn` hears what share is done between
/// chunks; false ends it early.
BoxSurface surfaceOf(const Terrain& terrain, const Setup& setup, const VoxelBox& box,
    const std::function<bool(double share)>& progress = {}, const WorldChanges* changes = nullptr);

/// The lowest voxels that are open up to the sky at the middle of the box, as the recipe and its changes have it;
/// nothing where the world goes up without end, or has nothing. Reported when a box is empty.
std::optional<std::int64_t> groundAt(const Terrain& terrain, const VoxelBox& box, const WorldChanges* changes);

struct ExportCount {
    std::uint64_t bytes = 0, vertices = 0, triangles = 0;
};

/// A file as bytes and what is in it.
struct ExportFile {
    std::string bytes;
    ExportCount count;
    std::string materials; // OBJ: the file of materials that belongs next to it
    std::vector<std::string> leftOut; // what the format cannot carry and the surface has, a sentence each
};

/// Binary glTF 2.0: metres, y up; the node is translated to the box's place in the world, so that boxes exported one by
/// one fit together. One primitive for each look of a block, with texture coordinates, its texture embedded, and
/// alphaMode BLEND where it is not opaque (Khronos, glTF 2.0, 2021).
ExportFile toGlb(const BoxSurface& surface, const Recipe& recipe);

/// Binary little-endian PLY 1.0: x y z in voxels from the box's lower corner, nx ny nz, red green blue; triangles
/// (Turk 1994).
ExportFile toPly(const BoxSurface& surface, const Recipe& recipe);

/// Wavefront OBJ with MTL: voxels from the box's lower corner, normals, texture coordinates, a colour and an opacity a
/// look. `materialFile`: the name that the MTL will have next to it.
ExportFile toObj(const BoxSurface& surface, const Recipe& recipe, const std::string& materialFile);

struct MeshFileFormat {
    const char* id; // also the file's ending
    const char* title;
};
std::span<const MeshFileFormat> meshFileFormats();
/// In the format of this id. Asserts that it exists.
ExportFile toMeshFile(
    const std::string& format, const BoxSurface& surface, const Recipe& recipe, const std::string& materialFile);

} // namespace fell::exchange
