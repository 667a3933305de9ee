// SPDX-License-Identifier: Apache-2.0
// From a chunk on which something fails to one of a few voxels on which it still fails.
#pragma once

#include <fell/voxels/neighbourhood.h>

#include <chrono>
#include <functional>

namespace fell::audit {

/// Replaces voxels by air while `fails` still says so: first in large parts, then one by one; then gives the rest one
/// material where that fails too. Ends at the deadline with what it has.
/// Errors  Asserts nothing: where `fails` is not steady, the last chunk on which it failed is returned.
/// Cost    about 2 k log2(n / k) tries for k of n voxels.
/// Source  delta debugging, Zeller and Hildebrandt, IEEE TSE 28, 2002.
PaddedVoxels shrinkVoxels(PaddedVoxels voxels, const std::function<bool(const PaddedVoxels&)>& fails,
    std::chrono::steady_clock::time_point deadline);

} // namespace fell::audit
