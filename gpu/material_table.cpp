// SPDX-License-Identifier: Apache-2.0
#include <fell/gpu/material_table.h>

#include <fell/mesh/chunk_mesh.h>

#include <algorithm>
#include <cmath>

namespace fell::gpu {

MaterialTable::MaterialTable(ResourceTable& table)
    : m_table(table)
    , m_wordTexture(table, "materials", GL_TEXTURE_BUFFER)
    , m_words(table, "materials")
    , m_shapes(table, "shapes of blocks")
{
}

void MaterialTable::setFilter(TextureFilter filter, const GpuLimits& limits, std::vector<Problem>& warnings) const
{
    const bool nearest = filter == TextureFilter::Nearest;
    glTextureParameteri(
        m_pictures.id(), GL_TEXTURE_MIN_FILTER, nearest ? GL_NEAREST_MIPMAP_LINEAR : GL_LINEAR_MIPMAP_LINEAR);
    glTextureParameteri(m_pictures.id(), GL_TEXTURE_MAG_FILTER, nearest ? GL_NEAREST : GL_LINEAR);
    if (filter != TextureFilter::Anisotropic)
        return;
    if (limits.anisotropy >= 2)
        glTextureParameterf(m_pictures.id(), GL_TEXTURE_MAX_ANISOTROPY, std::min(16.0f, limits.anisotropy));
    else
        warnings.push_back({"draw.filter", "", "is anisotropic, which this driver does not offer: it is trilinear"});
}

void MaterialTable::show(
    const BlockSet& blocks, TextureFilter filter, const GpuLimits& limits, std::vector<Problem>& warnings)
{
    TextureLayers textures = loadTextures(blocks, static_cast<int>(limits.arrayLayers), &m_read);
    warnings = textures.warnings;
    if (textures.pixels != m_pixels) {
        const std::size_t bytes = textures.pixels.size() * 4 / 3; // with its smaller copies
        m_pictures = Texture(m_table, "pictures of blocks", GL_TEXTURE_2D_ARRAY, bytes);
        const int levels = 1 + static_cast<int>(std::log2(kTextureEdge));
        const bool isLinear = epoxy_has_gl_extension("GL_EXT_texture_sRGB_decode");
        glTextureStorage3D(
            m_pictures.id(), levels, isLinear ? GL_SRGB8_ALPHA8 : GL_RGBA8, kTextureEdge, kTextureEdge, textures.count);
        glTextureSubImage3D(m_pictures.id(), 0, 0, 0, 0, kTextureEdge, kTextureEdge, textures.count, GL_RGBA,
            GL_UNSIGNED_BYTE, textures.pixels.data());
        glGenerateTextureMipmap(m_pictures.id()); // of linear light where it can be
        if (isLinear) // the shaders decode, see linear.glsl
            glTextureParameteri(m_pictures.id(), GL_TEXTURE_SRGB_DECODE_EXT, GL_SKIP_DECODE_EXT);
        setFilter(filter, limits, warnings);
        m_pixels = std::move(textures.pixels);
    }
    std::vector<std::uint32_t> words; // see material.glsl
    const auto eightBits
        = [](float share) { return static_cast<std::uint32_t>(std::lround(std::clamp(share, 0.0F, 1.0F) * 255)); };
    std::vector<MeshVertex> shapes;
    m_shapeOf.clear();
    for (std::size_t m = 0; m < blocks.kinds.size(); ++m) {
        const BlockKind& kind = blocks.kinds[m];
        for (std::size_t part = 0; part < 3; ++part)
            words.push_back(static_cast<std::uint32_t>(textures.layerOf[m][part])
                | eightBits(kind.matter == Matter::Solid ? 1 : kind.opacity) << 16 | eightBits(kind.grain * 2) << 24);
        const auto first = static_cast<std::uint32_t>(shapes.size());
        if (kind.shape) {
            const TriangleList shape = shapeTriangles(*kind.shape, static_cast<Material>(m));
            for (const std::uint32_t index : shape.indices)
                shapes.push_back(shape.vertices[index]);
        }
        m_shapeOf.push_back({first, static_cast<std::uint32_t>(shapes.size()) - first});
    }
    m_words.setList(words, GL_STATIC_DRAW);
    glTextureBuffer(m_wordTexture.id(), GL_R32UI, m_words.id());
    m_shapes.set(shapes.data(), shapes.size() * sizeof(MeshVertex), GL_STATIC_DRAW);
}

} // namespace fell::gpu
