// SPDX-License-Identifier: Apache-2.0
// The light of a world whose chunks arrive in any order and whose voxels change.
#pragma once

#include "light/flood.h"
#include "light/gathered_light.h"
#include "light/light_path.h"

#include <algorithm>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <unordered_map>
#include <unordered_set>

namespace fell {

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

/// A chunk as somebody else keeps it: its light may be null, then it is flooded when it is needed.
struct KnownLight {
    std::shared_ptr<const LightPasses> passes;
    std::shared_ptr<const ChunkLight> light;
};

/// A class because the levels must always be those of the voxels. For one thread, reading included.
///
/// Levels  of chunk C are a function of the 27 chunks round it and of the sky above: so they are the same whichever
///         chunk came first.
/// Edits   that change few voxels find them one by one (light_world_few.cpp). Of the rest, those that only add light
///         flood what comes from the edited voxel and keep the higher level. Others flood what can have had its light
///         from there anew, from what stands round it. All are exact: a light reaches no farther than its level, and
///         what cannot come from the edited voxel cannot change.
class LightWorld {
public:
    enum class When {
        Whole, // a chunk has levels once all its neighbours are there
        AtOnce // at once, with nothing coming from what is not there yet; flooded again when it comes
    };
    /// Where the sky begins over chunk column (x, z), with all chunks of the world taken into account.
    using FloorOf = std::function<SkyFloor(std::int64_t x, std::int64_t z)>;

    /// A chunk that is kept elsewhere, asked for when it is first needed; nothing where it is not there.
    using KnownOf = std::function<std::optional<KnownLight>(ChunkPos chunk)>;

    LightWorld(LightRules rules, int edge, FloorOf floorOf, When when = When::Whole);
    /// Of chunks that somebody else keeps: what is changed is copied first.
    LightWorld(LightRules rules, int edge, FloorOf floorOf, KnownOf knownOf);

    LightWorld(const LightWorld&) = delete; // what was looked up last lies in this one
    LightWorld& operator=(const LightWorld&) = delete;
    LightWorld(LightWorld&&) = default;
    LightWorld& operator=(LightWorld&&) = default;
    ~LightWorld() = default;

    void put(ChunkPos chunk, const VoxelChunk& voxels);
    /// Several at once: each is flooded once, in parts of many chunks.
    void putAll(const std::vector<std::pair<ChunkPos, const VoxelChunk*>>& chunks);

    /// Changes one voxel. Its chunk must be there; nothing happens, and nothing is returned, if it is not.
    /// Cost: up to a microsecond where only the voxel itself changes, about 10 us a channel else.
    std::optional<LightChange> edit(VoxelPos at, Material material);

    /// Changes many voxels at once: each chunk that light from them may reach is flooded once. Voxels whose chunk is
    /// not there stay as they are. The levels are those that the same edits one by one give. Cost: 40 us a chunk within
    /// kLightReach of the edits; a few edits are made one by one.
    LightChange editAll(std::span<const LightEdit> edits);

    /// Null while the chunk has no levels.
    [[nodiscard]] const ChunkLight* find(ChunkPos chunk) const;
    /// The same to be kept by somebody else; null where the chunk is not there.
    [[nodiscard]] std::shared_ptr<const ChunkLight> shareLight(ChunkPos chunk);
    [[nodiscard]] std::shared_ptr<const LightPasses> sharePasses(ChunkPos chunk);
    /// Of chunks that somebody else keeps: those whose levels are others than they were at first, and where.
    [[nodiscard]] std::vector<std::pair<ChunkPos, ChunkBox>> differences() const;
    /// Those that are kept elsewhere without levels, and have some now: whoever keeps them too need not flood them
    /// again.
    [[nodiscard]] std::vector<ChunkPos> found() const;
    /// Columns of chunks whose sky floor was looked at, y is 0; and where it lies now. Asserts that it was.
    [[nodiscard]] std::vector<ChunkPos> floorsMoved() const;
    [[nodiscard]] const SkyFloor& floor(std::int64_t x, std::int64_t z) const { return m_floors.at({x, 0, z}); }
    /// A chunk and its 26 neighbours, to be kept by somebody else. False if some are not there.
    [[nodiscard]] bool shareAround(ChunkPos chunk, LightAround& out);
    /// 0 where there are none; 15 in sky channels where no chunk is, but open sky.
    [[nodiscard]] int level(VoxelPos at, int channel) const;
    /// How light came to a voxel: from it to the lamp, or to the column under the open sky. Empty if it is dark.
    [[nodiscard]] std::vector<LightStep> pathOf(VoxelPos at, int channel) const;

    [[nodiscard]] const LightRules& rules() const { return m_rules; }
    [[nodiscard]] int edge() const { return m_edge; }
    [[nodiscard]] std::size_t bytes() const; // of levels, without what the voxels are known by
    /// A sum over all chunks that have levels: the same for the same levels in the same places.
    [[nodiscard]] std::uint64_t digest() const;

private:
    struct Cell {
        std::shared_ptr<const LightPasses> passes; // never null
        std::shared_ptr<const ChunkLight> light; // null while it has none
        std::shared_ptr<const ChunkLight> first; // as somebody else keeps it, or as it was before the first edit
        bool ownsPasses = false, ownsLight = false; // nobody else holds them
        bool wasFound = false; // somebody else keeps the chunk without its levels

        LightPasses& passesToChange();
        ChunkLight& lightToChange();
    };
    struct Place {
        ChunkPos chunk;
        std::size_t voxel = 0;
    };
    struct Edit {
        struct Voxel {
            int level = 0, own = 0, takes = 0;
        };
        VoxelPos at;
        std::array<Voxel, kMostLightChannels> was; // by channel
        std::int64_t floorBefore = 0, floorAfter = 0;
        /// Do other voxels than the edited one come under the sky, or lose it?
        [[nodiscard]] bool skyMovesBelow() const
        {
            return floorBefore != floorAfter && std::min(floorBefore, floorAfter) < at.y;
        }
    };
    [[nodiscard]] Place placeOf(VoxelPos at) const;
    [[nodiscard]] Cell* cellAt(ChunkPos chunk);
    [[nodiscard]] const Cell* cellAt(ChunkPos chunk) const;
    SkyFloor& floorAt(std::int64_t x, std::int64_t z);
    [[nodiscard]] bool isUnderSky(VoxelPos at) const;
    [[nodiscard]] int own(VoxelPos at, int channel) const;
    [[nodiscard]] int taken(VoxelPos at, int channel) const;
    [[nodiscard]] int fromNeighbours(VoxelPos at, int channel) const;
    void lightChunks(const std::vector<ChunkPos>& chunks);
    void lightTogether(std::vector<ChunkPos> chunks);
    void giveLight(const std::vector<ChunkPos>& chunks);
    bool lightEvenly(ChunkPos chunk, Cell& cell);
    [[nodiscard]] bool isSurrounded(ChunkPos chunk) const;
    bool moveFloor(Edit& edit);
    bool staysPut(const Edit& edit, int channel);
    class Few;
    bool changeFew(const Edit& edit, int channel, LightChange& change);
    struct Round;
    [[nodiscard]] std::vector<ChunkPos> chunksRound(const Edit& edit) const;
    [[nodiscard]] bool isRaised(const Edit& edit, int channel) const;
    Round lookRound(const Edit& edit, const std::vector<int>& channels, LightChange& change);
    void raise(const Edit& edit, const std::vector<int>& channels, LightChange& change);
    void floodRound(const Edit& edit, const std::vector<int>& channels, LightChange& change);

    LightRules m_rules;
    int m_edge;
    FloorOf m_floorOf;
    When m_when;
    KnownOf m_knownOf; // empty: all chunks were put
    mutable std::unordered_map<ChunkPos, Cell, ChunkPosHash> m_cells; // mutable: those known elsewhere come as needed
    mutable std::unordered_map<ChunkPos, SkyFloor, ChunkPosHash> m_floors; // y is 0
    std::unordered_set<ChunkPos, ChunkPosHash> m_moved; // columns whose floor an edit has moved
    mutable ChunkPos m_lastChunk; // looked up last: the next one is mostly the same
    mutable const Cell* m_last = nullptr;
};

} // namespace fell
