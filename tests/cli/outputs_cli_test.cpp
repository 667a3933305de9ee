// SPDX-License-Identifier: Apache-2.0
// Where results go, and what of the outside is refused: standard output that cannot be written, outputs that are
// inputs, crafted files, numbers of another form. The program itself is run, as scripts do.
#include "cli/cli_runner.h"
#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/temp_folder.h"
#include <fell/demo/demo_folder.h>
#include <fell/save/world_file.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <sys/wait.h>
#include <thread>

namespace fell::outputs_cli_test {
namespace {

namespace fs = std::filesystem;
using namespace test;

class CliOutputs : public testing::Test {
protected:
    /// `redirected`: where standard output goes, in the shell's words; else it is read.
    Ran cli(const std::string& arguments, const std::string& redirected = "")
    {
        return runCli(folder.path(), arguments, redirected);
    }
    void expectRefused(const std::string& arguments, const std::string& part, int code = 2)
    {
        const Ran ran = cli(arguments);
        EXPECT_EQ(ran.code, code) << arguments << "\n" << ran.err;
        EXPECT_NE(ran.err.find(part), std::string::npos) << arguments << "\n" << ran.err;
        EXPECT_EQ(std::count(ran.err.begin(), ran.err.end(), '\n'), 1 + (ran.err.find(" %  ") != std::string::npos))
            << "one sentence, after at most one line of progress: " << ran.err;
        EXPECT_EQ(ran.err.find("internal error"), std::string::npos) << ran.err;
    }
    static std::string q(const fs::path& path) { return "'" + path.string() + "'"; }

    test::TempFolder folder;
};

TEST_F(CliOutputs, AResultThatCannotBePrintedIsNoSuccess)
{
    ASSERT_EQ(cli("world new w.fell --world level").code, 0);
    for (const char* command : {"stages", "stages --json", "recipe check corrowdale", "world info w.fell --json"}) {
        EXPECT_EQ(cli(command, " >/dev/full").code, 4) << command;
        EXPECT_EQ(cli(command, " >&-").code, 4) << command;
    }
    // A limit on the size of files: a sentence and its exit code, not a signal.
    const std::string limited = "bash -c 'ulimit -f 1; " + buildFolder() + "/fell-cli stages --json' >"
        + (folder / "cut").string() + " 2>/dev/null";
    const int status = std::system(limited.c_str()); // NOLINT(cert-env33-c,concurrency-mt-unsafe)
    EXPECT_EQ(WEXITSTATUS(status), 4);
}

TEST_F(CliOutputs, AnOutputNeverReplacesAnInput)
{
    ASSERT_EQ(cli("world new w.fell --world level").code, 0);
    const std::string world = textOf(folder / "w.fell");
    fs::create_symlink("w.fell", folder / "link");
    for (const char* out : {"w.fell", "./w.fell", "link"}) {
        expectRefused(std::string("export mesh --world w.fell --out ") + out, "is a file that this command reads");
        expectRefused(
            std::string("fly --no-draw --frames 2 --world w.fell --trace ") + out, "is a file that this command reads");
        expectRefused(std::string("picture --world w.fell --out ") + out, "is a file that this command reads");
    }
    EXPECT_EQ(textOf(folder / "w.fell"), world);
    fs::copy(demoFolder() / "corrowdale", folder / "rc", fs::copy_options::recursive);
    const std::string recipe = textOf(folder / "rc/recipe.json");
    expectRefused("recipe map rc/recipe.json --out rc/recipe.json", "is a file that this command reads");
    EXPECT_EQ(textOf(folder / "rc/recipe.json"), recipe);
    expectRefused("picture --out a.png --full-detail ./a.png", "is the same file");
    expectRefused("export mesh --out ''", "is empty");
    expectRefused("world new ''", "is empty");
    expectRefused("transect --no-draw --ledger '' --keep", "--ledger");
}

TEST_F(CliOutputs, APipeAndADeviceGetTheBytes)
{
    const std::string box = "export mesh --world level --box=-8,-8,-8,8,8,8 --out ";
    ASSERT_EQ(cli(box + "file.glb").code, 0);
    ASSERT_EQ(cli(box + "/dev/stdout", " | head -c 4 >" + (folder / "head").string() + " #").code, 0);
    EXPECT_EQ(textOf(folder / "head"), textOf(folder / "file.glb").substr(0, 4)) << "glTF's magic";
    fs::create_symlink("/dev/null", folder / "null");
    EXPECT_EQ(cli(box + "null").code, 0);
    EXPECT_TRUE(fs::is_character_file(folder / "null"));
}

TEST_F(CliOutputs, SeveralReadOneWorldAtOnce)
{
    ASSERT_EQ(cli("world new w.fell --world level").code, 0);
    const std::string all = "cd " + folder.path().string() + "; for i in 1 2 3 4 5 6 7 8; do (" + buildFolder()
        + "/fell-cli world info w.fell >/dev/null 2>&1 || echo no >>failed) & done; wait";
    ASSERT_EQ(std::system(all.c_str()), 0); // NOLINT(cert-env33-c,concurrency-mt-unsafe)
    EXPECT_FALSE(fs::exists(folder / "failed"));
}

TEST_F(CliOutputs, NumbersOfAnotherFormAreRefusedAndNotReadAsSomethingElse)
{
    for (const char* seed : {"-1", "18446744073709551616", "010", "0x10", "' 5'", "'5 '", "1e3"})
        expectRefused(std::string("mesh --chunks 1 --seed=") + seed, "0 to 2^64-1");
    expectRefused("light --box 4294967298x2x2", "--box");
    expectRefused("fly --no-draw --size 4294967616x200", "--size");
    expectRefused("recipe map corrowdale --size 4294967360x64 --out m.png", "--size");
    expectRefused("transect --no-draw --vary stream.distance=2,2", "twice");
    expectRefused("transect --no-draw --vary stream.distance=2,3 --set stream.distance=1", "is what --vary varies");
    expectRefused("export mesh --out m.glb --box=-9223372036854775808,0,0,1,1,1", "--box");
    expectRefused("mesh --world level --set light.mode=$'\\xe9'", "light.mode");
}

TEST_F(CliOutputs, CraftedFilesAreOneSentence)
{
    const std::string blocks = textOf(demoFolder() / "level/blocks.json");
    (void)folder.write("blocks.json", blocks);
    const fs::path deep = folder.write("deep.json",
        R"({"format": "fell-recipe", "version": 1, "name": )" + std::string(200'000, '[') + std::string(200'000, ']')
            + "}");
    expectRefused("recipe check " + q(deep), "nested deeper");
    expectRefused("ledger import " + q(deep) + " --ledger l.db", "nested deeper");
    expectRefused("ledger import " + q(folder.write("l.json", R"({"format": 5, "trials": []})")) + " --ledger l.db",
        "is no exported ledger");
    expectRefused("gate --baseline " + q(deep), "nested deeper");
    // A model whose scene is none of its, and one whose nodes are named twice on each of 24 levels.
    std::string nodes = R"({"mesh": 0})";
    for (int i = 0; i < 24; ++i)
        nodes += R"(, {"children": [)" + std::to_string(i) + ", " + std::to_string(i) + "]}";
    const std::pair<const char*, std::string> models[]{
        {"scene", R"({"asset": {"version": "2.0"}, "scene": 7, "scenes": [{"nodes": []}]})"},
        {"twice",
            R"({"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [24]}], "nodes": [)" + nodes
                + R"(], "meshes": [{"primitives": []}]})"}};
    for (const auto& [name, text] : models) {
        (void)folder.write(std::string(name) + ".gltf", text);
        (void)folder.write("blocks.json",
            R"({"format": "fell-blocks", "version": 1, "blocks": [{"name": "stone", "side": "#5F6773"},
            {"name": "thing", "side": "#5F6773", "shape": ")"
                + std::string(name) + R"(.gltf"}]})");
        (void)folder.write(
            "recipe.json", R"({"format": "fell-recipe", "version": 2, "name": "x", "seed": 1, "blocks": "blocks.json",
            "pattern": {"kind": "level", "material": "stone", "top": 0}})");
        const Ran ran = cli("mesh --world ./recipe.json --chunks 1");
        EXPECT_LE(ran.code, 2) << name << ran.err;
        EXPECT_EQ(ran.err.find("internal error"), std::string::npos) << name << ran.err;
    }
}

TEST_F(CliOutputs, AnImportThatPlacesNothingSaysSoAndLeavesNothing)
{
    const fs::path volume = folder.write(
        "v.nrrd", "NRRD0004\ntype: uint8\ndimension: 3\nsizes: 4 4 4\nencoding: raw\n\n" + std::string(64, '\1'));
    expectRefused("world import " + q(volume) + " v.fell --ids 99=slate", "none of its 64 voxels");
    expectRefused("world import " + q(volume) + " v.fell --threshold nan", "threshold");
    EXPECT_FALSE(fs::exists(folder / "v.fell"));
    EXPECT_FALSE(fs::exists(folder / "v.fell.part"));
    EXPECT_EQ(cli("world import " + q(volume) + " v.fell --ids 1=slate").code, 0);
    const std::string longName = std::string(79, 'a') + "\xC3\xA4.fell"; // 81 bytes, cut inside the last letter
    EXPECT_EQ(cli("world import " + q(volume) + " " + longName + " --ids 1=slate").code, 0);
}

TEST_F(CliOutputs, ATransectIsPrintedThoughItCannotBeFiled)
{
    fs::create_directories(folder / "out/transect.json"); // where a file is expected
    const Ran ran = cli(
        "transect --no-draw --no-audit --world level --rounds 2 --frames 2 --vary stream.distance=1 --json --out out");
    EXPECT_EQ(ran.code, 4) << ran.err;
    EXPECT_TRUE(nlohmann::json::accept(ran.out)) << ran.out.substr(0, 200);
    EXPECT_TRUE(fs::exists(folder / "out/report.html")) << "what can be written is";
}

TEST_F(CliOutputs, AOrBChangeOneSideOfACommonSetup)
{
    const Ran ran
        = cli("transect --no-draw --no-audit --world level --rounds 2 --frames 2 --vary stream.distance=1 --json "
              "--a mesh.mesher=exposed --b cull.steps=octree,distance,mesh.mesher=greedy-bits");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const auto json = nlohmann::json::parse(ran.out);
    EXPECT_EQ(json["setups"]["A"]["mesh"]["mesher"], "exposed");
    EXPECT_EQ(json["setups"]["B"]["mesh"]["mesher"], "greedy-bits");
    EXPECT_EQ(json["setups"]["B"]["cull"]["steps"], nlohmann::json::array({"octree", "distance"}));
    EXPECT_EQ(json["setups"]["A"]["chunk"], json["setups"]["B"]["chunk"]);
    ASSERT_FALSE(json["ratios"].empty());
    EXPECT_GT(json["ratios"][0]["ratio"], 0);
    expectRefused("transect --no-draw --a mesh.mesher=magic", "magic");
    expectRefused("transect --no-draw --a stream.distance=2", "is what --vary varies");
}

TEST_F(CliOutputs, AWorldFileIsARecipeTooAndProgramsSayTheirVersion)
{
    ASSERT_EQ(cli("world new w.fell --world corrowdale").code, 0);
    const Ran shown = cli("recipe check w.fell"), demo = cli("recipe check corrowdale");
    EXPECT_EQ(shown.code, 0) << shown.err;
    EXPECT_EQ(shown.out, "w.fell" + demo.out.substr(demo.out.find(':')));
    EXPECT_EQ(cli("recipe map w.fell --size 16x16 --out m.png").code, 0);
    const Ran version = cli("--version");
    EXPECT_EQ(version.code, 0);
    EXPECT_EQ(version.out.rfind("fell-cli 0.", 0), 0u) << version.out;
    EXPECT_NE(version.out.find(", commit "), std::string::npos);
    // What it says is what results say.
    const Ran json
        = cli("transect --no-draw --no-audit --world level --rounds 1 --frames 2 --vary stream.distance=1 --json");
    const std::string commit = nlohmann::json::parse(json.out)["machine"]["commit"];
    EXPECT_NE(version.out.find("commit " + commit + ","), std::string::npos) << commit;
}

TEST_F(CliOutputs, AGateNeedsRoundsAndAPathOfItsOwn)
{
    ASSERT_EQ(
        cli("transect --no-draw --no-audit --world level --rounds 2 --frames 2 --vary stream.distance=1 --json").code,
        0);
    fs::copy_file(folder / "stdout", folder / "base.json");
    expectRefused("gate --world level --baseline base.json --rounds 1", "2 to 50 rounds");
    expectRefused("gate --world level --baseline base.json --rounds -5", "2 to 50 rounds");
    expectRefused("gate --world level --baseline base.json --set stream.distance=3", "is what the baseline varies");
    expectRefused("gate --world level --baseline base.json --junit base.json", "is a file that this command reads");
    EXPECT_TRUE(nlohmann::json::accept(textOf(folder / "base.json")));
}

} // namespace
} // namespace fell::outputs_cli_test
