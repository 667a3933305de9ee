// SPDX-License-Identifier: Apache-2.0
// Has something become slower? A transect against an earlier one that was kept as its JSON document.
#pragma once

#include "measure/transect.h"

#include <string>
#include <string_view>
#include <vector>

namespace fell {

/// What a gate needs of the earlier transect.
struct Baseline {
    std::string world, vary, route, processor, commit, driver;
    std::uint64_t seed = 0;
    int rounds = 0, frames = 0, width = 0, height = 0;
    Setup setup; // A
    struct Row {
        nlohmann::json value;
        std::vector<double> meshRounds, frameRounds; // medians
    };
    std::vector<Row> rows; // of setup A
};

/// Reads the document that toJson(TransectResult) made.
/// Errors: no such document, a missing or wrong part, a setup of another version; with its place.
Outcome<Baseline> parseBaseline(std::string_view json, const std::string& where);

/// One comparison: a cost at a value, now against then.
struct GateRow {
    nlohmann::json value;
    std::string what; // "frame_ms" or "mesh_ns"
    Ratio ratio; // now / then; zeros where either side has fewer than two rounds
    enum class Verdict { Holds, Slower, Unknown } verdict = Verdict::Unknown;
};

/// Slower: the whole interval lies above 1 + `allowed`. Holds: not so. Unknown: there is nothing to compare.
std::vector<GateRow> compareWithBaseline(const Baseline& then, const TransectResult& now, double allowed);

/// "At 8 frame time is 1.21x the baseline's (1.12 to 1.31)".
std::string sentenceOf(const GateRow& row);

/// The rows as a JUnit XML document, a test case each: what build servers show.
std::string toJUnit(const std::vector<GateRow>& rows, const Baseline& then, double allowed);

} // namespace fell
