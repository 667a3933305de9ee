// SPDX-License-Identifier: Apache-2.0
// Flying away and back must leave everything as it was: chunks, meshes, bytes.
#pragma once

#include <fell/audit/audit.h>
#include <fell/stream/streamer.h>

namespace fell::audit {

/// What the drawing side holds, for one that wants it counted too.
struct StreamAuditHooks {
    std::function<void(const StreamEvent&)> apply;
    std::function<std::uint64_t()> usedBytes; // of the graphics memory, whole pages
};

struct StreamAuditSpec {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<const WorldChanges> changes; // what was changed of the world; null: nothing
    Setup setup;
    ChunkPos home;
    int journeys = 8; // there and back, up to 2^40 voxels away
    StreamAuditHooks hooks; // may be empty
    std::function<void(double share)> progress;
};

/// A case is one number or mesh compared after a journey: bytes of meshes, used bytes of the graphics
/// memory, and every chunk's mesh with the one that it had before, byte by byte. No chunk may be uploaded twice without
/// being released between, nor released without having been there.
/// Cost: a journey makes the world round `home` twice.
AuditRow auditStream(const StreamAuditSpec& spec, const std::stop_token& stop = {});

} // namespace fell::audit
