// SPDX-License-Identifier: Apache-2.0
// fell-cli why: the reason is known from where the chunk lies.
#include "cli_runner.h"

namespace fell::test {
namespace {

/// The plain of the demo `level` fills everything below y = 0 and nothing above; the camera is over its middle.
nlohmann::json answerFor(const std::string& arguments)
{
    const Ran ran
        = runAlone("why --world level --route round-the-tarn --along 0 --set stream.distance=3 --json " + arguments);
    EXPECT_EQ(ran.code, 0) << ran.err;
    return ran.parsed();
}

std::string chunkAt(const nlohmann::json& camera, int x, int y, int z)
{
    return "--chunk=" + std::to_string(camera[0].get<int>() + x) + "," + std::to_string(y) + ","
        + std::to_string(camera[2].get<int>() + z);
}

TEST(Why, EachChunkOfAPlainHasTheReasonOfItsPlace)
{
    const auto camera = answerFor("--chunk=0,0,0")["camera_chunk"];
    const auto far = answerFor(chunkAt(camera, 40, 0, 0));
    EXPECT_EQ(far["why"], "it lies beyond the render distance");
    EXPECT_FALSE(far["drawn"]);
    const int here = camera[1].get<int>();
    const auto air = answerFor(chunkAt(camera, 0, here + 1, 0));
    EXPECT_EQ(air["why"], "nothing of it can be seen: all open air, or covered on every side");
    EXPECT_EQ(air["quads"], 0);
    // Ahead or behind: of the surface chunks one step to each side, some are drawn and some are rejected by a step.
    int drawn = 0, rejected = 0;
    for (const auto& [x, z] : {std::pair(1, 0), std::pair(-1, 0), std::pair(0, 1), std::pair(0, -1)}) {
        const auto answer = answerFor(chunkAt(camera, 2 * x, -1, 2 * z));
        EXPECT_GT(answer["quads"], 0) << answer.dump();
        drawn += answer["drawn"].get<bool>() ? 1 : 0;
        rejected += answer["why"].get<std::string>().starts_with("left out by the cull step") ? 1 : 0;
        EXPECT_EQ(answer["drawn"].get<bool>(), answer["why"].get<std::string>().empty());
    }
    EXPECT_GE(drawn, 1);
    EXPECT_GE(rejected, 1);
    EXPECT_EQ(drawn + rejected, 4);
}

TEST(Why, AVoxelMeansTheChunkThatContainsItAndALevelStandsInForIt)
{
    const auto byVoxel = answerFor("--voxel=-1,-1,33");
    EXPECT_EQ(byVoxel["chunk"], (nlohmann::json{-1, -1, 1}));
    const Ran ran = runAlone("why --setup long-view --set stream.distance=16 --chunk=12,0,0 --json");
    ASSERT_EQ(ran.code, 0) << ran.err;
    const auto far = ran.parsed();
    const int level = far["level"].get<int>();
    EXPECT_GT(level, 0) << far.dump();
    EXPECT_EQ(far["shown_by"], (nlohmann::json{12 >> level, 0, 0})) << far.dump();
}

TEST(Why, WhatIsNoPlaceIsRefusedInASentence)
{
    const std::pair<std::string, std::string> cases[]{
        {"why", "one of the two is expected"},
        {"why --chunk=1,2,3 --voxel=1,2,3", "one of the two is expected"},
        {"why --chunk=1,2", "three whole numbers"},
        {"why --chunk=1,2,3.5", "three whole numbers"},
        {"why --voxel=99999999999999,0,0", "2^40 voxels"},
        {"why --chunk=0,0,0 --along 2", "0 to 1"},
        {"why --chunk=0,0,0 --along nan", "0 to 1"},
    };
    for (const auto& [arguments, part] : cases) {
        const Ran ran = runAlone(arguments);
        EXPECT_EQ(ran.code, 2) << arguments;
        expectOneSentence(ran, part);
    }
}

} // namespace
} // namespace fell::test
