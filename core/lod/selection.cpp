// SPDX-License-Identifier: Apache-2.0
#include <fell/lod/selection.h>

#include <algorithm>
#include <cassert>
#include <cmath>

namespace fell::lod {
namespace {

constexpr std::array<LodMethod, 3> kSchemes{{
    {"off", "one level", "Every chunk at full detail. The cost grows with the square of the render distance."},
    {"rings", "rings by distance", "Each level covers a ring of fixed width, measured in its chunks."},
    {"error", "pixel error", "A level starts where its error on screen falls below a number of pixels."},
}};
constexpr std::array<LodMethod, 2> kSources{{
    {"recipe", "the recipe", "Generated at the step of the level. A chunk costs the same on every level."},
    {"finer", "finer voxels",
        "Reduced from eight finer chunks, down to level 0. Thin features stay; a chunk of level n costs "
        "8^n."},
}};
constexpr std::array<LodMethod, 3> kSeams{{
    {"open", "left open", "Cracks between levels stay visible."},
    {"skirts", "skirts",
        "Each chunk extends the faces of its border downwards. Closes cracks without joining the surfaces."},
    {"stitched", "stitched",
        "The finer chunk draws the steps between both surfaces. Closes cracks with the fewest triangles."},
}};

/// How far a node's box begins from the middle of the viewer's chunk, in chunks of level 0.
double distanceTo(ChunkPos node, ChunkPos viewer)
{
    const double span = std::ldexp(1.0, node.level);
    const auto along = [span](std::int64_t low, int level, std::int64_t from) {
        const double at = static_cast<double>((low << level) - from) - 0.5; // from the viewer's middle
        return std::max({0.0, at, -at - span});
    };
    return std::hypot(
        along(node.x, node.level, viewer.x), along(node.y, node.level, viewer.y), along(node.z, node.level, viewer.z));
}

} // namespace

std::span<const LodMethod> lodSchemes()
{
    return kSchemes;
}

std::span<const LodMethod> coarseSources()
{
    return kSources;
}

std::span<const LodMethod> seamMethods()
{
    return kSeams;
}

double firstLevelRadius(const LodChoices& choices, int edge, double pixels)
{
    constexpr double kMin = 1.5; // chunks: nearer, and the one that is stood in would change with every step
    if (choices.scheme != "error")
        return std::max(kMin, static_cast<double>(choices.detail));
    // Level 1 is wrong by a voxel of level 0 at most; that is as many pixels as an angle of 1/distance.
    return std::max(kMin, pixels / choices.error / edge);
}

bool LodSelection::covers(ChunkPos chunk) const
{
    const int up = m_coarsest - chunk.level;
    return up >= 0 && m_nodes.contains({chunk.x >> up, chunk.y >> up, chunk.z >> up, m_coarsest});
}

LodSelection selectLevels(const LodView& view, const LodSelection* before)
{
    assert(view.distance >= 1 && view.firstLevelRadius > 0 && view.levels >= 0 && view.levels <= kMaxLevel);
    constexpr double kSlack = 1.1; // before a node has its place back
    LodSelection out;
    // Not by firstLevelRadius: a frame of another size would need another coarsest level, and all would be rebuilt.
    constexpr double kMinRing = 4; // chunks
    while (out.m_coarsest < view.levels && std::ldexp(kMinRing, out.m_coarsest) < view.distance)
        ++out.m_coarsest;
    const int top = out.m_coarsest;
    const auto add = [&out](ChunkPos chunk) {
        out.m_nodes.try_emplace(chunk);
        out.m_byLevel[static_cast<std::size_t>(chunk.level)].push_back(chunk);
    };
    const ChunkPos middle{view.viewer.x >> top, view.viewer.y >> top, view.viewer.z >> top, top};
    const std::int64_t reach = ((static_cast<std::int64_t>(view.distance * kSlack) + 1) >> top) + 2;
    for (std::int64_t y = -reach; y <= reach; ++y)
        for (std::int64_t z = -reach; z <= reach; ++z)
            for (std::int64_t x = -reach; x <= reach; ++x)
                if (const ChunkPos root = middle + ChunkPos{x, y, z}; distanceTo(root, view.viewer)
                    <= (before && before->contains(root) ? std::max(view.distance * kSlack, view.distance + 1.0)
                                                         : view.distance))
                    add(root);
    for (int level = top; level > 0; --level) {
        const double near = std::ldexp(view.firstLevelRadius, level - 1);
        for (const ChunkPos chunk : out.m_byLevel[static_cast<std::size_t>(level)]) {
            // A step to the next chunk and back must change nothing, however small the ring.
            const double end = before && before->isSplit(chunk) ? std::max(near * kSlack, near + 1) : near;
            if (distanceTo(chunk, view.viewer) >= end)
                continue;
            out.m_nodes.at(chunk).isSplit = true;
            for (unsigned c = 0; c < 8; ++c)
                add(childOf(chunk, c));
        }
    }
    return out;
}

} // namespace fell::lod
