// SPDX-License-Identifier: Apache-2.0
// The stage Cull: steps that say of a chunk that it, or some directions of its sides, need not be drawn, in the order
// that a setup gives.
#pragma once

#include <fell/cull/view.h>

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fell::cull {

/// What a setup says about culling.
struct CullChoices {
    std::vector<std::string> steps{"octree", "distance", "facing"};
    std::string reach = "sphere"; // what the step distance measures by
    int leaf = 1; // chunks along an edge of the octree's leaves: 1, 2 or 4
    std::string facing = "chunk"; // by whose box the step facing decides
    std::string hidden = "both"; // what the step hidden asks
    bool operator==(const CullChoices&) const = default;
};

struct CullRun;

struct CullStep {
    const char* id;
    const char* title;
    const char* note; // one sentence for a tooltip
    bool isExact; // rejects nothing that can be seen
    const char* unit; // what it counts
    /// False if the step rejects `box` by its place alone; null for steps that need to know more.
    bool (*keeps)(const CullView& view, const Box& box);
    void (*run)(CullRun& run); // over all candidates; null where `keeps` is all there is to it
};

std::span<const CullStep> cullSteps();
const CullStep* findCullStep(std::string_view id);

/// What one step did in one frame.
struct CullCount {
    std::uint64_t tested = 0, kept = 0, rejected = 0; // the octree tests nodes too, so tested is no sum of the others
    std::uint64_t ns = 0;
    CullCount& operator+=(const CullCount& other)
    {
        tested += other.tested;
        kept += other.kept;
        rejected += other.rejected;
        ns += other.ns;
        return *this;
    }
};

struct CullOption {
    const char* id;
    const char* title;
    const char* note;
};
std::span<const CullOption> cullReaches(); // CullChoices::reach: sphere, column
std::span<const CullOption> facingModes(); // CullChoices::facing: chunk, node
std::span<const CullOption> hiddenModes(); // CullChoices::hidden: both, walk, depth

// What each step tests of a box. Boxes and views are relative to the eye's cell; a few ns each.

/// Any of it nearer than the render distance, in space.
bool isWithinSphere(const CullView& view, const Box& box);
/// The same on the plan: a column reaches from the deepest to the highest chunk.
bool isWithinColumn(const CullView& view, const Box& box);
/// One of the four corners on the plan lies in the triangle that the view is there. Loses a chunk whose corners lie
/// outside while its middle fills the view, and all that a look up or down sees beyond the triangle.
bool hasCornerInTriangle(const CullView& view, const Box& box);
/// One of the eight corners lies in clip space. Loses a chunk whose corners all lie outside.
bool hasCornerInClip(const CullView& view, const Box& box);
/// Not wholly behind one of the six planes: its corner farthest along a normal decides. Exact; keeps some boxes outside
/// the volume's edges.
bool isWithinPlanes(const CullView& view, const Box& box);
/// The directions of faces that can face the camera, of voxels within the box.
std::uint8_t sidesTowards(const CullView& view, const Box& box);

} // namespace fell::cull
