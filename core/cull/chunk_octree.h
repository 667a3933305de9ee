// SPDX-License-Identifier: Apache-2.0
// The world octree: an octree over the chunks that have something to draw. A node exists only where there is something.
#pragma once

#include <fell/cull/view.h>

#include <cstdint>
#include <optional>
#include <vector>

namespace fell::cull {

/// What a walk looked at.
struct OctreeWalk {
    std::uint64_t tested = 0; // boxes against planes: of nodes, leaves and chunks
    std::uint64_t takenWhole = 0; // nodes wholly inside, whose chunks were taken without a test
};

struct OctreeFigures {
    int depth = 0; // levels of nodes above the leaves
    std::size_t nodes = 0, leaves = 0, chunks = 0, empty = 0; // empty: places for a child where there is none
    std::size_t bytes = 0; // allocated
};

/// A node, leaf or empty place, for drawing.
struct OctreeCell {
    enum class Kind : std::uint8_t { Node, Leaf, Empty } kind = Kind::Node;
    ChunkPos low; // chunks
    std::int64_t edge = 1; // chunks
};

/// A class because nodes, free places and the root's place must agree.
///
/// The root doubles towards whatever lies outside it, so that no place in the world is special, and gives way to its
/// only child when chunks go. A leaf covers leafEdge^3 chunks.
/// Cost  put, remove, find: one step a level. 36 bytes a node; leaves of several chunks 4 * leafEdge^3 bytes.
class ChunkOctree {
public:
    /// Asserts leafEdge is 1, 2 or 4 (chunks).
    explicit ChunkOctree(int leafEdge = 1);

    /// Adds a chunk, or gives one that is there another number. Asserts item < 2^32 - 1.
    void put(ChunkPos chunk, std::uint32_t item);
    /// Asserts that the chunk is there.
    void remove(ChunkPos chunk);
    [[nodiscard]] std::optional<std::uint32_t> find(ChunkPos chunk) const;
    [[nodiscard]] int leafEdge() const { return m_leafEdge; }
    [[nodiscard]] std::size_t size() const { return m_size; }

    /// Appends the items of all chunks that are not wholly behind one of the planes, the very ones that testing every
    /// chunk's box finds. A node wholly inside takes all its children without a test, and a plane that a node is wholly
    /// in front of is not asked again below it.
    ///
    /// Cost    about 3 ns for each child of a node that a plane cuts, 1 to 2 ns a chunk taken. Allocates only in `out`.
    /// Source  H. Samet's octrees; plane masks of Assarsson and Moeller, "Optimized View Frustum Culling Algorithms for
    ///         Bounding Boxes", 2000. Differs: all boxes of a level have one size, so a child's distance from a plane
    ///         is its parent's and one of eight numbers.
    OctreeWalk walk(const CullView& view, std::vector<std::uint32_t>& out) const;

    [[nodiscard]] OctreeFigures figures() const;
    /// Every node, leaf and empty place. Cost: O(nodes).
    [[nodiscard]] std::vector<OctreeCell> cells() const;
    /// The cube of the leaf that holds a chunk, in chunks.
    [[nodiscard]] OctreeCell leafOf(ChunkPos chunk) const;

private:
    static constexpr std::uint32_t kNone = 0; // children are numbers + 1
    struct Node {
        std::array<std::uint32_t, 8> children{}; // x lowest bit, then y, z: nodes, at the lowest level leaves or items
    };
    class Walker;
    /// Where a chunk lies below the root; nothing if outside.
    struct Path {
        std::int64_t x, y, z; // chunks from the root's low corner
    };
    [[nodiscard]] std::optional<Path> pathTo(ChunkPos chunk) const;
    [[nodiscard]] std::int64_t edgeAt(int level) const { return std::int64_t{m_leafEdge} << level; }
    [[nodiscard]] std::size_t childAt(const Path& path, int level) const;
    [[nodiscard]] std::size_t cellAt(const Path& path) const;
    [[nodiscard]] std::size_t leafCells() const
    {
        return static_cast<std::size_t>(m_leafEdge) * static_cast<std::size_t>(m_leafEdge)
            * static_cast<std::size_t>(m_leafEdge);
    }
    void growTowards(ChunkPos chunk);
    void shrink();
    std::uint32_t newNode();
    std::uint32_t newLeaf();
    void addCells(std::vector<OctreeCell>& out, std::uint32_t node, int level, ChunkPos low) const;

    int m_leafEdge;
    int m_levels = 0; // of nodes; 0: empty
    ChunkPos m_low; // of the root
    std::uint32_t m_root = 0;
    std::vector<Node> m_nodes;
    std::vector<std::uint32_t> m_leafItems; // leafCells() for each leaf; items + 1
    std::vector<std::uint32_t> m_freeNodes, m_freeLeaves;
    std::size_t m_size = 0;
};

} // namespace fell::cull
