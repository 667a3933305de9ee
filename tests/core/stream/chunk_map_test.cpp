// SPDX-License-Identifier: Apache-2.0
#include "stream/chunk_map.h"

#include <gtest/gtest.h>

#include <random>
#include <set>

namespace fell {
namespace {

std::shared_ptr<const VoxelChunk> someVoxels()
{
    return std::make_shared<const VoxelChunk>(16, Material{1});
}

/// Does everything that the map asks for, one job at a time; returns the jobs.
std::vector<ChunkJob> runDry(ChunkMap& map)
{
    std::vector<ChunkJob> jobs;
    while (auto job = map.next(true, true)) {
        if (job->kind == ChunkJob::Kind::Generate)
            map.generated(*job, someVoxels());
        else
            map.meshed(*job, true, 10);
        jobs.push_back(std::move(*job));
    }
    return jobs;
}

TEST(ChunkMap, GeneratesTheBallWithItsNeighboursAndMeshesTheBall)
{
    ChunkMap map;
    std::vector<ChunkPos> retired;
    map.centreOn({5, -3, 8}, 3, retired);
    std::set<ChunkPos> generated, meshed;
    for (const auto& job : runDry(map))
        (job.kind == ChunkJob::Kind::Generate ? generated : meshed).insert(job.chunk - ChunkPos{5, -3, 8});
    const auto ball = ballOffsets(3), around = withNeighbours(ball);
    EXPECT_EQ(meshed, std::set<ChunkPos>(ball.begin(), ball.end()));
    EXPECT_EQ(generated, std::set<ChunkPos>(around.begin(), around.end()));
    EXPECT_TRUE(retired.empty());
    EXPECT_EQ(map.meshBytes(), ball.size() * 10);
}

TEST(ChunkMap, MeshesNothingBeforeAll26NeighboursAreThereAndNothingTwice)
{
    ChunkMap map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 2, retired);
    std::set<ChunkPos> done, meshed;
    while (auto job = map.next(true, true)) {
        if (job->kind == ChunkJob::Kind::Generate) {
            EXPECT_TRUE(done.insert(job->chunk).second) << "generated twice";
            map.generated(*job, someVoxels());
            continue;
        }
        EXPECT_TRUE(meshed.insert(job->chunk).second) << "meshed twice";
        for (int i = 0; i < 27; ++i) {
            EXPECT_TRUE(done.contains(job->chunk + ChunkPos{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1}));
            EXPECT_NE(job->around[static_cast<std::size_t>(i)], nullptr);
        }
        map.meshed(*job, true, 1);
    }
}

TEST(ChunkMap, TakesTheNearestFirst)
{
    ChunkMap map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 4, retired);
    std::int64_t last = 0;
    while (auto job = map.next(false, true)) {
        EXPECT_GE(squaredLength(job->chunk), last);
        last = squaredLength(job->chunk);
        map.generated(*job, someVoxels());
    }
    last = 0;
    while (auto job = map.next(true, false)) {
        EXPECT_GE(squaredLength(job->chunk), last);
        last = squaredLength(job->chunk);
        map.meshed(*job, true, 1);
    }
}

TEST(ChunkMap, MovingRetiresMeshesThatAreLeftBehindAndBytesGoWithThem)
{
    ChunkMap map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 2, retired);
    runDry(map);
    const std::size_t voxels = map.voxelBytes(), meshes = map.meshBytes(), count = map.size();
    map.centreOn({100, 0, 0}, 2, retired);
    EXPECT_EQ(retired.size(), 33u); // the ball of radius 2
    EXPECT_EQ(map.size(), 0u);
    EXPECT_EQ(map.voxelBytes(), 0u);
    EXPECT_EQ(map.meshBytes(), 0u);
    runDry(map);
    EXPECT_EQ(map.voxelBytes(), voxels);
    EXPECT_EQ(map.meshBytes(), meshes);
    EXPECT_EQ(map.size(), count);
}

TEST(ChunkMap, SteppingToAndFroMakesNothingTwice)
{
    ChunkMap map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 3, retired);
    runDry(map);
    map.centreOn({1, 0, 0}, 3, retired);
    runDry(map);
    map.centreOn({0, 0, 0}, 3, retired);
    EXPECT_TRUE(runDry(map).empty());
    EXPECT_TRUE(retired.empty()) << "one step lies within the slack";
}

TEST(ChunkMap, GrowingAndShrinkingTheDistanceActsAtOnce)
{
    ChunkMap map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 2, retired);
    runDry(map);
    map.centreOn({0, 0, 0}, 5, retired);
    runDry(map);
    EXPECT_EQ(map.meshBytes(), ballOffsets(5).size() * 10);
    map.centreOn({0, 0, 0}, 2, retired);
    EXPECT_EQ(map.meshBytes(), ballOffsets(3).size() * 10) << "one chunk of slack stays";
    EXPECT_EQ(retired.size(), ballOffsets(5).size() - ballOffsets(3).size());
}

TEST(ChunkMap, AResultThatNobodyWantsAnyMoreIsRefused)
{
    ChunkMap map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 2, retired);
    const auto job = *map.next(true, true);
    map.centreOn({50, 0, 0}, 2, retired);
    EXPECT_FALSE(map.generated(job, someVoxels()));
    map.centreOn({0, 0, 0}, 2, retired);
    const auto again = *map.next(true, true);
    EXPECT_EQ(again.chunk, job.chunk);
    EXPECT_FALSE(map.generated(job, someVoxels())) << "the old ticket is not the new one's";
    EXPECT_TRUE(map.generated(again, someVoxels()));
}

TEST(ChunkMap, KeepsItsCountsThroughARandomWalk)
{
    std::mt19937 dice(11);
    ChunkMap map;
    std::vector<ChunkPos> retired;
    ChunkPos viewer{};
    std::vector<ChunkJob> open;
    for (int i = 0; i < 400; ++i) {
        viewer = viewer
            + ChunkPos{
                static_cast<int>(dice() % 5) - 2, static_cast<int>(dice() % 3) - 1, static_cast<int>(dice() % 5) - 2};
        map.centreOn(viewer, 1 + static_cast<int>(dice() % 4), retired);
        for (int j = 0; j < 30; ++j) {
            if (auto job = map.next(true, true))
                open.push_back(std::move(*job));
            if (!open.empty() && dice() % 2) {
                std::swap(open[dice() % open.size()], open.back());
                if (open.back().kind == ChunkJob::Kind::Generate)
                    map.generated(open.back(), someVoxels());
                else
                    map.meshed(open.back(), true, 10);
                open.pop_back();
            }
        }
    }
    for (const auto& job : open)
        (job.kind == ChunkJob::Kind::Generate) ? (void)map.generated(job, someVoxels())
                                               : (void)map.meshed(job, true, 10);
    map.centreOn(viewer + ChunkPos{1000, 0, 0}, 1, retired);
    EXPECT_EQ(map.size(), 0u);
    EXPECT_EQ(map.voxelBytes(), 0u);
    EXPECT_EQ(map.meshBytes(), 0u);
}

} // namespace
} // namespace fell
