// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/audit/shrink.h>

#include <algorithm>
#include <gtest/gtest.h>

namespace fell::shrink_test {
namespace {

using Clock = std::chrono::steady_clock;

PaddedVoxels fullChunk(Material material)
{
    PaddedVoxels out{16, 1, {}};
    out.voxels.assign(18 * 18 * 18, material);
    return out;
}

std::size_t solidOf(const PaddedVoxels& voxels)
{
    return voxels.voxels.size() - static_cast<std::size_t>(std::count(voxels.voxels.begin(), voxels.voxels.end(), 0));
}

TEST(Shrink, LeavesThePairThatFails)
{
    int tries = 0;
    const auto fails = [&tries](const PaddedVoxels& voxels) {
        ++tries;
        return voxels.at(15, 3, 4) != kOpen && voxels.at(16, 3, 4) != kOpen;
    };
    const PaddedVoxels least = shrinkVoxels(fullChunk(3), fails, Clock::now() + std::chrono::minutes(2));
    EXPECT_EQ(solidOf(least), 2u);
    EXPECT_TRUE(fails(least));
    EXPECT_LT(tries, 200) << "of 5832 voxels, in halves";
}

TEST(Shrink, WhatDependsOnNoVoxelLeavesNone)
{
    const PaddedVoxels least = shrinkVoxels(
        fullChunk(3), [](const PaddedVoxels&) { return true; }, Clock::now() + std::chrono::minutes(2));
    EXPECT_EQ(solidOf(least), 0u);
}

TEST(Shrink, ALateOneEndsWithAChunkThatFails)
{
    const auto fails = [](const PaddedVoxels& voxels) { return solidOf(voxels) > 100; };
    EXPECT_EQ(solidOf(shrinkVoxels(fullChunk(3), fails, Clock::now())), 5832u);
}

TEST(Shrink, TheRestHasOneMaterialWhereThatFailsToo)
{
    PaddedVoxels voxels = fullChunk(1);
    voxels.voxels[voxels.index(2, 2, 2)] = 7;
    const auto fails = [](const PaddedVoxels& of) { return of.at(2, 2, 2) != kOpen && of.at(3, 3, 3) != kOpen; };
    const PaddedVoxels least = shrinkVoxels(voxels, fails, Clock::now() + std::chrono::minutes(2));
    EXPECT_EQ(least.at(2, 2, 2), least.at(3, 3, 3));
}

} // namespace
} // namespace fell::shrink_test
