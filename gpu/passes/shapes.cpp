// SPDX-License-Identifier: Apache-2.0
// Triangles: of shaped blocks that are part of their chunks' meshes, of meshers, and of shaped blocks drawn one by one.
#include <fell/gpu/quad_drawer.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <memory>

namespace fell::gpu {
namespace {

// Cut to short commands: a software rasteriser keeps the results of a short one in its caches, and one of tens of
// thousands of vertices is a tenth slower. Still one call.
constexpr std::uint32_t kIndicesADraw = 510;

/// Edges and sizes are a triangle's own: where they are shown, the shader reads each corner's vertex through the index.
/// Where the driver cannot read a chunk's whole buffer, its triangles are drawn without edges.
bool isPulled(const FrameContext& context, const DrawList& list)
{
    const auto texels = static_cast<std::uint64_t>(context.drawer.chunks().limits().textureBufferTexels);
    return context.drawer.isOverlay(context) && !context.isNumbered
        && std::all_of(list.shown().begin(), list.shown().end(), [&](const ShownHere& shown) {
               const HeldChunk& chunk = *shown.chunk;
               return std::uint64_t{chunk.firstShapeIndex()} + chunk.shapeIndices <= texels;
           });
}

void drawBaked(FrameContext& context, const DrawList& list)
{
    QuadDrawer& drawer = context.drawer;
    if (std::none_of(list.shown().begin(), list.shown().end(),
            [](const ShownHere& shown) { return shown.chunk->shapeIndices > 0; }))
        return;
    const bool pulled = isPulled(context, list);
    drawer.useShapes(
        context, list.placeBuffer(), pulled ? ProgramKey::Triangles::Pulled : ProgramKey::Triangles::Indexed);
    const GlStore& store = drawer.chunks().shapes();
    FrameReport& report = context.report;
    const auto eachPiece = [](const HeldChunk& chunk, const auto& draw) {
        for (std::uint32_t at = 0; at < chunk.shapeIndices; at += kIndicesADraw)
            draw(chunk.firstShapeIndex() + at, std::min(kIndicesADraw, chunk.shapeIndices - at));
    };
    const bool isIndirect = drawer.chunks().pipeline().submission == Submission::Indirect;
    if (isIndirect && pulled)
        return drawer.multiDraw<ArraysCommand>(
            list, store.slabs(),
            [&](const ShownHere& shown, GLuint i, auto& commands) {
                eachPiece(*shown.chunk, [&](GLuint first, GLuint count) {
                    commands[shown.chunk->shapes.slab].push_back({count, 1, first, i});
                });
                report.triangles += shown.chunk->shapeIndices / 3;
            },
            [&](std::uint32_t slab, GLsizei count) {
                drawer.bindIndexedShapes(store.buffer(slab));
                glMultiDrawArraysIndirect(GL_TRIANGLES, nullptr, count, 0);
            },
            report);
    if (isIndirect)
        return drawer.multiDraw<ElementsCommand>(
            list, store.slabs(),
            [&](const ShownHere& shown, GLuint i, auto& commands) {
                eachPiece(*shown.chunk, [&](GLuint first, GLuint count) {
                    commands[shown.chunk->shapes.slab].push_back({count, 1, first, 0, i});
                });
                report.triangles += shown.chunk->shapeIndices / 3;
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
        const auto count = static_cast<GLsizei>(chunk.shapeIndices);
        const std::uintptr_t at = chunk.firstShapeIndex() * sizeof(std::uint32_t);
        if (pulled)
            glDrawArraysInstancedBaseInstance(GL_TRIANGLES, static_cast<GLint>(chunk.firstShapeIndex()), count, 1, i);
        else
            glDrawElementsInstancedBaseInstance(
                GL_TRIANGLES, count, GL_UNSIGNED_INT, reinterpret_cast<const void*>(at), 1, i);
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
    context.drawer.useShapes(context, buffer.id(), ProgramKey::Triangles::Listed);
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
