// SPDX-License-Identifier: Apache-2.0
// From a bit a voxel to a byte a voxel.
#pragma once

#include <fell/namespaces.h>

#include <array>
#include <cstddef>
#include <cstdint>

namespace fell::grid {

/// kSpreadBits[b]: bit i of b in byte i.
inline constexpr std::array<std::uint64_t, 256> kSpreadBits = [] {
    std::array<std::uint64_t, 256> spread{};
    for (std::size_t bits = 0; bits < 256; ++bits)
        for (std::size_t i = 0; i < 8; ++i)
            spread[bits] |= std::uint64_t{bits >> i & 1} << (8 * i);
    return spread;
}();

} // namespace fell::grid
