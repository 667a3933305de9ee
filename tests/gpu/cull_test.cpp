// SPDX-License-Identifier: Apache-2.0
// What culling leaves of the picture, against what geometry says.
#include "gpu/headless.h"
#include "gpu/hooks.h"
#include "mesh/chunk_mesh.h"
#include "setup/stages.h"
#include "support/sample_worlds.h"

#include <gtest/gtest.h>

namespace fell {
namespace {

class CullPicture : public ::testing::Test {
protected:
    static constexpr int kWidth = 160, kHeight = 100, kEdge = 16;

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
        m_setup.chunk.edge = kEdge;
        m_setup.stream.distance = 8;
        m_setup.light.mode = "none";
    }
    void TearDown() override
    {
        m_target.reset();
        m_renderer.reset();
        m_context.reset();
    }

    void begin(const std::vector<std::string>& steps)
    {
        m_setup.cull.steps = steps;
        m_renderer->begin(m_setup, *m_terrain);
    }
    /// A solid cube with open air round it, a quad a side.
    void put(ChunkPos chunk)
    {
        const VoxelChunk open(kEdge), solid(kEdge, 1);
        Neighbourhood around;
        around.chunks.fill(&open);
        around.chunks[13] = &solid;
        PaddedVoxels padded;
        gather(around, padded);
        const SideRules rules = sideRulesOf(m_terrain->recipe.blocks);
        MeshedChunk mesh;
        mesh.chunk = chunk;
        mesh.mesh = buildChunkMesh(
            padded, {findMesher("exposed"), findLayout(m_setup.mesh.layout), {&rules, false}, true, false, false});
        mesh.sight = sightOf(padded, rules.solidCubes);
        m_renderer->upload(mesh);
    }
    FrameReport draw(const Eye& eye, const DrawOptions& options = {})
    {
        m_target->bind();
        const FrameReport report = m_renderer->draw(eye, kWidth, kHeight, options);
        m_pixels = m_target->read();
        return report;
    }
    std::array<int, 3> at(int x, int y) const
    {
        const std::size_t i = (static_cast<std::size_t>(y) * kWidth + static_cast<std::size_t>(x)) * 4;
        return {m_pixels[i], m_pixels[i + 1], m_pixels[i + 2]};
    }

    static constexpr std::uint64_t kSide = std::uint64_t{2} * kEdge * kEdge; // triangles of a side of the cube
    std::unique_ptr<HeadlessContext> m_context;
    std::unique_ptr<Renderer> m_renderer;
    std::unique_ptr<OffscreenTarget> m_target;
    std::shared_ptr<const Terrain> m_terrain;
    fell::Setup m_setup;
    std::vector<std::uint8_t> m_pixels;
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
    EXPECT_EQ(pixels[0] | pixels[1] | pixels[2], 0) << "the sky is nobody";

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
    put({0, 0, 6}); // behind whoever looks north from between
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
} // namespace fell
