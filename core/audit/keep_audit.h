// SPDX-License-Identifier: Apache-2.0
// Is what was kept what was changed?
#pragma once

#include <fell/audit/audit.h>
#include <fell/save/changes.h>
#include <fell/terrain/generate.h>

#include <filesystem>

namespace fell::audit {

struct KeepAuditSpec {
    std::shared_ptr<const Terrain> terrain;
    std::uint64_t cases = 2000; // changed voxels
    std::uint64_t seed = 1;
    std::filesystem::path folder; // of the caller, for the files; they are removed at the end
    std::function<void(double share)> progress;
    std::shared_ptr<const WorldChanges> changes{}; // what was changed of the world; null: nothing
    const Generator* generator = nullptr; // that is audited; null: blocks
};

/// Changes voxels at random near the ground and across chunk borders, saves in parts, tidies the file now and then,
/// opens it again, and compares every voxel of the chunks around them with the recipe's and a plain map of what was
/// changed; with each grouping of rows in turn.
/// Errors of the files are the row's first difference. Cost: about 1 ms a case.
AuditRow auditKeep(const KeepAuditSpec& spec, const std::stop_token& stop = {});

} // namespace fell::audit
