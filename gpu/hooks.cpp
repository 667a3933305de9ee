// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/hooks.h>

#include <memory>
#include <unordered_map>

namespace fell::gpu {

DrawHooks hooksFor(Renderer& renderer, const RenderTarget& target)
{
    DrawHooks hooks;
    hooks.begin = [&renderer](const Setup& setup, const Terrain& terrain) { renderer.begin(setup, terrain); };
    hooks.apply = [&renderer](const StreamEvent& event) { renderer.apply(event); };
    hooks.choose = [&renderer](const CullChoices& choices) { renderer.setCulling(choices); };
    const auto leftOut = std::make_shared<unsigned>(0);
    hooks.leaveOut = [leftOut](unsigned passes) { *leftOut = passes; };
    hooks.draw = [&renderer, &target, leftOut](const Eye& eye, bool nearPlaneIsClear) {
        target.bind();
        DrawOptions options;
        options.leftOut = *leftOut;
        options.nearPlaneIsClear = nearPlaneIsClear;
        const FrameReport report = renderer.draw(eye, target.width(), target.height(), options);
        return FrameCost{report.totalMs, report.chunks, report.triangles, report.drawCalls, report.loadedTriangles,
            report.gpuBytes, report.culled, report.cpuMs, report.gpuMs};
    };
    hooks.driver = renderer.driver();
    hooks.passes = renderer.passes();
    hooks.width = target.width();
    hooks.height = target.height();
    return hooks;
}

CullAuditHooks cullAuditHooksFor(Renderer& renderer, const RenderTarget& target)
{
    CullAuditHooks hooks;
    hooks.begin = [&renderer](const Setup& setup, const Terrain& terrain) { renderer.begin(setup, terrain); };
    hooks.apply = [&renderer](const StreamEvent& event) { renderer.apply(event); };
    hooks.look = [&renderer, &target](const Eye& eye, double fieldOfView) {
        target.bind();
        renderer.drawNumbers(eye, target.width(), target.height(), fieldOfView);
        const auto pixels = target.read();
        const auto& chunks = renderer.scene().chunks();
        std::unordered_map<std::uint32_t, VisibleChunk> seen;
        for (std::size_t i = 0; i < pixels.size(); i += 4) {
            const std::uint32_t number = pixels[i] | pixels[i + 1] << 8U | pixels[i + 2] << 16U;
            if (number == 0 || number > chunks.size())
                continue;
            VisibleChunk& chunk = seen[number];
            chunk.chunk = chunks[number - 1];
            ++chunk.pixels;
            if (pixels[i + 3] < kSideCount)
                chunk.sides |= static_cast<SideSet>(1U << pixels[i + 3]);
        }
        std::vector<VisibleChunk> out;
        for (const auto& [number, chunk] : seen)
            out.push_back(chunk);
        return out;
    };
    hooks.scene = [&renderer]() -> CullScene& { return renderer.scene(); };
    hooks.aspect = static_cast<double>(target.width()) / std::max(1, target.height());
    return hooks;
}

} // namespace fell::gpu
