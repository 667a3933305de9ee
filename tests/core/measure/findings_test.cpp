// SPDX-License-Identifier: Apache-2.0
// What is said of a result: nothing that its intervals do not allow.
#include <fell/measure/findings.h>

#include "support/all_names.h"
#include "support/sample_setups.h"
#include <fell/measure/report.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <limits>

namespace fell::findings_test {
namespace {

TransectRatio ratioOf(double low, double ratio, double high, const char* what = "mesh_ns")
{
    TransectRatio out;
    out.value = 4;
    out.what = what;
    out.ratio = {ratio, low, high};
    return out;
}

TransectResult resultOf(int rounds)
{
    TransectResult out;
    out.world = "Corrowdale";
    out.vary = "mesh.mesher";
    out.route = "beck to summit";
    out.rounds = rounds;
    out.frames = 4;
    out.a = test::unlitSetup();
    TransectRow row;
    row.setup = out.a.name;
    row.value = "exposed";
    row.meshNs.count = 3;
    out.rows.push_back(row);
    return out;
}

bool has(const std::vector<std::string>& sentences, const std::string& part)
{
    return std::any_of(sentences.begin(), sentences.end(),
        [&part](const std::string& one) { return one.find(part) != std::string::npos; });
}

TEST(Verdict, ClaimsADifferenceOnlyWhereTheIntervalExcludesOne)
{
    EXPECT_EQ(verdictOf(ratioOf(0.58, 0.61, 0.64)), "A needs 0.61x the mesh time of B (0.58 to 0.64)");
    EXPECT_EQ(verdictOf(ratioOf(0.97, 1.01, 1.04)), "no difference shown in mesh time (0.97 to 1.04)");
    EXPECT_EQ(verdictOf(ratioOf(1, 1, 1)), "no difference shown in mesh time (1.00 to 1.00)");
    EXPECT_EQ(verdictOf(ratioOf(1.2, 1.3, 1.4, "frame_ms")), "A needs 1.30x the frame time of B (1.20 to 1.40)");
    EXPECT_NE(
        verdictOf(ratioOf(0, 1.3, std::numeric_limits<double>::infinity())).find("too few rounds for an interval"),
        std::string::npos);
    EXPECT_NE(verdictOf(ratioOf(0, 0, 0)).find("nothing can be said"), std::string::npos);
}

TEST(Findings, OfAChoiceThatVariesCompareEachValueWithTheFirst)
{
    TransectResult result = resultOf(3);
    TransectRatio slower = ratioOf(1.28, 1.31, 1.35), same = ratioOf(0.95, 1.0, 1.05);
    slower.value = "greedy";
    same.value = "greedy-bits";
    slower.to = same.to = "exposed";
    result.toFirst = {slower, same};
    const auto found = findingsOf(result);
    EXPECT_TRUE(has(found, "With greedy A near needs 1.31x the mesh time of exposed (1.28 to 1.35)"));
    EXPECT_TRUE(has(found, "With greedy-bits A near shows no difference in mesh time from exposed (0.95 to 1.05)"));
    result.toFirst[0].ratio.high = std::numeric_limits<double>::infinity();
    EXPECT_TRUE(has(findingsOf(result), "too few rounds for an interval"));
}

TEST(Findings, TwoRoundsGiveARatioWithoutAnInterval)
{
    EXPECT_EQ(verdictOf(ratioOf(0.58, 0.61, 0.64), 2), "too few rounds for an interval of mesh time, A / B is 0.61");
    TransectResult result = resultOf(2);
    result.ratios = {ratioOf(0.58, 0.61, 0.64)};
    const auto cards = cardsOf(result);
    ASSERT_EQ(cards.size(), 1u);
    EXPECT_EQ(cards[0].number, "0.61x");
    EXPECT_EQ(cards[0].interval, "no interval with 2 rounds: run 5 or more");
    EXPECT_FALSE(cards[0].isDecided);
}

TEST(Findings, ACardIsOneNumberItsIntervalAndASentence)
{
    TransectResult result = resultOf(6);
    result.unit = "chunks";
    result.vary = "stream.distance";
    TransectRatio early = ratioOf(0.1, 0.2, 0.3);
    early.value = 2; // not the last value: the table has it
    result.ratios = {early, ratioOf(0.14, 0.18, 0.24, "frame_ms"), ratioOf(0.9, 1.02, 1.1)};
    result.reach = {{"near", 'A', 16.6, 4.0, false, {}}, {"plain", 'B', 16.6, std::nullopt, false, {}}};
    TransectGrowth grows;
    grows.setup = "near";
    grows.what = "frame_ms";
    grows.growth = {1.98, 1.8, 2.2, 5, 1};
    result.growth = {grows};
    grows.growth.points = 3; // a line through three points says too little
    result.growth.push_back(grows);
    const auto cards = cardsOf(result);
    ASSERT_EQ(cards.size(), 5u);
    EXPECT_EQ(cards[0].number, "0.18x");
    EXPECT_EQ(cards[0].interval, "95 %: 0.14 to 0.24, 6 rounds");
    EXPECT_EQ(cards[0].sentence, "A needs 0.18x the frame time of B at 4 chunks");
    EXPECT_TRUE(cards[0].isDecided);
    EXPECT_EQ(cards[1].number, "1.02x");
    EXPECT_EQ(cards[1].sentence, "No difference shown in mesh time at 4 chunks");
    EXPECT_FALSE(cards[1].isDecided);
    EXPECT_EQ(cards[2].number, "4.00 chunks");
    EXPECT_EQ(cards[2].interval, "within 16.6 ms at p95");
    EXPECT_EQ(cards[3].number, "none");
    EXPECT_FALSE(cards[3].isDecided);
    EXPECT_EQ(cards[4].number, "power 1.98");
    EXPECT_EQ(cards[4].sentence, "Frame time of A near grows with render distance to this power");
}

TEST(Caveats, SayWhatWeakensAResult)
{
    TransectResult result = resultOf(2);
    EXPECT_TRUE(caveatsOf(result).empty());
    result.stopped = true;
    result.rows[0].full = true;
    result.audits = {{"mesh, greedy", 100, 3}};
    result.noise = 0.2;
    result.driver = "software rasteriser x";
    result.rows[0].frameMs.outliers = 2;
    result.rows[0].frameMs.count = 24;
    result.b = result.a;
    const auto said = caveatsOf(result);
    EXPECT_TRUE(has(said, "stopped early"));
    EXPECT_TRUE(has(said, "memory of the setup was full"));
    EXPECT_TRUE(has(said, "differs in 3 of 100 cases"));
    EXPECT_TRUE(has(said, "uneven"));
    EXPECT_TRUE(has(said, "those of the processor"));
    EXPECT_TRUE(has(said, "2 of 24 frames lie far outside"));
    EXPECT_TRUE(has(said, "With 2 rounds little is known"));
}

TEST(Differences, NameEveryChoiceThatTwoSetupsDoNotShare)
{
    const fell::Setup a = test::unlitSetup();
    fell::Setup b = a;
    EXPECT_TRUE(differencesOf(a, b).empty());
    b.name = "other"; // a name is no choice
    EXPECT_TRUE(differencesOf(a, b).empty());
    b.mesh.mesher = "exposed";
    b.cull.steps = {"distance"};
    b.stream.distance = 9;
    const auto found = differencesOf(a, b);
    ASSERT_EQ(found.size(), 3u);
    EXPECT_EQ(found[0].path, "mesh.mesher");
    EXPECT_EQ(found[0].a, a.mesh.mesher);
    EXPECT_EQ(found[0].b, "exposed");
    EXPECT_EQ(found[1].path, "stream.distance");
    EXPECT_EQ(found[1].b, "9");
    EXPECT_EQ(found[2].path, "cull.steps");
}

TEST(Report, ListsTheDifferencesBeforeAnythingThatWasMeasured)
{
    TransectResult result = resultOf(3);
    result.b = result.a;
    result.b->mesh.mesher = "exposed";
    const std::string text = toMarkdown(reportOf(result));
    const std::size_t differences = text.find("How the setups differ"), measured = text.find("## Measured");
    ASSERT_NE(differences, std::string::npos);
    ASSERT_NE(measured, std::string::npos);
    EXPECT_LT(differences, measured);
    EXPECT_NE(text.find("| mesh.mesher | greedy-bits | exposed |"), std::string::npos) << text;
    EXPECT_NE(text.find("ms per km2"), std::string::npos);
    EXPECT_NE(text.find("Student's t"), std::string::npos) << "what an interval is";
}

TEST(ShownPlace, IsAValueAsPeopleWriteItWithTheSecondBehindIt)
{
    EXPECT_EQ(shownValue("greedy"), "greedy");
    EXPECT_EQ(shownValue(32), "32");
    EXPECT_EQ(shownValue({"octree", "facing"}), "[octree,facing]");
    EXPECT_EQ(shownPlace(8, {}), "8");
    EXPECT_EQ(shownPlace(8, 32), "8 x 32");
}

TEST(ShownFigure, HasThreeDigitsAtMostBeforeAHundred)
{
    EXPECT_EQ(shownFigure(0.123), "0.12");
    EXPECT_EQ(shownFigure(9.994), "9.99");
    EXPECT_EQ(shownFigure(9.996), "10.0");
    EXPECT_EQ(shownFigure(99.94), "99.9");
    EXPECT_EQ(shownFigure(123.6), "124");
    EXPECT_EQ(shownFigure(-5.678), "-5.68");
}

} // namespace
} // namespace fell::findings_test
