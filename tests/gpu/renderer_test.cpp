// SPDX-License-Identifier: Apache-2.0
// Pictures without a window, compared with what geometry says they must show.
#include "renderer_fixture.h"
#include "support/all_names.h"
#include <fell/gpu/hooks.h>
#include <fell/gpu/picture.h>
#include <fell/setup/stages.h>

#include <cmath>
#include <gtest/gtest.h>
#include <map>

namespace fell::renderer_test {
namespace {

using test::kBefore;
using test::Pixel;
using test::RendererTest;

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
    m_setup.upload.method = "buffer-each";
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
    m_renderer->upload({{0, 0, 0}, 0, {}}); // nothing to show any more
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

TEST_F(RendererTest, EachPassIsTimedAndTogetherTheyAreTheFrame)
{
    m_renderer->begin(m_setup, *m_terrain);
    for (std::int64_t x = -3; x <= 3; ++x)
        m_renderer->upload(cube({x, 0, 0}, 1));
    draw(kBefore);
    const FrameReport report = draw(kBefore);
    std::vector<std::string> ids;
    double cpu = report.cullMs, gpu = 0;
    for (const PassCost& pass : report.passes) {
        ids.push_back(pass.id);
        cpu += pass.cpuMs;
        gpu += pass.gpuMs;
    }
    EXPECT_EQ(ids, (std::vector<std::string>{"clear", "sky", "solid", "shapes", "see-through"}));
    EXPECT_LE(cpu, report.cpuMs);
    EXPECT_LE(gpu, report.gpuMs * 1.001 + 0.01) << "the driver's own clock, rounded";
    EXPECT_GT(gpu, 0);
    EXPECT_LE(report.cpuMs, report.totalMs);
    EXPECT_GT(report.resourceBytes, report.gpuBytes) << "textures and all the rest are counted too";
    EXPECT_FALSE(m_renderer->driver().empty());
}

TEST_F(RendererTest, EveryLayoutSubmissionAndUploadDrawTheSamePicture)
{
    std::vector<std::uint8_t> first;
    for (const VertexLayout& layout : vertexLayouts())
        for (const NamedMethod& submission : drawMethods())
            for (const NamedMethod& upload : uploadMethods()) {
                m_setup.mesh.layout = layout.id;
                m_setup.draw.submission = submission.id;
                m_setup.upload.method = upload.id;
                m_renderer->begin(m_setup, *m_terrain);
                for (std::int64_t x = -1; x <= 1; ++x)
                    m_renderer->upload(cube({x, x, -x}, static_cast<Material>(x + 2)));
                const FrameReport report = draw(kBefore);
                if (first.empty())
                    first = m_pixels;
                const std::string which = std::string(layout.id) + " " + submission.id + " " + upload.id;
                EXPECT_EQ(m_pixels, first) << which;
                EXPECT_EQ(report.triangles, 3u * 2 * 6 * 16 * 16) << which;
                // A hollow cube of 16 has 16^3 - 14^3 voxels that show a side; three chunks; one page.
                const std::uint64_t draws = submission.id == std::string("per-block")               ? 3u * (4096 - 2744)
                    : submission.id == std::string("indirect") && upload.id == std::string("arena") ? 1u
                                                                                                    : 3u;
                EXPECT_EQ(report.drawCalls, draws) << which;
            }
    EXPECT_TRUE(isGround(80, 50));
}

TEST_F(RendererTest, ADrawABlockIsCappedAndSaysSo)
{
    m_setup.draw.submission = "per-block";
    m_setup.stream.distance = 40;
    m_renderer->begin(m_setup, *m_terrain);
    for (std::int64_t x = -9; x <= 9; ++x)
        m_renderer->upload(cube({x, 0, 0}, 1));
    const FrameReport report = draw({{8, 8, 300}, {0, 0, 0}, 0, 0});
    EXPECT_EQ(report.drawCalls, kMaxBlockDraws);
    EXPECT_EQ(report.notDrawn, report.chunks * 1352 - kMaxBlockDraws);
}

TEST_F(RendererTest, APassThatIsLeftOutIsNotDrawn)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    const auto without = [this](unsigned passes) {
        DrawOptions options;
        options.leftOut = passes;
        return PictureTest::draw(kBefore, options);
    };
    EXPECT_GT(without(0).triangles, 0u);
    EXPECT_TRUE(isGround(80, 50));
    const Pixel sky = at(80, 5);
    EXPECT_EQ(without(bitsOf({"solid"})).triangles, 0u);
    EXPECT_FALSE(isGround(80, 50)) << "the sky behind the cube";
    EXPECT_EQ(at(80, 5), sky);
    EXPECT_GT(without(bitsOf({"sky"})).triangles, 0u);
    EXPECT_TRUE(isGround(80, 50)) << "nothing of the frame before hides it";
    EXPECT_EQ(at(80, 5)[0] + at(80, 5)[1] + at(80, 5)[2], 0) << "black where the sky was";
    without(bitsOf({"sky", "solid", "shapes", "see-through"}));
    EXPECT_EQ(at(80, 50)[0] + at(80, 50)[1] + at(80, 50)[2], 0);
    EXPECT_GT(without(bitsOf({"shapes", "see-through"})).triangles, 0u) << "there are none of these";
}

TEST_F(RendererTest, ShapedBlocksLookAlikeBakedAndAsObjects)
{
    Recipe recipe = m_terrain->recipe;
    recipe.blocks.kinds.push_back({.name = "slope",
        .top = {200, 60, 60},
        .side = {200, 60, 60},
        .grain = 0,
        .shape = std::make_shared<const BlockShape>(slopeShape())});
    m_terrain = makeTerrain(recipe);
    std::vector<Material> voxels(16 * 16 * 16);
    for (const std::size_t at : {0u, 40u, 300u, 2000u})
        voxels[at] = static_cast<Material>(recipe.blocks.kinds.size() - 1);
    const VoxelChunk chunk(16, std::move(voxels));
    const auto shown = [&](const char* models, const char* submission) {
        m_setup.mesh.models = models;
        m_setup.draw.submission = submission;
        m_renderer->begin(m_setup, *m_terrain);
        m_renderer->upload(meshed({0, 0, 0}, chunk));
        return draw({{8, 20, 30}, {0, 0, 0}, 0, -45});
    };
    const FrameReport objects = shown("objects", "indirect");
    const auto picture = m_pixels;
    EXPECT_EQ(objects.drawCalls, 4u);
    EXPECT_EQ(objects.objects, 4u);
    for (const char* submission : {"indirect", "per-chunk"}) {
        EXPECT_EQ(shown("baked", submission).drawCalls, 1u);
        EXPECT_EQ(m_pixels, picture) << submission;
    }
    EXPECT_EQ(m_renderer->figuresOf({0, 0, 0})->shapeTriangles, 4u * 8);
}

/// Vertices that triangles share do not know which corner they are: half of each side was shown as a large quad.
TEST_F(RendererTest, EdgesAndSizesOfBakedTrianglesAreThoseOfObjects)
{
    Recipe recipe = m_terrain->recipe;
    recipe.blocks.kinds.push_back({.name = "half",
        .top = {200, 60, 60},
        .side = {200, 60, 60},
        .grain = 0,
        .shape = std::make_shared<const BlockShape>(halfShape())});
    m_terrain = makeTerrain(recipe);
    std::vector<Material> voxels(16 * 16 * 16);
    for (const std::size_t at : {7u * 256 + 7 * 16 + 7, 7u * 256 + 9 * 16 + 9, 9u * 256 + 7 * 16 + 9})
        voxels[at] = static_cast<Material>(recipe.blocks.kinds.size() - 1);
    const VoxelChunk chunk(16, std::move(voxels));
    const Eye near{{8, 12, 14}, {0, 0, 0}, 0, -35};
    for (const DrawOptions& options : {DrawOptions{}, DrawOptions{.wireframe = true},
             DrawOptions{.paint = Paint::QuadSizes}, DrawOptions{.paint = Paint::Normals, .wireframe = true}}) {
        const auto shown = [&](const char* models, const char* submission) {
            m_setup.mesh.models = models;
            m_setup.draw.submission = submission;
            m_renderer->begin(m_setup, *m_terrain);
            m_renderer->upload(meshed({0, 0, 0}, chunk));
            m_target->bind();
            m_renderer->draw(near, kWidth, kHeight, options);
            return m_pixels = m_target->read();
        };
        const auto objects = shown("objects", "indirect");
        for (const char* submission : {"indirect", "per-chunk"}) {
            const auto baked = shown("baked", submission);
            int others = 0; // lines may begin at another corner, and be a shade thinner
            for (std::size_t i = 0; i < baked.size(); ++i)
                others += std::abs(int(baked[i]) - int(objects[i])) > 48;
            EXPECT_LT(others, kWidth * kHeight / 200) << submission << " " << options.wireframe;
        }
    }
}

/// A wall seen from the south: its rows of pixels are heights.
TEST_F(RendererTest, ContourLinesRunEachTenMetres)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1)); // voxels 0 to 16 of each axis
    const Eye eye{{8, 8, 40}, {0, 0, 0}, 0, 0};
    const auto rows = [&](double voxelMetres) { // pixels from the top where the wall is inked
        m_target->bind();
        m_renderer->draw(eye, kWidth, kHeight, {.paint = Paint::Contours, .voxelMetres = voxelMetres});
        m_pixels = m_target->read();
        std::vector<int> out;
        for (int y = 0; y < kHeight; ++y) {
            const std::size_t i = (static_cast<std::size_t>(y) * kWidth + kWidth / 2) * 4;
            if (m_pixels[i + 2] * 3 < m_pixels[i] * 2) // ink is browner than the wall
                out.push_back(y);
        }
        return out;
    };
    // 65 degrees over the height, the wall 24 voxels away: a voxel is this number of pixels.
    const double voxel = kHeight / (2 * std::tan(65.0 / 2 * 3.14159265358979 / 180) * 24);
    const auto expectLine = [&](const std::vector<int>& found, double height, const char* what) {
        const double row = kHeight / 2.0 - (height - 8) * voxel;
        EXPECT_TRUE(std::any_of(found.begin(), found.end(), [row](int y) { return std::abs(y - row) <= 1.5; }))
            << what << ": none at " << row;
    };
    const std::vector<int> metres = rows(1);
    expectLine(metres, 10, "10 m");
    EXPECT_LE(metres.size(), 6u) << "0 m and 10 m, and nothing between";
    const std::vector<int> doubles = rows(2);
    expectLine(doubles, 5, "10 m");
    expectLine(doubles, 10, "20 m");
    expectLine(doubles, 15, "30 m");
}

TEST_F(RendererTest, AWireframeAndSizesChangeThePictureButNotItsOutline)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    draw(kBefore);
    const auto plain = m_pixels;
    const Pixel sky = at(2, 2);
    for (const DrawOptions& options : {DrawOptions{.wireframe = true}, DrawOptions{.paint = Paint::Normals},
             DrawOptions{.paint = Paint::QuadSizes}}) {
        m_renderer->draw(kBefore, kWidth, kHeight, options);
        m_pixels = m_target->read();
        EXPECT_NE(m_pixels, plain);
        EXPECT_EQ(at(2, 2), sky);
    }
    // Columns outside the wipe's part keep what was there.
    draw({{8, 8, 300}, {0, 0, 0}, 0, 90}); // all sky
    const auto empty = m_pixels;
    m_renderer->draw(kBefore, kWidth, kHeight, {.columns = {80, 160}});
    m_pixels = m_target->read();
    EXPECT_TRUE(isGround(82, 50));
    EXPECT_TRUE(std::equal(m_pixels.begin() + 50 * kWidth * 4, m_pixels.begin() + (50 * kWidth + 80) * 4,
        empty.begin() + 50 * kWidth * 4));
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
} // namespace fell::renderer_test
