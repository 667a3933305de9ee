// SPDX-License-Identifier: Apache-2.0
// Greedy rectangles as they are usually taught. Kept plain: meshGreedyBits must give the same quads.
// Built at the level at which it is fastest (see CMakeLists.txt), so that the comparison is fair.
#include <fell/mesh/meshers.h>

namespace fell::mesh {
namespace {

/// Along which axes a side's rows run and are stacked.
struct Rows {
    std::size_t along, over;
};

Rows rowsOf(Side side)
{
    constexpr std::array<Rows, 3> kRows{{{2, 1}, {0, 2}, {0, 1}}};
    return kRows[static_cast<std::size_t>(axisOf(side))];
}

/// What must be equal for two sides to be one quad: material and shade; 0 where no side is seen.
using Cell = std::uint32_t;

class TaughtSlices {
public:
    TaughtSlices(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
        : m_voxels(voxels)
        , m_rules(rules)
        , m_out(out)
        , m_mask(static_cast<std::size_t>(voxels.edge) * static_cast<std::size_t>(voxels.edge))
    {
    }

    void mesh(Side side)
    {
        const auto row = static_cast<std::ptrdiff_t>(m_voxels.stride()), layer = row * row;
        const std::array<std::ptrdiff_t, 3> step{1, layer, row};
        for (int slice = 0; slice < m_voxels.edge; ++slice)
            if (fillMask(side, slice, step))
                merge(side, slice);
    }

private:
    /// True if any side of the slice is seen.
    bool fillMask(Side side, int slice, const std::array<std::ptrdiff_t, 3>& step)
    {
        const SideRules& sides = *m_rules.sides;
        const auto axis = static_cast<std::size_t>(axisOf(side));
        const Rows rows = rowsOf(side);
        const std::ptrdiff_t beyond = step[axis] * signOf(side), next = step[rows.along];
        const int edge = m_voxels.edge;
        std::array<int, 3> at{};
        at[axis] = slice;
        bool any = false;
        Cell* cell = m_mask.data();
        for (int r = 0; r < edge; ++r) {
            at[rows.over] = r;
            at[rows.along] = 0;
            const Material* here = m_voxels.voxels.data() + m_voxels.index(at[0], at[1], at[2]);
            for (int i = 0; i < edge; ++i, ++cell, here += next) {
                *cell = 0;
                const Material material = *here, there = here[beyond];
                if (material == kOpen)
                    continue;
                // The usual case by comparison, all others by the rules.
                if (sides.isPlainSolid(material) ? there != kOpen && !isSeenBehind(material, there, side)
                                                 : !sides.isCube(material) || !isSideSeen(sides, material, there, side))
                    continue;
                *cell = material;
                any = true;
                if (m_rules.ambientOcclusion) {
                    at[rows.along] = i;
                    *cell |= static_cast<Cell>(cornerOcclusion(m_voxels, sides, at[0], at[1], at[2], side)) << 16;
                }
            }
        }
        return any;
    }

    bool isSeenBehind(Material material, Material there, Side side) const
    {
        return !m_rules.sides->isPlainSolid(there) && isSideSeen(*m_rules.sides, material, there, side);
    }

    void merge(Side side, int slice)
    {
        const int edge = m_voxels.edge;
        for (int r = 0; r < edge; ++r)
            for (int i = 0; i < edge;) {
                const Cell cell = m_mask[static_cast<std::size_t>(r * edge + i)];
                if (cell == 0) {
                    ++i;
                    continue;
                }
                int along = 1;
                while (i + along < edge && m_mask[static_cast<std::size_t>(r * edge + i + along)] == cell)
                    ++along;
                int over = 1;
                while (r + over < edge && isRowAll(cell, r + over, i, along))
                    ++over;
                for (int k = 0; k < over; ++k)
                    for (int j = 0; j < along; ++j)
                        m_mask[static_cast<std::size_t>((r + k) * edge + i + j)] = 0;
                emit(side, slice, r, i, along, over, cell);
                i += along;
            }
    }

    bool isRowAll(Cell cell, int r, int i, int along) const
    {
        for (int j = 0; j < along; ++j)
            if (m_mask[static_cast<std::size_t>(r * m_voxels.edge + i + j)] != cell)
                return false;
        return true;
    }

    void emit(Side side, int slice, int r, int i, int along, int over, Cell cell)
    {
        const auto axis = static_cast<std::size_t>(axisOf(side));
        const Rows rows = rowsOf(side);
        std::array<int, 3> at{};
        at[axis] = slice;
        at[rows.along] = i;
        at[rows.over] = r;
        const bool widthAlong = (axis + 1) % 3 == rows.along;
        const auto material = static_cast<Material>(cell);
        m_out.in(m_rules.sides->matter[material])
            .push_back(packQuad({at[0], at[1], at[2], widthAlong ? along : over, widthAlong ? over : along, side,
                material, static_cast<std::uint8_t>(cell >> 16)}));
    }

    const PaddedVoxels& m_voxels;
    const MeshRules& m_rules;
    ChunkSurface& m_out;
    std::vector<Cell> m_mask;
};

} // namespace

void meshGreedyTaught(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    TaughtSlices slices(voxels, rules, out);
    for (const Side side : kSides)
        slices.mesh(side);
}

} // namespace fell::mesh
