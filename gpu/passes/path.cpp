// SPDX-License-Identifier: Apache-2.0
// A line through the middles of voxels, with a dot in each, over everything.
#include <fell/gpu/frame_graph.h>
#include <fell/gpu/programs.h>

#include <memory>

namespace fell::gpu {
namespace {

struct PathLine {
    std::shared_ptr<const Program> program;
    VertexArray array;
    Buffer points;
};

} // namespace

Pass pathPass(ResourceTable& table, Programs& programs)
{
    auto program = programs.add(
        {"path", {{ShaderStage::Vertex, "path.vert.glsl"}, {ShaderStage::Fragment, "path.frag.glsl"}}, {}});
    const auto path
        = std::make_shared<PathLine>(PathLine{std::move(program), VertexArray(table, "path"), Buffer(table, "path")});
    glEnableVertexArrayAttrib(path->array.id(), 0);
    glVertexArrayAttribFormat(path->array.id(), 0, 3, GL_FLOAT, GL_FALSE, 0);
    glVertexArrayAttribBinding(path->array.id(), 0, 0);
    return {"path", nullptr, {TargetId::SceneColour}, {TargetId::SceneColour}, {.sizesPoints = true},
        [](const FrameContext& context) { return !context.options.path.empty(); },
        [path](FrameContext& context) {
            std::vector<glm::vec3> points;
            for (const VoxelPos at : context.options.path) {
                const VoxelPos from = at - context.view.eye.cell;
                points.push_back(glm::vec3(from.x, from.y, from.z) + 0.5f);
            }
            path->points.setList(points);
            context.block.use(context.data);
            glUseProgram(path->program->id());
            glBindVertexArray(path->array.id());
            glVertexArrayVertexBuffer(path->array.id(), 0, path->points.id(), 0, sizeof(glm::vec3));
            glDrawArrays(GL_LINE_STRIP, 0, static_cast<GLsizei>(points.size()));
            glDrawArrays(GL_POINTS, 0, static_cast<GLsizei>(points.size()));
        }};
}

} // namespace fell::gpu
