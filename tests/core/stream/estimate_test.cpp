// SPDX-License-Identifier: Apache-2.0
#include "core/stream/streamer_fixture.h"
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/stream/estimate.h>
#include <fell/stream/streamer.h>

#include <gtest/gtest.h>

namespace fell::estimate_test {
namespace {

using namespace test::streamer;

TEST(ExpectedBytes, GrowWithTheSquareOfTheReach)
{
    StreamCounts counts;
    fell::Setup now = smallSetup(4), next = smallSetup(8);
    EXPECT_EQ(expectedBytes(counts, now, next), 0u) << "nothing is known yet";
    counts.resident = 1000;
    counts.voxelBytes = 10'000'000;
    counts.meshBytes = 20'000'000;
    const auto same = expectedBytes(counts, now, now), twice = expectedBytes(counts, now, next);
    EXPECT_EQ(same, 30'000'000u + 300'000u);
    EXPECT_EQ(twice, 120'000'000u + 8 * 300'000u);
    next = now;
    next.mesh.layout = "floats"; // 192 bytes a quad in place of 32
    EXPECT_EQ(expectedBytes(counts, now, next), 10'000'000u + 120'000'000u + 300'000u);
}

} // namespace
} // namespace fell::estimate_test
