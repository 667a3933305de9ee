// SPDX-License-Identifier: Apache-2.0
// From voxels to bits by wide compares: the only part of the bit meshers that reads every voxel. Private to mesh/.
#pragma once

#include <fell/mesh/bit_slices.h>

#include <algorithm>

namespace fell::mesh::bits {

/// Bit i is set where a[i] == b[i]. Both rows hold Edge voxels.
template <int Edge> WordOf<Edge> equalBits(const Material* a, const Material* b)
{
    WordOf<Edge> equal = 0;
#ifdef __AVX2__
    const auto same = [a, b](int x) {
        return _mm256_cmpeq_epi16(_mm256_loadu_si256(reinterpret_cast<const __m256i*>(a + x)),
            _mm256_loadu_si256(reinterpret_cast<const __m256i*>(b + x)));
    };
    if constexpr (Edge == 16) {
        const __m256i one = same(0);
        equal = static_cast<std::uint32_t>(
            _mm_movemask_epi8(_mm_packs_epi16(_mm256_castsi256_si128(one), _mm256_extracti128_si256(one, 1))));
    } else {
        for (int x = 0; x < Edge; x += 32) {
            const __m256i packed = _mm256_permute4x64_epi64(_mm256_packs_epi16(same(x), same(x + 16)), 0xD8);
            equal |= static_cast<WordOf<Edge>>(static_cast<std::uint32_t>(_mm256_movemask_epi8(packed))) << x;
        }
    }
#else
    for (int x = 0; x < Edge; ++x)
        equal |= static_cast<WordOf<Edge>>(a[x] == b[x]) << x;
#endif
    return equal;
}

/// Where among the voxels there are others than open air and plain solid cubes: groups of 32, by their first voxel.
using OtherGroups = std::vector<std::uint32_t>;

/// Writes 32 bits for 32 voxels at once, in their order: bit i is set where voxel i is material 1 to `last`. Groups
/// with a voxel above `last` are listed. The rest of the last word is written as if open air followed.
/// Returns whether all voxels are solid, or none: then there is no side between them.
inline bool streamPlainSolid(std::span<const Material> voxels, Material last, std::uint8_t* stream, OtherGroups& others)
{
    std::size_t i = 0;
    std::uint32_t every = 0xFFFFFFFF, some = 0;
    const auto put = [&, stream](std::size_t at, std::uint32_t bits) {
        std::memcpy(stream + at / 8, &bits, sizeof bits);
        every &= bits;
        some |= bits;
    };
#ifdef __AVX2__
    const __m256i one = _mm256_set1_epi16(1), highest = _mm256_set1_epi16(static_cast<short>(last)),
                  maxLessOne = _mm256_set1_epi16(static_cast<short>(last - 1));
    constexpr std::size_t kPrefetch = 1024; // voxels ahead, found by trying: what is read comes from the outer caches
    __m256i above = _mm256_setzero_si256();
    const auto isSolid = [&](const Material* from) {
        const __m256i sixteen = _mm256_loadu_si256(reinterpret_cast<const __m256i*>(from));
        above = _mm256_or_si256(above, _mm256_subs_epu16(sixteen, highest));
        const __m256i lessOne = _mm256_sub_epi16(sixteen, one); // open air becomes the greatest
        return _mm256_cmpeq_epi16(_mm256_min_epu16(lessOne, maxLessOne), lessOne);
    };
    // Without a solid cube (last is 0) last - 1 is the greatest number there is, so the comparison would hold for all.
    for (; last != 0 && i + 128 <= voxels.size(); i += 128) {
        for (std::size_t k = i; k < i + 128; k += 32) {
            __builtin_prefetch(voxels.data() + k + kPrefetch);
            const __m256i packed = _mm256_permute4x64_epi64(
                _mm256_packs_epi16(isSolid(voxels.data() + k), isSolid(voxels.data() + k + 16)), 0xD8);
            put(k, static_cast<std::uint32_t>(_mm256_movemask_epi8(packed)));
        }
        if (_mm256_testz_si256(above, above))
            continue;
        for (std::size_t k = i; k < i + 128; k += 32) { // which of the four groups it was
            above = _mm256_setzero_si256();
            isSolid(voxels.data() + k);
            isSolid(voxels.data() + k + 16);
            if (!_mm256_testz_si256(above, above))
                others.push_back(static_cast<std::uint32_t>(k));
        }
        above = _mm256_setzero_si256();
    }
#endif
    for (; i < voxels.size(); i += 32) {
        std::uint32_t bits = 0;
        bool any = false;
        for (std::size_t k = i; k < std::min(i + 32, voxels.size()); ++k) {
            bits |= static_cast<std::uint32_t>(static_cast<Material>(voxels[k] - 1) < last) << (k - i);
            any |= voxels[k] > last;
        }
        if (i + 32 > voxels.size()) // what follows the last voxel must not count
            every &= bits | ~((std::uint32_t{1} << (voxels.size() - i)) - 1);
        const std::uint32_t before = every;
        put(i, bits);
        every = i + 32 > voxels.size() ? before : every;
        if (any)
            others.push_back(static_cast<std::uint32_t>(i));
    }
    return others.empty() && (every == 0xFFFFFFFF || some == 0);
}

/// Bit i is set where voxel i of 32 is `kind`.
inline std::uint32_t bitsOfKind(const Material* voxels, Material kind)
{
#ifdef __AVX2__
    const __m256i wanted = _mm256_set1_epi16(static_cast<short>(kind));
    const auto same = [&](const Material* from) {
        return _mm256_cmpeq_epi16(wanted, _mm256_loadu_si256(reinterpret_cast<const __m256i*>(from)));
    };
    return static_cast<std::uint32_t>(
        _mm256_movemask_epi8(_mm256_permute4x64_epi64(_mm256_packs_epi16(same(voxels), same(voxels + 16)), 0xD8)));
#else
    std::uint32_t bits = 0;
    for (int k = 0; k < 32; ++k)
        bits |= static_cast<std::uint32_t>(voxels[k] == kind) << k;
    return bits;
#endif
}

/// The bits of one kind, which occurs in `groups` only.
inline void streamKind(std::span<const Material> voxels, Material kind, const OtherGroups& groups, std::uint8_t* stream)
{
    std::memset(stream, 0, (voxels.size() + 31) / 32 * 4);
    for (const std::uint32_t i : groups) {
        std::uint32_t bits = 0;
        if (i + 32 <= voxels.size())
            bits = bitsOfKind(voxels.data() + i, kind);
        else
            for (std::size_t k = i; k < voxels.size(); ++k)
                bits |= static_cast<std::uint32_t>(voxels[k] == kind) << (k - i);
        std::memcpy(stream + i / 8, &bits, sizeof bits);
    }
}

/// Are the 32 voxels all alike?
inline bool areAlike(const Material* voxels)
{
#ifdef __AVX2__
    const __m256i first = _mm256_set1_epi16(static_cast<short>(voxels[0]));
    const auto differs = [&](const Material* from) {
        return _mm256_xor_si256(first, _mm256_loadu_si256(reinterpret_cast<const __m256i*>(from)));
    };
    const __m256i any = _mm256_or_si256(differs(voxels), differs(voxels + 16));
    return _mm256_testz_si256(any, any);
#else
    return std::all_of(voxels, voxels + 32, [=](Material m) { return m == voxels[0]; });
#endif
}

} // namespace fell::mesh::bits
