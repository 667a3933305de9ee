// SPDX-License-Identifier: Apache-2.0
// Sparse octrees in the wide form (a child index each) and the narrow one (a mask and one offset).
//
// Child k of a cube is at low x, y, z where bit 0, 1, 2 of k is clear.
//
// The narrow form, breadth first:
//   node     mask:8 offset:24. Bit k of the mask: child k is of several materials and has its own node; those
//            nodes lie together from `offset` on, in the order of k. There is no node for a cube of one material.
//   leaves   a palette number for each other child, in the order of nodes and k. Where a node's leaves begin needs no
//            second offset: node i comes after 8 i children, of which offset - 1 have nodes.
#include <fell/voxels/storage_formats.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cassert>

namespace fell::voxels {
namespace {

/// Calls visit(x) for the starts of the leaves along row (y, z); visit returns the leaf's edge.
template <typename Leaf> void walkRow(int edge, Material* out, const Leaf& leafAt)
{
    for (int x = 0; x < edge;) {
        const auto [size, material] = leafAt(x);
        const int end = (x & ~(size - 1)) + size;
        for (; x < end; ++x)
            out[x] = material;
    }
}

int childOf(int x, int y, int z, int half)
{
    return ((x & half) != 0) | ((y & half) != 0) << 1 | ((z & half) != 0) << 2;
}

struct Cube {
    int x, y, z, edge;
};

Cube childCube(const Cube& cube, int k)
{
    const int half = cube.edge / 2;
    return {cube.x + (k & 1) * half, cube.y + (k >> 1 & 1) * half, cube.z + (k >> 2 & 1) * half, half};
}

/// Which cubes of a pyramid of halvings are of one material: made from the bottom up in one pass over the voxels.
class Uniformity {
public:
    Uniformity(int edge, std::span<const Material> voxels)
        : m_voxels(voxels)
        , m_edge(edge)
    {
        for (int size = 2; size <= edge; size *= 2) {
            const int count = edge / size;
            std::vector<std::uint8_t> level(static_cast<std::size_t>(count) * count * count);
            for (int y = 0, i = 0; y < count; ++y)
                for (int z = 0; z < count; ++z)
                    for (int x = 0; x < count; ++x, ++i)
                        level[static_cast<std::size_t>(i)] = areAlike({x * size, y * size, z * size, size});
            m_levels.push_back(std::move(level));
        }
    }

    [[nodiscard]] Material first(const Cube& c) const
    {
        return m_voxels[static_cast<std::size_t>((c.y * m_edge + c.z) * m_edge + c.x)];
    }
    [[nodiscard]] bool isUniform(const Cube& c) const
    {
        if (c.edge == 1)
            return true;
        const int count = m_edge / c.edge;
        return m_levels[static_cast<std::size_t>(std::countr_zero(static_cast<unsigned>(c.edge))) - 1]
                       [static_cast<std::size_t>((c.y / c.edge * count + c.z / c.edge) * count + c.x / c.edge)];
    }

private:
    [[nodiscard]] bool areAlike(const Cube& cube) const
    {
        const Material material = first(cube);
        for (int k = 0; k < 8; ++k) {
            const Cube child = childCube(cube, k);
            if (first(child) != material || !isUniform(child))
                return false;
        }
        return true;
    }
    std::span<const Material> m_voxels;
    int m_edge;
    std::vector<std::vector<std::uint8_t>> m_levels; // of edges 2, 4, ...
};

class WideOctree final : public VoxelStorage {
public:
    WideOctree(int edge, std::span<const Material> voxels)
        : m_edge(edge)
    {
        const Uniformity uniform(edge, voxels);
        m_nodes.emplace_back();
        fill(0, {0, 0, 0, edge}, uniform);
        m_nodes.shrink_to_fit();
    }
    [[nodiscard]] Material at(int x, int y, int z) const override { return leafAt(x, y, z).second; }
    void readRow(int y, int z, Material* out) const override
    {
        walkRow(m_edge, out, [&](int x) { return leafAt(x, y, z); });
    }
    void set(int x, int y, int z, Material material) override
    {
        std::array<std::uint32_t, 9> path{};
        int depth = 0;
        std::uint32_t node = 0;
        for (int half = m_edge / 2; half >= 1; half /= 2) {
            if (isLeaf(node)) {
                if (m_nodes[node].material == material)
                    return;
                split(node);
            }
            path[static_cast<std::size_t>(depth++)] = node;
            node = m_nodes[node].child[childOf(x, y, z, half)];
        }
        m_nodes[node].material = material;
        while (depth > 0 && mergeIfAlike(path[static_cast<std::size_t>(--depth)])) { }
    }
    [[nodiscard]] std::unique_ptr<VoxelStorage> copy() const override { return std::make_unique<WideOctree>(*this); }
    [[nodiscard]] std::size_t bytes() const override
    {
        return sizeof *this + m_nodes.capacity() * sizeof(Node) + m_free.capacity() * sizeof(std::uint32_t);
    }

private:
    struct Node {
        std::uint32_t child[8] = {}; // 0: none, this is a leaf; the root has no parent
        Material material = kOpen; // of a leaf
    };
    static_assert(sizeof(Node) == 36);

    [[nodiscard]] bool isLeaf(std::uint32_t node) const { return m_nodes[node].child[0] == 0; }
    [[nodiscard]] std::pair<int, Material> leafAt(int x, int y, int z) const
    {
        std::uint32_t node = 0;
        int size = m_edge;
        while (!isLeaf(node)) {
            size /= 2;
            node = m_nodes[node].child[childOf(x, y, z, size)];
        }
        return {size, m_nodes[node].material};
    }
    void fill(std::uint32_t node, const Cube& cube, const Uniformity& uniform)
    {
        if (uniform.isUniform(cube)) {
            m_nodes[node].material = uniform.first(cube);
            return;
        }
        for (int k = 0; k < 8; ++k) {
            const auto child = static_cast<std::uint32_t>(m_nodes.size());
            m_nodes.emplace_back();
            m_nodes[node].child[k] = child;
            fill(child, childCube(cube, k), uniform);
        }
    }
    void split(std::uint32_t node)
    {
        for (int k = 0; k < 8; ++k) {
            std::uint32_t child = 0;
            if (m_free.empty()) {
                child = static_cast<std::uint32_t>(m_nodes.size());
                m_nodes.emplace_back();
            } else {
                child = m_free.back();
                m_free.pop_back();
            }
            m_nodes[child] = {{}, m_nodes[node].material};
            m_nodes[node].child[k] = child;
        }
    }
    bool mergeIfAlike(std::uint32_t node)
    {
        const Material material = m_nodes[m_nodes[node].child[0]].material;
        for (const std::uint32_t child : m_nodes[node].child)
            if (!isLeaf(child) || m_nodes[child].material != material)
                return false;
        m_free.insert(m_free.end(), std::begin(m_nodes[node].child), std::end(m_nodes[node].child));
        m_nodes[node] = {{}, material};
        return true;
    }

    int m_edge;
    std::vector<Node> m_nodes;
    std::vector<std::uint32_t> m_free;
};

class NarrowOctree final : public VoxelStorage {
public:
    NarrowOctree(int edge, std::span<const Material> voxels)
        : m_edge(edge)
    {
        build(voxels);
    }
    [[nodiscard]] Material at(int x, int y, int z) const override { return leafAt(x, y, z).second; }
    void readRow(int y, int z, Material* out) const override
    {
        walkRow(m_edge, out, [&](int x) { return leafAt(x, y, z); });
    }
    /// A format to save and to read: an edit rebuilds the tree.
    void set(int x, int y, int z, Material material) override
    {
        std::vector<Material> voxels(static_cast<std::size_t>(m_edge) * m_edge * m_edge);
        for (int row = 0; row < m_edge * m_edge; ++row)
            readRow(row / m_edge, row % m_edge, voxels.data() + static_cast<std::ptrdiff_t>(row) * m_edge);
        voxels[static_cast<std::size_t>((y * m_edge + z) * m_edge + x)] = material;
        build(voxels);
    }
    [[nodiscard]] std::unique_ptr<VoxelStorage> copy() const override { return std::make_unique<NarrowOctree>(*this); }
    [[nodiscard]] std::size_t bytes() const override
    {
        return sizeof *this + m_nodes.capacity() * sizeof(std::uint32_t) + m_leaves.capacity() * sizeof(std::uint64_t)
            + m_palette.capacity() * sizeof(Material);
    }

private:
    void build(std::span<const Material> voxels)
    {
        const Uniformity uniform(m_edge, voxels);
        m_nodes.clear();
        m_palette.clear();
        std::vector<std::uint16_t> leaves; // palette numbers
        std::vector<int> numberOf(65536, -1);
        const auto addLeaf = [&](Material material) {
            int& number = numberOf[material];
            if (number < 0) {
                number = static_cast<int>(m_palette.size());
                m_palette.push_back(material);
            }
            leaves.push_back(static_cast<std::uint16_t>(number));
        };
        std::vector<Cube> level, next;
        if (const Cube root{0, 0, 0, m_edge}; uniform.isUniform(root))
            addLeaf(uniform.first(root)); // no node at all
        else
            level.push_back(root);
        std::uint32_t offset = 1; // where the next children's nodes will be
        while (!level.empty()) {
            next.clear();
            for (const Cube& cube : level) {
                std::uint32_t mask = 0;
                for (int k = 0; k < 8; ++k) {
                    const Cube child = childCube(cube, k);
                    if (uniform.isUniform(child)) {
                        addLeaf(uniform.first(child));
                    } else {
                        mask |= 1u << k;
                        next.push_back(child);
                    }
                }
                assert(offset < 1u << 24);
                m_nodes.push_back(mask | offset << 8);
                offset += static_cast<std::uint32_t>(std::popcount(mask));
            }
            level.swap(next);
        }
        packLeaves(leaves);
        m_nodes.shrink_to_fit();
        m_palette.shrink_to_fit();
    }

    void packLeaves(const std::vector<std::uint16_t>& numbers)
    {
        m_bits = static_cast<unsigned>(std::bit_width(m_palette.size() - 1));
        std::vector<std::uint64_t>((numbers.size() * m_bits + 63) / 64 + 1).swap(m_leaves);
        for (std::size_t i = 0; i < numbers.size(); ++i) {
            const std::size_t bit = i * m_bits;
            const std::uint64_t number = numbers[i];
            m_leaves[bit / 64] |= number << bit % 64;
            if (bit % 64 + m_bits > 64)
                m_leaves[bit / 64 + 1] |= number >> (64 - bit % 64);
        }
    }

    [[nodiscard]] Material leaf(std::size_t i) const
    {
        const std::size_t bit = i * m_bits;
        std::uint64_t number = m_leaves[bit / 64] >> bit % 64;
        if (bit % 64 + m_bits > 64)
            number |= m_leaves[bit / 64 + 1] << (64 - bit % 64);
        return m_palette[number & ((std::uint64_t{1} << m_bits) - 1)];
    }

    [[nodiscard]] std::pair<int, Material> leafAt(int x, int y, int z) const
    {
        if (m_nodes.empty())
            return {m_edge, m_palette[0]};
        std::uint32_t i = 0;
        for (int half = m_edge / 2;; half /= 2) {
            const std::uint32_t node = m_nodes[i], mask = node & 0xFF, offset = node >> 8;
            const auto k = static_cast<unsigned>(childOf(x, y, z, half));
            const std::uint32_t before = mask & ((1u << k) - 1);
            const auto nodesBefore = static_cast<std::uint32_t>(std::popcount(before));
            if (!(mask >> k & 1))
                return {half, leaf(std::size_t{8} * i - (offset - 1) + k - nodesBefore)};
            i = offset + nodesBefore;
        }
    }

    int m_edge;
    unsigned m_bits = 0; // of a leaf
    std::vector<std::uint32_t> m_nodes;
    std::vector<std::uint64_t> m_leaves;
    std::vector<Material> m_palette;
};

} // namespace

std::unique_ptr<VoxelStorage> holdWideOctree(int edge, std::span<const Material> voxels)
{
    return std::make_unique<WideOctree>(edge, voxels);
}

std::unique_ptr<VoxelStorage> holdNarrowOctree(int edge, std::span<const Material> voxels)
{
    return std::make_unique<NarrowOctree>(edge, voxels);
}

} // namespace fell::voxels
