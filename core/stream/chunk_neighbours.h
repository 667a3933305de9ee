// SPDX-License-Identifier: Apache-2.0
// The 26 chunks around a chunk. Private to stream/.
#pragma once

#include <fell/grid/coords.h>

#include <cstddef>

namespace fell::stream {

/// From a chunk to the one at this index of its 27, 13 being the chunk itself: x lowest, then z, then y.
inline ChunkPos neighbourOffset(std::size_t index)
{
    const auto i = static_cast<std::int64_t>(index);
    return {i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1};
}

/// Visits all but the chunk itself.
template <typename Visit> void eachNeighbour(ChunkPos chunk, const Visit& visit)
{
    for (std::size_t i = 0; i < 27; ++i)
        if (i != 13)
            visit(chunk + neighbourOffset(i));
}
} // namespace fell::stream
