// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/audit/light_audit.h>
#include <fell/audit/plain_light.h>
#include <fell/light/flood.h>

#include <gtest/gtest.h>

namespace fell::light_audit_test {
namespace {

TEST(LightAudit, EditsAndOrdersAgreeWithAFloodFromNothing)
{
    LightAuditSpec spec;
    spec.blocks = test::testBlocks();
    spec.cases = 40; // eight worlds: each kind, each mode, both edges
    spec.editsAWorld = 5;
    spec.orders = 2;
    const AuditRow row = auditLight(spec);
    EXPECT_EQ(row.differences, 0u) << row.first;
    EXPECT_EQ(row.cases, 8u * (2 + 1) + 40);
}

/// The audit's plain way is itself held against a relaxation that knows no queue.
TEST(PlainLight, AgreesWithRelaxingUntilNothingChanges)
{
    BlockSet blocks = test::testBlocks();
    blocks.kinds[3].light = {3, {0, 2, 8}, {}};
    blocks.kinds[4].light = {15, {}, {14, 9, 4}};
    const LightRules rules = lightRulesOf(blocks, *findLightMode("colour-sky"));
    constexpr int kEdge = 16;
    std::vector<Material> voxels;
    std::mt19937_64 dice(3);
    for (int i = 0; i < kEdge * kEdge * kEdge; ++i)
        voxels.push_back(dice() % 3 == 0 ? static_cast<Material>(dice() % 6 % blocks.kinds.size()) : kOpen);
    PlainLight plain(rules, kEdge);
    plain.put({0, 0, 0}, voxels);
    plain.flood();
    const auto at = [](int x, int y, int z) { return static_cast<std::size_t>((y * kEdge + z) * kEdge + x); };
    for (int c = 0; c < 6; ++c) {
        std::vector<int> level(voxels.size());
        for (int x = 0; x < kEdge; ++x)
            for (int z = 0; z < kEdge; ++z)
                for (int y = kEdge - 1; y >= 0 && c >= 3 && rules.isOpen[voxels[at(x, y, z)]]; --y)
                    level[at(x, y, z)] = 15;
        for (std::size_t i = 0; i < voxels.size() && c < 3; ++i)
            level[i] = rules.emission[static_cast<std::size_t>(c)][voxels[i]];
        for (bool changed = true; changed;) {
            changed = false;
            for (int y = 0; y < kEdge; ++y)
                for (int z = 0; z < kEdge; ++z)
                    for (int x = 0; x < kEdge; ++x)
                        for (const Side side : kSides) {
                            const ChunkPos to = stepOf(side);
                            const int nx = x + static_cast<int>(to.x), ny = y + static_cast<int>(to.y),
                                      nz = z + static_cast<int>(to.z);
                            if (std::min({nx, ny, nz}) < 0 || std::max({nx, ny, nz}) >= kEdge)
                                continue;
                            const int from = level[at(nx, ny, nz)] - rules.takenIn(c)[voxels[at(x, y, z)]];
                            if (from > level[at(x, y, z)]) {
                                level[at(x, y, z)] = from;
                                changed = true;
                            }
                        }
        }
        for (int y = 0; y < kEdge; ++y)
            for (int z = 0; z < kEdge; ++z)
                for (int x = 0; x < kEdge; ++x)
                    ASSERT_EQ(plain.level({x, y, z}, c), level[at(x, y, z)]) << c << ": " << x << " " << y << " " << z;
    }
}

TEST(PlainLight, ItsEditsAgreeWithItsFlood)
{
    BlockSet blocks = test::testBlocks();
    blocks.kinds[3].light = {2, {0, 2, 8}, {}};
    blocks.kinds[4].light = {15, {}, {14, 9, 4}};
    const LightRules rules = lightRulesOf(blocks, *findLightMode("colour-sky"));
    std::mt19937_64 dice(5);
    PlainLight live(rules, 16), rebuilt(rules, 16);
    std::vector<Material> voxels;
    for (int i = 0; i < 16 * 16 * 16; ++i)
        voxels.push_back(dice() % 4 == 0 ? static_cast<Material>(1 + dice() % 5) : kOpen);
    for (PlainLight* light : {&live, &rebuilt})
        light->put({0, 0, 0}, voxels);
    live.flood();
    for (int i = 0; i < 60; ++i) {
        const VoxelPos at{static_cast<int>(dice() % 16), static_cast<int>(dice() % 16), static_cast<int>(dice() % 16)};
        const auto material = static_cast<Material>(dice() % 6);
        live.edit(at, material);
        rebuilt.set(at, material);
        rebuilt.flood();
        for (int v = 0; v < 16 * 16 * 16; ++v)
            for (int c = 0; c < 6; ++c)
                ASSERT_EQ(
                    live.level({v % 16, v / 256, v / 16 % 16}, c), rebuilt.level({v % 16, v / 256, v / 16 % 16}, c))
                    << "edit " << i;
    }
}

/// Wider than one window: parts must fit each other, with lamps of several kinds and tinted glass between them.
TEST(FloodBlock, PartsAgreeWithThePlainWay)
{
    BlockSet blocks = test::testBlocks();
    blocks.kinds[2].light = {1, {0, 3, 9}, {}};
    blocks.kinds[3].light = {1, {}, {15, 13, 10}};
    blocks.kinds[4].light = {15, {}, {4, 9, 15}};
    const LightRules rules = lightRulesOf(blocks, *findLightMode("colour-sky"));
    constexpr int kEdge = 16;
    constexpr std::array<int, 3> kSize{7, 2, 8};
    std::mt19937_64 dice(11);
    PlainLight plain(rules, kEdge);
    std::vector<Transmission> passes;
    for (int y = 0; y < kSize[1]; ++y)
        for (int z = 0; z < kSize[2]; ++z)
            for (int x = 0; x < kSize[0]; ++x) {
                std::vector<Material> voxels(kEdge * kEdge * kEdge);
                // Only the lamp of one kind in the western half: there colours differ by steps alone.
                for (Material& voxel : voxels) {
                    const auto die = dice() % 1000;
                    voxel = die < 250 ? 1 : die < 252 ? 3 : x > 3 && die < 254 ? 4 : x > 3 && die < 300 ? 2 : kOpen;
                }
                passes.push_back(transmissionOf(VoxelChunk(kEdge, voxels), rules));
                plain.put({x, y, z}, std::move(voxels));
            }
    plain.flood();
    std::vector<SkyHeightMap> floors;
    for (int z = 0; z < kSize[2]; ++z)
        for (int x = 0; x < kSize[0]; ++x) {
            floors.push_back(skyFloor(kEdge, kSize[1] * kEdge));
            for (int y = kSize[1] - 1; y >= 0; --y)
                (void)carveThrough(floors.back(), passes[static_cast<std::size_t>((y * kSize[2] + z) * kSize[0] + x)],
                    std::int64_t{y} * kEdge);
        }
    LightBlock block{&rules, kEdge, kSize, {}, {}, 0};
    for (const Transmission& one : passes)
        block.passes.push_back(&one);
    for (const SkyHeightMap& floor : floors)
        block.floors.push_back(&floor);
    FloodScratch scratch;
    const std::vector<ChunkLight> lights = floodBlock(block, scratch);
    for (int y = 0; y < kSize[1] * kEdge; ++y)
        for (int z = 0; z < kSize[2] * kEdge; ++z)
            for (int x = 0; x < kSize[0] * kEdge; ++x) {
                const ChunkLight& light
                    = lights[static_cast<std::size_t>((y / kEdge * kSize[2] + z / kEdge) * kSize[0] + x / kEdge)];
                const auto voxel = static_cast<std::size_t>((y % kEdge * kEdge + z % kEdge) * kEdge + x % kEdge);
                for (int c = 0; c < 6; ++c)
                    ASSERT_EQ(light.at(c, voxel), plain.level({x, y, z}, c)) << c << ": " << x << " " << y << " " << z;
            }
}

} // namespace
} // namespace fell::light_audit_test
