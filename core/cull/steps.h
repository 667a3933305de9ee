// SPDX-License-Identifier: Apache-2.0
// The stage Cull: steps that say of a chunk that it need not be drawn, in the order that a setup gives.
#pragma once

#include "cull/view.h"

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fell {

/// What a setup says about culling.
struct CullChoices {
    std::vector<std::string> steps{"distance", "view-planes"};
    bool operator==(const CullChoices&) const = default;
};

/// What a step may look at.
struct CullView {
    Eye eye;
    int edge = 32; // voxels
    float distance = 0; // voxels: the render distance
    std::array<glm::vec4, 6> planes{};
};

struct CullStep {
    const char* id;
    const char* title;
    const char* note;
    /// False if nothing in `box` can be seen. Cost: a few nanoseconds; allocates nothing.
    bool (*keeps)(const CullView& view, const Box& box);
};

std::span<const CullStep> cullSteps();
const CullStep* findCullStep(std::string_view id);

/// How many chunks one step was asked about and rejected.
struct CullCount {
    std::uint64_t tested = 0, rejected = 0;
};

/// Tests `chunks` against `steps` in order. Indices of those that every step keeps go to `kept`; counts[i] is of
/// steps[i]. Shape   counts.size() == steps.size(). Cost: O(chunks * steps).
void cullChunks(const CullView& view, std::span<const CullStep* const> steps, std::span<const ChunkPos> chunks,
    std::vector<std::uint32_t>& kept, std::span<CullCount> counts);

} // namespace fell
