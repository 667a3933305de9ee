// SPDX-License-Identifier: Apache-2.0
// Which chunks may be seen from an eye, by what is known of the chunks between.
#pragma once

#include <fell/cull/view.h>
#include <fell/cull/visibility.h>

#include <glm/common.hpp>
#include <glm/vec2.hpp>

#include <vector>

namespace fell::cull {

/// The sight of the chunks around a viewer. What is not known counts as open.
///
/// A class because its table must fit its reach. A table of (2 * reach + 3)^3 places in which a chunk's place does not
/// depend on the viewer: one that moves on overwrites what it left behind.
/// Cost  88 bytes a place, 4 MB for a reach of 16, 26 MB for 32; and 96 for each region of a chunk
///       that is neither open nor closed all through.
class VisibilityTable {
public:
    /// Forgets everything. Chunks are looked up at most `reach` + 1 chunks from the eye's along each axis.
    /// Asserts 1 <= reach <= 64.
    void clear(int reach);
    void learn(ChunkPos chunk, const ChunkVisibility& sight);
    void forget(ChunkPos chunk);
    /// Null where nothing is known.
    [[nodiscard]] const ChunkVisibility* find(ChunkPos chunk) const;
    template <typename Visit> void forEach(const Visit& visit) const
    {
        for (const Place& place : m_places)
            if (place.isKnown)
                visit(place.chunk, place.sight);
    }
    [[nodiscard]] int reach() const { return m_reach; }
    [[nodiscard]] std::size_t bytes() const { return m_places.capacity() * sizeof(Place); }

private:
    struct Place {
        ChunkVisibility sight = ChunkVisibility::open();
        ChunkPos chunk;
        bool isKnown = false;
    };
    [[nodiscard]] std::size_t placeOf(ChunkPos chunk) const;
    int m_reach = 0;
    std::int64_t m_edge = 0; // places
    std::vector<Place> m_places;
};

/// Part of the picture, from -1 to 1 on both axes.
struct PictureRect {
    glm::vec2 low{-1}, high{1};
    [[nodiscard]] bool isEmpty() const { return low.x >= high.x || low.y >= high.y; }
    [[nodiscard]] PictureRect cutTo(const PictureRect& other) const
    {
        return {glm::max(low, other.low), glm::min(high, other.high)};
    }
    void add(const PictureRect& other)
    {
        low = glm::min(low, other.low);
        high = glm::max(high, other.high);
    }
    static PictureRect nothing() { return {glm::vec2(2), glm::vec2(-2)}; }
};

/// A coarse picture of how far one can see: the view cut into beams, each followed until opaque cells fill it from rim
/// to rim.
///
/// A class because it owns its memory between frames.
class DepthBeams {
public:
    static constexpr int kRows = 40; // beams from bottom to top; found best of 20, 40 and 80 for a slate valley
    static constexpr int kReach = 8; // chunks: beyond, a beam is wider than a cell and is hardly ever filled

    /// Cost    0.2 to 0.6 ms for 2,560 beams.
    /// Source  beams of Heckbert and Hanrahan, "Beam Tracing Polygonal Objects", 1984, through a grid; the test of
    ///         boxes is that of Greene, Kass and Miller, "Hierarchical Z-Buffer Visibility", 1993, at one level.
    void run(const VisibilityTable& field, const CullView& view);
    /// False if every beam that the box touches is filled before the box begins. Relative to the eye's cell.
    [[nodiscard]] bool sees(const CullView& view, const Box& box) const;
    /// The part of a rectangle, `nearest` voxels away along the view or farther, around the beams that reach it.
    [[nodiscard]] PictureRect reaching(const PictureRect& rect, float nearest) const;
    /// Depth of a beam along the view, voxels; infinite where it is not filled within the reach.
    [[nodiscard]] float depth(int column, int row) const
    {
        return m_depths[static_cast<std::size_t>(row * m_columns + column)];
    }
    [[nodiscard]] int columns() const { return m_columns; }

private:
    struct Near;
    int m_columns = 0;
    bool m_isOpen = true; // everything is seen
    std::vector<float> m_depths;
    std::vector<std::uint64_t> m_solid; // of the chunks within kReach
};

/// Walks from the eye's chunk through the sides that see each other. A straight look never turns back, so a step leads
/// away from the eye's chunk along its axis; it stays within the view, which is convex; and all borders that it crosses
/// lie behind each other in the picture, so each region of a chunk that voxels join is only looked through within the
/// rectangle that the openings before it leave, and that the beams reach.
///
/// A class because it owns its memory between frames.
class PortalTraversal {
public:
    /// beams: if not null, of the same view: no look leads through a chunk that is wholly behind what is near.
    /// Cost  about 0.1 us a chunk that it comes to, and clearing a byte for each place of the field's table.
    /// Source  the walk through cells and portals of Airey, Rohlf and Brooks, "Towards Image Realism with Interactive
    ///         Update Rates in Complex Virtual Building Environments", 1990, with a chunk's sides as portals, each cut
    ///         to the picture of those before it as by Luebke and Georges, "Portals and Mirrors: Simple, Fast
    ///         Evaluation of Potentially Visible Sets", 1995.
    void run(const VisibilityTable& field, const CullView& view, const DepthBeams* beams = nullptr);
    /// May something of a chunk be seen? Of chunks that the walk does not look at, outside the distance: always.
    [[nodiscard]] bool reaches(ChunkPos chunk) const;

private:
    [[nodiscard]] std::size_t placeOf(int x, int y, int z) const // from the eye's chunk
    {
        return static_cast<std::size_t>(((y + m_reach) * m_edge + z + m_reach) * m_edge + x + m_reach);
    }
    int m_reach = 0, m_edge = 0, m_maxSquared = 0; // chunks
    ChunkPos m_here;
    const DepthBeams* m_beams = nullptr; // during run()
    bool m_isOpen = true; // everything is seen
    enum class Place : std::uint8_t { Unknown, Seen, Outside };
    std::vector<Place> m_known; // by place; Outside: out of view
    std::vector<std::uint32_t> m_first; // of a place's regions in m_through; of chunks that are seen
    std::vector<PictureRect> m_through; // where the look came into a region
    /// Also tells the least depth of what it took, voxels along the view.
    [[nodiscard]] PictureRect pictureOf(
        const Portal& opening, const glm::vec3& low, Side side, const CullView& view, float& nearest) const;
    [[nodiscard]] PictureRect seenOf(
        const Portal& opening, const glm::vec3& low, Side side, const CullView& view, const PictureRect& through) const;
    struct Step {
        std::int16_t x, y, z;
    };
    void propagateThrough(const VisibilityTable& field, const CullView& view, Step to, Side side, const Portal& opening,
        const glm::vec3& low, const PictureRect& through);
    std::vector<Step> m_queue;
};

} // namespace fell::cull
