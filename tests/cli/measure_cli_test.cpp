// SPDX-License-Identifier: Apache-2.0
// Runs the real fell-cli as a script would: exit codes, JSON on standard output, one sentence on standard error.
#include "cli/cli_runner.h"
#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <csignal>
#include <cstdlib>
#include <sys/wait.h>

namespace fell::measure_cli_test {
namespace {

using nlohmann::json;
using namespace test;

TEST(Cli, TransectMeasuresAndWritesWhatItSays)
{
    const TempFolder folder;
    const Ran ran
        = runAlone("transect --no-audit --vary stream.distance=1,2 --rounds 1 --frames 2 --size 160x100 --set "
                   "chunk.edge=16 --json --out "
            + (folder / "t").string());
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json result = ran.parsed();
    ASSERT_EQ(result["rows"].size(), 2u);
    EXPECT_GT(result["rows"][0]["frame_ms"]["p50"], 0);
    EXPECT_GT(result["rows"][1]["mesh_ns"]["p95"], 0);
    EXPECT_NE(result["driver"].get<std::string>(), "");
    for (const char* name : {"transect.csv", "transect.json", "transect.svg", "report.md", "report.html"})
        EXPECT_FALSE(textOf(folder / "t" / name).empty()) << name;
    EXPECT_EQ(json::parse(textOf(folder / "t" / "transect.json"))["rows"], result["rows"]);
}

TEST(Cli, TheLedgerKeepsTrialsComparesAndCarriesThem)
{
    const TempFolder folder;
    const std::string at = " --ledger " + (folder / "l.db").string(), file = (folder / "export.json").string();
    const std::string trial = "transect --vary stream.distance=1,2 --vary chunk.edge=16,32 --rounds 2 --frames 1 "
                              "--no-draw --no-audit --json"
        + at;
    const Ran first = runAlone(trial);
    ASSERT_EQ(first.code, 0) << first.err;
    ASSERT_EQ(first.parsed()["rows"].size(), 4u) << "two values with each of two others";
    EXPECT_EQ(first.parsed()["rows"][3]["across"], 32);
    ASSERT_EQ(runAlone(trial).code, 0);
    const json list = runAlone("ledger list --json" + at).parsed();
    ASSERT_EQ(list["trials"].size(), 2u);
    EXPECT_EQ(list["trials"][0]["varied"], "stream.distance x chunk.edge");
    EXPECT_EQ(runAlone("ledger tag 1 'before the change'" + at).code, 0);
    EXPECT_EQ(runAlone("ledger pin 1" + at).code, 0);
    const json found = runAlone("ledger list 'before change' --json" + at).parsed();
    ASSERT_EQ(found["trials"].size(), 1u);
    EXPECT_EQ(found["trials"][0]["pinned"], true);
    EXPECT_EQ(runAlone("ledger show 1 --json" + at).parsed()["rows"], first.parsed()["rows"]);
    const json both = runAlone("ledger compare 1 2 --json" + at).parsed();
    EXPECT_EQ(both["rows"].size(), 8u);
    EXPECT_EQ(both["ratios"].size(), 4u);
    ASSERT_EQ(runAlone("ledger export " + file + at).code, 0);
    const std::string other = " --ledger " + (folder / "other.db").string();
    EXPECT_EQ(runAlone("ledger import " + file + " --json" + other).parsed()["added"], 2);
    EXPECT_EQ(runAlone("ledger import " + file + " --json" + other).parsed()["known"], 2);
    ASSERT_EQ(runAlone("ledger export " + (folder / "rows.csv").string() + " 1 --format csv" + at).code, 0);
    EXPECT_NE(textOf(folder / "rows.csv").find("stream.distance"), std::string::npos);
    EXPECT_EQ(runAlone("ledger remove 1 2" + at).code, 0);
    EXPECT_TRUE(runAlone("ledger list --json" + at).parsed()["trials"].empty());
    expectOneSentence(runAlone("ledger show 1" + at), "has no trial 1");
    expectOneSentence(runAlone("ledger import " + (folder / "none.json").string() + at), "none.json");
    EXPECT_EQ(runAlone("ledger").code, 2);
    EXPECT_EQ(runAlone("transect --no-draw --no-audit --ledger /proc/nowhere/l.db").code, 4);
}

TEST(Cli, TransectWorksWithoutADriver)
{
    const Ran none
        = runAlone("transect --vary stream.distance=1 --rounds 1 --frames 1", "MESA_GL_VERSION_OVERRIDE=3.3");
    EXPECT_EQ(none.code, 3);
    expectOneSentence(none, "libgl1-mesa-dri");
    const Ran ran = runAlone("transect --no-audit --vary stream.distance=1 --rounds 1 --frames 1 --no-draw --json",
        "MESA_GL_VERSION_OVERRIDE=3.3");
    ASSERT_EQ(ran.code, 0) << ran.err;
    EXPECT_EQ(ran.parsed()["driver"], "");
    EXPECT_GT(ran.parsed()["rows"][0]["mesh_ns"]["p50"], 0);
}

TEST(Cli, GateHoldsAgainstItselfAndFailsWhereASlowerMethodIsChosen)
{
    const TempFolder folder;
    const std::string out = (folder / "t").string(), baseline = out + "/transect.json",
                      junit = (folder / "gate.xml").string();
    ASSERT_EQ(
        runAlone("transect --no-audit --vary stream.distance=2 --rounds 3 --frames 2 --no-draw --out " + out).code, 0);
    const Ran same = runAlone("gate --baseline " + baseline + " --allow 200% --json");
    EXPECT_TRUE(same.code == 0 || same.code == 5) << same.err;
    const json sameRows = same.parsed()["rows"];
    ASSERT_GE(sameRows.size(), 4u) << "mesh time, and counts of the first view";
    EXPECT_EQ(sameRows[0]["what"], "mesh_ns") << "nothing was drawn";
    for (const auto& row : sameRows)
        if (row.contains("then")) { // counts; times may be too uneven to tell
            EXPECT_EQ(row["verdict"], "within") << row["what"];
        }
    EXPECT_EQ(sameRows.back()["what"], "mesh_digest");
    EXPECT_EQ(sameRows.back()["then"], sameRows.back()["now"]);
    // Every side of every voxel takes many times as long as merged ones.
    const Ran slower
        = runAlone("gate --baseline " + baseline + " --allow 20% --set mesh.mesher=every --json --junit " + junit);
    EXPECT_EQ(slower.code, 1) << slower.err;
    EXPECT_EQ(slower.parsed()["rows"][0]["verdict"], "slower");
    EXPECT_GT(slower.parsed()["rows"][0]["low"], 1.2);
    EXPECT_EQ(slower.parsed()["in_turn"], true) << "the baseline's setup is measured again, interleaved";
    EXPECT_EQ(same.parsed()["in_turn"], false);
    EXPECT_NE(textOf(junit).find("mesh_ns at 2\"><failure"), std::string::npos);

    expectOneSentence(runAlone("gate --baseline " + baseline + " --world level"), "was measured in Corrowdale");
    expectOneSentence(runAlone("gate --baseline " + baseline + " --allow lots"), "such as 2% or 0.02");
    expectOneSentence(runAlone("gate --baseline " + (folder / "none.json").string()), "none.json");
    EXPECT_EQ(runAlone("gate").code, 2);
}

TEST(Cli, ReachFindsTheDistanceForEachSetup)
{
    const Ran ran
        = runAlone("reach --setup near --setup long-view --set chunk.edge=16 --set light.mode=none --budget 900 "
                   "--farthest 2 --frames 1 --size 64x40 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json reach = ran.parsed()["reach"];
    ASSERT_EQ(reach.size(), 2u);
    EXPECT_EQ(reach[0]["setup"], "near");
    EXPECT_EQ(reach[0]["value"], 2);
    EXPECT_EQ(reach[0]["beyond"], true);
    EXPECT_EQ(reach[0]["budget_ms"], 900);
    EXPECT_EQ(reach[1]["steps"].back()["confirming"], true);
    expectOneSentence(runAlone("reach --farthest 99"), "1 to 48 chunks are allowed with near");
    expectOneSentence(runAlone("reach --budget -3"), "--budget");
    EXPECT_EQ(runAlone("reach --frames 1", "MESA_GL_VERSION_OVERRIDE=3.3").code, 3);
}

} // namespace
} // namespace fell::measure_cli_test
