// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/gate.h>

#include <nlohmann/json.hpp>

#include "support/all_names.h"
#include <fell/measure/results.h>

#include <gtest/gtest.h>

namespace fell::gate_test {
namespace {

TransectResult resultWith(std::vector<double> frames)
{
    TransectResult result;
    result.world = "Corrowdale";
    result.seed = 1847;
    result.vary = "stream.distance";
    result.route = "beck to summit";
    result.driver = "counting";
    result.rounds = 4;
    result.frames = 6;
    result.width = 640;
    result.height = 400;
    result.machine = {"a processor", 2, "a compiler", "x86-64-v3", "abc", "2026-11-26T12:00:00Z"};
    result.a.name = "near";
    result.a.mesh.mesher = "greedy";
    TransectRow row;
    row.setup = "near";
    row.value = 4;
    row.frameRounds = std::move(frames);
    row.meshRounds = {100, 101, 99, 100};
    result.rows.push_back(row);
    return result;
}

std::string textOf(const TransectResult& result)
{
    return toJson(result).dump();
}

TEST(Baseline, IsReadFromTheDocumentOfATransect)
{
    const auto then = parseResultJson(textOf(resultWith({10, 11, 10.5, 10.2})), "b.json");
    ASSERT_TRUE(then) << sentence(then.problem());
    EXPECT_EQ(then.value().world, "Corrowdale");
    EXPECT_EQ(then.value().seed, 1847u);
    EXPECT_EQ(then.value().a.mesh.mesher, "greedy");
    EXPECT_EQ(then.value().width, 640);
    ASSERT_EQ(then.value().rows.size(), 1u);
    EXPECT_EQ(then.value().rows[0].frameRounds, (std::vector<double>{10, 11, 10.5, 10.2}));
    EXPECT_EQ(then.value().rows[0].value, 4);
}

TEST(Baseline, SaysWhatIsWrongWithADocument)
{
    const auto problem = [](const std::string& text) {
        const auto then = parseResultJson(text, "b.json");
        return then ? std::string() : sentence(then.problem());
    };
    EXPECT_NE(problem("").find("is no transect's JSON"), std::string::npos);
    EXPECT_NE(problem("[1]").find("is no transect's JSON"), std::string::npos);
    EXPECT_NE(problem("{\"rows\": []}").find("vary"), std::string::npos);
    auto json = nlohmann::json::parse(textOf(resultWith({10, 11})));
    json["setups"]["A"]["mesh"]["mesher"] = "magic";
    EXPECT_NE(problem(json.dump()).find("magic"), std::string::npos);
    json = nlohmann::json::parse(textOf(resultWith({10, 11})));
    json["rows"] = nlohmann::json::array();
    EXPECT_NE(problem(json.dump()).find("no row"), std::string::npos);
    const std::string whole = textOf(resultWith({10, 11}));
    for (std::size_t length = 0; length < whole.size(); length += 37)
        (void)parseResultJson(whole.substr(0, length), "b.json"); // must not crash
}

TEST(Gate, InTurnTheRatiosOfTheRunItselfDecide)
{
    TransectResult now = resultWith({10, 10.1});
    now.ratios = {{4, "frame_ms", {1.2, 1.1, 1.3}, {}}, {4, "mesh_ns", {1.04, 0.9, 1.2}, {}},
        {8, "frame_ms", ratioOverRounds(std::vector<double>{1.5}), 32}};
    const auto rows = compareInTurn(now, 0.05);
    ASSERT_EQ(rows.size(), 3u);
    EXPECT_EQ(rows[0].verdict, Verdict::Slower);
    EXPECT_EQ(rows[1].verdict, Verdict::Inconclusive) << "its interval holds 1.05";
    EXPECT_EQ(compareInTurn(now, 0.25)[1].verdict, Verdict::Within);
    EXPECT_EQ(rows[2].verdict, Verdict::Inconclusive) << "one round";
    EXPECT_EQ(rows[2].second, 32);
    EXPECT_EQ(compareInTurn(now, 0.15)[0].verdict, Verdict::Inconclusive);
    EXPECT_EQ(compareInTurn(now, 0.35)[0].verdict, Verdict::Within);
}

TEST(Gate, FailsOnlyWhereTheWholeIntervalIsAboveWhatIsAllowed)
{
    const auto then = parseResultJson(textOf(resultWith({10, 10.1, 9.9, 10})), "b.json").take();
    const auto verdictOf = [&then](std::vector<double> frames, double allowed) {
        return compareWithBaseline(then, resultWith(std::move(frames)), allowed).at(0).verdict;
    };
    EXPECT_EQ(verdictOf({10, 10.1, 9.9, 10}, 0.05), Verdict::Within);
    EXPECT_EQ(verdictOf({12, 12.1, 11.9, 12}, 0.05), Verdict::Slower);
    EXPECT_EQ(verdictOf({12, 12.1, 11.9, 12}, 0.30), Verdict::Within);
    EXPECT_EQ(verdictOf({8, 8.1, 7.9, 8}, 0.05), Verdict::Within) << "faster is well";
    EXPECT_EQ(verdictOf({6, 20, 9, 14}, 0.05), Verdict::Inconclusive) << "slower on average, but it cannot tell";
    EXPECT_EQ(verdictOf({12}, 0.05), Verdict::Inconclusive);
    const auto rows = compareWithBaseline(then, resultWith({12, 12.1, 11.9, 12}), 0.05);
    ASSERT_EQ(rows.size(), 2u) << "frames and meshes";
    EXPECT_EQ(sentenceOf(rows[0]).rfind("At 4 frame time is 1.20x the baseline's (1.", 0), 0u) << sentenceOf(rows[0]);
    EXPECT_EQ(rows[1].verdict, Verdict::Within);
}

TEST(Gate, IsToldToBuildServersAsJUnit)
{
    const auto then = parseResultJson(textOf(resultWith({10, 10.1, 9.9, 10})), "b.json").take();
    const std::string xml = toJUnit(compareWithBaseline(then, resultWith({12, 12.1, 11.9, 12}), 0.05), then, 0.05);
    EXPECT_EQ(xml.rfind("<?xml version=\"1.0\" encoding=\"UTF-8\"?>", 0), 0u);
    EXPECT_NE(xml.find("tests=\"2\" failures=\"1\" skipped=\"0\""), std::string::npos) << xml;
    EXPECT_NE(xml.find("<testcase classname=\"stream.distance\" name=\"frame_ms at 4\"><failure message="),
        std::string::npos);
    EXPECT_NE(xml.find("allowed is 1.05x"), std::string::npos);
    EXPECT_NE(xml.find("name=\"mesh_ns at 4\"><system-out>"), std::string::npos);
}

TEST(Gate, CountsAreComparedExactlyWhereTheSetupIsTheSame)
{
    TransectResult before = resultWith({10, 10.1, 9.9, 10});
    TransectRow& row = before.rows[0];
    row.triangles = 120000;
    row.drawCalls = 40;
    row.firstView = {60000, 1920000, 0xFEDCBA9876543210};
    row.churn.changes = 8;
    row.churn.relitVoxels = 812;
    const auto then = parseResultJson(textOf(before), "b.json").take();
    EXPECT_EQ(then.rows[0].firstView, row.firstView) << "the digest has all its 64 bits";
    const auto verdictOf = [&then](const TransectResult& now, const std::string& what) {
        for (const GateRow& one : compareWithBaseline(then, now, 0.05))
            if (one.what == what)
                return std::optional(one.verdict);
        return std::optional<Verdict>();
    };
    EXPECT_EQ(verdictOf(before, "triangles"), Verdict::Within);
    EXPECT_EQ(verdictOf(before, "mesh_digest"), Verdict::Within);
    EXPECT_EQ(verdictOf(before, "resident_chunks"), std::nullopt) << "the document does not know them";
    TransectResult now = before;
    now.rows[0].triangles = 119999; // fewer is another picture too
    now.rows[0].firstView.digest ^= 1;
    now.rows[0].churn.relitVoxels = 813;
    EXPECT_EQ(verdictOf(now, "triangles"), Verdict::Slower);
    EXPECT_EQ(verdictOf(now, "mesh_digest"), Verdict::Slower);
    EXPECT_EQ(verdictOf(now, "churn.relit_voxels"), Verdict::Slower);
    EXPECT_EQ(verdictOf(now, "draw_calls"), Verdict::Within);
    for (const GateRow& one : compareWithBaseline(then, now, 0.05))
        if (one.what == "triangles") {
            EXPECT_EQ(sentenceOf(one), "At 4 triangles is 119999, 120000 in the baseline");
        }
    now.a.mesh.mesher = "exposed"; // other counts are what another setup is for
    EXPECT_EQ(verdictOf(now, "triangles"), std::nullopt);
    now = before;
    now.rows[0].full = true;
    EXPECT_EQ(verdictOf(now, "triangles"), std::nullopt) << "memory decided which chunks were there";
}

TEST(Gate, AnotherSetupMayNeedMoreByWhatIsAllowed)
{
    TransectResult now = resultWith({10, 10.1});
    now.b = now.a;
    TransectRow b = now.rows[0];
    b.side = 'B';
    b.triangles = 1000;
    now.rows[0].triangles = 1060;
    now.rows.push_back(b);
    const auto rows = compareInTurn(now, 0.05);
    ASSERT_EQ(rows.size(), 1u);
    EXPECT_EQ(rows[0].what, "triangles");
    EXPECT_EQ(rows[0].verdict, Verdict::Slower);
    EXPECT_EQ(compareInTurn(now, 0.06)[0].verdict, Verdict::Within);
}

} // namespace
} // namespace fell::gate_test
