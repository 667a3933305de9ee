// SPDX-License-Identifier: Apache-2.0
// The light of chunks that are kept here or elsewhere, copied before it is changed; and the sky over their columns.
#pragma once

#include <fell/light/chunk_light.h>
#include <fell/light/sky_columns.h>

#include <functional>
#include <memory>
#include <optional>
#include <unordered_map>
#include <vector>

namespace fell::light {

/// A chunk that is shared: its light may be null, then it is flooded when it is needed.
struct KnownLight {
    std::shared_ptr<const Transmission> passes;
    std::shared_ptr<const ChunkLight> light;
};
/// A chunk that is kept elsewhere, asked for when it is first needed; nothing where it is not there.
using KnownLightOf = std::function<std::optional<KnownLight>(ChunkPos chunk)>;

/// One chunk of a LightStore. A class because what others hold must not change: it is copied first.
class LitChunk {
public:
    /// Shared with the caller, which may hold both; `light` may be null.
    explicit LitChunk(KnownLight known)
        : m_passes(std::move(known.passes))
        , m_light(known.light)
        , m_first(std::move(known.light))
    {
    }
    /// As it was put here.
    explicit LitChunk(std::shared_ptr<Transmission> passes)
        : m_passes(passes)
        , m_ownPasses(std::move(passes))
    {
    }

    [[nodiscard]] const Transmission& passes() const { return *m_passes; }
    [[nodiscard]] const ChunkLight* light() const { return m_light.get(); }
    Transmission& passesToChange();
    ChunkLight& lightToChange(); // asserts that it has light
    void setLight(ChunkLight light);
    /// The same where it is kept elsewhere without its levels: from now on they are what it had at first.
    void setFoundLight(ChunkLight light);

    // For sharing: what changes later is copied first.
    [[nodiscard]] std::shared_ptr<const Transmission> sharePasses();
    [[nodiscard]] std::shared_ptr<const ChunkLight> shareLight();
    [[nodiscard]] bool wasFound() const { return m_wasFound; }
    /// Where its levels are others than they were at first, in a chunk of this edge.
    [[nodiscard]] ChunkBox difference(int edge) const;

private:
    std::shared_ptr<const Transmission> m_passes; // never null
    std::shared_ptr<const ChunkLight> m_light; // null while it has none
    std::shared_ptr<const ChunkLight> m_first; // shared, or as it was before the first edit
    std::shared_ptr<Transmission> m_ownPasses; // the same as m_passes while they are not shared; else null
    std::shared_ptr<ChunkLight> m_ownLight;
    bool m_wasFound = false;
};

/// All chunks of a world's light. A class because chunks that are known elsewhere come when they are first asked for,
/// and are never taken out: pointers to them stay good. One thread.
class LightStore {
public:
    /// Without `known` all chunks are put.
    LightStore(LightRules rules, int edge, SkyHeightMapOf floorOf, KnownLightOf known = {});
    LightStore(const LightStore&) = delete;
    LightStore& operator=(const LightStore&) = delete;
    LightStore(LightStore&&) = default;
    LightStore& operator=(LightStore&&) = default;
    ~LightStore() = default;

    [[nodiscard]] const LightRules& rules() const { return m_rules; }
    [[nodiscard]] int edge() const { return m_edge; } // voxels
    [[nodiscard]] bool hasKnown() const { return static_cast<bool>(m_known); }
    [[nodiscard]] SkyColumns& sky() { return m_sky; }
    [[nodiscard]] const SkyColumns& sky() const { return m_sky; }

    /// Null where it is not there.
    [[nodiscard]] LitChunk* at(ChunkPos chunk);
    void put(ChunkPos chunk, Transmission passes);
    /// Is it there with its 26 neighbours?
    [[nodiscard]] bool isSurrounded(ChunkPos chunk);
    [[nodiscard]] const std::unordered_map<ChunkPos, LitChunk, ChunkPosHash>& chunks() const { return m_chunks; }

    struct Place {
        ChunkPos chunk;
        std::size_t voxel = 0;
    };
    [[nodiscard]] Place placeOf(VoxelPos at) const;

    // Of a voxel:
    /// 0 where there are no levels; 15 in sky channels where no chunk is, but open sky.
    [[nodiscard]] int level(VoxelPos at, int channel);
    /// What it emits: a lamp's level, or the open sky's.
    [[nodiscard]] int emission(VoxelPos at, int channel);
    /// Levels that light loses in it, 1 to 15.
    [[nodiscard]] int attenuation(VoxelPos at, int channel);
    /// The brightest that comes in from its six neighbours.
    [[nodiscard]] int fromNeighbours(VoxelPos at, int channel);
    [[nodiscard]] bool isUnderSky(VoxelPos at);

private:
    LightRules m_rules;
    int m_edge;
    KnownLightOf m_known;
    SkyColumns m_sky;
    std::unordered_map<ChunkPos, LitChunk, ChunkPosHash> m_chunks;
    ChunkPos m_lastChunk; // looked up last: the next one is mostly the same
    LitChunk* m_last = nullptr;
};

/// Calls visit(chunk) for the 3 x 3 x 3 chunks around one, in the order of Neighbourhood.
template <typename Visit> void eachAround(ChunkPos chunk, const Visit& visit)
{
    for (std::int64_t dy = -1; dy <= 1; ++dy)
        for (std::int64_t dz = -1; dz <= 1; ++dz)
            for (std::int64_t dx = -1; dx <= 1; ++dx)
                visit(chunk + ChunkPos{dx, dy, dz});
}

} // namespace fell::light
