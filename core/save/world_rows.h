// SPDX-License-Identifier: Apache-2.0
// The rows of a world file: which chunks go into one, its bytes, and what one may hold. Private to keep/.
#pragma once

#include <fell/save/chunk_codec.h>

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fell::save {

/// Where a chunk goes; `group` as in the header: chunk, column or cube.
ChunkPos groupOf(ChunkPos chunk, const std::string& group);
/// Of a group, e.g. "chunks 4, 0, -8 to 7, 3, -5".
std::string placeInWords(ChunkPos group, const std::string& how);

/// A row of the table `kept`.
struct Row {
    ChunkPos group;
    std::size_t chunks = 0;
    std::uint64_t voxels = 0; // changed ones
    std::int64_t checksum = 0;
    std::string content;
};

Row rowOf(ChunkPos group, std::span<const StoredChunk* const> chunks);

/// What goes into a row: chunks that were there, and newer ones in their place.
struct Merged {
    ChunkPos group;
    std::vector<StoredChunk> there;
    std::vector<const StoredChunk*> chunks; // in order
};

/// What a row may hold.
struct RowRules {
    std::string group;
    std::size_t types = 0; // block types of the world, air included
};

/// All chunks of a row; or why there are none.
struct RowChunks {
    std::optional<std::vector<StoredChunk>> chunks;
    std::string why;
};

/// Errors as the reason: a checksum, a place or a block type that does not fit.
RowChunks chunksOf(ChunkPos place, std::string_view content, std::int64_t checksum, const RowRules& rules);

} // namespace fell::save
