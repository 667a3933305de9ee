// SPDX-License-Identifier: Apache-2.0
#include "core/measure/transect_fixture.h"
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/measure/report.h>
#include <fell/measure/results.h>

#include <gtest/gtest.h>

namespace fell::results_test {
namespace {

using namespace test;

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
    EXPECT_TRUE(result.value().rows[0].second.is_null());
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
    EXPECT_FALSE(toJson(result).dump().find("\"raw\"") != std::string::npos) << "only where they are expected";
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
} // namespace fell::results_test
