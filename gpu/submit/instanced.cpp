// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/quad_drawer.h>

namespace fell::gpu {
namespace {

void submitInstanced(QuadDrawer& drawer, FrameContext& context, const DrawList& list, Part part)
{
    for (std::size_t i = 0; i < list.shown().size(); ++i) {
        const HeldChunk& chunk = *list.shown()[i].chunk;
        if (chunk.counts[0] == 0)
            continue;
        drawer.bindSlab(chunk.quads.slab);
        drawer.setPlace(list.places()[i]);
        QuadDrawer::forEachRun(list.shown()[i], part, [&](std::uint32_t first, std::uint32_t count) {
            glDrawElementsInstancedBaseInstance(
                GL_TRIANGLES, 6, GL_UNSIGNED_INT, nullptr, static_cast<GLsizei>(count), chunk.quads.first + first);
            context.report.triangles += std::uint64_t{count} * 2;
            ++context.report.drawCalls;
        });
    }
}

} // namespace

extern const Submitter kInstanced;
const Submitter kInstanced{"instanced", true, false, submitInstanced};

} // namespace fell::gpu
