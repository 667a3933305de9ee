// SPDX-License-Identifier: Apache-2.0
#include <fell/save/world_rows.h>

#include <fell/save/world_pack.h>
#include <fell/voxels/palette.h>

#include <xxhash.h>

#include <algorithm>
#include <set>

namespace fell::save {
namespace {

// Levels of zstd. Of whole chunks higher ones take three times as long for a tenth of the bytes; changes are few.
constexpr int kLevel = 1, kChangesLevel = 9;
constexpr int kTableBits = 10; // of whole chunks: finds as much as the usual table and stays in the nearest cache
constexpr std::size_t kLargestChunk = std::size_t{1} << 19; // bytes, uncompressed: 32^3 voxels of as many block types
constexpr std::size_t kMaxInColumn = 4096; // chunks
constexpr std::int64_t kFarthest = std::int64_t{1} << 57; // chunks from the origin; their voxels fit 64 bits
constexpr std::int64_t kCubeShift = 2; // a cube is 4 chunks long

std::int64_t checksumOf(std::string_view bytes)
{
    return static_cast<std::int64_t>(XXH3_64bits(bytes.data(), bytes.size()));
}

bool isNear(std::int64_t chunk)
{
    return chunk > -kFarthest && chunk < kFarthest;
}

std::size_t maxChunksOf(const std::string& group)
{
    return group == "chunk" ? 1 : group == "column" ? kMaxInColumn : std::size_t{1} << (3 * kCubeShift);
}

/// Is every block type of the chunk one that the world has?
bool hasOnlyTypesBelow(const StoredChunk& chunk, std::size_t types)
{
    const auto isKnown = [types](Material material) { return material < types; };
    if (!chunk.whole)
        return std::all_of(
            chunk.changed.begin(), chunk.changed.end(), [&](const KeptVoxel& one) { return isKnown(one.material); });
    if (chunk.whole->isUniform())
        return isKnown(chunk.whole->uniform());
    if (const PalettePlanes* held = chunk.whole->planes())
        return std::all_of(held->kinds.begin(), held->kinds.end(), isKnown);
    const std::vector<Material> voxels = chunk.whole->voxels();
    return std::all_of(voxels.begin(), voxels.end(), isKnown);
}

} // namespace

ChunkPos groupOf(ChunkPos chunk, const std::string& group)
{
    if (group == "chunk")
        return {chunk.x, chunk.y, chunk.z};
    if (group == "column")
        return {chunk.x, 0, chunk.z};
    return {chunk.x >> kCubeShift, chunk.y >> kCubeShift, chunk.z >> kCubeShift};
}

std::string placeInWords(ChunkPos group, const std::string& how)
{
    const auto text = [](std::int64_t x, std::int64_t y, std::int64_t z) {
        return std::to_string(x) + ", " + std::to_string(y) + ", " + std::to_string(z);
    };
    if (how == "chunk")
        return "chunk " + text(group.x, group.y, group.z);
    if (how == "column")
        return "the column of chunks at " + std::to_string(group.x) + ", " + std::to_string(group.z);
    constexpr std::int64_t kLong = std::int64_t{1} << kCubeShift;
    return "chunks " + text(group.x * kLong, group.y * kLong, group.z * kLong) + " to "
        + text(group.x * kLong + kLong - 1, group.y * kLong + kLong - 1, group.z * kLong + kLong - 1);
}

Row rowOf(ChunkPos group, std::span<const StoredChunk* const> chunks)
{
    Row row{group, chunks.size(), 0, 0, {}};
    std::string bytes;
    bool hasWhole = false;
    for (const StoredChunk* chunk : chunks) {
        appendChunk(*chunk, bytes);
        row.voxels += chunk->changed.size();
        hasWhole |= chunk->whole != nullptr;
    }
    row.content = hasWhole ? compressed(bytes, kLevel, kTableBits) : compressed(bytes, kChangesLevel);
    row.checksum = checksumOf(row.content);
    return row;
}

RowChunks chunksOf(ChunkPos place, std::string_view content, std::int64_t checksum, const RowRules& rules)
{
    if (checksumOf(content) != checksum)
        return {std::nullopt, "its checksum is another"};
    const std::size_t max = maxChunksOf(rules.group);
    const auto bytes = decompressed(content, max * kLargestChunk);
    if (!bytes)
        return {std::nullopt, "it cannot be decompressed"};
    std::vector<StoredChunk> chunks;
    std::set<ChunkPos> seen;
    for (std::string_view left = *bytes; !left.empty();) {
        auto chunk = decodeChunk(left);
        if (!chunk)
            return {std::nullopt, "a chunk in it cannot be read"};
        const ChunkPos at = chunk->chunk;
        if (!isNear(at.x) || !isNear(at.y) || !isNear(at.z) || groupOf(at, rules.group) != place)
            return {std::nullopt, "it holds a chunk of another place"};
        if (!seen.insert(at).second || seen.size() > max)
            return {std::nullopt, "it holds more chunks than there are at its place"};
        if (!hasOnlyTypesBelow(*chunk, rules.types))
            return {std::nullopt, "it names a block type that this world does not have"};
        chunks.push_back(*std::move(chunk));
    }
    return {std::move(chunks), {}};
}

} // namespace fell::save
