// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/frame_graph.h>
#include <fell/gpu/programs.h>

#include <memory>

namespace fell::gpu {
namespace {

struct Sky {
    std::shared_ptr<const Program> program;
    VertexArray array; // one triangle, from its numbers
};

} // namespace

Pass skyPass(ResourceTable& table, Programs& programs)
{
    auto program
        = programs.add({"sky", {{ShaderStage::Vertex, "sky.vert.glsl"}, {ShaderStage::Fragment, "sky.frag.glsl"}}, {}});
    const auto sky = std::make_shared<Sky>(Sky{std::move(program), VertexArray(table, "sky")});
    return {"sky", "sky", {}, {TargetId::SceneColour}, {}, [](const FrameContext&) { return true; },
        [sky](FrameContext& context) {
            context.block.use(context.data);
            glUseProgram(sky->program->id());
            glBindVertexArray(sky->array.id());
            glDrawArrays(GL_TRIANGLES, 0, 3);
        }};
}

} // namespace fell::gpu
