// SPDX-License-Identifier: Apache-2.0
// Pictures without a window, compared with what geometry says they must show.
#include "blocks/srgb.h"
#include "gpu/daylight.h"
#include "gpu/hooks.h"
#include "gpu/picture.h"
#include "picture_fixture.h"
#include "setup/stages.h"

#include <cmath>
#include <glm/common.hpp>
#include <gtest/gtest.h>
#include <map>

namespace fell::renderer_test {
namespace {

using test::Pixel;

class RendererTest : public test::PictureTest {
protected:
    void SetUp() override
    {
        PictureTest::SetUp();
        m_setup.cull.steps = {"distance", "view-planes"}; // whole chunks: sides are cull_test's affair
    }

    /// The bits of passes by their ids.
    unsigned bitsOf(std::initializer_list<const char*> ids) const
    {
        unsigned bits = 0;
        const auto passes = m_renderer->passes();
        for (std::size_t i = 0; i < passes.size(); ++i)
            bits |= std::count(ids.begin(), ids.end(), passes[i].id) > 0 ? 1u << i : 0u;
        return bits;
    }

    /// Sky is bluer than it is red; the slate of the test set is redder than it is blue.
    bool isGround(int x, int y) const { return at(x, y)[0] > at(x, y)[2]; }
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
    EXPECT_EQ(report.drawCalls, kMostBlockDraws);
    EXPECT_EQ(report.notDrawn, report.chunks * 1352 - kMostBlockDraws);
}

/// A chunk of which one voxel layer, at z, is of a material.
VoxelChunk pane(int z, Material material)
{
    std::vector<Material> voxels(16 * 16 * 16);
    for (std::size_t y = 0; y < 16; ++y)
        for (std::size_t x = 0; x < 16; ++x)
            voxels[(y * 16 + static_cast<std::size_t>(z)) * 16 + x] = material;
    return {16, std::move(voxels)};
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

TEST_F(RendererTest, GlassIsDrawnOverWhatIsBehindItInAnyOrderOfUpload)
{
    Recipe recipe = m_terrain->recipe;
    recipe.blocks.kinds.push_back({.name = "red-glass",
        .top = {255, 0, 0},
        .side = {255, 0, 0},
        .grain = 0,
        .matter = Matter::SeeThrough,
        .opacity = 0.5f});
    recipe.blocks.kinds.push_back({.name = "blue-glass",
        .top = {0, 0, 255},
        .side = {0, 0, 255},
        .grain = 0,
        .matter = Matter::SeeThrough,
        .opacity = 0.5f});
    m_terrain = makeTerrain(recipe);
    m_setup.stream.distance = 40; // no fog in between
    const auto red = static_cast<Material>(recipe.blocks.kinds.size() - 2), blue = static_cast<Material>(red + 1);
    const Eye eye{{8, 8, 60}, {0, 0, 0}, 0, 0}; // looks north, at the panes' south sides
    const auto seen = [&](bool redFirst) {
        m_renderer->begin(m_setup, *m_terrain);
        const auto near = meshed({0, 0, 1}, pane(4, blue)), far = meshed({0, 0, 0}, pane(4, red));
        m_renderer->upload(redFirst ? far : near);
        m_renderer->upload(redFirst ? near : far);
        draw(eye);
        return at(80, 50);
    };
    const Pixel a = seen(true), b = seen(false);
    EXPECT_EQ(a, b);
    EXPECT_GT(a[2], a[0]) << "blue is nearer, so it covers red";
    // Within one chunk only sorting tells the panes apart. Red is the nearer one, yet the mesher writes it first.
    m_setup.draw.seeThrough = "within";
    for (const VertexLayout& layout : vertexLayouts()) {
        m_setup.mesh.layout = layout.id;
        m_renderer->begin(m_setup, *m_terrain);
        VoxelChunk both = pane(9, red);
        std::vector<Material> voxels = both.voxels();
        for (std::size_t y = 0; y < 16; ++y)
            for (std::size_t x = 0; x < 16; ++x)
                voxels[(y * 16 + 2) * 16 + x] = blue;
        m_renderer->upload(meshed({0, 0, 0}, VoxelChunk(16, std::move(voxels))));
        draw(eye);
        EXPECT_GT(at(80, 50)[0], at(80, 50)[2]) << layout.id;
    }
}

/// The alpha of what is seen through was written into the picture: a PNG of a lake had holes.
TEST_F(RendererTest, APictureHasNoHolesWhereOneSeesThrough)
{
    Recipe recipe = m_terrain->recipe;
    recipe.blocks.kinds.push_back(
        {.name = "glass", .side = {0, 0, 255}, .matter = Matter::SeeThrough, .opacity = 0.5f});
    m_terrain = makeTerrain(recipe);
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(meshed({0, 0, 0}, pane(4, static_cast<Material>(recipe.blocks.kinds.size() - 1))));
    const FrameReport report = draw({{8, 8, 40}, {0, 0, 0}, 0, 0});
    EXPECT_GT(report.triangles, 0u);
    for (std::size_t i = 3; i < m_pixels.size(); i += 4)
        ASSERT_EQ(m_pixels[i], 255) << "pixel " << i / 4;
}

/// Linear light of a side that looks south, `away` voxels straight ahead: by hand from the block's colour, the daylight
/// and the air between, which is the horizon's.
glm::dvec3 southSide(const glm::dvec3& screen, double away)
{
    const Daylight day = daylightAt(kLateMorning);
    const double sun = 0.66 * day.towardsSun.z, sky = 0.44 + 0.03;
    const double end = 4 * 16 - 16, far = std::max(0.0, (away - 0.4 * end) / (0.6 * end)), fog = far * far * far;
    glm::dvec3 out;
    for (int c = 0; c < 3; ++c)
        out[c] = glm::mix(linearOf(screen[c] / 255) * (sun * day.sunlight[c] + sky * day.skylight[c]),
            linearOf(static_cast<double>(day.horizon[c])), fog);
    return out;
}

// 0.7 of 255 for each of the two polynomials of linear.glsl, and what is rounded.
constexpr double kOfTheCurve = 2.5;

TEST_F(RendererTest, ASideIsShadedInLinearLight)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    draw(kBefore);
    const glm::dvec3 light = southSide({120, 110, 90}, 24);
    for (int c = 0; c < 3; ++c)
        EXPECT_NEAR(at(80, 50)[static_cast<std::size_t>(c)], 255 * screenOf(light[c]), kOfTheCurve) << "channel " << c;
}

/// Screen colours were blended: half of white over black came out too dark.
TEST_F(RendererTest, WhatIsSeenThroughIsBlendedAsLight)
{
    Recipe recipe = m_terrain->recipe;
    const auto glass = static_cast<Material>(recipe.blocks.kinds.size() + 1);
    recipe.blocks.kinds.push_back({.name = "coal", .side = {20, 20, 20}, .grain = 0});
    recipe.blocks.kinds.push_back(
        {.name = "glass", .side = {240, 160, 80}, .grain = 0, .matter = Matter::SeeThrough, .opacity = 0.5f});
    m_terrain = makeTerrain(recipe);
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, -1}, static_cast<Material>(glass - 1)));
    m_renderer->upload(meshed({0, 0, 0}, pane(4, glass)));
    draw(kBefore);
    constexpr double kOpacity = 128 / 255.0;
    const glm::dvec3 light = glm::mix(southSide({20, 20, 20}, 40), southSide({240, 160, 80}, 35), kOpacity);
    for (int c = 0; c < 3; ++c)
        EXPECT_NEAR(at(80, 50)[static_cast<std::size_t>(c)], 255 * screenOf(light[c]), kOfTheCurve) << "channel " << c;
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

/// The cube of the other tests with light in its mesh: a level at all corners.
/// Mean difference of two pictures, of 255.
double differenceOf(const std::vector<std::uint8_t>& a, const std::vector<std::uint8_t>& b)
{
    double sum = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        sum += std::abs(int{a[i]} - int{b[i]});
    return sum / static_cast<double>(a.size());
}

/// Steps with a wall on them.
VoxelChunk stepsAndWall()
{
    std::vector<Material> voxels(16 * 16 * 16, kOpen);
    for (int y = 0; y < 16; ++y)
        for (int z = 0; z < 16; ++z)
            for (int x = 0; x < 16; ++x)
                if (y <= 8 - z / 3 || (x == 5 && z > 3 && y < 9))
                    voxels[static_cast<std::size_t>((y * 16 + z) * 16 + x)] = 1;
    return VoxelChunk(16, std::move(voxels));
}

TEST_F(RendererTest, ShadeBesideTheQuadsLooksAsShadeInThemInEveryLayoutAndSubmission)
{
    const auto pictureOf = [&](const char* shade, const char* layout, const char* submission) {
        m_setup.mesh.shade = shade;
        m_setup.mesh.layout = layout;
        m_setup.draw.submission = submission;
        m_renderer->begin(m_setup, *m_terrain);
        const PaddedVoxels padded = amongOpen(stepsAndWall());
        const SideRules rules = sideRulesOf(m_terrain->recipe.blocks);
        const ChunkMeshOptions options = resolve(m_setup).meshOptions(rules);
        MeshedChunk made{{0, 0, 0}, 0, buildChunkMesh(padded, options)};
        m_renderer->upload(made);
        const FrameReport report = draw({{8, 18, 22}, {0, 0, 0}, 0, -45});
        EXPECT_EQ(report.triangles, made.mesh.quadCount() * 2u) << shade << " " << layout << " " << submission;
        return m_pixels;
    };
    const auto baked = pictureOf("corners", "corners", "indirect"), none = pictureOf("none", "corners", "indirect"),
               rim = pictureOf("rim", "corners", "indirect");
    EXPECT_GT(differenceOf(baked, none), 1);
    EXPECT_LT(differenceOf(baked, rim), 0.4) << "between corners, triangles and voxels run a little differently";
    for (const char* layout : {"floats", "corners", "packed"})
        for (const char* submission : {"indirect", "per-chunk", "instanced", "per-block"})
            EXPECT_LT(differenceOf(pictureOf("rim", layout, submission), rim), 0.01) << layout << " " << submission;
}

class LitRendererTest : public RendererTest {
protected:
    MeshedChunk litCube(const std::vector<int>& levels) const // by channel of the setup's mode
    {
        MeshedChunk made = cube({0, 0, 0}, 1);
        PaddedLight light;
        light.begin(16, static_cast<int>(levels.size()));
        std::fill(light.passable.begin(), light.passable.end(), ~std::uint64_t{0});
        for (std::size_t c = 0; c < levels.size(); ++c)
            light.of[c].all = levels[c];
        const PaddedVoxels padded = amongOpen(VoxelChunk(16, 1));
        const SideRules rules = sideRulesOf(m_terrain->recipe.blocks);
        ChunkMeshOptions options = resolve(m_setup).meshOptions(rules);
        options.mesher = findMesher("exposed");
        made.mesh = buildChunkMesh(padded, options, levels.empty() ? nullptr : &light);
        return made;
    }

    Pixel middleOf(const std::vector<int>& levels, const DrawOptions& options = {}, const char* mode = "colour")
    {
        m_setup.light.mode = mode;
        m_renderer->begin(m_setup, *m_terrain);
        m_renderer->upload(litCube(levels));
        m_target->bind();
        m_renderer->draw(kBefore, kWidth, kHeight, options);
        m_pixels = m_target->read();
        return at(80, 50);
    }
};

TEST_F(LitRendererTest, LampsAndSkyMakeASideBright)
{
    const Pixel dark = middleOf({0, 0, 0, 0}), day = middleOf({0, 0, 0, 15}), half = middleOf({0, 0, 0, 7}),
                red = middleOf({12, 0, 0, 0}), both = middleOf({12, 0, 0, 15});
    EXPECT_LT(dark[0] + dark[1] + dark[2], 60) << "nearly black";
    EXPECT_GT(half[1], dark[1] * 2);
    EXPECT_GT(day[1], half[1] * 3 / 2);
    EXPECT_GT(red[0], 3 * red[2]) << "a red lamp";
    EXPECT_GT(both[0], day[0]);
    EXPECT_NEAR(both[2], day[2], 1) << "a red lamp adds no blue";
}

TEST_F(LitRendererTest, SidesLitEvenlyLookAsThoseThatAreInterpolatedDo)
{
    for (const char* mode : {"lamp-sky", "colour", "colour-sky"}) {
        m_setup.light.mode = mode;
        m_setup.draw.submission = "indirect";
        m_renderer->begin(m_setup, *m_terrain);
        std::vector<int> levels{4, 3, 9, 11, 8, 6};
        levels.resize(static_cast<std::size_t>(findLightMode(mode)->channels()));
        m_renderer->upload(litCube(levels));
        draw(kBefore);
        const auto even = m_pixels;
        DrawOptions options; // what draws overlays interpolates
        options.wireframe = true;
        PictureTest::draw(kBefore, options);
        int alike = 0;
        for (std::size_t i = 0; i < even.size(); i += 4)
            alike += std::abs(even[i] - m_pixels[i]) <= 1 && std::abs(even[i + 1] - m_pixels[i + 1]) <= 1
                && std::abs(even[i + 2] - m_pixels[i + 2]) <= 1 && even[i] != even[0];
        EXPECT_GT(alike, 400) << mode << ": all but the lines";
    }
}

TEST_F(LitRendererTest, FullSkyLooksAsNoLightDoes)
{
    m_renderer->begin(m_setup, *m_terrain);
    m_renderer->upload(cube({0, 0, 0}, 1));
    draw(kBefore);
    const Pixel unlit = at(80, 50), day = middleOf({0, 0, 0, 15});
    for (std::size_t c = 0; c < 3; ++c)
        EXPECT_NEAR(day[c], unlit[c], 2);
}

TEST_F(LitRendererTest, AllLayoutsDrawTheSameLight)
{
    std::vector<std::vector<std::uint8_t>> pictures;
    for (const char* layout : {"floats", "corners", "packed"})
        for (const char* submission : {"per-chunk", "instanced", "indirect"}) {
            m_setup.mesh.layout = layout;
            m_setup.draw.submission = submission;
            (void)middleOf({9, 5, 2, 11});
            pictures.push_back(m_pixels);
            EXPECT_EQ(pictures.back(), pictures.front()) << layout << " " << submission;
        }
}

/// Light that runs over the steps: the sky falls off to the east, each lamp with the way to it.
PaddedLight lightOver(const VoxelChunk& voxels, int channels)
{
    PaddedLight light;
    light.begin(16, channels);
    const std::size_t rows = 18 * 18;
    for (std::size_t c = 0; c < static_cast<std::size_t>(channels); ++c) {
        light.of[c].all.reset();
        light.of[c].digits.assign(rows * 4, 0);
    }
    for (int y = -1; y <= 16; ++y)
        for (int z = -1; z <= 16; ++z)
            for (int x = -1; x <= 16; ++x) {
                const bool inside = std::min({x, y, z}) >= 0 && std::max({x, y, z}) < 16;
                if (inside && voxels.at(x, y, z) != kOpen)
                    continue;
                const std::size_t row = light.row(y, z);
                light.passable[row] |= std::uint64_t{1} << (x + 1);
                for (int c = 0; c < channels; ++c) {
                    const int way = std::abs(x - 3 * c) + std::abs(y - 8) + std::abs(z - 4 - 2 * c);
                    const auto level = static_cast<unsigned>(std::clamp(c == 3 ? 15 - x / 2 : 15 - way, 0, 15));
                    for (std::size_t k = 0; k < 4; ++k)
                        light.of[static_cast<std::size_t>(c)].digits[row * 4 + k] |= std::uint64_t{level >> k & 1}
                            << (x + 1);
                }
            }
    return light;
}

TEST_F(LitRendererTest, LightInCellsLooksAsLightInCornersInEveryLayoutAndSubmission)
{
    const VoxelChunk voxels = stepsAndWall();
    const PaddedVoxels padded = amongOpen(voxels);
    const SideRules rules = sideRulesOf(m_terrain->recipe.blocks);
    std::uint64_t triangles = 0;
    DrawOptions options;
    const auto pictureOf = [&](const char* sample, const char* shade, const char* layout, const char* submission) {
        m_setup.light.sample = sample;
        m_setup.mesh.shade = shade;
        m_setup.mesh.layout = layout;
        m_setup.draw.submission = submission;
        m_renderer->begin(m_setup, *m_terrain);
        const ChunkMeshOptions how = resolve(m_setup).meshOptions(rules);
        const PaddedLight light = lightOver(voxels, findLightMode(m_setup.light.mode)->channels());
        // Behind another, so that its cells do not lie at the begin of them all.
        for (const ChunkPos chunk : {ChunkPos{0, 0, 40}, ChunkPos{0, 0, 0}})
            m_renderer->upload({chunk, 0, buildChunkMesh(padded, how, &light)});
        m_renderer->release({0, 0, 40});
        triangles = PictureTest::draw({{8, 18, 22}, {0, 0, 0}, 0, -45}, options).triangles;
        return m_pixels;
    };
    for (const char* mode : {"lamp-sky", "colour", "colour-sky"})
        for (const char* shade : {"none", "corners", "rim"}) {
            m_setup.light.mode = mode;
            options = {};
            const auto cut = pictureOf("corners", shade, "corners", "indirect");
            const std::uint64_t cutTriangles = triangles;
            const auto cells = pictureOf("cells", shade, "corners", "indirect");
            EXPECT_LT(triangles, cutTriangles * 3 / 4) << mode << " " << shade;
            EXPECT_LT(differenceOf(cells, cut), 0.05) << "a triangle and a voxel's side run a little differently";
            EXPECT_GT(differenceOf(cells, pictureOf("flat", shade, "corners", "indirect")), 0.2);
            for (const char* layout : {"floats", "corners", "packed"})
                for (const char* submission : {"indirect", "per-chunk", "instanced"})
                    EXPECT_LT(differenceOf(pictureOf("cells", shade, layout, submission), cells), 0.01)
                        << mode << " " << shade << " " << layout << " " << submission;
            EXPECT_LT(differenceOf(pictureOf("cells", shade, "corners", "per-block"), cut), 0.05);
            for (options.channel = 0; options.channel < findLightMode(mode)->channels(); ++options.channel) {
                options.paint = Paint::Light;
                EXPECT_LT(differenceOf(pictureOf("cells", shade, "corners", "indirect"),
                              pictureOf("corners", shade, "corners", "indirect")),
                    0.1)
                    << "the scale of channel " << options.channel;
            }
        }
}

TEST_F(LitRendererTest, CellsGoWithTheirChunkAndTheirBufferGrows)
{
    const VoxelChunk voxels = stepsAndWall();
    const PaddedVoxels padded = amongOpen(voxels);
    const SideRules rules = sideRulesOf(m_terrain->recipe.blocks);
    m_setup.light.mode = "colour-sky";
    m_setup.light.sample = "cells";
    m_renderer->begin(m_setup, *m_terrain);
    const ChunkMeshOptions how = resolve(m_setup).meshOptions(rules);
    const PaddedLight light = lightOver(voxels, 6);
    const ChunkMesh mesh = buildChunkMesh(padded, how, &light);
    const Eye eye{{8, 18, 22}, {0, 0, 0}, 0, -45};
    m_renderer->upload({{0, 0, 0}, 0, mesh});
    EXPECT_EQ(m_renderer->figuresOf({0, 0, 0})->bytes, mesh.bytes());
    const std::uint64_t before = draw(eye).gpuBytes, used = m_renderer->arena().usedBytes;
    const auto alone = m_pixels;
    const std::size_t chunks = (std::size_t{1} << 17) * 2 / (mesh.cells.words.size() / 4);
    for (std::size_t i = 1; i <= chunks; ++i)
        m_renderer->upload({{static_cast<std::int64_t>(i), 9, 40}, 0, mesh});
    EXPECT_GT(m_renderer->arena().usedBytes, used + chunks * mesh.cells.words.size() * 4);
    for (std::size_t i = 1; i <= chunks; ++i)
        m_renderer->release({static_cast<std::int64_t>(i), 9, 40});
    EXPECT_EQ(m_renderer->arena().usedBytes, used);
    EXPECT_GT(draw(eye).gpuBytes, before);
    EXPECT_EQ(m_pixels, alone) << "what was there when it grew is there still";
}

TEST_F(LitRendererTest, TheSunGoesDown)
{
    const auto at = [&](double degrees) {
        DrawOptions options;
        options.sunHeight = degrees;
        const Pixel side = middleOf({0, 0, 0, 15}, options);
        return side[0] + side[1] + side[2];
    };
    EXPECT_GT(at(46), at(2));
    EXPECT_GT(at(2), at(-8));
    EXPECT_GT(at(-8), at(-18));
    const Daylight late = daylightAt(kLateMorning), night = daylightAt(-90);
    EXPECT_NEAR(late.towardsSun.y, std::sin(46 * 3.14159265 / 180), 0.01);
    EXPECT_EQ(night.sunlight, glm::vec3(0));
    EXPECT_LT(night.towardsSun.y, 0);
    for (double degrees = kLowestSun; degrees < kHighestSun; degrees += 1.0) { // nothing jumps
        const Daylight a = daylightAt(degrees), b = daylightAt(degrees + 1);
        EXPECT_LT(glm::length(a.sunlight - b.sunlight), 0.15);
        EXPECT_LT(glm::length(a.horizon - b.horizon), 0.1);
        EXPECT_NEAR(glm::length(a.towardsSun), 1, 1e-5);
    }
}

/// All nine pairs of 0, 1 or 3 channels of lamps and of the sky: each channel is read where it was written.
TEST_F(LitRendererTest, EveryPairOfChannelsIsReadAsItIsWritten)
{
    std::set<std::pair<int, int>> pairs;
    const auto check = [this](const LightMode& mode, std::size_t c) {
        const auto channels = static_cast<std::size_t>(mode.channels());
        std::vector<int> levels(channels, 0);
        levels[c] = 15;
        for (std::size_t shown = 0; shown < channels; ++shown) {
            DrawOptions options;
            options.paint = Paint::Light;
            options.channel = static_cast<int>(shown);
            // The red of the two ends of the scale.
            EXPECT_NEAR(middleOf(levels, options, mode.id)[0], (shown == c ? 0.97 : 0.36) * 255, 6)
                << mode.id << ", " << m_setup.mesh.layout << ", " << m_setup.light.sample << ", channel " << c
                << " shown as " << shown;
        }
        const Pixel lit = middleOf(levels, {}, mode.id), dark = middleOf(std::vector<int>(channels, 0), {}, mode.id);
        EXPECT_GT(lit[0] + lit[1] + lit[2], dark[0] + dark[1] + dark[2]) << mode.id << ", channel " << c;
        const bool isSky = mode.isSky(static_cast<int>(c));
        const std::size_t own = c - (isSky ? static_cast<std::size_t>(mode.lamps) : 0);
        for (std::size_t other = 0; other < 3; ++other) // red, green, blue
            if ((isSky ? mode.sky : mode.lamps) == 3 && other != own) {
                EXPECT_NEAR(lit[other], dark[other], 2) << mode.id << ", channel " << c;
            }
    };
    for (const LightMode& mode : lightModes()) {
        pairs.insert({mode.lamps, mode.sky});
        for (const char* layout : {"floats", "corners", "packed"})
            for (const char* sample : {"cells", "corners"})
                for (std::size_t c = 0; c < static_cast<std::size_t>(mode.channels()); ++c) {
                    m_setup.mesh.layout = layout;
                    m_setup.light.sample = sample;
                    check(mode, c);
                }
    }
    EXPECT_EQ(pairs.size(), 9u);
    const int unlit = middleOf({}, {}, "none")[1];
    EXPECT_NEAR(middleOf({0}, {}, "lamp")[1], unlit, 4) << "without a sky it is day everywhere";
    EXPECT_NEAR(middleOf({15}, {}, "sky")[1], unlit, 4);
    EXPECT_LT(middleOf({0}, {}, "sky")[1], unlit / 2);
}

TEST_F(LitRendererTest, TheOverlayShowsALevelAsItsColourAndItsNumber)
{
    DrawOptions options;
    options.paint = Paint::Light;
    options.channel = 3;
    const Pixel dark = middleOf({0, 0, 0, 0}, options), full = middleOf({0, 0, 0, 15}, options);
    // The ends of the scale: dark blue and pale yellow, by hand from its first and last colour.
    EXPECT_NEAR(dark[2], 0.60 * 255, 6);
    EXPECT_NEAR(full[0], 0.97 * 255, 6);
    EXPECT_NEAR(full[1], 0.91 * 255, 6);
    options.channel = 0;
    EXPECT_EQ(middleOf({15, 0, 0, 0}, options), full) << "another channel, the same scale";

    // Near the side, with the levels of the voxels before it: 4 to the left of x = 8, 12 to the right.
    LightVolume volume{{0, 0, 16}, {16, 16, 1}, std::vector<std::uint8_t>(256, 12), true};
    for (std::size_t i = 0; i < 256; ++i)
        volume.levels[i] = i % 16 < 8 ? 4 : 12;
    options.light = std::make_shared<const LightVolume>(volume);
    m_target->bind();
    m_renderer->draw({{8, 8, 20}, {0, 0.5, 0}, 0, 0}, kWidth, kHeight, options);
    m_pixels = m_target->read();
    std::map<Pixel, int> left, right;
    for (int y = 30; y < 70; ++y)
        for (int x = 40; x < 120; ++x)
            if (x < 76)
                ++left[at(x, y)];
            else if (x > 84)
                ++right[at(x, y)];
    const auto most = [](const std::map<Pixel, int>& of) {
        return std::max_element(of.begin(), of.end(), [](const auto& a, const auto& b) {
            return a.second < b.second;
        })->first;
    };
    EXPECT_GT(most(right)[0], most(left)[0] + 60) << "yellow against blue green";
    const auto hasInk = [](const std::map<Pixel, int>& of, int low, int high) {
        return std::any_of(
            of.begin(), of.end(), [&](const auto& p) { return p.first[0] >= low && p.first[0] <= high; });
    };
    EXPECT_TRUE(hasInk(left, 235, 255)) << "white digits on dark";
    EXPECT_TRUE(hasInk(right, 0, 40)) << "dark digits on bright";
}

TEST_F(LitRendererTest, APathIsDrawnOverEverything)
{
    const Pixel before = middleOf({0, 0, 0, 15});
    DrawOptions options;
    options.path = {{8, 7, 4}, {8, 8, 4}, {9, 8, 4}}; // inside the cube
    m_target->bind();
    m_renderer->draw(kBefore, kWidth, kHeight, options);
    m_pixels = m_target->read();
    int heather = 0;
    for (int y = 0; y < kHeight; ++y)
        for (int x = 0; x < kWidth; ++x)
            heather
                += std::abs(at(x, y)[0] - 122) < 4 && std::abs(at(x, y)[1] - 74) < 4 && std::abs(at(x, y)[2] - 138) < 4;
    EXPECT_GT(heather, 10);
    EXPECT_NE(before, (Pixel{122, 74, 138}));
}

} // namespace
} // namespace fell::renderer_test
