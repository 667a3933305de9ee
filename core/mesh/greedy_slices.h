// SPDX-License-Identifier: Apache-2.0
// Slices of a chunk as words of bits, and their cutting into quads. Private to greedy_bits.cpp.
#pragma once

#include <fell/mesh/bit_streams.h>

#include <cstring>

namespace fell::mesh {
namespace { // included by one source alone: what is local is inlined where it is called once

using bits::areAlike;
using bits::bitsOfKind;
using bits::BitVolume;
using bits::equalBits;
using bits::OtherGroups;
using bits::streamKind;
using bits::streamPlainSolid;
using bits::WordOf;

/// "The same material as the next voxel", where a plain solid cube shows a side; anything elsewhere.
/// Index: slice * Edge + row, for the axes as in bit_slices.h.
template <int Edge> struct SameBits {
    using Word = WordOf<Edge>;
    alignas(32) Word along[3][Edge * Edge]; // the next cell of the row
    alignas(32) Word over[3][Edge * Edge]; // the cell in the next row
};

/// One slice of one direction. The last rows are followed by empty ones, so that a look ahead needs no bound.
template <int Edge> struct Slice {
    using Word = WordOf<Edge>;
    static constexpr int kAhead = 8;
    alignas(32) Word faces[Edge + kAhead];
    Word joinOver[1 + Edge + kAhead]; // may join the cell in the next row; of row r at r + 1, the first one is empty
    alignas(32) Word joinAlong[Edge]; // may join the next cell in the row
    alignas(32) Word single[Edge]; // joins nothing on any side
    alignas(32) Word dark[Edge + 1][8]; // shade of each cell: low bits of the corners 0 to 3, then their high bits
};

/// How a slice's cells become quads.
struct Emission {
    const Material* first; // the voxel of cell (row 0, bit 0); null where `material` is for all
    std::ptrdiff_t alongStep, overStep; // voxels from cell to cell
    Quad base; // of cell (0, 0), side included
    int alongBit, overBit; // where a step along the row or over rows is added to a quad
    int lengthBit, rowsBit; // where its length along the row and over rows are
    Quad material; // in place, where `first` is null
};

template <int Edge> std::uint64_t shadeAt(const Slice<Edge>& slice, int row, int bit)
{
    const WordOf<Edge>* planes = slice.dark[row];
#ifdef __AVX2__
    if constexpr (Edge <= 32) {
        const __m256i all = _mm256_load_si256(reinterpret_cast<const __m256i*>(planes));
        return static_cast<std::uint64_t>(static_cast<unsigned>(
            _mm256_movemask_ps(_mm256_castsi256_ps(_mm256_sll_epi32(all, _mm_cvtsi32_si128(31 - bit))))));
    }
#endif
    std::uint64_t ambientOcclusion = 0;
    for (unsigned i = 0; i < 8; ++i)
        ambientOcclusion |= static_cast<std::uint64_t>(planes[i] >> bit & 1) << i;
    return ambientOcclusion;
}

/// In how many rows after `row` the whole of `mask` may be joined; takes those cells out of their rows.
template <int Edge> int growOver(Slice<Edge>& slice, int row, WordOf<Edge> mask)
{
    int grown = 0;
#ifdef __AVX2__
    constexpr int kLanes = 32 / sizeof(WordOf<Edge>);
    alignas(32) static constexpr std::array<WordOf<Edge>, 2 * kLanes> kFirst = [] {
        std::array<WordOf<Edge>, 2 * kLanes> first{};
        for (int i = 0; i < kLanes; ++i)
            first[static_cast<std::size_t>(i)] = static_cast<WordOf<Edge>>(-1);
        return first;
    }();
    __m256i all;
    if constexpr (Edge <= 32)
        all = _mm256_set1_epi32(static_cast<int>(mask));
    else
        all = _mm256_set1_epi64x(static_cast<long long>(mask));
    int rows = 0;
    do { // eight rows (or four) at once: no branch for each row that it grows
        const __m256i join = _mm256_loadu_si256(reinterpret_cast<const __m256i*>(slice.joinOver + 1 + row + grown));
        const __m256i held = _mm256_and_si256(join, all);
        if constexpr (Edge <= 32)
            rows = std::countr_one(
                static_cast<unsigned>(_mm256_movemask_ps(_mm256_castsi256_ps(_mm256_cmpeq_epi32(held, all)))));
        else
            rows = std::countr_one(
                static_cast<unsigned>(_mm256_movemask_pd(_mm256_castsi256_pd(_mm256_cmpeq_epi64(held, all)))));
        auto* next = reinterpret_cast<__m256i*>(slice.faces + row + grown + 1);
        const __m256i taken = _mm256_and_si256(
            all, _mm256_loadu_si256(reinterpret_cast<const __m256i*>(kFirst.data() + kLanes - rows)));
        _mm256_storeu_si256(next, _mm256_andnot_si256(taken, _mm256_loadu_si256(next)));
        grown += rows;
    } while (rows == kLanes);
#else
    while ((slice.joinOver[1 + row + grown] & mask) == mask) {
        ++grown;
        slice.faces[row + grown] &= ~mask;
    }
#endif
    return grown;
}

template <int Edge, bool Shade>
Quad quadAt(const Slice<Edge>& slice, int row, int bit, const Emission& to, Quad base, const Material* voxels)
{
    Quad quad = base + (static_cast<Quad>(bit) << to.alongBit);
    quad += voxels ? static_cast<Quad>(voxels[bit * to.alongStep]) << kMaterialBit : to.material;
    if constexpr (Shade)
        quad += shadeAt<Edge>(slice, row, bit) << kOcclusionBit;
    return quad;
}

/// Which of the rows are not empty.
template <int Edge> std::uint64_t filledRows(const WordOf<Edge>* rows)
{
    std::uint64_t filled = 0;
#ifdef __AVX2__
    const __m256i zero = _mm256_setzero_si256();
    constexpr int kLanes = 32 / sizeof(WordOf<Edge>);
    for (int r = 0; r < Edge; r += kLanes) {
        const __m256i words = _mm256_load_si256(reinterpret_cast<const __m256i*>(rows + r));
        if constexpr (Edge <= 32)
            filled
                |= static_cast<std::uint64_t>(
                       ~static_cast<unsigned>(_mm256_movemask_ps(_mm256_castsi256_ps(_mm256_cmpeq_epi32(words, zero))))
                       & 0xFFu)
                << r;
        else
            filled
                |= static_cast<std::uint64_t>(
                       ~static_cast<unsigned>(_mm256_movemask_pd(_mm256_castsi256_pd(_mm256_cmpeq_epi64(words, zero))))
                       & 0xFu)
                << r;
    }
#else
    for (int r = 0; r < Edge; ++r)
        filled |= static_cast<std::uint64_t>(rows[r] != 0) << r;
#endif
    return filled;
}

/// A quad for every set bit of `cells`, a row a word.
template <int Edge, bool Shade>
Quad* writeSingles(const Slice<Edge>& slice, const WordOf<Edge>* cells, const Emission& to, Quad* out)
{
    for (std::uint64_t rows = filledRows<Edge>(cells); rows != 0; rows &= rows - 1) {
        const int row = std::countr_zero(rows);
        const Quad base = to.base + (static_cast<Quad>(row) << to.overBit);
        const Material* voxels = to.first ? to.first + row * to.overStep : nullptr;
        WordOf<Edge> left = cells[row];
        do {
            *out++ = quadAt<Edge, Shade>(slice, row, std::countr_zero(left), to, base, voxels);
            left &= left - 1;
        } while (left != 0);
    }
    return out;
}

/// The slice's remaining cells as rectangles.
template <int Edge, bool Shade> Quad* writeMerged(Slice<Edge>& slice, const Emission& to, Quad* out)
{
    using Word = WordOf<Edge>;
    for (std::uint64_t rows = filledRows<Edge>(slice.faces); rows != 0; rows &= rows - 1) {
        const int row = std::countr_zero(rows);
        Word left = slice.faces[row]; // some have gone into rectangles of earlier rows
        if (left == 0)
            continue;
        const Quad base = to.base + (static_cast<Quad>(row) << to.overBit);
        const Material* voxels = to.first ? to.first + row * to.overStep : nullptr;
        const Word join = slice.joinAlong[row] & static_cast<Word>(left >> 1);
        do {
            const int bit = std::countr_zero(left);
            Quad quad = quadAt<Edge, Shade>(slice, row, bit, to, base, voxels);
            const auto further = static_cast<unsigned>(std::countr_one(static_cast<Word>(join >> bit)));
            const auto mask = static_cast<Word>(static_cast<Word>((Word{2} << further) - 1) << bit);
            left &= ~mask;
            quad += static_cast<Quad>(further) << to.lengthBit;
            quad += static_cast<Quad>(growOver<Edge>(slice, row, mask)) << to.rowsBit;
            *out++ = quad;
        } while (left != 0);
    }
    return out;
}

/// A layer of the solid cubes that darken: row r and the rows before and after it darken row r of a slice.
template <int Edge> struct ShadeLayer {
    const WordOf<Edge>*rows, *below, *above; // row 0 of a slice of a BitVolume
};

/// Eight rows at once. Functions of this file only take them, so their ABI does not matter.
template <typename Word> using Eight __attribute__((vector_size(8 * sizeof(Word)), may_alias)) = Word;

template <typename Word> Eight<Word> eightAt(const Word* from)
{
    Eight<Word> rows;
    std::memcpy(&rows, from, sizeof rows);
    return rows;
}

/// Darkness of one corner of eight rows of cells: low and high bit of what cornerOcclusion counts.
template <typename Word>
void cornerOf(const Eight<Word>& neighbour, const Eight<Word>& over, const Eight<Word>& across, Eight<Word>& low,
    Eight<Word>& high)
{
    const Eight<Word> both = neighbour & over;
    low = (neighbour ^ over ^ across) | both;
    high = both | (across & (neighbour | over));
}

/// Fills `dark` of the rows that have faces, and takes unequal neighbours out of the joins.
template <int Edge, bool Merge> void shadeSlice(const ShadeLayer<Edge>& layer, bool widthIsAlong, Slice<Edge>& slice)
{
    using Word = WordOf<Edge>;
    using Rows = Eight<Word>;
    const auto neighbour = [&layer](int row, Rows& low, Rows& here, Rows& high) {
        here = eightAt(layer.rows + row);
        low = (here << 1) | eightAt(layer.below + row);
        high = (here >> 1) | eightAt(layer.above + row);
    };
    // Corner 1 is at the end of the width, corner 3 at the end of the height.
    const int lowHigh = widthIsAlong ? 3 : 1, highLow = widthIsAlong ? 1 : 3;
    const std::uint64_t filled = filledRows<Edge>(slice.faces);
    for (int first = 0; first < Edge; first += 8) {
        if ((filled >> first & 0xFF) == 0)
            continue;
        Rows a, b, c, aLow, bLow, cLow, aHigh, bHigh, cHigh;
        neighbour(first - 1, aLow, a, aHigh);
        neighbour(first, bLow, b, bHigh);
        neighbour(first + 1, cLow, c, cHigh);
        Rows plane[8];
        cornerOf<Word>(bLow, a, aLow, plane[0], plane[4]);
        cornerOf<Word>(bHigh, a, aHigh, plane[highLow], plane[4 + highLow]);
        cornerOf<Word>(bHigh, c, cHigh, plane[2], plane[6]);
        cornerOf<Word>(bLow, c, cLow, plane[lowHigh], plane[4 + lowHigh]);
        for (int row = 0; row < 8; ++row)
            for (int p = 0; p < 8; ++p)
                slice.dark[first + row][p] = plane[p][row];
        if constexpr (Merge) {
            Rows uneven{}, unequal{};
            for (const Rows& p : plane)
                uneven |= p ^ (p >> 1);
            // Row r against row r + 1: lane against the next lane; the last lane is the next eight rows' affair.
            for (const Rows& p : plane)
                unequal |= p ^ __builtin_shufflevector(p, p, 1, 2, 3, 4, 5, 6, 7, 7);
            const Rows along = eightAt(slice.joinAlong + first) & ~uneven,
                       over = eightAt(slice.joinOver + 1 + first) & ~unequal;
            std::memcpy(slice.joinAlong + first, &along, sizeof along);
            std::memcpy(slice.joinOver + 1 + first, &over, sizeof over);
            if (first > 0 && slice.joinOver[first] != 0) { // then the row before has been shaded
                Word differs = 0;
                for (int p = 0; p < 8; ++p)
                    differs |= slice.dark[first - 1][p] ^ slice.dark[first][p];
                slice.joinOver[first] &= ~differs;
            }
        }
    }
}

} // namespace
} // namespace fell::mesh
