// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include "support/temp_folder.h"
#include <fell/measure/keep_trial.h>

#include <gtest/gtest.h>

namespace fell::keep_trial_test {
namespace {

KeepTrialSpec spec(const test::TempFolder& folder)
{
    KeepTrialSpec out;
    out.terrain = test::demoTerrain("corrowdale");
    out.middle = {6, 1, 5}; // the ground is about 20 m high there
    out.radius = 1;
    out.edits = 50;
    out.rounds = 2;
    out.folder = folder.path();
    return out;
}

TEST(KeepTrial, KeepsTheSameWorldInEveryWayAndLeavesNothingBehind)
{
    const test::TempFolder folder;
    const auto done = runKeepTrial(spec(folder));
    ASSERT_TRUE(done) << sentence(done.problem());
    const KeepTrial& trial = done.value();
    EXPECT_EQ(trial.visited, 7u) << "a ball of radius 1";
    EXPECT_LE(trial.voxels, 50u);
    EXPECT_GT(trial.voxels, 40u);
    ASSERT_EQ(trial.rows.size(), 6u);
    for (const KeepTrialRow& row : trial.rows) {
        EXPECT_TRUE(row.same) << row.what << " " << row.group;
        EXPECT_EQ(row.chunks, row.what == "visited" ? 7u : trial.changed);
        EXPECT_EQ(row.loadedBytes, trial.rows[0].loadedBytes) << "whichever way, a running world holds its changes";
        EXPECT_GT(row.saveMs, 0);
        EXPECT_GT(row.loadMs, 0);
    }
    EXPECT_EQ(trial.rows[3].rows, 7u) << "visited, a row a chunk";
    EXPECT_EQ(trial.rows[4].rows, 5u) << "columns: the middle one has three chunks";
    EXPECT_GE(trial.rows[3].bytes, trial.rows[0].bytes);
    EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
}

TEST(KeepTrial, TakesTheChangesThatAreThere)
{
    const test::TempFolder folder;
    KeepTrialSpec with = spec(folder);
    with.changes = std::make_shared<WorldChanges>();
    const VoxelChange far{{5000, 10, 0}, kOpen, 1}; // not among the visited
    with.changes->set(std::span(&far, 1));
    const auto trial = runKeepTrial(with);
    ASSERT_TRUE(trial);
    EXPECT_EQ(trial.value().voxels, 1u);
    EXPECT_EQ(trial.value().rows[3].chunks, 8u) << "seven that were visited, and the one that was changed";
    EXPECT_TRUE(trial.value().rows[3].same);
}

TEST(KeepTrial, StopsAndSaysWhereItCannotWrite)
{
    const test::TempFolder folder;
    std::stop_source stop;
    stop.request_stop();
    EXPECT_TRUE(runKeepTrial(spec(folder), stop.get_token()).value().stopped);
    KeepTrialSpec nowhere = spec(folder);
    nowhere.folder = "/proc/nowhere";
    const auto trial = runKeepTrial(nowhere);
    ASSERT_FALSE(trial);
    EXPECT_NE(sentence(trial.problem()).find("cannot be made"), std::string::npos) << sentence(trial.problem());
}

} // namespace
} // namespace fell::keep_trial_test
