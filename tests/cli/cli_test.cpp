// SPDX-License-Identifier: Apache-2.0
// Runs the real fell-cli as a script would: exit codes, JSON on standard output, one sentence on standard error.
#include "demo/demo_folder.h"
#include "support/build_folders.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <set>
#include <sys/wait.h>
#include <thread>

namespace fell::cli_test {
namespace {

using nlohmann::json;
using test::TempFolder;
using test::textOf;

struct Ran {
    int code = -1;
    std::string out, err;
    [[nodiscard]] json parsed() const { return json::parse(out, nullptr, false); }
};

Ran cli(const std::string& arguments, const std::string& before = "")
{
    const TempFolder folder;
    const std::string command = before + " " + buildFolder() + "/fell-cli " + arguments + " >"
        + (folder / "out").string() + " 2>" + (folder / "err").string() + " </dev/null";
    const int status
        = std::system(command.c_str()); // NOLINT(cert-env33-c,concurrency-mt-unsafe): a shell is what users have
    return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, textOf(folder / "out"), textOf(folder / "err")};
}

/// What is said is one line.
void expectOneSentence(const Ran& ran, const std::string& part)
{
    EXPECT_NE(ran.err.find(part), std::string::npos) << ran.err;
    EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1) << ran.err;
    EXPECT_TRUE(ran.out.empty()) << ran.out;
}

TEST(Cli, StagesListsEveryStageWithItsMethods)
{
    const Ran ran = cli("stages --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    std::set<std::string> methods;
    const json result = ran.parsed();
    for (const auto& stage : result["stages"])
        for (const auto& method : stage["methods"]) {
            methods.insert(stage["id"].get<std::string>() + "/" + method["id"].get<std::string>());
            EXPECT_FALSE(method["note"].get<std::string>().empty());
        }
    for (const char* wanted : {"generate/blocks", "mesh/every", "mesh/exposed", "cull/view-planes", "draw/per-chunk"})
        EXPECT_TRUE(methods.contains(wanted)) << wanted;
    EXPECT_EQ(cli("stages").code, 0);
}

TEST(Cli, MeshComparesMethodsOnTheSameChunks)
{
    const Ran ran = cli("mesh --chunks 6 --repeat 1 --edge 16 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json result = ran.parsed();
    EXPECT_EQ(result["edge"], 16);
    EXPECT_GT(result["limits"]["copy_ns"], 0);
    ASSERT_EQ(result["rows"].size(), 4u);
    EXPECT_EQ(result["rows"][3]["mesher"], "greedy-bits");
    for (const std::size_t row : {1u, 2u, 3u}) {
        EXPECT_EQ(result["rows"][0]["digest"], result["rows"][row]["digest"]);
        EXPECT_EQ(result["rows"][0]["exposed_area"], result["rows"][row]["merged_area"]);
    }
    EXPECT_EQ(result["rows"][2]["quads"], result["rows"][3]["quads"]);
    EXPECT_LT(result["rows"][3]["quads"], result["rows"][1]["quads"]);
    for (const char* key : {"mesher", "layout", "chunk_ns", "quads", "triangles", "vertex_bytes"})
        EXPECT_TRUE(result["rows"][0].contains(key)) << key;
    EXPECT_EQ(cli("mesh --chunks 2 --repeat 1 --mesher exposed --layout floats,packed").code, 0);
    const json bevelled = cli("mesh --chunks 6 --repeat 1 --edge 16 --mesher exposed,bevelled --json").parsed()["rows"];
    EXPECT_GT(bevelled[1]["triangles"], bevelled[0]["triangles"]);
    EXPECT_NE(bevelled[1]["digest"], bevelled[0]["digest"]) << "another surface";
}

TEST(Cli, StoreHoldsTheSameChunksInEveryForm)
{
    const Ran ran = cli("store --chunks 3 --edge 16 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json result = ran.parsed();
    ASSERT_EQ(result["rows"].size(), 6u);
    for (const auto& row : result["rows"]) {
        EXPECT_TRUE(row["same"]);
        for (const char* key : {"bytes_per_chunk", "build_ns", "random_read_ns", "row_read_ns", "edit_ns"})
            EXPECT_GT(row[key], 0) << row["form"] << " " << key;
    }
    EXPECT_GE(result["rows"][0]["bytes_per_chunk"], 8192);
    const Ran wrong = cli("store --form stack");
    EXPECT_EQ(wrong.code, 2);
    expectOneSentence(wrong, "octree-narrow");
}

TEST(Cli, AuditMeshFindsNoDifference)
{
    const Ran ran = cli("audit mesh --cases 40 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json row = ran.parsed()["rows"][0];
    EXPECT_EQ(row["audit"], "mesh");
    EXPECT_EQ(row["differences"], 0);
    EXPECT_EQ(row["cases"], (40 + 16) * 5 * 2) << "random neighbourhoods and chunks of the world";
    EXPECT_EQ(cli("audit shadows").code, 2);
}

TEST(Cli, LightFloodsTheSameRegionInEveryMode)
{
    const Ran ran = cli("light --box 2x2x2 --lamps 20 --repeat 1 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json rows = ran.parsed()["rows"];
    ASSERT_EQ(rows.size(), 3u);
    double bytes = 0;
    for (const auto& row : rows) {
        EXPECT_EQ(row["voxels"], 64 * 64 * 64);
        EXPECT_EQ(row["lamps"], 20);
        EXPECT_GT(row["flood_ms"]["p50"], 0);
        EXPECT_GT(row["bytes_per_voxel"], bytes) << "each mode has more channels than the one before";
        bytes = row["bytes_per_voxel"];
        for (const char* key : {"lamp_on", "lamp_off", "block_placed", "block_removed"})
            EXPECT_GT(row["edit_us"][key], 0) << key;
    }
    const Ran wrong = cli("light --box 2x2");
    EXPECT_EQ(wrong.code, 2);
    expectOneSentence(wrong, "8x4x8");
}

TEST(Cli, AuditLightFindsNoDifference)
{
    const Ran ran = cli("audit light --cases 20 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json row = ran.parsed()["rows"][0];
    EXPECT_EQ(row["audit"], "light");
    EXPECT_EQ(row["differences"], 0);
    // Edits, orders of arrival and the world before; and the world itself in each of eight modes, with 5 edits.
    EXPECT_EQ(row["cases"], 20 + 10 + 1 + 8 * (5 + 10 + 1));
}

TEST(Cli, AuditSeamsFindsDaylightOnlyThroughOpenOnes)
{
    const std::string few = "audit seams --json --setup long-view --set stream.distance=16 --views 4 --set lod.seams=";
    for (const char* seams : {"skirts", "stitched"}) {
        const Ran ran = cli(few + seams);
        EXPECT_EQ(ran.code, 0) << seams << ran.err;
        EXPECT_GT(ran.parsed()["rows"][0]["cases"], 1000) << seams;
        EXPECT_EQ(ran.parsed()["rows"][0]["differences"], 0) << seams;
    }
    const Ran open = cli(few + "open");
    EXPECT_EQ(open.code, 1) << "what was checked does not hold";
    EXPECT_GT(open.parsed()["rows"][0]["differences"], 0);
    EXPECT_NE(open.parsed()["rows"][0]["first"], "");
}

TEST(Cli, FlySaysWhenTheHorizonIsThere)
{
    const Ran ran = cli("fly --json --no-draw --frames 5 --setup long-view --set stream.distance=64");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json result = ran.parsed();
    EXPECT_GT(result["horizon_s"].get<double>(), 0);
    EXPECT_LE(result["horizon_s"].get<double>(), result["settle_s"].get<double>());
}

TEST(Cli, AuditCullLosesNothingByAnyExactStep)
{
    const Ran ran = cli("audit cull --world gallery --views 12 --set chunk.edge=16 --set stream.distance=3 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json row = ran.parsed()["rows"][0];
    EXPECT_EQ(row["audit"], "cull");
    EXPECT_EQ(row["cases"], 12);
    EXPECT_EQ(row["differences"], 0);
    ASSERT_EQ(row["steps"].size(), 7u);
    std::uint64_t lost = 0;
    for (const json& step : row["steps"]) {
        if (step["exact"] == true)
            EXPECT_EQ(step["lost"], 0) << step;
        else
            lost += step["lost"].get<std::uint64_t>();
    }
    EXPECT_GT(lost, 0u) << "a look straight down leaves the triangle of the plan";
    EXPECT_EQ(cli("audit cull --views 1").code, 2);
}

TEST(Cli, ExportsVoxelsAndLightOfABoxAsNumbers)
{
    const test::TempFolder folder;
    const std::string voxels = (folder / "v.nrrd").string(), light = (folder / "l.nrrd").string();
    ASSERT_EQ(cli("export voxels --box 0,-40,0,40,-20,8 --out " + voxels).code, 0);
    ASSERT_EQ(cli("export light --mode colour --box 0,-40,0,40,-20,8 --out " + light).code, 0);
    const std::string v = test::textOf(voxels), l = test::textOf(light);
    EXPECT_EQ(v.rfind("NRRD0005\n", 0), 0u);
    EXPECT_NE(v.find("sizes: 40 20 8\n"), std::string::npos);
    EXPECT_NE(l.find("sizes: 4 40 20 8\n"), std::string::npos);
    const auto body = [](const std::string& text) { return text.substr(text.find("\n\n") + 2); };
    const std::string materials = body(v), levels = body(l);
    constexpr std::size_t kVoxels = std::size_t{40} * 20 * 8;
    ASSERT_EQ(materials.size(), 2 * kVoxels);
    ASSERT_EQ(levels.size(), 4 * kVoxels);
    int rock = 0;
    for (std::size_t i = 0; i < kVoxels; ++i)
        if (materials[2 * i] == 1 && materials[2 * i + 1] == 0) {
            ++rock;
            ASSERT_EQ(levels[4 * i + 3], 0) << "sky in the rock at " << i;
        }
    EXPECT_GT(rock, 0);
    EXPECT_EQ(cli("export light --mode none --out " + light).code, 2);
    EXPECT_EQ(cli("export voxels --format glb --out " + voxels).code, 2);
}

TEST(Cli, TransectMeasuresAndWritesWhatItSays)
{
    const TempFolder folder;
    const Ran ran = cli("transect --no-audit --vary stream.distance=1,2 --rounds 1 --frames 2 --size 160x100 --set "
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
    const Ran first = cli(trial);
    ASSERT_EQ(first.code, 0) << first.err;
    ASSERT_EQ(first.parsed()["rows"].size(), 4u) << "two values with each of two others";
    EXPECT_EQ(first.parsed()["rows"][3]["across"], 32);
    ASSERT_EQ(cli(trial).code, 0);
    const json list = cli("ledger list --json" + at).parsed();
    ASSERT_EQ(list["trials"].size(), 2u);
    EXPECT_EQ(list["trials"][0]["varied"], "stream.distance x chunk.edge");
    EXPECT_EQ(cli("ledger tag 1 'before the change'" + at).code, 0);
    EXPECT_EQ(cli("ledger pin 1" + at).code, 0);
    const json found = cli("ledger list 'before change' --json" + at).parsed();
    ASSERT_EQ(found["trials"].size(), 1u);
    EXPECT_EQ(found["trials"][0]["pinned"], true);
    EXPECT_EQ(cli("ledger show 1 --json" + at).parsed()["rows"], first.parsed()["rows"]);
    const json both = cli("ledger compare 1 2 --json" + at).parsed();
    EXPECT_EQ(both["rows"].size(), 8u);
    EXPECT_EQ(both["ratios"].size(), 4u);
    ASSERT_EQ(cli("ledger export " + file + at).code, 0);
    const std::string other = " --ledger " + (folder / "other.db").string();
    EXPECT_EQ(cli("ledger import " + file + " --json" + other).parsed()["added"], 2);
    EXPECT_EQ(cli("ledger import " + file + " --json" + other).parsed()["known"], 2);
    ASSERT_EQ(cli("ledger export " + (folder / "rows.csv").string() + " 1 --format csv" + at).code, 0);
    EXPECT_NE(textOf(folder / "rows.csv").find("stream.distance"), std::string::npos);
    EXPECT_EQ(cli("ledger remove 1 2" + at).code, 0);
    EXPECT_TRUE(cli("ledger list --json" + at).parsed()["trials"].empty());
    expectOneSentence(cli("ledger show 1" + at), "has no trial 1");
    expectOneSentence(cli("ledger import " + (folder / "none.json").string() + at), "none.json");
    EXPECT_EQ(cli("ledger").code, 2);
    EXPECT_EQ(cli("transect --no-draw --no-audit --ledger /proc/nowhere/l.db").code, 4);
}

TEST(Cli, TransectWorksWithoutADriver)
{
    const Ran none = cli("transect --vary stream.distance=1 --rounds 1 --frames 1", "MESA_GL_VERSION_OVERRIDE=3.3");
    EXPECT_EQ(none.code, 3);
    expectOneSentence(none, "libgl1-mesa-dri");
    const Ran ran = cli("transect --no-audit --vary stream.distance=1 --rounds 1 --frames 1 --no-draw --json",
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
    ASSERT_EQ(cli("transect --no-audit --vary stream.distance=2 --rounds 3 --frames 2 --no-draw --out " + out).code, 0);
    const Ran same = cli("gate --baseline " + baseline + " --allow 200% --json");
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
        = cli("gate --baseline " + baseline + " --allow 20% --set mesh.mesher=every --json --junit " + junit);
    EXPECT_EQ(slower.code, 1) << slower.err;
    EXPECT_EQ(slower.parsed()["rows"][0]["verdict"], "slower");
    EXPECT_GT(slower.parsed()["rows"][0]["low"], 1.2);
    EXPECT_EQ(slower.parsed()["in_turn"], true) << "the baseline's setup is measured again beside it";
    EXPECT_EQ(same.parsed()["in_turn"], false);
    EXPECT_NE(textOf(junit).find("mesh_ns at 2\"><failure"), std::string::npos);

    expectOneSentence(cli("gate --baseline " + baseline + " --world level"), "was measured in Corrowdale");
    expectOneSentence(cli("gate --baseline " + baseline + " --allow lots"), "such as 2% or 0.02");
    expectOneSentence(cli("gate --baseline " + (folder / "none.json").string()), "none.json");
    EXPECT_EQ(cli("gate").code, 2);
}

TEST(Cli, ReachFindsTheDistanceForEachSetup)
{
    const Ran ran = cli("reach --setup near --setup long-view --set chunk.edge=16 --set light.mode=none --budget 900 "
                        "--farthest 2 --frames 1 --size 64x40 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json reach = ran.parsed()["reach"];
    ASSERT_EQ(reach.size(), 2u);
    EXPECT_EQ(reach[0]["setup"], "near");
    EXPECT_EQ(reach[0]["value"], 2);
    EXPECT_EQ(reach[0]["beyond"], true);
    EXPECT_EQ(reach[0]["budget_ms"], 900);
    EXPECT_EQ(reach[1]["steps"].back()["confirming"], true);
    expectOneSentence(cli("reach --farthest 99"), "1 to 48 chunks are allowed with near");
    expectOneSentence(cli("reach --budget -3"), "--budget");
    EXPECT_EQ(cli("reach --frames 1", "MESA_GL_VERSION_OVERRIDE=3.3").code, 3);
}

TEST(Cli, ExportWritesAFileAndCountsIt)
{
    const TempFolder folder;
    for (const std::string format : {"glb", "ply"}) {
        const auto file = folder / ("box." + format);
        const Ran ran = cli("export mesh --format " + format + " --box 0,-8,0,24,24,24 --json --out " + file.string());
        ASSERT_EQ(ran.code, 0) << ran.err;
        EXPECT_EQ(ran.parsed()["bytes"], std::filesystem::file_size(file));
        EXPECT_GT(ran.parsed()["triangles"], 0);
        EXPECT_EQ(ran.parsed()["vertices"].get<int>(), ran.parsed()["triangles"].get<int>() * 2);
    }
}

TEST(Cli, BadArgumentsAreOneSentenceAndExitCode2)
{
    const TempFolder folder;
    const std::string out = (folder / "x.glb").string();
    const std::pair<std::string, std::string> cases[]{
        {"", "subcommand"},
        {"dig", "is no command of fell-cli"},
        {"mesh --mesher best", "exposed, greedy, greedy-bits or bevelled"},
        {"mesh --edge 33", "16, 32 or 64"},
        {"mesh --chunks 0", "1 to 4096"},
        {"mesh --world atlantis", "corrowdale"},
        {"mesh --setup far", "near or plain"},
        {"mesh --set mesh.colour=red", "known paths"},
        {"transect --vary stream.distance=0", "from 1 to 1024"},
        {"fly --set stream.distance=49", "without levels of detail is at most 48"},
        {"audit seams --setup near", "long-view"},
        {"transect --vary stream.speed=1", "known paths"},
        {"transect --route moon", "beck-to-summit"},
        {"transect --rounds 0", "1 to 50"},
        {"transect --size 5", "WIDTHxHEIGHT"},
        {"export mesh --format stl --out " + out, "glb, ply or obj"},
        {"export mesh --box 1,2,3 --out " + out, "six whole numbers"},
        {"export mesh --box 0,0,0,9999,1,1 --out " + out, "at most 1024"},
    };
    for (const auto& [arguments, part] : cases) {
        const Ran ran = cli(arguments);
        EXPECT_EQ(ran.code, 2) << arguments;
        expectOneSentence(ran, part);
    }
    EXPECT_FALSE(std::filesystem::exists(out));
}

TEST(Cli, ABadRecipeIsOneSentenceWithPointerAndRangeAndNothingIsWritten)
{
    const TempFolder folder;
    const std::string good = textOf(demoFolder() / "corrowdale/recipe.json");
    std::filesystem::copy(demoFolder() / "corrowdale/blocks.json", folder / "blocks.json");
    const auto withChange = [&](const std::string& from, const std::string& to) {
        std::string text = good;
        return text.replace(text.find(from), from.size(), to);
    };
    const std::pair<std::string, std::string> cases[]{
        {withChange("\"octaves\": 5", "\"octaves\": 50"),
            "/height/layers/0/noise/octaves: is 50, a whole number from 1 to 12 is wanted"},
        {withChange("\"octaves\": 5", "\"octave\": 5"), "/height/layers/0/noise/octave: is not a known key"},
        {withChange("\"seed\": 1847", "\"seed\": \"1847\""),
            "/seed: is a text, a whole number from 0 to 18446744073709551615 is wanted"},
        {"\x7f"
         "ELF",
            "is no JSON"},
    };
    for (const auto& [text, part] : cases) {
        const auto file = folder.write("recipe.json", text);
        const Ran ran = cli("export mesh --world " + file.string() + " --out " + (folder / "x.ply").string());
        EXPECT_EQ(ran.code, 2);
        expectOneSentence(ran, part);
        EXPECT_NE(ran.err.find(file.string()), std::string::npos);
        EXPECT_FALSE(std::filesystem::exists(folder / "x.ply"));
    }
}

TEST(Cli, AnOutputThatCannotBeWrittenIsSaidBeforeTheWorkBegins)
{
    const TempFolder folder;
    const auto start = std::chrono::steady_clock::now();
    const Ran ran
        = cli("export mesh --box -256,-64,-256,256,200,256 --out " + (folder / "no" / "such" / "x.ply").string());
    EXPECT_EQ(ran.code, 4);
    expectOneSentence(ran, "does not exist");
    const auto file = folder.write("f", "");
    EXPECT_EQ(cli("transect --rounds 50 --out " + file.string()).code, 4);
    EXPECT_LT(std::chrono::steady_clock::now() - start, std::chrono::seconds(20))
        << "the work itself would take longer";
}

TEST(Cli, CtrlCEndsItWithinASecondAndLeavesNoFile)
{
    const TempFolder folder;
    const auto start = std::chrono::steady_clock::now();
    const Ran ran = cli("export mesh --set generate.method=samples --box -512,-64,-512,512,60,512 --out "
            + (folder / "big.ply").string(),
        "timeout -s INT 1");
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    EXPECT_TRUE(ran.code == 130 || ran.code == 124) << ran.code << ran.err; // 124 is what timeout says for it
    EXPECT_LT(seconds, 1 + 1 + 4) << "a second until the signal, one to end, some to start on a busy machine";
    EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
}

TEST(Cli, CtrlCOrAKillLeavesNoTemporaryFileForLong)
{
    const TempFolder folder;
    const std::string audit = "audit keep --cases 1000000", there = "env TMPDIR=" + folder.path().string();
    const auto left = [&folder] {
        std::vector<std::filesystem::path> found;
        for (const auto& entry : std::filesystem::directory_iterator(folder.path()))
            if (entry.path().filename().string().rfind("fell-temp-", 0) == 0)
                found.push_back(entry.path());
        return found;
    };
    // Sends the signal once there is a file.
    const auto endedBy = [&](const std::string& signal) {
        return cli(audit,
            there + " sh -c '\"$@\" & p=$!; while [ -z \"$(ls -A " + folder.path().string()
                + ")\" ]; do sleep 0.02; done; kill -" + signal + " $p; wait $p' _");
    };
    EXPECT_EQ(endedBy("TERM").code, 130);
    EXPECT_TRUE(left().empty());
    (void)endedBy("KILL");
    ASSERT_EQ(left().size(), 1u) << "killed while its file was there";
    std::filesystem::last_write_time(
        left().front(), std::filesystem::file_time_type::clock::now() - std::chrono::hours(1));
    EXPECT_EQ(cli("audit keep --cases 200", there).code, 0);
    EXPECT_TRUE(left().empty()) << "the next command removed it";
}

TEST(Cli, OddArgumentsGetASentenceThatHelps)
{
    const TempFolder folder;
    const auto empty = folder.write("e.json", "{}");
    expectOneSentence(cli("mesh --setup " + empty.string()), "/format: is missing, one of fell-setup is wanted");
    expectOneSentence(cli("reach --budget nan"), "is not a finite number");
    const Ran small = cli("picture --set stream.distance=2 --out " + (folder / "p.png").string(),
        "sh -c 'ulimit -v 300000; exec \"$@\"' _");
    EXPECT_EQ(small.code, 3);
    expectOneSentence(small, "ulimit -v 1048576");
    const std::string fly = "fly --no-draw --frames 1 --set stream.distance=1 --set cull.steps=octree";
    EXPECT_EQ(cli(fly + "+distance").code, 0) << "as in --vary";
    EXPECT_EQ(cli(fly + ",distance").code, 0);
}

TEST(Cli, QuietLeavesProgressOutAndErrorsIn)
{
    const std::string fly = "fly --no-draw --frames 10 --set stream.distance=1";
    EXPECT_NE(cli(fly).err.find("%"), std::string::npos);
    const Ran quiet = cli(fly + " --quiet");
    EXPECT_EQ(quiet.code, 0);
    EXPECT_EQ(quiet.err, "");
    EXPECT_NE(quiet.out.find("Corrowdale"), std::string::npos);
    EXPECT_EQ(cli("world verify nowhere.fell --quiet").code, 2);
    expectOneSentence(cli("mesh --quiet --set mesh.mesher=no"), "mesh.mesher");
}

TEST(Cli, PictureDrawsAViewIntoAPng)
{
    const TempFolder folder;
    const Ran ran = cli("picture --set stream.distance=2 --width 64 --height 40 --out " + (folder / "p.png").string());
    ASSERT_EQ(ran.code, 0) << ran.err;
    EXPECT_EQ(textOf(folder / "p.png").substr(1, 3), "PNG");
    // Beside full detail: at the finest error the same picture, in coarse rings another.
    const std::string beside
        = "picture --setup long-view --set lod.scheme=error --set stream.distance=8 --along 0.9 --width 160 "
          "--height 100 --out "
        + (folder / "l.png").string() + " --beside " + (folder / "f.png").string() + " --set lod.error=";
    const Ran same = cli(beside + "0.25"), other = cli(beside + "8");
    ASSERT_EQ(same.code, 0) << same.err;
    EXPECT_NE(same.out.find("differ by 0.000 of 255"), std::string::npos) << same.out;
    EXPECT_EQ(other.out.find("differ by 0.000 of 255"), std::string::npos) << other.out;
    EXPECT_NE(other.out.find("of 255 on average"), std::string::npos);
    expectOneSentence(cli("picture --setup long-view --out " + (folder / "l.png").string() + " --beside "
                          + (folder / "f.png").string()),
        "at most 48 chunks");
    EXPECT_EQ(cli("picture --along 3 --out " + (folder / "q.png").string()).code, 2);
}

TEST(Cli, HelpIsForPeopleAndExitsWith0)
{
    for (const char* command : {"--help", "mesh --help", "transect --help", "export mesh --help"}) {
        const Ran ran = cli(command);
        EXPECT_EQ(ran.code, 0) << command;
        EXPECT_NE(ran.out.find("--"), std::string::npos);
    }
}

TEST(Cli, FlyStreamsARouteAndWritesTheLivesOfItsChunks)
{
    const TempFolder folder;
    const std::string trace = (folder / "lives.json").string();
    const Ran ran
        = cli("fly --json --no-draw --frames 30 --set stream.distance=3 --set stream.shape=per-stage --trace " + trace);
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json result = ran.parsed();
    EXPECT_EQ(result["frames"], 30);
    EXPECT_EQ(result["driver"], "");
    EXPECT_GT(result["settle_s"].get<double>(), 0);
    // It ends in flight: one chunk may be at work, and some meshes wait for their upload.
    EXPECT_LE(result["resident"]["chunks"], result["chunks"]["generated"].get<int>() + 1);
    EXPECT_LE(result["chunks"]["uploaded"], result["chunks"]["meshed"]);
    EXPECT_GT(result["chunks"]["uploaded"], 20);
    EXPECT_EQ(result["chunks"]["failed"], 0);
    EXPECT_LE(result["share_us"]["p50"], result["share_us"]["p99"]);
    const json lives = json::parse(textOf(trace));
    std::set<int> threads;
    std::size_t spans = 0;
    for (const auto& event : lives.at("traceEvents"))
        if (event.at("ph") == "X") {
            threads.insert(event.at("tid").get<int>());
            ++spans;
        }
    EXPECT_EQ(threads, (std::set<int>{0, 1, 2}));
    EXPECT_GE(spans, result["chunks"]["generated"].get<std::size_t>());
}

TEST(Cli, FlyDrawsAndCountsHitchesAgainstTheSameRouteWithEverythingThere)
{
    const Ran ran = cli("fly --json --frames 20 --size 160x100 --set stream.distance=2");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json result = ran.parsed();
    EXPECT_FALSE(result["driver"].get<std::string>().empty());
    EXPECT_GT(result["reference_ms"]["p50"], 0);
    EXPECT_GT(result["drawn"]["triangles"], 0);
    EXPECT_GT(result["rejected"]["octree"], 0);
    EXPECT_GE(result["frame_ms"]["max"], result["frame_ms"]["p50"]);
    EXPECT_LE(result["hitches"], 20);
}

TEST(Cli, FlyLightsWhatTheModeSays)
{
    const auto fly = [](const std::string& more) {
        const Ran ran = cli("fly --json --no-draw --frames 3 --world gallery --route gallery --set stream.distance=2 "
                            "--set chunk.edge=16 --set light.mode="
            + more);
        EXPECT_EQ(ran.code, 0) << ran.err;
        return ran.parsed();
    };
    const json none = fly("none"), plain = fly("lamp-sky"), coloured = fly("colour-sky");
    EXPECT_EQ(none["chunks"]["lit"], 0);
    EXPECT_EQ(none["resident"]["light_bytes"], 0);
    EXPECT_EQ(plain["chunks"]["lit"], plain["chunks"]["meshed"]);
    EXPECT_GT(plain["chunks"]["lit"], 10);
    EXPECT_GT(plain["resident"]["light_bytes"], 0);
    EXPECT_GT(coloured["resident"]["light_bytes"], plain["resident"]["light_bytes"]);
    EXPECT_GT(plain["resident"]["mesh_bytes"], none["resident"]["mesh_bytes"]) << "quads are cut where light bends";
    expectOneSentence(cli("fly --set light.mode=rainbow"), "lamp-colour-sky or colour-sky");
}

TEST(Cli, APictureIsDarkerAtNight)
{
    const test::TempFolder folder;
    const auto picture = [&](const std::string& sun) {
        const std::string file = (folder.path() / ("p" + sun + ".png")).string();
        EXPECT_EQ(cli("picture --world gallery --set stream.distance=2 --width 64 --height 40 --sun=" + sun + " --out "
                      + file)
                      .code,
            0);
        return std::filesystem::file_size(file);
    };
    EXPECT_NE(picture("46"), picture("-18"));
    expectOneSentence(cli("picture --sun 91 --out " + (folder.path() / "x.png").string()), "-18 to 60");
}

TEST(Cli, FlyStraightOnKeepsItsBytes)
{
    const Ran ran = cli("fly --json --straight 2 --world level --set stream.distance=3");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json straight = ran.parsed()["straight"];
    ASSERT_EQ(straight["bytes"].size(), 2u);
    EXPECT_GT(straight["metres_per_s"], 0);
    const double first = straight["bytes"][0]["world_bytes"], last = straight["bytes"][1]["world_bytes"];
    EXPECT_NEAR(last, first, first / 3) << "level ground everywhere, but for chunks that are on their way";
}

TEST(Cli, FlyRefusesWhatItCannotFly)
{
    expectOneSentence(cli("fly --frames 0"), "--frames");
    expectOneSentence(cli("fly --speed -1"), "--speed");
    EXPECT_EQ(cli("fly --route nowhere").code, 2);
    EXPECT_EQ(cli("fly --no-draw --frames 1 --trace /nowhere/t.json").code, 4);
}

} // namespace
} // namespace fell::cli_test
