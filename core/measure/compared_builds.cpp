// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/compared_builds.h>

#include <fell/input/json_reader.h>
#include <fell/measure/findings.h>

#include <nlohmann/json.hpp>

#include <algorithm>
#include <charconv>

namespace fell::measure {
namespace {

constexpr std::size_t kMaxRows = 10000;
constexpr std::size_t kLongestText = 2000; // bytes
constexpr NumberRange kRatios{0, 1e12};

std::optional<std::uint64_t> wholeOf(const std::string& text)
{
    std::uint64_t out = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
    return error == std::errc{} && end == text.data() + text.size() ? std::optional(out) : std::nullopt;
}

ComparedBuilds::Count countOf(std::string path, std::string then, std::string now, double allowed)
{
    const auto before = wholeOf(then), after = wholeOf(now);
    const bool isMore = before && after && static_cast<double>(*after) > static_cast<double>(*before) * (1 + allowed);
    const bool isWorse = isMore || !before || !after || path.find("digest") != std::string::npos;
    return {std::move(path), std::move(then), std::move(now), isWorse ? Verdict::Slower : Verdict::Within};
}

/// The document has old / new.
ComparedBuilds::Cost costOf(JsonReader& json, const char* name, double allowed)
{
    ComparedBuilds::Cost out{json.text(name, kLongestText), {}, {}};
    const Ratio old{json.number("ratio", kRatios), json.number("low", kRatios), json.number("high", kRatios)};
    if (old.low > 0 && old.ratio >= old.low && old.high >= old.ratio)
        out.ratio = {1 / old.ratio, 1 / old.high, 1 / old.low};
    out.verdict = verdictFor(out.ratio, allowed);
    return out;
}

void readDuel(JsonReader& root, double allowed, ComparedBuilds& out)
{
    root.each("costs", kMaxRows, [&](JsonReader one) { out.costs.push_back(costOf(one, "path", allowed)); });
    root.each("counts", kMaxRows, [&](JsonReader one) {
        const std::string path = one.text("path", kLongestText);
        out.counts.push_back(countOf(path, one.text("a", kLongestText), one.text("b", kLongestText), allowed));
    });
}

void readMeshing(JsonReader& root, double allowed, ComparedBuilds& out)
{
    root.each("ratios", kMaxRows, [&](JsonReader one) { out.costs.push_back(costOf(one, "what", allowed)); });
    constexpr std::array kMeshCounts{"quads", "triangles", "vertex_bytes"};
    std::vector<std::array<std::string, kMeshCounts.size() + 1>> rows;
    root.each("rows", 2, [&](JsonReader one) {
        auto& row = rows.emplace_back();
        for (std::size_t i = 0; i < kMeshCounts.size(); ++i)
            row[i] = std::to_string(one.integer(kMeshCounts[i], 0, INT64_MAX));
        row.back() = one.text("digest");
    });
    if (rows.size() != 2)
        return root.fail("rows", "has " + std::to_string(rows.size()) + " entries, 2 are expected");
    for (std::size_t i = 0; i < kMeshCounts.size(); ++i)
        if (rows[0][i] != rows[1][i])
            out.counts.push_back(countOf(kMeshCounts[i], rows[0][i], rows[1][i], allowed));
    if (!root.flag("same_surface"))
        out.counts.push_back(countOf("digest", rows[0].back(), rows[1].back(), allowed));
}

} // namespace

Verdict ComparedBuilds::verdict() const
{
    const auto has = [this](Verdict verdict) {
        const auto is = [verdict](const auto& one) { return one.verdict == verdict; };
        return std::any_of(costs.begin(), costs.end(), is) || std::any_of(counts.begin(), counts.end(), is);
    };
    return has(Verdict::Slower)      ? Verdict::Slower
        : has(Verdict::Inconclusive) ? Verdict::Inconclusive
                                     : Verdict::Within;
}

Outcome<ComparedBuilds> parseComparedBuilds(std::string_view text, const std::string& where, double allowed)
{
    const auto parsed = parseJson(text, where);
    if (!parsed)
        return parsed.problem();
    std::optional<Problem> problem;
    JsonReader root(parsed.value(), problem, where);
    ComparedBuilds out;
    const std::array<std::string, 2> formats{"fell-mesh-comparison", "fell-duel"};
    out.format = root.choice("format", formats);
    root.integer("version", 1, 1);
    out.rounds = static_cast<int>(root.integer("rounds", 1, 1000000));
    if (out.format == formats[0])
        readMeshing(root, allowed, out);
    else
        readDuel(root, allowed, out);
    if (!problem && out.costs.empty())
        root.fail("", "has no cost to judge; a comparison of two builds has one or more");
    if (problem)
        return *problem;
    return out;
}

std::string sentenceOf(const ComparedBuilds::Cost& cost)
{
    if (cost.ratio.ratio <= 0)
        return cost.path + " cannot be compared: its ratio has no interval";
    return cost.path + " of the new build is " + shownFigure(cost.ratio.ratio) + "x the old one's ("
        + shownFigure(cost.ratio.low) + " to " + shownFigure(cost.ratio.high) + ")";
}

std::string sentenceOf(const ComparedBuilds::Count& count)
{
    return count.path + ": " + count.then + " in the old build, " + count.now + " in the new one";
}

std::string toJUnit(const ComparedBuilds& builds, double allowed)
{
    std::vector<JUnitCase> cases;
    for (const auto& cost : builds.costs)
        cases.push_back({builds.format, cost.path, cost.verdict,
            sentenceOf(cost) + (cost.verdict == Verdict::Slower ? allowedText(allowed) : "")});
    for (const auto& count : builds.counts)
        cases.push_back({builds.format, count.path, count.verdict, sentenceOf(count)});
    return toJUnit("two builds", cases);
}

} // namespace fell::measure
