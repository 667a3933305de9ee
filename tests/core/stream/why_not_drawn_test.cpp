// SPDX-License-Identifier: Apache-2.0
#include <fell/stream/why_not_drawn.h>

#include <gtest/gtest.h>

namespace fell::stream {
namespace {

TEST(WhyNotDrawn, IsOneReasonForEachState)
{
    ChunkDetails probe;
    const CullStep* rejectedBy = nullptr;
    const auto why = [&](ChunkPos chunk, ChunkProgress stage, bool uploaded) {
        probe.around.fill(ChunkProgress::Meshed);
        probe.stage = probe.around[13] = stage;
        return whyNotDrawn(chunk, probe, uploaded, rejectedBy);
    };
    EXPECT_EQ(why({0, 0, -2}, ChunkProgress::Meshed, true), "") << "ahead: drawn";
    rejectedBy = findCullStep("hidden");
    EXPECT_NE(why({0, 0, 2}, ChunkProgress::Meshed, true).find("occlusion"), std::string::npos);
    EXPECT_NE(why({0, 0, -2}, ChunkProgress::Meshed, false).find("upload"), std::string::npos);
    EXPECT_NE(why({0, 0, -2}, ChunkProgress::Bare, false).find("nothing of it"), std::string::npos);
    EXPECT_NE(why({0, 0, -9}, ChunkProgress::Absent, false).find("beyond the render distance"), std::string::npos);
    EXPECT_NE(why({0, 0, -2}, ChunkProgress::Failed, false).find("3 times"), std::string::npos);
}

TEST(WhyNotDrawn, FailuresAndMissingNeighboursAreNamed)
{
    ChunkDetails details;
    details.around.fill(ChunkProgress::Meshed);
    details.stage = details.around[13] = ChunkProgress::Waiting;
    for (const std::size_t missing : {4u, 10u, 12u, 14u})
        details.around[missing] = ChunkProgress::Wanted;
    const std::string waits = whyNotDrawn({5, 6, 7}, details, false, nullptr);
    EXPECT_NE(waits.find("voxels of 4 of its neighbours"), std::string::npos) << waits;
    EXPECT_TRUE(waits.ends_with(" …")) << "three are named: " << waits;
    details.stage = ChunkProgress::Ready;
    details.tries = 2;
    EXPECT_EQ(whyNotDrawn({5, 6, 7}, details, false, nullptr), "meshing it failed 2 times; it is tried again");
    details.stage = ChunkProgress::Wanted;
    EXPECT_EQ(whyNotDrawn({5, 6, 7}, details, false, nullptr), "generating it failed 2 times; it is tried again");
}

} // namespace
} // namespace fell::stream
