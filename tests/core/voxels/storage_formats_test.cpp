// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/voxels/neighbourhood.h>
#include <fell/voxels/storage_formats.h>

#include <gtest/gtest.h>

#include <algorithm>
#include <random>

namespace fell::forms_test {
namespace {

/// Blocks of one material each, of some edge, and a share of voxels changed by chance.
std::vector<Material> sampleVoxels(int edge, int kinds, int block, double specks, unsigned seed)
{
    std::mt19937 dice(seed);
    std::vector<Material> out;
    for (int y = 0; y < edge; ++y)
        for (int z = 0; z < edge; ++z)
            for (int x = 0; x < edge; ++x) {
                const auto mixed
                    = mix64(static_cast<std::uint64_t>((y / block * 64 + z / block) * 64 + x / block) + seed);
                const bool speck = static_cast<double>(dice() % 1000) < specks * 1000;
                out.push_back(static_cast<Material>((speck ? dice() : mixed) % static_cast<unsigned>(kinds)));
            }
    return out;
}

class Forms : public testing::TestWithParam<const char*> { };

TEST_P(Forms, ReadBackWhatTheyWereGiven)
{
    for (const int edge : {16, 32, 64})
        for (const int kinds : {1, 2, 7, 16, 17, 300})
            for (const double specks : {0.0, 0.02, 1.0}) {
                const auto voxels = sampleVoxels(edge, kinds, 8, specks, static_cast<unsigned>(edge + kinds));
                const auto held = findForm(GetParam())->hold(edge, voxels);
                std::vector<Material> row(static_cast<std::size_t>(edge));
                for (int y = 0, i = 0; y < edge; ++y)
                    for (int z = 0; z < edge; ++z) {
                        held->readRow(y, z, row.data());
                        for (int x = 0; x < edge; ++x, ++i)
                            ASSERT_EQ(row[static_cast<std::size_t>(x)], voxels[static_cast<std::size_t>(i)])
                                << edge << " " << kinds << " " << specks;
                    }
                std::mt19937 dice(1);
                for (int n = 0; n < 200; ++n) {
                    const int x = static_cast<int>(dice() % unsigned(edge)),
                              y = static_cast<int>(dice() % unsigned(edge)),
                              z = static_cast<int>(dice() % unsigned(edge));
                    ASSERT_EQ(held->at(x, y, z), voxels[static_cast<std::size_t>((y * edge + z) * edge + x)]);
                }
            }
}

TEST_P(Forms, HoldAfterEveryEditWhatAnArrayHolds)
{
    const auto voxels = sampleVoxels(16, 3, 4, 0.01, 9);
    const auto held = findForm(GetParam())->hold(16, voxels), plain = holdArray(16, voxels);
    std::mt19937 dice(7);
    for (int n = 0; n < 400; ++n) {
        const int x = static_cast<int>(dice() % 16), y = static_cast<int>(dice() % 16),
                  z = static_cast<int>(dice() % 16);
        const auto material = static_cast<Material>(n < 200 ? dice() % 4 : dice() % 40); // the palette grows later on
        held->set(x, y, z, material);
        plain->set(x, y, z, material);
        std::array<Material, 16> a{}, b{};
        held->readRow(y, z, a.data());
        plain->readRow(y, z, b.data());
        ASSERT_EQ(a, b) << n;
        ASSERT_EQ(held->at(x, y, z), material);
    }
    for (int row = 0; row < 256; ++row)
        for (int x = 0; x < 16; ++x)
            ASSERT_EQ(held->at(x, row / 16, row % 16), plain->at(x, row / 16, row % 16));
}

INSTANTIATE_TEST_SUITE_P(All, Forms,
    testing::Values("array", "palette", "runs", "layers", "octree-wide", "octree-narrow"), [](const auto& name) {
        std::string id = name.param;
        std::replace(id.begin(), id.end(), '-', '_');
        return id;
    });

TEST(OctreeSizes, AreWhatTheirNodesSay)
{
    // By hand: one speck in a cube of 32 splits five levels: 5 nodes of several materials, each with seven leaves, and
    // eight at the last: 5 + 36 nodes wide, 5 words narrow and 36 leaves of one bit.
    std::vector<Material> voxels(32 * 32 * 32, 1);
    voxels[12345] = 2;
    const auto wide = holdWideOctree(32, voxels), narrow = holdNarrowOctree(32, voxels);
    const std::size_t wideNothing = holdWideOctree(32, std::vector<Material>(32 * 32 * 32, 1))->bytes();
    EXPECT_EQ(wide->bytes() - wideNothing, 40u * 36);
    const std::size_t narrowNothing = holdNarrowOctree(32, std::vector<Material>(32 * 32 * 32, 1))->bytes();
    EXPECT_EQ(narrow->bytes() - narrowNothing, 5u * 4 + 8 + 2) << "36 bits more fill one more word; one more material";
    // Putting the speck out again leaves one leaf.
    wide->set(12345 % 32, 12345 / 1024, 12345 / 32 % 32, 1);
    const auto again = holdWideOctree(32, voxels);
    wide->set(12345 % 32, 12345 / 1024, 12345 / 32 % 32, 2);
    EXPECT_EQ(wide->at(12345 % 32, 12345 / 1024, 12345 / 32 % 32), 2);
}

TEST(VoxelChunk, IsTheSameInEveryForm)
{
    const VoxelChunk plain(32, sampleVoxels(32, 6, 8, 0.01, 3));
    for (const StorageFormat& form : voxelForms()) {
        const VoxelChunk other = plain.convertedTo(form);
        EXPECT_EQ(digestOf(other), digestOf(plain)) << form.id;
        Neighbourhood a, b;
        a.chunks.fill(&plain);
        b.chunks.fill(&other);
        PaddedVoxels x, y;
        gather(a, x);
        gather(b, y);
        EXPECT_EQ(x.voxels, y.voxels) << form.id << ": meshers read the same through one view";
        EXPECT_TRUE(VoxelChunk(32, 7).convertedTo(form).isUniform());
    }
    EXPECT_LT(plain.convertedTo(*findForm("palette")).bytes() * 4, plain.bytes());
}

} // namespace
} // namespace fell::forms_test
