// SPDX-License-Identifier: Apache-2.0
// Flying a route while the world streams: what each frame took, and what of it was streaming.
#pragma once

#include <fell/measure/transect.h>

namespace fell::measure {

struct FlySpec {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<WorldChanges> changes; // may be null
    Setup setup;
    Route route;
    int frames = 240; // 1 to 100000
    /// Metres a second along the route, there and back; 0 to 10000. A frame is 1/60 s of flight, however long it took:
    /// every setup is measured at the same places.
    double speed = 60;
    /// Seconds of flying straight east in place of the route, as fast as the streaming keeps up: a chunk farther
    /// whenever everything within the distance is there. 0: the route. Nothing is drawn.
    double straight = 0;
};

/// How many bytes were there at one moment of a straight flight, means of a few seconds before it.
struct FlyBytes {
    double seconds = 0;
    std::uint64_t world = 0, process = 0; // voxels, light and meshes; the whole process
};

struct FlyResult {
    std::string world, driver; // the driver is empty without drawing
    int frames = 0;
    Percentiles frameMs; // streaming's share and the draw; without drawing the share alone
    Percentiles shareUs; // of the render thread: all of streaming but the draw
    /// The same route once more with everything resident before each frame; only with drawing.
    Percentiles referenceMs;
    std::uint64_t hitches = 0; // frames over twice the reference's median; without drawing over 16.7 ms
    double referenceHitchShare
        = 0; // the share of the reference's own frames that are: what the views and the machine do
    double settleSeconds = 0; // from nothing to all meshes of the first view
    double horizonSeconds = 0; // with levels of detail: until something is shown everywhere, however coarse; else 0
    StreamCounts counts; // at the end of the flight
    std::uint64_t uploaded = 0, released = 0, gpuBytes = 0, processBytes = 0;
    std::uint64_t drawnChunks = 0, triangles = 0, drawCalls = 0; // medians a frame
    std::vector<CullCount> culled; // next to the setup's cull steps, all frames
    std::uint64_t loadedTriangles = 0; // median a frame: what would be drawn without culling
    double metresPerSecond = 0; // straight flights
    std::vector<FlyBytes> bytes; // straight flights: after a tenth of the time, and at the end
    std::vector<LifeEvent> lives; // what the ring holds at the end
    bool stopped = false;
};

std::optional<Problem> checkFly(const FlySpec& spec);

/// Flies at 60 frames a second, or slower where frames take longer. `hooks` may be null: then nothing is drawn.
/// Errors  Asserts checkFly(spec) found nothing. `stop` is answered within a frame or a chunk's work.
FlyResult runFly(const FlySpec& spec, const DrawHooks* hooks,
    const std::function<void(double share, const std::string& doing)>& progress, const std::stop_token& stop);

} // namespace fell::measure
