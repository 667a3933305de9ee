// SPDX-License-Identifier: Apache-2.0
// Looks for daylight where chunks of different levels meet.
#pragma once

#include <fell/audit/audit.h>
#include <fell/measure/route.h>
#include <fell/stream/streamer.h>

namespace fell::audit {

struct SeamAuditSpec {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<const WorldChanges> changes; // what was changed of the world; null: nothing
    Setup setup; // with levels of detail; its layout and light are replaced by the plainest
    std::optional<Route> route; // views along it; else from places by chance near the origin
    std::uint64_t views = 200;
    std::function<void(double share)> progress;
};

/// A ray that goes into the ground without meeting a side.
struct SeamGap {
    ChunkPos finer, coarser; // that meet there
    VoxelPos at; // of level 0: the lowest corner of the cell that is not closed
    Eye eye;
    bool fromAbove = false; // the ray; else from the eye
};

struct SeamAuditResult {
    AuditRow row; // cases: rays through borders between levels into the ground; differences: daylight
    std::uint64_t borders = 0; // between chunks of two levels, all views together
    std::uint64_t uncovered = 0; // cells of borders that no side closes, seen or not
    std::vector<SeamGap> found; // the first of them
};

/// In each view, of every border between chunks of two levels each cell as large as a voxel of the finer: where one
/// side is solid and the other open, a ray from the eye and, through floors, a ray from above must meet a side that is
/// drawn there. The sides are those of the meshes as they are uploaded, the solids are read from the
/// voxels themselves, and where no side is found the ray is walked from where it starts, voxel by voxel, to see whether
/// anything lies before it.
/// Errors  Asserts hasLevels(spec.setup.lod).
/// Cost    about 0.3 s a view that is 256 chunks far, most of it streaming.
SeamAuditResult auditSeams(const SeamAuditSpec& spec, const std::stop_token& stop = {});

} // namespace fell::audit
