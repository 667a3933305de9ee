// SPDX-License-Identifier: Apache-2.0
#include "support/all_names.h"
#include "support/sample_worlds.h"
#include <fell/audit/audit.h>

#include <gtest/gtest.h>

namespace fell::mesh_audit_test {
namespace {

BlockSet mixedBlocks()
{
    BlockSet blocks = test::testBlocks();
    blocks.kinds.push_back({.name = "glass", .matter = Matter::SeeThrough});
    blocks.kinds.push_back({.name = "pond", .matter = Matter::Liquid});
    blocks.kinds.push_back({.name = "ramp", .shape = std::make_shared<const BlockShape>(slopeShape())});
    return blocks;
}

TEST(MeshAudit, FindsNoDifferenceInAnyMesher)
{
    const AuditRow row = auditMesh({mixedBlocks(), 96});
    EXPECT_EQ(row.cases, 96u * meshers().size() * 2);
    EXPECT_EQ(row.differences, 0u) << row.first;
}

void withoutOneSide(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    meshGreedyBits(voxels, rules, out);
    if (!out.of[0].empty())
        out.of[0].pop_back();
}

void withWrongShade(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    meshGreedyBits(voxels, rules, out);
    for (Quad& quad : out.of[0])
        if (rules.ambientOcclusion)
            quad ^= Quad{1} << kOcclusionBit;
}

/// As if nothing stood next to the chunk: the classic mistake at borders.
void blindAtBorders(const PaddedVoxels& voxels, const MeshRules& rules, ChunkSurface& out)
{
    PaddedVoxels alone = voxels;
    for (int y = -1; y <= voxels.edge; ++y)
        for (int z = -1; z <= voxels.edge; ++z)
            for (int x = -1; x <= voxels.edge; ++x)
                if (x < 0 || y < 0 || z < 0 || x == voxels.edge || y == voxels.edge || z == voxels.edge)
                    alone.voxels[alone.index(x, y, z)] = kOpen;
    meshGreedyBits(alone, rules, out);
}

TEST(MeshAudit, FindsAMesherThatIsBroken)
{
    for (const MeshFunction broken : {withoutOneSide, withWrongShade, blindAtBorders}) {
        const Mesher mesher{"broken", "", "", broken, false};
        const AuditRow row = auditMesh({mixedBlocks(), 30, 1, {&mesher}, {}});
        EXPECT_GT(row.differences, 0u);
        EXPECT_NE(row.first.find("broken with"), std::string::npos) << row.first;
    }
}

TEST(MeshAudit, StopsWhenAsked)
{
    std::stop_source source;
    source.request_stop();
    EXPECT_TRUE(auditMesh({mixedBlocks(), 100000}, source.get_token()).stopped);
}

} // namespace
} // namespace fell::mesh_audit_test
