// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/grid/all_processors.h>

#include <gtest/gtest.h>

#include <stdexcept>

namespace fell::all_processors_test {
namespace {

TEST(AllProcessors, EachIsDoneOnceAndAllAreDoneAtTheEnd)
{
    std::vector<std::atomic<int>> times(1000);
    onAllProcessors(times.size(), [&](std::size_t i) { ++times[i]; });
    EXPECT_TRUE(std::all_of(times.begin(), times.end(), [](const auto& one) { return one == 1; }));
    onAllProcessors(0, [](std::size_t) { FAIL() << "there is nothing to do"; });
}

TEST(AllProcessors, WhatOneThrowsIsThrown)
{
    const auto work = [](std::size_t i) {
        if (i == 7)
            throw std::runtime_error("seven");
    };
    EXPECT_THROW(onAllProcessors(20, work), std::runtime_error);
}

} // namespace
} // namespace fell::all_processors_test
