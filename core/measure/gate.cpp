// SPDX-License-Identifier: Apache-2.0
#include "measure/gate.h"

#include "input/json_reader.h"
#include "measure/findings.h"
#include "measure/markup.h"

#include <charconv>

namespace fell {
namespace {

constexpr NumberRange kPositive{0, 1e18};

std::string fixed(double value)
{
    char text[64];
    const auto end = std::to_chars(text, text + sizeof text, value, std::chars_format::fixed, 2);
    return {text, end.ptr};
}

/// The medians of the rounds, all above 0; none where the key is missing, as in documents before there were any.
std::vector<double> roundsOf(const nlohmann::json& row, const char* what)
{
    std::vector<double> out;
    if (row.contains(what) && row[what].contains("rounds"))
        for (const auto& one : row[what]["rounds"])
            if (one.is_number() && one.get<double>() > 0)
                out.push_back(one.get<double>());
    return out;
}

} // namespace

Outcome<Baseline> parseBaseline(std::string_view json, const std::string& where)
{
    const auto root = nlohmann::json::parse(json, nullptr, false);
    if (root.is_discarded() || !root.is_object() || !root.contains("rows") || !root["rows"].is_array())
        return Problem{where, "", "is no transect's JSON; fell-cli transect --json, or --out, writes one"};
    std::optional<Problem> problem;
    JsonReader reader(root, problem, where);
    Baseline out;
    out.world = reader.text("world");
    out.seed = reader.seed("seed");
    out.vary = reader.text("vary");
    out.route = reader.text("route");
    out.driver = reader.text("driver");
    out.rounds = static_cast<int>(reader.integer("rounds", 1, 50));
    out.frames = static_cast<int>(reader.integer("frames", 1, 10000));
    const auto size = reader.pair("size", kPositive);
    out.width = static_cast<int>(size[0]);
    out.height = static_cast<int>(size[1]);
    JsonReader machine = reader.object("machine");
    if (!problem) {
        out.processor = machine.text("processor");
        out.commit = machine.text("commit");
    }
    JsonReader setups = reader.object("setups");
    if (!problem)
        (void)setups.object("A");
    if (problem)
        return *problem;
    auto setup = parseSetup(root["setups"]["A"].dump(), where + ", setups/A");
    if (!setup)
        return setup.problem();
    out.setup = setup.take();
    for (const auto& row : root["rows"]) {
        if (!row.is_object() || !row.contains("side") || !row.contains("value"))
            return Problem{where, "/rows", "holds a row without side or value"};
        if (row["side"] == "A")
            out.rows.push_back({row["value"], roundsOf(row, "mesh_ns"), roundsOf(row, "frame_ms")});
    }
    if (out.rows.empty())
        return Problem{where, "/rows", "holds no row of setup A"};
    return out;
}

std::vector<GateRow> compareWithBaseline(const Baseline& then, const TransectResult& now, double allowed)
{
    std::vector<GateRow> out;
    for (const Baseline::Row& before : then.rows)
        for (const TransectRow& row : now.rows) {
            if (row.side != 'A' || row.value != before.value)
                continue;
            const auto compare = [&](const char* what, const auto& a, const auto& b) {
                if (a.empty() && b.empty())
                    return; // not drawn, then or now
                GateRow one{row.value, what, ratioOfUnpaired(a, b), GateRow::Verdict::Unknown};
                if (one.ratio.ratio > 0)
                    one.verdict = one.ratio.low > 1 + allowed ? GateRow::Verdict::Slower : GateRow::Verdict::Holds;
                out.push_back(std::move(one));
            };
            compare("frame_ms", row.frameRounds, before.frameRounds);
            compare("mesh_ns", row.meshRounds, before.meshRounds);
        }
    return out;
}

std::string sentenceOf(const GateRow& row)
{
    const std::string what = row.what == "frame_ms" ? "frame time" : "mesh time", at = "At " + shownValue(row.value);
    if (row.verdict == GateRow::Verdict::Unknown)
        return at + " " + what + " cannot be compared: two rounds or more are wanted on both sides";
    return at + " " + what + " is " + fixed(row.ratio.ratio) + "x the baseline's (" + fixed(row.ratio.low) + " to "
        + fixed(row.ratio.high) + ")";
}

std::string toJUnit(const std::vector<GateRow>& rows, const Baseline& then, double allowed)
{
    std::size_t failures = 0, skipped = 0;
    std::string cases;
    for (const GateRow& row : rows) {
        cases += "    <testcase classname=\"" + escapedForMarkup(then.vary) + "\" name=\"" + row.what + " at "
            + escapedForMarkup(shownValue(row.value)) + "\">";
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
