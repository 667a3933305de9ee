// SPDX-License-Identifier: Apache-2.0
// The audit of culling with pictures that are made up: what a picture shows decides what is lost.
#include <fell/audit/cull_audit.h>

#include "support/all_names.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

namespace fell::cull_audit_test {
namespace {

/// Chunks as the drawing side would hold them, and a picture that the test paints.
struct FakePicture {
    CullScene scene;
    std::map<ChunkPos, std::uint32_t> places;
    std::function<std::vector<VisibleChunk>(const Eye&)> paint;
    int edge = 16;

    CullAuditSpec spec()
    {
        CullAuditSpec out;
        out.world = "made up";
        out.terrain = test::testTerrain();
        out.setup.chunk.edge = edge;
        out.setup.stream.distance = 2;
        out.setup.stream.workers = 1;
        out.setup.light.mode = "none";
        out.views = 12; // one of each kind
        out.hooks.begin = [this](const Setup& setup, const Terrain&) {
            scene.clear(setup.cull, setup.chunk.edge, setup.stream.distance);
            places.clear();
        };
        out.hooks.apply = [this](const StreamEvent& event) { apply(event); };
        out.hooks.look = [this](const Eye& eye, double) { return paint(eye); };
        out.hooks.scene = [this]() -> CullScene& { return scene; };
        return out;
    }
    void apply(const StreamEvent& event)
    {
        if (const auto found = places.find(event.chunk); found != places.end()) {
            const std::uint32_t hole = found->second;
            places.erase(found);
            if (const auto moved = scene.remove(hole))
                places[*moved] = hole;
        }
        if (event.kind == StreamEvent::Kind::Release)
            return scene.forget(event.chunk);
        if (event.mesh.sight)
            scene.learn(event.chunk, *event.mesh.sight);
        if (!event.mesh.mesh.isEmpty())
            places[event.chunk] = scene.add(event.chunk, kAllSides);
    }
    /// Chunks whose middle lies `behind` the eye or before it, three chunks away at most.
    std::vector<VisibleChunk> chunksAlong(const Eye& eye, bool behind) const
    {
        std::vector<VisibleChunk> out;
        const glm::dvec3 forward = forwardOf(eye);
        for (const auto& [chunk, place] : places) {
            const Box box = boxOf(chunk, edge, eye);
            const glm::dvec3 towards = glm::dvec3((box.low + box.high) * 0.5F) - eye.within;
            if (glm::dot(towards, forward) * (behind ? -1 : 1) > 2.0 * edge)
                out.push_back({chunk, 0, 7});
        }
        return out;
    }
};

TEST(CullAudit, AnEmptyPictureLosesNothing)
{
    FakePicture fake;
    fake.paint = [](const Eye&) { return std::vector<VisibleChunk>{}; };
    const CullAuditResult result = auditCull(fake.spec());
    EXPECT_EQ(result.row.cases, 12u);
    EXPECT_EQ(result.row.differences, 0u);
    EXPECT_EQ(result.seen, 0u);
    EXPECT_EQ(result.steps.size(), cullSteps().size());
}

TEST(CullAudit, WhatIsSeenBehindTheEyeIsLostByTheSteps)
{
    FakePicture fake;
    fake.paint = [&fake](const Eye& eye) { return fake.chunksAlong(eye, true); }; // no real picture shows that
    const CullAuditResult result = auditCull(fake.spec());
    EXPECT_GT(result.seen, 0u);
    EXPECT_GT(result.row.differences, 0u) << "the planes reject what lies behind";
    ASSERT_FALSE(result.lost.empty());
    EXPECT_TRUE(findCullStep(result.lost.front().step)->isExact) << "the worst come first";
    EXPECT_NE(result.row.first.find("made up"), std::string::npos) << result.row.first;
    EXPECT_NE(result.row.first.find("7 pixels"), std::string::npos) << result.row.first;
    const auto stepOf = [&](const char* id) {
        return *std::find_if(
            result.steps.begin(), result.steps.end(), [id](const StepFinding& s) { return s.step == id; });
    };
    EXPECT_EQ(stepOf("view-planes").lost, stepOf("octree").lost) << "the same test, walked";
    EXPECT_EQ(stepOf("view-planes").lost, result.seen) << "all of it is behind the near plane";
    EXPECT_EQ(stepOf("distance").lost, 0u);
}

TEST(CullAudit, OneStepIsNotBlamedForWhatAnotherLoses)
{
    FakePicture fake;
    fake.paint = [&fake](const Eye& eye) {
        auto seen = fake.chunksAlong(eye, false);
        seen.resize(std::min<std::size_t>(seen.size(), 1));
        for (VisibleChunk& chunk : seen) { // a side that is turned away from the eye is said to be seen
            const Box box = boxOf(chunk.chunk, fake.edge, eye);
            for (const Side side : kSides) {
                const int axis = axisOf(side);
                const double at = eye.within[axis];
                const bool isAway = signOf(side) > 0 ? at < box.low[axis] : at > box.high[axis];
                if (isAway)
                    chunk.sides = onlySide(side);
            }
        }
        return seen;
    };
    const CullAuditResult result = auditCull(fake.spec());
    for (const LostChunk& lost : result.lost)
        if (lost.step == "distance" || lost.step == "octree")
            ADD_FAILURE() << lost.step << " is blamed in view " << lost.view << ", " << lost.kind;
    const auto facing = std::find_if(
        result.steps.begin(), result.steps.end(), [](const StepFinding& s) { return s.step == "facing"; });
    EXPECT_GT(facing->lost, 0u) << "a direction that is seen must be drawn";
}

TEST(CullAudit, CanBeStoppedAndAddedUp)
{
    FakePicture fake;
    fake.paint = [](const Eye&) { return std::vector<VisibleChunk>{}; };
    std::stop_source source;
    source.request_stop();
    EXPECT_TRUE(auditCull(fake.spec(), source.get_token()).row.stopped);

    CullAuditResult all, one;
    one.row.cases = 3;
    one.row.differences = 1;
    one.row.first = "first";
    one.steps = {{"octree", true, 1, 1}};
    addTo(all, one);
    one.row.first = "second";
    addTo(all, one);
    EXPECT_EQ(all.row.cases, 6u);
    EXPECT_EQ(all.row.differences, 2u);
    EXPECT_EQ(all.row.first, "first");
    EXPECT_EQ(all.steps[0].lost, 2u);
}

} // namespace
} // namespace fell::cull_audit_test
