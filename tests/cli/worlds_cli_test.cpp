// SPDX-License-Identifier: Apache-2.0
// Worlds from outside in every command that measures: an imported volume, a file with edits, a world with nothing in
// it. The program itself is run, as scripts do.
#include "cli/cli_runner.h"
#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <sys/wait.h>

namespace fell::worlds_cli_test {
namespace {

namespace fs = std::filesystem;
using nlohmann::json;
using namespace test;

class CliWorlds : public testing::Test {
protected:
    Ran cli(const std::string& arguments) { return runCli(folder.path(), arguments); }

    /// A solid cube in a volume of 64 x 64 x 64, `edge` voxels long, whose lowest corner is at 10, 10, 10 of it.
    void makeVolume(int edge)
    {
        constexpr int kAll = 64;
        std::string voxels(static_cast<std::size_t>(kAll) * kAll * kAll, '\0');
        for (int z = 10; z < 10 + edge; ++z)
            for (int y = 10; y < 10 + edge; ++y)
                for (int x = 10; x < 10 + edge; ++x)
                    voxels[static_cast<std::size_t>((z * kAll + y) * kAll + x)] = 1;
        std::ofstream(folder / "v.nrrd", std::ios::binary)
            << "NRRD0004\ntype: uint8\ndimension: 3\nsizes: 64 64 64\nencoding: raw\n\n"
            << voxels;
    }

    void importVolume(int edge, const std::string& at = "0,0,0")
    {
        makeVolume(edge);
        fs::remove(folder / "v.fell");
        const Ran made = cli("world import v.nrrd v.fell --threshold 0.5 --json --at=" + at);
        ASSERT_EQ(made.code, 0) << made.err;
        EXPECT_EQ(made.parsed()["bytes"], fs::file_size(folder / "v.fell"));
    }

    /// Exit code 2 and one sentence that holds `part`.
    void expectRefused(const std::string& arguments, const std::string& part)
    {
        const Ran ran = cli(arguments);
        EXPECT_EQ(ran.code, 2) << arguments << "\n" << ran.err;
        EXPECT_NE(ran.err.find(part), std::string::npos) << arguments << "\n" << ran.err;
        EXPECT_TRUE(ran.out.empty()) << "no table of zeros: " << ran.out;
    }

    test::TempFolder folder;
};

TEST_F(CliWorlds, MeshMeasuresAnImportedVolumeWhereverItLies)
{
    constexpr int kEdge = 40;
    for (const char* at : {"0,0,0", "-5000,900,77777"}) {
        importVolume(kEdge, at);
        const Ran ran = cli("mesh --world v.fell --chunks 4096 --repeat 1 --mesher exposed,greedy-bits --json");
        ASSERT_EQ(ran.code, 0) << ran.err;
        const json rows = ran.parsed()["rows"];
        EXPECT_EQ(rows[0]["quads"], 6 * kEdge * kEdge) << "every side of the cube and nothing else, at " << at;
        EXPECT_EQ(rows[0]["digest"], rows[1]["digest"]);
    }
}

TEST_F(CliWorlds, EveryCommandMeasuresTheVolume)
{
    importVolume(40);
    const Ran store = cli("store --world v.fell --chunks 4 --form palette --json");
    ASSERT_EQ(store.code, 0) << store.err;
    EXPECT_GT(store.parsed()["rows"][0]["bytes_per_chunk"], 1000) << "146 bytes are one uniform chunk";
    const Ran light = cli("light --world v.fell --box 4x4x4 --lamps 8 --repeat 1 --json");
    ASSERT_EQ(light.code, 0) << light.err;
    EXPECT_EQ(light.parsed()["rows"][0]["lamps"], 8);
    const Ran transect
        = cli("transect --world v.fell --vary stream.distance=4 --rounds 2 --frames 2 --no-draw --no-audit --json");
    ASSERT_EQ(transect.code, 0) << transect.err;
    EXPECT_GT(transect.parsed()["rows"][0]["mesh_ns"]["samples"], 0);
    EXPECT_EQ(transect.parsed()["route"], "around the edits");
    for (const char* audit : {"mesh --cases 2", "order --cases 27", "keep --cases 200", "light --cases 2"})
        EXPECT_EQ(cli(std::string("audit --world v.fell ") + audit).code, 0) << audit;
}

TEST_F(CliWorlds, AGateReadsWorldRouteAndRoundsFromItsBaseline)
{
    importVolume(40);
    const Ran base
        = cli("transect --world v.fell --vary stream.distance=3 --rounds 3 --frames 2 --no-draw --no-audit --out b");
    ASSERT_EQ(base.code, 0) << base.err;
    const Ran same = cli("gate --baseline b/transect.json --allow 300% --json");
    ASSERT_TRUE(same.code == 0 || same.code == 5) << "times may be too uneven to tell: " << same.err;
    bool hasDigest = false;
    const json rows = same.parsed()["rows"];
    for (const auto& row : rows)
        hasDigest |= row["what"] == "mesh_digest" && row["verdict"] == "within";
    EXPECT_TRUE(hasDigest);
    // The world is another one now: the file has the same name, and one layer of the cube is gone.
    importVolume(39);
    const Ran other = cli("gate --baseline b/transect.json --allow 300%");
    EXPECT_EQ(other.code, 1) << other.out << other.err;
    EXPECT_NE(other.out.find("not those of the baseline"), std::string::npos) << other.out;
}

TEST_F(CliWorlds, NothingToMeasureIsSaid)
{
    expectRefused("mesh --world solid --mesher exposed,greedy --chunks 2 --repeat 1", "has nothing to mesh");
    expectRefused("light --world solid --box 2x2x2 --repeat 1", "no lamp can stand");
    expectRefused("transect --world solid --vary stream.distance=1 --rounds 2 --frames 1 --no-draw",
        "has nothing to mesh or draw along");
    EXPECT_EQ(
        cli("mesh --world gallery --chunks 2 --repeat 1 --mesher exposed --json").parsed()["rows"][0]["quads"] > 0,
        true);
}

TEST_F(CliWorlds, OptionsThatWouldChangeNothingAreRefused)
{
    expectRefused("store --set stream.distance=3", "changes nothing here");
    expectRefused("store --setup nosuch", "nosuch");
    expectRefused("light --set mesh.mesher=every", "changes nothing here");
    expectRefused("mesh --set mesh.mesher=every", "changes nothing here");
    expectRefused("audit mesh --set stream.distance=2", "changes nothing here");
    expectRefused("audit cull --set chunk.edge=64", "changes nothing here");
    expectRefused("fly --straight 2 --frames 5", "changes nothing here");
    expectRefused("fly --no-draw --size 99x99", "changes nothing here");
    expectRefused("transect --no-draw --size 99x99", "changes nothing here");
    expectRefused("reach --budget 0", "--budget");
    makeVolume(8);
    expectRefused("world import v.nrrd w.fell --threshold 0.5 --heights 0,5", "changes nothing here");
    EXPECT_NE(cli("world ways --setup nosuch").code, 0);
    EXPECT_EQ(cli("store --chunks 1 --form array --set chunk.edge=16 --json").parsed()["edge"], 16) << "and this works";
}

TEST_F(CliWorlds, OneLineComparesTwoWaysOfMeshing)
{
    const Ran ran = cli("mesh --a mesh.mesher=every --b mesh.mesher=greedy-bits --chunks 4 --repeat 3 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json found = ran.parsed();
    EXPECT_EQ(found["differences"][0]["path"], "mesh.mesher");
    EXPECT_EQ(found["same_surface"], true);
    EXPECT_EQ(found["rows"][0]["mesher"], "every");
    EXPECT_GT(found["rows"][0]["quads"], found["rows"][1]["quads"].get<int>() * 10);
    EXPECT_LE(found["ratios"][0]["low"], found["ratios"][0]["ratio"]);
    EXPECT_LE(found["ratios"][0]["ratio"], found["ratios"][0]["high"]);
    EXPECT_LT(found["ratios"][0]["low"], found["ratios"][0]["high"]);
    const Ran edges = cli("mesh --a chunk.edge=16 --b chunk.edge=32 --chunks 4 --repeat 2 --json");
    EXPECT_EQ(edges.code, 0) << edges.err;
    expectRefused("mesh --a mesh.mesher=greedy-bits", "make no difference");
    expectRefused("mesh --a stream.distance=3", "changes nothing here");
    expectRefused("mesh --a mesh.mesher=every --mesher exposed", "changes nothing here");
    const Ran vary = cli("transect --vary mesh.mesher=exposed,greedy-bits --set stream.distance=2 --rounds 2 --frames "
                         "1 --no-draw --no-audit "
                         "--json");
    ASSERT_EQ(vary.code, 0) << vary.err;
    EXPECT_EQ(vary.parsed()["ratios"][0]["to"], "exposed");
    EXPECT_EQ(vary.parsed()["ratios"][0]["value"], "greedy-bits");
}

TEST_F(CliWorlds, AnExportHasTheFormatOfItsEndingAndSaysWhatItLeavesOut)
{
    importVolume(40);
    for (const char* format : {"glb", "ply", "obj"}) {
        const std::string out = std::string("box.") + format;
        const Ran ran
            = cli("export mesh --world v.fell --set mesh.mesher=greedy-bits --box 0,0,0,64,64,64 --json --out " + out);
        ASSERT_EQ(ran.code, 0) << ran.err;
        EXPECT_EQ(ran.parsed()["bytes"], fs::file_size(folder / out));
        const std::string head = textOf(folder / out).substr(0, 4);
        EXPECT_EQ(head, std::string(format) == "glb" ? "glTF" : std::string(format) == "ply" ? "ply\n" : "# on");
    }
    EXPECT_TRUE(fs::exists(folder / "box.mtl"));
    // A cube that no chunk border cuts through would be six rectangles; borders at 32 cut each into four.
    EXPECT_EQ(
        cli("export mesh --world v.fell --box 0,0,0,64,64,64 --json --out c.ply").parsed()["triangles"], 6 * 4 * 2);
    expectRefused("export mesh --world v.fell --format ply --out c.glb", "does not fit --out");
    expectRefused(
        "export mesh --world v.fell --box 0,200,0,8,208,8 --out none.glb", "the ground at its middle is at y = ");
    EXPECT_FALSE(fs::exists(folder / "none.glb"));
}

TEST_F(CliWorlds, APackedWorldOpensWhereNothingElseOfItIs)
{
    importVolume(20);
    ASSERT_EQ(cli("world pack v.fell p.fell").code, 0);
    ASSERT_EQ(cli("world pack corrowdale dale.fell").code, 0);
    expectRefused("world pack v.fell p.fell", "is there already");
    fs::create_directories(folder / "far/away");
    for (const char* name : {"p.fell", "dale.fell"})
        fs::rename(folder / name, folder / "far/away" / name);
    fs::remove(folder / "v.fell");
    const Ran info = cli("world info far/away/p.fell --json");
    ASSERT_EQ(info.code, 0) << info.err;
    EXPECT_EQ(info.parsed()["edits"], 20 * 20 * 20);
    const Ran mesh = cli("mesh --world far/away/p.fell --chunks 64 --repeat 1 --mesher exposed --json");
    ASSERT_EQ(mesh.code, 0) << mesh.err;
    EXPECT_EQ(mesh.parsed()["rows"][0]["quads"], 6 * 20 * 20);
    const Ran dale = cli("recipe check far/away/dale.fell --json");
    ASSERT_EQ(dale.code, 0) << dale.err;
    EXPECT_EQ(dale.err.find("replaces it"), std::string::npos) << "its models are in the file: " << dale.err;
}

TEST_F(CliWorlds, TheLedgerSaysWhatItDidAndMakesNoFileByBeingRead)
{
    for (const char* command : {"list", "show 1", "remove 1", "pin 1"})
        expectRefused(std::string("ledger ") + command + " --ledger typo/deep.db", "there is no such file");
    EXPECT_FALSE(fs::exists(folder / "typo"));
    ASSERT_EQ(cli("transect --set chunk.edge=16 --set light.mode=none --vary stream.distance=1 --rounds 2 --frames 1 "
                  "--no-draw --no-audit --ledger l.db")
                  .code,
        0);
    expectRefused("ledger remove 1 77 --ledger l.db", "trial 77");
    const Ran list = cli("ledger list --ledger l.db --json");
    ASSERT_EQ(list.code, 0) << list.err;
    EXPECT_EQ(list.parsed()["trials"].size(), 1u) << "trial 1 is still there: all of them or none";
    const Ran tag = cli("ledger tag 1 quarry --ledger l.db --json");
    EXPECT_EQ(tag.parsed()["did"], "tag");
    ASSERT_EQ(cli("ledger export e.json 1 1 1 --ledger l.db").code, 0);
    EXPECT_EQ(json::parse(textOf(folder / "e.json"))["trials"].size(), 1u) << "once, however often it is named";
    EXPECT_EQ(cli("ledger remove 1 --ledger l.db --json").parsed()["did"], "remove");
}

TEST_F(CliWorlds, DevicesAreListedAndAQuickAuditTakesNoNumbers)
{
    const Ran devices = cli("fly --device list");
    EXPECT_EQ(devices.code, 0) << devices.err;
    EXPECT_FALSE(devices.out.empty());
    expectRefused("fly --frames 1 --device -3", "--device");
    expectRefused("audit order --quick --cases 5", "changes nothing here");
    const Ran quick = cli("audit order --quick --json");
    ASSERT_EQ(quick.code, 0) << quick.err;
    EXPECT_EQ(quick.parsed()["rows"][0]["cases"], 135);
    expectRefused("nosuch", "is no command of fell-cli");
    expectRefused("fly --route ''", "is empty");
}

} // namespace
} // namespace fell::worlds_cli_test
