// SPDX-License-Identifier: Apache-2.0
// Documents of two builds, written by hand, so that every verdict is known.
#include <fell/measure/compared_builds.h>

#include "support/all_names.h"

#include <gtest/gtest.h>

namespace fell::compared_builds_test {
namespace {

ComparedBuilds read(const std::string& text, double allowed = 0.02)
{
    auto builds = parseComparedBuilds(text, "d.json", allowed);
    EXPECT_TRUE(builds) << sentence(builds.problem());
    return builds ? builds.take() : ComparedBuilds{};
}

std::string duel(const std::string& costs, const std::string& counts = "")
{
    return R"({"format": "fell-duel", "version": 1, "made_by": "fell", "a": "x", "b": "y", "rounds": 3, "same": true,
        "costs": [)"
        + costs + R"(], "counts": [)" + counts + "]}";
}

/// The document has old / new: 0.5 (0.4 to 0.8) is a new build that needs 2.0 (1.25 to 2.5) times the old one's.
TEST(ComparedBuilds, RatiosAreInverted)
{
    const auto builds = read(duel(R"({"path": "mesh_ns", "ratio": 0.5, "low": 0.4, "high": 0.8})"));
    ASSERT_EQ(builds.costs.size(), 1u);
    EXPECT_DOUBLE_EQ(builds.costs[0].ratio.ratio, 2);
    EXPECT_DOUBLE_EQ(builds.costs[0].ratio.low, 1.25);
    EXPECT_DOUBLE_EQ(builds.costs[0].ratio.high, 2.5);
    EXPECT_EQ(builds.verdict(), Verdict::Slower);
    EXPECT_EQ(sentenceOf(builds.costs[0]), "mesh_ns of the new build is 2.00x the old one's (1.25 to 2.50)");
}

TEST(ComparedBuilds, TheVerdictIsThatOfTheWorst)
{
    const std::string within = R"({"path": "a_ns", "ratio": 1.1, "low": 1.0, "high": 1.2})",
                      unknown = R"({"path": "b_ns", "ratio": 1.0, "low": 0.9, "high": 1.1})",
                      none = R"({"path": "c_ns", "ratio": 0, "low": 0, "high": 0})",
                      slower = R"({"path": "d_ns", "ratio": 0.9, "low": 0.8, "high": 0.95})";
    EXPECT_EQ(read(duel(within)).verdict(), Verdict::Within);
    EXPECT_EQ(read(duel(within + "," + unknown)).verdict(), Verdict::Inconclusive);
    EXPECT_EQ(read(duel(within + "," + none)).verdict(), Verdict::Inconclusive);
    EXPECT_EQ(read(duel(unknown + "," + slower)).verdict(), Verdict::Slower);
    EXPECT_EQ(read(duel(unknown + "," + slower), 0.3).verdict(), Verdict::Within)
        << "1.11 and 1.25 at most are allowed";
}

TEST(ComparedBuilds, CountsMayFallAndDigestsMustNotDiffer)
{
    const std::string cost = R"({"path": "a_ns", "ratio": 1, "low": 1, "high": 1})";
    const auto count = [](const char* path, const char* a, const char* b) {
        return std::string(R"({"path": ")") + path + R"(", "a": ")" + a + R"(", "b": ")" + b + R"("})";
    };
    EXPECT_EQ(read(duel(cost, count("quads", "100", "99"))).verdict(), Verdict::Within);
    EXPECT_EQ(read(duel(cost, count("quads", "100", "102"))).verdict(), Verdict::Within);
    EXPECT_EQ(read(duel(cost, count("quads", "100", "103"))).verdict(), Verdict::Slower);
    EXPECT_EQ(read(duel(cost, count("quads", "0", "1"))).verdict(), Verdict::Slower);
    EXPECT_EQ(read(duel(cost, count("rows[0].digest", "12", "11"))).verdict(), Verdict::Slower)
        << "digits, but no count";
    EXPECT_EQ(read(duel(cost, count("name", "x", "y"))).verdict(), Verdict::Slower);
    const auto builds = read(duel(cost, count("quads", "7", "9")));
    EXPECT_EQ(sentenceOf(builds.counts[0]), "quads: 7 in the old build, 9 in the new one");
}

TEST(ComparedBuilds, AComparisonOfMeshersHasTwoRows)
{
    const auto document = [](const std::string& rows, const char* same) {
        return R"({"format": "fell-mesh-comparison", "version": 1, "rounds": 5, "differences": [],
            "ratios": [{"what": "mesh_ns_per_voxel", "ratio": 1, "low": 1, "high": 1}], "same_surface": )"
            + std::string(same) + R"(, "rows": [)" + rows + "]}";
    };
    const std::string a = R"({"quads": 7, "triangles": 14, "vertex_bytes": 224, "digest": "aa"})",
                      b = R"({"quads": 6, "triangles": 12, "vertex_bytes": 300, "digest": "bb"})";
    EXPECT_TRUE(read(document(a + "," + a, "true")).counts.empty());
    const auto builds = read(document(a + "," + b, "false"));
    ASSERT_EQ(builds.counts.size(), 4u);
    const std::array<Verdict, 4> verdicts{Verdict::Within, Verdict::Within, Verdict::Slower, Verdict::Slower};
    for (std::size_t i = 0; i < 4; ++i)
        EXPECT_EQ(builds.counts[i].verdict, verdicts[i]) << builds.counts[i].path;
    EXPECT_EQ(builds.counts[3].path, "digest");
    const auto one = parseComparedBuilds(document(a, "true"), "d.json", 0.02);
    ASSERT_FALSE(one);
    EXPECT_EQ(sentence(one.problem()), "d.json, at /rows: has 1 entries, 2 are expected");
}

TEST(ComparedBuilds, WhatIsNoComparisonIsOneSentenceWithItsPlace)
{
    const std::pair<std::string, const char*> kCases[]{{"", "d.json"}, {"[]", "an object is expected"},
        {R"({"format": "fell-transect"})", "fell-mesh-comparison or fell-duel"},
        {R"({"format": "fell-duel", "version": 2})", "/version"},
        {R"({"format": "fell-duel", "version": 1, "rounds": 3, "costs": []})", "has no cost to judge"},
        {duel(R"({"path": "a_ns", "ratio": null, "low": 1, "high": 1})"), "/costs/0/ratio"},
        {duel(R"({"path": 3, "ratio": 1, "low": 1, "high": 1})"), "/costs/0/path"},
        {duel(R"({"path": "a_ns", "ratio": 1, "low": -1, "high": 1})"), "/costs/0/low"}};
    for (const auto& [text, part] : kCases) {
        const auto builds = parseComparedBuilds(text, "d.json", 0.02);
        ASSERT_FALSE(builds) << text;
        EXPECT_NE(sentence(builds.problem()).find(part), std::string::npos) << sentence(builds.problem());
    }
}

TEST(ComparedBuilds, JUnitHasACaseEach)
{
    const auto builds = read(duel(R"({"path": "a<b_ns", "ratio": 0.5, "low": 0.5, "high": 0.5},
        {"path": "c_ns", "ratio": 1, "low": 0.9, "high": 1.1})",
        R"({"path": "quads", "a": "9", "b": "8"})"));
    const std::string xml = toJUnit(builds, 0.02);
    EXPECT_NE(xml.find(R"(tests="3" failures="1" skipped="1")"), std::string::npos) << xml;
    EXPECT_NE(xml.find(R"(name="a&lt;b_ns"><failure message="a&lt;b_ns of the new build is 2.00x)"), std::string::npos);
    EXPECT_NE(xml.find("allowed is 1.02x"), std::string::npos);
}

} // namespace
} // namespace fell::compared_builds_test
