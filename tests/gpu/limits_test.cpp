// SPDX-License-Identifier: Apache-2.0
// What a driver takes at most: with less of it the pictures are the same, or a sentence says what is not.
#include "picture_fixture.h"

#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/gpu/picture.h>
#include <fell/gpu/textures.h>

#include <epoxy/gl.h>

#include <fstream>

namespace fell::limits_test {
namespace {

class Limits : public test::PictureTest {
protected:
    void SetUp() override { } // by each test, when it has said its limits
    void begin(const GpuLimits& limits)
    {
        m_limits = limits;
        PictureTest::SetUp();
    }
    /// A rolling wall of chunks before the eye, in the setup's layout; and its picture.
    std::vector<std::uint8_t> picture()
    {
        m_renderer->begin(m_setup, *m_terrain);
        for (int x = -2; x <= 2; ++x)
            for (int y = -1; y <= 1; ++y) {
                std::vector<Material> voxels(kEdge * kEdge * kEdge);
                for (std::size_t i = 0; i < voxels.size(); ++i)
                    voxels[i] = static_cast<Material>(i % 5 < 3 ? 1 + i % 3 : kOpen);
                m_renderer->upload(meshed({x, y, -3}, VoxelChunk(kEdge, std::move(voxels))));
            }
        draw(Eye{{8, 8, 8}, {}, 0, 0});
        return m_pixels;
    }
};

TEST_F(Limits, SmallTextureBuffersGiveTheSamePictureInEveryLayout)
{
    for (const char* layout : {"packed", "corners", "floats"})
        for (const char* ambientOcclusion : {"rim", "corners"}) {
            m_setup.mesh.layout = layout;
            m_setup.mesh.ambientOcclusion = ambientOcclusion;
            begin({});
            const auto usual = picture();
            const std::uint32_t slabs = m_renderer->arena().slabs;
            TearDown();
            GpuLimits small;
            small.textureBufferTexels = 65536; // what the standard promises
            begin(small);
            EXPECT_EQ(picture(), usual) << layout << ", " << ambientOcclusion;
            EXPECT_GT(m_renderer->arena().slabs, slabs) << "smaller ones, and more of them";
            EXPECT_TRUE(m_renderer->warnings().empty());
            TearDown();
        }
    begin({}); // for the fixture's own end
}

TEST_F(Limits, BlocksBeyondTheLastLayerShareAColourAndASentenceSaysSo)
{
    GpuLimits few;
    few.arrayLayers = 3;
    begin(few);
    (void)picture();
    ASSERT_EQ(m_renderer->warnings().size(), 1u);
    EXPECT_NE(sentence(m_renderer->warnings()[0]).find("layers and this driver takes 3"), std::string::npos);
}

TEST_F(Limits, WithoutAnisotropyTheFilterIsTrilinearAndASentenceSaysSo)
{
    GpuLimits none;
    none.anisotropy = 1;
    begin(none);
    m_setup.draw.filter = "anisotropic";
    (void)picture();
    ASSERT_EQ(m_renderer->warnings().size(), 1u);
    EXPECT_NE(sentence(m_renderer->warnings()[0]).find("anisotropic"), std::string::npos);
}

TEST(TextureLayers, TheNearestColourStandsInWhereThereAreTooFew)
{
    BlockSet blocks;
    blocks.kinds.push_back({"red", {200, 0, 0}, {200, 0, 0}, {200, 0, 0}});
    blocks.kinds.push_back({"dark red", {180, 0, 0}, {180, 0, 0}, {180, 0, 0}});
    blocks.kinds.push_back({"pale", {250, 250, 240}, {250, 250, 240}, {250, 250, 240}});
    const TextureLayers all = loadTextures(blocks);
    EXPECT_EQ(all.count, 5) << "white, black of open air, and three colours";
    const TextureLayers few = loadTextures(blocks, 3);
    EXPECT_EQ(few.count, 3);
    EXPECT_EQ(few.pixels.size(), 3u * kTextureEdge * kTextureEdge * 4);
    EXPECT_EQ(few.layerOf[2], few.layerOf[1]) << "dark red is red";
    EXPECT_EQ(few.layerOf[3], (std::array<int, 3>{0, 0, 0})) << "pale is white";
    EXPECT_EQ(few.warnings.size(), 1u);
}

class Frames : public test::PictureTest { };

TEST_F(Frames, HaveTheirTimesOnBothSides)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, -3}, 1));
    for (int i = 0; i < 3; ++i) {
        const FrameReport report = draw(Eye{{8, 8, 8}, {}, 0, 0});
        EXPECT_GT(report.cpuMs, 0);
        EXPECT_LE(report.cullMs, report.cpuMs);
        EXPECT_LE(report.cpuMs, report.totalMs) << "the fence comes last";
        EXPECT_GE(report.gpuMs, 0);
        EXPECT_LT(report.gpuMs, report.totalMs * 2 + 5);
    }
}

/// Two walls one voxel apart, far away: with depth as it was they flickered from a few thousand voxels on.
TEST_F(Frames, TheNearerOfTwoFarWallsIsSeen)
{
    m_setup.lod.scheme = "rings";
    m_setup.stream.distance = 512;
    const Eye eye{{8, 8, 8}, {}, 0, 0};
    Lens lens = lensFor(m_setup.draw.fieldOfView, 1.6, 512.0F * kEdge, kEdge);
    for (const double away : {1.0, 100.0, 4000.0, 8000.0}) {
        const glm::vec4 near = reversedViewProjection(eye, lens) * glm::vec4(0, 0, -away, 1),
                        far = reversedViewProjection(eye, lens) * glm::vec4(0, 0, -away * 1.0001 - 0.001, 1);
        EXPECT_GT(near.z / near.w, far.z / far.w) << away << " voxels: a ten-thousandth farther is told apart";
        EXPECT_LE(near.z / near.w, 1);
        EXPECT_GE(far.z / far.w, 0);
        // The picture's places are those of the usual projection.
        const glm::vec4 usual = viewProjection(eye, lens) * glm::vec4(1, 2, -away, 1),
                        reversed = reversedViewProjection(eye, lens) * glm::vec4(1, 2, -away, 1);
        EXPECT_EQ(usual.x, reversed.x);
        EXPECT_EQ(usual.y, reversed.y);
        EXPECT_EQ(usual.w, reversed.w);
    }
}

/// The left half of each picture is red, the right half green: from outside every side shows it so.
TEST_F(Frames, TexturesAreMirroredOnNoSide)
{
    const test::TempFolder folder;
    const int edge = kTextureEdge;
    std::vector<std::uint8_t> pixels;
    for (int y = 0; y < edge; ++y)
        for (int x = 0; x < edge; ++x)
            for (const int byte : {x < edge / 2 ? 255 : 0, x < edge / 2 ? 0 : 255, 0, 255})
                pixels.push_back(static_cast<std::uint8_t>(byte));
    std::ofstream(folder / "halves.png", std::ios::binary) << toPng(pixels, edge, edge);
    Recipe recipe = test::parseTestRecipe(test::fullRecipe()).take();
    recipe.blocks.folder = folder.path();
    recipe.blocks.kinds[1].textures = {"halves.png", "halves.png", "halves.png"};
    recipe.blocks.kinds[1].grain = 0;
    m_terrain = makeTerrain(std::move(recipe));
    m_renderer->begin(m_setup, *m_terrain);
    ASSERT_TRUE(m_renderer->warnings().empty()) << sentence(m_renderer->warnings()[0]);
    std::vector<Material> voxels(kEdge * kEdge * kEdge);
    voxels[(8 * kEdge + 8) * kEdge + 8] = 1;
    m_renderer->upload(meshed({0, 0, 0}, VoxelChunk(kEdge, std::move(voxels))));
    // Two voxels before each side of voxel 8, 8, 8, looking at its middle.
    struct Look {
        VoxelPos from;
        double yaw, pitch;
    };
    for (const Look& look : {Look{{8, 8, 11}, 0, 0}, Look{{8, 8, 5}, 180, 0}, Look{{11, 8, 8}, 270, 0},
             Look{{5, 8, 8}, 90, 0}, Look{{8, 11, 8}, 0, -90}, Look{{8, 5, 8}, 0, 90}}) {
        draw(Eye{look.from, {0.5, 0.5, 0.5}, look.yaw, look.pitch});
        const test::Pixel left = at(kWidth / 2 - 8, kHeight / 2), right = at(kWidth / 2 + 8, kHeight / 2);
        EXPECT_GT(left[0], left[1] + 30) << "red is left, yaw " << look.yaw << ", pitch " << look.pitch;
        EXPECT_GT(right[1], right[0] + 30) << "green is right, yaw " << look.yaw << ", pitch " << look.pitch;
    }
}

TEST(Devices, AreListedAndOneThatIsNotThereIsRefused)
{
    const auto devices = HeadlessContext::devices();
    const auto none = HeadlessContext::create(1000);
    ASSERT_FALSE(none);
    EXPECT_NE(sentence(none.problem()).find("--device 1000"), std::string::npos);
    for (std::size_t i = 0; i < devices.size(); ++i) {
        EXPECT_FALSE(devices[i].empty());
        if (devices[i] == "software") {
            EXPECT_TRUE(HeadlessContext::create(static_cast<int>(i)));
        }
    }
}

} // namespace
} // namespace fell::limits_test
