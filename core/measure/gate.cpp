// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/gate.h>

#include <fell/measure/findings.h>
#include <fell/measure/markup.h>
#include <fell/measure/mesh_rounds.h>

#include <algorithm>
#include <charconv>
#include <cmath>

namespace fell::measure {
namespace {

std::string fixed(double value)
{
    char text[64];
    const auto end = std::to_chars(text, text + sizeof text, value, std::chars_format::fixed, 2);
    return {text, end.ptr};
}

struct CountOf {
    const char* what;
    std::uint64_t (*of)(const TransectRow&);
    bool isDigest = false;
};
constexpr CountOf kCounts[]{{"chunks", [](const TransectRow& row) { return row.chunks; }},
    {"triangles", [](const TransectRow& row) { return row.triangles; }},
    {"draw_calls", [](const TransectRow& row) { return row.drawCalls; }},
    {"resident_chunks", [](const TransectRow& row) { return row.residentChunks; }},
    {"mesh_quads", [](const TransectRow& row) { return row.firstView.quads; }},
    {"mesh_bytes", [](const TransectRow& row) { return row.firstView.bytes; }},
    {"mesh_digest", [](const TransectRow& row) { return row.firstView.digest; }, true},
    {"churn.voxels", [](const TransectRow& row) { return row.churn.voxels; }},
    {"churn.relit_voxels", [](const TransectRow& row) { return row.churn.relitVoxels; }},
    {"churn.uploaded_bytes", [](const TransectRow& row) { return row.churn.bytes; }}};

/// What was not drawn has no counts, and what an older document lacks is 0 there. Where memory held chunks back, which
/// ones depends on the threads.
bool areBothKnown(const CountOf& count, const TransectRow& then, const TransectRow& now)
{
    return count.of(then) > 0 && count.of(now) > 0 && !then.full && !now.full;
}

bool isCount(const std::string& what)
{
    return std::any_of(std::begin(kCounts), std::end(kCounts), [&what](const CountOf& of) { return what == of.what; });
}

bool isDigest(const std::string& what)
{
    return what == "mesh_digest";
}

double ratioOf(std::uint64_t now, std::uint64_t then)
{
    return static_cast<double>(now) / static_cast<double>(then);
}

} // namespace

Verdict verdictFor(const Ratio& ratio, double allowed)
{
    if (ratio.ratio <= 0 || !std::isfinite(ratio.high))
        return Verdict::Inconclusive;
    return ratio.low > 1 + allowed  ? Verdict::Slower
        : ratio.high <= 1 + allowed ? Verdict::Within
                                    : Verdict::Inconclusive;
}

const char* textOf(Verdict verdict)
{
    return verdict == Verdict::Slower ? "slower" : verdict == Verdict::Within ? "within" : "inconclusive";
}

std::vector<GateRow> compareInTurn(const TransectResult& now, double allowed)
{
    std::vector<GateRow> out;
    for (const TransectRatio& ratio : now.ratios) {
        GateRow row{ratio.value, ratio.second, ratio.what, ratio.ratio, verdictFor(ratio.ratio, allowed), {}};
        if (ratio.ratio.ratio <= 0 || !std::isfinite(ratio.ratio.high))
            row.ratio = {}; // one round shows no interval
        out.push_back(std::move(row));
    }
    for (const TransectRow& then : now.rows)
        for (const TransectRow& row : now.rows)
            if (row.side == 'A' && then.side == 'B' && row.value == then.value && row.second == then.second)
                for (const CountOf& count : kCounts)
                    if (!count.isDigest && areBothKnown(count, then, row)) {
                        const std::uint64_t a = count.of(row), b = count.of(then);
                        const double ratio = ratioOf(a, b);
                        out.push_back({row.value, row.second, count.what, {ratio, ratio, ratio},
                            ratio > 1 + allowed ? Verdict::Slower : Verdict::Within, {{b, a}}});
                    }
    return out;
}

std::vector<GateRow> compareWithBaseline(const TransectResult& then, const TransectResult& now, double allowed)
{
    std::vector<GateRow> out;
    const bool isSameSetup = differencesOf(then.a, now.a).empty() && then.frames == now.frames;
    for (const TransectRow& before : then.rows)
        for (const TransectRow& row : now.rows) {
            if (row.side != 'A' || before.side != 'A' || row.value != before.value || row.second != before.second)
                continue;
            const auto compare = [&](const char* what, const auto& a, const auto& b) {
                if (a.empty() && b.empty())
                    return; // not drawn, then or now
                const Ratio ratio = ratioOfUnpaired(a, b);
                out.push_back({row.value, row.second, what, ratio, verdictFor(ratio, allowed), {}});
            };
            compare("frame_ms", row.frameRounds, before.frameRounds);
            const MeshRounds mesh = comparableRounds(
                row.meshRounds, row.roundsInReferences, before.meshRounds, before.roundsInReferences);
            compare("mesh_ns", mesh.a, mesh.b);
            for (const CountOf& count : kCounts)
                if (isSameSetup && areBothKnown(count, before, row)) {
                    const std::uint64_t a = count.of(row), b = count.of(before);
                    const double ratio = ratioOf(a, b);
                    out.push_back({row.value, row.second, count.what, {ratio, ratio, ratio},
                        a == b ? Verdict::Within : Verdict::Slower, {{b, a}}});
                }
        }
    return out;
}

std::string sentenceOf(const GateRow& row)
{
    const std::string at = "At " + shownPlace(row.value, row.second);
    if (isCount(row.what)) {
        const auto [then, now] = row.counts.value_or(std::array<std::uint64_t, 2>{});
        if (isDigest(row.what))
            return at
                + (then == now ? " the meshes of the first view are the baseline's"
                               : " the meshes of the first view are not those of the baseline");
        return at + " " + row.what + " is " + std::to_string(now)
            + (now == then ? ", as in the baseline" : ", " + std::to_string(then) + " in the baseline");
    }
    const std::string what = row.what == "frame_ms" ? "frame time"
        : row.what == "change_ms"                   ? "time to show a change"
                                                    : "mesh time";
    if (row.verdict == Verdict::Inconclusive && row.ratio.ratio <= 0)
        return at + " " + what + " cannot be compared: both sides need two rounds or more";
    return at + " " + what + " is " + fixed(row.ratio.ratio) + "x the baseline's (" + fixed(row.ratio.low) + " to "
        + fixed(row.ratio.high) + ")";
}

std::string allowedText(double allowed)
{
    return ", allowed is " + fixed(1 + allowed) + "x";
}

std::string toJUnit(const std::string& suite, const std::vector<JUnitCase>& cases)
{
    std::size_t failures = 0, skipped = 0;
    std::string text;
    for (const JUnitCase& one : cases) {
        text += "    <testcase classname=\"" + escapedForMarkup(one.className) + "\" name=\""
            + escapedForMarkup(one.name) + "\">";
        const std::string message = escapedForMarkup(one.message);
        if (one.verdict == Verdict::Slower) {
            ++failures;
            text += "<failure message=\"" + message + "\"/>";
        } else if (one.verdict == Verdict::Inconclusive) {
            ++skipped;
            text += "<skipped message=\"" + message + "\"/>";
        } else {
            text += "<system-out>" + message + "</system-out>";
        }
        text += "</testcase>\n";
    }
    const std::string counts = " tests=\"" + std::to_string(cases.size()) + "\" failures=\"" + std::to_string(failures)
        + "\" skipped=\"" + std::to_string(skipped) + "\"";
    return "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites" + counts + ">\n  <testsuite name=\"fell gate: "
        + escapedForMarkup(suite) + "\"" + counts + ">\n" + text + "  </testsuite>\n</testsuites>\n";
}

std::string toJUnit(const std::vector<GateRow>& rows, const TransectResult& then, double allowed)
{
    std::vector<JUnitCase> cases;
    for (const GateRow& row : rows)
        cases.push_back({then.vary, row.what + " at " + shownPlace(row.value, row.second), row.verdict,
            sentenceOf(row) + (row.verdict == Verdict::Slower && !row.counts ? allowedText(allowed) : "")});
    return toJUnit(then.world, cases);
}

} // namespace fell::measure
