// SPDX-License-Identifier: Apache-2.0
// Light that has followed edits and arrivals against light flooded from nothing, the plain way.
#pragma once

#include <fell/audit/audit.h>
#include <fell/light/light_rules.h>
#include <fell/voxels/voxel_chunk.h>

namespace fell::audit {

struct LightAuditSpec {
    BlockSet blocks;
    std::uint64_t cases = 2000; // edits, spread over worlds, modes and chunk edges
    std::uint64_t editsAWorld = 50;
    /// 27 chunks of edge 16 of the world itself, index (y * 3 + z) * 3 + x: one separate world a mode, before the
    /// random ones. May be empty.
    std::vector<VoxelChunk> chunks;
    int orders = 10; // in which the chunks of each world arrive
    std::uint64_t seed = 1;
    std::function<void(double share)> progress;
};

/// Worlds of 3 x 3 x 3 chunks of edge 16, and every eighth of 2 x 2 x 2 of edge 32: dust, checkerboards, caves, halls
/// with glass roofs, flooded ones, open ground with pillars; blocks of every kind of the set, and lamps and glass of
/// the audit's own. A case is one edit, after which every voxel's level in every channel is compared with PlainLight's
/// flood from nothing; and one arrival of all chunks in a random order, whose digest is compared with one flood of the
/// whole. Cost: about 20 ms a case.
AuditRow auditLight(const LightAuditSpec& spec, const std::stop_token& stop = {});

} // namespace fell::audit
