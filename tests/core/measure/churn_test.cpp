// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/lit_blocks.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/measure/churn.h>
#include <fell/measure/report.h>
#include <fell/measure/results.h>

#include <gtest/gtest.h>
#include <map>
#include <set>

namespace fell::churn_test {
namespace {

/// A plain of slate below y = 0 with a few lamps among its block kinds, as a map of voxels that edits are made on.
struct Plain {
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<const SideRules> rules;
    Material lamp = kOpen;
    std::map<VoxelPos, Material> changed;

    Plain()
    {
        Recipe recipe;
        recipe.name = "plain";
        recipe.blocks = test::testBlocks();
        BlockKind kind{.name = "lamp"};
        kind.light.emission = {14, 10, 6};
        recipe.blocks.kinds.push_back(kind);
        lamp = static_cast<Material>(recipe.blocks.kinds.size() - 1);
        recipe.pattern = Pattern{.kind = Pattern::Kind::Level, .material = 1};
        rules = std::make_shared<const SideRules>(sideRulesOf(recipe.blocks));
        terrain = makeTerrain(std::move(recipe));
    }
    [[nodiscard]] Material at(VoxelPos place) const
    {
        const auto found = changed.find(place);
        return found != changed.end() ? found->second : place.y < 0 ? Material{1} : kOpen;
    }
    std::vector<VoxelChange> make(const ChurnLoad& load, int frame, VoxelPos eye = {5, 10, 5}) const
    {
        return churnEdit(load, 1, frame, eye, terrain, rules).make([this](VoxelPos place) {
            return std::optional(at(place));
        });
    }
    void take(std::span<const VoxelChange> changes)
    {
        for (const VoxelChange& one : changes)
            changed[one.at] = one.after;
    }
    /// The first voxel above the highest block of a column.
    [[nodiscard]] std::int64_t top(std::int64_t x, std::int64_t z) const
    {
        std::int64_t y = 60;
        while (at({x, y - 1, z}) == kOpen)
            --y;
        return y;
    }
};

TEST(Churn, BlocksComeAndGoOnTopOfTheirColumnsNearTheEye)
{
    Plain plain;
    int placed = 0, removed = 0;
    for (int frame = 0; frame < 200; ++frame) {
        const auto changes = plain.make({ChurnKind::Blocks, 1}, frame);
        ASSERT_EQ(changes.size(), 1u);
        const VoxelChange& one = changes[0];
        EXPECT_LE(std::abs(one.at.x - 5), kChurnReach);
        EXPECT_LE(std::abs(one.at.z - 5), kChurnReach);
        const std::int64_t top = plain.top(one.at.x, one.at.z);
        EXPECT_EQ(one.at.y, one.after == kOpen ? top - 1 : top);
        ++(one.after == kOpen ? removed : placed);
        plain.take(changes);
    }
    EXPECT_NEAR(placed, 100, 40);
    EXPECT_EQ(placed + removed, 200);
}

TEST(Churn, TheChangesOfOneFrameKnowOfEachOther)
{
    const Plain plain;
    const auto changes = plain.make({ChurnKind::Blocks, 4000}, 0); // more than there are columns: some are hit twice
    std::set<VoxelPos> places;
    std::map<std::pair<std::int64_t, std::int64_t>, int> columns;
    for (const VoxelChange& one : changes) {
        EXPECT_TRUE(places.insert(one.at).second) << "each voxel once";
        ++columns[{one.at.x, one.at.z}];
    }
    EXPECT_TRUE(std::any_of(columns.begin(), columns.end(), [](const auto& one) { return one.second > 1; }));
}

TEST(Churn, IsTheSameForTheSameFrameAndSeedOnly)
{
    const Plain plain;
    const ChurnLoad load{ChurnKind::Blocks, 20};
    EXPECT_EQ(plain.make(load, 3), plain.make(load, 3));
    EXPECT_NE(plain.make(load, 3), plain.make(load, 4));
    const auto other = churnEdit(load, 2, 3, {5, 10, 5}, plain.terrain, plain.rules);
    EXPECT_NE(other.make([&](VoxelPos place) { return std::optional(plain.at(place)); }), plain.make(load, 3));
}

TEST(Churn, LampsStandOnTheGroundAndGoAgain)
{
    Plain plain;
    std::size_t max = 0, lamps = 0;
    for (int frame = 0; frame < 300; ++frame) {
        plain.take(plain.make({ChurnKind::Lamps, 20}, frame));
        lamps = 0;
        for (const auto& [at, material] : plain.changed) {
            EXPECT_TRUE(material == kOpen || material == plain.lamp);
            EXPECT_EQ(at.y, 0);
            lamps += material == plain.lamp;
        }
        max = std::max(max, lamps);
    }
    EXPECT_GT(lamps, 900u) << "half of the 2401 columns in the long run";
    EXPECT_LT(max, 1500u);
}

TEST(Churn, BlastsDigWithinTheirRadius)
{
    Plain plain;
    const auto changes = plain.make({ChurnKind::Blasts, 1}, 0);
    ASSERT_GT(changes.size(), 10u);
    for (const VoxelChange& one : changes) {
        EXPECT_EQ(one.after, kOpen);
        EXPECT_LT(one.at.y, 0);
        EXPECT_GE(one.at.y, -1 - 6);
    }
}

TEST(Churn, LeavesColumnsWithoutABlockAlone)
{
    const Plain plain;
    EXPECT_TRUE(plain.make({ChurnKind::Blocks, 5}, 0, {5, 1000, 5}).empty());
}

TEST(Churn, IsReadAndWrittenAsText)
{
    for (const char* text : {"none", "blocks:8", "lamps:1", "blasts:16"}) {
        const auto load = parseChurn(text);
        ASSERT_TRUE(load) << text;
        EXPECT_EQ(textOf(load.value()), text);
    }
    EXPECT_EQ(parseChurn("blocks:8").value(), (ChurnLoad{ChurnKind::Blocks, 8}));
    for (const char* text :
        {"", "blocks", "blocks:", "blocks:0", "blocks:-1", "blasts:17", "none:1", "rain:3", "blocks:8x"}) {
        const auto load = parseChurn(text);
        ASSERT_FALSE(load) << text;
        EXPECT_NE(load.problem().what.find("blasts:N with N from 1 to 16"), std::string::npos) << load.problem().what;
    }
    EXPECT_TRUE(checkChurn({ChurnKind::Lamps, 2}, test::testBlocks())) << "no block gives light there";
    EXPECT_FALSE(checkChurn({ChurnKind::Lamps, 2}, Plain().terrain->recipe.blocks));
}

/// The voxels that differ, one by one.
TEST(Churn, VoxelsRelitAreThoseWhoseLevelsDiffer)
{
    std::mt19937 dice(3);
    for (const int edge : kChunkEdges) {
        ChunkLight a{.edge = edge, .channels = 4};
        a.of[3].all = 15;
        ChunkLight b = a;
        const auto voxels = static_cast<std::size_t>(edge) * edge * edge;
        std::set<std::size_t> differ;
        for (int i = 0; i < 300; ++i) {
            const std::size_t voxel = dice() % voxels;
            const int channel = static_cast<int>(dice() % 4), level = static_cast<int>(dice() % 16);
            (i % 3 ? b : a).set(channel, voxel, level);
        }
        for (std::size_t voxel = 0; voxel < voxels; ++voxel)
            for (int c = 0; c < 4; ++c)
                if (a.at(c, voxel) != b.at(c, voxel))
                    differ.insert(voxel);
        EXPECT_EQ(differenceOf(a, b).voxels, differ.size()) << edge;
        EXPECT_EQ(differenceOf(a, a).voxels, 0u);
    }
}

TransectSpec churnSpec(ChurnLoad load)
{
    TransectSpec spec;
    spec.a = test::unlitSetup();
    spec.terrain = Plain().terrain;
    spec.a.name = "together";
    spec.a.chunk.edge = 16;
    spec.b = spec.a;
    spec.b->name = "each";
    spec.b->edit.method = "each";
    spec.values = {2};
    spec.route.title = "there";
    spec.route.points = {{{0, 5, 0}, 0, 0}, {{20, 5, 0}, 90, 0}};
    spec.rounds = 2;
    spec.frames = 3;
    spec.churn = load;
    return spec;
}

TEST(Churn, ATrialCountsWhatEachSetupPaysForTheSameChanges)
{
    const TransectSpec spec = churnSpec({ChurnKind::Blocks, 10});
    ASSERT_FALSE(checkTransect(spec));
    const TransectResult result = runTransect(spec, nullptr, {}, {});
    ASSERT_EQ(result.rows.size(), 2u);
    const ChurnCost &a = result.rows[0].churn, &b = result.rows[1].churn;
    EXPECT_EQ(a.changes, 2u * 3 * 10);
    EXPECT_EQ(a.changes, b.changes);
    EXPECT_EQ(a.voxels, b.voxels);
    EXPECT_GT(a.voxels, 0u);
    EXPECT_LE(a.voxels, a.changes);
    EXPECT_EQ(a.readyMs.count, 6u) << "one edit a frame and round";
    EXPECT_LT(a.meshed, b.meshed) << "voxel by voxel the same chunks are meshed again and again";
    EXPECT_GE(b.meshed, b.voxels);
    EXPECT_GT(a.bytes, 0u);
    EXPECT_GT(a.meshNs, 0u);
    EXPECT_TRUE(std::any_of(
        result.ratios.begin(), result.ratios.end(), [](const TransectRatio& one) { return one.what == "change_ms"; }));
    const std::string report = toMarkdown(reportOf(result));
    EXPECT_NE(report.find("What one change costs"), std::string::npos);
    EXPECT_NE(report.find("10 blocks changed in each"), std::string::npos);

    const std::string json = toJson(result).dump();
    const auto back = parseResultJson(json, "r.json");
    ASSERT_TRUE(back) << sentence(back.problem());
    EXPECT_EQ(back.value().churn, spec.churn);
    EXPECT_EQ(toJson(back.value()).dump(), json);
    const auto csv = parseResultCsv(toCsv(result), "r.csv");
    ASSERT_TRUE(csv) << sentence(csv.problem());
    EXPECT_EQ(csv.value().churn, spec.churn);
    EXPECT_EQ(csv.value().rows[1].churn.meshed, b.meshed);
}

TEST(Churn, MeshTimesOfTheTrialAreThoseOfTheWorldAndNotOfItsChanges)
{
    const TransectResult still = runTransect(churnSpec({}), nullptr, {}, {}),
                         busy = runTransect(churnSpec({ChurnKind::Blocks, 10}), nullptr, {}, {});
    EXPECT_EQ(still.rows[0].meshNs.count, busy.rows[0].meshNs.count);
    EXPECT_EQ(still.rows[0].churn.changes, 0u);
    EXPECT_EQ(toMarkdown(reportOf(still)).find("What one change costs"), std::string::npos);
}

} // namespace
} // namespace fell::churn_test
