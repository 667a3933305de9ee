// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/exchange/trace_events.h>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::trace_events_test {
namespace {

using nlohmann::json;

json eventsOf(const std::vector<LifeEvent>& events)
{
    return json::parse(traceEvents(events)).at("traceEvents");
}

json with(const json& events, const char* phase)
{
    json out = json::array();
    for (const auto& event : events)
        if (event.at("ph") == phase)
            out.push_back(event);
    return out;
}

TEST(TraceEvents, AChunksLifeIsThreeSpansOnItsThreadsJoinedByAFlow)
{
    const ChunkPos chunk{1, -2, 3};
    const json events = eventsOf({{1000, chunk, 0, 1, LifeStep::Generating},
        {5000, chunk, 3500, 1, LifeStep::Generated}, {6000, chunk, 0, 2, LifeStep::Meshing},
        {9000, chunk, 2000, 2, LifeStep::Meshed}, {20000, chunk, 4000, 0, LifeStep::Uploaded}});
    const json spans = with(events, "X");
    ASSERT_EQ(spans.size(), 3u);
    EXPECT_EQ(spans[0].at("name"), "generate");
    EXPECT_EQ(spans[0].at("ts"), 1.0);
    EXPECT_EQ(spans[0].at("dur"), 4.0);
    EXPECT_EQ(spans[0].at("tid"), 1);
    EXPECT_EQ(spans[0].at("args").at("thread_us"), 3.5);
    EXPECT_EQ(spans[1].at("name"), "mesh");
    EXPECT_EQ(spans[1].at("tid"), 2);
    EXPECT_EQ(spans[2].at("name"), "upload");
    EXPECT_EQ(spans[2].at("ts"), 16.0) << "it ended when it was noted";
    EXPECT_EQ(spans[2].at("tid"), 0);
    const json begins = with(events, "s"), middles = with(events, "t"), ends = with(events, "f");
    ASSERT_EQ(begins.size(), 1u);
    ASSERT_EQ(middles.size(), 1u);
    ASSERT_EQ(ends.size(), 1u);
    EXPECT_EQ(begins[0].at("id"), ends[0].at("id"));
    EXPECT_EQ(begins[0].at("ts"), spans[0].at("ts")) << "an arrow begins in its span";
    const json names = with(events, "M");
    EXPECT_EQ(names.size(), 4u) << "the process and three threads";
}

TEST(TraceEvents, WhatHasNoDurationIsAnInstantAndABeginningWithoutItsEndIsLeftOut)
{
    const json events = eventsOf({{1000, {1, 1, 1}, 0, 1, LifeStep::Generating},
        {2000, {2, 2, 2}, 0, 0, LifeStep::Released}, {3000, {3, 3, 3}, 900, 2, LifeStep::Meshed}});
    EXPECT_EQ(with(events, "X").size(), 0u) << "one without an end, one without a beginning";
    const json instants = with(events, "i");
    ASSERT_EQ(instants.size(), 1u);
    EXPECT_EQ(instants[0].at("name"), "mesh released");
    EXPECT_EQ(with(events, "s").size(), 0u) << "one span needs no arrow";
}

TEST(TraceEvents, NothingIsAValidRecordingToo)
{
    EXPECT_EQ(eventsOf({}).size(), 1u);
}

} // namespace
} // namespace fell::trace_events_test
