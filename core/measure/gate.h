// SPDX-License-Identifier: Apache-2.0
// Has something become slower? A transect against an earlier one that was kept as its JSON document.
#pragma once

#include "measure/transect.h"

#include <string>
#include <vector>

namespace fell {

/// One comparison: a cost at a value, now against then.
struct GateRow {
    nlohmann::json value, across;
    std::string what; // "frame_ms" or "mesh_ns"
    Ratio ratio; // now / then; zeros where either side has fewer than two rounds
    enum class Verdict { Holds, Slower, Unknown } verdict = Verdict::Unknown;
};

/// Slower: the whole interval lies above 1 + `allowed`. Holds: the whole interval lies at
/// or below it. Unknown: neither, or fewer than two rounds; more rounds narrow the interval.
/// Only setup A of both is looked at.
std::vector<GateRow> compareWithBaseline(const TransectResult& then, const TransectResult& now, double allowed);

/// The same where the baseline's setup could be measured again as B, in turn with the new one as A: what the machine
/// does meanwhile hits both.
std::vector<GateRow> compareInTurn(const TransectResult& now, double allowed);

/// "At 8 frame time is 1.21x the baseline's (1.12 to 1.31)".
std::string sentenceOf(const GateRow& row);

/// The rows as a JUnit XML document, a test case each: what build servers show.
std::string toJUnit(const std::vector<GateRow>& rows, const TransectResult& then, double allowed);

} // namespace fell
