// SPDX-License-Identifier: Apache-2.0
// Chunks of another engine: the container fell-chunks, which docs/fell-chunks.md describes.
#pragma once

#include <fell/blocks/block_set.h>
#include <fell/input/problem.h>

#include <array>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace fell::exchange {

constexpr int kLongestForeignEdge = 256; // voxels
constexpr std::size_t kLargestForeignChunk = std::size_t{1} << 21; // voxels: 128 x 128 x 128

/// One material of the file.
struct ForeignMaterial {
    std::uint16_t id = 0; // as voxels name it; 0 is always open air
    std::string name; // as the file has it
    Rgb colour{0x99, 0x99, 0x99};
    Matter matter = Matter::Solid;
};

/// Where an axis of the file goes: 0 x, 1 y (up), 2 z, and whether it runs against it.
struct ForeignAxis {
    int to = 0;
    bool isBackward = false;
};

struct ForeignHeader {
    std::string name; // may be empty
    std::array<int, 3> edge{}; // voxels of a chunk along the first, second and third axis
    std::array<ForeignAxis, 3> axes{{{0}, {1}, {2}}};
    double voxelMetres = 1;
    std::vector<ForeignMaterial> palette;
    [[nodiscard]] std::size_t voxels() const // of a chunk
    {
        return static_cast<std::size_t>(edge[0]) * static_cast<std::size_t>(edge[1])
            * static_cast<std::size_t>(edge[2]);
    }
    /// Where voxel `local` of chunk `at` lies in Fell: x, y, z.
    [[nodiscard]] VoxelPos placeOf(const std::array<std::int64_t, 3>& at, const std::array<int, 3>& local) const;
};

struct ForeignChunk {
    std::array<std::int64_t, 3> at{}; // in chunks, along the file's axes
    std::vector<std::uint16_t> ids; // of the palette; the first axis fastest, then the second
};

/// Reads the chunks of a file, a folder or standard input one after another. A class because it owns what is open.
///
/// Trust   The file may come from anywhere: sizes are checked before memory is taken. Memory: one chunk, twice.
/// Cost    2 ns a voxel raw, 1 ns in runs; zstd's decompression besides.
class ForeignChunks {
public:
    virtual ~ForeignChunks() = default;
    /// `from`: a file; a folder with a fell-chunks.json and files *.chunk, or that file; or "-", standard input.
    /// Errors  it cannot be read, is no fell-chunks, or its header is wrong: one sentence with the place.
    static Outcome<std::unique_ptr<ForeignChunks>> open(const std::filesystem::path& from);

    /// The bytes of a file.
    static Outcome<std::unique_ptr<ForeignChunks>> parse(std::string bytes, const std::string& where);

    [[nodiscard]] const ForeignHeader& header() const { return m_header; }
    /// Reads the next chunk; false after the last. A position may come again: the later one counts.
    /// Errors  damaged or cut short: the sentence says which chunk, and where it begins.
    virtual Outcome<bool> next(ForeignChunk& out) = 0;
    /// Of the bytes; 0 where they are not known, as of standard input.
    [[nodiscard]] virtual double share() const = 0;

protected:
    ForeignChunks() = default;
    ForeignHeader m_header;
};

/// The header's JSON. Errors: one sentence with the JSON pointer.
Outcome<ForeignHeader> parseForeignHeader(std::string_view json, const std::string& where);

/// A block set of the file's materials: names in lower case with hyphens, each once. `materials[id]` is the block of
/// each id, kOpen where the palette has none. Errors: as parseBlockSet's.
struct ForeignBlocks {
    std::string json; // a block set's file
    std::vector<Material> materials; // 65,536
};
Outcome<ForeignBlocks> blocksOf(const ForeignHeader& header, const std::string& where);

} // namespace fell::exchange
