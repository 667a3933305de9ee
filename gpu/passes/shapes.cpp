// SPDX-License-Identifier: Apache-2.0
// Triangles: of shaped blocks that are part of their chunks' meshes, of meshers, and of shaped blocks drawn one by one.
#include <fell/gpu/quad_drawer.h>

#include <algorithm>
#include <cmath>
#include <memory>

namespace fell::gpu {
namespace {

// Cut to short commands: a software rasteriser keeps the results of a short one in its caches, and one of tens of
// thousands of vertices is a tenth slower. Still one call.
constexpr std::uint32_t kIndicesADraw = 510;

void drawBaked(FrameContext& context, const DrawList& list)
{
    QuadDrawer& drawer = context.drawer;
    if (std::none_of(list.shown().begin(), list.shown().end(),
            [](const ShownHere& shown) { return shown.chunk->shapeIndices > 0; }))
        return;
    drawer.useShapes(context, list.placeBuffer());
    const GlStore& store = drawer.chunks().shapes();
    FrameReport& report = context.report;
    if (drawer.chunks().pipeline().submission == Submission::Indirect)
        return drawer.multiDraw<ElementsCommand>(
            list, store.slabs(),
            [&report](const ShownHere& shown, GLuint i, auto& commands) {
                const HeldChunk& chunk = *shown.chunk;
                for (std::uint32_t at = 0; at < chunk.shapeIndices; at += kIndicesADraw)
                    commands[chunk.shapes.slab].push_back({std::min(kIndicesADraw, chunk.shapeIndices - at), 1,
                        chunk.firstShapeIndex() + at, static_cast<GLint>(chunk.shapes.first), i});
                report.triangles += chunk.shapeIndices / 3;
            },
            [&](std::uint32_t slab, GLsizei count) {
                drawer.bindIndexedShapes(store.buffer(slab));
                glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_INT, nullptr, count, 0);
            },
            report);
    for (GLuint i = 0; i < list.shown().size(); ++i) {
        const HeldChunk& chunk = *list.shown()[i].chunk;
        if (chunk.shapeIndices == 0)
            continue;
        drawer.bindIndexedShapes(store.buffer(chunk.shapes.slab));
        const std::uintptr_t at = chunk.firstShapeIndex() * sizeof(std::uint32_t);
        glDrawElementsInstancedBaseVertexBaseInstance(GL_TRIANGLES, static_cast<GLsizei>(chunk.shapeIndices),
            GL_UNSIGNED_INT, reinterpret_cast<const void*>(at), 1, static_cast<GLint>(chunk.shapes.first), i);
        report.triangles += chunk.shapeIndices / 3;
        ++report.drawCalls;
    }
}

/// A draw each, from the shared list of all shapes.
void drawObjects(FrameContext& context, const DrawList& list, Buffer& buffer)
{
    std::vector<DrawPlace> places;
    std::vector<Material> kinds;
    for (std::size_t i = 0; i < list.shown().size(); ++i)
        for (const ShapeObject& object : list.shown()[i].chunk->objects) {
            const glm::vec4& at = list.places()[i].at;
            const float level = at.w, length = std::ldexp(1.0F, static_cast<int>(level) & 15);
            const glm::vec3 voxel(object.voxel[0], object.voxel[1], object.voxel[2]);
            places.push_back({glm::vec4(glm::vec3(at) + voxel * length,
                context.isNumbered || object.light == 0 ? level : -1.0F - static_cast<float>(object.light))});
            kinds.push_back(object.material);
        }
    if (places.empty())
        return;
    buffer.setList(places);
    context.drawer.useShapes(context, buffer.id());
    context.drawer.bindShapes(context.materials.shapes());
    for (GLuint i = 0; i < kinds.size(); ++i) {
        const auto [first, count] = context.materials.shapeOf(kinds[i]);
        glDrawArraysInstancedBaseInstance(GL_TRIANGLES, static_cast<GLint>(first), static_cast<GLsizei>(count), 1, i);
        context.report.triangles += count / 3;
    }
    context.report.objects = kinds.size();
    context.report.drawCalls += kinds.size();
}

} // namespace

Pass shapesPass(ResourceTable& table)
{
    const auto places = std::make_shared<Buffer>(table, "places of objects");
    return {"shapes", "shapes", {TargetId::SceneDepth}, {TargetId::SceneColour, TargetId::SceneDepth},
        {.depth = PipelineState::Depth::Nearer, .writesDepth = true, .cull = PipelineState::Cull::Back},
        [](const FrameContext& context) { return !context.view.list->isEmpty(); },
        [places](FrameContext& context) {
            if (!context.isNumbered && paintMode(context.options.paint).isTwoSided)
                glDisable(GL_CULL_FACE);
            context.block.use(context.data);
            drawBaked(context, *context.view.list);
            drawObjects(context, *context.view.list, *places);
        }};
}

} // namespace fell::gpu
