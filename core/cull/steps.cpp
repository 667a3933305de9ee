// SPDX-License-Identifier: Apache-2.0
#include <fell/cull/steps.h>

#include <fell/cull/scene.h>

#include <glm/common.hpp>
#include <glm/geometric.hpp>
#include <glm/trigonometric.hpp>

#include <algorithm>
#include <bit>
#include <cmath>

namespace fell::cull {
namespace {

void runDistance(CullRun& run)
{
    const auto within = run.scene.choices().reach == "column" ? isWithinColumn : isWithinSphere;
    std::erase_if(run.candidates,
        [&](std::uint32_t i) { return !within(run.view, boxOf(run.scene.chunks()[i], run.view.edge, run.view.eye)); });
}

void runOctree(CullRun& run)
{
    CullScene& scene = run.scene;
    scene.scratch.clear();
    run.count.tested = 0;
    for (int level = 0; level <= kMaxLevel; ++level)
        if (scene.octree(level).size() > 0) {
            CullView view = run.view;
            view.edge <<= level;
            run.count.tested += scene.octree(level).walk(view, scene.scratch).tested;
        }
    if (run.isFirst) {
        run.candidates.swap(scene.scratch);
        return;
    }
    scene.marks.assign(scene.chunks().size(), 0);
    for (const std::uint32_t i : scene.scratch)
        scene.marks[i] = 1;
    std::erase_if(run.candidates, [&](std::uint32_t i) { return !scene.marks[i]; });
}

/// Counts directions of sides; a chunk is never rejected, since what else it holds is drawn whichever way one looks.
void runFacing(CullRun& run)
{
    const CullScene& scene = run.scene;
    const bool byNode = scene.choices().facing == "node";
    run.count.tested = 0;
    for (const std::uint32_t i : run.candidates) {
        const ChunkPos chunk = scene.chunks()[i];
        Box box = boxOf(chunk, run.view.edge, run.view.eye);
        if (byNode) {
            const OctreeCell leaf = scene.octree(chunk.level).leafOf(chunk);
            const int edge = spanOf(chunk, run.view.edge);
            box.low = boxOf(leaf.low, edge, run.view.eye).low;
            box.high = box.low + static_cast<float>(leaf.edge * edge);
        }
        const SideSet held = scene.sidesOf(i), shown = held & sidesTowards(run.view, box);
        run.count.tested += static_cast<std::uint64_t>(std::popcount(held));
        run.count.kept += static_cast<std::uint64_t>(std::popcount(shown));
        run.sides[i] = shown;
    }
    run.count.rejected = run.count.tested - run.count.kept;
}

void runHidden(CullRun& run)
{
    CullScene& scene = run.scene;
    const bool byWalk = scene.choices().hidden != "depth", byDepth = scene.choices().hidden != "walk";
    if (byDepth)
        scene.beams.run(scene.field(), run.view);
    if (byWalk) {
        scene.walk.run(scene.field(), run.view, byDepth ? &scene.beams : nullptr);
        std::erase_if(run.candidates, [&](std::uint32_t i) { return !scene.walk.reaches(scene.chunks()[i]); });
    }
    if (byDepth) {
        std::erase_if(run.candidates, [&](std::uint32_t i) {
            return !scene.beams.sees(run.view, boxOf(scene.chunks()[i], run.view.edge, run.view.eye));
        });
    }
}

constexpr std::array<CullStep, 7> kSteps{{
    {"distance", "distance", "Rejects chunks that are wholly beyond the render distance.", true, "chunks",
        isWithinSphere, runDistance},
    {"view-triangle", "triangle test",
        "Keeps a chunk if one of its corners is in the view's triangle, seen from above. Loses chunks that are "
        "visible.",
        false, "chunks", hasCornerInTriangle, nullptr},
    {"view-corners", "corner test",
        "Keeps a chunk if one of its eight corners is in clip space. Loses chunks larger than the view.", false,
        "chunks", hasCornerInClip, nullptr},
    {"view-planes", "frustum planes", "Rejects chunks that are wholly behind one of the six frustum planes.", true,
        "chunks", isWithinPlanes, nullptr},
    {"octree", "octree",
        "Tests the frustum planes along the world octree. A node that is wholly inside needs no further test.", true,
        "chunks", isWithinPlanes, runOctree},
    {"facing", "back-facing directions",
        "Draws only those of a chunk's six face directions that can face the camera. Counts directions.", true,
        "directions", nullptr, runFacing},
    {"hidden", "occlusion",
        "Rejects chunks that no line of sight through air reaches, and those wholly behind near chunks.", true,
        "chunks", nullptr, runHidden},
}};

constexpr std::array<CullOption, 2> kReaches{{
    {"sphere", "sphere", "Distance in space, as chunks are streamed."},
    {"column", "column", "Horizontal distance: whole columns, at any depth."},
}};
constexpr std::array<CullOption, 2> kFacing{{
    {"chunk", "each chunk", "Tests the box of each chunk."},
    {"node", "octree leaf", "Tests the box of each octree leaf: fewer tests, more faces drawn."},
}};
constexpr std::array<CullOption, 3> kHidden{{
    {"both", "walk and depth", "The walk, without chunks that are wholly behind near chunks."},
    {"walk", "walk", "Walks from chunk to chunk along portals."},
    {"depth", "depth", "Tests boxes against a coarse depth buffer."},
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

std::span<const CullOption> cullReaches()
{
    return kReaches;
}

std::span<const CullOption> facingModes()
{
    return kFacing;
}

std::span<const CullOption> hiddenModes()
{
    return kHidden;
}

bool isWithinSphere(const CullView& view, const Box& box)
{
    const glm::vec3 eye(view.eye.within);
    const glm::vec3 nearest = glm::clamp(eye, box.low, box.high) - eye;
    return glm::dot(nearest, nearest) <= view.distance * view.distance;
}

bool isWithinColumn(const CullView& view, const Box& box)
{
    const glm::vec3 eye(view.eye.within);
    const glm::vec3 nearest = glm::clamp(eye, box.low, box.high) - eye;
    return nearest.x * nearest.x + nearest.z * nearest.z <= view.distance * view.distance;
}

bool hasCornerInTriangle(const CullView& view, const Box& box)
{
    // The eye and the two far corners of the view, as if it looked level.
    const float half = std::atan(std::tan(glm::radians(view.lens.fieldOfView) / 2) * view.lens.aspect),
                yaw = glm::radians(static_cast<float>(view.eye.yaw)), side = view.lens.farthest / std::cos(half);
    const glm::vec2 eye(view.eye.within.x, view.eye.within.z);
    const auto towardsYaw = [](float angle) { return glm::vec2(std::sin(angle), -std::cos(angle)); };
    const glm::vec2 left = towardsYaw(yaw - half) * side, right = towardsYaw(yaw + half) * side;
    const auto cross = [](const glm::vec2& a, const glm::vec2& b) { return a.x * b.y - a.y * b.x; };
    for (unsigned corner = 0; corner < 4; ++corner) {
        const glm::vec2 at = glm::vec2(corner & 1 ? box.high.x : box.low.x, corner & 2 ? box.high.z : box.low.z) - eye;
        if (cross(left, at) >= 0 && cross(at, right) >= 0 && cross(right - left, at - left) >= 0)
            return true;
    }
    return false;
}

bool hasCornerInClip(const CullView& view, const Box& box)
{
    for (unsigned corner = 0; corner < 8; ++corner) {
        const glm::vec4 at = view.toClip
            * glm::vec4(corner & 1 ? box.high.x : box.low.x, corner & 2 ? box.high.y : box.low.y,
                corner & 4 ? box.high.z : box.low.z, 1);
        if (std::abs(at.x) <= at.w && std::abs(at.y) <= at.w && std::abs(at.z) <= at.w)
            return true;
    }
    return false;
}

bool isWithinPlanes(const CullView& view, const Box& box)
{
    return std::all_of(view.planes.begin(), view.planes.end(), [&box](const glm::vec4& plane) {
        const float x = plane.x >= 0 ? box.high.x : box.low.x;
        const float y = plane.y >= 0 ? box.high.y : box.low.y;
        const float z = plane.z >= 0 ? box.high.z : box.low.z;
        return plane.x * x + plane.y * y + plane.z * z + plane.w >= 0;
    });
}

std::uint8_t sidesTowards(const CullView& view, const Box& box)
{
    // The first sides that look east lie one voxel within the box, the last ones that look west likewise.
    SideSet sides = 0;
    const glm::vec3 eye(view.eye.within);
    for (const Side side : kSides) {
        const int axis = axisOf(side);
        const bool isFacing = signOf(side) > 0 ? eye[axis] > box.low[axis] + 1 : eye[axis] < box.high[axis] - 1;
        if (isFacing)
            sides |= onlySide(side);
    }
    return sides;
}

} // namespace fell::cull
