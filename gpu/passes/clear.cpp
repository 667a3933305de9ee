// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/frame_graph.h>

namespace fell::gpu {

/// Depth always; colour where no sky fills it.
Pass clearPass()
{
    return {"clear", nullptr, {}, {TargetId::SceneColour, TargetId::SceneDepth}, {.writesDepth = true},
        [](const FrameContext&) { return true; },
        [](FrameContext& context) {
            glClearDepth(0.0); // far: depth is reversed
            glClearColor(0, 0, 0, 0);
            glClear(GL_DEPTH_BUFFER_BIT | (context.isSkyDrawn ? 0u : GL_COLOR_BUFFER_BIT));
        }};
}

} // namespace fell::gpu
