// SPDX-License-Identifier: Apache-2.0
#include <fell/cull/chunk_octree.h>

#include <fell/cull/steps.h>

#include <glm/geometric.hpp>

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell::cull {

ChunkOctree::ChunkOctree(int leafEdge)
    : m_leafEdge(leafEdge)
{
    assert(leafEdge == 1 || leafEdge == 2 || leafEdge == 4);
}

std::optional<ChunkOctree::Path> ChunkOctree::pathTo(ChunkPos chunk) const
{
    const ChunkPos from = chunk - m_low;
    const std::int64_t edge = edgeAt(m_levels);
    if (m_levels == 0 || from.x < 0 || from.y < 0 || from.z < 0 || from.x >= edge || from.y >= edge || from.z >= edge)
        return std::nullopt;
    return Path{from.x, from.y, from.z};
}

/// `level` of a node, 1 the lowest.
std::size_t ChunkOctree::childAt(const Path& path, int level) const
{
    const int shift = level - 1 + std::countr_zero(static_cast<unsigned>(m_leafEdge));
    const auto bit = [shift](std::int64_t v) { return static_cast<std::size_t>(v >> shift & 1); };
    return bit(path.x) | bit(path.y) << 1 | bit(path.z) << 2;
}

std::size_t ChunkOctree::cellAt(const Path& path) const
{
    const std::int64_t mask = m_leafEdge - 1;
    return static_cast<std::size_t>(((path.y & mask) * m_leafEdge + (path.z & mask)) * m_leafEdge + (path.x & mask));
}

std::uint32_t ChunkOctree::newNode()
{
    if (m_freeNodes.empty()) {
        m_nodes.emplace_back();
        return static_cast<std::uint32_t>(m_nodes.size() - 1);
    }
    const std::uint32_t node = m_freeNodes.back();
    m_freeNodes.pop_back();
    m_nodes[node] = {};
    return node;
}

std::uint32_t ChunkOctree::newLeaf()
{
    if (m_freeLeaves.empty()) {
        m_leafItems.resize(m_leafItems.size() + leafCells(), kNone);
        return static_cast<std::uint32_t>(m_leafItems.size() / leafCells() - 1);
    }
    const std::uint32_t leaf = m_freeLeaves.back();
    m_freeLeaves.pop_back();
    return leaf; // emptied when it was given back
}

void ChunkOctree::growTowards(ChunkPos chunk)
{
    if (m_levels == 0) {
        m_levels = 1;
        m_root = newNode();
        const std::int64_t mask = ~std::int64_t{m_leafEdge - 1}; // leaves lie where their edge divides
        m_low = {chunk.x & mask, chunk.y & mask, chunk.z & mask};
    }
    while (!pathTo(chunk)) {
        const std::int64_t edge = edgeAt(m_levels);
        // The old root is the half of the new one that lies away from the chunk.
        const bool x = chunk.x < m_low.x, y = chunk.y < m_low.y, z = chunk.z < m_low.z;
        const std::uint32_t root = newNode();
        m_nodes[root]
            .children[static_cast<std::size_t>(x) | static_cast<std::size_t>(y) << 1 | static_cast<std::size_t>(z) << 2]
            = m_root + 1;
        m_low = m_low - ChunkPos{x ? edge : 0, y ? edge : 0, z ? edge : 0};
        m_root = root;
        ++m_levels;
    }
}

void ChunkOctree::put(ChunkPos chunk, std::uint32_t item)
{
    assert(item != UINT32_MAX);
    growTowards(chunk);
    const Path path = *pathTo(chunk);
    std::uint32_t node = m_root;
    for (int level = m_levels; level > 1; --level) {
        const std::size_t child = childAt(path, level);
        if (m_nodes[node].children[child] == kNone) {
            const std::uint32_t made = newNode();
            m_nodes[node].children[child] = made + 1;
        }
        node = m_nodes[node].children[child] - 1;
    }
    std::uint32_t* place = &m_nodes[node].children[childAt(path, 1)];
    if (m_leafEdge > 1) {
        if (*place == kNone)
            *place = newLeaf() + 1;
        place = &m_leafItems[(*place - 1) * leafCells() + cellAt(path)];
    }
    m_size += *place == kNone;
    *place = item + 1;
}

void ChunkOctree::remove(ChunkPos chunk)
{
    const auto path = pathTo(chunk);
    assert(path && find(chunk));
    std::array<std::uint32_t, 64> way{};
    std::uint32_t node = m_root;
    for (int level = m_levels; level > 1; --level) {
        way[static_cast<std::size_t>(level)] = node;
        node = m_nodes[node].children[childAt(*path, level)] - 1;
    }
    way[1] = node;
    --m_size;
    std::uint32_t& place = m_nodes[node].children[childAt(*path, 1)];
    if (m_leafEdge > 1) {
        const std::uint32_t leaf = place - 1;
        const auto first = m_leafItems.begin() + static_cast<std::ptrdiff_t>(leaf * leafCells());
        first[static_cast<std::ptrdiff_t>(cellAt(*path))] = kNone;
        if (std::any_of(
                first, first + static_cast<std::ptrdiff_t>(leafCells()), [](std::uint32_t i) { return i != kNone; }))
            return;
        m_freeLeaves.push_back(leaf);
    }
    place = kNone;
    for (int level = 1; level < m_levels; ++level) {
        const std::uint32_t at = way[static_cast<std::size_t>(level)];
        if (m_nodes[at].children != std::array<std::uint32_t, 8>{})
            break;
        m_freeNodes.push_back(at);
        m_nodes[way[static_cast<std::size_t>(level) + 1]].children[childAt(*path, level + 1)] = kNone;
    }
    shrink();
}

void ChunkOctree::shrink()
{
    if (m_size == 0) {
        *this = ChunkOctree(m_leafEdge);
        return;
    }
    while (m_levels > 1) {
        const auto& children = m_nodes[m_root].children;
        if (std::count(children.begin(), children.end(), kNone) != 7)
            return;
        const auto only = static_cast<std::size_t>(std::find_if(children.begin(), children.end(), [](std::uint32_t c) {
            return c != kNone;
        }) - children.begin());
        const std::uint32_t root = children[only] - 1;
        m_freeNodes.push_back(m_root);
        m_root = root;
        --m_levels;
        const std::int64_t edge = edgeAt(m_levels);
        m_low = m_low + ChunkPos{only & 1 ? edge : 0, only & 2 ? edge : 0, only & 4 ? edge : 0};
    }
}

std::optional<std::uint32_t> ChunkOctree::find(ChunkPos chunk) const
{
    const auto path = pathTo(chunk);
    if (!path)
        return std::nullopt;
    std::uint32_t at = m_root + 1;
    for (int level = m_levels; level > 0 && at != kNone; --level)
        at = m_nodes[at - 1].children[childAt(*path, level)];
    if (at != kNone && m_leafEdge > 1)
        at = m_leafItems[(at - 1) * leafCells() + cellAt(*path)];
    return at == kNone ? std::nullopt : std::optional(at - 1);
}

/// One walk: planes of length 1, and what a child's distance from each differs by from its parent's.
class ChunkOctree::Walker {
public:
    Walker(const ChunkOctree& tree, const CullView& view, std::vector<std::uint32_t>& out)
        : m_tree(tree)
        , m_view(view)
        , m_out(out)
    {
        for (std::size_t p = 0; p < 6; ++p) {
            const glm::vec3 normal(view.planes[p]);
            const glm::vec4 plane = view.planes[p] / glm::length(normal);
            m_planes[p] = plane;
            m_reach[p] = std::abs(plane.x) + std::abs(plane.y) + std::abs(plane.z);
            for (std::size_t c = 0; c < 8; ++c)
                m_shift[p][c]
                    = (c & 1 ? plane.x : -plane.x) + (c & 2 ? plane.y : -plane.y) + (c & 4 ? plane.z : -plane.z);
        }
    }

    OctreeWalk run()
    {
        if (m_tree.m_levels == 0)
            return m_walk;
        const auto edge = static_cast<float>(m_tree.edgeAt(m_tree.m_levels) * m_view.edge);
        const glm::vec3 middle = boxOf(m_tree.m_low, m_view.edge, m_view.eye).low + edge / 2;
        Distances root{};
        for (std::size_t p = 0; p < 6; ++p)
            root[p] = glm::dot(glm::vec3(m_planes[p]), middle) + m_planes[p].w;
        visit(m_tree.m_root, m_tree.m_levels, m_tree.m_low, root, 0x3F);
        return m_walk;
    }

private:
    using Distances = std::array<float, 6>; // of a middle from the planes, voxels
    // Sums of floats differ by their order. So near a plane a chunk is tested as if there were no octree.
    static constexpr float kUnsure = 0.05F; // voxels

    [[nodiscard]] float halfEdge(int level) const // of a child of a node at `level`, voxels
    {
        return static_cast<float>(m_tree.edgeAt(level - 1) * m_view.edge) / 2;
    }

    void visit(std::uint32_t number, int level, ChunkPos low, const Distances& from, unsigned planes)
    {
        const Node& node = m_tree.m_nodes[number];
        const float half = halfEdge(level);
        alignas(32) float away[6][8];
        alignas(32) float min[8]; // how far inside all planes a child begins; and how far it is inside at most
        alignas(32) float max[8];
        std::fill(std::begin(min), std::end(min), 1e30F);
        std::fill(std::begin(max), std::end(max), 1e30F);
        for (std::size_t p = 0; p < 6; ++p) {
            if (!(planes >> p & 1))
                continue;
            const float reach = half * m_reach[p];
            for (std::size_t c = 0; c < 8; ++c) {
                away[p][c] = from[p] + half * m_shift[p][c];
                min[c] = std::min(min[c], away[p][c] - reach);
                max[c] = std::min(max[c], away[p][c] + reach);
            }
        }
        for (std::size_t c = 0; c < 8; ++c) {
            const std::uint32_t child = node.children[c];
            if (child == kNone)
                continue;
            ++m_walk.tested;
            if (max[c] < -kUnsure)
                continue;
            if (min[c] > kUnsure) {
                ++m_walk.takenWhole;
                takeAll(child, level - 1);
                continue;
            }
            const std::int64_t edge = m_tree.edgeAt(level - 1);
            const ChunkPos at = low + ChunkPos{c & 1 ? edge : 0, c & 2 ? edge : 0, c & 4 ? edge : 0};
            if (level > 1) {
                Distances here{};
                unsigned cut = 0; // planes that the child is not wholly in front of
                for (std::size_t p = 0; p < 6; ++p)
                    if (planes >> p & 1) {
                        here[p] = away[p][c];
                        cut |= static_cast<unsigned>(away[p][c] - half * m_reach[p] <= kUnsure) << p;
                    }
                visit(child - 1, level - 1, at, here, cut);
            } else if (m_tree.m_leafEdge > 1) {
                visitLeaf(child - 1, at);
            } else if (max[c] > kUnsure || isWithin(at)) {
                m_out.push_back(child - 1);
            }
        }
    }

    [[nodiscard]] bool isWithin(ChunkPos chunk) const
    {
        return isWithinPlanes(m_view, boxOf(chunk, m_view.edge, m_view.eye));
    }

    void visitLeaf(std::uint32_t leaf, ChunkPos low)
    {
        const std::size_t cells = m_tree.leafCells(), edge = static_cast<std::size_t>(m_tree.m_leafEdge);
        for (std::size_t i = 0; i < cells; ++i) {
            const std::uint32_t item = m_tree.m_leafItems[leaf * cells + i];
            if (item == kNone)
                continue;
            ++m_walk.tested;
            if (isWithin(low
                    + ChunkPos{static_cast<std::int64_t>(i % edge), static_cast<std::int64_t>(i / (edge * edge)),
                        static_cast<std::int64_t>(i / edge % edge)}))
                m_out.push_back(item - 1);
        }
    }

    void takeAll(std::uint32_t child, int level)
    {
        if (level > 0) {
            for (const std::uint32_t below : m_tree.m_nodes[child - 1].children)
                if (below != kNone)
                    takeAll(below, level - 1);
            return;
        }
        if (m_tree.m_leafEdge == 1) {
            m_out.push_back(child - 1);
            return;
        }
        const std::size_t cells = m_tree.leafCells();
        for (std::size_t i = 0; i < cells; ++i)
            if (const std::uint32_t item = m_tree.m_leafItems[(child - 1) * cells + i]; item != kNone)
                m_out.push_back(item - 1);
    }

    const ChunkOctree& m_tree;
    const CullView& m_view;
    std::vector<std::uint32_t>& m_out;
    Planes m_planes{};
    float m_shift[6][8] = {}; // of a child's middle, for a half edge of 1
    float m_reach[6] = {}; // of a box along a plane's normal, for a half edge of 1
    OctreeWalk m_walk;
};

OctreeWalk ChunkOctree::walk(const CullView& view, std::vector<std::uint32_t>& out) const
{
    return Walker(*this, view, out).run();
}

OctreeFigures ChunkOctree::figures() const
{
    OctreeFigures out;
    out.depth = m_levels;
    out.nodes = m_nodes.size() - m_freeNodes.size();
    out.chunks = m_size;
    out.leaves = m_leafEdge == 1 ? m_size : m_leafItems.size() / leafCells() - m_freeLeaves.size();
    // Every node and leaf but the root is a child of a node.
    out.empty = out.nodes == 0 ? 0 : out.nodes * 8 - (out.nodes - 1) - out.leaves;
    out.bytes = m_nodes.capacity() * sizeof(Node)
        + (m_leafItems.capacity() + m_freeNodes.capacity() + m_freeLeaves.capacity()) * sizeof(std::uint32_t);
    return out;
}

void ChunkOctree::addCells(std::vector<OctreeCell>& out, std::uint32_t node, int level, ChunkPos low) const
{
    out.push_back({OctreeCell::Kind::Node, low, edgeAt(level)});
    for (std::size_t c = 0; c < 8; ++c) {
        const std::int64_t edge = edgeAt(level - 1);
        const ChunkPos at = low + ChunkPos{c & 1 ? edge : 0, c & 2 ? edge : 0, c & 4 ? edge : 0};
        const std::uint32_t child = m_nodes[node].children[c];
        if (child == kNone)
            out.push_back({OctreeCell::Kind::Empty, at, edge});
        else if (level > 1)
            addCells(out, child - 1, level - 1, at);
        else
            out.push_back({OctreeCell::Kind::Leaf, at, edge});
    }
}

std::vector<OctreeCell> ChunkOctree::cells() const
{
    std::vector<OctreeCell> out;
    if (m_levels > 0)
        addCells(out, m_root, m_levels, m_low);
    return out;
}

OctreeCell ChunkOctree::leafOf(ChunkPos chunk) const
{
    const std::int64_t mask = ~std::int64_t{m_leafEdge - 1};
    return {OctreeCell::Kind::Leaf, {chunk.x & mask, chunk.y & mask, chunk.z & mask}, m_leafEdge};
}

} // namespace fell::cull
