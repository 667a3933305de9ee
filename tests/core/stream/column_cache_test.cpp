// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/stream/column_cache.h>

#include <gtest/gtest.h>
#include <thread>

namespace fell::column_cache_test {
namespace {

using namespace test;

TEST(ColumnCache, GivesTheSamePatchToEveryThreadAndForgetsWithoutHarm)
{
    const auto terrain = testTerrain();
    ColumnCache cache(*terrain, *findGenerator("blocks"), 16, 8);
    const auto kept = cache.at(0, 0);
    std::vector<std::jthread> threads;
    for (int t = 0; t < 4; ++t)
        threads.emplace_back([&] {
            for (std::int64_t i = 0; i < 40; ++i) {
                const auto patch = cache.at(i % 10, i % 7);
                EXPECT_EQ(patch->x0, i % 10 * 16);
                EXPECT_EQ(patch->z0, i % 7 * 16);
            }
        });
    threads.clear();
    EXPECT_EQ(kept->height, cache.at(0, 0)->height);
}

} // namespace
} // namespace fell::column_cache_test
