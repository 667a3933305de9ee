// SPDX-License-Identifier: Apache-2.0
// How far one can see within a budget: the farthest render distance whose frames keep it.
#pragma once

#include <fell/measure/transect.h>

namespace fell::measure {

struct ReachSpec {
    std::shared_ptr<const Terrain> terrain;
    Setup setup; // its draw.budget is the budget, kept at p95
    Route route;
    int frames = 24; // along the route, at each distance
    int farthest = 0; // chunks; 0: what the setup may have at most
    std::shared_ptr<const WorldChanges> changes{}; // what was changed of the world; null: nothing
};

/// A distance that was measured, in the order of measuring.
struct ReachStep {
    int distance = 0; // chunks
    Percentiles frameMs;
    bool isWithin = false;
    bool isConfirming = false; // measured again at the end
};

struct ReachResult {
    std::string world, route, driver;
    Setup setup;
    std::optional<int> distance; // the farthest within the budget, measured twice; none: not even one chunk
    bool isBeyond = false; // `farthest` was still within
    std::vector<ReachStep> steps;
    Growth growth; // of p95 with the distance, over all steps: at() goes on beyond what was measured
    double noise = 0; // machineNoise before the first step
    bool stopped = false;
    bool isEmpty = false; // nothing was drawn at any distance: there is nothing to reach
};

/// Doubles the distance until the budget is broken, then halves the interval; measures the answer once more in a new
/// world, and goes down a chunk at a time while that does not hold.
///
/// Errors  Asserts that `hooks` draw and that frames is 1 to 10000.
/// Cost    about 2 log2(reach) + 2 worlds. `stop` is answered within a chunk's work or a frame.
ReachResult findReach(const ReachSpec& spec, const DrawHooks& hooks,
    const std::function<void(const ReachResult& soFar, const std::string& doing)>& progress,
    const std::stop_token& stop);

/// In words, with what a fitted curve says of twice the distance.
std::vector<std::string> findingsOf(const ReachResult& result);

nlohmann::ordered_json toJson(const ReachResult& result);

} // namespace fell::measure
