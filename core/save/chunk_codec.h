// SPDX-License-Identifier: Apache-2.0
// A chunk as bytes: what was changed of it, or all of its voxels. What zstd makes small, laid out so that it can.
#pragma once

#include <fell/save/changes.h>

#include <optional>
#include <span>
#include <string>

namespace fell::save {

/// What is kept of one chunk of edge kKeptEdge.
struct StoredChunk {
    ChunkPos chunk;
    KeptVoxels changed; // those that differ from the recipe, where it is not whole
    std::shared_ptr<const VoxelChunk> whole; // all of its voxels, held in any form
};

/// Appends the chunk's bytes.
///
/// Layout  all numbers as LEB128, the lowest seven bits first (DWARF 4, 7.6):
///         place     x, y, z as zigzag (0, -1, 1, -2 are 0, 1, 2, 3)
///         kind      0 changed, 1 or 2 whole
///         palette   how many materials, then each
///   changed         how many voxels; each voxel's number less the one before less 1; then a palette number each
///   whole           for each bit of a palette number, lowest first: 128 bytes that say, a bit a row, in which rows it
///                   differs from the row before; then what each of these is exclusive-or the row before, a word of 4
///                   bytes, bit x that of voxel x. Kind 1, of files of version 1: the words as they are. Kind 2: half a
///                   byte each, low half first, that says which of its bytes are not 0; then these bytes.
/// Cost    changed: 5 ns a voxel; whole: 5 to 12 us where it is held as a palette, else planesOf besides.
void appendChunk(const StoredChunk& chunk, std::string& out);

/// Reads one chunk from the front of `bytes` and takes it off; a whole one is held as a palette. Nothing where the
/// bytes are none: a number that runs out of the bytes or of its range, a voxel twice, a palette number that is none.
std::optional<StoredChunk> decodeChunk(std::string_view& bytes);

/// The bytes with zstd's checksum, and back. `level` as zstd's; `tableBits`: of the table in which it looks for what
/// was before, 0 as the level has it. Nothing where they are damaged or larger than `most`.
std::string compressed(std::string_view bytes, int level, int tableBits = 0);
std::optional<std::string> decompressed(std::string_view bytes, std::size_t max);

} // namespace fell::save
