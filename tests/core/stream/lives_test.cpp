// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/stream/lives.h>

#include <gtest/gtest.h>

#include <thread>

namespace fell::lives_test {
namespace {

TEST(LifeRecorder, KeepsWhatWasNotedInOrderWithThreadAndCost)
{
    LifeRecorder lives(64);
    const ChunkPos a{-3, 2, 1LL << 40}, b{7, 7, 7};
    lives.note(a, LifeStep::Generating, 2);
    lives.note(b, LifeStep::Failed, 255, 5);
    lives.note(a, LifeStep::Generated, 2, 1234);
    lives.note(a, LifeStep::Uploaded, 0, std::uint64_t{1} << 40);
    const auto all = lives.all();
    ASSERT_EQ(all.size(), 4u);
    for (std::size_t i = 1; i < all.size(); ++i)
        EXPECT_GE(all[i].ns, all[i - 1].ns);
    EXPECT_LE(all.back().ns, lives.nowNs());
    const auto of = lives.of(a);
    ASSERT_EQ(of.size(), 3u);
    EXPECT_EQ(of[1].chunk, a);
    EXPECT_EQ(of[1].step, LifeStep::Generated);
    EXPECT_EQ(of[1].thread, 2);
    EXPECT_EQ(of[1].costNs, 1234u);
    EXPECT_EQ(of[2].costNs, 0xFFFFFFFFu) << "more than four seconds are cut";
    EXPECT_EQ(lives.of({0, 0, 0}).size(), 0u);
}

TEST(LifeRecorder, ASlotThatLostAnEventTakesTheNextOne)
{
    LifeRecorder lives(8);
    std::vector<std::thread> writers;
    for (std::uint8_t t = 0; t < 4; ++t)
        writers.emplace_back([&lives, t] {
            for (std::int64_t i = 0; i < 20'000; ++i)
                lives.note({i, t, 0}, LifeStep::Meshed, t);
        });
    for (std::thread& writer : writers)
        writer.join();
    const std::uint64_t lost = lives.lost();
    for (std::int64_t i = 0; i < 100; ++i)
        lives.note({i, 9, 9}, LifeStep::Meshed, 1);
    EXPECT_EQ(lives.lost(), lost) << "one thread alone loses nothing";
    EXPECT_EQ(lives.all().size(), 8u);
}

TEST(LifeRecorder, ForgetsTheOldestFirst)
{
    LifeRecorder lives(16);
    for (std::int64_t i = 0; i < 40; ++i)
        lives.note({i, 0, 0}, LifeStep::Meshed, 1, static_cast<std::uint64_t>(i));
    const auto all = lives.all();
    ASSERT_EQ(all.size(), 16u);
    for (std::size_t i = 0; i < 16; ++i)
        EXPECT_EQ(all[i].chunk.x, static_cast<std::int64_t>(24 + i));
    EXPECT_EQ(lives.noted(), 40u);
}

TEST(LifeRecorder, NeverMixesTheWordsOfTwoEvents)
{
    LifeRecorder lives(256);
    std::atomic<bool> stop = false;
    std::vector<std::jthread> writers;
    for (std::uint8_t thread = 1; thread <= 3; ++thread)
        writers.emplace_back([&, thread] {
            for (std::int64_t i = 0; i < 20000; ++i) // every word says the same
                lives.note({i, i + thread, -i}, LifeStep::Meshed, thread, static_cast<std::uint64_t>(i));
        });
    std::jthread reader([&] {
        while (!stop)
            for (const LifeEvent& event : lives.all()) {
                ASSERT_EQ(event.chunk.y, event.chunk.x + event.thread);
                ASSERT_EQ(event.chunk.z, -event.chunk.x);
                ASSERT_EQ(event.costNs, static_cast<std::uint32_t>(event.chunk.x));
            }
    });
    writers.clear();
    stop = true;
    reader.join();
    EXPECT_EQ(lives.noted(), 60000u);
    EXPECT_LE(lives.all().size(), 256u);
}

TEST(LifeRecorder, NamesEveryStep)
{
    for (std::size_t i = 0; i < kLifeStepCount; ++i)
        EXPECT_STRNE(wordOf(static_cast<LifeStep>(i)), "");
}

} // namespace
} // namespace fell::lives_test
