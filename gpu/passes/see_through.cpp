// SPDX-License-Identifier: Apache-2.0
// See-through and liquid quads over the rest, chunk by chunk from the back.
#include <fell/gpu/quad_drawer.h>

#include <glm/geometric.hpp>

#include <algorithm>
#include <cmath>
#include <memory>

namespace fell::gpu {
namespace {

/// Orders a chunk's clear quads, farthest first. `eye` in voxels from its lowest corner.
void orderClear(HeldChunk& chunk, const glm::vec3& eye)
{
    std::vector<std::pair<float, std::uint32_t>> far;
    for (std::uint32_t i = 0; i < chunk.clear.size(); ++i) {
        const auto corners = cornersOf(unpackQuad(chunk.clear[i]));
        const glm::vec3 low(corners[0][0], corners[0][1], corners[0][2]),
            high(corners[2][0], corners[2][1], corners[2][2]);
        const glm::vec3 away = (low + high) * 0.5f - eye;
        far.emplace_back(-glm::dot(away, away), i);
    }
    std::sort(far.begin(), far.end());
    chunk.order.clear();
    for (const auto& [unused, i] : far)
        chunk.order.push_back(i);
}

class SeeThrough {
public:
    explicit SeeThrough(ResourceTable& table)
        : m_indices(table, "indices, sorted")
    {
    }

    void record(FrameContext& context)
    {
        const DrawList& list = *context.view.list;
        if (std::none_of(list.shown().begin(), list.shown().end(),
                [](const ShownHere& shown) { return shown.chunk->seeThrough() > 0; }))
            return;
        if (context.isNumbered) // nothing shines through a number, and it is no colour
            apply({.depth = PipelineState::Depth::Nearer, .cull = PipelineState::Cull::Back});
        context.block.use(context.data);
        QuadDrawer& drawer = context.drawer;
        drawer.useQuads(context, list, false, Part::Whole, true);
        const bool within = drawer.chunks().pipeline().seeThrough == SeeThroughOrder::Within;
        if (within)
            sort(context, list);
        for (GLuint i = static_cast<GLuint>(list.shown().size()); i-- > 0;) {
            const HeldChunk& chunk = *list.shown()[i].chunk;
            const std::uint32_t count = chunk.seeThrough();
            if (count == 0)
                continue;
            drawer.bindSlab(chunk.quads.slab);
            if (within)
                drawSorted(chunk, i);
            else
                drawer.drawQuads(chunk.quads.first + chunk.counts[0], count, i);
            context.report.triangles += std::uint64_t{count} * 2;
            ++context.report.drawCalls;
        }
    }

private:
    /// Puts the clear quads of every shown chunk in order, and their vertices into one index buffer.
    void sort(const FrameContext& context, const DrawList& list)
    {
        std::vector<std::uint32_t> indices;
        m_first.assign(list.shown().size(), 0);
        const Eye& eye = context.view.eye;
        const bool floats = context.drawer.isOfFloats();
        for (std::size_t i = 0; i < list.shown().size(); ++i) {
            HeldChunk& chunk = *list.shown()[i].chunk;
            if (chunk.clear.empty())
                continue;
            const glm::vec4& at = list.places()[i].at;
            if (chunk.orderedFor != eye.cell)
                orderClear(chunk, (glm::vec3(eye.within) - glm::vec3(at)) / std::ldexp(1.0F, static_cast<int>(at.w)));
            chunk.orderedFor = eye.cell;
            m_first[i] = indices.size();
            const std::uint32_t first = chunk.quads.first + chunk.counts[0];
            for (const std::uint32_t quad : chunk.order)
                for (unsigned v = 0; v < 6; ++v)
                    indices.push_back(floats ? (first + quad) * 6 + v : (first + quad) * 4 + kQuadIndices[v]);
        }
        m_indices.setList(indices);
        context.drawer.useIndices(m_indices.id());
    }

    void drawSorted(const HeldChunk& chunk, GLuint i) const
    {
        const auto* from = reinterpret_cast<const void*>(m_first[i] * sizeof(std::uint32_t));
        glDrawElementsInstancedBaseInstance(
            GL_TRIANGLES, static_cast<GLsizei>(chunk.order.size() * 6), GL_UNSIGNED_INT, from, 1, i);
    }

    Buffer m_indices;
    std::vector<std::size_t> m_first; // of the shown: where their sorted indices begin
};

} // namespace

Pass seeThroughPass(ResourceTable& table)
{
    const auto pass = std::make_shared<SeeThrough>(table);
    return {"see-through", "clear", {TargetId::SceneColour, TargetId::SceneDepth}, {TargetId::SceneColour},
        {.depth = PipelineState::Depth::Nearer,
            .blend = PipelineState::Blend::OverOpaque, // a saved picture is opaque where there is water
            .isLinear = true,
            .cull = PipelineState::Cull::Back},
        [](const FrameContext& context) { return !context.view.list->isEmpty(); },
        [pass](FrameContext& context) { pass->record(context); }};
}

} // namespace fell::gpu
