// SPDX-License-Identifier: Apache-2.0
// Heights from elsewhere: a grid of samples in a file of tiles, of which only what is looked at comes into memory.
#pragma once

#include <fell/input/problem.h>

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace fell::terrain {

constexpr int kLongestHeightMap = 16384; // samples along an edge
constexpr int kHeightTile = 256; // samples along the edge of a tile

/// A class because it owns the mapping of its file. Any thread may read it.
///
/// File    "FELLHGT1", then width and height as 32-bit little-endian; then tiles from north to south, each row of them
///         from west to east, kHeightTile^2 samples of 16 bits each, little-endian, row by row; the last ones repeat
///         the edge.
/// Errors  a file that another process makes shorter while it is open has the height 0 from there on, and isCut.
/// Cost    at: 10 ns where its page is in memory.
class HeightMap {
public:
    /// Errors: no such file, none of its kind, shorter than it says.
    static Outcome<std::shared_ptr<const HeightMap>> open(const std::filesystem::path& file);
    ~HeightMap();
    HeightMap(const HeightMap&) = delete;
    HeightMap& operator=(const HeightMap&) = delete;

    [[nodiscard]] int width() const { return m_width; }
    [[nodiscard]] int height() const { return m_height; }
    /// 0 to 1 at a place counted in samples from the north-west one, between samples as a plane through the four would
    /// have it (bilinear); beyond the edge what the edge has.
    [[nodiscard]] double at(double x, double z) const;
    /// Was a part of the file missing when it was read? For maps of the whole process.
    [[nodiscard]] static bool isCut();

private:
    HeightMap(const std::uint8_t* bytes, std::size_t size, int width, int height);
    [[nodiscard]] double sample(int x, int z) const;

    const std::uint8_t* m_bytes;
    std::size_t m_size;
    int m_width, m_height, m_across; // samples; tiles in a row
};

/// Writes such a file row after row from the north; memory for kHeightTile rows. What is not finished leaves no file.
class HeightMapWriter {
public:
    HeightMapWriter(std::filesystem::path file, int width, int height);
    ~HeightMapWriter();
    HeightMapWriter(const HeightMapWriter&) = delete;
    HeightMapWriter& operator=(const HeightMapWriter&) = delete;

    void add(std::span<const std::uint16_t> row);
    /// Errors: not all rows were given, cannot be written.
    std::optional<Problem> finish();

private:
    void flush();
    struct Out;
    std::filesystem::path m_file;
    int m_width, m_height, m_rows = 0; // rows that were given
    std::vector<std::uint16_t> m_band; // of the tiles that are being filled
    std::unique_ptr<Out> m_out;
};

} // namespace fell::terrain
