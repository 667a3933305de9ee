// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/gpu/frame_graph.h>

#include <gtest/gtest.h>

namespace fell::frame_graph_test {
namespace {

Pass pass(const char* id, std::vector<TargetId> reads, std::vector<TargetId> writes)
{
    return {id, nullptr, std::move(reads), std::move(writes), {}, {}, {}};
}

TEST(FrameGraph, APassThatReadsWhatNobodyHasWrittenIsFound)
{
    const TargetId colour = TargetId::SceneColour, depth = TargetId::SceneDepth;
    EXPECT_EQ(FrameGraph::firstMistake({pass("clear", {}, {colour, depth}), pass("solid", {depth}, {colour})}, {}), "");
    EXPECT_EQ(
        FrameGraph::firstMistake({pass("sky", {}, {colour}), pass("solid", {depth}, {colour, depth})}, {}), "solid");
    EXPECT_EQ(FrameGraph::firstMistake({pass("glass", {colour, depth}, {colour})}, {colour, depth}), "")
        << "it is there already";
    EXPECT_EQ(FrameGraph::firstMistake({pass("glass", {colour, depth}, {colour})}, {colour}), "glass");
}

} // namespace
} // namespace fell::frame_graph_test
