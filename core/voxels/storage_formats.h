// SPDX-License-Identifier: Apache-2.0
// How a cube of voxels is held in memory. All forms hold the same voxels; they differ in bytes and in what costs time.
#pragma once

#include <fell/blocks/block_set.h>

#include <memory>
#include <span>
#include <string_view>
#include <vector>

namespace fell::voxels {

struct PalettePlanes;

/// A cube of edge^3 voxels in some form; index of a voxel as in VoxelChunk: (y * edge + z) * edge + x.
/// A class because each form guards its own layout. Reading is safe from any thread while no thread edits.
class VoxelStorage {
public:
    virtual ~VoxelStorage() = default;
    [[nodiscard]] virtual Material at(int x, int y, int z) const = 0;
    /// Writes the `edge` voxels of row (y, z) to `out`.
    virtual void readRow(int y, int z, Material* out) const = 0;
    virtual void set(int x, int y, int z, Material material) = 0;
    [[nodiscard]] virtual std::size_t bytes() const = 0; // all memory that it holds
    [[nodiscard]] virtual std::unique_ptr<VoxelStorage> copy() const = 0;
    /// What the form "palette" holds; null for the others.
    [[nodiscard]] virtual const PalettePlanes* planes() const { return nullptr; }
};

struct StorageFormat {
    const char* id;
    const char* title;
    const char* note;
    /// Asserts: voxels.size() == edge^3; edge is a power of two from 16 to 256.
    std::unique_ptr<VoxelStorage> (*hold)(int edge, std::span<const Material> voxels);
};

/// All forms:
///   array          two bytes a voxel, in order.
///   palette        the materials that occur, and per row one word of bits for each bit of their number (bit planes).
///   runs           per row, runs of equal voxels.
///   layers         each layer of equal y is one material or an array.
///   octree-wide    nodes of eight child indices and a material, 36 bytes each, leaves too: as it is written first.
///   octree-narrow  4 bytes a node that is not of one material, and its leaves as palette numbers; see octrees.cpp.
std::span<const StorageFormat> voxelForms();
const StorageFormat* findForm(std::string_view id);

std::unique_ptr<VoxelStorage> holdArray(int edge, std::span<const Material> voxels);
std::unique_ptr<VoxelStorage> holdPalette(int edge, std::span<const Material> voxels);
std::unique_ptr<VoxelStorage> holdRuns(int edge, std::span<const Material> voxels);
std::unique_ptr<VoxelStorage> holdLayers(int edge, std::span<const Material> voxels);
std::unique_ptr<VoxelStorage> holdWideOctree(int edge, std::span<const Material> voxels);
std::unique_ptr<VoxelStorage> holdNarrowOctree(int edge, std::span<const Material> voxels);

} // namespace fell::voxels
