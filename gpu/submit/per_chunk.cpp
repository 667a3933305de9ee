// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/quad_drawer.h>

namespace fell::gpu {
namespace {

void submitPerChunk(QuadDrawer& drawer, FrameContext& context, const DrawList& list, Part part)
{
    for (GLuint i = 0; i < list.shown().size(); ++i) {
        const HeldChunk& chunk = *list.shown()[i].chunk;
        if (chunk.counts[0] == 0)
            continue;
        drawer.bindSlab(chunk.quads.slab);
        QuadDrawer::forEachRun(list.shown()[i], part, [&](std::uint32_t first, std::uint32_t count) {
            drawer.drawQuads(chunk.quads.first + first, count, i);
            context.report.triangles += std::uint64_t{count} * 2;
            ++context.report.drawCalls;
        });
    }
}

} // namespace

extern const Submitter kPerChunk;
const Submitter kPerChunk{"per-chunk", false, false, submitPerChunk};

} // namespace fell::gpu
