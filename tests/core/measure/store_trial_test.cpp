// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/store_trial.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

namespace fell::store_trial_test {
namespace {

std::vector<const StorageFormat*> allForms()
{
    std::vector<const StorageFormat*> out;
    for (const StorageFormat& form : voxelForms())
        out.push_back(&form);
    return out;
}

/// Level ground of one material, half of the cube.
std::vector<Material> halfFull(int edge)
{
    const auto e = static_cast<std::size_t>(edge);
    std::vector<Material> voxels(e * e * e, kOpen);
    std::fill(voxels.begin(), voxels.begin() + static_cast<std::ptrdiff_t>(voxels.size() / 2), Material{1});
    return voxels;
}

TEST(StoreTrial, EveryFormReadsBackWhatItWasGiven)
{
    const auto cubes = sampleCubes(*test::testTerrain(), *findGenerator("blocks"), 16, 5);
    ASSERT_EQ(cubes.size(), 5u);
    const StoreTrial trial = runStoreTrial(cubes, 16, allForms());
    EXPECT_EQ(trial.edge, 16);
    EXPECT_EQ(trial.chunks, 5u);
    ASSERT_EQ(trial.rows.size(), voxelForms().size());
    for (std::size_t i = 0; i < trial.rows.size(); ++i) {
        EXPECT_EQ(trial.rows[i].form, voxelForms()[i].id);
        EXPECT_TRUE(trial.rows[i].same) << trial.rows[i].form;
    }
}

TEST(StoreTrial, BytesAreTheMeanOfWhatEachFormHolds)
{
    const std::vector<std::vector<Material>> cubes{halfFull(16), std::vector<Material>(16 * 16 * 16, 1)};
    const StoreTrial trial = runStoreTrial(cubes, 16, allForms());
    for (const StoreTrialRow& row : trial.rows) {
        double sum = 0;
        for (const auto& cube : cubes)
            sum += static_cast<double>(findForm(row.form)->hold(16, cube)->bytes());
        EXPECT_DOUBLE_EQ(row.bytesPerChunk, sum / 2) << row.form;
    }
    EXPECT_GE(trial.rows[0].bytesPerChunk, 2.0 * 16 * 16 * 16) << "an array has two bytes a voxel";
}

TEST(StoreTrial, StopsBetweenTwoMeasurements)
{
    std::stop_source stop;
    stop.request_stop();
    EXPECT_TRUE(runStoreTrial({halfFull(16)}, 16, allForms(), stop.get_token()).stopped);
    EXPECT_TRUE(sampleCubes(*test::testTerrain(), *findGenerator("blocks"), 16, 5, stop.get_token()).empty());
}

TEST(SampleCubes, LargeOnesHoldTheVoxelsOfTheChunksTheyAreMadeOf)
{
    const auto terrain = test::demoTerrain("level");
    const auto cubes = sampleCubes(*terrain, *findGenerator("blocks"), 128, 1);
    ASSERT_EQ(cubes.size(), 1u);
    ASSERT_EQ(cubes[0].size(), 128u * 128 * 128);
    // Half of it lies below the ground at height 0: rows of y below the middle are solid, those above open.
    for (std::size_t y = 0; y < 128; ++y)
        for (const std::size_t at : {std::size_t{0}, std::size_t{5000}, std::size_t{128 * 128 - 1}})
            ASSERT_EQ(cubes[0][y * 128 * 128 + at] != kOpen, y < 64) << y;
}

} // namespace
} // namespace fell::store_trial_test
