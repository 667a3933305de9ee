// SPDX-License-Identifier: Apache-2.0
#include <fell/lod/seams.h>

namespace fell::lod {
namespace {

using Voxel = std::array<int, 3>;

/// One border of a chunk as a grid: along i runs the axis after the border's, along j the one after that.
class Border {
public:
    Border(Side side, int edge)
        : m_side(side)
        , m_edge(edge)
    {
    }
    [[nodiscard]] Voxel own(int i, int j) const { return at(i, j, signOf(m_side) > 0 ? m_edge - 1 : 0); }
    [[nodiscard]] Voxel beyond(int i, int j) const { return at(i, j, signOf(m_side) > 0 ? m_edge : -1); }
    [[nodiscard]] Side side() const { return m_side; }
    [[nodiscard]] int edge() const { return m_edge; }

private:
    [[nodiscard]] Voxel at(int i, int j, int depth) const
    {
        const auto a = static_cast<std::size_t>(axisOf(m_side));
        Voxel voxel{};
        voxel[a] = depth;
        voxel[(a + 1) % 3] = i;
        voxel[(a + 2) % 3] = j;
        return voxel;
    }
    Side m_side;
    int m_edge;
};

Material in(const PaddedVoxels& voxels, const Voxel& at)
{
    return voxels.at(at[0], at[1], at[2]);
}

PackedLight levelsAt(const PaddedLight& light, const Voxel& at)
{
    PackedLight packed = 0;
    for (int c = 0; c < light.channels; ++c)
        packed |= static_cast<PackedLight>(light.at(c, at[0], at[1], at[2])) << (4 * c);
    return packed;
}

PackedLight wholeSky(const LightMode& mode)
{
    PackedLight packed = 0;
    for (int c = 0; c < mode.channels(); ++c)
        packed |= mode.isSky(c) ? static_cast<PackedLight>(kMaxLight) << (4 * c) : 0;
    return packed;
}

/// Light for a side that looks into a voxel which its own level holds for solid.
PackedLight lightAbove(const SeamLight& how, Voxel at)
{
    if (!how.light)
        return 0;
    for (; at[1] <= how.light->edge; ++at[1])
        if (how.light->isPassable(at[0], at[1], at[2]))
            return levelsAt(*how.light, at);
    return wholeSky(*how.mode);
}

/// One unit side of a seam.
struct BorderCell {
    Material material = kOpen; // open air: none here
    bool facesInward = false;
    PackedLight light = 0;
    bool operator==(const BorderCell&) const = default;
};

/// Covers the cells with rectangles of equal ones, along i first.
void merge(const Border& border, std::vector<BorderCell>& cells, SeamQuads& out)
{
    const int edge = border.edge();
    const auto cell = [&](int i, int j) -> BorderCell& { return cells[static_cast<std::size_t>(j * edge + i)]; };
    const auto s = static_cast<std::size_t>(border.side());
    for (int j = 0; j < edge; ++j)
        for (int i = 0; i < edge; ++i) {
            const BorderCell from = cell(i, j);
            if (from.material == kOpen)
                continue;
            int width = 1, height = 1;
            while (i + width < edge && cell(i + width, j) == from)
                ++width;
            const auto goesOn = [&](int row) {
                for (int x = i; x < i + width; ++x)
                    if (cell(x, row) != from)
                        return false;
                return true;
            };
            while (j + height < edge && goesOn(j + height))
                ++height;
            for (int y = j; y < j + height; ++y)
                for (int x = i; x < i + width; ++x)
                    cell(x, y).material = kOpen;
            const Voxel at = border.own(i, j);
            out.quads[s].push_back(packQuad({at[0], at[1], at[2], width, height,
                from.facesInward ? opposite(border.side()) : border.side(), from.material, 0, from.facesInward}));
            out.lights[s].push_back({{from.light, from.light, from.light, from.light}});
        }
}

/// Is there open air no more than kSkirtDepth above the border's voxel, on either side? What lies above the chunk is
/// not known, so it may be.
bool isNearSurface(const PaddedVoxels& voxels, const SideRules& rules, const Voxel& own, const Voxel& beyond)
{
    for (int up = 1; up <= kSkirtDepth; ++up) {
        const int y = own[1] + up;
        if (y > voxels.edge)
            return true;
        if (!rules.isSolidCube(voxels.at(own[0], y, own[2])) || !rules.isSolidCube(voxels.at(beyond[0], y, beyond[2])))
            return true;
    }
    return false;
}

} // namespace

void hangSkirts(const PaddedVoxels& voxels, const SideRules& rules, const SeamLight& light, SeamQuads& out)
{
    out.clear();
    const int edge = voxels.edge;
    std::vector<BorderCell> cells(static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge));
    for (const Side side : kSides) {
        const Border border(side, edge);
        const bool isLevel = axisOf(side) == 1; // a floor or a ceiling hangs nowhere: all of it is drawn
        for (int j = 0; j < edge; ++j)
            for (int i = 0; i < edge; ++i) {
                const Voxel own = border.own(i, j), beyond = border.beyond(i, j);
                const Material here = in(voxels, own);
                BorderCell& cell = cells[static_cast<std::size_t>(j * edge + i)];
                cell = {};
                if (rules.isSolidCube(here) && rules.isSolidCube(in(voxels, beyond))
                    && (isLevel || isNearSurface(voxels, rules, own, beyond)))
                    cell = {here, false, lightAbove(light, beyond)};
            }
        merge(border, cells, out);
    }
}

void stitch(ChunkPos chunk, const PaddedVoxels& voxels, const CoarserAround& coarser, const SideRules& rules,
    const SeamLight& light, SeamQuads& out)
{
    out.clear();
    if (!coarser.parent)
        return;
    const int edge = voxels.edge;
    const std::array<int, 3> half{static_cast<int>(chunk.x & 1) * edge / 2, static_cast<int>(chunk.y & 1) * edge / 2,
        static_cast<int>(chunk.z & 1) * edge / 2}; // where the chunk begins in its parent
    std::vector<BorderCell> cells(static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge));
    for (int axis = 0; axis < 3; ++axis) {
        const auto a = static_cast<std::size_t>(axis);
        const VoxelChunk* there = coarser.beyond[a];
        if (!there)
            continue;
        const Side side = outerSide(chunk, axis);
        const Border border(side, edge);
        const auto coarseAt = [&](const VoxelChunk& of, const Voxel& own, int depth) {
            Voxel at{};
            for (std::size_t k = 0; k < 3; ++k)
                at[k] = half[k] + own[k] / 2;
            at[a] = depth;
            return of.at(at[0], at[1], at[2]);
        };
        const int low = 0, high = edge - 1;
        for (int j = 0; j < edge; ++j)
            for (int i = 0; i < edge; ++i) {
                const Voxel own = border.own(i, j), beyond = border.beyond(i, j);
                const bool up = signOf(side) > 0;
                const Material here = in(voxels, own), far = coarseAt(*there, own, up ? low : high);
                const bool isSolid = rules.isSolidCube(here), isFarSolid = rules.isSolidCube(far);
                BorderCell& cell = cells[static_cast<std::size_t>(j * edge + i)];
                cell = {};
                if (isSolid == isFarSolid)
                    continue;
                if (isSolid) { // else its own mesh has it
                    if (rules.isSolidCube(in(voxels, beyond)))
                        cell = {here, false, lightAbove(light, beyond)};
                } else if (rules.isSolidCube(coarseAt(*coarser.parent, own, up ? high : low))) {
                    // else the coarser one's mesh has it
                    const bool isOpen = light.light && light.light->isPassable(own[0], own[1], own[2]);
                    cell = {far, true, isOpen ? levelsAt(*light.light, own) : lightAbove(light, own)};
                }
            }
        merge(border, cells, out);
    }
}

} // namespace fell::lod
