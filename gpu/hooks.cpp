// SPDX-License-Identifier: Apache-2.0
#include "gpu/hooks.h"

namespace fell {

DrawHooks hooksFor(Renderer& renderer, const OffscreenTarget& target)
{
    DrawHooks hooks;
    hooks.begin = [&renderer](const Setup& setup, const Terrain& terrain) { renderer.begin(setup, terrain); };
    hooks.upload = [&renderer](const MeshedChunk& mesh) { renderer.upload(mesh); };
    hooks.release = [&renderer](ChunkPos chunk) { renderer.release(chunk); };
    hooks.draw = [&renderer, &target](const Eye& eye) {
        target.bind();
        const FrameReport report = renderer.draw(eye, target.width(), target.height());
        FrameCost cost{report.totalMs, report.chunks, report.triangles, report.drawCalls, report.gpuBytes, {}};
        for (const CullCount& step : report.culled)
            cost.rejected.push_back(step.rejected);
        return cost;
    };
    hooks.driver = renderer.driver();
    hooks.width = target.width();
    hooks.height = target.height();
    return hooks;
}

} // namespace fell
