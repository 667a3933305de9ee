// SPDX-License-Identifier: Apache-2.0
// Two ways to find the sides that border an open voxel: voxel by voxel, and a row of voxels as the bits of a word.
#include "mesh/meshers.h"

#include <bit>

#ifdef __AVX2__
#include <immintrin.h>
#endif

namespace fell {

void meshExposedSides(const PaddedVoxels& voxels, std::vector<Quad>& out)
{
    const auto row = static_cast<std::ptrdiff_t>(voxels.stride()), layer = row * row;
    const std::array<std::ptrdiff_t, kSideCount> step{1, -1, layer, -layer, row, -row}; // in the order of kSides
    for (int y = 0; y < voxels.edge; ++y)
        for (int z = 0; z < voxels.edge; ++z) {
            const Material* here = voxels.voxels.data() + voxels.index(0, y, z);
            for (int x = 0; x < voxels.edge; ++x, ++here) {
                if (*here == kOpen)
                    continue;
                for (const Side side : kSides)
                    if (here[step[static_cast<std::size_t>(side)]] == kOpen)
                        out.push_back(packQuad({x, y, z, 1, 1, side, *here}));
            }
        }
}

namespace {

/// Bit x is set where voxel x of the row is solid. Shape: edge is 16, 32 or 64.
std::uint64_t solidBits(const Material* row, int edge)
{
    std::uint64_t bits = 0;
#ifdef __AVX2__
    const __m256i open = _mm256_setzero_si256();
    for (int x = 0; x < edge; x += 16) {
        __m256i voxels = _mm256_loadu_si256(reinterpret_cast<const __m256i*>(row + x));
        voxels = _mm256_cmpeq_epi16(voxels, open);
        // Sixteen words of all or no bits become sixteen bytes, whose top bits are the mask of what is open.
        const __m128i bytes = _mm_packs_epi16(_mm256_castsi256_si128(voxels), _mm256_extracti128_si256(voxels, 1));
        bits |= static_cast<std::uint64_t>(~static_cast<unsigned>(_mm_movemask_epi8(bytes)) & 0xFFFFu) << x;
    }
#else
    for (int x = 0; x < edge; ++x)
        bits |= static_cast<std::uint64_t>(row[x] != kOpen) << x;
#endif
    return bits;
}

/// Writes a quad for every set bit of `sides`. `out` has room.
Quad* writeSides(std::uint64_t sides, Side side, int y, int z, const Material* row, Quad* out)
{
    const Quad base = packQuad({0, y, z, 1, 1, side, 0});
    for (; sides != 0; sides &= sides - 1) {
        const int x = std::countr_zero(sides);
        *out++ = base | static_cast<Quad>(x) | static_cast<Quad>(row[x]) << kMaterialBit;
    }
    return out;
}

} // namespace

void meshExposedBits(const PaddedVoxels& voxels, std::vector<Quad>& out)
{
    constexpr int kMostRows = 66 * 66;
    const int edge = voxels.edge, stride = voxels.stride();
    std::uint64_t solid[kMostRows]; // of each padded row (y, z), its inner voxels
    for (int y = -1; y <= edge; ++y)
        for (int z = -1; z <= edge; ++z)
            solid[(y + 1) * stride + z + 1] = solidBits(voxels.voxels.data() + voxels.index(0, y, z), edge);

    const int last = edge - 1;
    std::array<Quad, 6 * 64> row; // the most that one row can show
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z) {
            const std::uint64_t* here = solid + (y + 1) * stride + z + 1;
            if (*here == 0)
                continue;
            const Material* first = voxels.voxels.data() + voxels.index(0, y, z);
            const auto west = static_cast<std::uint64_t>(first[-1] != kOpen),
                       east = static_cast<std::uint64_t>(first[edge] != kOpen);
            // Bit x of each mask: is the voxel that the side looks into solid?
            const std::array<std::uint64_t, kSideCount> beyond{
                (*here >> 1) | east << last, (*here << 1) | west, here[stride], here[-stride], here[1], here[-1]};
            Quad* end = row.data();
            for (const Side side : kSides)
                end = writeSides(*here & ~beyond[static_cast<std::size_t>(side)], side, y, z, first, end);
            out.insert(out.end(), row.data(), end);
        }
}

} // namespace fell
