// SPDX-License-Identifier: Apache-2.0
// World files from the command line, as a script would.
#include "keep/world_file.h"
#include "support/temp_folder.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include <cstdlib>
#include <fstream>
#include <sys/wait.h>

namespace fell {
namespace {

using nlohmann::json;

struct Ran {
    int code = -1;
    std::string out, err;
};

class CliWorld : public testing::Test {
protected:
    Ran cli(const std::string& arguments)
    {
        const std::string command = FELL_BINARY_DIR "/fell-cli " + arguments + " >" + (folder / "out").string() + " 2>"
            + (folder / "err").string() + " </dev/null";
        const int status = std::system(command.c_str()); // NOLINT(cert-env33-c,concurrency-mt-unsafe)
        return {
            WIFEXITED(status) ? WEXITSTATUS(status) : -1, test::textOf(folder / "out"), test::textOf(folder / "err")};
    }
    /// Places a stack of the first block at each of these columns.
    void build(std::int64_t high)
    {
        const auto world = WorldFile::open(file).take();
        WorldChanges changes;
        std::vector<VoxelChange> tower;
        for (std::int64_t y = -4; y < high; ++y)
            tower.push_back({{3, y, 3}, kOpen, 1});
        changes.set(tower);
        ASSERT_FALSE(world->save(keptOf(changes.takeUnsaved())));
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
    EXPECT_NE(cli("mesh --chunks 1 --repeat 1 --world " + file).err.find("left out"), std::string::npos);
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
} // namespace fell
