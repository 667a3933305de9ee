// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/voxels/neighbourhood.h>

#include <gtest/gtest.h>

#include <random>

namespace fell::neighbourhood_test {
namespace {

/// 27 chunks whose every voxel encodes its place.
struct Labelled {
    std::vector<VoxelChunk> chunks;
    explicit Labelled(int edge)
    {
        for (int i = 0; i < 27; ++i) {
            std::vector<Material> voxels;
            for (int at = 0; at < edge * edge * edge; ++at)
                voxels.push_back(static_cast<Material>(i * 997 + at * 31 + 1));
            chunks.emplace_back(edge, std::move(voxels));
        }
    }
    [[nodiscard]] Neighbourhood view() const
    {
        Neighbourhood around;
        for (std::size_t i = 0; i < 27; ++i)
            around.chunks[i] = &chunks[i];
        return around;
    }
};

/// Is every voxel of the chunk and the layers around it in its place?
void expectInPlace(const PaddedVoxels& padded, const Labelled& world, int edge)
{
    const int apron = padded.apron;
    for (int y = -apron; y < edge + apron; ++y)
        for (int z = -apron; z < edge + apron; ++z)
            for (int x = -apron; x < edge + apron; ++x) {
                const auto part = [edge](int v) { return v < 0 ? 0 : v >= edge ? 2 : 1; };
                const auto local = [edge](int v) { return (v + edge) % edge; };
                const auto& chunk = world.chunks[static_cast<std::size_t>(part(y) * 9 + part(z) * 3 + part(x))];
                ASSERT_EQ(padded.at(x, y, z), chunk.at(local(x), local(y), local(z))) << x << " " << y << " " << z;
            }
}

TEST(Gather, PutsEveryVoxelOfTheChunkAndTheLayersRoundItInItsPlace)
{
    for (const int edge : kChunkEdges) {
        const Labelled world(edge);
        PaddedVoxels padded;
        for (const int apron : {kMaxApron, 2, kMinApron}) {
            gather(world.view(), padded, apron);
            ASSERT_EQ(padded.stride(), edge + 2 * apron);
            expectInPlace(padded, world, edge);
        }
    }
}

TEST(Gather, ANarrowedApronIsThatOfGatheringLess)
{
    const Labelled world(16);
    PaddedVoxels wide;
    gather(world.view(), wide, 3);
    for (const int apron : {1, 2, 3}) {
        const PaddedVoxels less = narrowed(wide, apron);
        ASSERT_EQ(less.voxels.size(), static_cast<std::size_t>(less.stride() * less.stride() * less.stride()));
        expectInPlace(less, world, 16);
    }
}

/// Edits of the 27, gathered again each time, against gathering from nothing and a box found voxel by voxel.
TEST(Gather, AgainIsFromNothing)
{
    for (const char* name : {"palette", "array", "runs"})
        for (const int edge : kChunkEdges) {
            const StorageFormat& form = *findForm(name);
            std::mt19937 dice(5);
            SharedAround<VoxelChunk> around;
            const auto count = static_cast<std::size_t>(edge) * static_cast<std::size_t>(edge * edge);
            for (auto& chunk : around) {
                std::vector<Material> voxels(count);
                for (Material& one : voxels)
                    one = static_cast<Material>(dice() % 8 == 0 ? dice() % 5 : 1);
                chunk = std::make_shared<const VoxelChunk>(VoxelChunk(edge, std::move(voxels)).convertedTo(form));
            }
            around[22] = std::make_shared<const VoxelChunk>(edge); // all alike
            PaddedVoxelCache again;
            EXPECT_FALSE(updatePadded(around, again)) << "nothing is known yet";
            EXPECT_TRUE(updatePadded(around, again)->isEmpty());
            std::size_t different = 0;
            for (int edit = 0; edit < 30; ++edit) {
                const PaddedVoxels before = again.voxels;
                // Mostly the middle one; sometimes a material that it has not had yet, or another chunk's corner.
                const std::size_t chunk = edit % 3 == 2 ? dice() % 27 : 13;
                const auto material = static_cast<Material>(edit % 7 == 6 ? 100 + edit : dice() % 5);
                const auto voxel
                    = static_cast<std::uint32_t>(edit % 5 == 4 ? (dice() % 2) * (count - 1) : dice() % count);
                around[chunk] = std::make_shared<const VoxelChunk>(
                    around[chunk]->with(std::array{VoxelWrite{voxel, material}}, form));
                if (edit == 20)
                    around[12] = std::make_shared<const VoxelChunk>(edge, 3);
                const auto box = updatePadded(around, again);
                Neighbourhood view;
                for (std::size_t i = 0; i < 27; ++i)
                    view.chunks[i] = around[i].get();
                PaddedVoxels rebuilt;
                gather(view, rebuilt);
                ASSERT_EQ(again.voxels.voxels, rebuilt.voxels) << name << " " << edge << " edit " << edit;
                ChunkBox want = ChunkBox::nothing();
                for (int y = -1; y <= edge; ++y)
                    for (int z = -1; z <= edge; ++z)
                        for (int x = -1; x <= edge; ++x)
                            if (before.at(x, y, z) != rebuilt.at(x, y, z))
                                want.add({{x, y, z}, {x + 1, y + 1, z + 1}, 1});
                ASSERT_TRUE(box);
                EXPECT_EQ(box->voxels, want.voxels);
                EXPECT_EQ(box->low, want.low) << name << " " << edge << " edit " << edit;
                EXPECT_EQ(box->high, want.high);
                different += want.voxels > 0;
            }
            EXPECT_GT(different, 10u);
        }
}

TEST(Gather, AgainKeepsOnlyChunksBesideTheMiddle)
{
    SharedAround<VoxelChunk> around;
    for (auto& chunk : around)
        chunk = std::make_shared<const VoxelChunk>(16, 1);
    PaddedVoxelCache again;
    (void)updatePadded(around, again);
    std::size_t kept = 0;
    for (auto& chunk : around)
        kept += chunk.use_count() > 1;
    EXPECT_EQ(kept, 7u);
}

TEST(Gather, ReadsUniformChunksLikeOthers)
{
    const VoxelChunk open(16), solid(16, 7);
    Neighbourhood around;
    around.chunks.fill(&open);
    around.chunks[neighbourIndex({0, 1, 0})] = &solid;
    PaddedVoxels padded;
    gather(around, padded);
    EXPECT_EQ(padded.at(5, 16, 5), 7);
    EXPECT_EQ(padded.at(5, 15, 5), kOpen);
    EXPECT_EQ(padded.at(-1, 16, 5), kOpen);
}

TEST(NeighbourIndex, NumbersEachOfThe27OnceAndPutsTheCentreInTheMiddle)
{
    std::vector<bool> seen(27);
    for (int y = -1; y <= 1; ++y)
        for (int z = -1; z <= 1; ++z)
            for (int x = -1; x <= 1; ++x)
                seen[neighbourIndex({x, y, z})] = true;
    EXPECT_EQ(std::count(seen.begin(), seen.end(), true), 27);
    EXPECT_EQ(neighbourIndex({0, 0, 0}), 13u);
}

TEST(IsBuried, NeedsTheChunkAndAllSixFaceNeighboursSolid)
{
    BlockSet blocks;
    for (const char* name : {"a", "b", "c", "d", "e", "f", "g"})
        blocks.kinds.push_back({.name = name});
    blocks.kinds.push_back({.name = "water", .matter = Matter::Liquid}); // 8
    const SideRules rules = sideRulesOf(blocks);
    const VoxelChunk open(16), solid(16, 1);
    Neighbourhood around;
    around.chunks.fill(&open); // edges and corners do not matter
    around.chunks[13] = &solid;
    for (const Side side : kSides)
        around.chunks[neighbourIndex(stepOf(side))] = &solid;
    EXPECT_TRUE(isBuried(around, rules));
    for (const Side side : kSides) {
        Neighbourhood one = around;
        one.chunks[neighbourIndex(stepOf(side))] = &open;
        EXPECT_FALSE(isBuried(one, rules));
    }
    around.chunks[13] = &open;
    EXPECT_FALSE(isBuried(around, rules));
}

} // namespace
} // namespace fell::neighbourhood_test
