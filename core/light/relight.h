// SPDX-License-Identifier: Apache-2.0
// Private to light/: how the light around one changed voxel is updated. Each way is a file; the cheapest that can do
// it is taken (LightWorld::edit):
//
//   relight_local   nothing changes but the voxel itself
//   relight_sparse  up to 256 voxels change: they are found one by one
//   relight_add     levels only rise: what comes from the voxel is flooded, and the higher level is kept
//   relight_region  everything that may have had its light from the voxel is flooded again, from the levels around it
//
// All are exact: a light reaches no farther than its level, and what cannot come from the edited voxel cannot change.
#pragma once

#include <fell/light/light_store.h>
#include <fell/light/restricted_flood.h>

#include <span>
#include <vector>

namespace fell::light {

/// A voxel that has changed, and how it was before.
struct VoxelEdit {
    struct Before {
        int level = 0, emission = 0, attenuation = 0;
    };
    VoxelPos at;
    std::array<Before, kMaxLightChannels> was; // by channel
    SkyColumns::Move sky;
    /// Do other voxels than the edited one come under the sky, or lose it?
    [[nodiscard]] bool skyMovesBelow() const { return sky.any() && std::min(sky.before, sky.after) < at.y; }
};

/// Does the edit let more light through than before, and give more, and nothing less?
bool isRaised(LightStore& store, const VoxelEdit& edit, int channel);

/// True if the edit changes this channel in no voxel but its own, whose level is then set. Cost: under a microsecond.
bool relightLocal(LightStore& store, const VoxelEdit& edit, int channel);

/// What relightSparse knows of the voxels near an edit, used again and again.
/// Memory  8 bytes for each voxel that may be looked at: 490 KiB.
class SparseNotes {
public:
    SparseNotes();
    SparseNotes(SparseNotes&&) noexcept;
    SparseNotes& operator=(SparseNotes&&) noexcept;
    ~SparseNotes();
    struct Parts;
    [[nodiscard]] Parts& parts();

private:
    std::unique_ptr<Parts> m_parts; // made when first needed
};

/// Finds the voxels that change one by one, and sets them: a queue of those that lose their light, then one of those
/// that are lit again. Chunks whose levels changed are added to `changed`. False if too many change: then nothing was
/// written.
/// Cost  some 30 ns for each voxel that changes and each of its neighbours.
bool relightSparse(
    LightStore& store, const VoxelEdit& edit, int channel, SparseNotes& notes, std::vector<ChunkPos>& changed);

/// Memory that one thread relights regions with.
struct RelightScratch {
    BitFlood flood;
    RestrictedMemory restricted;
    BitPlane sky;
    SparseNotes sparse;
};

/// What a region around an edit sees. Chunks in it are added to `changed`.
struct EditRegion {
    EditRegion(LightStore& store, const VoxelEdit& edit, std::span<const int> channels, std::vector<ChunkPos>& changed);

    VoxelPos low; // of the region
    FloodRegion region;
    std::vector<LitChunk*> chunks;
    std::vector<RegionChunk> near; // next to them
    std::vector<RegionChunk> tinted; // those that have any tinted voxel, near or far
    std::vector<LightSource> sources; // voxels whose own emission or opacity changes; the edited one first
    std::vector<RegionLamp> lamps;
};

/// The levels of these channels can only rise, by what comes from the edited voxel.
/// Cost  a flood of a region as wide as the brightest level twice, about 10 us a channel.
void relightAdd(LightStore& store, const VoxelEdit& edit, std::span<const int> channels, RelightScratch& scratch,
    std::vector<ChunkPos>& changed);

/// Cost  as relightAdd, and reading the levels next to the region.
void relightRegion(LightStore& store, const VoxelEdit& edit, std::span<const int> channels, RelightScratch& scratch,
    std::vector<ChunkPos>& changed);

} // namespace fell::light
