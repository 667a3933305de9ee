// SPDX-License-Identifier: Apache-2.0
#include "measure/gate.h"

#include "measure/findings.h"
#include "measure/markup.h"
#include "measure/reference.h"

#include <charconv>
#include <cmath>

namespace fell {
namespace {

std::string fixed(double value)
{
    char text[64];
    const auto end = std::to_chars(text, text + sizeof text, value, std::chars_format::fixed, 2);
    return {text, end.ptr};
}

GateRow::Verdict verdictFor(const Ratio& ratio, double allowed)
{
    return ratio.low > 1 + allowed  ? GateRow::Verdict::Slower
        : ratio.high <= 1 + allowed ? GateRow::Verdict::Holds
                                    : GateRow::Verdict::Unknown;
}

} // namespace

std::vector<GateRow> compareInTurn(const TransectResult& now, double allowed)
{
    std::vector<GateRow> out;
    for (const TransectRatio& ratio : now.ratios) {
        GateRow row{ratio.value, ratio.across, ratio.what, ratio.ratio, GateRow::Verdict::Unknown};
        if (ratio.ratio.ratio <= 0 || !std::isfinite(ratio.ratio.high))
            row.ratio = {}; // one round shows no interval
        else
            row.verdict = verdictFor(row.ratio, allowed);
        out.push_back(std::move(row));
    }
    return out;
}

std::vector<GateRow> compareWithBaseline(const TransectResult& then, const TransectResult& now, double allowed)
{
    std::vector<GateRow> out;
    for (const TransectRow& before : then.rows)
        for (const TransectRow& row : now.rows) {
            if (row.side != 'A' || before.side != 'A' || row.value != before.value || row.across != before.across)
                continue;
            const auto compare = [&](const char* what, const auto& a, const auto& b) {
                if (a.empty() && b.empty())
                    return; // not drawn, then or now
                GateRow one{row.value, row.across, what, ratioOfUnpaired(a, b), GateRow::Verdict::Unknown};
                if (one.ratio.ratio > 0)
                    one.verdict = verdictFor(one.ratio, allowed);
                out.push_back(std::move(one));
            };
            compare("frame_ms", row.frameRounds, before.frameRounds);
            const MeshRounds mesh = comparableRounds(
                row.meshRounds, row.roundsInReferences, before.meshRounds, before.roundsInReferences);
            compare("mesh_ns", mesh.a, mesh.b);
        }
    return out;
}

std::string sentenceOf(const GateRow& row)
{
    const std::string what = row.what == "frame_ms" ? "frame time" : "mesh time",
                      at = "At " + shownPlace(row.value, row.across);
    if (row.verdict == GateRow::Verdict::Unknown && row.ratio.ratio <= 0)
        return at + " " + what + " cannot be compared: two rounds or more are wanted on both sides";
    return at + " " + what + " is " + fixed(row.ratio.ratio) + "x the baseline's (" + fixed(row.ratio.low) + " to "
        + fixed(row.ratio.high) + ")";
}

std::string toJUnit(const std::vector<GateRow>& rows, const TransectResult& then, double allowed)
{
    std::size_t failures = 0, skipped = 0;
    std::string cases;
    for (const GateRow& row : rows) {
        cases += "    <testcase classname=\"" + escapedForMarkup(then.vary) + "\" name=\"" + row.what + " at "
            + escapedForMarkup(shownPlace(row.value, row.across)) + "\">";
        if (row.verdict == GateRow::Verdict::Slower) {
            ++failures;
            cases += "<failure message=\"" + escapedForMarkup(sentenceOf(row)) + ", allowed is " + fixed(1 + allowed)
                + "x\"/>";
        } else if (row.verdict == GateRow::Verdict::Unknown) {
            ++skipped;
            cases += "<skipped message=\"" + escapedForMarkup(sentenceOf(row)) + "\"/>";
        } else {
            cases += "<system-out>" + escapedForMarkup(sentenceOf(row)) + "</system-out>";
        }
        cases += "</testcase>\n";
    }
    const std::string counts = " tests=\"" + std::to_string(rows.size()) + "\" failures=\"" + std::to_string(failures)
        + "\" skipped=\"" + std::to_string(skipped) + "\"";
    return "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites" + counts + ">\n  <testsuite name=\"fell gate: "
        + escapedForMarkup(then.world) + "\"" + counts + ">\n" + cases + "  </testsuite>\n</testsuites>\n";
}

} // namespace fell
