// SPDX-License-Identifier: Apache-2.0
// What culling leaves of the picture, against what geometry says.
#include "picture_fixture.h"
#include "support/all_names.h"
#include <fell/gpu/hooks.h>
#include <fell/setup/stages.h>

#include <gtest/gtest.h>

namespace fell::cull_test {
namespace {

class CullPicture : public test::PictureTest {
protected:
    void begin(const std::vector<std::string>& steps)
    {
        m_setup.stream.distance = 8;
        m_setup.light.mode = "none";
        m_setup.cull.steps = steps;
        m_renderer->begin(m_setup, *m_terrain);
    }
    void put(ChunkPos chunk) { m_renderer->upload(cube(chunk, 1)); }

    static constexpr std::uint64_t kSide = std::uint64_t{2} * kEdge * kEdge; // triangles of a side of a cube
};

const Eye kSouthEastAbove{{40, 40, 40}, {0, 0, 0}, -45, -35}; // looks north-west and down

TEST_F(CullPicture, SidesTurnedAwayAreNotDrawnAndNothingIsMissing)
{
    begin({});
    put({0, 0, 0});
    EXPECT_EQ(draw(kSouthEastAbove).triangles, 6 * kSide);
    const auto all = m_pixels;
    CullChoices choices = m_setup.cull;
    choices.steps = {"facing"};
    m_renderer->setCulling(choices);
    const FrameReport report = draw(kSouthEastAbove);
    EXPECT_EQ(report.triangles, 3 * kSide) << "from beyond a corner three sides of a cube can face the eye";
    EXPECT_EQ(report.loadedTriangles, 6 * kSide);
    ASSERT_EQ(report.culled.size(), 1u);
    EXPECT_EQ(report.culled[0].rejected, 3u);
    EXPECT_EQ(m_pixels, all);
}

TEST_F(CullPicture, NoLayoutOrSubmissionMissesASide)
{
    std::vector<std::uint8_t> first;
    for (const char* steps : {"", "facing"})
        for (const VertexLayout& layout : vertexLayouts())
            for (const NamedMethod& submission : drawMethods()) {
                if (submission.id == std::string("per-block"))
                    continue; // it draws blocks whole
                m_setup.mesh.layout = layout.id;
                m_setup.draw.submission = submission.id;
                begin(*steps ? std::vector<std::string>{steps} : std::vector<std::string>{});
                put({0, 0, 0});
                put({1, 1, -1});
                draw(kSouthEastAbove);
                if (first.empty())
                    first = m_pixels;
                EXPECT_EQ(m_pixels, first) << layout.id << " " << submission.id << " " << steps;
            }
}

TEST_F(CullPicture, ThePictureOfNumbersNamesChunkAndSide)
{
    begin({});
    put({0, 0, 0});
    put({0, 0, -2}); // behind it
    m_target->bind();
    m_renderer->drawNumbers({{8, 8, 40}, {0, 0, 0}, 0, 0}, kWidth, kHeight, 65);
    const auto pixels = m_target->read();
    const auto middle = static_cast<std::size_t>(kHeight / 2 * kWidth + kWidth / 2) * 4;
    const std::uint32_t number = pixels[middle] | pixels[middle + 1] << 8U | pixels[middle + 2] << 16U;
    EXPECT_EQ(m_renderer->scene().chunks()[number - 1], (ChunkPos{0, 0, 0}));
    EXPECT_EQ(pixels[middle + 3], static_cast<int>(Side::South));
    EXPECT_EQ(pixels[0] | pixels[1] | pixels[2], 0) << "the sky is no chunk";

    const CullAuditHooks hooks = cullAuditHooksFor(*m_renderer, *m_target);
    const auto seen = hooks.look({{8, 8, 40}, {0, 0, 0}, 0, 0}, 65);
    ASSERT_EQ(seen.size(), 1u) << "the other one is hidden";
    EXPECT_EQ(seen[0].sides, onlySide(Side::South));
    // Half the side is 8 voxels at 24 away: 26.2 pixels to each side of the middle, at 65 degrees and 100 pixels.
    EXPECT_NEAR(seen[0].pixels, 52.4 * 52.4, 2 * 4 * 52.4);
}

TEST_F(CullPicture, CullingIsHeldWhileTheEyeLooksElsewhere)
{
    begin({"octree"});
    put({0, 0, 0});
    put({0, 0, 6}); // behind a camera that looks north from between
    const Eye held{{8, 8, 60}, {0, 0, 0}, 0, 0}, turned{{8, 8, 60}, {0, 0, 0}, 180, 0};
    EXPECT_EQ(draw(held).chunks, 1u);
    EXPECT_EQ(draw(turned).chunks, 1u);
    DrawOptions options;
    options.cullFrom = held;
    const FrameReport report = draw(turned, options);
    EXPECT_EQ(report.chunks, 1u) << "still the one to the north";
    EXPECT_EQ(m_renderer->rejectedBy({0, 0, 0}), nullptr);
    ASSERT_NE(m_renderer->rejectedBy({0, 0, 6}), nullptr);
    EXPECT_STREQ(m_renderer->rejectedBy({0, 0, 6})->id, "octree");
    const auto sky = at(kWidth / 2, kHeight / 2);

    options.ghosts = true; // what was rejected appears, in the step's colour
    draw(turned, options);
    const auto ghost = at(kWidth / 2, kHeight / 2);
    const GhostLook look = ghostLook(*findCullStep("octree"));
    int towards = 0; // each channel has moved from the sky towards the colour, 0.72 of the way where no stripe is
    for (std::size_t c = 0; c < 3; ++c)
        towards += std::abs(ghost[c] - look.colour[c]) < std::abs(sky[c] - look.colour[c]);
    EXPECT_EQ(towards, 3) << ghost[0] << " " << ghost[1] << " " << ghost[2];
}

/// Ghosts were drawn without depth writes where glass or water had been drawn before: farther ones lay over nearer
/// ones.
TEST_F(CullPicture, GhostsHideEachOtherThoughGlassIsInView)
{
    Recipe recipe = m_terrain->recipe;
    recipe.blocks.kinds[1].side = {0, 200, 0}; // the nearer one
    recipe.blocks.kinds[2].side = {200, 0, 0};
    recipe.blocks.kinds.push_back(
        {.name = "glass", .side = {0, 0, 255}, .matter = Matter::SeeThrough, .opacity = 0.5f});
    m_terrain = makeTerrain(recipe);
    const Eye held{{8, 8, 90}, {0, 0, 0}, 0, 0}, turned{{8, 8, 60}, {0, 0, 0}, 180, 0};
    const auto pixelsWith = [&](bool glass) {
        begin({"octree"});
        m_renderer->upload(cube({0, 0, 6}, 1)); // behind the eye that culls: both are ghosts, one behind the other
        m_renderer->upload(cube({0, 0, 7}, 2));
        if (glass) // seen by both, next to what is compared
            m_renderer->upload(cube({1, 0, 4}, static_cast<Material>(recipe.blocks.kinds.size() - 1)));
        DrawOptions options;
        options.cullFrom = held;
        options.ghosts = true;
        draw(turned, options);
        return at(kWidth / 2, kHeight / 2);
    };
    const auto with = pixelsWith(true);
    const auto picture = m_pixels;
    EXPECT_EQ(with, pixelsWith(false));
    EXPECT_NE(picture, m_pixels) << "the glass is in view";
}

TEST_F(CullPicture, LinesAreDrawnAmongTheChunksAndOverThem)
{
    begin({});
    put({0, 0, 0});
    const Eye before{{8, 8, 40}, {0, 0, 0}, 0, 0};
    draw(before);
    const auto plain = m_pixels;
    auto lines = std::make_shared<LineBatch>();
    lines->vertices = {{{8, -40, -30}, {255, 0, 255, 255}}, {{8, 60, -30}, {255, 0, 255, 255}}}; // behind the cube
    DrawOptions options;
    options.lines = lines;
    draw(before, options);
    const auto changed = [&](int y) {
        for (int x = 0; x < kWidth; ++x)
            if (at(x, y)[0] > 240 && at(x, y)[1] < 30)
                return true;
        return false;
    };
    EXPECT_TRUE(changed(5)) << "above the cube it is seen";
    EXPECT_FALSE(changed(kHeight / 2)) << "the cube hides it";
    auto over = std::make_shared<LineBatch>(*lines);
    over->over = 2;
    options.lines = over;
    draw(before, options);
    EXPECT_TRUE(changed(kHeight / 2));
    options.lines.reset();
    draw(before, options);
    EXPECT_EQ(m_pixels, plain);
}

} // namespace
} // namespace fell::cull_test
