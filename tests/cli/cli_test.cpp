// SPDX-License-Identifier: Apache-2.0
// Runs the real fell-cli as a script would: exit codes, JSON on standard output, one sentence on standard error.
#include "cli/cli_runner.h"
#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/temp_folder.h"
#include <fell/demo/demo_folder.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <chrono>
#include <csignal>
#include <cstdlib>
#include <set>
#include <sys/wait.h>

namespace fell::cli_test {
namespace {

using nlohmann::json;
using namespace test;

TEST(Cli, StagesListsEveryStageWithItsMethods)
{
    const Ran ran = runAlone("stages --json");
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
    EXPECT_EQ(runAlone("stages").code, 0);
}

TEST(Cli, MeshComparesMethodsOnTheSameChunks)
{
    const Ran ran = runAlone("mesh --chunks 6 --repeat 1 --edge 16 --json");
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
    EXPECT_EQ(runAlone("mesh --chunks 2 --repeat 1 --mesher exposed --layout floats,packed").code, 0);
    const json bevelled
        = runAlone("mesh --chunks 6 --repeat 1 --edge 16 --mesher exposed,bevelled --json").parsed()["rows"];
    EXPECT_GT(bevelled[1]["triangles"], bevelled[0]["triangles"]);
    EXPECT_NE(bevelled[1]["digest"], bevelled[0]["digest"]) << "another surface";
}

TEST(Cli, StoreHoldsTheSameChunksInEveryForm)
{
    const Ran ran = runAlone("store --chunks 3 --edge 16 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json result = ran.parsed();
    ASSERT_EQ(result["rows"].size(), 6u);
    for (const auto& row : result["rows"]) {
        EXPECT_TRUE(row["same"]);
        for (const char* key : {"bytes_per_chunk", "build_ns", "random_read_ns", "row_read_ns", "edit_ns"})
            EXPECT_GT(row[key], 0) << row["form"] << " " << key;
    }
    EXPECT_GE(result["rows"][0]["bytes_per_chunk"], 8192);
    const Ran wrong = runAlone("store --form stack");
    EXPECT_EQ(wrong.code, 2);
    expectOneSentence(wrong, "octree-narrow");
}

TEST(Cli, AuditMeshFindsNoDifference)
{
    const Ran ran = runAlone("audit mesh --cases 40 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json row = ran.parsed()["rows"][0];
    EXPECT_EQ(row["audit"], "mesh");
    EXPECT_EQ(row["differences"], 0);
    EXPECT_EQ(row["cases"], (40 + 16) * 5 * 2) << "random neighbourhoods and chunks of the world";
    EXPECT_EQ(runAlone("audit shadows").code, 2);
}

TEST(Cli, LightFloodsTheSameRegionInEveryMode)
{
    const Ran ran = runAlone("light --box 2x2x2 --lamps 20 --repeat 1 --json");
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
    const Ran wrong = runAlone("light --box 2x2");
    EXPECT_EQ(wrong.code, 2);
    expectOneSentence(wrong, "8x4x8");
}

TEST(Cli, AuditLightFindsNoDifference)
{
    const Ran ran = runAlone("audit light --cases 20 --json");
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
        const Ran ran = runAlone(few + seams);
        EXPECT_EQ(ran.code, 0) << seams << ran.err;
        EXPECT_GT(ran.parsed()["rows"][0]["cases"], 1000) << seams;
        EXPECT_EQ(ran.parsed()["rows"][0]["differences"], 0) << seams;
    }
    const Ran open = runAlone(few + "open");
    EXPECT_EQ(open.code, 1) << "what was checked does not hold";
    EXPECT_GT(open.parsed()["rows"][0]["differences"], 0);
    EXPECT_NE(open.parsed()["rows"][0]["first"], "");
}

TEST(Cli, AuditCullLosesNothingByAnyExactStep)
{
    const Ran ran
        = runAlone("audit cull --world gallery --views 12 --set chunk.edge=16 --set stream.distance=3 --json");
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
    EXPECT_EQ(runAlone("audit cull --views 1").code, 2);
}

TEST(Cli, ExportsVoxelsAndLightOfABoxAsNumbers)
{
    const test::TempFolder folder;
    const std::string voxels = (folder / "v.nrrd").string(), light = (folder / "l.nrrd").string();
    ASSERT_EQ(runAlone("export voxels --box 0,-40,0,40,-20,8 --out " + voxels).code, 0);
    ASSERT_EQ(runAlone("export light --mode colour --box 0,-40,0,40,-20,8 --out " + light).code, 0);
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
    EXPECT_EQ(runAlone("export light --mode none --out " + light).code, 2);
    EXPECT_EQ(runAlone("export voxels --format glb --out " + voxels).code, 2);
}

TEST(Cli, ExportWritesAFileAndCountsIt)
{
    const TempFolder folder;
    for (const std::string format : {"glb", "ply"}) {
        const auto file = folder / ("box." + format);
        const Ran ran
            = runAlone("export mesh --format " + format + " --box 0,-8,0,24,24,24 --json --out " + file.string());
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
        {"mesh --setup far", "near, plain or valley"},
        {"mesh --set mesh.colour=red", "is no setting; allowed are"},
        {"transect --vary stream.distance=0", "from 1 to 1024"},
        {"fly --set stream.distance=49", "without levels of detail is at most 48"},
        {"audit seams --setup near", "long-view"},
        {"transect --vary stream.speed=1", "varies no setting; allowed are"},
        {"transect --route moon", "beck-to-summit"},
        {"transect --rounds 0", "1 to 50"},
        {"transect --size 5", "WIDTHxHEIGHT"},
        {"export mesh --format stl --out " + out, "glb, ply or obj"},
        {"export mesh --box 1,2,3 --out " + out, "six whole numbers"},
        {"export mesh --box 0,0,0,9999,1,1 --out " + out, "at most 1024"},
    };
    for (const auto& [arguments, part] : cases) {
        const Ran ran = runAlone(arguments);
        EXPECT_EQ(ran.code, 2) << arguments;
        expectOneSentence(ran, part);
    }
    EXPECT_FALSE(std::filesystem::exists(out));
}

TEST(Cli, ATypingErrorIsAnsweredWithTheNearestName)
{
    const std::pair<std::string, std::string> cases[]{
        {"mehs", "did you mean \"mesh\"?"},
        {"mesh --chunk 3", "did you mean --chunks?"},
        {"world pakc a b", "fell-cli world --help"},
        {"mesh --mesher gredy", "\"gredy\" is not known, allowed are"},
        {"mesh --mesher gredy", "did you mean \"greedy\"?"},
        {"mesh --set mesher=every", "did you mean \"mesh.mesher\"?"},
        {"fly --no-draw --set cull.steps=distnace", "did you mean \"distance\"?"},
        {"mesh --set chunk.edge", "path=value is expected"},
        {"transect --vary stream.distnace=1,2", "did you mean \"stream.distance\"?"},
        {"mesh --world corowdale", "did you mean \"corrowdale\"?"},
        {"mesh --setup nera", "did you mean \"near\"?"},
        {"transect --route beck", "did you mean \"beck-to-summit\"?"},
        {"audit mehs", "did you mean \"mesh\"?"},
    };
    for (const auto& [arguments, part] : cases) {
        const Ran ran = runAlone(arguments);
        EXPECT_EQ(ran.code, 2) << arguments;
        expectOneSentence(ran, part);
    }
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
            "/height/layers/0/noise/octaves: is 50, a whole number from 1 to 12 is expected"},
        {withChange("\"octaves\": 5", "\"octave\": 5"), "/height/layers/0/noise/octave: is not a known key"},
        {withChange("\"seed\": 1847", "\"seed\": \"1847\""),
            "/seed: is a text, a whole number from 0 to 18446744073709551615 is expected"},
        {"\x7f"
         "ELF",
            "is no JSON"},
    };
    for (const auto& [text, part] : cases) {
        const auto file = folder.write("recipe.json", text);
        const Ran ran = runAlone("export mesh --world " + file.string() + " --out " + (folder / "x.ply").string());
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
        = runAlone("export mesh --box -256,-64,-256,256,200,256 --out " + (folder / "no" / "such" / "x.ply").string());
    EXPECT_EQ(ran.code, 4);
    expectOneSentence(ran, "does not exist");
    const auto file = folder.write("f", "");
    EXPECT_EQ(runAlone("transect --rounds 50 --out " + file.string()).code, 4);
    EXPECT_LT(std::chrono::steady_clock::now() - start, std::chrono::seconds(20))
        << "the work itself would take longer";
}

TEST(Cli, CtrlCEndsItWithinASecondAndLeavesNoFile)
{
    const TempFolder folder;
    const auto start = std::chrono::steady_clock::now();
    const Ran ran = runAlone("export mesh --set generate.method=samples --box -512,-64,-512,512,60,512 --out "
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
        return runAlone(audit,
            there + " sh -c '\"$@\" & p=$!; while [ -z \"$(ls -A " + folder.path().string()
                + ")\" ]; do sleep 0.02; done; kill -" + signal + " $p; wait $p' _");
    };
    EXPECT_EQ(endedBy("TERM").code, 130);
    EXPECT_TRUE(left().empty());
    (void)endedBy("KILL");
    ASSERT_EQ(left().size(), 1u) << "killed while its file was there";
    std::filesystem::last_write_time(
        left().front(), std::filesystem::file_time_type::clock::now() - std::chrono::hours(1));
    EXPECT_EQ(runAlone("audit keep --cases 200", there).code, 0);
    EXPECT_TRUE(left().empty()) << "the next command removed it";
}

TEST(Cli, OddArgumentsGetASentenceThatHelps)
{
    const TempFolder folder;
    const auto empty = folder.write("e.json", "{}");
    expectOneSentence(runAlone("mesh --setup " + empty.string()), "/format: is missing, one of fell-setup is expected");
    expectOneSentence(runAlone("reach --budget nan"), "is not a finite number");
    const Ran small = runAlone("picture --set stream.distance=2 --out " + (folder / "p.png").string(),
        "sh -c 'ulimit -v 300000; exec \"$@\"' _");
    EXPECT_EQ(small.code, 3);
    expectOneSentence(small, "ulimit -v 1048576");
    const std::string fly = "fly --no-draw --frames 1 --set stream.distance=1 --set cull.steps=octree";
    EXPECT_EQ(runAlone(fly + "+distance").code, 0) << "as in --vary";
    EXPECT_EQ(runAlone(fly + ",distance").code, 0);
}

TEST(Cli, QuietLeavesProgressOutAndErrorsIn)
{
    const std::string fly = "fly --no-draw --frames 10 --set stream.distance=1";
    EXPECT_NE(runAlone(fly).err.find("%"), std::string::npos);
    const Ran quiet = runAlone(fly + " --quiet");
    EXPECT_EQ(quiet.code, 0);
    EXPECT_EQ(quiet.err, "");
    EXPECT_NE(quiet.out.find("Corrowdale"), std::string::npos);
    EXPECT_EQ(runAlone("world verify nowhere.fell --quiet").code, 2);
    expectOneSentence(runAlone("mesh --quiet --set mesh.mesher=no"), "mesh.mesher");
}

TEST(Cli, PictureDrawsAViewIntoAPng)
{
    const TempFolder folder;
    const Ran ran
        = runAlone("picture --set stream.distance=2 --width 64 --height 40 --out " + (folder / "p.png").string());
    ASSERT_EQ(ran.code, 0) << ran.err;
    EXPECT_EQ(textOf(folder / "p.png").substr(1, 3), "PNG");
    // Next to full detail: at the finest error the same picture, in coarse rings another.
    const std::string picture
        = "picture --setup long-view --set lod.scheme=error --set stream.distance=8 --along 0.9 --width 160 "
          "--height 100 --out "
        + (folder / "l.png").string() + " --full-detail " + (folder / "f.png").string() + " --set lod.error=";
    const Ran same = runAlone(picture + "0.25"), other = runAlone(picture + "8");
    ASSERT_EQ(same.code, 0) << same.err;
    EXPECT_NE(same.out.find("differ by 0.000 of 255"), std::string::npos) << same.out;
    EXPECT_EQ(other.out.find("differ by 0.000 of 255"), std::string::npos) << other.out;
    EXPECT_NE(other.out.find("of 255 on average"), std::string::npos);
    expectOneSentence(runAlone("picture --setup long-view --out " + (folder / "l.png").string() + " --full-detail "
                          + (folder / "f.png").string()),
        "at most 48 chunks");
    EXPECT_EQ(runAlone("picture --along 3 --out " + (folder / "q.png").string()).code, 2);
}

TEST(Cli, HelpIsForPeopleAndExitsWith0)
{
    for (const char* command : {"--help", "mesh --help", "transect --help", "export mesh --help"}) {
        const Ran ran = runAlone(command);
        EXPECT_EQ(ran.code, 0) << command;
        EXPECT_NE(ran.out.find("--"), std::string::npos);
    }
}

TEST(Cli, APictureIsDarkerAtNight)
{
    const test::TempFolder folder;
    const auto picture = [&](const std::string& sun) {
        const std::string file = (folder.path() / ("p" + sun + ".png")).string();
        EXPECT_EQ(runAlone("picture --world gallery --set stream.distance=2 --width 64 --height 40 --sun=" + sun
                      + " --out " + file)
                      .code,
            0);
        return std::filesystem::file_size(file);
    };
    EXPECT_NE(picture("46"), picture("-18"));
    expectOneSentence(runAlone("picture --sun 91 --out " + (folder.path() / "x.png").string()), "-18 to 60");
}

} // namespace
} // namespace fell::cli_test
