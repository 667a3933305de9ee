// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include <fell/voxels/voxel_chunk.h>

#include <gtest/gtest.h>

namespace fell::voxel_chunk_test {
namespace {

TEST(VoxelChunk, KeepsOneNumberWhereAllVoxelsAreAlike)
{
    const VoxelChunk alike(32, std::vector<Material>(32 * 32 * 32, 5));
    EXPECT_TRUE(alike.isUniform());
    EXPECT_EQ(alike.uniform(), 5);
    EXPECT_LT(alike.bytes(), 100u);
    EXPECT_EQ(alike.at(3, 30, 31), 5);
}

TEST(VoxelChunk, RowsRunAlongXAndLayersLieFlat)
{
    std::vector<Material> voxels(16 * 16 * 16);
    voxels[(2 * 16 + 3) * 16 + 4] = 9; // y 2, z 3, x 4
    const VoxelChunk chunk(16, std::move(voxels));
    EXPECT_FALSE(chunk.isUniform());
    EXPECT_EQ(chunk.at(4, 2, 3), 9);
    EXPECT_EQ(chunk.at(3, 2, 4), kOpen);
}

TEST(VoxelChunk, DigestsTellVoxelsAndNotTheFormTheyAreHeldIn)
{
    EXPECT_EQ(digestOf(VoxelChunk(16, 3)), digestOf(VoxelChunk(16, std::vector<Material>(4096, 3))));
    std::vector<Material> other(4096, 3);
    other[4095] = 4;
    EXPECT_NE(digestOf(VoxelChunk(16, 3)), digestOf(VoxelChunk(16, std::move(other))));
}

} // namespace
} // namespace fell::voxel_chunk_test
