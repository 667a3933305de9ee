// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <fell/namespaces.h>

#include <algorithm>
#include <array>
#include <cstddef>
#include <limits>

namespace fell::grid {

/// A box of a chunk's voxels, those one layer around it included where a function says so; upper bound outside.
struct ChunkBox {
    std::array<int, 3> low{}, high{};
    std::size_t voxels = 0; // that differ, where they were counted

    /// One that holds nothing and grows with what is added.
    static constexpr ChunkBox nothing()
    {
        constexpr int kFar = std::numeric_limits<int>::max() / 2;
        return {{kFar, kFar, kFar}, {-kFar, -kFar, -kFar}, 0};
    }
    [[nodiscard]] constexpr bool isEmpty() const { return low[0] >= high[0]; }
    constexpr void add(const ChunkBox& other)
    {
        for (std::size_t axis = 0; axis < 3 && !other.isEmpty(); ++axis) {
            low[axis] = std::min(low[axis], other.low[axis]);
            high[axis] = std::max(high[axis], other.high[axis]);
        }
        voxels += other.voxels;
    }
};

} // namespace fell::grid
