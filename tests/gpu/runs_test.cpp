// SPDX-License-Identifier: Apache-2.0
// Runs against a list that says of each element whether it is held.
#include "support/all_names.h"
#include <fell/gpu/runs.h>

#include <gtest/gtest.h>

#include <algorithm>
#include <random>
#include <vector>

namespace fell::runs_test {
namespace {

TEST(Runs, NeverOverlapAndFitWheneverTheyCould)
{
    std::mt19937 dice(7);
    Runs runs;
    runs.grow(500);
    std::vector<bool> isHeld(500);
    std::vector<ElementRun> held;
    int refused = 0;
    for (int step = 0; step < 5000; ++step) {
        if (dice() % 5 < 3 || held.empty()) {
            const std::uint32_t count = 1 + dice() % 40;
            std::size_t longest = 0, length = 0; // of the free ones
            for (const bool one : isHeld) {
                length = one ? 0 : length + 1;
                longest = std::max(longest, length);
            }
            const auto run = runs.take(count);
            ASSERT_EQ(run.has_value(), longest >= count) << step;
            refused += !run;
            if (!run)
                continue;
            ASSERT_EQ(run->count, count);
            for (std::uint32_t i = 0; i < count; ++i) {
                ASSERT_FALSE(isHeld.at(run->first + i));
                isHeld[run->first + i] = true;
            }
            held.push_back(*run);
        } else {
            const std::size_t which = dice() % held.size();
            const ElementRun run = held[which];
            runs.release(run);
            for (std::uint32_t i = 0; i < run.count; ++i)
                isHeld[run.first + i] = false;
            held.erase(held.begin() + static_cast<std::ptrdiff_t>(which));
        }
        ASSERT_EQ(runs.used(), static_cast<std::uint32_t>(std::count(isHeld.begin(), isHeld.end(), true)));
    }
    EXPECT_GT(refused, 50);
    EXPECT_EQ(runs.size(), 500u);
}

TEST(Runs, WhatItGrowsByJoinsWhatWasFreeAtTheEnd)
{
    Runs runs;
    EXPECT_FALSE(runs.take(1));
    runs.grow(10);
    EXPECT_EQ(runs.take(6), (ElementRun{0, 6}));
    EXPECT_FALSE(runs.take(8));
    runs.grow(20);
    EXPECT_EQ(runs.take(8), (ElementRun{6, 8}));
    runs.release({0, 6});
    runs.release({});
    EXPECT_EQ(runs.used(), 8u);
    EXPECT_EQ(runs.take(7), std::nullopt);
    EXPECT_EQ(runs.take(6), (ElementRun{0, 6}));
    EXPECT_EQ(runs.take(6), (ElementRun{14, 6}));
}

} // namespace
} // namespace fell::runs_test
