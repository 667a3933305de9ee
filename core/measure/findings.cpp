// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/findings.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>

namespace fell::measure {
namespace {

std::string percent(double share)
{
    return shownFigure(share * 100) + " %";
}

std::string nameOf(char side, const std::string& setup)
{
    return std::string(1, side) + " " + setup;
}

const char* wordsFor(const std::string& what)
{
    return what == "frame_ms" ? "frame time"
        : what == "mesh_ns"   ? "mesh time"
        : what == "change_ms" ? "time of a frame's changes"
        : what == "triangles" ? "triangles"
                              : "mesh bytes";
}

/// A field's name for people; its path where there is none of that name.
std::string titleOf(const std::string& path)
{
    const SetupField* field = findField(path);
    return field ? field->title : path;
}

std::string withUnit(const TransectResult& result)
{
    return result.secondUnit.empty() ? "" : " " + result.secondUnit;
}

/// "A near", and the second value that it names.
std::string nameOf(char side, const std::string& setup, const nlohmann::json& second, const TransectResult& result)
{
    return nameOf(side, setup)
        + (second.is_null() ? "" : " with " + titleOf(result.second) + " " + shownValue(second) + withUnit(result));
}

std::string reachSentence(const TransectReach& reach, const TransectResult& result)
{
    const std::string within = " within " + shownFigure(reach.budgetMs) + " ms at p95",
                      who = nameOf(reach.side, reach.setup, reach.second, result);
    if (!reach.value)
        return who + " reaches none of the values" + within;
    return who + " reaches " + (reach.beyond ? "beyond " : "") + shownFigure(*reach.value) + " " + result.unit + within;
}

std::string growthSentence(
    const TransectResult& result, char side, const std::string& setup, const nlohmann::json& second)
{
    std::string text;
    for (const char* what : {"frame_ms", "mesh_ns", "triangles", "gpu_bytes"})
        for (const TransectGrowth& one : result.growth)
            if (one.side == side && one.what == what && one.second == second)
                text += (text.empty() ? "" : ", ") + std::string(wordsFor(one.what)) + " "
                    + shownFigure(one.growth.exponent) + " (" + shownFigure(one.growth.low) + " to "
                    + shownFigure(one.growth.high) + ")";
    return text.empty()
        ? text
        : nameOf(side, setup, second, result) + " grows with " + titleOf(result.vary) + " to the power of: " + text;
}

bool hasInterval(const Ratio& ratio, int rounds)
{
    return std::isfinite(ratio.high) && rounds >= kRoundsForInterval;
}

/// "With greedy A near needs 1.31x the mesh time of exposed (1.28 to 1.35)".
std::string toFirstSentence(const TransectRatio& ratio, const TransectResult& result)
{
    const Ratio& r = ratio.ratio;
    if (r.ratio <= 0)
        return {};
    const std::string who = "With " + shownPlace(ratio.value, ratio.second) + " "
        + nameOf(ratio.side, ratio.side == 'A' || !result.b ? result.a.name : result.b->name),
                      what = wordsFor(ratio.what), first = shownPlace(ratio.to, ratio.second);
    if (!hasInterval(r, result.rounds))
        return who + " needs " + shownFigure(r.ratio) + "x the " + what + " of " + first
            + "; too few rounds for an interval";
    const std::string interval = " (" + shownFigure(r.low) + " to " + shownFigure(r.high) + ")";
    if (r.low <= 1 && r.high >= 1)
        return who + " shows no difference in " + what + " from " + first + interval;
    return who + " needs " + shownFigure(r.ratio) + "x the " + what + " of " + first + interval;
}

bool isOfLastValue(const TransectRow& row, const TransectResult& result)
{
    return row.value == result.rows.back().value && row.second == result.rows.back().second;
}

std::string loadSentence(const TransectRow& row, const TransectResult& result)
{
    return "At " + shownPlace(row.value, row.second) + " " + nameOf(row.side, row.setup) + " pays for "
        + churnSentence(result.churn, row.churn) + ", " + shownFigure(row.churn.readyMs.p50)
        + " ms until a frame's are there (p95 " + shownFigure(row.churn.readyMs.p95) + ")";
}

} // namespace

std::string shownFigure(double value)
{
    const double size = std::abs(value);
    char text[64];
    const auto end = std::to_chars(text, text + sizeof text, value, std::chars_format::fixed,
        size < 9.995       ? 2
            : size < 99.95 ? 1
                           : 0);
    return {text, end.ptr};
}

std::string shownValue(const nlohmann::json& value)
{
    if (value.is_string())
        return value.get<std::string>();
    std::string text = value.dump();
    std::erase(text, '"');
    return text;
}

std::string shownPlace(const nlohmann::json& value, const nlohmann::json& second)
{
    return second.is_null() ? shownValue(value) : shownValue(value) + " x " + shownValue(second);
}

std::string verdictOf(const TransectRatio& ratio, int rounds)
{
    const std::string what = wordsFor(ratio.what);
    const Ratio& r = ratio.ratio;
    if (r.ratio <= 0)
        return "nothing can be said of " + what;
    if (!hasInterval(r, rounds))
        return "too few rounds for an interval of " + what + ", A / B is " + shownFigure(r.ratio);
    const std::string interval = " (" + shownFigure(r.low) + " to " + shownFigure(r.high) + ")";
    if (r.low <= 1 && r.high >= 1)
        return "no difference shown in " + what + interval;
    return "A needs " + shownFigure(r.ratio) + "x the " + what + " of B" + interval;
}

std::vector<std::string> findingsOf(const TransectResult& result, Verdicts verdicts)
{
    std::vector<std::string> out;
    for (const TransectReach& reach : result.reach)
        out.push_back(reachSentence(reach, result));
    for (const TransectRatio& ratio : result.ratios)
        if (verdicts == Verdicts::All
            || (ratio.value == result.ratios.back().value && ratio.second == result.ratios.back().second))
            out.push_back("At " + shownPlace(ratio.value, ratio.second) + " " + verdictOf(ratio, result.rounds));
    for (const TransectRatio& ratio : result.toFirst)
        if (auto text = toFirstSentence(ratio, result); !text.empty())
            out.push_back(std::move(text));
    const auto grows = [&](char side, const std::string& setup) {
        for (const auto& second : secondValuesOf(result))
            if (auto text = growthSentence(result, side, setup, second); !text.empty())
                out.push_back(std::move(text));
    };
    grows('A', result.a.name);
    if (result.b)
        grows('B', result.b->name);
    for (const TransectRow& row : result.rows)
        if (row.churn.changes > 0 && (verdicts == Verdicts::All || isOfLastValue(row, result)))
            out.push_back(loadSentence(row, result));
    return out;
}

std::vector<Finding> cardsOf(const TransectResult& result)
{
    std::vector<Finding> out;
    const auto certainty = [&result](const Ratio& ratio) {
        return hasInterval(ratio, result.rounds)
            ? "95 %: " + shownFigure(ratio.low) + " to " + shownFigure(ratio.high) + ", "
                + std::to_string(result.rounds) + " rounds"
            : "no interval with " + counted(static_cast<std::uint64_t>(result.rounds), "round") + ": run 5 or more";
    };
    const auto addRatio = [&](const Ratio& ratio, const std::string& differs, const std::string& same) {
        const bool isDecided = hasInterval(ratio, result.rounds) && (ratio.low > 1 || ratio.high < 1);
        out.push_back({shownFigure(ratio.ratio) + "x", certainty(ratio),
            isDecided || !hasInterval(ratio, result.rounds) ? differs : same, isDecided});
    };
    for (const TransectRatio& one : result.ratios) {
        if (one.ratio.ratio <= 0 || one.value != result.ratios.back().value
            || one.second != result.ratios.back().second)
            continue;
        const std::string what = wordsFor(one.what),
                          at = " at " + shownPlace(one.value, one.second)
            + (result.unit.empty() || !one.second.is_null() ? "" : " " + result.unit);
        addRatio(one.ratio, "A needs " + shownFigure(one.ratio.ratio) + "x the " + what + " of B" + at,
            "No difference shown in " + what + at);
    }
    for (const TransectRatio& one : result.toFirst) {
        const std::string who = nameOf(one.side, one.side == 'A' || !result.b ? result.a.name : result.b->name),
                          what = wordsFor(one.what), with = "With " + shownPlace(one.value, one.second) + " " + who,
                          first = shownPlace(one.to, one.second);
        if (one.ratio.ratio > 0)
            addRatio(one.ratio, with + " needs " + shownFigure(one.ratio.ratio) + "x the " + what + " of " + first,
                with + " shows no difference in " + what + " from " + first);
    }
    for (const TransectReach& reach : result.reach)
        out.push_back(
            {reach.value ? (reach.beyond ? "> " : "") + shownFigure(*reach.value) + " " + result.unit : "none",
                "within " + shownFigure(reach.budgetMs) + " ms at p95", reachSentence(reach, result),
                reach.value.has_value()});
    for (const TransectRow& row : result.rows)
        if (row.churn.changes > 0 && isOfLastValue(row, result))
            out.push_back({shownFigure(row.churn.readyMs.p50) + " ms",
                "until a frame's changes are there; p95 " + shownFigure(row.churn.readyMs.p95) + " ms",
                loadSentence(row, result), true});
    constexpr int kValuesForGrowth = 4;
    for (const TransectGrowth& one : result.growth)
        if (one.growth.points >= kValuesForGrowth && (one.what == "frame_ms" || one.what == "mesh_ns"))
            out.push_back({"power " + shownFigure(one.growth.exponent),
                "95 %: " + shownFigure(one.growth.low) + " to " + shownFigure(one.growth.high) + ", "
                    + std::to_string(one.growth.points) + " values",
                std::string(one.what == "frame_ms" ? "Frame time" : "Mesh time") + " of "
                    + nameOf(one.side, one.setup, one.second, result) + " grows with " + titleOf(result.vary)
                    + " to this power",
                one.growth.low > 0 || one.growth.high < 0});
    return out;
}

std::vector<std::string> caveatsOf(const TransectResult& result)
{
    constexpr double kQuiet = 0.05;
    std::vector<std::string> out = result.remarks;
    if (result.stopped)
        out.emplace_back("It was stopped early: what is there is from the rounds that were done.");
    if (std::any_of(result.rows.begin(), result.rows.end(), [](const TransectRow& row) { return row.full; }))
        out.emplace_back("The memory of the setup was full in some rows: not all chunks were there.");
    for (const TransectRow& row : result.rows)
        if (row.failedChunks > 0) {
            out.push_back("In the row " + std::string(1, row.side) + " " + row.setup + " at "
                + shownPlace(row.value, row.second) + " " + counted(row.failedChunks, "chunk")
                + " could not be built and are missing in every figure: " + row.firstError + ".");
            break;
        }
    for (const AuditNote& audit : result.audits)
        if (audit.differences > 0)
            out.push_back("An audit failed: " + audit.what + " differs in " + std::to_string(audit.differences) + " of "
                + std::to_string(audit.cases) + " cases. What is wrong wins nothing, however fast it is.");
    if (result.noise > kQuiet)
        out.push_back("The machine was uneven: the same work took " + percent(result.noise)
            + " longer or shorter before the first round. Small differences mean nothing here.");
    if (result.b && result.rounds < 3)
        out.push_back("With " + std::to_string(result.rounds) + (result.rounds == 1 ? " round" : " rounds")
            + " little is known of what changes between rounds; five or more give narrow intervals.");
    if (result.driver.find("software") != std::string::npos)
        out.push_back("Frames were drawn by a " + result.driver + ": frame times are those of the processor.");
    std::uint64_t outliers = 0, frames = 0;
    for (const TransectRow& row : result.rows) {
        outliers += row.frameMs.outliers;
        frames += row.frameMs.count;
    }
    if (outliers > 0)
        out.push_back(std::to_string(outliers) + " of " + std::to_string(frames)
            + " frames lie far outside of the others; they are kept in every figure.");
    return out;
}

std::vector<SetupDifference> differencesOf(const Setup& a, const Setup& b)
{
    std::vector<SetupDifference> out;
    for (const SetupField& field : setupFields())
        if (const auto of = field.read(a), other = field.read(b); of != other)
            out.push_back({field.path, shownValue(of), shownValue(other)});
    return out;
}

} // namespace fell::measure
