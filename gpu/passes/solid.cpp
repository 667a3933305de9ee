// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/quad_drawer.h>

namespace fell::gpu {

/// Solid sides of cubes.
Pass solidPass()
{
    return {"solid", "solid", {TargetId::SceneDepth}, {TargetId::SceneColour, TargetId::SceneDepth},
        {.depth = PipelineState::Depth::Nearer, .writesDepth = true, .cull = PipelineState::Cull::Back},
        [](const FrameContext& context) { return !context.view.list->isEmpty(); },
        [](FrameContext& context) {
            if (!context.isNumbered && paintMode(context.options.paint).isTwoSided)
                glDisable(GL_CULL_FACE);
            context.block.use(context.data);
            context.drawer.drawSolid(context, *context.view.list);
        }};
}

} // namespace fell::gpu
