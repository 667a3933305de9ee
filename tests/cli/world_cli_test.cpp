// SPDX-License-Identifier: Apache-2.0
// World files from the command line, as a script would.
#include "cli/cli_runner.h"
#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/make_png.h"
#include "support/temp_folder.h"
#include <fell/demo/demo_folder.h>
#include <fell/save/world_file.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <cstdlib>
#include <fstream>
#include <sys/wait.h>

namespace fell::world_cli_test {
namespace {

using nlohmann::json;
using namespace test;

class CliWorld : public testing::Test {
protected:
    Ran cli(const std::string& arguments) { return runCli(folder.path(), arguments); }
    /// Places a stack of the first block at each of these columns.
    void build(std::int64_t high)
    {
        const auto world = WorldFile::open(file).take();
        WorldChanges changes;
        std::vector<VoxelChange> tower;
        for (std::int64_t y = -4; y < high; ++y)
            tower.push_back({{3, y, 3}, kOpen, 1});
        changes.set(tower);
        ASSERT_FALSE(world->save(storedFromChanges(changes.takeUnsaved())));
    }

    test::TempFolder folder;
    std::string file = (folder / "dale.fell").string();
};

TEST_F(CliWorld, IsMadeDescribedCheckedAndTidied)
{
    const Ran made = cli("world new " + file + " --world level --seed 9 --json");
    ASSERT_EQ(made.code, 0) << made.err;
    EXPECT_EQ(json::parse(made.out)["seed"], 9);
    EXPECT_EQ(cli("world new " + file + " --world level").code, 2) << "it is there already";
    build(20);
    const json info = json::parse(cli("world info " + file + " --json").out);
    EXPECT_EQ(info["edits"], 24);
    EXPECT_EQ(info["chunks"], 2) << "above and below y 0";
    EXPECT_EQ(info["blocks"][0]["name"], "open");
    EXPECT_EQ(info["damaged"].size(), 0u);
    EXPECT_EQ(cli("world verify " + file).code, 0);
    const Ran compact = cli("world compact " + file + " --json");
    ASSERT_EQ(compact.code, 0) << compact.err;
    const json after = json::parse(compact.out);
    EXPECT_LE(after["edits"], 20) << "what the level ground has anyway below y 0 is forgotten";
    EXPECT_GT(after["edits"], 0);
}

TEST_F(CliWorld, ADamagedRowIsNamedAndTheExitCodeSaysSo)
{
    ASSERT_EQ(cli("world new " + file + " --world level --group chunk").code, 0);
    build(20);
    std::string bytes = test::textOf(file);
    const std::size_t at = bytes.find("\x28\xB5\x2F\xFD"); // where zstd begins
    ASSERT_NE(at, std::string::npos);
    bytes[at + 8] = static_cast<char>(bytes[at + 8] ^ 0x55);
    std::ofstream(file, std::ios::binary | std::ios::trunc) << bytes;
    const Ran ran = cli("world verify " + file + " --json");
    EXPECT_EQ(ran.code, 1) << ran.err;
    EXPECT_EQ(json::parse(ran.out)["damaged"].size(), 1u);
    EXPECT_EQ(cli("world info /nowhere.fell").code, 2);
}

TEST_F(CliWorld, IsDrawnWithWhatWasChanged)
{
    ASSERT_EQ(cli("world new " + file + " --world level").code, 0);
    const std::string view = " --set stream.distance=2 --width 64 --height 48 --out ";
    const Ran before = cli("picture --world " + file + view + (folder / "a.png").string());
    ASSERT_TRUE(before.code == 0 || before.code == 3) << before.err;
    build(40);
    const Ran fly
        = cli("fly --no-draw --world " + file + " --set stream.distance=2 --frames 4 --route beck-to-summit --json");
    EXPECT_EQ(fly.code, 0) << fly.err;
    EXPECT_EQ(fly.err.find("left out"), std::string::npos);
    EXPECT_EQ(cli("mesh --chunks 1 --repeat 1 --world " + file).err.find("left out"), std::string::npos)
        << "it measures what was changed";
}

/// What is exported, imported and exported again is the same, voxel by voxel, edits included.
TEST_F(CliWorld, AVolumeGoesOutAndComesInAgain)
{
    ASSERT_EQ(cli("world new " + file + " --world level").code, 0);
    build(20);
    const std::string box = " --box=-5,-6,-7,27,24,20 --out ", first = (folder / "a.nrrd").string(),
                      second = (folder / "b.nrrd").string(), other = (folder / "again.fell").string();
    ASSERT_EQ(cli("export voxels --world " + file + box + first).code, 0);
    const std::string bytes = test::textOf(folder / "a.nrrd");
    const std::string_view data = std::string_view(bytes).substr(bytes.find("\n\n") + 2);
    const auto at = [&](int x, int y, int z) { // x fastest
        return data[static_cast<std::size_t>(2 * (((z + 7) * 30 + y + 6) * 32 + x + 5))];
    };
    EXPECT_EQ(at(3, 19, 3), 1) << "the tower that was built";
    EXPECT_EQ(at(4, 19, 3), 0);
    const Ran in = cli("world import " + first + " " + other + " --like level --at=-5,-6,-7 --json");
    ASSERT_EQ(in.code, 0) << in.err;
    EXPECT_EQ(json::parse(in.out)["size"], json({32, 30, 27}));
    ASSERT_EQ(cli("export voxels --world " + other + box + second).code, 0);
    EXPECT_EQ(test::textOf(folder / "b.nrrd"), bytes);
    EXPECT_EQ(cli("world import " + first + " " + other).code, 2) << "it is there already";
    EXPECT_EQ(test::textOf(folder / "b.nrrd"), bytes);
    const Ran none = cli("world import " + file + " " + (folder / "c.fell").string());
    EXPECT_EQ(none.code, 2);
    EXPECT_NE(none.err.find("neither a height map"), std::string::npos) << none.err;
    const Ran light = cli("export light --world " + file + " --mode lamp-sky" + box + (folder / "l.nrrd").string());
    EXPECT_EQ(light.code, 0) << light.err;
}

TEST_F(CliWorld, AHeightMapBecomesAWorldWithThatGround)
{
    const std::string png = (folder / "dem.png").string(), out = (folder / "v.nrrd").string();
    test::makePng(png, "8", 64, 64, "x * 2");
    const Ran in = cli("world import " + png + " " + file + " --metres 1 --heights 0,51 --material slate --json");
    ASSERT_EQ(in.code, 0) << in.err;
    EXPECT_EQ(json::parse(in.out)["metres_across"], json({64.0, 64.0}));
    ASSERT_EQ(cli("export voxels --world " + file + " --box=-32,0,0,32,32,1 --out " + out).code, 0);
    const std::string bytes = test::textOf(folder / "v.nrrd");
    const std::string_view data = std::string_view(bytes).substr(bytes.find("\n\n") + 2);
    for (int x = 1; x < 63; ++x) {
        int high = 0;
        for (int y = 0; y < 32; ++y)
            high += data[static_cast<std::size_t>(2 * (y * 64 + x))] != 0;
        // 51 m for 255: a fifth of a metre a step, two steps a pixel; the pixel's middle is the voxel's.
        EXPECT_NEAR(high, x * 2 * 0.2, 0.51) << x;
    }
    EXPECT_EQ(cli("world import " + png + " " + file + " --heights 0,51").code, 2) << "it is there already";
    EXPECT_EQ(cli("world import " + png + " " + (folder / "x.fell").string() + " --heights 9,3").code, 2);
    EXPECT_FALSE(std::filesystem::exists(folder / "x.heights"));
}

TEST_F(CliWorld, RecipesAreCheckedShownAndMapped)
{
    EXPECT_EQ(cli("recipe check corrowdale").code, 0);
    std::ofstream(folder / "bad.json") << R"({"format": "fell-recipe", "version": 3})";
    const Ran bad = cli("recipe check " + (folder / "bad.json").string());
    EXPECT_EQ(bad.code, 2);
    EXPECT_NE(bad.err.find("/version"), std::string::npos) << bad.err;
    std::filesystem::copy(demoFolder() / "corrowdale" / "blocks.json", folder / "b.json");
    std::ofstream(folder / "old.json") << R"({"format": "fell-recipe", "version": 1, "name": "old", "seed": 1,
        "blocks": "b.json", "height": {"layers": [{"kind": "ridges", "amplitude": 9, "noise": {"feature": 40}}]},
        "strata": [{"material": "slate"}]})";
    const Ran old = cli("recipe check " + (folder / "old.json").string());
    EXPECT_EQ(old.code, 0) << old.err;
    EXPECT_NE(old.out.find("/height/layers/0/kind: \"ridges\" is called \"least\" now"), std::string::npos) << old.out;
    const json shown = json::parse(cli("recipe show gallery --json").out);
    EXPECT_EQ(shown["layers"].size(), 0u) << "it is a pattern";
    const Ran map = cli(
        "recipe map corrowdale --size 64x48 --metres 8 --look height --json --out " + (folder / "m.png").string());
    ASSERT_EQ(map.code, 0) << map.err;
    EXPECT_EQ(json::parse(map.out)["width"], 64);
    EXPECT_EQ(test::textOf(folder / "m.png").substr(1, 3), "PNG");
    EXPECT_EQ(cli("recipe map corrowdale --look pretty --out " + (folder / "n.png").string()).code, 2);
    EXPECT_EQ(cli("recipe map checker --out " + (folder / "n.png").string()).code, 2);
}

TEST_F(CliWorld, WaysOfKeepingAreComparedAndNothingIsLeft)
{
    const Ran ran = cli("world ways --world level --radius 2 --edits 20 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json out = json::parse(ran.out);
    ASSERT_EQ(out["rows"].size(), 6u);
    for (const json& row : out["rows"])
        EXPECT_EQ(row["same"], true);
    EXPECT_EQ(out["visited_chunks"], 33) << "a ball of radius 2";
    ASSERT_EQ(cli("world new " + file + " --world level").code, 0);
    build(20);
    EXPECT_EQ(json::parse(cli("world ways " + file + " --radius 1 --json").out)["changed_voxels"], 24);
    EXPECT_EQ(cli("world ways --radius 17").code, 2);
}

} // namespace
} // namespace fell::world_cli_test
