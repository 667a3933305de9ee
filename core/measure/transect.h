// SPDX-License-Identifier: Apache-2.0
// Measuring along one varied number: for each value and setup the world is built, a route is flown, frames are timed.
#pragma once

#include <fell/measure/churn.h>
#include <fell/measure/draw_passes.h>
#include <fell/measure/machine.h>
#include <fell/measure/route.h>
#include <fell/measure/statistics.h>
#include <fell/stream/streamer.h>

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include <nlohmann/json.hpp>

namespace fell::measure {

/// What one frame was and took.
struct FrameCost {
    double ms = 0; // until the picture was finished
    std::uint64_t chunks = 0, triangles = 0, drawCalls = 0; // drawn
    std::uint64_t loadedTriangles = 0; // that would be drawn without culling
    std::uint64_t gpuBytes = 0; // in GPU memory
    std::vector<CullCount> culled{}; // next to the setup's cull steps
    double cpuMs = 0, gpuMs = 0; // of the render thread; between the driver's timestamps, 0 where it has none
};

/// What measuring needs of the renderer; gpu provides it. All called on the thread of runTransect.
struct DrawHooks {
    std::function<void(const Setup&, const Terrain&)> begin; // a new, empty world
    std::function<void(const StreamEvent&)> apply; // uploads, releases, and with levels what is shown
    std::function<FrameCost(const Eye&, bool nearPlaneIsClear)> draw; // nearPlaneIsClear: see CullView
    std::function<void(const CullChoices&)> choose; // other cull steps for the same chunks
    std::function<void(unsigned passes)> leaveOut; // of later frames: the sum of 1 << number; may be missing
    std::vector<PassInfo> passes; // those that can be left out
    std::string driver; // as it names itself
    int width = 1280, height = 800; // of the picture
};

/// Streamer::nearPlaneIsClear for what is drawn with the hooks; false while a worker keeps the books, which hides
/// nothing.
bool isSurelyFree(const Streamer& streamer, const Setup& setup, const DrawHooks& hooks, const Eye& eye);

struct TransectSpec {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<const WorldChanges> changes; // what was changed of the world; null: nothing. Nothing is written
    std::string worldName; // as it was named, e.g. a file; kept with the result, so that it can be measured again
    Setup a;
    std::optional<Setup> b;
    std::string vary = "stream.distance"; // a path of setupFields()
    std::vector<nlohmann::json> values; // each allowed for the field
    std::string second; // a second path; empty: one thing varies
    std::vector<nlohmann::json> secondValues; // each value is measured with each of these
    Route route;
    int rounds = 3; // 1 to 50; the setups take turns A B, B A, ...
    int frames = 24; // 1 to 10000, along the route, in each round
    ChurnLoad churn; // in each frame of the route, before it is drawn
    double slowerA = 0; // a share of A's mesh time that is added to it on purpose, see BuildRules::meshed
    bool trySteps = true; // also measure what each cull step saves, and each pass costs, in the middle of the route
};

/// The same view with some of the setup's cull steps.
struct CullTrialRow {
    std::string what; // "all steps", "without facing", "no steps"
    std::string step; // the step or pass left out; empty for all and none
    Percentiles frameMs;
    double cullMs = 0; // median of a frame's culling
    std::uint64_t chunks = 0, triangles = 0, drawCalls = 0; // medians a frame, drawn
};

/// The meshes of a route's first view, all together. Without levels of detail these depend on the world and the setup
/// alone, so they are the same each time.
struct ViewMeshes {
    std::uint64_t quads = 0, bytes = 0, digest = 0; // digest: of every chunk's place and bytes
    bool operator==(const ViewMeshes&) const = default;
};

/// One setup at one value, all rounds together.
struct TransectRow {
    std::string setup; // its name
    char side = 'A'; // A or B
    nlohmann::json value;
    nlohmann::json second; // the second value; null where one thing varies
    Percentiles meshNs; // building the mesh of one chunk: gathering, meshing, laying out; only chunks with work to do
    Percentiles frameMs; // empty without drawing
    double cpuMs = 0, gpuMs = 0; // medians a frame; see FrameCost
    /// The same work in terms of the world, so that other chunk edges compare: thread time of all meshes of the first
    /// view over the ground within the render distance, and the median chunk's time over its voxels.
    double meshMsPerSquareKm = 0, meshNsPerVoxel = 0;
    double readySeconds = 0; // median over rounds: from nothing to all meshes of the first view
    std::uint64_t chunks = 0, triangles = 0, drawCalls = 0; // medians a frame, drawn
    std::uint64_t residentChunks = 0, gpuBytes = 0, processBytes = 0; // at the end of the route
    Interval meshNsP50, frameMsP50, frameMsP95; // of those percentiles, over rounds; unknown with one round
    std::vector<double> meshRounds, frameRounds; // the median of each round, ns and ms
    /// Next to meshRounds: the medians of what meshes took in reference chunks (measure/reference.h), which hardly
    /// depends on the machine's clock; and the median of those. 0 where it was not taken.
    std::vector<double> roundsInReferences;
    double meshInReferences = 0;
    std::vector<float> meshSamples, frameSamples; // raw, round after round; not kept in CSV
    int warmUp = 0; // frames dropped until they took no less any more: the most of any round
    bool full = false; // the memory of the setup held it back: not all chunks were there
    std::uint64_t failedChunks = 0; // given up because a method failed on them, the most of any round; not kept in CSV
    std::string firstError; // what the first failure said; not kept in CSV
    std::vector<CullTrialRow> steps; // what each cull step saves in the middle of the route; see CullTrial
    std::vector<CullTrialRow> passes; // what each pass of a frame costs there
    ChurnCost churn; // of the spec's load, all rounds together
    ViewMeshes firstView; // of the first round; zeros with levels of detail
};

struct TransectRatio {
    nlohmann::json value;
    std::string what; // "frame_ms", "mesh_ns" or, with churn, "change_ms"
    Ratio ratio; // A / B; with several rounds by ratioOverRounds, frame by frame along the route within each, and
                 // mesh time in references where they were taken
    nlohmann::json second; // the second value
    /// For a ratio of one setup with two values of a choice: the denominator's value, and whose setup it is.
    nlohmann::json to{};
    char side = 'A';
};

/// How a cost of one setup grows with what was varied.
struct TransectGrowth {
    std::string setup;
    char side = 'A';
    std::string what; // "mesh_ns", "frame_ms", "triangles" or "gpu_bytes"
    Growth growth;
    nlohmann::json second; // the second value that it holds for
};

struct TransectReach {
    std::string setup;
    char side = 'A';
    double budgetMs = 16.6;
    std::optional<double> value; // the farthest within the budget at p95, between measured values by a straight line
    bool beyond = false; // even the last value was within: the reach lies beyond what was measured
    nlohmann::json second; // the second value that it holds for
};

/// What an audit of a setup found, for readers of the result: a fast wrong answer must not win.
struct AuditNote {
    std::string what; // "mesh, A near"
    std::uint64_t cases = 0, differences = 0;
};

struct TransectResult {
    std::string world, vary, unit, route, driver; // driver is empty without drawing
    std::string second, secondUnit; // empty: one thing varied
    std::string worldName; // as it was named when it was measured; may be empty
    std::optional<Route> path; // the route itself; absent in older documents
    std::uint64_t seed = 0;
    int rounds = 0, frames = 0, width = 0, height = 0;
    ChurnLoad churn;
    Machine machine;
    Setup a;
    std::optional<Setup> b;
    std::vector<TransectRow> rows; // in the order of values, A before B
    std::vector<TransectRatio> ratios;
    std::vector<TransectRatio> toFirst; // where what varies is a choice: each value over the first, of each setup
    std::vector<TransectReach> reach;
    std::vector<TransectGrowth> growth; // where at least three numbers were measured
    double noise = 0; // machineNoise before the first round
    bool stopped = false; // ended early: rows hold what there was
    std::vector<AuditNote> audits; // that were run on this setup
    bool inTurn = true; // A and B took turns; not so when two trials were put together. Not kept
    std::vector<std::string> remarks; // what else a reader should know; not saved
};

/// The setting or settings that were varied, e.g. "stream.distance x chunk.edge".
std::string variedIn(const TransectResult& result);

struct TransectProgress {
    double share = 0; // of the whole, 0 to 1
    std::string doing; // "A near, 8 chunks, round 2 of 3"
    const TransectResult* soFar = nullptr; // rows of what has been measured, valid during the call
};

/// Was nothing measured? Then no chunk had anything to mesh and no frame drew a triangle.
bool isEmpty(const TransectResult& result);

/// The growth of one cost of one setup; nothing where it is not known, and where what varies is no number. With two
/// things varied, that at the first of the second values.
const Growth* growthOf(const TransectResult& result, char side, const std::string& what);

/// The setup that a row was measured with: that of its side, with the values that were varied.
/// Errors: a value that its setting does not allow, in a document that was changed.
Outcome<Setup> setupOf(const TransectResult& result, const TransectRow& row);

/// The second values that were measured, in their order; one null where one thing varied.
std::vector<nlohmann::json> secondValuesOf(const TransectResult& result);

/// Works out reach and growth from the rows.
void concludeFromRows(TransectResult& result);

/// Checks everything that can be wrong with a spec before the work begins.
std::optional<Problem> checkTransect(const TransectSpec& spec);

/// Measures. Each frame is drawn with everything resident, so that it costs what the view costs and not what the
/// workers happen to do; before each round one view is drawn until its frames are steady (isSteady), and dropped.
///
/// Errors  Asserts checkTransect(spec) found nothing. `hooks` may be null: then frames are not drawn and frameMs is
/// empty. Cost    rounds * values * setups times building the world. `stop` is answered within a chunk's work or a
/// frame.
TransectResult runTransect(const TransectSpec& spec, const DrawHooks* hooks,
    const std::function<void(const TransectProgress&)>& progress, const std::stop_token& stop);

} // namespace fell::measure
