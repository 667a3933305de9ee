// SPDX-License-Identifier: Apache-2.0
#include "core/measure/transect_fixture.h"
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/measure/findings.h>
#include <fell/measure/report.h>
#include <fell/measure/results.h>

#include <gtest/gtest.h>

namespace fell::transect_test {
namespace {

using namespace test;

TEST(Transect, MeasuresEachValueInEachRound)
{
    FakeGraphics graphics;
    const DrawHooks hooks = graphics.hooks();
    const TransectSpec spec = smallSpec();
    ASSERT_FALSE(checkTransect(spec));
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    ASSERT_EQ(result.rows.size(), 2u);
    EXPECT_FALSE(result.stopped);
    EXPECT_EQ(graphics.begun, 4); // two values, two rounds
    // Six frames of warm-up, since the first six are steady; three that count; and once for each value all steps,
    // without each of four, and none, in three rounds and one that warms up.
    EXPECT_EQ(graphics.frames, 4 * (6 + 3) + 2 * 6 * 4);
    EXPECT_EQ(graphics.chosen, 2 * (6 * 4 + 1)) << "then the setup's own again";
    EXPECT_EQ(result.rows[0].steps.size(), 6u);
    for (const TransectRow& row : result.rows) {
        EXPECT_EQ(row.frameMs.count, 6u);
        EXPECT_EQ(row.frameMs.p50, 10 * row.value.get<double>());
        EXPECT_GT(row.meshNs.count, 0u);
        EXPECT_GT(row.meshNs.p50, 0);
        EXPECT_LE(row.meshNs.p50, row.meshNs.p95);
        ASSERT_EQ(row.roundsInReferences.size(), row.meshRounds.size());
        EXPECT_EQ(row.meshRounds.size(), 2u);
        EXPECT_DOUBLE_EQ(row.meshInReferences, (row.roundsInReferences[0] + row.roundsInReferences[1]) / 2);
        EXPECT_GT(row.meshInReferences, 0.05) << "a mesh is no hundredth of the reference";
        EXPECT_LT(row.meshInReferences, 100);
        EXPECT_GT(row.readySeconds, 0);
        EXPECT_EQ(row.warmUp, 6);
        EXPECT_EQ(row.triangles, 2 * row.chunks);
    }
    EXPECT_GT(result.rows[1].residentChunks, result.rows[0].residentChunks);
}

TEST(Transect, TheReachLiesBetweenTheValuesThatTheBudgetParts)
{
    FakeGraphics graphics;
    const DrawHooks hooks = graphics.hooks();
    TransectSpec spec = smallSpec();
    spec.a.draw.budget = 16.5; // frames take 10 ms a chunk of distance: 1.65 chunks
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    ASSERT_EQ(result.reach.size(), 1u);
    EXPECT_NEAR(result.reach[0].value.value_or(0), 1.65, 1e-9);
    EXPECT_FALSE(result.reach[0].beyond);
    spec.a.draw.budget = 50;
    EXPECT_TRUE(runTransect(spec, &hooks, {}, {}).reach[0].beyond);
    spec.a.draw.budget = 5;
    EXPECT_FALSE(runTransect(spec, &hooks, {}, {}).reach[0].value);
}

TEST(Transect, TwoSetupsGiveARatio)
{
    FakeGraphics graphics;
    const DrawHooks hooks = graphics.hooks();
    TransectSpec spec = smallSpec();
    spec.b = spec.a;
    spec.b->name = "plainest";
    spec.b->mesh.mesher = "every";
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    ASSERT_EQ(result.rows.size(), 4u);
    EXPECT_EQ(result.rows[0].side, 'A');
    EXPECT_EQ(result.rows[1].side, 'B');
    int frames = 0;
    for (const TransectRatio& ratio : result.ratios)
        if (ratio.what == "frame_ms") {
            ++frames;
            EXPECT_EQ(ratio.ratio.ratio, 0.5);
            EXPECT_EQ(ratio.ratio.low, 0.5);
        } else {
            EXPECT_LT(ratio.ratio.ratio, 1) << "six sides of every voxel take longer";
        }
    EXPECT_EQ(frames, 2);
}

TEST(Transect, WithoutDrawingItMeasuresMeshing)
{
    const TransectResult result = runTransect(smallSpec(), nullptr, {}, {});
    ASSERT_EQ(result.rows.size(), 2u);
    EXPECT_EQ(result.rows[0].frameMs.count, 0u);
    EXPECT_GT(result.rows[0].meshNs.p50, 0);
    EXPECT_TRUE(result.driver.empty());
    EXPECT_TRUE(result.reach.empty());
}

TEST(Transect, StopsWhenAskedAndKeepsWhatItHas)
{
    TransectSpec spec = smallSpec();
    spec.rounds = 50;
    std::stop_source source;
    int calls = 0;
    double last = -1;
    const TransectResult result = runTransect(
        spec, nullptr,
        [&](const TransectProgress& at) {
            EXPECT_GE(at.share, last);
            last = at.share;
            if (++calls == 4)
                source.request_stop();
        },
        source.get_token());
    EXPECT_TRUE(result.stopped);
    EXPECT_EQ(result.rows.size(), 2u);
    EXPECT_LT(calls, 10);
}

TEST(Transect, VariesChoicesAsWellAsNumbers)
{
    TransectSpec spec = smallSpec();
    spec.vary = "mesh.mesher";
    spec.values = {"every", "exposed"};
    spec.a.stream.distance = 1;
    ASSERT_FALSE(checkTransect(spec));
    const TransectResult result = runTransect(spec, nullptr, {}, {});
    ASSERT_EQ(result.rows.size(), 2u);
    EXPECT_GT(result.rows[0].meshNs.p50, result.rows[1].meshNs.p50);
}

TEST(Transect, RefusesWhatCannotBeMeasuredBeforeItBegins)
{
    TransectSpec spec = smallSpec();
    spec.vary = "mesh.colour";
    EXPECT_TRUE(checkTransect(spec));
    spec = smallSpec();
    spec.values = {1, 99};
    EXPECT_NE(checkTransect(spec)->what.find("without levels of detail is at most 48"), std::string::npos);
    spec.a.lod.scheme = "rings";
    EXPECT_FALSE(checkTransect(spec));
    spec.values = {1, 9999};
    EXPECT_NE(checkTransect(spec)->what.find("from 1 to 1024"), std::string::npos);
    spec.a.lod.scheme = "off";
    spec.values.clear();
    EXPECT_TRUE(checkTransect(spec));
    spec = smallSpec();
    spec.rounds = 0;
    EXPECT_TRUE(checkTransect(spec));
    spec = smallSpec();
    spec.frames = 0;
    EXPECT_TRUE(checkTransect(spec));
}

TEST(Transect, FramesOfTheSamePlaceAreDividedByEachOther)
{
    // Frames that differ tenfold along the route, B always twice A, and a clock that halves from leg to leg: the ratio
    // of each round is exact all the same.
    FakeGraphics graphics;
    DrawHooks hooks = graphics.hooks();
    int legs = 0, frame = 0;
    hooks.begin = [&](const fell::Setup& setup, const Terrain&) {
        graphics.setup = setup;
        ++legs;
        frame = 0;
    };
    hooks.draw = [&](const Eye&, bool) {
        const double place = 1 + 9 * (frame++ % 3), side = graphics.setup.mesh.mesher == "every" ? 2 : 1;
        return FrameCost{place * side * (legs > 2 ? 0.5 : 1), 1, 2, 1, 100};
    };
    TransectSpec spec = smallSpec();
    spec.values = {1};
    spec.b = spec.a;
    spec.b->mesh.mesher = "every";
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    ASSERT_FALSE(result.ratios.empty());
    EXPECT_EQ(result.ratios[0].what, "frame_ms");
    EXPECT_NEAR(result.ratios[0].ratio.ratio, 0.5, 1e-9);
    EXPECT_NEAR(result.ratios[0].ratio.high - result.ratios[0].ratio.low, 0, 1e-9);
}

TEST(Transect, GrowthIsThatOfTheCosts)
{
    FakeGraphics graphics;
    const DrawHooks hooks = graphics.hooks();
    TransectSpec spec = smallSpec();
    spec.rounds = 1;
    spec.values = {1, 2, 3};
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    const auto frames = std::find_if(
        result.growth.begin(), result.growth.end(), [](const TransectGrowth& one) { return one.what == "frame_ms"; });
    ASSERT_NE(frames, result.growth.end());
    EXPECT_NEAR(frames->growth.exponent, 1, 1e-9) << "10 ms a chunk of distance";
    EXPECT_GT(result.noise, 0);
}

TEST(Transect, TwoThingsVariedMeasureEachPair)
{
    FakeGraphics graphics;
    const DrawHooks hooks = graphics.hooks();
    TransectSpec spec = smallSpec();
    spec.rounds = 1;
    spec.second = "mesh.mesher";
    spec.secondValues = {"exposed", "every"};
    spec.values = {1, 2, 3};
    spec.a.draw.budget = 25;
    ASSERT_FALSE(checkTransect(spec));
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    ASSERT_EQ(result.rows.size(), 6u);
    for (const TransectRow& row : result.rows)
        EXPECT_EQ(row.frameMs.p50, (row.second == "every" ? 20 : 10) * row.value.get<double>());
    // 25 ms: 2.5 chunks at 10 ms each, 1.25 at 20.
    ASSERT_EQ(result.reach.size(), 2u);
    EXPECT_NEAR(result.reach[0].value.value_or(0), 2.5, 1e-9);
    EXPECT_NEAR(result.reach[1].value.value_or(0), 1.25, 1e-9);
    EXPECT_EQ(result.reach[1].second, "every");
    const auto again = parseResultCsv(toCsv(result), "r.csv");
    ASSERT_TRUE(again);
    EXPECT_EQ(again.value().rows[5].second, "every");
    EXPECT_EQ(toCsv(again.value()), toCsv(result));
    const std::string svg = toSvg(result), words = toMarkdown(reportOf(result));
    EXPECT_NE(svg.find(">60.0<"), std::string::npos) << "each field has its figure";
    EXPECT_NE(words.find("A small with mesher every reaches 1.25 chunks within 25.0 ms"), std::string::npos) << words;
    // The dearest field is the darkest.
    EXPECT_LT(evenScale(1)[1], evenScale(0.5)[1]);
    EXPECT_LT(evenScale(0.5)[1], evenScale(0)[1]);
    // What cannot be varied together is said before it begins.
    spec.second = spec.vary;
    spec.secondValues = {1};
    EXPECT_NE(checkTransect(spec)->what.find("two different paths"), std::string::npos);
    spec.second = "mesh.colour";
    EXPECT_TRUE(checkTransect(spec));
}

TEST(Findings, SayOnlyWhatTheIntervalAllows)
{
    EXPECT_EQ(verdictOf({8, "frame_ms", {0.61, 0.58, 0.64}}), "A needs 0.61x the frame time of B (0.58 to 0.64)");
    EXPECT_EQ(verdictOf({8, "mesh_ns", {1.01, 0.97, 1.04}}), "no difference shown in mesh time (0.97 to 1.04)");
    EXPECT_EQ(verdictOf({8, "frame_ms", ratioOverRounds(std::vector<double>{1.5})}),
        "too few rounds for an interval of frame time, A / B is 1.50");
    EXPECT_EQ(verdictOf({8, "frame_ms", {}}), "nothing can be said of frame time");
    fell::Setup a, b;
    b.mesh.mesher = "every";
    b.stream.distance = a.stream.distance + 1;
    const auto differ = differencesOf(a, b);
    ASSERT_EQ(differ.size(), 2u);
    EXPECT_TRUE(differ[0].path == "mesh.mesher" || differ[1].path == "mesh.mesher");
    EXPECT_TRUE(differencesOf(a, a).empty());
}

TEST(Findings, WarnOfWhatSpoilsAResult)
{
    TransectResult result = someResult();
    result.stopped = true;
    result.noise = 0.2;
    result.rows[0].full = true;
    result.rows[0].frameMs.outliers = 3;
    std::string all;
    for (const auto& caveat : caveatsOf(result))
        all += caveat;
    for (const char* part : {"stopped early", "memory", "uneven", "With 1 round", "3 of"})
        EXPECT_NE(all.find(part), std::string::npos) << part;
}

} // namespace
} // namespace fell::transect_test
