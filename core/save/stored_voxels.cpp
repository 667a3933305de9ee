// SPDX-License-Identifier: Apache-2.0
// Between chunks of a file and voxels in memory.
#include <fell/save/world_file.h>

#include <unordered_map>

namespace fell::save {

std::vector<StoredChunk> storedFromChanges(
    std::span<const std::pair<ChunkPos, std::shared_ptr<const KeptVoxels>>> changes)
{
    std::vector<StoredChunk> out;
    out.reserve(changes.size());
    for (const auto& [chunk, voxels] : changes)
        out.push_back({chunk, *voxels, nullptr});
    return out;
}

std::vector<std::pair<ChunkPos, KeptVoxels>> changesFrom(
    std::vector<StoredChunk> chunks, const WorldFile::MadeVoxels& made)
{
    std::vector<std::pair<ChunkPos, KeptVoxels>> out;
    out.reserve(chunks.size());
    for (StoredChunk& chunk : chunks) {
        KeptVoxels voxels = std::move(chunk.changed);
        const std::vector<Material> usual = chunk.whole && made ? made(chunk.chunk) : std::vector<Material>{},
                                    whole = chunk.whole ? chunk.whole->voxels() : std::vector<Material>{};
        for (std::size_t i = 0; i < whole.size(); ++i)
            if (usual.empty() || usual[i] != whole[i])
                voxels.push_back({static_cast<std::uint16_t>(i), whole[i]});
        if (!voxels.empty())
            out.emplace_back(chunk.chunk, std::move(voxels));
    }
    return out;
}

std::vector<StoredChunk> storedFromResidents(
    const ResidentVoxels& residents, const std::function<bool(ChunkPos kept)>& wanted)
{
    struct Parts {
        std::vector<Material> voxels;
        int pieces = 0; // that are still to come
    };
    std::unordered_map<ChunkPos, Parts, ChunkPosHash> found;
    std::vector<StoredChunk> out;
    for (const auto& [chunk, voxels] : residents) {
        const int edge = voxels->edge(), step = std::min(edge, kKeptEdge), across = kKeptEdge / step;
        if (edge == kKeptEdge) {
            if (wanted(chunk))
                out.push_back({chunk, {}, voxels});
            continue;
        }
        // Piece by piece: a larger chunk has several whole ones, a smaller one is a part of one.
        for (int y = 0; y < edge; y += step)
            for (int z = 0; z < edge; z += step)
                for (int x = 0; x < edge; x += step) {
                    const VoxelPos low = originOf(chunk, edge) + VoxelPos{x, y, z};
                    const ChunkPos kept = chunkOf(low, kKeptEdge);
                    if (!wanted(kept))
                        continue;
                    auto [at, isNew] = found.try_emplace(kept);
                    Parts& parts = at->second;
                    if (isNew) {
                        parts.voxels.resize(static_cast<std::size_t>(kKeptEdge) * kKeptEdge * kKeptEdge);
                        parts.pieces = across * across * across;
                    }
                    const VoxelPos in = low - originOf(kept, kKeptEdge);
                    for (int v = 0; v < step; ++v)
                        for (int w = 0; w < step; ++w)
                            voxels->readRow(x, y + v, z + w, step,
                                parts.voxels.data() + ((in.y + v) * kKeptEdge + in.z + w) * kKeptEdge + in.x);
                    if (--parts.pieces == 0) {
                        out.push_back(
                            {kept, {}, std::make_shared<const VoxelChunk>(kKeptEdge, std::move(parts.voxels))});
                        found.erase(at);
                    }
                }
    }
    return out;
}

} // namespace fell::save
