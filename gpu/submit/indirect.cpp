// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/quad_drawer.h>

namespace fell::gpu {
namespace {

/// One call for each slab; `make(first, count, i)` gives a command.
template <typename Command, typename Make, typename Draw>
void submitAs(
    QuadDrawer& drawer, FrameContext& context, const DrawList& list, Part part, const Make& make, const Draw& draw)
{
    drawer.multiDraw<Command>(
        list, drawer.chunks().quads().slabs(),
        [&](const ShownHere& shown, GLuint i, auto& commands) {
            const StorePiece& quads = shown.chunk->quads;
            QuadDrawer::forEachRun(shown, part, [&](std::uint32_t first, std::uint32_t count) {
                if (count > 0)
                    commands[quads.slab].push_back(make(quads.first + first, count, i));
                context.report.triangles += std::uint64_t{count} * 2;
            });
        },
        [&](std::uint32_t slab, GLsizei count) {
            drawer.bindSlab(slab);
            draw(count);
        },
        context.report);
}

void submitIndirect(QuadDrawer& drawer, FrameContext& context, const DrawList& list, Part part)
{
    if (drawer.isOfFloats())
        submitAs<ArraysCommand>(
            drawer, context, list, part,
            [](std::uint32_t first, std::uint32_t count, GLuint i) {
                return ArraysCommand{count * 6, 1, first * 6, i};
            },
            [](GLsizei count) { glMultiDrawArraysIndirect(GL_TRIANGLES, nullptr, count, 0); });
    else
        submitAs<ElementsCommand>(
            drawer, context, list, part,
            [](std::uint32_t first, std::uint32_t count, GLuint i) {
                return ElementsCommand{count * 6, 1, 0, static_cast<GLint>(first * 4), i};
            },
            [](GLsizei count) { glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_INT, nullptr, count, 0); });
}

} // namespace

extern const Submitter kIndirect;
const Submitter kIndirect{"indirect", false, false, submitIndirect};

} // namespace fell::gpu
