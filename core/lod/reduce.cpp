// SPDX-License-Identifier: Apache-2.0
#include <fell/lod/reduce.h>

#include <algorithm>
#include <bit>
#include <cassert>

namespace fell::lod {
namespace {

/// Finer voxels of two chunks' edges, with one layer on top.
class Finer {
public:
    Finer(const std::array<const VoxelChunk*, 8>& parts, const std::array<const VoxelChunk*, 4>& above)
        : m_edge(parts[0]->edge())
        , m_size(2 * m_edge)
        , m_voxels(static_cast<std::size_t>(m_size) * static_cast<std::size_t>(m_size)
              * (static_cast<std::size_t>(m_size) + 1))
    {
        for (std::size_t p = 0; p < 8; ++p)
            for (int y = 0; y < m_edge; ++y)
                copy(*parts[p], y, p, (p & 2 ? m_edge : 0) + y);
        for (std::size_t p = 0; p < 4; ++p)
            if (above[p])
                copy(*above[p], 0, (p & 1) | (p & 2) << 1, m_size);
    }
    [[nodiscard]] Material at(int x, int y, int z) const
    {
        return m_voxels[static_cast<std::size_t>((y * m_size + z) * m_size + x)];
    }

private:
    void copy(const VoxelChunk& from, int y, std::size_t part, int to)
    {
        for (int z = 0; z < m_edge; ++z)
            from.readRow(0, y, z, m_edge,
                m_voxels.data()
                    + static_cast<std::size_t>(
                        (to * m_size + (part & 4 ? m_edge : 0) + z) * m_size + (part & 1 ? m_edge : 0)));
    }
    int m_edge, m_size;
    std::vector<Material> m_voxels;
};

/// Votes for materials; the most frequent wins, the lowest of equals.
class Votes {
public:
    void add(Material material)
    {
        for (std::size_t i = 0; i < m_count; ++i)
            if (m_votes[i].material == material) {
                ++m_votes[i].count;
                return;
            }
        m_votes[m_count++] = {material, 1};
    }
    [[nodiscard]] bool any() const { return m_count > 0; }
    [[nodiscard]] Material winner() const
    {
        const auto end = m_votes.begin() + static_cast<std::ptrdiff_t>(m_count);
        return std::min_element(m_votes.begin(), end, [](const Vote& a, const Vote& b) {
            return a.count != b.count ? a.count > b.count : a.material < b.material;
        })->material;
    }

private:
    struct Vote {
        Material material = kOpen;
        int count = 0;
    };
    std::array<Vote, 8> m_votes{};
    std::size_t m_count = 0;
};

class Reducer {
public:
    Reducer(const Finer& finer, const SideRules& rules, int edge)
        : m_finer(finer)
        , m_rules(rules)
        , m_size(2 * edge)
    {
    }

    [[nodiscard]] Material voxel(int x, int y, int z) const
    {
        unsigned solid = 0; // bit dx + 2 dz + 4 dy
        Votes shown, lateral, all, clear;
        for (unsigned i = 0; i < 8; ++i) {
            const int fx = 2 * x + static_cast<int>(i & 1), fy = 2 * y + static_cast<int>(i >> 2),
                      fz = 2 * z + static_cast<int>(i >> 1 & 1);
            const Material m = m_finer.at(fx, fy, fz);
            if (!isSolid(m)) {
                if (m != kOpen)
                    clear.add(m);
                continue;
            }
            solid |= 1u << i;
            all.add(m);
            if (!isSolid(m_finer.at(fx, fy + 1, fz)))
                shown.add(m);
            else if (isOpenBeside(fx, fy, fz))
                lateral.add(m);
        }
        if (!stays(solid))
            return std::popcount(solid) < 4 && clear.any() ? clear.winner() : kOpen;
        return (shown.any() ? shown : lateral.any() ? lateral : all).winner();
    }

private:
    [[nodiscard]] bool isSolid(Material m) const { return m != kOpen && m_rules.matter[m] == Matter::Solid; }
    [[nodiscard]] bool isOpenBeside(int x, int y, int z) const
    {
        const auto open = [&](int ax, int az) {
            return ax >= 0 && az >= 0 && ax < m_size && az < m_size && !isSolid(m_finer.at(ax, y, az));
        };
        return open(x - 1, z) || open(x + 1, z) || open(x, z - 1) || open(x, z + 1);
    }
    /// At least half of it, or one of its four columns whole: that keeps a wall which is one voxel thin.
    [[nodiscard]] static bool stays(unsigned solid)
    {
        return std::popcount(solid) >= 4 || (solid & solid >> 4 & 15u) != 0;
    }

    const Finer& m_finer;
    const SideRules& m_rules;
    int m_size;
};

} // namespace

VoxelChunk reduced(const std::array<const VoxelChunk*, 8>& parts, const std::array<const VoxelChunk*, 4>& above,
    const SideRules& rules)
{
    const int edge = parts[0]->edge();
    const bool alike = std::all_of(parts.begin(), parts.end(), [&](const VoxelChunk* part) {
        assert(part && part->edge() == edge);
        return part->isUniform() && part->uniform() == parts[0]->uniform();
    });
    if (alike && std::all_of(above.begin(), above.end(), [](const VoxelChunk* c) { return !c || c->isUniform(); }))
        return VoxelChunk(edge, parts[0]->uniform());
    const Finer finer(parts, above);
    const Reducer reducer(finer, rules, edge);
    std::vector<Material> voxels;
    voxels.reserve(static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge));
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x)
                voxels.push_back(reducer.voxel(x, y, z));
    return VoxelChunk(edge, std::move(voxels));
}

} // namespace fell::lod
