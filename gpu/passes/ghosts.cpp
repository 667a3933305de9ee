// SPDX-License-Identifier: Apache-2.0
// What each cull step rejected, in its colour and stripes.
#include <fell/gpu/quad_drawer.h>

#include <memory>

namespace fell::gpu {

Pass ghostsPass(ResourceTable& table)
{
    const auto list = std::make_shared<DrawList>(table, "places of ghosts");
    return {"ghosts", nullptr, {TargetId::SceneDepth}, {TargetId::SceneColour, TargetId::SceneDepth},
        {.depth = PipelineState::Depth::Nearer, .writesDepth = true, .cull = PipelineState::Cull::Back},
        [](const FrameContext& context) { return context.options.ghosts; },
        [list](FrameContext& context) {
            const auto steps = context.chunks.scene().steps();
            const FrameReport counted = context.report; // ghosts are no part of the figures
            FrameData data = context.data;
            for (std::size_t s = 0; s < steps.size(); ++s) {
                std::vector<KeptChunk> ghosts;
                for (std::uint32_t i = 0; i < context.culled.rejectedBy.size(); ++i)
                    if (context.culled.rejectedBy[i] == s)
                        ghosts.push_back({i, kAllSides});
                if (ghosts.empty())
                    continue;
                list->show(context.chunks, ghosts, context.view.eye, context.edge);
                const GhostLook look = ghostLook(*steps[s]);
                data.ghost
                    = glm::vec4(linearOf(glm::vec3(look.colour[0], look.colour[1], look.colour[2]) / 255.0F), 0.88F);
                data.switches.y = look.stripes;
                context.block.use(data);
                context.drawer.drawSolid(context, *list);
            }
            context.report = counted;
        }};
}

} // namespace fell::gpu
