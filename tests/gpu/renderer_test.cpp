// SPDX-License-Identifier: Apache-2.0
// Pictures without a window, compared with what geometry says they must show.
#include "gpu/headless.h"
#include "gpu/hooks.h"
#include "gpu/picture.h"
#include "gpu/renderer.h"
#include "mesh/layouts.h"
#include "support/sample_worlds.h"

#include <array>
#include <cmath>

namespace fell {
namespace {

using Pixel = std::array<int, 3>;

class RendererTest : public ::testing::Test {
protected:
    static constexpr int kWidth = 160, kHeight = 100;

    void SetUp() override
    {
        auto context = HeadlessContext::create();
        ASSERT_TRUE(context) << sentence(context.problem());
        m_context = context.take();
        auto renderer = Renderer::create();
        ASSERT_TRUE(renderer) << sentence(renderer.problem());
        m_renderer = renderer.take();
        m_target = std::make_unique<OffscreenTarget>(kWidth, kHeight);
        m_terrain = makeTerrain(test::parseTestRecipe(test::fullRecipe()).take());
        m_setup.chunk.edge = 16;
        m_setup.stream.distance = 4;
    }

    void TearDown() override
    {
        m_target.reset();
        m_renderer.reset();
        m_context.reset();
    }

    MeshedChunk cube(ChunkPos chunk, Material material) const
    {
        const VoxelChunk solid(16, material), open(16);
        Neighbourhood around;
        around.chunks.fill(&open);
        around.chunks[13] = &solid;
        PaddedVoxels padded;
        gather(around, padded);
        std::vector<Quad> quads;
        meshExposedSides(padded, quads);
        return {chunk, static_cast<std::uint32_t>(quads.size()), 0, layOut(*findLayout(m_setup.mesh.layout), quads)};
    }

    FrameReport draw(const Eye& eye)
    {
        m_target->bind();
        const FrameReport report = m_renderer->draw(eye, kWidth, kHeight, true);
        m_pixels = m_target->read();
        return report;
    }

    Pixel at(int x, int y) const
    {
        const std::size_t i = (static_cast<std::size_t>(y) * kWidth + static_cast<std::size_t>(x)) * 4;
        return {m_pixels[i], m_pixels[i + 1], m_pixels[i + 2]};
    }

    /// Sky is bluer than it is red; the slate of the test set is redder than it is blue.
    bool isGround(int x, int y) const { return at(x, y)[0] > at(x, y)[2]; }

    std::unique_ptr<HeadlessContext> m_context;
    std::unique_ptr<Renderer> m_renderer;
    std::unique_ptr<OffscreenTarget> m_target;
    std::shared_ptr<const Terrain> m_terrain;
    fell::Setup m_setup;
    std::vector<std::uint8_t> m_pixels;
};

/// In front of the south side of chunk (0,0,0), 24 voxels away, looking north at its middle.
const Eye kBefore{{8, 8, 40}, {0, 0, 0}, 0, 0};

TEST_F(RendererTest, AnEmptyWorldIsSkyThatFadesToTheHorizon)
{
    m_renderer->begin(m_setup, *m_terrain);
    const FrameReport report = draw({{0, 0, 0}, {0.5, 0.5, 0.5}, 200, 0}); // away from the sun
    EXPECT_EQ(report.triangles, 0u);
    EXPECT_EQ(report.drawCalls, 0u);
    // By hand from the colours of the air: the horizon is 0.80, 0.84, 0.85 of 255; below it nothing changes.
    EXPECT_NEAR(at(80, 99)[0], 204, 3);
    EXPECT_NEAR(at(80, 99)[2], 217, 3);
    EXPECT_LT(at(80, 0)[0], at(80, 50)[0]) << "the zenith is darker in red";
}

TEST_F(RendererTest, ACubeStandsWherePerspectivePutsIt)
{
    for (const char* layout : {"packed", "floats"}) {
        m_setup.mesh.layout = layout;
        m_renderer->begin(m_setup, *m_terrain);
        m_renderer->upload(cube({0, 0, 0}, 1));
        const FrameReport report = draw(kBefore);
        EXPECT_EQ(report.triangles, 6u * 16 * 16 * 2);
        EXPECT_EQ(report.drawCalls, 1u);
        // Half the side is 8 voxels at 24 away: 8 / 24 / tan(32.5 degrees) of half the height = 50 * 0.5232 = 26.2
        // pixels.
        for (const int inside : {-24, 0, 24})
            EXPECT_TRUE(isGround(80 + inside, 50)) << layout << " " << inside;
        for (const int outside : {-29, 29}) {
            EXPECT_FALSE(isGround(80 + outside, 50)) << layout;
            EXPECT_FALSE(isGround(80, 50 + outside)) << layout;
        }
    }
}

TEST_F(RendererTest, BothLayoutsShowTheSamePicture)
{
    std::vector<std::uint8_t> pictures[2];
    int i = 0;
    for (const char* layout : {"packed", "floats"}) {
        m_setup.mesh.layout = layout;
        m_renderer->begin(m_setup, *m_terrain);
        m_renderer->upload(cube({0, 0, 0}, 2));
        draw({{20, 24, 30}, {0, 0, 0}, -40, -35});
        pictures[i++] = m_pixels;
    }
    EXPECT_EQ(pictures[0], pictures[1]);
}

TEST_F(RendererTest, TopAndSidesHaveTheirOwnLook)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 2)); // top #50A050: greener than the side #786E5A
    draw({{8, 40, 8}, {0, 0, 0}, 0, -90});
    EXPECT_GT(at(80, 50)[1], at(80, 50)[0] + 20) << "from above: the green top";
    draw(kBefore);
    EXPECT_GT(at(80, 50)[0], at(80, 50)[1]) << "from the side: the brown side";
}

TEST_F(RendererTest, SidesLookOutwardsOnly)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    draw({{8, 8, 8}, {0, 0, 0}, 200, 0}); // from inside, all sides face away
    for (int x = 5; x < kWidth; x += 10)
        EXPECT_FALSE(isGround(x, 30));
}

TEST_F(RendererTest, LooksTheSameAMillionKilometresAway)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    draw(kBefore);
    const auto here = m_pixels;
    const std::int64_t far = std::int64_t{1} << 36; // chunks of 16: 2^40 voxels
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({far, 0, -far}, 1));
    Eye eye = kBefore;
    eye.cell = eye.cell + VoxelPos{far * 16, 0, -far * 16};
    draw(eye);
    EXPECT_EQ(m_pixels, here);
}

TEST_F(RendererTest, ReleasedChunksAreGoneAndTheirBytesToo)
{
    m_renderer->begin(m_setup, *m_terrain);
    const std::uint64_t empty = draw(kBefore).gpuBytes;
    for (std::int64_t i = 0; i < 5; ++i)
        m_renderer->upload(cube({i - 2, 0, 0}, 1));
    const FrameReport full = draw(kBefore);
    EXPECT_EQ(full.residentChunks, 5u);
    for (const std::int64_t i : {0, 4, 1, 3, 2})
        m_renderer->release({i - 2, 0, 0});
    const FrameReport after = draw(kBefore);
    EXPECT_EQ(after.residentChunks, 0u);
    EXPECT_EQ(after.triangles, 0u);
    EXPECT_FALSE(isGround(80, 50));
    // The shared index buffer stays: 24 bytes for each quad of the largest chunk.
    EXPECT_EQ(after.gpuBytes, empty + 24 * 6 * 16 * 16);
    EXPECT_EQ(full.gpuBytes, after.gpuBytes + 5 * 6 * 16 * 16 * 32);
}

TEST_F(RendererTest, AMeshReplacesTheOneBefore)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    m_renderer->upload(cube({0, 0, 0}, 2));
    EXPECT_EQ(draw(kBefore).residentChunks, 1u);
    m_renderer->upload({{0, 0, 0}, 0, 0, {}}); // nothing to show any more
    EXPECT_EQ(draw(kBefore).residentChunks, 0u);
}

TEST_F(RendererTest, CullingLeavesOutWhatIsBehindAndChangesNoPixel)
{
    const auto scene = [&](const std::vector<std::string>& steps) {
        m_setup.cull.steps = steps;
        m_renderer->begin(m_setup, *m_terrain);
        for (std::int64_t x = -2; x <= 2; ++x)
            for (std::int64_t z = -2; z <= 6; ++z)
                m_renderer->upload(cube({x, -1, z}, 1));
        return draw({{8, 8, 40}, {0.3, 0.2, 0.1}, 20, -10});
    };
    const FrameReport all = scene({});
    const auto picture = m_pixels;
    const FrameReport few = scene({"distance", "view-planes"});
    EXPECT_EQ(m_pixels, picture);
    EXPECT_LT(few.chunks, all.chunks * 2 / 3);
    EXPECT_EQ(few.culled.size(), 2u);
    EXPECT_EQ(few.chunks + few.culled[0].rejected + few.culled[1].rejected, all.chunks);
}

TEST_F(RendererTest, FarGroundFadesIntoTheAir)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    draw(kBefore);
    const Pixel near = at(80, 50);
    m_renderer->setDistance(2); // fog ends at 16 voxels: the cube at 24 is air
    draw(kBefore);
    EXPECT_NEAR(at(80, 50)[0], 204, 3);
    EXPECT_LT(near[0], 190);
}

TEST_F(RendererTest, PassesAddUpToTheFrame)
{
    m_renderer->begin(m_setup, *m_terrain);
    for (std::int64_t x = -3; x <= 3; ++x)
        m_renderer->upload(cube({x, 0, 0}, 1));
    draw(kBefore);
    const FrameReport report = draw(kBefore);
    const double parts = report.cullMs + report.skyMs + report.terrainMs;
    EXPECT_LE(parts, report.totalMs);
    EXPECT_GT(parts, report.totalMs * 0.5);
    EXPECT_FALSE(m_renderer->driver().empty());
}

TEST_F(RendererTest, TheHooksDrawTheTransect)
{
    TransectSpec spec;
    spec.terrain = m_terrain;
    spec.a = m_setup;
    spec.values = {1, 2};
    spec.rounds = 1;
    spec.frames = 2;
    spec.route.points = {{{0, 30, 0}, 0, -30}, {{10, 30, 0}, 90, -30}};
    const DrawHooks hooks = hooksFor(*m_renderer, *m_target);
    const TransectResult result = runTransect(spec, &hooks, {}, {});
    ASSERT_EQ(result.rows.size(), 2u);
    EXPECT_GT(result.rows[1].frameMs.p50, 0);
    EXPECT_GT(result.rows[1].triangles, result.rows[0].triangles);
    EXPECT_EQ(result.width, kWidth);
}

TEST(Picture, APngSaysItsSizeAndBeginsAsThePngStandardWants)
{
    const std::vector<std::uint8_t> pixels(7 * 5 * 4, 200);
    const std::string png = toPng(pixels, 7, 5);
    EXPECT_EQ(png.substr(0, 8), "\x89PNG\r\n\x1a\n");
    EXPECT_EQ(static_cast<unsigned char>(png[19]), 7); // IHDR: width, big-endian
    EXPECT_EQ(static_cast<unsigned char>(png[23]), 5);
    EXPECT_EQ(png.substr(png.size() - 8, 4), "IEND");
}

} // namespace
} // namespace fell
