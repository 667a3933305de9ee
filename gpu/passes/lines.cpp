// SPDX-License-Identifier: Apache-2.0
// Lines in the world: among what is drawn, and over everything.
#include <fell/gpu/frame_graph.h>
#include <fell/gpu/programs.h>

#include <memory>

namespace fell::gpu {
namespace {

struct Lines {
    std::shared_ptr<const Program> program;
    VertexArray array;
    Buffer points;
    std::shared_ptr<const LineBatch> shown;
};

} // namespace

Pass linesPass(ResourceTable& table, Programs& programs)
{
    auto program = programs.add(
        {"line", {{ShaderStage::Vertex, "line.vert.glsl"}, {ShaderStage::Fragment, "line.frag.glsl"}}, {}});
    const auto lines = std::make_shared<Lines>(
        Lines{std::move(program), VertexArray(table, "lines"), Buffer(table, "lines"), nullptr});
    const GLuint array = lines->array.id();
    glEnableVertexArrayAttrib(array, 0);
    glVertexArrayAttribFormat(array, 0, 3, GL_FLOAT, GL_FALSE, 0);
    glVertexArrayAttribBinding(array, 0, 0);
    glEnableVertexArrayAttrib(array, 1);
    glVertexArrayAttribFormat(array, 1, 4, GL_UNSIGNED_BYTE, GL_TRUE, 12);
    glVertexArrayAttribBinding(array, 1, 0);
    return {"lines", nullptr, {TargetId::SceneColour, TargetId::SceneDepth},
        {TargetId::SceneColour, TargetId::SceneDepth},
        {.depth = PipelineState::Depth::Nearer, .writesDepth = true, .blend = PipelineState::Blend::Over},
        [](const FrameContext& context) { return context.options.lines && !context.options.lines->vertices.empty(); },
        [lines](FrameContext& context) {
            const auto& batch = context.options.lines;
            if (batch != lines->shown) {
                lines->shown = batch;
                lines->points.setList(batch->vertices, GL_STATIC_DRAW);
            }
            context.block.use(context.data);
            const VoxelPos from = batch->from - context.view.eye.cell;
            glUseProgram(lines->program->id());
            glUniform3f(0, static_cast<float>(from.x), static_cast<float>(from.y), static_cast<float>(from.z));
            glBindVertexArray(lines->array.id());
            glVertexArrayVertexBuffer(lines->array.id(), 0, lines->points.id(), 0, sizeof(LineBatch::Vertex));
            const auto over = static_cast<GLsizei>(batch->over),
                       among = static_cast<GLsizei>(batch->vertices.size()) - over;
            glDrawArrays(GL_LINES, 0, among);
            apply({.blend = PipelineState::Blend::Over});
            glDrawArrays(GL_LINES, among, over);
        }};
}

} // namespace fell::gpu
