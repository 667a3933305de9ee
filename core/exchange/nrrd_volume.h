// SPDX-License-Identifier: Apache-2.0
// Volumes of numbers from NRRD files, as blocks of a world.
#pragma once

#include <fell/blocks/block_set.h>
#include <fell/input/problem.h>
#include <fell/save/chunk_codec.h>

#include <filesystem>
#include <functional>
#include <map>
#include <optional>

namespace fell::exchange {

constexpr std::int64_t kLongestVolume = 1024; // values along an axis
constexpr std::size_t kLargestVolume = std::size_t{1} << 29; // bytes

/// Nearly raw raster data (Kindlmann, "Definition of NRRD file format", version 5): three axes, encoding raw or gzip,
/// integers of 8 to 32 bits, float and double, the data behind the header.
///
/// Axes    as the labels "x", "y", "z" say where all three are there; else by the space directions, each the axis along
///         which it is longest, against it where it is negative; else x, y, z. y is up in all cases.
struct NrrdVolume {
    std::array<std::int64_t, 3> size{}; // values along x, y, z
    std::array<std::int64_t, 3>
        stride{}; // values from one to the next along x, y, z; negative where it runs against it
    std::int64_t first = 0; // where 0, 0, 0 is
    std::string type; // as "uint8", "int16", "float"
    bool isBigEndian = false;
    std::string bytes;
    std::map<std::string, std::string> notes; // key:=value pairs

    [[nodiscard]] double at(std::int64_t x, std::int64_t y, std::int64_t z) const;
};

/// Errors: no NRRD, another dimension, type or encoding, data elsewhere or too short, larger than the limits.
Outcome<NrrdVolume> readNrrd(const std::filesystem::path& file);
Outcome<NrrdVolume> parseNrrd(std::string_view bytes, const std::string& where);

/// What value is what block: a threshold, or a table.
struct VolumeRule {
    std::optional<double> above; // values above it are `material`
    Material material = 1;
    std::map<std::int64_t, Material> ids; // without a threshold: values that are not there are open air
};

/// The table that a volume brings: material N:=name as fell-cli export writes it; else each number is the block type
/// of that number. Errors: a name that the world does not have.
Outcome<VolumeRule> ruleOf(const NrrdVolume& volume, const BlockSet& blocks);

/// Chunks of edge kKeptEdge that hold what is not open air, with the volume's 0, 0, 0 at `at`, layer after layer from
/// below; `take` may stop it. False if it was stopped. Cost: 20 ns a value.
bool eachChunkOf(const NrrdVolume& volume, const VolumeRule& rule, VoxelPos at,
    const std::function<bool(std::vector<StoredChunk> layer, double share)>& take);

} // namespace fell::exchange
