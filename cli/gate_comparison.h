// SPDX-License-Identifier: Apache-2.0
// gate --comparison: two builds that were measured in turn by another command.
#pragma once

#include <string>

namespace fell::cli {

struct ComparisonArguments {
    std::string file; // the document of mesh or duel
    double allowed = 0;
    std::string junit; // empty: none
    bool json = false;
};

/// Says whether the new build (B) is slower than the old one (A). Returns the exit code, as for a transect.
int judgeComparison(const ComparisonArguments& arguments);

} // namespace fell::cli
