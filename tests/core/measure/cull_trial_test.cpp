// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/cull_trial.h>

#include "support/all_names.h"
#include <fell/measure/draw_passes.h>

#include <gtest/gtest.h>

namespace fell::cull_trial_test {
namespace {

CullChoices twoSteps()
{
    CullChoices choices;
    choices.steps = {"octree", "facing"};
    return choices;
}

TEST(CullTrial, LeavesEachStepOutOnceAndThenAll)
{
    const auto variants = cullVariants(twoSteps());
    ASSERT_EQ(variants.size(), 4u);
    EXPECT_EQ(variants[0].choices.steps, (std::vector<std::string>{"octree", "facing"}));
    EXPECT_EQ(variants[1].choices.steps, (std::vector<std::string>{"facing"}));
    EXPECT_EQ(variants[1].step, "octree");
    EXPECT_EQ(variants[2].choices.steps, (std::vector<std::string>{"octree"}));
    EXPECT_TRUE(variants[3].choices.steps.empty());
}

TEST(CullTrial, LeavesEachPassOutOnceAndThenAll)
{
    const std::vector<PassInfo> passes{{"sky", "sky"}, {"solid", "cubes"}, {"mist", "mist"}};
    const auto variants = passVariants(twoSteps(), passes);
    ASSERT_EQ(variants.size(), passes.size() + 2);
    EXPECT_EQ(variants.front().leftOut, 0u);
    unsigned each = 0;
    for (std::size_t i = 0; i < passes.size(); ++i) {
        EXPECT_EQ(variants[i + 1].step, passes[i].title);
        EXPECT_EQ(each & variants[i + 1].leftOut, 0u) << "another pass each time";
        each |= variants[i + 1].leftOut;
        EXPECT_EQ(variants[i + 1].choices.steps.size(), 2u) << "culled alike";
    }
    EXPECT_EQ(each, 7u);
    EXPECT_EQ(variants.back().leftOut, 7u);
}

TEST(CullTrial, TakesTurnsBackAndForthAndDropsTheFirstRound)
{
    CullTrial trial(cullVariants(twoSteps()), 2);
    std::vector<std::size_t> asked; // by the number of steps that are left
    double ms = 100; // of the warm-up; then what the variant costs
    while (!trial.isDone()) {
        const std::size_t left = trial.next().choices.steps.size();
        asked.push_back(left);
        FrameCost frame;
        frame.ms = asked.size() <= 4 ? ms : 10.0 * static_cast<double>(3 - left);
        frame.triangles = 1000 * (3 - left);
        frame.culled = {{4, 2, 2, 500000}, {4, 2, 2, 250000}};
        trial.note(frame);
    }
    // Variants have 2, 1, 1 and 0 steps; every other round is turned round.
    EXPECT_EQ(asked, (std::vector<std::size_t>{2, 1, 1, 0, 0, 1, 1, 2, 2, 1, 1, 0}));
    const auto rows = trial.rows();
    ASSERT_EQ(rows.size(), 4u);
    EXPECT_EQ(rows[0].what, "all steps");
    EXPECT_EQ(rows[0].frameMs.p50, 10);
    EXPECT_EQ(rows[0].frameMs.count, 2u) << "the first round only warms up";
    EXPECT_EQ(rows[3].frameMs.p50, 30);
    EXPECT_EQ(rows[3].triangles, 3000u);
    EXPECT_DOUBLE_EQ(rows[0].cullMs, 0.75) << "both steps together";
    trial.note({}); // too much is ignored
    EXPECT_EQ(trial.rows()[0].frameMs.count, 2u);
}

} // namespace
} // namespace fell::cull_trial_test
