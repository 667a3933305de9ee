// SPDX-License-Identifier: Apache-2.0
// Is a region the same whichever of its chunks is made first?
#pragma once

#include <fell/audit/audit.h>
#include <fell/save/changes.h>
#include <fell/terrain/generate.h>

namespace fell::audit {

struct OrderAuditSpec {
    std::shared_ptr<const Terrain> terrain;
    std::uint64_t cases = 2000; // chunks, rounded up to whole regions of 3 x 3 x 3
    std::uint64_t seed = 1;
    std::function<void(double share)> progress;
    std::shared_ptr<const WorldChanges> changes{}; // what was changed of the world; null: nothing
    const Generator* generator = nullptr; // that is audited; null: blocks
};

/// Makes regions around the ground, of every edge and of levels 0 to 3, in random orders on one to four threads that
/// share what chunks have in common, and compares each chunk with the plain generator's, generated alone.
/// Cost: about 20 ms a chunk, the plain way's.
AuditRow auditOrder(const OrderAuditSpec& spec, const std::stop_token& stop = {});

} // namespace fell::audit
