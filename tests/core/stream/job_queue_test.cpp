// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/stream/job_queue.h>

#include <gtest/gtest.h>

namespace fell::job_queue_test {
namespace {

TEST(JobQueue, GeneratesInOrderFromTheOriginAndBeginsAnew)
{
    JobQueue queue;
    queue.setOrder({{0, 0, 0}, {1, 0, 0}, {0, 0, 2}});
    queue.restart({10, 0, 0});
    EXPECT_EQ(queue.popGenerate(), (ChunkPos{10, 0, 0}));
    EXPECT_EQ(queue.toGenerate(), 2u);
    EXPECT_EQ(queue.generateAt(1), (ChunkPos{10, 0, 2}));
    queue.restart({20, 0, 0});
    EXPECT_EQ(queue.popGenerate(), (ChunkPos{20, 0, 0}));
    EXPECT_EQ(queue.popGenerate(), (ChunkPos{21, 0, 0}));
    EXPECT_EQ(queue.popGenerate(), (ChunkPos{20, 0, 2}));
    EXPECT_EQ(queue.popGenerate(), std::nullopt);
}

TEST(JobQueue, MeshesTheMostUrgentFirstAndLightsInTheOrderOffered)
{
    JobQueue queue;
    for (const int urgency : {5, 1, 9, 3})
        queue.offerMesh(urgency, {urgency, 0, 0});
    EXPECT_EQ(queue.meshUrgency(), 1);
    EXPECT_EQ(queue.meshOrder(), (std::vector<ChunkPos>{{1, 0, 0}, {3, 0, 0}, {5, 0, 0}, {9, 0, 0}}));
    EXPECT_EQ(queue.popMesh(), (ChunkPos{1, 0, 0}));
    std::vector<ChunkPos> rest;
    queue.clearMesh([&](ChunkPos chunk) { rest.push_back(chunk); });
    EXPECT_EQ(rest, (std::vector<ChunkPos>{{3, 0, 0}, {5, 0, 0}, {9, 0, 0}}));
    EXPECT_EQ(queue.popMesh(), std::nullopt);

    queue.offerLight({4, 0, 0});
    queue.offerLight({2, 0, 0});
    EXPECT_EQ(queue.popLight(), (ChunkPos{4, 0, 0}));
    queue.offerLight({1, 0, 0});
    queue.sortLight([](ChunkPos chunk) { return chunk.x; });
    EXPECT_EQ(queue.popLight(), (ChunkPos{1, 0, 0}));
    EXPECT_EQ(queue.popLight(), (ChunkPos{2, 0, 0}));
}

TEST(JobQueue, ARetryIsDueAfterOtherJobsAndOnlyWhereItsKindIsAllowed)
{
    JobQueue queue;
    queue.retry(JobKind::Mesh, {7, 0, 0});
    EXPECT_FALSE(queue.hasDueRetry());
    for (std::uint64_t i = 0; i < JobQueue::kJobsBetweenTries; ++i)
        queue.count();
    EXPECT_TRUE(queue.hasDueRetry());
    EXPECT_FALSE(queue.popRetry(false, true)) << "no meshing now";
    EXPECT_EQ(queue.retries(), 1u);
    const auto retry = queue.popRetry(true, false);
    ASSERT_TRUE(retry);
    EXPECT_EQ(retry->chunk, (ChunkPos{7, 0, 0}));
    EXPECT_FALSE(queue.hasDueRetry());
}

TEST(JobQueue, WhatWaitsForCoarserVoxelsIsOfferedOnce)
{
    JobQueue queue;
    queue.waitForCoarser({1, 2, 3});
    EXPECT_EQ(queue.takeWaiting(), (std::vector<ChunkPos>{{1, 2, 3}}));
    EXPECT_TRUE(queue.takeWaiting().empty());
    queue.waitForCoarser({1, 2, 3});
    queue.restart({});
    EXPECT_TRUE(queue.takeWaiting().empty());
}

} // namespace
} // namespace fell::job_queue_test
