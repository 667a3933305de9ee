// SPDX-License-Identifier: Apache-2.0
// The same ground drawn at the origin and 2^40 voxels away from it: not one pixel may differ.
#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/demo/demo_folder.h>
#include <fell/gpu/headless.h>
#include <fell/gpu/picture.h>
#include <fell/gpu/render_target.h>
#include <fell/gpu/renderer.h>
#include <fell/measure/route.h>
#include <fell/terrain/generate.h>

#include <cstring>
#include <gtest/gtest.h>
#include <set>

namespace fell::far_away_test {
namespace {

constexpr int kEdge = 32, kWidth = 320, kHeight = 200;
constexpr std::int64_t kFar = std::int64_t{1} << 40; // voxels

/// Corrowdale's ground near the beck, meshed once.
class FarAway : public ::testing::Test {
protected:
    void SetUp() override
    {
        auto context = HeadlessContext::create();
        ASSERT_TRUE(context) << sentence(context.problem());
        m_context = context.take();
        m_renderer = Renderer::create().take();
        m_target = std::make_unique<RenderTarget>(kWidth, kHeight);
        m_terrain = makeTerrain(findWorld("corrowdale", demoFolder()).take());
        m_setup.stream.distance = 3;
        m_setup.mesh.ambientOcclusion = "corners";
        m_eye = eyeOn(findRoute("beck-to-summit", demoFolder() / "routes").take(), 0.3, *m_terrain);
        Streamer streamer(m_terrain, m_setup);
        streamer.moveTo(chunkOf(m_eye.cell, kEdge));
        while (!streamer.settled())
            for (StreamEvent& event : streamer.take(SIZE_MAX))
                m_meshes.push_back(std::move(event.mesh));
        ASSERT_GT(m_meshes.size(), 20u);
    }

    void TearDown() override
    {
        m_target.reset();
        m_renderer.reset();
        m_context.reset();
    }

    /// The picture with everything moved by `chunks`, the eye turned and stepped along by `step`.
    std::vector<std::uint8_t> picture(ChunkPos chunks, double step)
    {
        m_renderer->begin(m_setup, *m_terrain);
        for (MeshedChunk mesh : m_meshes) {
            mesh.chunk = mesh.chunk + chunks;
            m_renderer->upload(mesh);
        }
        Eye eye = moved(m_eye, {step, step / 3, -step / 2});
        eye.cell = eye.cell + VoxelPos{chunks.x * kEdge, chunks.y * kEdge, chunks.z * kEdge};
        eye.yaw += 11 * step;
        m_target->bind();
        m_renderer->draw(eye, kWidth, kHeight);
        return m_target->read();
    }

    std::unique_ptr<HeadlessContext> m_context;
    std::unique_ptr<Renderer> m_renderer;
    std::unique_ptr<RenderTarget> m_target;
    std::shared_ptr<const Terrain> m_terrain;
    fell::Setup m_setup = test::unlitSetup();
    Eye m_eye;
    std::vector<MeshedChunk> m_meshes;
};

TEST_F(FarAway, ThePictureIsThatOfTheOriginToThePixel)
{
    for (const double step : {0.0, 0.013, 0.7}) { // far below a voxel: jitter would show
        const auto here = picture({0, 0, 0}, step), there = picture({kFar / kEdge, 0, -kFar / kEdge}, step);
        ASSERT_EQ(here.size(), there.size());
        EXPECT_EQ(std::memcmp(here.data(), there.data(), here.size()), 0) << step;
        std::set<std::uint32_t> colours;
        for (std::size_t i = 0; i < here.size(); i += 4)
            colours.insert(
                static_cast<std::uint32_t>(here[i]) << 16 | static_cast<std::uint32_t>(here[i + 1]) << 8 | here[i + 2]);
        EXPECT_GT(colours.size(), 300u) << "there is something to be seen";
    }
}

TEST_F(FarAway, AStepOfTheEyeIsAsLargeThereAsHere)
{
    const auto here = picture({kFar / kEdge, 0, 0}, 0), there = picture({kFar / kEdge, 0, 0}, 0.02);
    EXPECT_NE(std::memcmp(here.data(), there.data(), here.size()), 0) << "it is not rounded away";
}

TEST_F(FarAway, FlyingThereAndBackLeavesTheArenaAsItWas)
{
    m_renderer->begin(m_setup, *m_terrain);
    Streamer streamer(m_terrain, m_setup);
    const auto settle = [&](ChunkPos viewer) {
        streamer.moveTo(viewer);
        while (!streamer.settled())
            streamer.deliver({}, [&](const StreamEvent& event) {
                if (event.kind == StreamEvent::Kind::Upload)
                    m_renderer->upload(event.mesh);
                else
                    m_renderer->release(event.chunk);
            });
        return m_renderer->arena();
    };
    const ChunkPos home = chunkOf(m_eye.cell, kEdge);
    const ArenaFigures before = settle(home);
    EXPECT_GT(before.usedBytes, 100'000u);
    // Counted by hand: each piece's pages, and that no two share one.
    const auto check = [](const ArenaFigures& arena) {
        std::set<std::pair<std::uint32_t, std::uint32_t>> pages;
        for (const ArenaFigures::Piece& piece : arena.pieces)
            for (std::uint32_t i = 0; i < piece.pages; ++i) {
                EXPECT_TRUE(pages.insert({piece.slab, piece.firstPage + i}).second);
                EXPECT_LT(piece.firstPage + i, arena.slabPages[piece.slab]);
            }
        EXPECT_LE(pages.size(), arena.usedPages);
        EXPECT_GE(arena.usedBytes, arena.meshBytes);
    };
    check(before);
    for (const ChunkPos away : {ChunkPos{40, 0, 0}, ChunkPos{0, 2, -33}, ChunkPos{kFar / kEdge, 0, 0}}) {
        const ArenaFigures there = settle(home + away);
        check(there);
        const ArenaFigures back = settle(home);
        check(back);
        EXPECT_EQ(back.usedPages, before.usedPages);
        EXPECT_EQ(back.meshBytes, before.meshBytes);
        EXPECT_EQ(back.pieces.size(), before.pieces.size());
    }
}

TEST(FarGround, IsTheSameByBothGeneratorsAndHasAnEdgelessWorld)
{
    const auto terrain = makeTerrain(findWorld("corrowdale", demoFolder()).take());
    const ChunkPos far{kFar / kEdge, 0, kFar / kEdge};
    int grounds = 0;
    for (const ChunkPos offset : {ChunkPos{0, 0, 0}, ChunkPos{1, 0, 0}, ChunkPos{0, 1, 0}, ChunkPos{0, -1, 1}}) {
        const VoxelChunk plain = generateChunk(*findGenerator("samples"), *terrain, far + offset, kEdge),
                         blocks = generateChunk(*findGenerator("blocks"), *terrain, far + offset, kEdge);
        EXPECT_EQ(digestOf(plain), digestOf(blocks));
        grounds += !plain.isUniform();
    }
    EXPECT_GT(grounds, 0) << "there is ground";
}

} // namespace
} // namespace fell::far_away_test
