// SPDX-License-Identifier: Apache-2.0
// Has something become slower? A transect against an earlier one that was kept as its JSON document.
#pragma once

#include <fell/measure/transect.h>

#include <array>
#include <optional>
#include <string>
#include <vector>

namespace fell::measure {

/// What is allowed where nothing else is said: a share above the baseline. A slowdown of 5 % lies far enough above it
/// to be found with the rounds that the power table of `trust` names.
constexpr double kGateAllowed = 0.02;

enum class Verdict : std::uint8_t { Within, Slower, Inconclusive };
/// Slower: the whole interval lies above 1 + `allowed`. Within: the whole interval lies at or below it. Inconclusive:
/// neither, or an interval that is not known; more rounds narrow it.
Verdict verdictFor(const Ratio& ratio, double allowed);
/// "within", "slower", "inconclusive".
const char* textOf(Verdict verdict);

/// One comparison: a cost at a value, now against then.
struct GateRow {
    nlohmann::json value, second;
    std::string what; // "frame_ms" or "mesh_ns"; of counts a key of their JSON, e.g. "triangles"
    Ratio ratio; // now / then; zeros where either side has fewer than two rounds
    Verdict verdict = Verdict::Inconclusive;
    std::optional<std::array<std::uint64_t, 2>> counts; // then and now: what has no noise is compared exactly
};

/// Costs of time by verdictFor. Where both were measured with the same setup, counts too: chunks, triangles, draw
/// calls, bytes, what changes cost, the digest of the meshes. These must be equal; any difference is Slower.
/// Only setup A of both is looked at.
std::vector<GateRow> compareWithBaseline(const TransectResult& then, const TransectResult& now, double allowed);

/// The same where the baseline's setup could be measured again as B, in turn with the new one as A: what the machine
/// does meanwhile hits both. Of counts, more than the allowed share above B's is Slower; the digest is not compared.
std::vector<GateRow> compareInTurn(const TransectResult& now, double allowed);

/// "At 8 frame time is 1.21x the baseline's (1.12 to 1.31)".
std::string sentenceOf(const GateRow& row);

struct JUnitCase {
    std::string className, name;
    Verdict verdict = Verdict::Within; // inconclusive: skipped
    std::string message;
};
/// A JUnit XML document: what build servers show. Source: the schema of Apache Ant's task "junit".
std::string toJUnit(const std::string& suite, const std::vector<JUnitCase>& cases);
/// ", allowed is 1.02x".
std::string allowedText(double allowed);

/// The rows as such a document, a test case each.
std::string toJUnit(const std::vector<GateRow>& rows, const TransectResult& then, double allowed);

} // namespace fell::measure
