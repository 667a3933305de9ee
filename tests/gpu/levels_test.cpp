// SPDX-License-Identifier: Apache-2.0
#include "gpu/picture_fixture.h"
#include "support/all_names.h"

#include <gtest/gtest.h>

namespace fell::levels_test {
namespace {

class LevelPicture : public test::PictureTest {
protected:
    static constexpr Eye kBefore{{24, 8, 40}, glm::dvec3(0.5), 0, 0}; // looks north

    void SetUp() override
    {
        PictureTest::SetUp();
        m_setup.lod.scheme = "rings";
    }
    void show(std::vector<ShownChunk> chunks)
    {
        LodCover cover;
        cover.chunks = std::move(chunks);
        m_renderer->show(cover);
    }
};

TEST_F(LevelPicture, AChunkOfLevelOneIsItsEightInOneAndEachLayoutAgrees)
{
    for (const VertexLayout& layout : vertexLayouts()) {
        m_setup.mesh.layout = layout.id;
        m_renderer->begin(m_setup, *m_terrain);
        std::vector<ShownChunk> eight;
        for (unsigned c = 0; c < 8; ++c) {
            const ChunkPos chunk = childOf({0, 0, 0, 1}, c);
            m_renderer->upload(cube(chunk, 1));
            eight.push_back({chunk});
        }
        show(eight);
        draw(kBefore);
        const auto fine = m_pixels;
        m_renderer->upload(cube({0, 0, 0, 1}, 1));
        show({{{0, 0, 0, 1}}});
        const FrameReport report = draw(kBefore);
        EXPECT_EQ(report.chunks, 1u);
        std::size_t different = 0;
        for (std::size_t i = 0; i < fine.size(); ++i)
            different += std::abs(fine[i] - m_pixels[i]) > 8;
        EXPECT_LT(different, fine.size() / 100) << layout.id << ": the same cube, with the same texture";
        EXPECT_LT(report.triangles, 3000u) << "of sides twice as long";
    }
}

TEST_F(LevelPicture, OnlyWhatTheCoverNamesIsDrawn)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    m_renderer->upload(cube({0, 0, 0, 1}, 2));
    EXPECT_EQ(draw(kBefore).chunks, 0u) << "held, and not shown yet";
    show({{{0, 0, 0}}});
    EXPECT_EQ(draw(kBefore).chunks, 1u);
    EXPECT_NE(m_renderer->rejectedBy({0, 0, 0, 1}), m_renderer->scene().steps()[0]) << "not culled: not in the scene";
    show({{{0, 0, 0, 1}}});
    const FrameReport report = draw(kBefore);
    EXPECT_EQ(report.chunks, 1u);
    EXPECT_EQ(m_renderer->scene().chunks()[0], (ChunkPos{0, 0, 0, 1}));
    m_renderer->upload(cube({0, 0, 0, 1}, 1)); // again: it stays visible
    EXPECT_EQ(draw(kBefore).chunks, 1u);
    m_renderer->release({0, 0, 0, 1});
    EXPECT_EQ(draw(kBefore).chunks, 0u);
}

/// Two seams, of which one chunk's meeting a coarser one opens the east's.
TEST_F(LevelPicture, SeamsAreDrawnWhereAnotherLevelIsMet)
{
    for (const char* submission : {"per-chunk", "instanced", "indirect"}) {
        m_setup.draw.submission = submission;
        m_renderer->begin(m_setup, *m_terrain);
        MeshedChunk chunk = meshed({0, 0, 0}, VoxelChunk(kEdge));
        ASSERT_TRUE(chunk.mesh.isEmpty());
        SeamQuads seams;
        // A wall that looks south at the far side of the voxels before it, and one on the east border.
        seams.quads[static_cast<std::size_t>(Side::North)].push_back(
            packQuad({0, 0, 0, 16, 16, Side::South, 1, 0, true}));
        seams.lights[static_cast<std::size_t>(Side::North)].emplace_back();
        seams.quads[static_cast<std::size_t>(Side::East)].push_back(packQuad({15, 0, 0, 16, 16, Side::East, 1, 0}));
        seams.lights[static_cast<std::size_t>(Side::East)].emplace_back();
        PaddedVoxels padded;
        padded.edge = kEdge;
        padded.voxels.assign(18 * 18 * 18, kOpen);
        const SideRules rules = sideRulesOf(m_terrain->recipe.blocks);
        chunk.mesh = encodeMesh(
            padded, {}, {findMesher("exposed"), {findLayout(m_setup.mesh.layout)}, {&rules, false}}, nullptr, &seams);
        EXPECT_EQ(chunk.mesh.quads[0], 2u);
        m_renderer->upload(chunk);
        const auto bit = [](Side side) { return static_cast<std::uint8_t>(1u << static_cast<unsigned>(side)); };
        const Eye before{{8, 8, 20}, glm::dvec3(0.5), 0, 0};
        show({{{0, 0, 0}}});
        EXPECT_EQ(draw(before).triangles, 0u);
        const test::Pixel sky = at(80, 50);
        show({{{0, 0, 0}, bit(Side::North), 0}});
        EXPECT_EQ(draw(before).triangles, 2u);
        EXPECT_NE(at(80, 50), sky) << "the wall faces the eye: " << submission;
        show({{{0, 0, 0}, 0, bit(Side::North)}});
        EXPECT_EQ(draw(before).triangles, 0u) << "stitches are the finer chunk's";
        show({{{0, 0, 0}, static_cast<std::uint8_t>(bit(Side::North) | bit(Side::East)), 0}});
        EXPECT_EQ(draw(before).triangles, 4u);
    }
}

TEST_F(LevelPicture, LevelsHaveTheirColoursAndCracksAreRed)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0, 1}, 1));
    show({{{0, 0, 0, 1}}});
    DrawOptions options;
    options.paint = Paint::Levels;
    draw(kBefore, options);
    const auto of = levelColour(1);
    const test::Pixel pixel = at(60, 50);
    EXPECT_GT(pixel[2], pixel[0]) << "violet to blue";
    EXPECT_LT(std::abs(pixel[0] * of[2] - pixel[2] * of[0]), 255 * 40) << "the same hue, darker or lighter";
    // From within the cube one sees its sides from behind.
    draw({{16, 16, 16}, glm::dvec3(0.5), 0, 0}, options);
    EXPECT_GT(at(80, 50)[0], 200);
    EXPECT_LT(at(80, 50)[1], 90);
}

} // namespace
} // namespace fell::levels_test
