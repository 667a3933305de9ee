// SPDX-License-Identifier: Apache-2.0
// What culling knows of the chunks that are there to be drawn, and the steps run over it.
#pragma once

#include <fell/cull/chunk_octree.h>
#include <fell/cull/steps.h>
#include <fell/cull/visibility_table.h>

#include <array>
#include <optional>
#include <span>
#include <vector>

namespace fell::cull {

/// A chunk that every step has kept.
struct KeptChunk {
    std::uint32_t index = 0; // in CullScene::chunks()
    SideSet sides = kAllSides; // directions to draw
    bool operator==(const KeptChunk&) const = default;
};

/// What a frame's culling found.
struct CullResult {
    std::vector<KeptChunk> kept;
    std::vector<CullCount> counts; // next to the steps
    std::vector<std::uint8_t> rejectedBy; // by index: the step, or kNobody; only where it was asked for
    static constexpr std::uint8_t kNobody = 255;
};

class CullScene;

/// The candidates on their way through the steps.
struct CullRun {
    CullScene& scene;
    const CullView& view;
    std::vector<std::uint32_t>& candidates;
    std::vector<SideSet>& sides; // by index
    CullCount& count;
    bool isFirst = false; // the candidates are all chunks
};

/// A class because the octree, the table of sights and the list of chunks must agree.
class CullScene {
public:
    /// Forgets all chunks. Edge in voxels; visibilityRadius: how far sights are kept, in chunks, 1 to 64.
    void clear(const CullChoices& choices, int edge, int visibilityRadius);
    /// The same chunks, other choices or another distance. Cost: where the leaf is another, O(chunks).
    void choose(const CullChoices& choices);
    /// What is known of sights stays where it fits. Cost: O(chunks^3) where it grows.
    void setSightReach(int chunks);
    [[nodiscard]] const CullChoices& choices() const { return m_choices; }
    [[nodiscard]] std::span<const CullStep* const> steps() const { return m_steps; }

    /// Adds a chunk at the end of the list; `sides` are the directions in which it has sides. Its number is returned.
    std::uint32_t add(ChunkPos chunk, SideSet sides);
    /// The last of the list takes the place of one that goes: that one is returned, if another.
    std::optional<ChunkPos> remove(std::uint32_t index);
    [[nodiscard]] const std::vector<ChunkPos>& chunks() const { return m_chunks; }

    void learn(ChunkPos chunk, const ChunkVisibility& sight) { m_field.learn(chunk, sight); }
    void forget(ChunkPos chunk) { m_field.forget(chunk); }

    /// Runs the steps over all chunks, in order. Cost: what the steps cost, and a few ns a chunk where the first is not
    /// the octree. tellRejected: fills rejectedBy.
    void cull(const CullView& view, CullResult& out, bool tellRejected = false);
    /// One step alone over all chunks, whatever the choices' steps are.
    void cullBy(const CullStep& step, const CullView& view, CullResult& out);

    /// The world octree of a level's chunks, whose places it knows as if they were of level 0.
    [[nodiscard]] const ChunkOctree& octree(int level = 0) const { return m_octrees[static_cast<std::size_t>(level)]; }
    [[nodiscard]] const VisibilityTable& field() const { return m_field; }
    [[nodiscard]] int edge() const { return m_edge; }
    // For the steps.
    [[nodiscard]] SideSet sidesOf(std::uint32_t index) const { return m_sides[index]; }
    PortalTraversal walk;
    DepthBeams beams;
    std::vector<std::uint32_t> scratch;
    std::vector<std::uint8_t> marks; // by index

private:
    ChunkOctree& octreeOf(ChunkPos chunk) { return m_octrees[static_cast<std::size_t>(chunk.level)]; }
    void run(std::span<const CullStep* const> steps, const CullView& view, CullResult& out, bool tellRejected);

    CullChoices m_choices;
    std::vector<const CullStep*> m_steps;
    int m_edge = 32; // voxels
    std::vector<ChunkPos> m_chunks;
    std::vector<SideSet> m_sides;
    std::array<ChunkOctree, kMaxLevel + 1> m_octrees;
    VisibilityTable m_field;
    std::vector<std::uint32_t> m_candidates;
    std::vector<SideSet> m_shown; // by index, of the frame
};

} // namespace fell::cull
