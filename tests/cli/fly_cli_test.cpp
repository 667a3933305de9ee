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
#include <set>
#include <sys/wait.h>

namespace fell::fly_cli_test {
namespace {

using nlohmann::json;
using namespace test;

TEST(Cli, FlySaysWhenTheHorizonIsThere)
{
    const Ran ran = runAlone("fly --json --no-draw --frames 5 --setup long-view --set stream.distance=64");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json result = ran.parsed();
    EXPECT_GT(result["horizon_s"].get<double>(), 0);
    EXPECT_LE(result["horizon_s"].get<double>(), result["settle_s"].get<double>());
}

TEST(Cli, FlyStreamsARouteAndWritesTheLivesOfItsChunks)
{
    const TempFolder folder;
    const std::string trace = (folder / "lives.json").string();
    const Ran ran = runAlone(
        "fly --json --no-draw --frames 30 --set stream.distance=3 --set stream.shape=per-stage --trace " + trace);
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
    const Ran ran = runAlone("fly --json --frames 20 --size 160x100 --set stream.distance=2");
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
        const Ran ran
            = runAlone("fly --json --no-draw --frames 3 --world gallery --route gallery --set stream.distance=2 "
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
    expectOneSentence(runAlone("fly --set light.mode=rainbow"), "lamp-colour-sky or colour-sky");
}

TEST(Cli, FlyStraightOnKeepsItsBytes)
{
    const Ran ran = runAlone("fly --json --straight 2 --world level --set stream.distance=3");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const json straight = ran.parsed()["straight"];
    ASSERT_EQ(straight["bytes"].size(), 2u);
    EXPECT_GT(straight["metres_per_s"], 0);
    const double first = straight["bytes"][0]["world_bytes"], last = straight["bytes"][1]["world_bytes"];
    EXPECT_NEAR(last, first, first / 3) << "level ground everywhere, but for chunks that are on their way";
}

TEST(Cli, FlyRefusesWhatItCannotFly)
{
    expectOneSentence(runAlone("fly --frames 0"), "--frames");
    expectOneSentence(runAlone("fly --speed -1"), "--speed");
    EXPECT_EQ(runAlone("fly --route nowhere").code, 2);
    EXPECT_EQ(runAlone("fly --no-draw --frames 1 --trace /nowhere/t.json").code, 4);
}

} // namespace
} // namespace fell::fly_cli_test
