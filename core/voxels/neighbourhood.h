// SPDX-License-Identifier: Apache-2.0
// What a mesher reads: a chunk with a layer or more of its neighbours around it, gathered into one block.
#pragma once

#include <fell/blocks/side_rules.h>
#include <fell/grid/chunk_box.h>
#include <fell/voxels/voxel_chunk.h>

#include <array>
#include <memory>
#include <optional>
#include <vector>

namespace fell::voxels {

/// A chunk and its 26 neighbours; index = (dy+1)*9 + (dz+1)*3 + (dx+1). None may be null, all have the same edge.
struct Neighbourhood {
    std::array<const VoxelChunk*, 27> chunks{};
    [[nodiscard]] const VoxelChunk& centre() const { return *chunks[13]; }
    [[nodiscard]] const VoxelChunk& beyond(Side side) const;
};

constexpr std::size_t neighbourIndex(ChunkPos offset)
{
    return static_cast<std::size_t>((offset.y + 1) * 9 + (offset.z + 1) * 3 + offset.x + 1);
}

/// Every mesher reads one layer beyond its chunk, and light and ambient occlusion do; a mesher may ask for more.
constexpr int kMinApron = 1, kMaxApron = 8; // layers; at most half of the smallest chunk

/// The one view through which meshers read, whatever form the voxels are held in.
///
/// Layout  stride^3 voxels, index = ((y+apron) * stride + z+apron) * stride + x+apron for x, y, z in
///         [-apron, edge + apron); stride = edge + 2 * apron.
struct PaddedVoxels {
    int edge = 0;
    int apron = kMinApron; // layers of neighbours on each side
    std::vector<Material> voxels;

    [[nodiscard]] int stride() const { return edge + 2 * apron; }
    [[nodiscard]] std::size_t index(int x, int y, int z) const
    {
        return static_cast<std::size_t>(((y + apron) * stride() + z + apron) * stride() + x + apron);
    }
    [[nodiscard]] Material at(int x, int y, int z) const { return voxels[index(x, y, z)]; }
};

/// Fills `out` from the 27 chunks, `apron` layers of neighbours wide; reuses its memory.
/// Errors  asserts kMinApron <= apron <= kMaxApron.
/// Cost    one copy of the chunk with its apron, about 1.3 passes over its voxels with one layer.
void gather(const Neighbourhood& from, PaddedVoxels& out, int apron = kMinApron);

/// The same chunk with fewer layers of neighbours.
PaddedVoxels narrowed(const PaddedVoxels& voxels, int apron);

/// A chunk and its 26 neighbours as shared pointers, in the order of Neighbourhood.
template <typename T> using SharedAround = std::array<std::shared_ptr<const T>, 27>;

/// What was read the last time from the 27: who they were, without keeping them, but for the middle one and the six
/// next to its sides, of which much is read: to see what differs, the former ones must still be there.
template <typename T> struct SourceSnapshot {
    std::array<std::weak_ptr<const T>, 27> all;
    std::array<std::shared_ptr<const T>, 7> kept;

    [[nodiscard]] bool isSame(std::size_t i, const std::shared_ptr<const T>& now) const
    {
        return !all[i].owner_before(now) && !now.owner_before(all[i]);
    }
    void remember(const SharedAround<T>& now)
    {
        constexpr std::array<std::size_t, 7> kMax{4, 10, 12, 13, 14, 16, 22};
        std::copy(now.begin(), now.end(), all.begin());
        for (std::size_t i = 0; i < kMax.size(); ++i)
            kept[i] = now[kMax[i]];
    }
};

/// Voxels that are gathered again and again.
struct PaddedVoxelCache {
    PaddedVoxels voxels;
    SourceSnapshot<VoxelChunk> from;
};

/// As gather; reads only chunks that are others than the last time. None may be null, and none is changed in place.
/// Returns the box of the voxels that are other kinds since, from -1 to the edge; nothing where all are new.
/// Cost: some 5 us where a voxel of a chunk held as a palette has changed; of other forms a copy of the chunk.
std::optional<ChunkBox> updatePadded(const SharedAround<VoxelChunk>& from, PaddedVoxelCache& to);

/// The part of a chunk, offset by -1, 0 or 1 on an axis, that lies within one layer of the middle one: where it begins
/// in the chunk, how long it is, and where it begins as seen from the middle one.
struct PaddedPart {
    int in, count, at;
};
constexpr PaddedPart paddedPart(int offset, int edge)
{
    return offset < 0 ? PaddedPart{edge - 1, 1, -1} : offset == 0 ? PaddedPart{0, edge, 0} : PaddedPart{0, 1, edge};
}

/// True when the chunk and its six face neighbours are each of one material, so that no side of it can be seen.
bool isBuried(const Neighbourhood& from, const SideRules& rules);

} // namespace fell::voxels
