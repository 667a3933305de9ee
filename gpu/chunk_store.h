// SPDX-License-Identifier: Apache-2.0
// The chunks that a renderer holds: their meshes in graphics memory, which of them may be drawn, and what culling
// knows of them. Private to gpu/: includes OpenGL.
#pragma once

#include <fell/gpu/cell_store.h>
#include <fell/gpu/gl_store.h>
#include <fell/gpu/material_table.h>
#include <fell/gpu/renderer.h>

#include <unordered_map>

namespace fell::gpu {

/// One chunk's mesh.
struct HeldChunk {
    // shapes: vertices, then their indices, which count from the buffer's begin; in elements of a vertex' size
    StorePiece quads, shapes;
    std::uint32_t shapeVertices = 0, shapeIndices = 0;
    ElementRun cells; // of light
    std::array<std::uint32_t, kMatterCount> counts{}; // quads of each matter
    std::vector<ShapeObject> objects;
    std::vector<BlockRange> blocks;
    std::vector<Quad> clear;
    std::vector<std::uint32_t> order; // of `clear`, farthest first, as seen from `orderedFor`
    VoxelPos orderedFor{INT64_MIN, 0, 0};
    std::uint32_t meshNs = 0;
    std::array<std::uint32_t, kSideCount> sides{}, varyingLight{}; // solid quads of each direction; see ChunkMesh
    std::array<std::uint32_t, kSideCount> seams{}; // behind them
    SideSet openSeams = 0; // of the seams, those that are drawn
    static constexpr std::uint32_t kNotShown = UINT32_MAX;
    std::uint32_t place = kNotShown; // in the scene
    std::uint64_t triangles = 0; // all of it

    /// In the buffer of `shapes`.
    [[nodiscard]] std::uint32_t firstShapeIndex() const;
    [[nodiscard]] std::uint32_t solid() const; // quads, without seams
    [[nodiscard]] std::uint32_t seeThrough() const { return counts[1] + counts[2]; }
};

/// A class because stores, scene and chunks must agree.
class ChunkStore {
public:
    ChunkStore(ResourceTable& table, const GpuLimits& limits, const MaterialTable& materials);

    void begin(const Setup& setup, const Pipeline& pipeline, std::vector<Problem>& warnings);
    void setDistance(int chunks);
    void setCulling(const CullChoices& choices) { m_scene.choose(choices); }
    void setSeeThrough(SeeThroughOrder order) { m_pipeline.seeThrough = order; }
    void upload(const MeshedChunk& mesh);
    void release(ChunkPos chunk);
    void show(const LodCover& cover);

    [[nodiscard]] CullScene& scene() { return m_scene; }
    [[nodiscard]] HeldChunk* find(ChunkPos chunk);
    [[nodiscard]] const HeldChunk* find(ChunkPos chunk) const;
    [[nodiscard]] const GlStore& quads() const { return m_quads; }
    [[nodiscard]] const GlStore& shapes() const { return m_shapes; }
    [[nodiscard]] const CellStore& cells() const { return m_cells; }
    [[nodiscard]] GLuint quadIndices() const { return m_indices.id(); } // of as many quads as the largest chunk has
    [[nodiscard]] std::uint64_t loadedTriangles() const { return m_loadedTriangles; }
    [[nodiscard]] std::size_t bytes() const;
    [[nodiscard]] std::size_t meshBytes(const HeldChunk& held) const;
    [[nodiscard]] ArenaFigures arena() const;
    [[nodiscard]] const GpuLimits& limits() const { return m_limits; }
    [[nodiscard]] const MeshFormat& format() const { return m_pipeline.format; }
    [[nodiscard]] const Pipeline& pipeline() const { return m_pipeline; }

private:
    [[nodiscard]] std::uint32_t slabBytes() const;
    [[nodiscard]] int visibilityRadius() const;
    void drop(ChunkPos chunk);
    void learn(const MeshedChunk& meshed);
    void addToScene(ChunkPos chunk, HeldChunk& held, SideSet seams = 0);
    void removeFromScene(HeldChunk& held);
    void putShapes(const TriangleList& shapes, HeldChunk& held);
    void putCells(const LightCells& cells, HeldChunk& held);
    void growIndices(std::uint32_t quads);

    const GpuLimits& m_limits;
    const MaterialTable& m_materials;
    std::vector<Problem>* m_warnings = nullptr;
    Pipeline m_pipeline = resolve(Setup{});
    int m_distance = 0; // chunks
    GlStore m_quads, m_shapes;
    CellStore m_cells;
    Buffer m_indices;
    std::uint64_t m_indexedQuads = 0;
    std::unordered_map<ChunkPos, HeldChunk, ChunkPosHash> m_chunks;
    CullScene m_scene;
    // With levels of detail: what is shown and its open seams, and the sights of level 0.
    std::unordered_map<ChunkPos, SideSet, ChunkPosHash> m_covered;
    std::unordered_map<ChunkPos, ChunkVisibility, ChunkPosHash> m_sights;
    std::uint64_t m_loadedTriangles = 0;
};

} // namespace fell::gpu
