// SPDX-License-Identifier: Apache-2.0
// Every cull step against the picture itself: a chunk of which a pixel is seen and that a step rejects is lost.
#pragma once

#include <fell/audit/audit.h>
#include <fell/cull/scene.h>
#include <fell/measure/route.h>
#include <fell/stream/streamer.h>

namespace fell::audit {

/// A chunk of which something is seen, with everything drawn and nothing culled.
struct VisibleChunk {
    ChunkPos chunk;
    SideSet sides = 0; // directions of which a pixel is seen
    std::uint32_t pixels = 0; // sides that are not told apart, of shapes, among them
};

/// What the audit draws through. All called on the thread of auditCull.
struct CullAuditHooks {
    std::function<void(const Setup&, const Terrain&)> begin;
    std::function<void(const StreamEvent&)> apply;
    std::function<std::vector<VisibleChunk>(const Eye&, double fieldOfView)> look;
    std::function<CullScene&()> scene; // of the chunks that are drawn
    double aspect = 1.6; // of the picture
};

struct CullAuditSpec {
    std::string world; // its name, for sentences
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<const WorldChanges> changes; // what was changed of the world; null: nothing
    Setup setup; // chunk edge, distance, light and the choices of the steps; meshed side by side, without seams
    std::optional<Route> route; // views along it; else from places by chance near the origin
    std::optional<Eye> also; // the first view
    std::uint64_t views = 125;
    CullAuditHooks hooks;
    std::function<void(double share)> progress;
};

/// What is wrong with one step in one view.
struct LostChunk {
    std::string step, world;
    ChunkPos chunk;
    std::uint32_t pixels = 0; // that are seen of it
    Eye eye;
    double fieldOfView = 65;
    std::uint64_t view = 0;
    std::string kind; // of the view, e.g. "straight down"
};

struct StepFinding {
    std::string step;
    bool isExact = true; // it claims to lose nothing
    std::uint64_t lost = 0, views = 0; // chunks seen and rejected; views in which any was
};

struct CullAuditResult {
    AuditRow row; // cases: views; differences: chunks that an exact step lost
    std::vector<StepFinding> steps; // next to cullSteps()
    std::vector<LostChunk> lost; // the first of them, exact steps' before others'
    std::uint64_t seen = 0; // chunks seen, all views together
};

/// Views are along the route, level and turned round, and hard ones between them: straight down and up, as narrow as
/// 12 and as wide as 120 degrees, with the eye on the corner of eight chunks, in a wall, and close to a chunk that
/// fills the view. The meshes are sides of single voxels: where rectangles of different sizes meet, a rasteriser leaves
/// cracks of a pixel through which anything is seen.
///
/// Cost  a frame without culling a view, and each step once.
CullAuditResult auditCull(const CullAuditSpec& spec, const std::stop_token& stop = {});

/// Adds what another world found.
void addTo(CullAuditResult& all, const CullAuditResult& one);

} // namespace fell::audit
