// SPDX-License-Identifier: Apache-2.0
// The light before a quad, voxel by voxel and corner by corner. Levels of a voxel are one word, a byte a channel: sums
// of four and differences then need no loop. Private to light_bake.cpp.
#pragma once

#include <fell/grid/spread_bits.h>
#include <fell/mesh/light_bake.h>

#include <array>
#include <vector>

namespace fell::mesh {
namespace { // included by one source alone: what is local is inlined where it is called once

using Levels = std::uint64_t; // a byte a channel
constexpr Levels kClosed = ~Levels{0}; // light does not enter
constexpr int kMaxCells = 66; // a quad's 64 and one beyond each end

/// The levels of one chunk voxel by voxel, a row when it is first asked for.
class DecodedRows {
public:
    void begin(const PaddedLight& light)
    {
        m_light = &light;
        m_stride = static_cast<std::size_t>(light.edge) + 2;
        m_spelt.assign(m_stride * m_stride, false);
        m_levels.resize(m_stride * m_stride * m_stride);
    }
    /// The levels of voxels -1 to edge.
    [[nodiscard]] const Levels* row(int y, int z)
    {
        const std::size_t row = m_light->row(y, z);
        if (!m_spelt[row])
            spell(row);
        return m_levels.data() + row * m_stride;
    }

private:
    void spell(std::size_t row)
    {
        m_spelt[row] = true;
        const std::size_t words = m_light->words;
        Levels* to = m_levels.data() + row * m_stride;
        for (std::size_t x = 0; x < m_stride; x += 8) { // eight voxels: a word a channel, turned into a word a voxel
            const std::size_t word = x / 64;
            const unsigned shift = x % 64;
            const auto spread = [shift](std::uint64_t bits) { return kSpreadBits[bits >> shift & 0xFF]; };
            const std::uint64_t closed
                = (kOnes - spread(m_light->passable[row * words + word])) * 0xFF; // all bits of its byte
            std::array<std::uint64_t, 8> eight;
            eight.fill(closed);
            for (std::size_t c = 0; c < static_cast<std::size_t>(m_light->channels); ++c) {
                const PaddedLight::Channel& channel = m_light->of[c];
                if (channel.all) {
                    eight[c] |= kOnes * static_cast<std::uint64_t>(*channel.all);
                    continue;
                }
                const std::uint64_t* digits = channel.digits.data() + row * 4 * words + word;
                for (unsigned k = 0; k < 4; ++k)
                    eight[c] |= spread(digits[k * words]) << k;
            }
            turn(eight);
            std::copy_n(eight.begin(), std::min<std::size_t>(8, m_stride - x), to + x);
        }
    }

    static constexpr std::uint64_t kOnes = 0x0101010101010101;

    /// Bytes of eight words as a square of 8 x 8, rows for columns: blocks of four, of two, then single bytes change
    /// places across the diagonal.
    static void turn(std::array<std::uint64_t, 8>& words)
    {
        const auto exchange = [&words](std::size_t by, unsigned shift, std::uint64_t mask) {
            for (std::size_t i = 0; i < 8; ++i)
                if ((i & by) == 0) {
                    const std::uint64_t other = (words[i] >> shift ^ words[i + by]) & mask;
                    words[i + by] ^= other;
                    words[i] ^= other << shift;
                }
        };
        exchange(4, 32, 0x00000000FFFFFFFF);
        exchange(2, 16, 0x0000FFFF0000FFFF);
        exchange(1, 8, 0x00FF00FF00FF00FF);
    }

    const PaddedLight* m_light = nullptr;
    std::size_t m_stride = 0;
    std::vector<bool> m_spelt;
    std::vector<Levels> m_levels;
};

/// The rounded mean of `count` voxels, 1 to 4, byte by byte; halves go up.
Levels meanOf(Levels sum, int count)
{
    constexpr Levels kOnes = 0x0101010101010101, kEven = 0x00FF00FF00FF00FF;
    switch (count) {
    case 1:
        return sum;
    case 2:
        return (sum + kOnes) >> 1 & 0x7F7F7F7F7F7F7F7F;
    case 3: { // times 85/256: exact for sums up to 45
        constexpr Levels kHalf = 0x0080008000800080;
        const Levels even = ((sum & kEven) * 85 + kHalf) >> 8 & kEven,
                     odd = ((sum >> 8 & kEven) * 85 + kHalf) >> 8 & kEven;
        return even | odd << 8;
    }
    default:
        return (sum + 2 * kOnes) >> 2 & 0x3F3F3F3F3F3F3F3F;
    }
}

PackedLight pack(Levels levels)
{
    static_assert(kMaxLightChannels <= 8);
    levels = (levels | levels >> 4) & 0x00FF00FF00FF00FF; // pairs of four bits, then pairs of these, and both
    levels = (levels | levels >> 8) & 0x0000FFFF0000FFFF;
    return static_cast<PackedLight>(levels | levels >> 16);
}

/// The layer of voxels that a quad looks into, one beyond its ends, and the levels at its grid of corners.
class Layer {
public:
    /// True if all open voxels have the same levels.
    bool read(const QuadFields& q, bool inside, DecodedRows& rows)
    {
        m_width = q.width;
        m_height = q.height;
        const auto a = static_cast<std::size_t>(axisOf(q.side)), u = (a + 1) % 3, v = (a + 2) % 3;
        std::array<int, 3> at{q.x, q.y, q.z};
        at[a] += inside ? 0 : signOf(q.side);
        const int u0 = at[u] - 1, v0 = at[v] - 1;
        m_first = kClosed;
        m_even = true;
        // Along whichever axis lies in rows of voxels, if one does.
        if (u == 0)
            for (int j = 0; j < q.height + 2; ++j) {
                at[v] = v0 + j;
                const Levels* row = rows.row(at[1], at[2]) + u0 + 1;
                for (int i = 0; i < q.width + 2; ++i)
                    put(i, j, row[i]);
            }
        else
            for (int i = 0; i < q.width + 2; ++i) {
                at[u] = u0 + i;
                if (v == 0) {
                    const Levels* row = rows.row(at[1], at[2]) + v0 + 1;
                    for (int j = 0; j < q.height + 2; ++j)
                        put(i, j, row[j]);
                    continue;
                }
                for (int j = 0; j < q.height + 2; ++j) {
                    at[v] = v0 + j;
                    put(i, j, rows.row(at[1], at[2])[at[0] + 1]);
                }
            }
        return m_even;
    }
    [[nodiscard]] Levels cell(int i, int j) const // of the quad's own
    {
        return m_cells[static_cast<std::size_t>((j + 1) * kMaxCells + i + 1)];
    }
    /// Levels at the corner before cell (i, j), for i up to width and j up to height.
    [[nodiscard]] Levels corner(int i, int j) const { return m_grid[static_cast<std::size_t>(j * kMaxCells + i)]; }

    void smooth()
    {
        for (int j = 0; j <= m_height; ++j)
            for (int i = 0; i <= m_width; ++i)
                m_grid[static_cast<std::size_t>(j * kMaxCells + i)] = smoothAt(i, j);
    }

private:
    void put(int i, int j, Levels levels)
    {
        const bool own = i > 0 && j > 0 && i <= m_width && j <= m_height;
        if (levels == kClosed && own)
            levels = 0; // the side looks into it, so it counts
        m_cells[static_cast<std::size_t>(j * kMaxCells + i)] = levels;
        if (levels == kClosed)
            return;
        m_even &= m_first == kClosed || levels == m_first;
        m_first = levels;
    }

    [[nodiscard]] Levels smoothAt(int i, int j) const
    {
        const Levels* at = m_cells.data() + j * kMaxCells + i;
        const std::array<Levels, 4> four{at[0], at[1], at[kMaxCells], at[kMaxCells + 1]};
        // Only at the quad's own four corners can both voxels next to its cell be closed: elsewhere one is its own.
        if ((i == 0 || i == m_width) && (j == 0 || j == m_height)) {
            const std::size_t own = (i == 0 ? 1u : 0u) + (j == 0 ? 2u : 0u);
            if (four[own ^ 1] == kClosed && four[own ^ 2] == kClosed)
                return four[own];
        }
        Levels sum = 0;
        int count = 0;
        for (const Levels levels : four) {
            const bool open = levels != kClosed;
            sum += open ? levels : 0;
            count += open;
        }
        return meanOf(sum, count);
    }

    int m_width = 0, m_height = 0;
    Levels m_first = kClosed; // of the open voxels so far
    bool m_even = true; // all of them have these
    std::array<Levels, std::size_t{kMaxCells} * kMaxCells> m_cells, m_grid;
};

} // namespace
} // namespace fell::mesh
