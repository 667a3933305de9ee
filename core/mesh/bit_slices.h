// SPDX-License-Identifier: Apache-2.0
// Voxels as bits, for the meshers that work on words. Private to mesh/.
//
// The sides of axis a lie in slices across that axis. A slice is rows of cells, a row is one word:
//
//   axis        slices   rows over   bits along
//   0 (x)       x        y           z
//   1 (y)       y        z           x
//   2 (z)       z        y           x
//
// A slice's rows lie next to each other, so that a step of the work is one loop over words that a compiler makes wide.
#pragma once

#include <fell/mesh/meshers.h>

#include <bit>
#include <cstring>

#ifdef __AVX2__
#include <immintrin.h>
#endif

namespace fell::mesh::bits {

template <int Edge> using WordOf = std::conditional_t<(Edge > 32), std::uint64_t, std::uint32_t>;

/// One yes or no a voxel, as slices of all three axes, with one layer of neighbours: slices and rows run from -1 to
/// Edge, and the two bits of a row that stick out (-1 and Edge) are in words next to it.
template <int Edge> struct BitVolume {
    using Word = WordOf<Edge>;
    static constexpr int kStride = Edge + 2, kRows = kStride * kStride;
    static constexpr int index(int slice, int row) { return (slice + 1) * kStride + row + 1; }
    alignas(32) Word rows[3][kRows + 8];
    // Bit -1 of a row as bit 0, and bit Edge as the highest: what a shift of the row lacks.
    alignas(32) Word below[3][kRows + 8], above[3][kRows + 8];

    /// Takes one bit a voxel in the order of PaddedVoxels, as a stream that can be read 16 bytes beyond its end.
    /// The rows' ends are only needed for shade. Layers outside [lowest, highest] are known to hold none.
    void take(const std::uint8_t* stream, bool ends, int lowest = -1, int highest = Edge);

private:
    /// 1 or 0 where all bits of the layer that begins at a bit of the stream are that; -1 where they are not.
    static int alikeBits(const std::uint8_t* stream, std::size_t first)
    {
        const auto wordAt = [stream](std::size_t bit) { // 56 bits
            std::uint64_t word = 0;
            std::memcpy(&word, stream + bit / 8, sizeof word);
            return word >> bit % 8 & ((std::uint64_t{1} << 56) - 1);
        };
        constexpr std::uint64_t kAll = (std::uint64_t{1} << 56) - 1;
        const std::uint64_t begin = wordAt(first);
        if (begin != 0 && begin != kAll)
            return -1;
        std::size_t bit = 56;
        for (; bit + 56 <= kRows; bit += 56)
            if (wordAt(first + bit) != begin)
                return -1;
        return wordAt(first + kRows - 56) == begin ? begin != 0 : -1;
    }
};

#ifdef __AVX2__
/// 32 x 32 bits. Bytes of the same number are brought together, then each bit of theirs is one movemask.
/// Source  the byte-and-movemask transpose of H. S. Warren, "Hacker's Delight", 2nd ed. 2012, 7-3, widened to AVX2.
inline void transpose32(const std::uint32_t* from, std::uint32_t* to, int step)
{
    const auto load = [from](int i) { return _mm256_loadu_si256(reinterpret_cast<const __m256i*>(from + 8 * i)); };
    const __m256i bytes = _mm256_setr_epi8(
        0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15, 0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15);
    const __m256i a = _mm256_shuffle_epi8(load(0), bytes), b = _mm256_shuffle_epi8(load(1), bytes),
                  c = _mm256_shuffle_epi8(load(2), bytes), d = _mm256_shuffle_epi8(load(3), bytes);
    const __m256i ab01 = _mm256_unpacklo_epi32(a, b), ab23 = _mm256_unpackhi_epi32(a, b),
                  cd01 = _mm256_unpacklo_epi32(c, d), cd23 = _mm256_unpackhi_epi32(c, d);
    const __m256i order = _mm256_setr_epi32(0, 4, 1, 5, 2, 6, 3, 7);
    __m256i part[4] = {_mm256_unpacklo_epi64(ab01, cd01), _mm256_unpackhi_epi64(ab01, cd01),
        _mm256_unpacklo_epi64(ab23, cd23), _mm256_unpackhi_epi64(ab23, cd23)};
    for (int k = 0; k < 4; ++k) {
        __m256i column = _mm256_permutevar8x32_epi32(part[k], order);
        for (int bit = 7; bit >= 0; --bit) {
            to[(8 * k + bit) * step] = static_cast<std::uint32_t>(_mm256_movemask_epi8(column));
            column = _mm256_add_epi8(column, column);
        }
    }
}
#else
/// 32 x 32 bits by swapping ever smaller squares. Source  H. S. Warren, "Hacker's Delight", 2nd ed. 2012, 7-3.
inline void transpose32(const std::uint32_t* from, std::uint32_t* to, int step)
{
    std::uint32_t rows[32];
    std::memcpy(rows, from, sizeof rows);
    std::uint32_t mask = 0x0000FFFF;
    for (unsigned j = 16; j != 0; j >>= 1, mask ^= mask << j)
        for (unsigned k = 0; k < 32; k = (k + j + 1) & ~j) {
            const std::uint32_t swap = ((rows[k] >> j) ^ rows[k + j]) & mask;
            rows[k] ^= swap << j;
            rows[k + j] ^= swap;
        }
    for (int i = 0; i < 32; ++i)
        to[i * step] = rows[i];
}
#endif

/// Turns a square of bits: bit i of row j becomes bit j of row i. Rows of `from` are Edge words next to each other,
/// those of `to` are `step` words apart.
template <int Edge> void transpose(const WordOf<Edge>* from, WordOf<Edge>* to, int step)
{
    if constexpr (Edge == 32) {
        transpose32(from, to, step);
    } else if constexpr (Edge == 16) {
        std::uint32_t rows[32] = {}, columns[32];
        std::memcpy(rows, from, 16 * sizeof *rows);
        transpose32(rows, columns, 1);
        for (int i = 0; i < 16; ++i)
            to[i * step] = columns[i];
    } else {
        std::uint32_t part[32], turned[32];
        for (int right = 0; right < 2; ++right) // bits 32 * right ...
            for (int high = 0; high < 2; ++high) { // rows 32 * high ...
                for (int i = 0; i < 32; ++i)
                    part[i] = static_cast<std::uint32_t>(from[32 * high + i] >> (32 * right));
                transpose32(part, turned, 1);
                for (int i = 0; i < 32; ++i) {
                    std::uint64_t& word = to[(32 * right + i) * step];
                    word = (high ? word : 0) | static_cast<std::uint64_t>(turned[i]) << (32 * high);
                }
            }
    }
}

/// Long: its two halves, for few slices and for all, are one loop each over the same locals.
template <int Edge> void BitVolume<Edge>::take(const std::uint8_t* stream, bool ends, int lowest, int highest)
{
    if (lowest > -1 || highest < Edge)
        std::memset(rows, 0, sizeof rows);
    Word corner[2][2][kStride] = {}; // [west, east][north, south] of each y: the volume's upright edges
    struct Row {
        Word west, inner, east; // one bit, Edge bits, one bit
    };
    const auto rowAt = [stream](std::size_t bit) {
        std::uint64_t low = 0;
        std::memcpy(&low, stream + bit / 8, sizeof low);
        low >>= bit % 8;
        if constexpr (Edge == 64) { // 66 bits: the last nine at most come from beyond
            std::uint64_t high = 0;
            std::memcpy(&high, stream + bit / 8 + 8, sizeof high);
            const unsigned shift = bit % 8;
            if (shift != 0)
                low |= high << (64 - shift);
            return Row{low & 1, low >> 1 | (high >> shift) << 63, high >> shift >> 1 & 1};
        } else {
            return Row{static_cast<Word>(low & 1), static_cast<Word>(low >> 1 & ((std::uint64_t{1} << Edge) - 1)),
                static_cast<Word>(low >> (Edge + 1) & 1)};
        }
    };
    for (int y = lowest; y <= highest; ++y) {
        Word west = 0, east = 0;
        const std::size_t first = static_cast<std::size_t>(y + 1) * kRows;
        if (const int alike = alikeBits(stream, first); alike >= 0) { // most layers are below the ground or above it
            const Word all = alike ? static_cast<Word>(-1) >> (8 * sizeof(Word) - Edge) : 0;
            for (int i = -1; i <= Edge; ++i)
                rows[0][index(i, y)] = rows[1][index(y, i)] = rows[2][index(i, y)] = all;
            for (auto& side : corner)
                side[0][y + 1] = side[1][y + 1] = static_cast<Word>(alike);
            continue;
        }
        const auto atEnd = [&](int z) {
            const Row row = rowAt(first + static_cast<std::size_t>(z + 1) * kStride);
            rows[1][index(y, z)] = rows[2][index(z, y)] = row.inner;
            corner[0][z > 0][y + 1] = row.west;
            corner[1][z > 0][y + 1] = row.east;
        };
        atEnd(-1);
        std::size_t bit = first + kStride;
        for (int z = 0; z < Edge; ++z, bit += kStride) {
            const Row row = rowAt(bit);
            rows[1][index(y, z)] = rows[2][index(z, y)] = row.inner;
            west |= row.west << z;
            east |= row.east << z;
        }
        atEnd(Edge);
        transpose<Edge>(rows[1] + index(y, 0), rows[0] + index(0, y), kStride);
        rows[0][index(-1, y)] = west;
        rows[0][index(Edge, y)] = east;
    }
    if (!ends)
        return;
    // The bits next to a row are bits of rows across it; loops over words that lie next to each other.
    constexpr int kTop = Edge - 1;
    const Word *west = rows[0] + index(-1, -1), *east = rows[0] + index(Edge, -1), // by y + 1, bits along z
                                                    *north = rows[2] + index(-1, -1),
               *south = rows[2] + index(Edge, -1); // by y + 1, bits along x
    for (int s = 0; s < Edge; ++s)
        for (int i = 0; i < kStride; ++i) {
            below[2][index(s, -1) + i] = west[i] >> s & 1;
            above[2][index(s, -1) + i] = (east[i] >> s & 1) << kTop;
            below[0][index(s, -1) + i] = north[i] >> s & 1;
            above[0][index(s, -1) + i] = (south[i] >> s & 1) << kTop;
        }
    for (int i = 0; i < kStride; ++i) {
        for (int far = 0; far < 2; ++far) {
            const int s = far ? Edge : -1;
            below[2][index(s, -1) + i] = corner[0][far][i];
            above[2][index(s, -1) + i] = corner[1][far][i] << kTop;
            below[0][index(s, -1) + i] = corner[far][0][i];
            above[0][index(s, -1) + i] = corner[far][1][i] << kTop;
        }
        Word *low = below[1] + index(i - 1, 0), *high = above[1] + index(i - 1, 0);
        for (int z = 0; z < Edge; ++z) {
            low[z] = west[i] >> z & 1;
            high[z] = (east[i] >> z & 1) << kTop;
        }
        low[-1] = corner[0][0][i];
        low[Edge] = corner[0][1][i];
        high[-1] = corner[1][0][i] << kTop;
        high[Edge] = corner[1][1][i] << kTop;
    }
}

} // namespace fell::mesh::bits
