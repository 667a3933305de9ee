// SPDX-License-Identifier: Apache-2.0
#include "cull/steps.h"

#include <glm/common.hpp>
#include <glm/geometric.hpp>

#include <algorithm>
#include <cassert>

namespace fell {
namespace {

bool withinDistance(const CullView& view, const Box& box)
{
    const glm::vec3 eye(view.eye.within);
    const glm::vec3 nearest = glm::clamp(eye, box.low, box.high) - eye;
    return glm::dot(nearest, nearest) <= view.distance * view.distance;
}

/// A box is outside if it lies wholly behind one plane: its corner farthest along the normal is what decides.
bool withinPlanes(const CullView& view, const Box& box)
{
    return std::all_of(view.planes.begin(), view.planes.end(), [&box](const glm::vec4& plane) {
        const float x = plane.x >= 0 ? box.high.x : box.low.x;
        const float y = plane.y >= 0 ? box.high.y : box.low.y;
        const float z = plane.z >= 0 ? box.high.z : box.low.z;
        return plane.x * x + plane.y * y + plane.z * z + plane.w >= 0;
    });
}

constexpr std::array<CullStep, 2> kSteps{{
    {"distance", "distance", "Leaves out chunks that lie wholly beyond the render distance.", withinDistance},
    {"view-planes", "planes of the view",
        "Leaves out chunks that lie wholly behind one of the six planes of the view volume.", withinPlanes},
}};

} // namespace

std::span<const CullStep> cullSteps()
{
    return kSteps;
}

const CullStep* findCullStep(std::string_view id)
{
    const auto found = std::find_if(kSteps.begin(), kSteps.end(), [id](const CullStep& s) { return s.id == id; });
    return found == kSteps.end() ? nullptr : &*found;
}

void cullChunks(const CullView& view, std::span<const CullStep* const> steps, std::span<const ChunkPos> chunks,
    std::vector<std::uint32_t>& kept, std::span<CullCount> counts)
{
    assert(counts.size() == steps.size());
    kept.clear();
    for (std::size_t i = 0; i < chunks.size(); ++i) {
        const Box box = boxOf(chunks[i], view.edge, view.eye);
        bool keep = true;
        for (std::size_t s = 0; s < steps.size() && keep; ++s) {
            ++counts[s].tested;
            keep = steps[s]->keeps(view, box);
            counts[s].rejected += !keep;
        }
        if (keep)
            kept.push_back(static_cast<std::uint32_t>(i));
    }
}

} // namespace fell
