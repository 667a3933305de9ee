// SPDX-License-Identifier: Apache-2.0
// Is what was kept what was changed?
#pragma once

#include "audit/audit.h"
#include "terrain/terrain.h"

#include <filesystem>

namespace fell {

struct KeepAuditSpec {
    std::shared_ptr<const Terrain> terrain;
    std::uint64_t cases = 2000; // changed voxels
    std::uint64_t seed = 1;
    std::filesystem::path folder; // for the files, which are gone at the end
    std::function<void(double share)> progress;
};

/// Changes voxels at random near the ground and across chunk borders, saves in parts, tidies the file now and then,
/// opens it again, and compares every voxel of the chunks round them with the recipe's and a plain map of what was
/// changed; with each grouping of rows in turn.
/// Errors of the files are the row's first difference. Cost: about 1 ms a case.
AuditRow auditKeep(const KeepAuditSpec& spec, const std::stop_token& stop = {});

} // namespace fell
