// SPDX-License-Identifier: Apache-2.0
// How chunks' quads and triangles are bound and drawn; the ways of submitting them go through it. Private to gpu/.
//
// Where a chunk lies reaches the vertex shader as an attribute that advances once a draw (its base instance), which
// costs no uniform between draws. Meshes lie in pages of a store; a buffer for each chunk is the plain way.
#pragma once

#include <fell/gpu/frame_graph.h>
#include <fell/gpu/programs.h>

#include <array>
#include <cstdint>
#include <vector>

namespace fell::gpu {

/// Which of the solid quads: those that are lit evenly need no light interpolated. Seams are.
enum class Part { Whole, Even, Graded };

class QuadDrawer;

/// A way of handing the solid quads to the driver; each is a file of gpu/submit/.
struct Submitter {
    const char* id; // as setup/stages.h names it
    bool isInstanced = false; // a quad an instance
    bool isWhole = false; // quads are not told apart by their light
    void (*submit)(QuadDrawer& drawer, FrameContext& context, const DrawList& list, Part part);
};
const Submitter& submitterOf(Submission submission);

// As OpenGL lays them out (glMultiDrawElementsIndirect, glMultiDrawArraysIndirect).
struct ElementsCommand {
    GLuint count, instances, firstIndex;
    GLint baseVertex;
    GLuint baseInstance;
};
struct ArraysCommand {
    GLuint count, instances, first, baseInstance;
};

/// A class because what is bound must be known.
class QuadDrawer {
public:
    QuadDrawer(ResourceTable& table, Programs& programs, const ChunkStore& chunks);

    /// The solid quads of a list in the setup's way of submitting.
    void drawSolid(FrameContext& context, const DrawList& list);
    /// Makes the program and vertex array of quads current. `blends`: they are written as linear light.
    void useQuads(const FrameContext& context, const DrawList& list, bool instanced, Part part, bool blends = false);
    /// The same for triangles, with separate places.
    void useShapes(const FrameContext& context, GLuint places, ProgramKey::Triangles triangles);
    void bindShapes(GLuint buffer) const; // every three vertices are a triangle
    void bindIndexedShapes(GLuint buffer) const; // vertices and indices, for either way to read them
    void bindSlab(std::uint32_t slab);
    void useIndices(GLuint buffer) const;
    /// Draws quads of the bound slab as the `index`-th of the list.
    void drawQuads(std::uint32_t first, std::uint32_t count, GLuint index) const;
    void setPlace(const DrawPlace& place) const; // where quads are instances
    [[nodiscard]] bool isOfFloats() const { return m_vertices == ProgramKey::Vertices::Floats; }
    [[nodiscard]] const ChunkStore& chunks() const { return m_chunks; }
    [[nodiscard]] bool isOverlay(const FrameContext& context) const;

    /// The runs of a part's solid quads that look the shown ways; all of it where none is told apart.
    template <typename Draw> static void forEachRun(const ShownHere& shown, Part part, const Draw& draw);
    /// One multi-draw for each slab that holds anything shown.
    template <typename Command, typename Make, typename Draw>
    void multiDraw(
        const DrawList& list, std::size_t slabs, const Make& make, const Draw& draw, FrameReport& report) const;

private:
    [[nodiscard]] const MeshFormat& format() const { return m_chunks.format(); }
    [[nodiscard]] std::size_t arrayIndex(bool instanced) const;

    Programs& m_programs;
    const ChunkStore& m_chunks;
    std::array<VertexArray, 8> m_arrays;
    Texture m_rims, m_records, m_shapeWords; // of buffers
    Buffer m_commands;
    ProgramKey::Vertices m_vertices = ProgramKey::Vertices::Corners;
    GLuint m_array = 0;
    std::uint32_t m_boundSlab = UINT32_MAX;
    bool m_isInstanced = false;
};

template <typename Draw> void QuadDrawer::forEachRun(const ShownHere& shown, Part part, const Draw& draw)
{
    // Quads that look away between two runs are drawn with them where a separate draw would cost more.
    constexpr std::uint32_t kNotWorthIt = 16;
    const HeldChunk& chunk = *shown.chunk;
    std::uint32_t first = 0, count = 0, at = 0;
    const auto add = [&](bool isShown, std::uint32_t quads, std::uint32_t notWorthIt) {
        if (isShown && quads > 0) {
            if (count > 0 && at - (first + count) <= notWorthIt) {
                count = at - first;
            } else if (count > 0) {
                draw(first, count);
                count = 0;
            }
            first = count == 0 ? at : first;
            count += quads;
        }
        at += quads;
    };
    for (std::size_t side = 0; side < kSideCount; ++side)
        add(part != Part::Graded && (shown.sides >> side & 1), chunk.sides[side], kNotWorthIt);
    for (std::size_t side = 0; side < kSideCount; ++side)
        add(part != Part::Even && (shown.sides >> side & 1), chunk.varyingLight[side], kNotWorthIt);
    if (at == 0) // not told apart
        add(part != Part::Even, chunk.solid(), 0);
    for (std::size_t side = 0; side < kSideCount && chunk.openSeams != 0 && part != Part::Graded; ++side)
        add(chunk.openSeams >> side & 1, chunk.seams[side], 0); // what is not to be seen here would stand out
    if (count > 0)
        draw(first, count);
}

template <typename Command, typename Make, typename Draw>
void QuadDrawer::multiDraw(
    const DrawList& list, std::size_t slabs, const Make& make, const Draw& draw, FrameReport& report) const
{
    std::vector<std::vector<Command>> commands(slabs);
    for (GLuint i = 0; i < list.shown().size(); ++i)
        make(list.shown()[i], i, commands);
    glBindBuffer(GL_DRAW_INDIRECT_BUFFER, m_commands.id());
    for (std::uint32_t slab = 0; slab < slabs; ++slab)
        if (!commands[slab].empty()) {
            glNamedBufferData(m_commands.id(), static_cast<GLsizeiptr>(commands[slab].size() * sizeof(Command)),
                commands[slab].data(), GL_STREAM_DRAW);
            draw(slab, static_cast<GLsizei>(commands[slab].size()));
            ++report.drawCalls;
        }
}

} // namespace fell::gpu
