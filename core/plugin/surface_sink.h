// SPDX-License-Identifier: Apache-2.0
// Where a mesher from outside writes: every quad and vertex is checked before it is kept.
#pragma once

#include <fell/mesh/meshers.h>

#include <fell/method.h>

#include <string>

namespace fell::plugin {

class SurfaceSink : public FellSink {
public:
    SurfaceSink(int edge, const SideRules& sides, ChunkSurface& out);

    /// What was refused first, as a sentence without its subject ("emits a quad outside the chunk: ..."); empty:
    /// nothing.
    [[nodiscard]] const std::string& refused() const { return m_refused; }

private:
    static int takeQuads(FellSink* sink, std::uint32_t opacityClass, const FellQuad* quads, std::size_t count);
    static int takeTriangles(FellSink* sink, const FellVertex* vertices, std::size_t vertexCount,
        const std::uint32_t* indices, std::size_t indexCount);
    int addQuads(std::uint32_t opacityClass, std::span<const FellQuad> from);
    int addTriangles(std::span<const FellVertex> vertices, std::span<const std::uint32_t> indices);
    int refuseOneOf(std::span<const FellQuad> from);
    int refuse(std::string what);

    int m_edge;
    const SideRules& m_sides;
    ChunkSurface& m_out;
    std::string m_refused;
};

} // namespace fell::plugin
