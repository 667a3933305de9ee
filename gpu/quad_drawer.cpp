// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/quad_drawer.h>

#include <fell/mesh/layouts.h>

#include <glm/gtc/type_ptr.hpp>

#include <cstddef>

namespace fell::gpu {
namespace {

using Vertices = ProgramKey::Vertices;

// Locations and bindings of light.glsl and terrain.vert.glsl.
constexpr GLuint kPlaceAttribute = 4, kCellsAttribute = 11;
constexpr GLuint kRimAttribute = 10, kRimBinding = 2; // where quads are instances
constexpr GLuint kRimUnit = 3, kCellsUnit = 4, kRecordsUnit = 6;
constexpr std::size_t kShapeArray = 6, kLitRecordArray = 7;

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

VertexArray newArray(
    ResourceTable& table, const char* label, std::initializer_list<Attribute> attributes, bool perInstance, bool places)
{
    VertexArray made(table, label);
    const GLuint array = made.id();
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
    if (places) {
        glEnableVertexArrayAttrib(array, kPlaceAttribute);
        glVertexArrayAttribFormat(array, kPlaceAttribute, 4, GL_FLOAT, GL_FALSE, 0);
        glVertexArrayAttribBinding(array, kPlaceAttribute, 1);
        glEnableVertexArrayAttrib(array, kCellsAttribute);
        glVertexArrayAttribIFormat(array, kCellsAttribute, 1, GL_UNSIGNED_INT, offsetof(DrawPlace, cells));
        glVertexArrayAttribBinding(array, kCellsAttribute, 1);
        glVertexArrayBindingDivisor(array, 1, 1);
    }
    return made;
}

} // namespace

QuadDrawer::QuadDrawer(ResourceTable& table, Programs& programs, const ChunkStore& chunks)
    : m_programs(programs)
    , m_chunks(chunks)
    , m_arrays{newArray(
                   table, "floats", {{0, 3, GL_FLOAT, 0}, {1, 3, GL_FLOAT, 12}, {2, 2, GL_FLOAT, 24}}, false, true),
          newArray(table, "corners", {{0, 2, GL_UNSIGNED_INT, 0, true}}, false, true),
          newArray(table, "records", {}, false, true), // read from a buffer's texture
          // A quad an instance: the corners 0, 1, 2, 3 are vertices 0, 1, 2, 5 of six.
          newArray(table, "floats, instanced",
              {{0, 3, GL_FLOAT, 0}, {1, 3, GL_FLOAT, 32}, {2, 3, GL_FLOAT, 64}, {3, 3, GL_FLOAT, 160},
                  {5, 3, GL_FLOAT, 12}, {6, 2, GL_FLOAT, 24}, {7, 2, GL_FLOAT, 56}, {8, 2, GL_FLOAT, 88},
                  {9, 2, GL_FLOAT, 184}},
              true, false),
          newArray(table, "corners, instanced",
              {{0, 2, GL_UNSIGNED_INT, 0, true}, {1, 2, GL_UNSIGNED_INT, 8, true}, {2, 2, GL_UNSIGNED_INT, 16, true},
                  {3, 2, GL_UNSIGNED_INT, 24, true}},
              true, false),
          newArray(table, "records, instanced", {{0, 2, GL_UNSIGNED_INT, 0, true}}, true, false),
          newArray(table, "triangles",
              {{0, 3, GL_SHORT, 0, true}, {1, 1, GL_UNSIGNED_SHORT, 6, true}, {2, 3, GL_BYTE, 8, false, true},
                  {3, 1, GL_UNSIGNED_BYTE, 11, true}, {5, 2, GL_UNSIGNED_SHORT, 12, true}},
              false, true),
          newArray(table, "lit records, instanced",
              {{0, 2, GL_UNSIGNED_INT, 0, true}, {1, 3, GL_UNSIGNED_INT, 8, true}}, true, false)}
    , m_rims(table, "rims", GL_TEXTURE_BUFFER)
    , m_records(table, "records", GL_TEXTURE_BUFFER)
    , m_shapeWords(table, "triangles", GL_TEXTURE_BUFFER)
    , m_commands(table, "commands")
{
}

std::size_t QuadDrawer::arrayIndex(bool instanced) const
{
    if (m_vertices == Vertices::Packed && instanced && format().isLit())
        return kLitRecordArray;
    return static_cast<std::size_t>(m_vertices) + (instanced ? 3 : 0);
}

bool QuadDrawer::isOverlay(const FrameContext& context) const
{
    return context.options.wireframe || context.options.paint != Paint::Textures || context.options.ghosts
        || context.isNumbered;
}

void QuadDrawer::useQuads(const FrameContext& context, const DrawList& list, bool instanced, Part part, bool blends)
{
    using Light = ProgramKey::Light;
    const bool overlay = isOverlay(context);
    const Light light = part == Part::Graded && format().hasCells() ? Light::Cells
        : part == Part::Even && !overlay                            ? Light::Even
                                                                    : Light::Corners;
    m_vertices = verticesOf(*format().layout);
    m_programs.use({m_vertices, instanced, ProgramKey::Triangles::Listed, overlay, format().light.lamps,
        format().light.sky, format().hasRings(), light, context.options.paint, blends});
    if (light == Light::Cells)
        glBindTextureUnit(kCellsUnit, m_chunks.cells().texture());
    m_array = m_arrays[arrayIndex(instanced)].id();
    glBindVertexArray(m_array);
    useIndices(m_chunks.quadIndices());
    if (!instanced) {
        glVertexArrayVertexBuffer(m_array, 1, list.placeBuffer(), 0, sizeof(DrawPlace));
        glBindTextureUnit(kRimUnit, m_rims.id());
        glBindTextureUnit(kRecordsUnit, m_records.id());
    }
    if (instanced && format().hasRings()) { // no shader without rims asks for them
        glEnableVertexArrayAttrib(m_array, kRimAttribute);
        glVertexArrayAttribIFormat(m_array, kRimAttribute, 1, GL_UNSIGNED_INT, 0);
        glVertexArrayAttribBinding(m_array, kRimAttribute, kRimBinding);
        glVertexArrayBindingDivisor(m_array, kRimBinding, 1);
    } else if (instanced) {
        glDisableVertexArrayAttrib(m_array, kRimAttribute);
    }
    m_boundSlab = UINT32_MAX;
    m_isInstanced = instanced;
}

void QuadDrawer::useIndices(GLuint buffer) const
{
    glVertexArrayElementBuffer(m_array, buffer);
}

void QuadDrawer::useShapes(const FrameContext& context, GLuint places, ProgramKey::Triangles triangles)
{
    m_programs.use({Vertices::Shapes, false, triangles, isOverlay(context), format().light.lamps, format().light.sky,
        false, ProgramKey::Light::Corners, context.options.paint});
    glBindTextureUnit(kRecordsUnit, m_shapeWords.id());
    const GLuint array = m_arrays[kShapeArray].id();
    glBindVertexArray(array);
    glVertexArrayVertexBuffer(array, 1, places, 0, sizeof(DrawPlace));
}

void QuadDrawer::bindShapes(GLuint buffer) const
{
    glVertexArrayVertexBuffer(m_arrays[kShapeArray].id(), 0, buffer, 0, sizeof(MeshVertex));
}

void QuadDrawer::bindIndexedShapes(GLuint buffer) const
{
    bindShapes(buffer);
    glVertexArrayElementBuffer(m_arrays[kShapeArray].id(), buffer);
    glTextureBuffer(m_shapeWords.id(), GL_R32UI, buffer);
}

void QuadDrawer::bindSlab(std::uint32_t slab)
{
    if (slab == m_boundSlab)
        return;
    m_boundSlab = slab;
    const GlStore& quads = m_chunks.quads();
    const auto stride
        = static_cast<GLsizei>(m_isInstanced ? format().vertexBytes() : format().layout->stride(format().isLit()));
    if (m_vertices == Vertices::Packed && !m_isInstanced)
        glTextureBuffer(m_records.id(), format().isLit() ? GL_R32UI : GL_RG32UI, quads.buffer(slab));
    else
        glVertexArrayVertexBuffer(m_array, 0, quads.buffer(slab), 0, stride);
    if (!format().hasRings())
        return;
    if (m_isInstanced)
        glVertexArrayVertexBuffer(m_array, kRimBinding, quads.extra(slab), 0, sizeof(OcclusionRing));
    else
        glTextureBuffer(m_rims.id(), GL_R32UI, quads.extra(slab));
}

void QuadDrawer::drawQuads(std::uint32_t first, std::uint32_t count, GLuint index) const
{
    if (isOfFloats())
        glDrawArraysInstancedBaseInstance(
            GL_TRIANGLES, static_cast<GLint>(first * 6), static_cast<GLsizei>(count * 6), 1, index);
    else
        glDrawElementsInstancedBaseVertexBaseInstance(GL_TRIANGLES, static_cast<GLsizei>(count * 6), GL_UNSIGNED_INT,
            nullptr, 1, static_cast<GLint>(first * 4), index);
}

void QuadDrawer::setPlace(const DrawPlace& place) const
{
    glVertexAttrib4fv(kPlaceAttribute, glm::value_ptr(place.at));
    glVertexAttribI1ui(kCellsAttribute, place.cells);
}

void QuadDrawer::drawSolid(FrameContext& context, const DrawList& list)
{
    if (list.isEmpty())
        return;
    const Submitter& submitter = submitterOf(m_chunks.pipeline().submission);
    const auto draw = [&](Part part) {
        useQuads(context, list, submitter.isInstanced, part);
        submitter.submit(*this, context, list, part);
    };
    if (!format().isLit() || (isOverlay(context) && !format().hasCells()) || submitter.isWhole)
        return draw(Part::Whole);
    draw(Part::Even);
    draw(Part::Graded);
}

} // namespace fell::gpu
