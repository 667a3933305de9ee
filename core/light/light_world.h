// SPDX-License-Identifier: Apache-2.0
// The light of a world whose chunks arrive in any order and whose voxels change.
#pragma once

#include <fell/light/flood.h>
#include <fell/light/gathered_light.h>
#include <fell/light/light_path.h>
#include <fell/light/relight.h>

#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace fell::light {

/// What an edit did.
struct LightChange {
    std::vector<ChunkPos> chunks; // whose levels may have changed
    int channelsFlooded = 0; // of the rest it was clear that only the voxel itself changes
};

/// A voxel that is another block from now on.
struct LightEdit {
    VoxelPos at;
    Material material = kOpen;
};

/// Memory that one thread lights a world with.
struct LightScratch {
    FloodScratch flood; // of whole chunks
    RelightScratch relight; // round edits
};

/// A class because the levels must always be those of the voxels. For one thread, reading included.
///
/// Levels  of chunk C are a function of the 27 chunks around it and of the sky above: so they are the same whichever
///         chunk came first.
/// Edits   are made in the cheapest of four ways that can do them; see light/relight.h. Many at once flood each chunk
///         that they reach once.
class LightWorld {
public:
    enum class Publish {
        WhenSurrounded, // a chunk has levels once all its neighbours are there
        Immediately // at once, with nothing coming from what is not there yet; flooded again when it comes
    };
    LightWorld(LightRules rules, int edge, SkyHeightMapOf floorOf, Publish when = Publish::WhenSurrounded);
    /// Of chunks that are shared: what is changed is copied first. `scratch` must outlive it.
    LightWorld(LightRules rules, int edge, SkyHeightMapOf floorOf, KnownLightOf known, LightScratch& scratch);

    void put(ChunkPos chunk, const VoxelChunk& voxels);
    /// Several at once: each is flooded once, in parts of many chunks.
    void putAll(const std::vector<std::pair<ChunkPos, const VoxelChunk*>>& chunks);

    /// Changes one voxel. Its chunk must be there; nothing happens, and nothing is returned, if it is not.
    /// Cost: up to a microsecond where only the voxel itself changes, about 10 us a channel else.
    std::optional<LightChange> edit(VoxelPos at, Material material);

    /// Changes many voxels at once: each chunk that light from them may reach is flooded once. Voxels whose chunk is
    /// not there stay as they are. The levels are those that the same edits one by one give. Cost: 40 us a chunk within
    /// kLightRadius of the edits; a few edits are made one by one.
    LightChange editAll(std::span<const LightEdit> edits);

    /// Null while the chunk has no levels.
    [[nodiscard]] const ChunkLight* find(ChunkPos chunk);
    /// The same as a shared pointer; null where the chunk is not there.
    [[nodiscard]] std::shared_ptr<const ChunkLight> shareLight(ChunkPos chunk);
    [[nodiscard]] std::shared_ptr<const Transmission> sharePasses(ChunkPos chunk);
    /// Of chunks that other code keeps: those whose levels have changed, and where.
    [[nodiscard]] std::vector<std::pair<ChunkPos, ChunkBox>> changedChunks() const;
    /// Those that are kept elsewhere without levels, and have some now: their owner need not flood them
    /// again.
    [[nodiscard]] std::vector<ChunkPos> found() const;
    /// Columns of chunks whose sky floor was looked at, y is 0; and where it lies now. Asserts that it was.
    [[nodiscard]] std::vector<ChunkPos> changedSkyColumns() const;
    [[nodiscard]] const SkyHeightMap& floor(std::int64_t x, std::int64_t z) const { return m_store.sky().known(x, z); }
    /// A chunk and its 26 neighbours as shared pointers. False if some are not there.
    [[nodiscard]] bool shareAround(ChunkPos chunk, LightAround& out);
    /// 0 where there are none; 15 in sky channels where no chunk is, but open sky.
    [[nodiscard]] int level(VoxelPos at, int channel) { return m_store.level(at, channel); }
    /// How light came to a voxel: from it to the lamp, or to the column under the open sky. Empty if it is dark.
    [[nodiscard]] std::vector<LightStep> pathOf(VoxelPos at, int channel);

    [[nodiscard]] const LightRules& rules() const { return m_store.rules(); }
    [[nodiscard]] int edge() const { return m_store.edge(); }
    [[nodiscard]] std::size_t bytes() const; // of levels, without what the voxels are known by
    /// A sum over all chunks that have levels: the same for the same levels in the same places.
    [[nodiscard]] std::uint64_t digest() const;

private:
    [[nodiscard]] std::vector<ChunkPos> chunksRound(const VoxelEdit& edit) const;
    bool moveSky(VoxelEdit& edit);
    void relight(const VoxelEdit& edit, LightChange& change);
    LightChange editTogether(std::span<const LightEdit> edits);

    LightStore m_store;
    Publish m_when;
    std::unique_ptr<LightScratch> m_ownScratch; // where the caller gave none
    LightScratch* m_scratch;
};

} // namespace fell::light
