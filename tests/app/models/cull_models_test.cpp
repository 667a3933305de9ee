// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/app/models/cull_auditor.h>
#include <fell/app/models/cull_lines.h>
#include <fell/app/models/step_trial.h>
#include <fell/demo/demo_folder.h>

#include <QCoreApplication>
#include <QTest>
#include <glm/geometric.hpp>
#include <gtest/gtest.h>

namespace fell::cull_models_test {
namespace {

TEST(CullLines, ANodeHasTwelveEdgesAndAnEmptyPlaceDashes)
{
    LineBatch lines;
    lines.from = {-32, 0, 0};
    EXPECT_EQ(addOctree(lines, {{OctreeCell::Kind::Leaf, {1, 0, 0}, 1}}, 32, {}), 0u);
    ASSERT_EQ(lines.vertices.size(), 24u);
    for (const LineBatch::Vertex& vertex : lines.vertices) { // chunk 1 begins 64 voxels from the batch's origin
        EXPECT_GT(vertex.at.x, 64);
        EXPECT_LT(vertex.at.x, 96);
    }
    LineBatch dashed;
    addOctree(dashed, {{OctreeCell::Kind::Empty, {0, 0, 0}, 1}}, 32, {});
    EXPECT_EQ(dashed.vertices.size() % 24, 0u);
    EXPECT_GT(dashed.vertices.size(), 24u) << "an edge is more than one piece";
    float drawn = 0;
    for (std::size_t i = 0; i < dashed.vertices.size(); i += 2)
        drawn += glm::length(dashed.vertices[i + 1].at - dashed.vertices[i].at);
    EXPECT_LT(drawn, 12 * 32 * 0.6F) << "with gaps between";
    EXPECT_NE(dashed.vertices[0].colour, lines.vertices[0].colour);
}

TEST(CullLines, WhatDoesNotFitIsSmallAndFarAway)
{
    std::vector<OctreeCell> cells;
    for (std::int64_t i = 0; i < 4000; ++i)
        cells.push_back({OctreeCell::Kind::Leaf, {i, 0, 0}, 1});
    cells.push_back({OctreeCell::Kind::Node, {0, 0, 0}, 4096});
    LineBatch lines;
    EXPECT_EQ(addOctree(lines, cells, 16, {0, 0, 0}), 4001 - kMaxLines / 12);
    float farthest = 0, largest = 0;
    for (std::size_t i = 0; i < lines.vertices.size(); i += 2) {
        const float length = glm::length(lines.vertices[i + 1].at - lines.vertices[i].at);
        largest = std::max(largest, length);
        if (length < 17)
            farthest = std::max(farthest, lines.vertices[i].at.x);
    }
    EXPECT_GT(largest, 4000 * 16) << "the large node is among them";
    EXPECT_LE(farthest, 16.0F * kMaxLines / 12) << "the nearest leaves";
}

TEST(CullLines, TheHeldViewEndsInTheCornersOfItsPicture)
{
    const Eye eye{{5, 6, 7}, {0.25, 0.5, 0.75}, 37, -12};
    Lens lens;
    lens.aspect = 1.6F;
    LineBatch lines;
    lines.from = eye.cell;
    addView(lines, eye, lens, 100);
    const glm::mat4 toClip = viewProjection(eye, lens);
    for (std::size_t i = 0; i < 4; ++i) { // the first four lines lead from the eye to the corners
        EXPECT_NEAR(glm::length(lines.vertices[2 * i].at - glm::vec3(eye.within)), 0, 1e-5);
        const glm::vec4 corner = toClip * glm::vec4(lines.vertices[2 * i + 1].at, 1);
        EXPECT_NEAR(std::abs(corner.x / corner.w), 1, 1e-4);
        EXPECT_NEAR(std::abs(corner.y / corner.w), 1, 1e-4);
        EXPECT_NEAR(corner.w, 100, 1e-2) << "so far along the view";
    }
}

TEST(CullLines, AMarkedChunkIsDrawnOverEverything)
{
    LineBatch lines;
    addChunk(lines, {0, 0, 0}, 16);
    EXPECT_EQ(lines.vertices.size(), 24u);
    EXPECT_EQ(lines.over, 24u);
}

TEST(StepTrial, EndsWithRowsOrSaysThatTheViewHasMoved)
{
    StepTrial trial;
    int changes = 0;
    QObject::connect(&trial, &StepTrial::changed, [&] { ++changes; });
    CullChoices choices;
    choices.steps = {"octree"};
    const Eye eye{{1, 2, 3}};
    EXPECT_EQ(trial.number(), 0u);
    trial.start(StepTrial::Of::Steps, choices, eye);
    const std::uint64_t first = trial.number();
    EXPECT_NE(first, 0u);
    int frames = 0;
    while (trial.isRunning() && frames < 100) {
        FrameCost frame;
        frame.ms = trial.next().choices.steps.empty() ? 40 : 10;
        trial.note(frame, eye);
        ++frames;
    }
    EXPECT_EQ(frames, 3 * 6) << "all, without the one step, none; five rounds and one to warm up";
    ASSERT_EQ(trial.rows(StepTrial::Of::Steps).size(), 3u);
    EXPECT_EQ(trial.rows(StepTrial::Of::Steps)[0].frameMs.p50, 10);
    EXPECT_EQ(trial.rows(StepTrial::Of::Steps)[2].frameMs.p50, 40);
    EXPECT_EQ(changes, 2);

    EXPECT_EQ(trial.number(), 0u);
    trial.start(StepTrial::Of::Steps, choices, eye);
    EXPECT_NE(trial.number(), first) << "frames of the one before do not count";
    trial.note({}, Eye{{1, 2, 4}});
    EXPECT_FALSE(trial.isRunning());
    EXPECT_FALSE(trial.trouble().isEmpty());
    EXPECT_EQ(trial.rows(StepTrial::Of::Steps).size(), 3u) << "what was measured before stays";
}

TEST(CullAuditor, AuditsOnAThreadOfItsOwnAndCanBeStopped)
{
    int argc = 0;
    const QCoreApplication app(argc, nullptr);
    CullAuditor auditor;
    fell::Setup setup = test::unlitSetup();
    setup.chunk.edge = 16;
    setup.stream.distance = 2;
    const auto terrain = makeTerrain(findWorld("level", demoFolder()).take());
    const Eye eye{{0, 4, 0}, glm::dvec3(0.5), 30, -10};
    auditor.start(terrain, setup, eye, 6);
    EXPECT_TRUE(auditor.isRunning());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !auditor.isRunning(); }, 60000));
    ASSERT_TRUE(auditor.result()) << auditor.trouble().toStdString();
    EXPECT_EQ(auditor.result()->row.cases, 6u);
    EXPECT_EQ(auditor.result()->row.differences, 0u) << auditor.result()->row.first;
    EXPECT_GT(auditor.result()->seen, 0u);

    auditor.start(terrain, setup, eye, 100000);
    auditor.stop();
    ASSERT_TRUE(QTest::qWaitFor([&] { return !auditor.isRunning(); }, 60000));
    EXPECT_EQ(auditor.result()->row.cases, 6u) << "the one that ended stays";
}

} // namespace
} // namespace fell::cull_models_test
