// SPDX-License-Identifier: Apache-2.0
#include <fell/voxels/neighbourhood.h>

#include <fell/voxels/palette.h>

#include <algorithm>
#include <cassert>
#include <cstring>

namespace fell::voxels {
namespace {

struct AxisPart {
    int neighbour, local;
};

/// Which of three chunks in a row holds coordinate `p` of [-edge, 2 * edge), and where in it.
AxisPart partOf(int p, int edge)
{
    return p < 0 ? AxisPart{0, p + edge} : p >= edge ? AxisPart{2, p - edge} : AxisPart{1, p};
}

/// Are layers of equal y surely alike? Told where both are held as palettes whose numbers mean the same.
bool areLayersAlike(const VoxelChunk& a, const VoxelChunk& b, int y)
{
    const PalettePlanes *of = a.planes(), *other = b.planes();
    if (!of || !other || of->bits != other->bits || of->planes.size() != other->planes.size())
        return false;
    const std::size_t common = std::min(of->kinds.size(), other->kinds.size());
    if (!std::equal(of->kinds.begin(), of->kinds.begin() + static_cast<std::ptrdiff_t>(common), other->kinds.begin()))
        return false;
    const std::size_t layer = of->planes.size() / static_cast<std::size_t>(a.edge());
    const std::size_t from = layer * static_cast<std::size_t>(y);
    return layer == 0 || std::memcmp(of->planes.data() + from, other->planes.data() + from, layer) == 0;
}

/// Row by row; Fixed: the width of the apron where the compiler is to know it, or 0.
template <int Fixed> void copyPadded(const Neighbourhood& from, int width, Material* to)
{
    const int apron = Fixed == 0 ? width : Fixed, edge = from.centre().edge();
    for (int py = -apron; py < edge + apron; ++py) {
        const AxisPart y = partOf(py, edge);
        for (int pz = -apron; pz < edge + apron; ++pz, to += edge + 2 * apron) {
            const AxisPart z = partOf(pz, edge);
            const auto* row = &from.chunks[static_cast<std::size_t>(y.neighbour * 9 + z.neighbour * 3)];
            for (int i = 0; i < apron; ++i) {
                to[i] = row[0]->at(edge - apron + i, y.local, z.local);
                to[apron + edge + i] = row[2]->at(i, y.local, z.local);
            }
            row[1]->readRow(0, y.local, z.local, edge, to + apron);
        }
    }
}

/// Brings what lies of one of the 27 in `out` up to the chunk; `before` is what it was, where it is still known.
void readAgain(std::size_t i, const VoxelChunk* before, const VoxelChunk& now, PaddedVoxels& out, ChunkBox& box)
{
    const int edge = out.edge, number = static_cast<int>(i);
    const PaddedPart xs = paddedPart(number % 3 - 1, edge), zs = paddedPart(number / 3 % 3 - 1, edge),
                     ys = paddedPart(number / 9 - 1, edge);
    std::array<Material, kChunkEdges.back()> row;
    const auto bytes = static_cast<std::size_t>(xs.count) * sizeof(Material);
    for (int y = 0; y < ys.count; ++y) {
        if (before && areLayersAlike(*before, now, ys.in + y))
            continue;
        for (int z = 0; z < zs.count; ++z) {
            Material* to = out.voxels.data() + out.index(xs.at, ys.at + y, zs.at + z);
            if (xs.count == 1)
                row[0] = now.at(xs.in, ys.in + y, zs.in + z);
            else
                now.readRow(0, ys.in + y, zs.in + z, edge, row.data());
            if (std::memcmp(to, row.data(), bytes) == 0)
                continue;
            for (int x = 0; x < xs.count; ++x)
                if (to[x] != row[static_cast<std::size_t>(x)])
                    box.add({{xs.at + x, ys.at + y, zs.at + z}, {xs.at + x + 1, ys.at + y + 1, zs.at + z + 1}, 1});
            std::memcpy(to, row.data(), bytes);
        }
    }
}

} // namespace

const VoxelChunk& Neighbourhood::beyond(Side side) const
{
    return *chunks[neighbourIndex(stepOf(side))];
}

void gather(const Neighbourhood& from, PaddedVoxels& out, int apron)
{
    assert(apron >= kMinApron && apron <= kMaxApron);
    out.edge = from.centre().edge();
    out.apron = apron;
    const auto stride = static_cast<std::size_t>(out.stride());
    out.voxels.resize(stride * stride * stride);
    if (apron == kMinApron) // that of most meshers
        copyPadded<kMinApron>(from, apron, out.voxels.data());
    else
        copyPadded<0>(from, apron, out.voxels.data());
}

PaddedVoxels narrowed(const PaddedVoxels& voxels, int apron)
{
    assert(apron >= kMinApron && apron <= voxels.apron);
    PaddedVoxels out{voxels.edge, apron, {}};
    const int end = voxels.edge + apron;
    out.voxels.reserve(static_cast<std::size_t>(out.stride()) * out.stride() * out.stride());
    for (int y = -apron; y < end; ++y)
        for (int z = -apron; z < end; ++z) {
            const auto row = voxels.voxels.begin() + static_cast<std::ptrdiff_t>(voxels.index(-apron, y, z));
            out.voxels.insert(out.voxels.end(), row, row + out.stride());
        }
    return out;
}

std::optional<ChunkBox> updatePadded(const SharedAround<VoxelChunk>& from, PaddedVoxelCache& to)
{
    std::optional<ChunkBox> box;
    if (to.voxels.edge == from[13]->edge()) {
        box = ChunkBox::nothing();
        for (std::size_t i = 0; i < from.size(); ++i)
            if (!to.from.isSame(i, from[i]))
                readAgain(i, to.from.all[i].lock().get(), *from[i], to.voxels, *box);
    } else {
        Neighbourhood around;
        std::transform(from.begin(), from.end(), around.chunks.begin(), [](const auto& chunk) { return chunk.get(); });
        gather(around, to.voxels);
    }
    to.from.remember(from);
    return box;
}

bool isBuried(const Neighbourhood& from, const SideRules& rules)
{
    const VoxelChunk& centre = from.centre();
    return centre.isUniform() && rules.isCube(centre.uniform())
        && std::all_of(kSides.begin(), kSides.end(), [&](Side side) {
               const VoxelChunk& there = from.beyond(side);
               return there.isUniform() && !isSideSeen(rules, centre.uniform(), there.uniform(), side);
           });
}

} // namespace fell::voxels
