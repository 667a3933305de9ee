// SPDX-License-Identifier: Apache-2.0
// One buffer a chunk and one draw a chunk. Where a chunk lies reaches the vertex shader as an attribute that advances
// once a draw (its base instance), which costs no uniform between draws.
#include "gpu/renderer.h"

#include "gpu/program.h"
#include "gpu/shader_texts.h"
#include "mesh/layouts.h"
#include "terrain/terrain.h"

#include <epoxy/gl.h>
#include <glm/geometric.hpp>
#include <glm/gtc/matrix_transform.hpp>
#include <glm/gtc/type_ptr.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <unordered_map>

namespace fell {
namespace {

using Clock = std::chrono::steady_clock;

// Colours of the air, sRGB: a bright day with haze.
constexpr glm::vec3 kHorizon{0.80f, 0.84f, 0.85f};
constexpr glm::vec3 kZenith{0.42f, 0.56f, 0.70f};
const glm::vec3 kSun = glm::normalize(glm::vec3{0.55f, 0.72f, 0.42f}); // late morning, from the south-east
constexpr float kFogFrom = 0.4f; // of the distance at which everything is fog

double msSince(Clock::time_point start)
{
    return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

/// sRGB to nearly linear light; the shaders take the root again.
float linear(std::uint8_t byte)
{
    return static_cast<float>(byte) / 255.0f * static_cast<float>(byte) / 255.0f;
}

struct ChunkBuffer {
    GLuint buffer = 0;
    std::uint32_t quads = 0;
    std::size_t bytes = 0;
    std::size_t place = 0; // in m_order
};

class GlRenderer final : public Renderer {
public:
    ~GlRenderer() override
    {
        releaseAll();
        for (const GLuint program : {m_sky, m_packed, m_floats})
            glDeleteProgram(program);
        for (const GLuint buffer : {m_sides, m_offsets, m_indices})
            glDeleteBuffers(1, &buffer);
        for (const GLuint array : {m_skyArray, m_packedArray, m_floatsArray})
            glDeleteVertexArrays(1, &array);
    }

    std::optional<Problem> prepare()
    {
        const auto link
            = [](GLuint& to, const char* label, const char* vertex, const char* fragment) -> std::optional<Problem> {
            const auto program = linkProgram(label, vertex, fragment);
            if (!program)
                return program.problem();
            to = program.value();
            return std::nullopt;
        };
        if (auto problem = link(m_sky, "sky", shaders::sky_vert, shaders::sky_frag))
            return problem;
        if (auto problem = link(m_packed, "terrain packed", shaders::terrain_packed_vert, shaders::terrain_frag))
            return problem;
        if (auto problem = link(m_floats, "terrain floats", shaders::terrain_floats_vert, shaders::terrain_frag))
            return problem;
        glCreateBuffers(1, &m_sides);
        glCreateBuffers(1, &m_offsets);
        glCreateBuffers(1, &m_indices);
        glCreateVertexArrays(1, &m_skyArray);
        preparePackedArray();
        prepareFloatsArray();
        m_driver = reinterpret_cast<const char*>(glGetString(GL_RENDERER));
        if (m_driver.find("llvmpipe") != std::string::npos || m_driver.find("softpipe") != std::string::npos)
            m_driver = "software rasteriser " + m_driver;
        return std::nullopt;
    }

    void begin(const Setup& setup, const Terrain& terrain) override
    {
        releaseAll();
        m_setup = setup;
        m_layout = findLayout(setup.mesh.layout);
        m_steps.clear();
        for (const auto& id : setup.cull.steps)
            m_steps.push_back(findCullStep(id));
        std::vector<glm::vec4> sides;
        for (const BlockKind& kind : terrain.recipe.blocks.kinds)
            for (const Rgb colour : {kind.top, kind.side, kind.bottom})
                sides.emplace_back(linear(colour.r), linear(colour.g), linear(colour.b), kind.grain);
        glNamedBufferData(
            m_sides, static_cast<GLsizeiptr>(sides.size() * sizeof sides[0]), sides.data(), GL_STATIC_DRAW);
    }

    void setDistance(int chunks) override { m_setup.stream.distance = chunks; }

    void upload(const MeshedChunk& mesh) override
    {
        release(mesh.chunk);
        if (mesh.quads == 0)
            return;
        ChunkBuffer chunk;
        chunk.quads = mesh.quads;
        chunk.bytes = mesh.vertices.size();
        chunk.place = m_order.size();
        glCreateBuffers(1, &chunk.buffer);
        glNamedBufferStorage(chunk.buffer, static_cast<GLsizeiptr>(chunk.bytes), mesh.vertices.data(), 0);
        growIndices(mesh.quads);
        m_bytes += chunk.bytes;
        m_order.push_back(mesh.chunk);
        m_chunks.emplace(mesh.chunk, chunk);
    }

    void release(ChunkPos chunk) override
    {
        const auto found = m_chunks.find(chunk);
        if (found == m_chunks.end())
            return;
        glDeleteBuffers(1, &found->second.buffer);
        m_bytes -= found->second.bytes;
        const std::size_t hole = found->second.place;
        m_chunks.erase(found);
        if (hole + 1 < m_order.size()) { // the last one fills the hole
            m_order[hole] = m_order.back();
            m_chunks.at(m_order[hole]).place = hole;
        }
        m_order.pop_back();
    }

    FrameReport draw(const Eye& eye, int width, int height, bool tellPasses) override
    {
        FrameReport report;
        const auto start = Clock::now();
        const float distance = static_cast<float>(m_setup.stream.distance * m_setup.chunk.edge);
        Lens lens;
        lens.fieldOfView = static_cast<float>(m_setup.draw.fieldOfView);
        lens.aspect = static_cast<float>(width) / static_cast<float>(std::max(1, height));
        lens.farthest = distance + 4.0f * static_cast<float>(m_setup.chunk.edge);
        const glm::mat4 toClip = viewProjection(eye, lens);
        cull(eye, toClip, distance, report);
        report.cullMs = msSince(start);

        glViewport(0, 0, width, height);
        glDisable(GL_SCISSOR_TEST);
        glDisable(GL_BLEND);
        const auto skyStart = Clock::now();
        drawSky(toClip, eye);
        if (tellPasses) {
            glFinish();
            report.skyMs = msSince(skyStart);
        }
        const auto terrainStart = Clock::now();
        drawTerrain(toClip, eye, distance, report);
        // Whoever draws over the picture finds the state that a new context has.
        glBindVertexArray(0);
        glUseProgram(0);
        glDisable(GL_CULL_FACE);
        glDisable(GL_DEPTH_TEST);
        glProvokingVertex(GL_LAST_VERTEX_CONVENTION);
        glFinish();
        if (tellPasses)
            report.terrainMs = msSince(terrainStart);
        report.totalMs = msSince(start);
        report.residentChunks = m_order.size();
        report.gpuBytes = m_bytes + m_indexedQuads * 24;
        return report;
    }

    [[nodiscard]] std::string driver() const override { return m_driver; }

private:
    void preparePackedArray()
    {
        glCreateVertexArrays(1, &m_packedArray);
        glEnableVertexArrayAttrib(m_packedArray, 0);
        glVertexArrayAttribIFormat(m_packedArray, 0, 2, GL_UNSIGNED_INT, 0);
        glVertexArrayAttribBinding(m_packedArray, 0, 0);
        addOffsets(m_packedArray);
    }

    void prepareFloatsArray()
    {
        glCreateVertexArrays(1, &m_floatsArray);
        constexpr int kSizes[3]{3, 3, 2};
        unsigned from = 0;
        for (unsigned i = 0; i < 3; ++i) {
            glEnableVertexArrayAttrib(m_floatsArray, i);
            glVertexArrayAttribFormat(m_floatsArray, i, kSizes[i], GL_FLOAT, GL_FALSE, from);
            glVertexArrayAttribBinding(m_floatsArray, i, 0);
            from += static_cast<unsigned>(kSizes[i]) * 4;
        }
        addOffsets(m_floatsArray);
    }

    static void addOffsets(GLuint array)
    {
        constexpr GLuint kOffset = 4; // its location in light.glsl
        glEnableVertexArrayAttrib(array, kOffset);
        glVertexArrayAttribFormat(array, kOffset, 3, GL_FLOAT, GL_FALSE, 0);
        glVertexArrayAttribBinding(array, kOffset, 1);
        glVertexArrayBindingDivisor(array, 1, 1);
    }

    /// The index buffer that all packed chunks share grows to the largest of them.
    void growIndices(std::uint32_t quads)
    {
        if (!m_layout->indexed() || quads <= m_indexedQuads)
            return;
        m_indexedQuads = std::max<std::uint64_t>(quads, m_indexedQuads * 2);
        std::vector<std::uint32_t> indices;
        indices.reserve(m_indexedQuads * 6);
        for (std::uint32_t quad = 0; quad < m_indexedQuads; ++quad)
            for (const unsigned corner : kQuadIndices)
                indices.push_back(quad * 4 + corner);
        glNamedBufferData(m_indices, static_cast<GLsizeiptr>(indices.size() * 4), indices.data(), GL_STATIC_DRAW);
        glVertexArrayElementBuffer(m_packedArray, m_indices);
    }

    void releaseAll()
    {
        for (const auto& [chunk, held] : m_chunks)
            glDeleteBuffers(1, &held.buffer);
        m_chunks.clear();
        m_order.clear();
        m_bytes = 0;
    }

    void cull(const Eye& eye, const glm::mat4& toClip, float distance, FrameReport& report)
    {
        const CullView view{eye, m_setup.chunk.edge, distance, planesOf(toClip)};
        report.culled.resize(m_steps.size());
        cullChunks(view, m_steps, m_order, m_kept, report.culled);
        const ChunkPos here = chunkOf(eye.cell, m_setup.chunk.edge);
        m_sorted.clear();
        for (const std::uint32_t i : m_kept)
            m_sorted.emplace_back(squaredLength(m_order[i] - here), i);
        std::sort(m_sorted.begin(), m_sorted.end()); // nearest first: what is hidden fails the depth test early
    }

    void drawSky(const glm::mat4& toClip, const Eye& eye) const
    {
        glDisable(GL_DEPTH_TEST);
        glDisable(GL_CULL_FACE);
        glDepthMask(GL_TRUE);
        glClearDepth(1.0);
        glClear(GL_DEPTH_BUFFER_BIT);
        glUseProgram(m_sky);
        glBindVertexArray(m_skyArray);
        const glm::mat4 toDirection = glm::inverse(toClip * glm::translate(glm::mat4(1), glm::vec3(eye.within)));
        glUniformMatrix4fv(glGetUniformLocation(m_sky, "toDirection"), 1, GL_FALSE, glm::value_ptr(toDirection));
        setAir(m_sky);
        glDrawArrays(GL_TRIANGLES, 0, 3);
    }

    static void setAir(GLuint program)
    {
        glUniform3fv(glGetUniformLocation(program, "horizon"), 1, glm::value_ptr(kHorizon));
        glUniform3fv(glGetUniformLocation(program, "zenith"), 1, glm::value_ptr(kZenith));
        glUniform3fv(glGetUniformLocation(program, "sun"), 1, glm::value_ptr(kSun));
    }

    void drawTerrain(const glm::mat4& toClip, const Eye& eye, float distance, FrameReport& report)
    {
        if (m_sorted.empty())
            return;
        m_places.clear();
        for (const auto& [unused, i] : m_sorted)
            m_places.push_back(boxOf(m_order[i], m_setup.chunk.edge, eye).low);
        glNamedBufferData(
            m_offsets, static_cast<GLsizeiptr>(m_places.size() * sizeof m_places[0]), m_places.data(), GL_STREAM_DRAW);

        const bool indexed = m_layout->indexed();
        const GLuint program = indexed ? m_packed : m_floats, array = indexed ? m_packedArray : m_floatsArray;
        glEnable(GL_DEPTH_TEST);
        glDepthFunc(GL_LESS);
        glEnable(GL_CULL_FACE);
        glCullFace(GL_BACK);
        glFrontFace(GL_CCW);
        glProvokingVertex(GL_FIRST_VERTEX_CONVENTION); // both triangles of a quad begin with its first corner
        glUseProgram(program);
        glUniformMatrix4fv(glGetUniformLocation(program, "viewProjection"), 1, GL_FALSE, glm::value_ptr(toClip));
        const glm::vec3 within(eye.within);
        glUniform3fv(glGetUniformLocation(program, "eye"), 1, glm::value_ptr(within));
        // Chunks are there when their centre is within the distance, so the nearest gap is one edge short of it.
        const float end = std::max(distance * 0.5f, distance - static_cast<float>(m_setup.chunk.edge));
        glUniform2f(glGetUniformLocation(program, "fog"), end * kFogFrom, end);
        setAir(program);
        glBindBufferBase(GL_SHADER_STORAGE_BUFFER, 0, m_sides);
        glBindVertexArray(array);
        glVertexArrayVertexBuffer(array, 1, m_offsets, 0, sizeof(glm::vec3));
        for (GLuint i = 0; i < m_sorted.size(); ++i) {
            const ChunkBuffer& chunk = m_chunks.at(m_order[m_sorted[i].second]);
            glVertexArrayVertexBuffer(array, 0, chunk.buffer, 0, m_layout->bytesPerVertex);
            const auto count = static_cast<GLsizei>(chunk.quads * 6);
            if (indexed)
                glDrawElementsInstancedBaseInstance(GL_TRIANGLES, count, GL_UNSIGNED_INT, nullptr, 1, i);
            else
                glDrawArraysInstancedBaseInstance(GL_TRIANGLES, 0, count, 1, i);
            report.triangles += chunk.quads * 2;
        }
        report.chunks = report.drawCalls = m_sorted.size();
    }

    Setup m_setup;
    const VertexLayout* m_layout = findLayout("packed");
    std::vector<const CullStep*> m_steps;
    std::string m_driver;
    GLuint m_sky = 0, m_packed = 0, m_floats = 0, m_sides = 0, m_offsets = 0, m_indices = 0;
    GLuint m_skyArray = 0, m_packedArray = 0, m_floatsArray = 0;
    std::uint64_t m_indexedQuads = 0, m_bytes = 0;
    std::unordered_map<ChunkPos, ChunkBuffer, ChunkPosHash> m_chunks;
    std::vector<ChunkPos> m_order; // what cullChunks walks
    std::vector<std::uint32_t> m_kept;
    std::vector<std::pair<std::int64_t, std::uint32_t>> m_sorted; // squared distance, index in m_order
    std::vector<glm::vec3> m_places;
};

} // namespace

Outcome<std::unique_ptr<Renderer>> Renderer::create()
{
    if (epoxy_gl_version() < 45)
        return Problem{"the graphics driver", "",
            "offers OpenGL " + std::to_string(epoxy_gl_version() / 10) + "." + std::to_string(epoxy_gl_version() % 10)
                + ", Fell draws with 4.5 core; on Debian the package libgl1-mesa-dri brings a driver that has it"};
    auto renderer = std::make_unique<GlRenderer>();
    if (auto problem = renderer->prepare())
        return *problem;
    return std::unique_ptr<Renderer>(std::move(renderer));
}

} // namespace fell
