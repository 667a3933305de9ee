// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/quad_drawer.h>

namespace fell::gpu {
namespace {

void submitPerBlock(QuadDrawer& drawer, FrameContext& context, const DrawList& list, Part)
{
    FrameReport& report = context.report;
    for (GLuint i = 0; i < list.shown().size(); ++i) {
        const HeldChunk& chunk = *list.shown()[i].chunk;
        if (chunk.counts[0] == 0)
            continue;
        drawer.bindSlab(chunk.quads.slab);
        report.triangles += std::uint64_t{chunk.solid()} * 2;
        for (const BlockRange& block : chunk.blocks) {
            if (report.drawCalls >= kMaxBlockDraws) {
                ++report.notDrawn;
                report.triangles -= block.count * 2;
                continue;
            }
            drawer.drawQuads(chunk.quads.first + block.first, block.count, i);
            ++report.drawCalls;
        }
    }
}

} // namespace

extern const Submitter kPerBlock;
const Submitter kPerBlock{"per-block", false, true, submitPerBlock};

} // namespace fell::gpu
