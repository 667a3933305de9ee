// SPDX-License-Identifier: Apache-2.0
#include "measure/findings.h"
#include "measure/report.h"
#include "measure/results.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>
#include <set>

namespace fell::transect_test {
namespace {

TransectSpec smallSpec()
{
    TransectSpec spec;
    spec.a = test::unlitSetup();
    spec.terrain = test::testTerrain();
    spec.a.name = "small";
    spec.a.chunk.edge = 16;
    spec.values = {1, 2};
    spec.route.title = "there";
    spec.route.points = {{{0, 20, 0}, 0, 0}, {{20, 20, 0}, 90, 0}};
    spec.rounds = 2;
    spec.frames = 3;
    return spec;
}

/// A graphics side that only counts, and whose frames take a known time.
struct FakeGraphics {
    std::set<ChunkPos> held;
    int begun = 0, frames = 0, chosen = 0;
    std::uint64_t uploads = 0;
    fell::Setup setup = test::unlitSetup();
    DrawHooks hooks()
    {
        DrawHooks out;
        out.driver = "counting";
        out.begin = [this](const fell::Setup& next, const Terrain&) {
            setup = next;
            held.clear();
            ++begun;
        };
        out.apply = [this](const StreamEvent& event) {
            if (event.kind == StreamEvent::Kind::Upload) {
                held.insert(event.chunk);
                ++uploads;
            } else if (event.kind == StreamEvent::Kind::Release) {
                held.erase(event.chunk);
            }
        };
        out.choose = [this](const CullChoices& choices) {
            ++chosen;
            setup.cull = choices;
        };
        out.draw = [this](const Eye&, bool) {
            ++frames;
            const double each = setup.mesh.mesher == "every" ? 20 : 10;
            return FrameCost{
                each * setup.stream.distance, held.size(), 2 * held.size(), held.size(), 100 * held.size()};
        };
        return out;
    }
};

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

TransectResult someResult()
{
    FakeGraphics graphics;
    const DrawHooks hooks = graphics.hooks();
    TransectSpec spec = smallSpec();
    spec.rounds = 1;
    spec.b = spec.a;
    spec.b->name = "other, with a comma";
    return runTransect(spec, &hooks, {}, {});
}

TEST(Results, CsvOpensAgainWithEveryNumber)
{
    const TransectResult result = someResult();
    const auto back = parseResultCsv(toCsv(result), "r.csv");
    ASSERT_TRUE(back) << sentence(back.problem());
    const TransectResult& again = back.value();
    ASSERT_EQ(again.rows.size(), result.rows.size());
    for (std::size_t i = 0; i < result.rows.size(); ++i) {
        const TransectRow &a = result.rows[i], &b = again.rows[i];
        EXPECT_EQ(a.side, b.side);
        EXPECT_EQ(a.value, b.value);
        EXPECT_EQ(a.meshNs.p50, b.meshNs.p50);
        EXPECT_EQ(a.meshNs.p99, b.meshNs.p99);
        EXPECT_EQ(a.meshNs.count, b.meshNs.count);
        EXPECT_EQ(a.frameMs.p95, b.frameMs.p95);
        EXPECT_EQ(a.readySeconds, b.readySeconds);
        EXPECT_EQ(a.processBytes, b.processBytes);
    }
    EXPECT_EQ(again.world, result.world);
    EXPECT_EQ(again.seed, result.seed);
    EXPECT_EQ(again.vary, result.vary);
    EXPECT_EQ(again.driver, "counting");
    EXPECT_EQ(again.machine.processor, result.machine.processor);
    EXPECT_EQ(again.b->name, "other  with a comma");
    EXPECT_EQ(toCsv(again), toCsv(result)) << "saving it again changes nothing";
}

TEST(Results, CsvThatIsNotOneSaysTheLine)
{
    const std::string good = toCsv(someResult());
    const auto problem = [](const std::string& text) {
        const auto result = parseResultCsv(text, "r.csv");
        return result ? std::string() : sentence(result.problem());
    };
    EXPECT_NE(problem("a,b,c\n1,2,3\n").find("is no transect of Fell"), std::string::npos);
    EXPECT_NE(problem("").find("is no transect of Fell"), std::string::npos);
    EXPECT_NE(problem("# fell-transect 1\n").find("no row"), std::string::npos);
    std::string text = good;
    const std::size_t rows = text.find("\nA,");
    text.replace(rows, 3, "\nC,");
    EXPECT_NE(problem(text).find("is no value for side"), std::string::npos);
    EXPECT_NE(problem(text).find("line 23"), std::string::npos)
        << problem(text); // 21 lines before the header, then the first row
    EXPECT_NE(problem("# fell-transect 1\n# world: \xFF\n").find("UTF-8"), std::string::npos)
        << "JSON would not take it";
    EXPECT_NE(problem(good + "A,b\n").find("cells"), std::string::npos);
    for (std::size_t length = 0; length < good.size(); length += 11)
        (void)parseResultCsv(good.substr(0, length), "r.csv"); // must not crash
}

TEST(Results, CsvOfTheFirstVersionStillOpens)
{
    const std::string old = "# fell-transect 1\n# world: Corrowdale\n# vary: stream.distance\n"
                            "side,setup,value,mesh_ns_p5,mesh_ns_p50,mesh_ns_p95,mesh_ns_p99,mesh_samples,frame_ms_p5,"
                            "frame_ms_p50,frame_ms_p95,frame_ms_p99,frame_ms_max,frame_samples,ready_s,drawn_chunks,"
                            "triangles,draw_calls,resident_chunks,gpu_bytes,process_bytes,memory_full\n"
                            "A,near,4,1,2,3,4,5,6,7,8,9,10,11,12,13,14,15,16,17,18,0\n";
    const auto result = parseResultCsv(old, "old.csv");
    ASSERT_TRUE(result) << sentence(result.problem());
    EXPECT_EQ(result.value().rows[0].frameMs.p95, 8);
    EXPECT_TRUE(result.value().rows[0].across.is_null());
    EXPECT_EQ(result.value().rows[0].meshInReferences, 0);
    EXPECT_NE(toCsv(result.value()).find("# fell-transect 5"), std::string::npos);
}

TEST(Results, JsonOpensAgainWithEveryNumberAndTheRawSamples)
{
    TransectResult result = someResult();
    result.audits = {{"mesh, A small", 40, 0}, {"mesh, B other", 40, 2}};
    result.ratios[0].ratio.high
        = std::numeric_limits<double>::infinity(); // as after one round: JSON has no word for it
    const std::string json = toJson(result, RawSamples::With).dump();
    const auto back = parseResultJson(json, "r.json");
    ASSERT_TRUE(back) << sentence(back.problem());
    EXPECT_EQ(toJson(back.value(), RawSamples::With).dump(), json) << "saving it again changes nothing";
    const TransectRow& row = back.value().rows[0];
    ASSERT_EQ(row.frameSamples.size(), row.frameMs.count);
    ASSERT_EQ(row.meshSamples.size(), row.meshNs.count);
    const std::vector<double> samples(row.meshSamples.begin(), row.meshSamples.end());
    EXPECT_NEAR(percentile(samples, 50), row.meshNs.p50, 1e-6 * row.meshNs.p50);
    EXPECT_EQ(back.value().a, result.a);
    EXPECT_EQ(back.value().b, result.b);
    EXPECT_TRUE(std::isinf(back.value().ratios[0].ratio.high));
    EXPECT_EQ(back.value().audits[1].differences, 2u);
    EXPECT_FALSE(toJson(result).dump().find("\"raw\"") != std::string::npos) << "only where they are wanted";
}

TEST(Results, JsonHasTheFieldsThatScriptsReadAndTheSetups)
{
    const auto json = toJson(someResult());
    EXPECT_EQ(json["vary"], "stream.distance");
    ASSERT_EQ(json["rows"].size(), 4u);
    for (const char* key :
        {"setup", "value", "mesh_ns", "ready_s", "frame_ms", "triangles", "draw_calls", "gpu_bytes", "process_bytes"})
        EXPECT_TRUE(json["rows"][0].contains(key)) << key;
    EXPECT_TRUE(json["rows"][0]["frame_ms"].contains("p99"));
    EXPECT_EQ(json["setups"]["A"]["name"], "small");
    for (const char* key : {"value", "what", "ratio", "low", "high"})
        EXPECT_TRUE(json["ratios"][0].contains(key)) << key;
    EXPECT_TRUE(json["reach"][0].contains("budget_ms"));
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
    spec.across = "mesh.mesher";
    spec.acrossValues = {"exposed", "every"};
    spec.values = {1, 2, 3};
    spec.a.draw.budget = 25;
    ASSERT_FALSE(checkTransect(spec));
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    ASSERT_EQ(result.rows.size(), 6u);
    for (const TransectRow& row : result.rows)
        EXPECT_EQ(row.frameMs.p50, (row.across == "every" ? 20 : 10) * row.value.get<double>());
    // 25 ms: 2.5 chunks at 10 ms each, 1.25 at 20.
    ASSERT_EQ(result.reach.size(), 2u);
    EXPECT_NEAR(result.reach[0].value.value_or(0), 2.5, 1e-9);
    EXPECT_NEAR(result.reach[1].value.value_or(0), 1.25, 1e-9);
    EXPECT_EQ(result.reach[1].across, "every");
    const auto again = parseResultCsv(toCsv(result), "r.csv");
    ASSERT_TRUE(again);
    EXPECT_EQ(again.value().rows[5].across, "every");
    EXPECT_EQ(toCsv(again.value()), toCsv(result));
    const std::string svg = toSvg(result), words = toMarkdown(reportOf(result));
    EXPECT_NE(svg.find(">60.0<"), std::string::npos) << "each field has its figure";
    EXPECT_NE(words.find("A small with mesher every reaches 1.25 chunks within 25.0 ms"), std::string::npos) << words;
    // The dearest field is the darkest.
    EXPECT_LT(evenScale(1)[1], evenScale(0.5)[1]);
    EXPECT_LT(evenScale(0.5)[1], evenScale(0)[1]);
    // What cannot be varied together is said before it begins.
    spec.across = spec.vary;
    spec.acrossValues = {1};
    EXPECT_NE(checkTransect(spec)->what.find("two different paths"), std::string::npos);
    spec.across = "mesh.colour";
    EXPECT_TRUE(checkTransect(spec));
}

TEST(Findings, SayOnlyWhatTheIntervalAllows)
{
    EXPECT_EQ(verdictOf({8, "frame_ms", {0.61, 0.58, 0.64}}), "A needs 0.61x the frame time of B (0.58 to 0.64)");
    EXPECT_EQ(verdictOf({8, "mesh_ns", {1.01, 0.97, 1.04}}), "no difference shown in mesh time (0.97 to 1.04)");
    EXPECT_EQ(verdictOf({8, "frame_ms", ratioOverRounds(std::vector<double>{1.5})}),
        "one round shows no interval for frame time, A / B is 1.50");
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

TEST(Report, IsOnePageWithEverythingInItAndEscapesNames)
{
    TransectResult result = someResult();
    result.world = "a <b> & \"c\"";
    result.b->mesh.mesher = "every";
    const std::string html = toHtml(reportOf(result), toSvg(result)), markdown = toMarkdown(reportOf(result));
    EXPECT_NE(html.find("a &lt;b&gt; &amp; &quot;c&quot;"), std::string::npos);
    EXPECT_EQ(html.find("<b>"), std::string::npos);
    EXPECT_NE(html.find("<svg"), std::string::npos) << "the plots";
    for (const char* elsewhere : {"<script", "<link", "@import", "src="})
        EXPECT_EQ(html.find(elsewhere), std::string::npos) << elsewhere;
    for (const std::string* text : {&html, &markdown})
        for (const char* part : {"The question", "How the setups differ", "mesh.mesher", "What was found", "Measured",
                 "What each cull step saves", "The machine", "To beware of", "counting"})
            EXPECT_NE(text->find(part), std::string::npos) << part;
    // Every element that is opened is closed.
    for (const char* tag : {"table", "tr", "td", "th", "ul", "li", "h2", "p", "figure", "svg"}) {
        const auto count = [&html](const std::string& what) {
            std::size_t n = 0;
            for (std::size_t at = html.find(what); at != std::string::npos; at = html.find(what, at + 1))
                ++n;
            return n;
        };
        const std::string name = tag;
        EXPECT_EQ(count("<" + name + ">") + count("<" + name + " "), count("</" + name + ">")) << tag;
    }
}

TEST(Results, PlotsGoOnBeyondWhatWasMeasuredAndSaySo)
{
    FakeGraphics graphics;
    const DrawHooks hooks = graphics.hooks();
    TransectSpec spec = smallSpec();
    spec.rounds = 1;
    EXPECT_EQ(toSvg(runTransect(spec, &hooks, {}, {})).find("fitted"), std::string::npos) << "two values fit any line";
    spec.values = {1, 2, 3};
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    const std::string svg = toSvg(result);
    EXPECT_NE(svg.find("not measured"), std::string::npos);
    // Frames take 10 ms a chunk: the line ends at 3.6 chunks and 36 ms, at the plot's right edge.
    const Growth* growth = growthOf(result, 'A', "frame_ms");
    ASSERT_NE(growth, nullptr);
    EXPECT_NEAR(growth->at(3.6), 36, 1e-6);
    EXPECT_EQ(growthOf(result, 'B', "frame_ms"), nullptr);
    EXPECT_NE(svg.find("class=\"fitted\""), std::string::npos);
}

TEST(Results, PlotsNameUnitsAndBothSetups)
{
    const TransectResult result = someResult();
    const std::string svg = toSvg(result), report = toMarkdown(reportOf(result));
    for (const char* part :
        {"Mesh build time a chunk, us", "Frame time, ms", "stream.distance, chunks", "A small", "</svg>"})
        EXPECT_NE(svg.find(part), std::string::npos) << part;
    for (const char* part : {"| A small | 1 |", "A small reaches", "frame time", "counting"})
        EXPECT_NE(report.find(part), std::string::npos) << part;
}

} // namespace
} // namespace fell::transect_test
