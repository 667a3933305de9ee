// SPDX-License-Identifier: Apache-2.0
// How sides look: in linear light, seen through, shaded at corners.
#include "renderer_fixture.h"
#include "support/all_names.h"
#include <fell/blocks/srgb.h>
#include <fell/gpu/daylight.h>
#include <fell/measure/pictures.h>

#include <glm/common.hpp>
#include <gtest/gtest.h>

namespace fell::shading_test {
namespace {

using test::kBefore;
using test::pane;
using test::Pixel;
using test::RendererTest;
using test::stepsAndWall;

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

TEST_F(RendererTest, ShadeBesideTheQuadsLooksAsShadeInThemInEveryLayoutAndSubmission)
{
    const auto pictureOf = [&](const char* ambientOcclusion, const char* layout, const char* submission) {
        m_setup.mesh.ambientOcclusion = ambientOcclusion;
        m_setup.mesh.layout = layout;
        m_setup.draw.submission = submission;
        m_renderer->begin(m_setup, *m_terrain);
        const PaddedVoxels padded = amongOpen(stepsAndWall());
        const SideRules rules = sideRulesOf(m_terrain->recipe.blocks);
        const ChunkMeshOptions options = resolve(m_setup).meshOptions(rules);
        MeshedChunk made{{0, 0, 0}, 0, buildChunkMesh(padded, options)};
        m_renderer->upload(made);
        const FrameReport report = draw({{8, 18, 22}, {0, 0, 0}, 0, -45});
        EXPECT_EQ(report.triangles, made.mesh.quadCount() * 2u)
            << ambientOcclusion << " " << layout << " " << submission;
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

} // namespace
} // namespace fell::shading_test
