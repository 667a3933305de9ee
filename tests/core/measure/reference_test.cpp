// SPDX-License-Identifier: Apache-2.0
#include <fell/measure/reference.h>

#include <fell/measure/mesh_rounds.h>

#include "support/all_names.h"
#include <fell/measure/gate.h>

#include <gtest/gtest.h>

#include <set>

namespace fell::reference_test {
namespace {

TEST(Reference, IsTakenBesideEveryFourthMeshAndNoOtherJob)
{
    ReferenceTimer reference;
    const Streamer::BeforeJob hook = reference.hook();
    ChunkJob job;
    job.kind = ChunkJob::Kind::Generate;
    hook(job);
    EXPECT_EQ(reference.referenceNsNear(job.chunk), 0);
    job.kind = ChunkJob::Kind::Mesh;
    std::vector<double> near;
    for (int i = 0; i < 40; ++i) {
        job.chunk = {i, 0, 0};
        hook(job);
        near.push_back(reference.referenceNsNear(job.chunk));
        EXPECT_GT(near.back(), 1000) << "4,096 voxels are not meshed in a microsecond";
    }
    for (std::size_t i = 0; i < near.size(); ++i)
        EXPECT_EQ(near[i], near[i - i % 4]) << "the same for four chunks";
    EXPECT_NE(std::set<double>(near.begin(), near.end()).size(), 1u) << "measured again";
    EXPECT_EQ(near[0], reference.referenceNsNear({0, 0, 0}));
    EXPECT_EQ(reference.referenceNsNear({40, 0, 0}), 0);
}

TEST(Reference, RoundsAreComparedInItWhereBothSidesKnowIt)
{
    const std::vector<double> a{100, 200}, aReferences{2, 2}, b{90, 90}, bReferences{2, 1};
    const auto listOf = [](std::span<const double> span) { return std::vector<double>(span.begin(), span.end()); };
    const MeshRounds both = comparableRounds(a, aReferences, b, bReferences);
    EXPECT_TRUE(both.inReferences);
    EXPECT_EQ(listOf(both.a), aReferences);
    EXPECT_EQ(listOf(both.b), bReferences);
    for (const auto& broken : {std::vector<double>{}, {2}, {2, 0}}) {
        const MeshRounds plain = comparableRounds(a, aReferences, b, broken);
        EXPECT_FALSE(plain.inReferences);
        EXPECT_EQ(listOf(plain.a), a);
        EXPECT_EQ(listOf(plain.b), b);
    }
}

TEST(Reference, AClockOfHalfTheSpeedIsNoSlowdownForTheGate)
{
    TransectResult then, now;
    TransectRow row;
    row.value = 4;
    row.meshRounds = {100, 101, 99};
    then.rows = {row};
    for (double& ns : row.meshRounds)
        ns *= 2;
    now.rows = {row};
    EXPECT_NEAR(compareWithBaseline(then, now, 0.05).at(0).ratio.ratio, 2, 1e-9) << "the reason is unknown";
    then.rows[0].roundsInReferences = {2, 2.02, 1.98};
    now.rows[0].roundsInReferences = {2, 2.02, 1.98};
    const auto compared = compareWithBaseline(then, now, 0.05);
    ASSERT_EQ(compared.size(), 1u);
    EXPECT_EQ(compared[0].what, "mesh_ns");
    EXPECT_NEAR(compared[0].ratio.ratio, 1, 1e-9);
    EXPECT_EQ(compared[0].verdict, Verdict::Within);
}

} // namespace
} // namespace fell::reference_test
