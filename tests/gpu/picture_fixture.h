// SPDX-License-Identifier: Apache-2.0
// A renderer without a window and a small picture to look at, for tests.
#pragma once

#include "support/all_names.h"
#include "support/sample_setups.h"
#include "support/sample_worlds.h"
#include <fell/gpu/headless.h>
#include <fell/gpu/render_target.h>
#include <fell/gpu/renderer.h>
#include <fell/mesh/chunk_mesh.h>

#include <epoxy/gl.h>
#include <gtest/gtest.h>

#include <array>

namespace fell::test {

using Pixel = std::array<int, 3>;

class PictureTest : public ::testing::Test {
protected:
    static constexpr int kWidth = 160, kHeight = 100, kEdge = 16;

    void SetUp() override
    {
        auto context = HeadlessContext::create(-1, true);
        ASSERT_TRUE(context) << sentence(context.problem());
        m_context = context.take();
        glEnable(GL_DEBUG_OUTPUT);
        glEnable(GL_DEBUG_OUTPUT_SYNCHRONOUS);
        glDebugMessageCallback(
            [](GLenum, GLenum type, GLuint, GLenum, GLsizei, const GLchar* text, const void*) {
                if (type == GL_DEBUG_TYPE_ERROR || type == GL_DEBUG_TYPE_UNDEFINED_BEHAVIOR)
                    ADD_FAILURE() << "OpenGL: " << text;
            },
            nullptr);
        auto renderer = Renderer::create(m_limits);
        ASSERT_TRUE(renderer) << sentence(renderer.problem());
        m_renderer = renderer.take();
        m_target = std::make_unique<RenderTarget>(kWidth, kHeight);
        m_terrain = makeTerrain(parseTestRecipe(fullRecipe()).take());
        m_setup.chunk.edge = kEdge;
        m_setup.stream.distance = 4;
    }

    void TearDown() override
    {
        if (m_context) {
            EXPECT_EQ(glGetError(), static_cast<GLenum>(GL_NO_ERROR));
        }
        m_target.reset();
        m_renderer.reset();
        m_context.reset();
    }

    /// A chunk with neighbours of open air.
    static PaddedVoxels amongOpen(const VoxelChunk& voxels)
    {
        const VoxelChunk open(kEdge);
        Neighbourhood around;
        around.chunks.fill(&open);
        around.chunks[13] = &voxels;
        PaddedVoxels padded;
        gather(around, padded);
        return padded;
    }
    /// The same, meshed as the setup says but with a quad a side.
    MeshedChunk meshed(ChunkPos chunk, const VoxelChunk& voxels) const
    {
        const PaddedVoxels padded = amongOpen(voxels);
        const SideRules rules = sideRulesOf(m_terrain->recipe.blocks);
        ChunkMeshOptions options = resolve(m_setup).meshOptions(rules);
        options.mesher = findMesher("exposed");
        options.format.wantsCells = false; // not lit
        return {chunk, 0, buildChunkMesh(padded, options)};
    }
    MeshedChunk cube(ChunkPos chunk, Material material) const { return meshed(chunk, VoxelChunk(kEdge, material)); }

    FrameReport draw(const Eye& eye, const DrawOptions& options = {})
    {
        m_target->bind();
        const FrameReport report = m_renderer->draw(eye, kWidth, kHeight, options);
        m_pixels = m_target->read();
        return report;
    }
    Pixel at(int x, int y) const
    {
        const std::size_t i = (static_cast<std::size_t>(y) * kWidth + static_cast<std::size_t>(x)) * 4;
        return {m_pixels[i], m_pixels[i + 1], m_pixels[i + 2]};
    }

    GpuLimits m_limits; // a test may ask for less before SetUp
    std::unique_ptr<HeadlessContext> m_context;
    std::unique_ptr<Renderer> m_renderer;
    std::unique_ptr<RenderTarget> m_target;
    std::shared_ptr<const Terrain> m_terrain;
    fell::Setup m_setup = test::unlitSetup();
    std::vector<std::uint8_t> m_pixels;
};

} // namespace fell::test
