// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/stream/resident_set.h>

#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <random>
#include <set>

namespace fell::resident_set_test {
namespace {

std::shared_ptr<const VoxelChunk> someVoxels()
{
    return std::make_shared<const VoxelChunk>(16, Material{1});
}

/// Does everything that the map asks for, one job at a time; returns the jobs.
std::vector<ChunkJob> runDry(ResidentSet& map)
{
    std::vector<ChunkJob> jobs;
    while (auto job = map.next(true, true)) {
        if (job->kind == ChunkJob::Kind::Generate)
            map.generated(*job, someVoxels());
        else
            map.meshed(*job, {true, 10, {}, {}});
        jobs.push_back(std::move(*job));
    }
    return jobs;
}

TEST(ResidentSet, GeneratesTheBallWithItsNeighboursAndMeshesTheBall)
{
    ResidentSet map;
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

TEST(ResidentSet, MeshesNothingBeforeAll26NeighboursAreThereAndNothingTwice)
{
    ResidentSet map;
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
        map.meshed(*job, {true, 1, {}, {}});
    }
}

TEST(ResidentSet, TakesTheNearestFirst)
{
    ResidentSet map;
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
        map.meshed(*job, {true, 1, {}, {}});
    }
}

TEST(ResidentSet, MovingRetiresMeshesThatAreLeftBehindAndBytesGoWithThem)
{
    ResidentSet map;
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

TEST(ResidentSet, AJumpAcrossTheWholeWorldLeavesNothingBehind)
{
    constexpr std::int64_t kAway = std::int64_t{1} << 58; // its square is no 64-bit number
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 2, retired);
    runDry(map);
    const std::size_t count = map.size();
    for (const ChunkPos away : {ChunkPos{kAway, 0, 0}, ChunkPos{std::int64_t{1} << 35, 0, 0}, ChunkPos{0, -kAway, 7}}) {
        map.centreOn(away, 2, retired, {1, 0, 1});
        EXPECT_EQ(map.size(), 0u);
        runDry(map);
        map.centreOn({0, 0, 0}, 2, retired);
        EXPECT_EQ(map.size(), 0u);
        runDry(map);
        EXPECT_EQ(map.size(), count);
    }
}

TEST(ResidentSet, SteppingToAndFroMakesNothingTwice)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 3, retired);
    runDry(map);
    map.centreOn({1, 0, 0}, 3, retired);
    runDry(map);
    map.centreOn({0, 0, 0}, 3, retired);
    EXPECT_TRUE(runDry(map).empty());
    EXPECT_TRUE(retired.empty()) << "one step lies within the slack";
}

TEST(ResidentSet, GrowingAndShrinkingTheDistanceActsAtOnce)
{
    ResidentSet map;
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

TEST(ResidentSet, AResultThatNobodyWantsAnyMoreIsRefused)
{
    ResidentSet map;
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

TEST(ResidentSet, KeepsItsCountsThroughARandomWalk)
{
    std::mt19937 dice(11);
    ResidentSet map;
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
                    map.meshed(open.back(), {true, 10, {}, {}});
                open.pop_back();
            }
        }
    }
    for (const auto& job : open)
        (job.kind == ChunkJob::Kind::Generate) ? (void)map.generated(job, someVoxels())
                                               : (void)map.meshed(job, {true, 10, {}, {}});
    map.centreOn(viewer + ChunkPos{1000, 0, 0}, 1, retired);
    EXPECT_EQ(map.size(), 0u);
    EXPECT_EQ(map.voxelBytes(), 0u);
    EXPECT_EQ(map.meshBytes(), 0u);
}

TEST(ResidentSet, WhatTheViewShowsComesBeforeWhatLiesBehind)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 5, retired, {1, 0, 0});
    std::vector<ChunkPos> order;
    while (auto job = map.next(false, true))
        order.push_back(job->chunk);
    const auto placeOf = [&](ChunkPos chunk) { return std::find(order.begin(), order.end(), chunk) - order.begin(); };
    EXPECT_LT(placeOf({5, 0, 0}), placeOf({-3, 0, 0})) << "25 ahead, 4 * 9 behind";
    EXPECT_LT(placeOf({-2, 0, 0}), placeOf({3, 0, 0})) << "the nearest come first wherever they lie";
    EXPECT_LT(placeOf({3, 1, 0}), placeOf({0, 3, 0}));
    EXPECT_EQ(order.size(), withNeighbours(ballOffsets(5)).size()) << "nothing is left out";
}

TEST(ResidentSet, TurningRoundChangesTheOrderOfWhatIsLeft)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 6, retired, {1, 0, 0});
    for (int i = 0; i < 400; ++i)
        map.generated(*map.next(false, true), someVoxels());
    map.centreOn({0, 0, 0}, 6, retired, {-1, 0, 0});
    EXPECT_LT(map.next(false, true)->chunk.x, 0);
    EXPECT_TRUE(retired.empty());
}

TEST(ResidentSet, AJumpDropsTheWorkThatIsNoLongerWanted)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 4, retired);
    const auto first = *map.next(true, true);
    const std::size_t asked = withNeighbours(ballOffsets(4)).size();
    EXPECT_EQ(map.stillToGenerate(), asked - 1);
    map.centreOn({1000, 0, 0}, 4, retired);
    EXPECT_EQ(map.dropped(), withNeighbours(ballOffsets(4)).size() - 1);
    EXPECT_EQ(map.next(true, true)->chunk, (ChunkPos{1000, 0, 0})) << "the new place comes at once";
    EXPECT_FALSE(map.generated(first, someVoxels()));
}

TEST(ResidentSet, AFailureIsTriedAgainAfterOtherWorkAndGivenUpAtLast)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 2, retired);
    const ChunkPos bad{1, 0, 0};
    const auto open = std::make_shared<const VoxelChunk>(16, kOpen);
    int tries = 0, others = 0, sinceLast = 0;
    std::set<ChunkPos> meshed;
    while (auto job = map.next(true, true)) {
        if (job->kind == ChunkJob::Kind::Generate && job->chunk == bad) {
            EXPECT_TRUE(tries == 0 || sinceLast >= 16) << "not at once";
            sinceLast = 0;
            EXPECT_EQ(map.failed(*job, open), ++tries == ResidentSet::kMaxTries);
            continue;
        }
        ++sinceLast;
        ++others;
        if (job->kind == ChunkJob::Kind::Generate)
            map.generated(*job, someVoxels());
        else
            meshed.insert(job->chunk), map.meshed(*job, {true, 1, {}, {}});
    }
    EXPECT_EQ(tries, ResidentSet::kMaxTries);
    EXPECT_EQ(map.probe(bad).stage, ChunkProgress::Failed);
    const auto ball = ballOffsets(2);
    std::set<ChunkPos> rest(ball.begin(), ball.end());
    rest.erase(bad);
    EXPECT_EQ(meshed, rest) << "every other chunk goes on";
}

TEST(ResidentSet, AMesherThatFailsOnceHasItsChunkInTheEnd)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 1, retired);
    int failures = 0;
    while (auto job = map.next(true, true)) {
        if (job->kind == ChunkJob::Kind::Generate)
            map.generated(*job, someVoxels());
        else if (job->chunk == ChunkPos{} && failures++ == 0)
            map.failed(*job, nullptr);
        else
            map.meshed(*job, {true, 1, {}, {}});
    }
    EXPECT_EQ(failures, 2);
    EXPECT_EQ(map.probe({}).stage, ChunkProgress::Meshed);
    EXPECT_EQ(map.probe({}).tries, 0);
}

TEST(ResidentSet, AProbeSaysWhomAChunkWaitsFor)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 2, retired);
    EXPECT_EQ(map.probe({0, 0, 0}).stage, ChunkProgress::Wanted);
    EXPECT_EQ(map.probe({9, 0, 0}).stage, ChunkProgress::Absent);
    const auto job = *map.next(true, true);
    EXPECT_EQ(map.probe(job.chunk).stage, ChunkProgress::Generating);
    map.generated(job, someVoxels());
    EXPECT_EQ(map.probe({0, 0, 0}).stage, ChunkProgress::Waiting);
    EXPECT_EQ(map.probe({0, 0, 0}).waitsFor({0, 0, 0}).size(), 26u);
    std::set<ChunkPos> done{job.chunk};
    while (auto next = map.next(false, true)) {
        map.generated(*next, someVoxels());
        done.insert(next->chunk);
        if (done.size() == 20)
            break;
    }
    std::set<ChunkPos> missing;
    for (int i = 0; i < 27; ++i)
        if (const ChunkPos at{i % 3 - 1, i / 9 - 1, i / 3 % 3 - 1}; !done.contains(at))
            missing.insert(at);
    const auto told = map.probe({0, 0, 0}).waitsFor({0, 0, 0});
    EXPECT_EQ(std::set<ChunkPos>(told.begin(), told.end()), missing);
}

TEST(ResidentSet, EvictsTheFarthestAndNeverWhatIsNearerThanTheNextWork)
{
    ResidentSet map;
    std::vector<ChunkPos> retired, evicted;
    map.centreOn({0, 0, 0}, 3, retired);
    runDry(map);
    map.evict(0, retired, evicted);
    EXPECT_TRUE(evicted.empty()) << "there is nothing to be done that would need room";
    map.centreOn({3, 0, 0}, 3, retired);
    retired.clear();
    const auto next = *map.next(false, true);
    const double nearest = std::sqrt(static_cast<double>(squaredLength(next.chunk - ChunkPos{3, 0, 0})));
    const std::size_t before = map.voxelBytes() + map.meshBytes();
    map.evict(before - 20 * VoxelChunk(16, Material{1}).bytes(), retired, evicted);
    EXPECT_FALSE(evicted.empty());
    EXPECT_LT(map.voxelBytes() + map.meshBytes(), before);
    for (const ChunkPos chunk : evicted) {
        EXPECT_GT(std::sqrt(static_cast<double>(squaredLength(chunk - ChunkPos{3, 0, 0}))), nearest + 1);
        EXPECT_EQ(map.find(chunk), nullptr);
    }
    for (const ChunkPos chunk : retired)
        EXPECT_NE(std::find(evicted.begin(), evicted.end(), chunk), evicted.end());
}

TEST(ResidentSet, GlancesRankTheWorkAsItWillBeTaken)
{
    ResidentSet map;
    std::vector<ChunkPos> retired;
    map.centreOn({0, 0, 0}, 2, retired);
    for (int i = 0; i < 60; ++i)
        map.generated(*map.next(false, true), someVoxels());
    std::map<std::uint32_t, ChunkPos> ranked;
    for (const ChunkStatus& glance : map.glances())
        if (glance.rank > 0) {
            EXPECT_TRUE(ranked.emplace(glance.rank, glance.chunk).second) << "a rank is given once";
        }
    EXPECT_EQ(ranked.size(), map.readyToMesh() + map.stillToGenerate());
    for (const auto& [rank, chunk] : ranked) { // meshing first, then generating: without what that makes ready
        const bool meshes = map.readyToMesh() > 0;
        const auto job = *map.next(meshes, !meshes);
        EXPECT_EQ(squaredLength(job.chunk), squaredLength(chunk)) << rank;
    }
}

} // namespace
} // namespace fell::resident_set_test
