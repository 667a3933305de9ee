// SPDX-License-Identifier: Apache-2.0
// Pictures of lamps and of the sky.
#include "renderer_fixture.h"
#include "support/all_names.h"
#include <fell/gpu/daylight.h>
#include <fell/measure/pictures.h>
#include <fell/setup/stages.h>

#include <cmath>
#include <gtest/gtest.h>
#include <map>

namespace fell::lit_renderer_test {
namespace {

using test::kBefore;
using test::Pixel;
using test::RendererTest;
using test::stepsAndWall;

class LitRendererTest : public RendererTest {
protected:
    /// The cube of the other tests with light in its mesh: a level at all corners.
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
    const auto pictureOf
        = [&](const char* sample, const char* ambientOcclusion, const char* layout, const char* submission) {
              m_setup.light.sample = sample;
              m_setup.mesh.ambientOcclusion = ambientOcclusion;
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
        for (const char* ambientOcclusion : {"none", "corners", "rim"}) {
            m_setup.light.mode = mode;
            options = {};
            const auto cut = pictureOf("corners", ambientOcclusion, "corners", "indirect");
            const std::uint64_t cutTriangles = triangles;
            const auto cells = pictureOf("cells", ambientOcclusion, "corners", "indirect");
            EXPECT_LT(triangles, cutTriangles * 3 / 4) << mode << " " << ambientOcclusion;
            EXPECT_LT(differenceOf(cells, cut), 0.05) << "a triangle and a voxel's side run a little differently";
            EXPECT_GT(differenceOf(cells, pictureOf("flat", ambientOcclusion, "corners", "indirect")), 0.2);
            for (const char* layout : {"floats", "corners", "packed"})
                for (const char* submission : {"indirect", "per-chunk", "instanced"})
                    EXPECT_LT(differenceOf(pictureOf("cells", ambientOcclusion, layout, submission), cells), 0.01)
                        << mode << " " << ambientOcclusion << " " << layout << " " << submission;
            EXPECT_LT(differenceOf(pictureOf("cells", ambientOcclusion, "corners", "per-block"), cut), 0.05);
            for (options.channel = 0; options.channel < findLightMode(mode)->channels(); ++options.channel) {
                options.paint = Paint::Light;
                EXPECT_LT(differenceOf(pictureOf("cells", ambientOcclusion, "corners", "indirect"),
                              pictureOf("corners", ambientOcclusion, "corners", "indirect")),
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

TEST_F(LitRendererTest, TheOverlayShowsALevelAsItsColourAndABar)
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
    const auto max = [](const std::map<Pixel, int>& of) {
        return std::max_element(of.begin(), of.end(), [](const auto& a, const auto& b) {
            return a.second < b.second;
        })->first;
    };
    EXPECT_GT(max(right)[0], max(left)[0] + 60) << "yellow against blue green";
    const auto hasInk = [](const std::map<Pixel, int>& of, int low, int high) {
        return std::any_of(
            of.begin(), of.end(), [&](const auto& p) { return p.first[0] >= low && p.first[0] <= high; });
    };
    EXPECT_TRUE(hasInk(left, 235, 255)) << "a white bar on dark";
    EXPECT_TRUE(hasInk(right, 0, 40)) << "a dark bar on bright";
    // The inner part of a bar covers 0.136 of a face; its share that is filled is the value of 15.
    const auto inkShare = [](const std::map<Pixel, int>& of, int low, int high) {
        double ink = 0, all = 0;
        for (const auto& [colour, count] : of) {
            all += count;
            ink += colour[0] >= low && colour[0] <= high ? count : 0;
        }
        return ink / all;
    };
    EXPECT_NEAR(inkShare(right, 0, 40) - inkShare(left, 235, 255), 0.136 * 8 / 15, 0.02);
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
} // namespace fell::lit_renderer_test
