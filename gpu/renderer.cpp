// SPDX-License-Identifier: Apache-2.0
// Where a chunk lies reaches the vertex shader as an attribute that advances once a draw (its base instance), which
// costs no uniform between draws. Meshes lie in pages of a store; a page of its own for each chunk is the plain way.
#include "gpu/renderer.h"

#include "gpu/cell_store.h"
#include "gpu/gl_store.h"
#include "gpu/program.h"
#include "gpu/programs.h"
#include "gpu/shader_texts.h"
#include "gpu/textures.h"
#include "mesh/layouts.h"
#include "terrain/terrain.h"

#include <epoxy/gl.h>
#include <glm/geometric.hpp>
#include <glm/gtc/matrix_transform.hpp>
#include <glm/gtc/type_ptr.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstddef>
#include <unordered_map>
#include <utility>

namespace fell {
namespace {

using Clock = std::chrono::steady_clock;
using Vertices = ProgramKey::Vertices;

constexpr glm::vec3 kWire{0.13f, 0.16f, 0.17f}; // of the wireframe
constexpr glm::vec3 kPath{0.48f, 0.29f, 0.54f}; // heather, as what is selected
constexpr float kFogFrom = 0.4f; // of the distance at which everything is fog
// A step of the shared arena: making one takes a frame 1.7 ms without a GPU, a larger one more.
constexpr std::uint32_t kSlabBytes = 2u << 20;

/// What the quads of hilly ground take within a distance: made ahead, so that no frame in flight waits for it. Ground
/// is a surface, so it grows with the square of the reach; measured in Corrowdale at 4 and 8 chunks of edge 32.
std::size_t usualBytes(const Setup& setup, std::size_t bytesPerQuad)
{
    constexpr std::size_t kMost = 64u << 20,
                          kPerSquare = 10000; // bytes per square of the reach in chunks of edge 32, per byte of a quad
    const auto reach = static_cast<std::size_t>(setup.stream.distance) * static_cast<std::size_t>(setup.chunk.edge);
    return std::min(kMost, reach * reach / 1024 * kPerSquare * bytesPerQuad);
}

constexpr std::uint32_t kShapeVerticesADraw = 510; // of one command of a multi-draw: see drawShapes
constexpr int kPaintNumbers = 5, kPaintClearNumbers = 6; // after those of Paint: see drawNumbers
constexpr GLuint kOffsetAttribute = 4; // its location in light.glsl
constexpr GLuint kRimAttribute = 10, kRimBinding = 2; // where quads are instances; in terrain.vert.glsl
constexpr GLuint kRimUnit = 3; // of the texture of rims, where they are not
constexpr GLuint kLooksUnit = 5, kRecordsUnit = 6; // of the textures of looks, and of packed records
constexpr GLuint kCellsAttribute = 11, kCellsUnit = 4; // where a chunk's cells of light begin, and all of them

double msSince(Clock::time_point start)
{
    return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

struct HeldChunk {
    StorePiece quads, shapes; // shapes: vertices
    ElementRun cells; // of light
    std::array<std::uint32_t, kMatterCount> counts{}; // quads of each matter
    std::vector<ShapeObject> objects;
    std::vector<BlockRange> blocks;
    std::vector<Quad> clear;
    std::vector<std::uint32_t> order; // of `clear`, farthest first, as seen from `orderedFor`
    VoxelPos orderedFor{INT64_MIN, 0, 0};
    std::uint32_t meshNs = 0;
    std::array<std::uint32_t, kSideCount> sides{}, graded{}; // solid quads of each direction; see ChunkMesh
    std::array<std::uint32_t, kSideCount> seams{}; // behind them
    SideSet openSeams = 0; // of the seams, those that are drawn
    static constexpr std::uint32_t kNotShown = UINT32_MAX;
    std::uint32_t place = kNotShown; // in the scene
    [[nodiscard]] std::uint32_t solid() const // quads, without seams
    {
        std::uint32_t count = counts[0];
        for (const std::uint32_t seam : seams)
            count -= seam;
        return count;
    }
    std::uint64_t triangles = 0; // all of it
};

/// A chunk of the frame, and which directions of its solid sides are drawn.
struct Shown {
    HeldChunk* chunk = nullptr;
    SideSet sides = kAllSides;
};

/// Which of the solid quads: those that are lit evenly need no light interpolated. Seams are.
enum class Part { Whole, Even, Graded };

/// Where a draw's chunk or object is, as vertex shaders take it.
struct Place {
    glm::vec4 at; // voxels from the eye's cell; level + 16 * number that is drawn
    GLuint cells = 0; // where its cells of light begin
};
static_assert(sizeof(Place) == 20);

// As OpenGL lays them out (glMultiDrawElementsIndirect, glMultiDrawArraysIndirect).
struct ElementsCommand {
    GLuint count, instances, firstIndex;
    GLint baseVertex;
    GLuint baseInstance;
};
struct ArraysCommand {
    GLuint count, instances, first, baseInstance;
};

Vertices verticesOf(const VertexLayout& layout)
{
    return layout.verticesPerQuad == 6 ? Vertices::Floats
        : layout.verticesPerQuad == 4  ? Vertices::Corners
                                       : Vertices::Packed;
}

/// A vertex array's attribute: where it is and what it holds.
struct Attribute {
    GLuint at;
    GLint size;
    GLenum type;
    GLuint offset;
    bool whole = false, normalised = false;
};

GLuint newArray(std::initializer_list<Attribute> attributes, bool perInstance, bool offsets)
{
    GLuint array = 0;
    glCreateVertexArrays(1, &array);
    for (const Attribute& a : attributes) {
        glEnableVertexArrayAttrib(array, a.at);
        if (a.whole)
            glVertexArrayAttribIFormat(array, a.at, a.size, a.type, a.offset);
        else
            glVertexArrayAttribFormat(array, a.at, a.size, a.type, a.normalised ? GL_TRUE : GL_FALSE, a.offset);
        glVertexArrayAttribBinding(array, a.at, 0);
    }
    if (perInstance)
        glVertexArrayBindingDivisor(array, 0, 1);
    if (offsets) {
        glEnableVertexArrayAttrib(array, kOffsetAttribute);
        glVertexArrayAttribFormat(array, kOffsetAttribute, 4, GL_FLOAT, GL_FALSE, 0);
        glVertexArrayAttribBinding(array, kOffsetAttribute, 1);
        glEnableVertexArrayAttrib(array, kCellsAttribute);
        glVertexArrayAttribIFormat(array, kCellsAttribute, 1, GL_UNSIGNED_INT, offsetof(Place, cells));
        glVertexArrayAttribBinding(array, kCellsAttribute, 1);
        glVertexArrayBindingDivisor(array, 1, 1);
    }
    return array;
}

class GlRenderer final : public Renderer {
public:
    explicit GlRenderer(const GpuLimits& atMost)
        : m_limits(atMost)
    {
    }
    ~GlRenderer() override
    {
        m_quads.clear(0, 1);
        m_shapes.clear(0, 1);
        glDeleteProgram(m_sky);
        glDeleteProgram(m_path);
        glDeleteProgram(m_line);
        glDeleteTextures(1, &m_textures);
        glDeleteTextures(1, &m_levels);
        for (const GLuint texture : {m_rims, m_looksTexture, m_records})
            glDeleteTextures(1, &texture);
        glDeleteQueries(static_cast<GLsizei>(m_times.size()), m_times.data());
        for (const GLuint buffer : {m_looks, m_offsets, m_objectOffsets, m_indices, m_sortedIndices, m_commands,
                 m_library, m_pathPoints, m_linePoints})
            glDeleteBuffers(1, &buffer);
        for (const GLuint array : m_arrays)
            glDeleteVertexArrays(1, &array);
    }

    std::optional<Problem> prepare()
    {
        const auto sky = linkProgram("sky", shaders::sky_vert, shaders::sky_frag);
        if (!sky)
            return sky.problem();
        m_sky = sky.value();
        const auto path = linkProgram("path", shaders::path_vert, shaders::path_frag);
        if (!path)
            return path.problem();
        m_path = path.value();
        const auto line = linkProgram("line", shaders::line_vert, shaders::line_frag);
        if (!line)
            return line.problem();
        m_line = line.value();
        if (auto problem = m_programs.prepare())
            return problem;
        for (GLuint* buffer : {&m_looks, &m_offsets, &m_objectOffsets, &m_indices, &m_sortedIndices, &m_commands,
                 &m_library, &m_pathPoints, &m_linePoints})
            glCreateBuffers(1, buffer);
        for (GLuint* texture : {&m_rims, &m_looksTexture, &m_records})
            glCreateTextures(GL_TEXTURE_BUFFER, 1, texture);
        glCreateQueries(GL_TIMESTAMP, static_cast<GLsizei>(m_times.size()), m_times.data());
        prepareArrays();
        askLimits();
        m_driver = reinterpret_cast<const char*>(glGetString(GL_RENDERER));
        if (m_driver.find("llvmpipe") != std::string::npos || m_driver.find("softpipe") != std::string::npos)
            m_driver = "software rasteriser " + m_driver;
        return std::nullopt;
    }

    void askLimits()
    {
        GLint texels = 0, layers = 0;
        glGetIntegerv(GL_MAX_TEXTURE_BUFFER_SIZE, &texels);
        glGetIntegerv(GL_MAX_ARRAY_TEXTURE_LAYERS, &layers);
        m_limits.textureBufferTexels = std::min<std::int64_t>(m_limits.textureBufferTexels, texels);
        m_limits.arrayLayers = std::min<std::int64_t>(m_limits.arrayLayers, layers);
        float most = 1; // asking a driver that does not know it is an error
        if (epoxy_gl_version() >= 46 || epoxy_has_gl_extension("GL_EXT_texture_filter_anisotropic")
            || epoxy_has_gl_extension("GL_ARB_texture_filter_anisotropic"))
            glGetFloatv(GL_MAX_TEXTURE_MAX_ANISOTROPY, &most);
        m_limits.anisotropy = std::min(m_limits.anisotropy, most);
    }

    /// A slab of quads, all of whose words and rims the driver reads as one texture.
    [[nodiscard]] std::uint32_t slabBytes() const
    {
        if (m_pipeline.upload != UploadMethod::Arena)
            return 0;
        const auto most = static_cast<std::uint64_t>(m_limits.textureBufferTexels) * sizeof(std::uint32_t);
        return static_cast<std::uint32_t>(std::min<std::uint64_t>(kSlabBytes, most));
    }

    void begin(const Setup& setup, const Terrain& terrain) override
    {
        m_warnings.clear();
        m_setup = setup;
        m_pipeline = resolve(setup);
        m_chunks.clear();
        m_covered.clear();
        m_sights.clear();
        m_scene.clear(setup.cull, setup.chunk.edge, sightReach());
        m_loadedTriangles = 0;
        const std::uint32_t slabBytes = this->slabBytes();
        m_quads.clear(slabBytes, format().vertexBytes(), format().ringBytes());
        m_shapes.clear(slabBytes, sizeof(MeshVertex));
        m_cells.clear(format().cellWords(), m_limits.textureBufferTexels);
        m_quads.reserve(usualBytes(setup, format().vertexBytes()), slabBytes);
        m_shapes.reserve(slabBytes, slabBytes);
        showBlocks(terrain.recipe.blocks);
    }

    void setDistance(int chunks) override
    {
        m_setup.stream.distance = chunks;
        m_scene.setSightReach(sightReach());
    }

    void setLook(const DrawChoices& draw) override
    {
        m_setup.draw.fieldOfView = draw.fieldOfView; // each frame: names are looked up only where they are others
        if (m_setup.draw.filter == draw.filter && m_setup.draw.seeThrough == draw.seeThrough)
            return;
        m_setup.draw.filter = draw.filter;
        m_setup.draw.seeThrough = draw.seeThrough;
        const Pipeline pipeline = resolve(m_setup);
        m_pipeline.seeThrough = pipeline.seeThrough;
        m_pipeline.filter = pipeline.filter;
        setFilter();
    }

    void setFilter()
    {
        const bool nearest = m_pipeline.filter == TextureFilter::Nearest;
        glTextureParameteri(
            m_textures, GL_TEXTURE_MIN_FILTER, nearest ? GL_NEAREST_MIPMAP_LINEAR : GL_LINEAR_MIPMAP_LINEAR);
        glTextureParameteri(m_textures, GL_TEXTURE_MAG_FILTER, nearest ? GL_NEAREST : GL_LINEAR);
        if (m_pipeline.filter == TextureFilter::Anisotropic) {
            if (m_limits.anisotropy >= 2)
                glTextureParameterf(m_textures, GL_TEXTURE_MAX_ANISOTROPY, std::min(16.0f, m_limits.anisotropy));
            else
                m_warnings.push_back(
                    {"draw.filter", "", "is anisotropic, which this driver does not offer: it is trilinear"});
        }
    }

    void setCulling(const CullChoices& choices) override
    {
        if (choices == m_setup.cull)
            return;
        m_setup.cull = choices;
        m_scene.choose(choices);
    }

    void upload(const MeshedChunk& meshed) override
    {
        drop(meshed.chunk);
        learn(meshed);
        const ChunkMesh& mesh = meshed.mesh;
        if (mesh.isEmpty())
            return;
        HeldChunk held;
        held.counts = mesh.quads;
        held.sides = mesh.sides;
        held.graded = mesh.graded;
        held.seams = mesh.seams;
        if (mesh.quadCount() > 0)
            held.quads
                = m_quads.put(mesh.vertices.data(), mesh.quadCount(), format().hasRings() ? mesh.rims.data() : nullptr);
        if (!mesh.cells.words.empty())
            putCells(mesh.cells, held);
        if (!mesh.shapes.empty())
            held.shapes = m_shapes.put(mesh.shapes.data(), static_cast<std::uint32_t>(mesh.shapes.size()));
        held.objects = mesh.objects;
        held.blocks = mesh.blocks;
        held.clear = mesh.clear;
        held.meshNs = meshed.meshNs;
        held.triangles = std::uint64_t{mesh.quadCount()} * 2 + held.shapes.count / 3;
        for (const ShapeObject& object : held.objects)
            held.triangles += m_shapeOf[object.material].count / 3;
        m_loadedTriangles += held.triangles;
        growIndices(held.quads.count);
        const auto [place, isNew] = m_chunks.emplace(meshed.chunk, std::move(held));
        if (!m_pipeline.hasLevels())
            addToScene(meshed.chunk, place->second);
        else if (const auto covered = m_covered.find(meshed.chunk); covered != m_covered.end())
            addToScene(meshed.chunk, place->second, covered->second);
    }

    void release(ChunkPos chunk) override
    {
        drop(chunk);
        m_sights.erase(chunk);
        m_scene.forget(chunk);
    }

    void show(const LodCover& cover) override
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
    void learn(const MeshedChunk& meshed)
    {
        if (!meshed.sight || meshed.chunk.level > 0)
            return;
        if (m_pipeline.hasLevels())
            m_sights.insert_or_assign(meshed.chunk, *meshed.sight);
        if (!m_pipeline.hasLevels() || m_covered.contains(meshed.chunk))
            m_scene.learn(meshed.chunk, *meshed.sight);
    }

    void addToScene(ChunkPos chunk, HeldChunk& held, SideSet seams = 0)
    {
        SideSet sides = 0;
        for (std::size_t side = 0; side < kSideCount; ++side)
            sides |= static_cast<SideSet>((held.sides[side] + held.graded[side] > 0) << side);
        held.place = m_scene.add(chunk, sides);
        held.openSeams = seams;
    }

    void removeFromScene(HeldChunk& held)
    {
        if (held.place == HeldChunk::kNotShown)
            return;
        const std::uint32_t hole = std::exchange(held.place, HeldChunk::kNotShown);
        if (const auto moved = m_scene.remove(hole)) // the last one fills the hole
            m_chunks.at(*moved).place = hole;
    }

    void putCells(const LightCells& cells, HeldChunk& held)
    {
        const bool wasFull = m_cells.isFull();
        held.cells = m_cells.put(cells.words.data(), static_cast<std::uint32_t>(cells.words.size() / cells.wordsACell));
        if (held.cells.count == 0 && !wasFull)
            m_warnings.push_back({"light.sample", "",
                "is cells, of which this driver reads " + std::to_string(m_limits.textureBufferTexels)
                    + " at once: some chunks are lit wrongly; choose another way or a smaller render distance"});
    }

    void drop(ChunkPos chunk)
    {
        const auto found = m_chunks.find(chunk);
        if (found == m_chunks.end())
            return;
        m_quads.giveBack(found->second.quads);
        m_shapes.giveBack(found->second.shapes);
        m_cells.giveBack(found->second.cells);
        m_loadedTriangles -= found->second.triangles;
        removeFromScene(found->second);
        m_chunks.erase(found);
    }

    /// How far sights of level 0 are of use, in chunks.
    [[nodiscard]] int sightReach() const
    {
        constexpr int kWithLevels = 12; // beyond, hardly anything is of level 0
        return m_pipeline.hasLevels() ? std::min(kWithLevels, m_setup.stream.distance) : m_setup.stream.distance;
    }

    FrameReport draw(const Eye& eye, int width, int height, const DrawOptions& options) override
    {
        FrameReport report;
        const auto start = Clock::now();
        const float distance = static_cast<float>(m_setup.stream.distance * m_setup.chunk.edge);
        Lens lens = lensFor(options.fieldOfView > 0 ? options.fieldOfView : m_setup.draw.fieldOfView,
            static_cast<double>(width) / std::max(1, height), distance, m_setup.chunk.edge);
        const Eye& from = options.cullFrom ? *options.cullFrom : eye;
        m_view = cullViewOf(from, lens, m_setup.chunk.edge, distance, options.isFree);
        if (options.cullFrom) { // whoever looks from elsewhere sees all of it
            const VoxelPos away = eye.cell - from.cell;
            lens.farthest += static_cast<float>(std::hypot(away.x, away.y, away.z));
        }
        const glm::mat4 toClip = reversedViewProjection(eye, lens);
        m_scene.cull(m_view, m_culled, options.ghosts);
        report.culled = m_culled.counts;
        show(m_culled.kept, eye);
        report.chunks = m_shown.size();
        report.cullMs = msSince(start);

        glViewport(0, 0, width, height);
        glDisable(GL_BLEND);
        glDisable(GL_SCISSOR_TEST);
        glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE);
        glQueryCounter(m_times[0], GL_TIMESTAMP);
        if (options.columns[0] != options.columns[1]) {
            glEnable(GL_SCISSOR_TEST);
            glScissor(options.columns[0], 0, options.columns[1] - options.columns[0], height);
        }
        const auto pass = [&](double& ms, const auto& run) {
            const auto begun = Clock::now();
            run();
            if (options.tellPasses) {
                glFinish();
                ms = msSince(begun);
            }
        };
        m_day = daylightAt(options.sunHeight);
        const auto isDrawn = [&options](unsigned bit) { return (options.leftOut & bit) == 0; };
        pass(report.skyMs, [&] { isDrawn(kPassSky) ? drawSky(viewProjection(eye, lens), eye) : clearAll(); });
        beginTerrain(toClip, eye, distance, options);
        pass(report.terrainMs, [&] {
            if (isDrawn(kPassSolid))
                drawSolid(report);
            if (isDrawn(kPassShapes) && !m_shown.empty()) {
                drawShapes(report);
                drawObjects(report);
            }
        });
        pass(report.clearMs, [&] {
            if (isDrawn(kPassClear))
                drawClear(eye, report);
        });
        if (options.ghosts)
            drawGhosts(eye);
        drawLines(toClip, eye, options.lines);
        drawPath(toClip, eye, options.path);
        endTerrain();
        if (auto trouble = m_programs.takeTrouble())
            m_warnings.push_back(std::move(*trouble));
        glQueryCounter(m_times[1], GL_TIMESTAMP);
        report.cpuMs = msSince(start);
        waitAtFence();
        report.totalMs = msSince(start);
        report.gpuMs = gpuMs();
        report.residentChunks = m_scene.chunks().size();
        report.loadedTriangles = m_loadedTriangles;
        report.gpuBytes = m_quads.bytes() + m_shapes.bytes() + m_cells.bytes() + m_indexedQuads * 24 + m_libraryBytes;
        return report;
    }

    void drawNumbers(const Eye& eye, int width, int height, double fieldOfView) override
    {
        const float distance = static_cast<float>(m_setup.stream.distance * m_setup.chunk.edge);
        const Lens lens
            = lensFor(fieldOfView, static_cast<double>(width) / std::max(1, height), distance, m_setup.chunk.edge);
        std::vector<KeptChunk> all;
        for (std::uint32_t i = 0; i < m_scene.chunks().size(); ++i)
            all.push_back({i, kAllSides});
        show(all, eye);
        for (std::size_t i = 0; i < m_shown.size(); ++i)
            m_places[i].at.w += 16.0F * static_cast<float>(m_shown[i].chunk->place + 1);
        glViewport(0, 0, width, height);
        glDisable(GL_BLEND);
        glDisable(GL_SCISSOR_TEST);
        glClipControl(GL_LOWER_LEFT, GL_ZERO_TO_ONE);
        clearAll();
        m_isNumbered = true;
        FrameReport unused;
        beginTerrain(reversedViewProjection(eye, lens), eye, distance, {});
        drawSolid(unused);
        if (!m_shown.empty()) {
            drawShapes(unused);
            drawObjects(unused);
        }
        drawClear(eye, unused);
        endTerrain();
        waitAtFence();
        m_isNumbered = false;
    }

    [[nodiscard]] CullScene& scene() override { return m_scene; }
    [[nodiscard]] const CullStep* rejectedBy(ChunkPos chunk) override
    {
        const auto found = m_chunks.find(chunk);
        if (found == m_chunks.end() || found->second.place == HeldChunk::kNotShown)
            return nullptr;
        CullResult again;
        m_scene.cull(m_view, again, true);
        const std::uint8_t by = again.rejectedBy[found->second.place];
        return by == CullResult::kNobody ? nullptr : m_scene.steps()[by];
    }

    [[nodiscard]] std::optional<ChunkFigures> figuresOf(ChunkPos chunk) const override
    {
        const auto found = m_chunks.find(chunk);
        if (found == m_chunks.end())
            return std::nullopt;
        const HeldChunk& held = found->second;
        return ChunkFigures{held.counts, held.shapes.count / 3, static_cast<std::uint32_t>(held.objects.size()),
            held.meshNs, meshBytes(held)};
    }

    [[nodiscard]] ArenaFigures arena() const override
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

    [[nodiscard]] const std::vector<Problem>& warnings() const override { return m_warnings; }
    [[nodiscard]] std::string driver() const override { return m_driver; }

private:
    static constexpr std::size_t kShapeArray = 6, kSkyArray = 7, kPathArray = 8, kLitRecordArray = 9, kLineArray = 10;
    [[nodiscard]] const MeshFormat& format() const { return m_pipeline.format; }
    [[nodiscard]] const VertexLayout& layout() const { return *format().layout; }
    [[nodiscard]] std::size_t meshBytes(const HeldChunk& held) const
    {
        return held.quads.count * format().quadBytes() + held.cells.count * m_cells.cellBytes()
            + held.shapes.count * sizeof(MeshVertex);
    }
    [[nodiscard]] std::size_t arrayIndex(Vertices vertices, bool instanced) const
    {
        if (vertices == Vertices::Packed && instanced && format().isLit())
            return kLitRecordArray;
        return static_cast<std::size_t>(vertices) + (instanced ? 3 : 0);
    }

    void prepareArrays()
    {
        m_arrays = {
            newArray({{0, 3, GL_FLOAT, 0}, {1, 3, GL_FLOAT, 12}, {2, 2, GL_FLOAT, 24}}, false, true),
            newArray({{0, 2, GL_UNSIGNED_INT, 0, true}}, false, true),
            newArray({}, false, true), // records are read from a storage buffer
            // A quad an instance: the corners 0, 1, 2, 3 are vertices 0, 1, 2, 5 of six.
            newArray({{0, 3, GL_FLOAT, 0}, {1, 3, GL_FLOAT, 32}, {2, 3, GL_FLOAT, 64}, {3, 3, GL_FLOAT, 160},
                         {5, 3, GL_FLOAT, 12}, {6, 2, GL_FLOAT, 24}, {7, 2, GL_FLOAT, 56}, {8, 2, GL_FLOAT, 88},
                         {9, 2, GL_FLOAT, 184}},
                true, false),
            newArray({{0, 2, GL_UNSIGNED_INT, 0, true}, {1, 2, GL_UNSIGNED_INT, 8, true},
                         {2, 2, GL_UNSIGNED_INT, 16, true}, {3, 2, GL_UNSIGNED_INT, 24, true}},
                true, false),
            newArray({{0, 2, GL_UNSIGNED_INT, 0, true}}, true, false),
            newArray({{0, 3, GL_SHORT, 0, true}, {1, 1, GL_UNSIGNED_SHORT, 6, true}, {2, 3, GL_BYTE, 8, false, true},
                         {3, 1, GL_UNSIGNED_BYTE, 11, true}, {5, 2, GL_UNSIGNED_SHORT, 12, true}},
                false, true),
            newArray({}, false, false),
            newArray({{0, 3, GL_FLOAT, 0}}, false, false),
            newArray({{0, 2, GL_UNSIGNED_INT, 0, true}, {1, 3, GL_UNSIGNED_INT, 8, true}}, true, false),
            newArray({{0, 3, GL_FLOAT, 0}, {1, 4, GL_UNSIGNED_BYTE, 12, false, true}}, false, false),
        };
    }

    /// Textures, looks and the shared list of all shapes, for a block set.
    void showBlocks(const BlockSet& blocks) override
    {
        TextureLayers textures = loadTextures(blocks, static_cast<int>(m_limits.arrayLayers), &m_pictures);
        m_warnings = textures.warnings;
        if (textures.pixels != m_pixels) {
            glDeleteTextures(1, &m_textures);
            glCreateTextures(GL_TEXTURE_2D_ARRAY, 1, &m_textures);
            const int levels = 1 + static_cast<int>(std::log2(kTextureEdge));
            glTextureStorage3D(m_textures, levels, GL_RGBA8, kTextureEdge, kTextureEdge, textures.count);
            glTextureSubImage3D(m_textures, 0, 0, 0, 0, kTextureEdge, kTextureEdge, textures.count, GL_RGBA,
                GL_UNSIGNED_BYTE, textures.pixels.data());
            glGenerateTextureMipmap(m_textures);
            setFilter();
            m_pixels = std::move(textures.pixels);
        }
        std::vector<std::uint32_t> looks; // see light.glsl
        const auto eightBits
            = [](float share) { return static_cast<std::uint32_t>(std::lround(std::clamp(share, 0.0F, 1.0F) * 255)); };
        std::vector<MeshVertex> library;
        m_shapeOf.clear();
        for (std::size_t m = 0; m < blocks.kinds.size(); ++m) {
            const BlockKind& kind = blocks.kinds[m];
            for (std::size_t part = 0; part < 3; ++part)
                looks.push_back(static_cast<std::uint32_t>(textures.layerOf[m][part])
                    | eightBits(kind.matter == Matter::Solid ? 1 : kind.opacity) << 16
                    | eightBits(kind.grain * 2) << 24);
            const auto first = static_cast<std::uint32_t>(library.size());
            if (kind.shape) {
                const auto vertices = shapeVertices(*kind.shape, static_cast<Material>(m));
                library.insert(library.end(), vertices.begin(), vertices.end());
            }
            m_shapeOf.push_back({first, static_cast<std::uint32_t>(library.size()) - first});
        }
        m_libraryBytes = library.size() * sizeof(MeshVertex);
        glNamedBufferData(
            m_looks, static_cast<GLsizeiptr>(looks.size() * sizeof looks[0]), looks.data(), GL_STATIC_DRAW);
        glTextureBuffer(m_looksTexture, GL_R32UI, m_looks);
        glNamedBufferData(m_library, static_cast<GLsizeiptr>(m_libraryBytes), library.data(), GL_STATIC_DRAW);
    }

    /// The index buffer that all chunks share grows to the largest of them.
    void growIndices(std::uint32_t quads)
    {
        if (quads <= m_indexedQuads)
            return;
        m_indexedQuads = std::max<std::uint64_t>(quads, m_indexedQuads * 2);
        std::vector<std::uint32_t> indices;
        indices.reserve(m_indexedQuads * 6);
        for (std::uint32_t quad = 0; quad < m_indexedQuads; ++quad)
            for (const unsigned corner : kQuadIndices)
                indices.push_back(quad * 4 + corner);
        glNamedBufferData(m_indices, static_cast<GLsizeiptr>(indices.size() * 4), indices.data(), GL_STATIC_DRAW);
    }

    /// The chunks of the pass to come, nearest first: what is hidden fails the depth test early.
    void show(const std::vector<KeptChunk>& chunks, const Eye& eye)
    {
        const auto& all = m_scene.chunks();
        std::vector<std::pair<float, std::uint32_t>> sorted; // squared distance of its middle, place in `chunks`
        for (std::uint32_t i = 0; i < chunks.size(); ++i) {
            const Box box = boxOf(all[chunks[i].index], m_setup.chunk.edge, eye);
            const glm::vec3 away = (box.low + box.high) * 0.5F - glm::vec3(eye.within);
            sorted.emplace_back(glm::dot(away, away), i);
        }
        std::sort(sorted.begin(), sorted.end());
        m_shown.clear();
        m_places.clear();
        for (const auto& [unused, i] : sorted) {
            const ChunkPos chunk = all[chunks[i].index];
            m_shown.push_back({&m_chunks.at(chunk), chunks[i].sides});
            m_places.push_back({glm::vec4(boxOf(chunk, m_setup.chunk.edge, eye).low, static_cast<float>(chunk.level)),
                m_shown.back().chunk->cells.first});
        }
    }

    static void clearAll()
    {
        glDepthMask(GL_TRUE);
        glClearDepth(0.0); // far: depth is reversed
        glClearColor(0, 0, 0, 0);
        glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    }

    void drawSky(const glm::mat4& toClip, const Eye& eye) const
    {
        glDisable(GL_DEPTH_TEST);
        glDisable(GL_CULL_FACE);
        glDepthMask(GL_TRUE);
        glClearDepth(0.0); // far: depth is reversed
        glClear(GL_DEPTH_BUFFER_BIT);
        glUseProgram(m_sky);
        glBindVertexArray(m_arrays[kSkyArray]);
        const glm::mat4 toDirection = glm::inverse(toClip * glm::translate(glm::mat4(1), glm::vec3(eye.within)));
        glUniformMatrix4fv(glGetUniformLocation(m_sky, "toDirection"), 1, GL_FALSE, glm::value_ptr(toDirection));
        glUniform3fv(glGetUniformLocation(m_sky, "horizon"), 1, glm::value_ptr(m_day.horizon));
        glUniform3fv(glGetUniformLocation(m_sky, "zenith"), 1, glm::value_ptr(m_day.zenith));
        glUniform3fv(glGetUniformLocation(m_sky, "sun"), 1, glm::value_ptr(m_day.towardsSun));
        glUniform3fv(glGetUniformLocation(m_sky, "sunlight"), 1, glm::value_ptr(m_day.sunlight));
        glDrawArrays(GL_TRIANGLES, 0, 3);
    }

    void beginTerrain(const glm::mat4& toClip, const Eye& eye, float distance, const DrawOptions& options)
    {
        ++m_frame;
        m_overlay = options.wireframe || options.paint != Paint::Textures || options.ghosts || m_isNumbered;
        // Chunks are there when their centre is within the distance, so the nearest gap is one edge short of it.
        constexpr float kNoFog = 1e9f; // voxels
        const float end
            = options.cullFrom ? kNoFog : std::max(distance * 0.5f, distance - static_cast<float>(m_setup.chunk.edge));
        const VoxelPos levels = options.light ? options.light->low - eye.cell : VoxelPos{};
        m_uniforms = {toClip, glm::vec3(eye.within), m_day.towardsSun, m_day.sunlight, m_day.skylight, m_day.horizon,
            m_day.zenith, kWire, {end * kFogFrom, end}, m_isNumbered ? kPaintNumbers : static_cast<int>(options.paint),
            options.channel, glm::ivec3(levels.x, levels.y, levels.z), options.wireframe};
        if (options.paint == Paint::Light)
            showLevels(options.light);
        sendPlaces();
        glEnable(GL_DEPTH_TEST);
        glDepthFunc(GL_GREATER);
        if (options.paint == Paint::Levels && !m_isNumbered)
            glDisable(GL_CULL_FACE); // what a crack shows
        else
            glEnable(GL_CULL_FACE);
        glCullFace(GL_BACK);
        glFrontFace(GL_CCW);
        glBindTextureUnit(kLooksUnit, m_looksTexture);
        glBindTextureUnit(0, m_textures);
    }

    void sendPlaces() const
    {
        glNamedBufferData(
            m_offsets, static_cast<GLsizeiptr>(m_places.size() * sizeof m_places[0]), m_places.data(), GL_STREAM_DRAW);
    }

    /// What each step rejected, in its colour.
    void drawGhosts(const Eye& eye)
    {
        const auto steps = m_scene.steps();
        FrameReport unused; // ghosts are no part of the figures
        for (std::size_t s = 0; s < steps.size(); ++s) {
            std::vector<KeptChunk> ghosts;
            for (std::uint32_t i = 0; i < m_culled.rejectedBy.size(); ++i)
                if (m_culled.rejectedBy[i] == s)
                    ghosts.push_back({i, kAllSides});
            if (ghosts.empty())
                continue;
            show(ghosts, eye);
            sendPlaces();
            const GhostLook look = ghostLook(*steps[s]);
            ++m_frame;
            m_uniforms.ghost = glm::vec4(look.colour[0], look.colour[1], look.colour[2], 255 * 0.72F) / 255.0F;
            m_uniforms.stripes = look.stripes;
            drawSolid(unused);
        }
        m_uniforms.ghost = glm::vec4(0);
    }

    void drawLines(const glm::mat4& toClip, const Eye& eye, const std::shared_ptr<const LineBatch>& lines)
    {
        if (!lines || lines->vertices.empty())
            return;
        if (lines != m_shownLines) {
            m_shownLines = lines;
            glNamedBufferData(m_linePoints, static_cast<GLsizeiptr>(lines->vertices.size() * sizeof lines->vertices[0]),
                lines->vertices.data(), GL_STATIC_DRAW);
        }
        const VoxelPos from = lines->from - eye.cell;
        glUseProgram(m_line);
        glUniformMatrix4fv(glGetUniformLocation(m_line, "viewProjection"), 1, GL_FALSE, glm::value_ptr(toClip));
        glUniform3f(glGetUniformLocation(m_line, "from"), static_cast<float>(from.x), static_cast<float>(from.y),
            static_cast<float>(from.z));
        glBindVertexArray(m_arrays[kLineArray]);
        glVertexArrayVertexBuffer(m_arrays[kLineArray], 0, m_linePoints, 0, sizeof(LineBatch::Vertex));
        glEnable(GL_DEPTH_TEST);
        glEnable(GL_BLEND);
        glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
        const auto over = static_cast<GLsizei>(lines->over),
                   among = static_cast<GLsizei>(lines->vertices.size()) - over;
        glDrawArrays(GL_LINES, 0, among);
        glDisable(GL_DEPTH_TEST);
        glDrawArrays(GL_LINES, among, over);
        glEnable(GL_DEPTH_TEST);
        glDisable(GL_BLEND);
    }

    /// The levels of Paint::Light as a texture; one voxel that nobody knows where there are none.
    void showLevels(const std::shared_ptr<const LightVolume>& light)
    {
        if (m_levels == 0 || light != m_shownLevels) {
            m_shownLevels = light;
            glDeleteTextures(1, &m_levels);
            glCreateTextures(GL_TEXTURE_3D, 1, &m_levels);
            const std::uint8_t unknown = 255;
            const std::array<int, 3> size = light ? light->size : std::array<int, 3>{1, 1, 1};
            glTextureParameteri(m_levels, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
            glTextureParameteri(m_levels, GL_TEXTURE_MAG_FILTER, GL_NEAREST);
            glTextureStorage3D(m_levels, 1, GL_R8UI, size[0], size[2], size[1]);
            glPixelStorei(GL_UNPACK_ALIGNMENT, 1);
            glTextureSubImage3D(m_levels, 0, 0, 0, 0, size[0], size[2], size[1], GL_RED_INTEGER, GL_UNSIGNED_BYTE,
                light ? light->levels.data() : &unknown);
            glPixelStorei(GL_UNPACK_ALIGNMENT, 4);
        }
        glBindTextureUnit(2, m_levels);
    }

    /// A line through the middles of voxels, with a dot in each, over everything.
    void drawPath(const glm::mat4& toClip, const Eye& eye, const std::vector<VoxelPos>& path) const
    {
        if (path.empty())
            return;
        std::vector<glm::vec3> points;
        for (const VoxelPos at : path) {
            const VoxelPos from = at - eye.cell;
            points.push_back(glm::vec3(from.x, from.y, from.z) + 0.5f);
        }
        glNamedBufferData(
            m_pathPoints, static_cast<GLsizeiptr>(points.size() * sizeof points[0]), points.data(), GL_STREAM_DRAW);
        glUseProgram(m_path);
        glUniformMatrix4fv(glGetUniformLocation(m_path, "viewProjection"), 1, GL_FALSE, glm::value_ptr(toClip));
        glUniform3fv(glGetUniformLocation(m_path, "colour"), 1, glm::value_ptr(kPath));
        glBindVertexArray(m_arrays[kPathArray]);
        glVertexArrayVertexBuffer(m_arrays[kPathArray], 0, m_pathPoints, 0, sizeof(glm::vec3));
        glDisable(GL_DEPTH_TEST);
        glDisable(GL_BLEND);
        glEnable(GL_PROGRAM_POINT_SIZE);
        glDrawArrays(GL_LINE_STRIP, 0, static_cast<GLsizei>(points.size()));
        glDrawArrays(GL_POINTS, 0, static_cast<GLsizei>(points.size()));
        glDisable(GL_PROGRAM_POINT_SIZE);
    }

    /// Whoever draws over the picture finds the state that a new context has.
    static void endTerrain()
    {
        glBindVertexArray(0);
        glUseProgram(0);
        glBindTextureUnit(0, 0);
        glBindTextureUnit(2, 0);
        glBindTextureUnit(kRimUnit, 0);
        glBindTextureUnit(kCellsUnit, 0);
        glBindTextureUnit(kLooksUnit, 0);
        glBindTextureUnit(kRecordsUnit, 0);
        glBindBuffer(GL_DRAW_INDIRECT_BUFFER, 0);
        glDisable(GL_CULL_FACE);
        glDisable(GL_DEPTH_TEST);
        glDisable(GL_SCISSOR_TEST);
        glDisable(GL_BLEND);
        glDepthMask(GL_TRUE);
        glClipControl(GL_LOWER_LEFT, GL_NEGATIVE_ONE_TO_ONE); // as whoever draws over it expects
    }

    /// Until the driver has done everything that was asked for.
    static void waitAtFence()
    {
        constexpr GLuint64 kLong = 1'000'000'000; // ns; a driver that takes longer is asked again
        const GLsync fence = glFenceSync(GL_SYNC_GPU_COMMANDS_COMPLETE, 0);
        GLenum said = GL_TIMEOUT_EXPIRED;
        for (int tries = 0; fence && said == GL_TIMEOUT_EXPIRED && tries < 30; ++tries)
            said = glClientWaitSync(fence, GL_SYNC_FLUSH_COMMANDS_BIT, kLong);
        if (said != GL_ALREADY_SIGNALED && said != GL_CONDITION_SATISFIED)
            glFinish();
        glDeleteSync(fence);
    }

    [[nodiscard]] double gpuMs() const
    {
        std::array<GLuint64, 2> ns{};
        for (std::size_t i = 0; i < 2; ++i)
            glGetQueryObjectui64v(m_times[i], GL_QUERY_RESULT, &ns[i]);
        return ns[1] > ns[0] ? static_cast<double>(ns[1] - ns[0]) / 1e6 : 0;
    }

    /// Makes the program and vertex array of quads current. An overlay needs the program that knows it.
    void useQuads(bool instanced, Part part)
    {
        using Light = ProgramKey::Light;
        const Light light = part == Part::Graded && format().hasCells() ? Light::Cells
            : part == Part::Even && !m_overlay                          ? Light::Even
                                                                        : Light::Corners;
        m_programs.use({verticesOf(layout()), instanced, m_overlay, format().light.lamps, format().light.sky,
                           format().hasRings(), light},
            m_uniforms, m_frame);
        if (light == Light::Cells)
            glBindTextureUnit(kCellsUnit, m_cells.texture());
        m_array = m_arrays[arrayIndex(verticesOf(layout()), instanced)];
        glBindVertexArray(m_array);
        glVertexArrayElementBuffer(m_array, m_indices);
        if (!instanced) {
            glVertexArrayVertexBuffer(m_array, 1, m_offsets, 0, sizeof(Place));
            glBindTextureUnit(kRimUnit, m_rims);
            glBindTextureUnit(kRecordsUnit, m_records);
        }
        if (instanced && format().hasRings()) { // no shader without rims asks for them
            glEnableVertexArrayAttrib(m_array, kRimAttribute);
            glVertexArrayAttribIFormat(m_array, kRimAttribute, 1, GL_UNSIGNED_INT, 0);
            glVertexArrayAttribBinding(m_array, kRimAttribute, kRimBinding);
            glVertexArrayBindingDivisor(m_array, kRimBinding, 1);
        } else if (instanced) {
            glDisableVertexArrayAttrib(m_array, kRimAttribute);
        }
        m_boundPage = UINT32_MAX;
        m_instanced = instanced;
    }

    void bindSlab(std::uint32_t page)
    {
        if (page == m_boundPage)
            return;
        m_boundPage = page;
        const auto stride
            = static_cast<GLsizei>(m_instanced ? format().vertexBytes() : layout().stride(format().isLit()));
        if (verticesOf(layout()) == Vertices::Packed && !m_instanced)
            glTextureBuffer(m_records, format().isLit() ? GL_R32UI : GL_RG32UI, m_quads.buffer(page));
        else
            glVertexArrayVertexBuffer(m_array, 0, m_quads.buffer(page), 0, stride);
        if (!format().hasRings())
            return;
        if (m_instanced)
            glVertexArrayVertexBuffer(m_array, kRimBinding, m_quads.beside(page), 0, sizeof(Rim));
        else
            glTextureBuffer(m_rims, GL_R32UI, m_quads.beside(page));
    }

    /// Draws quads of a page as the `index`-th of the shown chunks.
    void drawQuads(std::uint32_t first, std::uint32_t count, GLuint index) const
    {
        if (verticesOf(layout()) == Vertices::Floats)
            glDrawArraysInstancedBaseInstance(
                GL_TRIANGLES, static_cast<GLint>(first * 6), static_cast<GLsizei>(count * 6), 1, index);
        else
            glDrawElementsInstancedBaseVertexBaseInstance(GL_TRIANGLES, static_cast<GLsizei>(count * 6),
                GL_UNSIGNED_INT, nullptr, 1, static_cast<GLint>(first * 4), index);
    }

    void drawSolid(FrameReport& report)
    {
        if (m_shown.empty())
            return;
        if (!format().isLit() || (m_overlay && !format().hasCells()) || m_pipeline.submission == Submission::PerBlock)
            return drawSolid(Part::Whole, report);
        drawSolid(Part::Even, report);
        drawSolid(Part::Graded, report);
    }

    void drawSolid(Part part, FrameReport& report)
    {
        const Submission submission = m_pipeline.submission;
        useQuads(submission == Submission::Instanced, part);
        if (submission == Submission::Indirect)
            solidIndirect(part, report);
        else
            for (GLuint i = 0; i < m_shown.size(); ++i) {
                const HeldChunk& chunk = *m_shown[i].chunk;
                if (chunk.counts[0] == 0)
                    continue;
                bindSlab(chunk.quads.slab);
                if (submission == Submission::PerBlock) {
                    report.triangles += std::uint64_t{chunk.solid()} * 2;
                    drawBlocks(chunk, i, report);
                    continue;
                }
                if (submission == Submission::Instanced) {
                    glVertexAttrib4fv(kOffsetAttribute, glm::value_ptr(m_places[i].at));
                    glVertexAttribI1ui(kCellsAttribute, m_places[i].cells);
                }
                forEachRun(m_shown[i], part, [&](std::uint32_t first, std::uint32_t count) {
                    if (submission == Submission::Instanced)
                        glDrawElementsInstancedBaseInstance(GL_TRIANGLES, 6, GL_UNSIGNED_INT, nullptr,
                            static_cast<GLsizei>(count), chunk.quads.first + first);
                    else
                        drawQuads(chunk.quads.first + first, count, i);
                    report.triangles += std::uint64_t{count} * 2;
                    ++report.drawCalls;
                });
            }
    }

    /// The runs of a part's solid quads that look the shown ways; all of it where none is told apart.
    template <typename Draw> static void forEachRun(const Shown& shown, Part part, const Draw& draw)
    {
        // Quads that look away between two runs are drawn with them where a draw of their own would cost more.
        constexpr std::uint32_t kNotWorthIt = 16;
        const HeldChunk& chunk = *shown.chunk;
        std::uint32_t first = 0, count = 0, at = 0;
        const auto add = [&](bool isShown, std::uint32_t quads, std::uint32_t notWorthIt) {
            if (isShown && quads > 0) {
                if (count > 0 && at - (first + count) <= notWorthIt) {
                    count = at - first;
                } else if (count > 0) {
                    draw(first, count);
                    count = 0;
                }
                first = count == 0 ? at : first;
                count += quads;
            }
            at += quads;
        };
        for (std::size_t side = 0; side < kSideCount; ++side)
            add(part != Part::Graded && (shown.sides >> side & 1), chunk.sides[side], kNotWorthIt);
        for (std::size_t side = 0; side < kSideCount; ++side)
            add(part != Part::Even && (shown.sides >> side & 1), chunk.graded[side], kNotWorthIt);
        if (at == 0) // not told apart
            add(part != Part::Even, chunk.solid(), 0);
        for (std::size_t side = 0; side < kSideCount && chunk.openSeams != 0 && part != Part::Graded; ++side)
            add(chunk.openSeams >> side & 1, chunk.seams[side], 0); // what is not to be seen here would stand out
        if (count > 0)
            draw(first, count);
    }

    void drawBlocks(const HeldChunk& chunk, GLuint i, FrameReport& report)
    {
        for (const BlockRange& block : chunk.blocks) {
            if (report.drawCalls >= kMostBlockDraws) {
                ++report.notDrawn;
                report.triangles -= block.count * 2;
                continue;
            }
            drawQuads(chunk.quads.first + block.first, block.count, i);
            ++report.drawCalls;
        }
    }

    /// One multi-draw for each page that holds anything shown.
    template <typename Command, typename Make, typename Draw>
    void multiDraw(std::size_t pages, const Make& make, const Draw& draw, FrameReport& report)
    {
        std::vector<std::vector<Command>> commands(pages);
        for (GLuint i = 0; i < m_shown.size(); ++i)
            make(m_shown[i], i, commands);
        glBindBuffer(GL_DRAW_INDIRECT_BUFFER, m_commands);
        for (std::uint32_t page = 0; page < pages; ++page)
            if (!commands[page].empty()) {
                glNamedBufferData(m_commands, static_cast<GLsizeiptr>(commands[page].size() * sizeof(Command)),
                    commands[page].data(), GL_STREAM_DRAW);
                draw(page, static_cast<GLsizei>(commands[page].size()));
                ++report.drawCalls;
            }
    }

    void solidIndirect(Part part, FrameReport& report)
    {
        if (verticesOf(layout()) == Vertices::Floats)
            multiDraw<ArraysCommand>(
                m_quads.slabs(),
                [part, &report](const Shown& shown, GLuint i, auto& commands) {
                    const StorePiece& quads = shown.chunk->quads;
                    forEachRun(shown, part, [&](std::uint32_t first, std::uint32_t count) {
                        if (count > 0)
                            commands[quads.slab].push_back({count * 6, 1, (quads.first + first) * 6, i});
                        report.triangles += std::uint64_t{count} * 2;
                    });
                },
                [this](std::uint32_t page, GLsizei count) {
                    bindSlab(page);
                    glMultiDrawArraysIndirect(GL_TRIANGLES, nullptr, count, 0);
                },
                report);
        else
            multiDraw<ElementsCommand>(
                m_quads.slabs(),
                [part, &report](const Shown& shown, GLuint i, auto& commands) {
                    const StorePiece& quads = shown.chunk->quads;
                    forEachRun(shown, part, [&](std::uint32_t first, std::uint32_t count) {
                        if (count > 0)
                            commands[quads.slab].push_back(
                                {count * 6, 1, 0, static_cast<GLint>((quads.first + first) * 4), i});
                        report.triangles += std::uint64_t{count} * 2;
                    });
                },
                [this](std::uint32_t page, GLsizei count) {
                    bindSlab(page);
                    glMultiDrawElementsIndirect(GL_TRIANGLES, GL_UNSIGNED_INT, nullptr, count, 0);
                },
                report);
    }

    /// Shaped blocks that are part of their chunks' meshes.
    void drawShapes(FrameReport& report)
    {
        if (std::none_of(m_shown.begin(), m_shown.end(), [](const Shown& s) { return s.chunk->shapes.count > 0; }))
            return;
        useShapes(m_offsets);
        const GLuint array = m_arrays[kShapeArray];
        const auto bind = [&](std::uint32_t page) {
            glVertexArrayVertexBuffer(array, 0, m_shapes.buffer(page), 0, sizeof(MeshVertex));
        };
        if (m_pipeline.submission == Submission::Indirect) {
            // Cut to short commands: a software rasteriser keeps the results of a short one in its caches, and one of
            // tens of thousands of vertices is a tenth slower. Still one call.
            multiDraw<ArraysCommand>(
                m_shapes.slabs(),
                [&report](const Shown& shown, GLuint i, auto& commands) {
                    const HeldChunk& chunk = *shown.chunk;
                    for (std::uint32_t v = 0; v < chunk.shapes.count; v += kShapeVerticesADraw)
                        commands[chunk.shapes.slab].push_back(
                            {std::min(kShapeVerticesADraw, chunk.shapes.count - v), 1, chunk.shapes.first + v, i});
                    report.triangles += chunk.shapes.count / 3;
                },
                [&](std::uint32_t page, GLsizei count) {
                    bind(page);
                    glMultiDrawArraysIndirect(GL_TRIANGLES, nullptr, count, 0);
                },
                report);
            return;
        }
        for (GLuint i = 0; i < m_shown.size(); ++i) {
            const StorePiece& shapes = m_shown[i].chunk->shapes;
            if (shapes.count == 0)
                continue;
            bind(shapes.slab);
            glDrawArraysInstancedBaseInstance(
                GL_TRIANGLES, static_cast<GLint>(shapes.first), static_cast<GLsizei>(shapes.count), 1, i);
            report.triangles += shapes.count / 3;
            ++report.drawCalls;
        }
    }

    void useShapes(GLuint offsets)
    {
        m_programs.use(
            {Vertices::Shapes, false, m_overlay, format().light.lamps, format().light.sky}, m_uniforms, m_frame);
        glBindVertexArray(m_arrays[kShapeArray]);
        glVertexArrayVertexBuffer(m_arrays[kShapeArray], 1, offsets, 0, sizeof(Place));
    }

    /// Shaped blocks as a draw each, from the shared list of all shapes.
    void drawObjects(FrameReport& report)
    {
        std::vector<Place> places;
        std::vector<Material> kinds;
        for (std::size_t i = 0; i < m_shown.size(); ++i)
            for (const ShapeObject& object : m_shown[i].chunk->objects) {
                const float level = m_places[i].at.w, length = std::ldexp(1.0F, static_cast<int>(level) & 15);
                places.push_back({glm::vec4(
                    glm::vec3(m_places[i].at) + glm::vec3(object.voxel[0], object.voxel[1], object.voxel[2]) * length,
                    m_isNumbered || object.light == 0 ? level : -1.0F - static_cast<float>(object.light))});
                kinds.push_back(object.material);
            }
        if (places.empty())
            return;
        glNamedBufferData(
            m_objectOffsets, static_cast<GLsizeiptr>(places.size() * sizeof places[0]), places.data(), GL_STREAM_DRAW);
        useShapes(m_objectOffsets);
        glVertexArrayVertexBuffer(m_arrays[kShapeArray], 0, m_library, 0, sizeof(MeshVertex));
        for (GLuint i = 0; i < kinds.size(); ++i) {
            const auto [first, count] = m_shapeOf[kinds[i]];
            glDrawArraysInstancedBaseInstance(
                GL_TRIANGLES, static_cast<GLint>(first), static_cast<GLsizei>(count), 1, i);
            report.triangles += count / 3;
        }
        report.objects = kinds.size();
        report.drawCalls += kinds.size();
    }

    /// See-through and liquid quads over the rest, chunk by chunk from the back.
    void drawClear(const Eye& eye, FrameReport& report)
    {
        const auto clearOf = [](const HeldChunk& chunk) { return chunk.counts[1] + chunk.counts[2]; };
        if (std::none_of(m_shown.begin(), m_shown.end(), [&](const Shown& s) { return clearOf(*s.chunk) > 0; }))
            return;
        if (m_isNumbered) { // clear sides are not told apart by direction
            m_uniforms.paint = kPaintClearNumbers;
            ++m_frame;
        } else {
            glEnable(GL_BLEND);
        }
        useQuads(false, Part::Whole);
        // Alpha ends as 1 over an opaque background, so that a saved picture is opaque where there is water.
        glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
        glDepthMask(GL_FALSE);
        const bool within = m_pipeline.seeThrough == SeeThroughOrder::Within;
        if (within)
            sortClear(eye);
        for (GLuint i = static_cast<GLuint>(m_shown.size()); i-- > 0;) {
            const HeldChunk& chunk = *m_shown[i].chunk;
            const std::uint32_t count = clearOf(chunk);
            if (count == 0)
                continue;
            bindSlab(chunk.quads.slab);
            if (within)
                drawSorted(i);
            else
                drawQuads(chunk.quads.first + chunk.counts[0], count, i);
            report.triangles += std::uint64_t{count} * 2;
            ++report.drawCalls;
        }
        glDepthMask(GL_TRUE); // culled chunks are drawn next, and hide each other
        glDisable(GL_BLEND);
    }

    /// Puts the clear quads of every shown chunk in order, farthest first, and their vertices into one index buffer.
    void sortClear(const Eye& eye)
    {
        std::vector<std::uint32_t> indices;
        m_sortedFirst.assign(m_shown.size(), 0);
        for (std::size_t i = 0; i < m_shown.size(); ++i) {
            HeldChunk& chunk = *m_shown[i].chunk;
            if (chunk.clear.empty())
                continue;
            if (chunk.orderedFor != eye.cell)
                orderClear(chunk,
                    (glm::vec3(eye.within) - glm::vec3(m_places[i].at))
                        / std::ldexp(1.0F, static_cast<int>(m_places[i].at.w)));
            chunk.orderedFor = eye.cell;
            m_sortedFirst[i] = indices.size();
            const std::uint32_t first = chunk.quads.first + chunk.counts[0];
            const bool floats = verticesOf(layout()) == Vertices::Floats;
            for (const std::uint32_t quad : chunk.order)
                for (unsigned v = 0; v < 6; ++v)
                    indices.push_back(floats ? (first + quad) * 6 + v : (first + quad) * 4 + kQuadIndices[v]);
        }
        glNamedBufferData(m_sortedIndices, static_cast<GLsizeiptr>(indices.size() * 4), indices.data(), GL_STREAM_DRAW);
        glVertexArrayElementBuffer(m_array, m_sortedIndices);
    }

    /// `eye` in voxels from the chunk's lowest corner.
    static void orderClear(HeldChunk& chunk, const glm::vec3& eye)
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

    void drawSorted(GLuint i) const
    {
        const auto* from = reinterpret_cast<const void*>(m_sortedFirst[i] * sizeof(std::uint32_t));
        glDrawElementsInstancedBaseInstance(
            GL_TRIANGLES, static_cast<GLsizei>(m_shown[i].chunk->order.size() * 6), GL_UNSIGNED_INT, from, 1, i);
    }

    Setup m_setup;
    Pipeline m_pipeline = resolve(Setup{});
    std::string m_driver;
    std::vector<Problem> m_warnings;

    Programs m_programs;
    FrameUniforms m_uniforms;
    std::uint64_t m_frame = 0;
    GLuint m_line = 0, m_linePoints = 0;
    std::shared_ptr<const LineBatch> m_shownLines;
    GpuLimits m_limits;
    std::array<GLuint, 2> m_times{}; // timestamps round a frame
    ReadPictures m_pictures;
    std::vector<std::uint8_t> m_pixels; // of m_textures
    GLuint m_sky = 0, m_textures = 0, m_rims = 0, m_looksTexture = 0, m_records = 0, m_looks = 0, m_offsets = 0,
           m_objectOffsets = 0, m_indices = 0, m_sortedIndices = 0, m_commands = 0, m_library = 0, m_path = 0,
           m_pathPoints = 0, m_levels = 0;
    std::shared_ptr<const LightVolume> m_shownLevels;
    Daylight m_day;
    std::array<GLuint, 11> m_arrays{};

    GlStore m_quads, m_shapes;
    CellStore m_cells;
    std::uint64_t m_indexedQuads = 0;
    std::size_t m_libraryBytes = 0;
    struct ShapeRange {
        std::uint32_t first, count; // vertices
    };
    std::vector<ShapeRange> m_shapeOf; // by material
    std::unordered_map<ChunkPos, HeldChunk, ChunkPosHash> m_chunks;
    CullScene m_scene;
    // With levels of detail: what is shown and its open seams, and the sights of level 0.
    std::unordered_map<ChunkPos, SideSet, ChunkPosHash> m_covered;
    std::unordered_map<ChunkPos, ChunkSight, ChunkPosHash> m_sights;
    std::uint64_t m_loadedTriangles = 0;

    // Of the frame being drawn.
    CullView m_view;
    CullResult m_culled;
    std::vector<Shown> m_shown; // nearest first
    std::vector<Place> m_places; // of the shown
    std::vector<std::size_t> m_sortedFirst; // of the shown: where their sorted indices begin
    GLuint m_array = 0;
    std::uint32_t m_boundPage = UINT32_MAX;
    bool m_instanced = false, m_overlay = false, m_isNumbered = false;
};

} // namespace

GhostLook ghostLook(const CullStep& step)
{
    constexpr std::array<GhostLook, 7> kLooks{
        {{{0x99, 0x99, 0x33}, 0}, {{0xCC, 0x66, 0x77}, 1}, {{0xAA, 0x44, 0x99}, 2}, {{0x44, 0xAA, 0x99}, 0},
            {{0x11, 0x77, 0x33}, 1}, {{0x33, 0x22, 0x88}, 2}, {{0x88, 0x22, 0x55}, 3}}};
    return kLooks[static_cast<std::size_t>(&step - cullSteps().data()) % kLooks.size()];
}

std::array<std::uint8_t, 3> levelColour(int level)
{
    constexpr std::array<std::array<float, 3>, 5> kScale{{{0.36F, 0.33F, 0.60F}, {0.20F, 0.42F, 0.60F},
        {0.18F, 0.57F, 0.53F}, {0.55F, 0.74F, 0.36F}, {0.97F, 0.91F, 0.52F}}}; // as in terrain.frag.glsl
    const float at = std::clamp(static_cast<float>(level) / kMostLevel, 0.0F, 1.0F) * 4;
    const auto i = std::min<std::size_t>(3, static_cast<std::size_t>(at));
    std::array<std::uint8_t, 3> out{};
    for (std::size_t c = 0; c < 3; ++c) {
        const float mixed = kScale[i][c] + (kScale[i + 1][c] - kScale[i][c]) * (at - static_cast<float>(i));
        out[c] = static_cast<std::uint8_t>(std::lround(mixed * 255));
    }
    return out;
}

Outcome<std::unique_ptr<Renderer>> Renderer::create(const GpuLimits& atMost)
{
    if (epoxy_gl_version() < 45)
        return Problem{"the graphics driver", "",
            "offers OpenGL " + std::to_string(epoxy_gl_version() / 10) + "." + std::to_string(epoxy_gl_version() % 10)
                + ", Fell draws with 4.5 core; on Debian the package libgl1-mesa-dri brings a driver that has it"};
    auto renderer = std::make_unique<GlRenderer>(atMost);
    if (auto problem = renderer->prepare())
        return *problem;
    return std::unique_ptr<Renderer>(std::move(renderer));
}

} // namespace fell
