// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/chunk_store.h>

#include <fell/mesh/layouts.h>

#include <algorithm>

namespace fell::gpu {
namespace {

// A step of the shared arena: making one takes a frame 1.7 ms without a GPU, a larger one more.
constexpr std::uint32_t kSlabBytes = 2u << 20;

/// What the quads of hilly ground take within a distance: made ahead, so that no frame in flight waits for it. Ground
/// is a surface, so it grows with the square of the reach; measured in Corrowdale at 4 and 8 chunks of edge 32.
std::size_t usualBytes(const Setup& setup, std::size_t bytesPerQuad)
{
    constexpr std::size_t kMax = 64u << 20,
                          kPerSquare = 10000; // bytes per square of the reach in chunks of edge 32, per byte of a quad
    const auto reach = static_cast<std::size_t>(setup.stream.distance) * static_cast<std::size_t>(setup.chunk.edge);
    return std::min(kMax, reach * reach / 1024 * kPerSquare * bytesPerQuad);
}

constexpr std::uint32_t kIndicesAVertex = sizeof(MeshVertex) / sizeof(std::uint32_t);

} // namespace

std::uint32_t HeldChunk::firstShapeIndex() const
{
    return (shapes.first + shapeVertices) * kIndicesAVertex;
}

std::uint32_t HeldChunk::solid() const
{
    std::uint32_t count = counts[0];
    for (const std::uint32_t seam : seams)
        count -= seam;
    return count;
}

ChunkStore::ChunkStore(ResourceTable& table, const GpuLimits& limits, const MaterialTable& materials)
    : m_limits(limits)
    , m_materials(materials)
    , m_quads(table, "quads")
    , m_shapes(table, "triangles")
    , m_cells(table)
    , m_indices(table, "indices of quads")
{
}

void ChunkStore::begin(const Setup& setup, const Pipeline& pipeline, std::vector<Problem>& warnings)
{
    m_warnings = &warnings;
    m_pipeline = pipeline;
    m_distance = setup.stream.distance;
    m_chunks.clear();
    m_covered.clear();
    m_sights.clear();
    m_scene.clear(setup.cull, setup.chunk.edge, visibilityRadius());
    m_loadedTriangles = 0;
    const std::uint32_t slab = slabBytes();
    m_quads.clear(slab, format().vertexBytes(), format().ringBytes());
    m_shapes.clear(slab, sizeof(MeshVertex));
    m_cells.clear(format().cellWords(), m_limits.textureBufferTexels);
    m_quads.reserve(usualBytes(setup, format().vertexBytes()), slab);
    m_shapes.reserve(slab, slab);
}

void ChunkStore::setDistance(int chunks)
{
    m_distance = chunks;
    m_scene.setSightReach(visibilityRadius());
}

HeldChunk* ChunkStore::find(ChunkPos chunk)
{
    const auto found = m_chunks.find(chunk);
    return found == m_chunks.end() ? nullptr : &found->second;
}

const HeldChunk* ChunkStore::find(ChunkPos chunk) const
{
    const auto found = m_chunks.find(chunk);
    return found == m_chunks.end() ? nullptr : &found->second;
}

std::size_t ChunkStore::bytes() const
{
    return m_quads.bytes() + m_shapes.bytes() + m_cells.bytes() + m_indices.bytes() + m_materials.shapeBytes();
}

std::size_t ChunkStore::meshBytes(const HeldChunk& held) const
{
    return held.quads.count * format().quadBytes() + held.cells.count * m_cells.cellBytes()
        + held.shapeVertices * sizeof(MeshVertex) + held.shapeIndices * sizeof(std::uint32_t);
}

/// A slab of quads, all of whose words and rims the driver reads as one texture.
std::uint32_t ChunkStore::slabBytes() const
{
    if (m_pipeline.upload != UploadMethod::Arena)
        return 0;
    const auto max = static_cast<std::uint64_t>(m_limits.textureBufferTexels) * sizeof(std::uint32_t);
    return static_cast<std::uint32_t>(std::min<std::uint64_t>(kSlabBytes, max));
}

/// How far sights of level 0 are of use, in chunks.
int ChunkStore::visibilityRadius() const
{
    constexpr int kWithLevels = 12; // beyond, hardly anything is of level 0
    return m_pipeline.hasLevels() ? std::min(kWithLevels, m_distance) : m_distance;
}

void ChunkStore::upload(const MeshedChunk& meshed)
{
    drop(meshed.chunk);
    learn(meshed);
    const ChunkMesh& mesh = meshed.mesh;
    if (mesh.isEmpty())
        return;
    HeldChunk held;
    held.counts = mesh.quads;
    held.sides = mesh.sides;
    held.varyingLight = mesh.varyingLight;
    held.seams = mesh.seams;
    if (mesh.quadCount() > 0)
        held.quads
            = m_quads.put(mesh.vertices.data(), mesh.quadCount(), format().hasRings() ? mesh.rims.data() : nullptr);
    if (!mesh.cells.words.empty())
        putCells(mesh.cells, held);
    if (!mesh.shapes.isEmpty())
        putShapes(mesh.shapes, held);
    held.objects = mesh.objects;
    held.blocks = mesh.blocks;
    held.clear = mesh.clear;
    held.meshNs = meshed.meshNs;
    held.triangles = std::uint64_t{mesh.quadCount()} * 2 + held.shapeIndices / 3;
    for (const ShapeObject& object : held.objects)
        held.triangles += m_materials.shapeOf(object.material).count / 3;
    m_loadedTriangles += held.triangles;
    growIndices(held.quads.count);
    const auto [place, isNew] = m_chunks.emplace(meshed.chunk, std::move(held));
    if (!m_pipeline.hasLevels())
        addToScene(meshed.chunk, place->second);
    else if (const auto covered = m_covered.find(meshed.chunk); covered != m_covered.end())
        addToScene(meshed.chunk, place->second, covered->second);
}

void ChunkStore::release(ChunkPos chunk)
{
    drop(chunk);
    m_sights.erase(chunk);
    m_scene.forget(chunk);
}

void ChunkStore::show(const LodCover& cover)
{
    std::unordered_map<ChunkPos, SideSet, ChunkPosHash> next;
    next.reserve(cover.chunks.size());
    const bool isStitched = m_pipeline.seams == Seams::Stitched;
    for (const ShownChunk& shown : cover.chunks)
        next.emplace(shown.chunk, static_cast<SideSet>(isStitched ? shown.coarser : shown.coarser | shown.finer));
    for (const auto& [chunk, seams] : m_covered)
        if (!next.contains(chunk)) {
            if (const auto held = m_chunks.find(chunk); held != m_chunks.end())
                removeFromScene(held->second);
            if (chunk.level == 0)
                m_scene.forget(chunk);
        }
    for (const auto& [chunk, seams] : next) {
        const auto held = m_chunks.find(chunk);
        if (held != m_chunks.end() && held->second.place == HeldChunk::kNotShown)
            addToScene(chunk, held->second, seams);
        else if (held != m_chunks.end())
            held->second.openSeams = seams;
        if (const auto sight = m_sights.find(chunk); sight != m_sights.end() && !m_covered.contains(chunk))
            m_scene.learn(chunk, sight->second);
    }
    m_covered = std::move(next);
}

/// What hides others must be shown itself: with levels, sights of level 0 are kept until it is.
void ChunkStore::learn(const MeshedChunk& meshed)
{
    if (!meshed.sight || meshed.chunk.level > 0)
        return;
    if (m_pipeline.hasLevels())
        m_sights.insert_or_assign(meshed.chunk, *meshed.sight);
    if (!m_pipeline.hasLevels() || m_covered.contains(meshed.chunk))
        m_scene.learn(meshed.chunk, *meshed.sight);
}

void ChunkStore::addToScene(ChunkPos chunk, HeldChunk& held, SideSet seams)
{
    SideSet sides = 0;
    for (std::size_t side = 0; side < kSideCount; ++side)
        sides |= static_cast<SideSet>((held.sides[side] + held.varyingLight[side] > 0) << side);
    held.place = m_scene.add(chunk, sides);
    held.openSeams = seams;
}

void ChunkStore::removeFromScene(HeldChunk& held)
{
    if (held.place == HeldChunk::kNotShown)
        return;
    const std::uint32_t hole = std::exchange(held.place, HeldChunk::kNotShown);
    if (const auto moved = m_scene.remove(hole)) // the last one fills the hole
        m_chunks.at(*moved).place = hole;
}

/// A buffer may hold vertices and indices alike: so a chunk's triangles are one piece.
void ChunkStore::putShapes(const TriangleList& shapes, HeldChunk& held)
{
    held.shapeVertices = static_cast<std::uint32_t>(shapes.vertices.size());
    held.shapeIndices = static_cast<std::uint32_t>(shapes.indices.size());
    held.shapes = m_shapes.take(held.shapeVertices + (held.shapeIndices + kIndicesAVertex - 1) / kIndicesAVertex);
    const std::size_t vertexBytes = shapes.vertices.size() * sizeof(MeshVertex);
    m_shapes.write(held.shapes, 0, shapes.vertices.data(), vertexBytes);
    std::vector<std::uint32_t> indices(shapes.indices);
    for (std::uint32_t& index : indices)
        index += held.shapes.first;
    m_shapes.write(held.shapes, vertexBytes, indices.data(), indices.size() * sizeof(std::uint32_t));
}

void ChunkStore::putCells(const LightCells& cells, HeldChunk& held)
{
    const bool wasFull = m_cells.isFull();
    held.cells = m_cells.put(cells.words.data(), static_cast<std::uint32_t>(cells.words.size() / cells.wordsACell));
    if (held.cells.count == 0 && !wasFull)
        m_warnings->push_back({"light.sample", "",
            "is cells, of which this driver reads " + std::to_string(m_limits.textureBufferTexels)
                + " at once: some chunks are lit wrongly; choose another way or a smaller render distance"});
}

void ChunkStore::drop(ChunkPos chunk)
{
    const auto found = m_chunks.find(chunk);
    if (found == m_chunks.end())
        return;
    m_quads.release(found->second.quads);
    m_shapes.release(found->second.shapes);
    m_cells.release(found->second.cells);
    m_loadedTriangles -= found->second.triangles;
    removeFromScene(found->second);
    m_chunks.erase(found);
}

/// The index buffer that all chunks share grows to the largest of them.
void ChunkStore::growIndices(std::uint32_t quads)
{
    if (quads <= m_indexedQuads)
        return;
    m_indexedQuads = std::max<std::uint64_t>(quads, m_indexedQuads * 2);
    std::vector<std::uint32_t> indices;
    indices.reserve(m_indexedQuads * 6);
    for (std::uint32_t quad = 0; quad < m_indexedQuads; ++quad)
        for (const unsigned corner : kQuadIndices)
            indices.push_back(quad * 4 + corner);
    m_indices.setList(indices, GL_STATIC_DRAW);
}

ArenaFigures ChunkStore::arena() const
{
    ArenaFigures out;
    out.shared = m_pipeline.upload == UploadMethod::Arena;
    for (const GlStore* store : {&m_quads, &m_shapes}) {
        const PieceStore& pieces = store->pieces();
        const StoreFill fill = pieces.fill();
        out.slabs += fill.slabs;
        out.pages += fill.pages;
        out.usedPages += fill.used;
        out.longestFree = std::max(out.longestFree, fill.longestFree);
        out.allocatedBytes += store->bytes();
        out.usedBytes += fill.used * store->pageBytes();
    }
    out.allocatedBytes += m_cells.bytes();
    out.usedBytes += m_cells.usedBytes();
    out.pageBytes = m_quads.pageBytes();
    for (std::size_t slab = 0; slab < m_quads.pieces().slabs(); ++slab)
        out.slabPages.push_back(m_quads.pieces().pagesOf(slab));
    const std::uint32_t page = m_quads.pieces().pageCount();
    for (const auto& [chunk, held] : m_chunks) {
        out.meshBytes += meshBytes(held);
        if (held.quads.count > 0)
            out.pieces.push_back(
                {chunk, held.quads.slab, held.quads.first / page, (held.quads.count + page - 1) / page});
    }
    return out;
}

} // namespace fell::gpu
