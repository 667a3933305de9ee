// SPDX-License-Identifier: Apache-2.0
// Heights, volumes and chunks from elsewhere as a world file that did not exist before.
#pragma once

#include <fell/exchange/height_png.h>
#include <fell/exchange/nrrd_volume.h>
#include <fell/terrain/recipe.h>

namespace fell::exchange {

struct ImportSpec {
    std::filesystem::path in; // .png, .nrrd, .chunks, a folder of chunks, or "-": chunks from standard input
    std::filesystem::path out; // the world file
    Recipe like; // whose blocks, seed and voxel length it has; chunks bring blocks and length themselves
    std::string material; // heights: for all of it, empty: by height and slope; volumes: of what is above the threshold
    double metresPerPixel = 1; // heights
    std::array<double, 2> heights{0, 255}; // metres of black and white
    std::optional<double> threshold; // volumes
    std::map<std::int64_t, Material> ids; // volumes; empty: what the file says
    VoxelPos at; // volumes: of its lowest corner; chunks: of their origin
};

struct ImportResult {
    std::array<std::int64_t, 3> size{}; // pixels along x and z, y is 1; or values; chunks: voxels of the box of all
    std::string type; // "grey, 16 bits", "float", "chunks of 16 x 16 x 16"
    std::filesystem::path heights; // the file of the heights
    std::uint64_t chunks = 0, voxels = 0, bytes = 0; // of the world file
};

enum class ImportKind : std::uint8_t { Heights, Volume, Chunks };
/// By the file's ending, or what the folder contains; nothing for another one.
std::optional<ImportKind> importKindOf(const std::filesystem::path& file);

/// Makes the world; heights stand in a file next to it, of the same name with .heights.
/// Errors: what the readers say; a number that is not allowed; a file that is there already; cannot be written. After
/// an error, and when `goOn` stops it, nothing is left.
Outcome<ImportResult> importWorld(const ImportSpec& spec, const std::function<bool(double share)>& progress = {});

} // namespace fell::exchange
